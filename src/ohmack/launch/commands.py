"""The launcher's commands, inside the virtual environment."""

from __future__ import annotations

import errno
import fcntl
import json
import os
import signal
import socket
import subprocess
import sys
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from ohmack.launch.environment import ROOT
from ohmack.launch.keeping import USAGE, keep
from ohmack.launch.mariadb import MariaDbServer
from ohmack.launch.system import SetupTrouble, fail, say, stopped
from ohmack.launch.watch import Watch

VAR = Path(os.environ.get("OHMACK_VAR") or ROOT / "var").absolute()
CONTRACT = "from importlinter.cli import lint_imports_command; lint_imports_command()"
CHECKS = [
    ["-m", "ruff", "check", "."],
    ["-m", "ruff", "format", "--check", "."],
    ["-m", "djlint", "src/ohmack/web", "--check"],  # without --quiet: it shows what it would change
    ["-m", "djlint", "src/ohmack/web", "--lint", "--quiet"],
    ["-m", "mypy"],
    ["-c", CONTRACT],
]
ENDINGS = (signal.SIGINT, signal.SIGTERM, signal.SIGHUP)


@contextmanager
def _only_one(address: str) -> Iterator[None]:
    """Hold the lock of this project folder.

    Raises:
        SetupTrouble: another Ohmack runs from this folder.
    """
    VAR.mkdir(mode=0o700, parents=True, exist_ok=True)
    if VAR.stat().st_uid == os.geteuid():
        VAR.chmod(0o700)  # customers' names and the database's password are in it
    with (VAR / "demo.lock").open("a+") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            lock.seek(0)
            raise SetupTrouble(
                f"Ohmack already runs from this folder: open {lock.read().strip() or 'its address'} in a browser, "
                "or stop it with Ctrl-C in its window first."
            ) from None
        lock.truncate(0)
        lock.write(address)
        lock.flush()
        yield


def _settings() -> Any:
    """The settings of the environment.

    Raises:
        SetupTrouble: one of them cannot be read.
    """
    from pydantic import ValidationError

    from ohmack.web.settings import Settings

    try:
        return Settings()
    except ValidationError as error:
        wrong = [
            f"OHMACK_{str(e['loc'][0]).upper()}={str(e['input'])[:40]}: {e['msg'][0].lower()}{e['msg'][1:]}."
            for e in error.errors()
        ]
        raise SetupTrouble("\n".join(wrong)) from None


def _check_port(host: str, port: int) -> None:
    try:
        family, kind, _, _, place = socket.getaddrinfo(host, port, type=socket.SOCK_STREAM)[0]
    except OSError:
        raise SetupTrouble(f"OHMACK_HOST={host} is no address of this machine.") from None
    with socket.socket(family, kind) as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(place)
        except PermissionError:
            raise SetupTrouble(f"Port {port} is the system's own. Choose one from 1024 on: OHMACK_PORT=8417.") from None
        except OSError as error:
            if error.errno != errno.EADDRINUSE:
                raise SetupTrouble(f"OHMACK_HOST={host} is no address of this machine.") from None
            raise SetupTrouble(
                f"Port {port} is taken by another program. Choose another one:\n\n"
                f"    OHMACK_PORT={port + 1 if port < 65535 else port - 1} ./ohmack demo"
            ) from None


def _check_open(settings: Any, database: Any) -> Any:
    """The settings to run with: others than this machine are let near only once people sign in.

    Returns:
        the settings, with every name added that this machine is reached by where it listens on all of them.
    """
    from ohmack.store.people import signs_in
    from ohmack.web.settings import is_loopback
    from ohmack.web.sign_in.phone import own_addresses

    if is_loopback(settings.host):
        return settings
    if not signs_in(database):
        print(
            "\n  Nobody signs in on this server yet: it listens on this machine only. Open it here, set up the owner,\n"
            f"  then start it again to be reached at {settings.host}.",
            file=sys.stderr, flush=True,
        )  # fmt: skip
        return settings.model_copy(update={"host": "127.0.0.1"})
    print(
        f"\n  Caution: Ohmack listens on {settings.host}, port {settings.port}, without TLS: who reads along in this\n"
        "  network reads passwords. Keep to a network of the shop's own, or put a proxy with TLS in front of it\n"
        "  (docs/operations.md).",
        file=sys.stderr, flush=True,
    )  # fmt: skip
    names = own_addresses() if settings.host in ("0.0.0.0", "::") else []
    return settings.model_copy(update={"allowed_hosts": ",".join([settings.allowed_hosts, *names])})


class Ending:
    """What SIGTERM and a closed terminal do: as Ctrl-C, they end the program and the database with it.

    While the server runs they only ask it to stop: an exception thrown into its loop may be lost in a callback.
    """

    def __init__(self) -> None:
        self.server: Any = None
        for number in ENDINGS[1:]:
            signal.signal(number, self._asked)

    def _asked(self, *_: object) -> None:
        if self.server is None:
            raise KeyboardInterrupt
        self.server.force_exit = self.server.should_exit
        self.server.should_exit = True

    def run(self, server: Any) -> None:
        """Serve until asked to stop."""
        self.server = server
        server.run()

    @staticmethod
    def ignore() -> None:
        """From here on nothing interrupts: what is being stopped is not stopped halfway."""
        for number in ENDINGS:
            signal.signal(number, signal.SIG_IGN)


def demo() -> int:
    """Database, migrations, demo shop, application; Ctrl-C stops all of it."""
    settings = _settings()
    address = f"http://{settings.host}:{settings.port}/"
    with _only_one(address):
        _check_port(settings.host, settings.port)
        from ohmack.demo.load import load_demo  # only now: what is wrong is said at once
        from ohmack.demo.people import demo_people
        from ohmack.store.database import Database
        from ohmack.store.migrate import migrate
        from ohmack.web.app import create_app
        from ohmack.web.serving import server_for

        ending = Ending()
        server = MariaDbServer(VAR / "mariadb")
        watch = Watch(server)
        try:
            server.start()
            watch.start()
            settings = settings.model_copy(
                update={"database_host": "127.0.0.1", "database_port": server.port, "database_user": "ohmack",
                        "database_name": "ohmack", "database_password": server.password}
            )  # fmt: skip
            say("Applying migrations")
            migrate(settings.database)
            database = Database(settings.database)
            if load_demo(database):
                say("Loading the demo shop")
            people = demo_people(database, VAR / "demo-people.json")
            running = _demo_bench(database)
            settings = _check_open(settings, database)
            database.close()
            _say_who(people)
            print(f"\n  Ohmack is ready: {address}\n  Ctrl-C stops it.\n", flush=True)
            try:
                ending.run(server_for(create_app(settings), settings.host, settings.port, settings.log))
            finally:
                running.stop()
        except KeyboardInterrupt:
            pass
        finally:
            ending.ignore()
            say("Stopping MariaDB")
            watch.end()
            server.stop()
    return 0


def _say_who(people: Sequence[Any]) -> None:
    """Who signs in to the demo, and how: the passwords are this folder's own."""
    if people:
        print("\n  Sign in as one of the demo's people:\n")
        width = max(len(p.login) for p in people)
        for p in people:
            print(f"    {p.login:<{width}}  {p.password}   {p.name}, {p.role}, {p.shop}")


def _demo_bench(database: Any) -> Any:
    """The simulated bench beside the demo shop, which finds its instruments there."""
    from ohmack.instruments.running import RunningBench
    from ohmack.store.context import BUILT_IN
    from ohmack.store.instruments import InstrumentKind, InstrumentRecord, InstrumentStore

    running = RunningBench(0)
    names = ("Bench multimeter", "Bench analyser", "Bench source")
    for kind, port, name in zip(InstrumentKind, running.start(), names, strict=True):
        InstrumentStore(database).put(BUILT_IN, InstrumentRecord(kind, f"127.0.0.1:{port}", f"Ohmack {name}"))
    return running


def bench() -> int:
    """The simulated bench by itself, until it is stopped."""
    from ohmack.instruments.running import PORT, RunningBench

    port = int(os.environ.get("OHMACK_BENCH_PORT", str(PORT)))
    try:
        running = RunningBench(port)
        ports = running.start()
    except OSError:
        raise SetupTrouble(f"Port {port} or one of the two after it is taken: OHMACK_BENCH_PORT=5125.") from None
    for name, where in zip(("multimeter", "analyser", "source"), ports, strict=True):
        print(f"  {name:<11} 127.0.0.1:{where}   TCPIP::127.0.0.1::{where}::SOCKET")
    print("\n  Enter them under Prove, Instruments. Ctrl-C stops the bench.\n", flush=True)
    try:
        signal.pause()
    except KeyboardInterrupt:
        pass
    finally:
        running.stop()
    return 0


def serve(arguments: list[str]) -> int:
    """The application with settings from the environment; `--workers N` serves by so many processes."""
    settings = _settings()
    if arguments:
        if len(arguments) != 2 or arguments[0] != "--workers" or not arguments[1].isdigit():
            print("usage: ./ohmack serve [--workers N]", file=sys.stderr)
            return 2
        os.environ["OHMACK_WORKERS"] = arguments[1]
        settings = _settings()
    from ohmack.launch.serving import serve_on
    from ohmack.store.backup import half_restored
    from ohmack.store.database import Database
    from ohmack.store.migrate import migrate

    try:
        half = half_restored(settings.database)
        if not half:
            migrate(settings.database)
    except Exception as error:
        raise SetupTrouble(
            f"The database at {settings.database_host}:{settings.database_port} cannot be used: {error}\n"
            "Set OHMACK_DATABASE_HOST, _PORT, _USER, _PASSWORD and _NAME."
        ) from None
    if half:
        raise SetupTrouble("A restore into this database was interrupted. Run it again: ./ohmack restore FILE")
    _check_port(settings.host, settings.port)
    database = Database(settings.database)
    settings = _check_open(settings, database)
    database.close()
    serve_on(settings, VAR)
    return 0


def evaluate_file(path: str) -> int:
    """Print an evaluation: 0 clean, 1 stops found, 2 bad file."""
    from ohmack.core.errors import BadDocument
    from ohmack.core.evaluation.door import evaluate
    from ohmack.core.figures.finding import Severity
    from ohmack.formats.design_file import read_design
    from ohmack.formats.report import report

    try:
        design = read_design(Path(path).read_bytes())
    except OSError as error:
        print(f"{path}: {error.strerror}", file=sys.stderr)
        return 2
    except BadDocument as error:
        for place, reason in error.places:
            print(f"{path}: {place}: {reason}", file=sys.stderr)
        return 2
    evaluation = evaluate(design, sweep_facts=True)
    print(json.dumps(report(evaluation), indent=2, ensure_ascii=False))
    return 1 if evaluation.count(Severity.STOP) else 0


def run_tests(arguments: list[str]) -> int:
    """Style, types, import contract, then every test on two workers; with arguments only pytest."""
    environment = os.environ | {"PYTHONPATH": str(ROOT / "src"), "PYTHONPYCACHEPREFIX": str(VAR / "bytecode")}
    environment.pop("PYTHONDONTWRITEBYTECODE", None)  # some dozen processes start; compiling takes each over a second
    if arguments == ["cluster"]:
        environment["OHMACK_CLUSTER"] = "yes"
        arguments = ["tests/cluster", "-s"]
    if not arguments and (failed := _checked(environment)):
        return failed
    shared = arguments or ["-n", "2", "--dist", "worksteal"]
    return subprocess.run([sys.executable, "-m", "pytest", *shared], cwd=ROOT, env=environment, check=False).returncode


def _checked(environment: dict[str, str]) -> int:
    """Style, types and import contract; 0 where all hold. Beside them the tests are compiled, which each of the workers
    would do again: half a minute in a fresh folder.
    """
    compiling = subprocess.Popen(
        [sys.executable, "-m", "pytest", "--collect-only", "-qq", "-p", "no:cacheprovider"], cwd=ROOT, env=environment,
        stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
    )  # fmt: skip
    try:
        for check in CHECKS:
            say("import contract" if check[1] == CONTRACT else " ".join(check[1:]))
            done = subprocess.run(
                [sys.executable, *check], cwd=ROOT, env=environment, check=False, capture_output=True, text=True
            )
            if done.returncode:
                print(done.stdout, done.stderr, sep="\n")
                return done.returncode
        compiling.wait()  # what it finds wrong the tests say again
    finally:
        compiling.kill()
    return 0


def main(arguments: list[str]) -> int:
    """Dispatch one command."""
    command, rest = arguments[0], arguments[1:]
    try:
        if command == "demo":
            return demo()
        if command == "serve":
            return serve(rest)
        if command in USAGE:
            return keep(command, rest, VAR, _settings())
        if command == "bench":
            return bench()
        if command == "test":
            return run_tests(rest)
        if command == "benchmark":
            return subprocess.run(
                [sys.executable, str(ROOT / "tests/benchmarks/table.py")], cwd=ROOT, check=False
            ).returncode
        if command == "evaluate" and len(rest) == 1:
            return evaluate_file(rest[0])
    except (SetupTrouble, OSError) as trouble:
        if command not in USAGE:
            return fail(trouble)
        print(f"\n{trouble}", file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        return stopped()
    print("usage: ./ohmack evaluate FILE", file=sys.stderr)
    return 2


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
