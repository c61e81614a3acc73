"""The launcher's commands, inside the virtual environment."""

from __future__ import annotations

import fcntl
import json
import os
import socket
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from ohmack.launch.environment import ROOT
from ohmack.launch.mariadb import MariaDbServer
from ohmack.launch.system import SetupTrouble, fail, say

VAR = Path(os.environ.get("OHMACK_VAR", ROOT / "var"))


@contextmanager
def _only_one(address: str) -> Iterator[None]:
    """Hold the lock of this project folder.

    Raises:
        SetupTrouble: another Ohmack runs from this folder.
    """
    VAR.mkdir(exist_ok=True)
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


def _check_port(host: str, port: int) -> None:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host, port))
        except OSError:
            raise SetupTrouble(
                f"Port {port} is taken by another program. Choose another one:\n\n    OHMACK_PORT={port + 1} ./ohmack demo"
            ) from None


def demo() -> int:
    """Database, migrations, demo shop, application; Ctrl-C stops all of it."""
    from ohmack.demo.load import load_demo
    from ohmack.store.database import Database, migrate
    from ohmack.web.app import create_app
    from ohmack.web.serving import server_for
    from ohmack.web.settings import Settings

    settings = Settings()
    address = f"http://{settings.host}:{settings.port}/"
    with _only_one(address):
        _check_port(settings.host, settings.port)
        server = MariaDbServer(VAR / "mariadb")
        server.start()
        try:
            settings = settings.model_copy(
                update={"database_host": "127.0.0.1", "database_port": server.port, "database_user": "ohmack",
                        "database_name": "ohmack", "database_password": server.password}
            )  # fmt: skip
            say("Applying migrations")
            migrate(settings.database)
            database = Database(settings.database)
            if load_demo(database):
                say("Loading the demo shop")
            database.close()
            print(f"\n  Ohmack is ready: {address}\n  Ctrl-C stops it.\n", flush=True)
            server_for(create_app(settings), settings.host, settings.port).run()
        except KeyboardInterrupt:
            pass
        finally:
            say("Stopping MariaDB")
            server.stop()
    return 0


def serve() -> int:
    """The application with settings from the environment."""
    from ohmack.store.database import migrate
    from ohmack.web.app import create_app
    from ohmack.web.serving import server_for
    from ohmack.web.settings import Settings

    settings = Settings()
    try:
        migrate(settings.database)
    except Exception as error:
        raise SetupTrouble(
            f"The database at {settings.database_host}:{settings.database_port} cannot be used: {error}\n"
            "Set OHMACK_DATABASE_HOST, _PORT, _USER, _PASSWORD and _NAME."
        ) from None
    _check_port(settings.host, settings.port)
    server_for(create_app(settings), settings.host, settings.port, "info").run()
    return 0


def evaluate_file(path: str) -> int:
    """Print an evaluation: 0 clean, 1 stops found, 2 bad file."""
    from ohmack.core.errors import BadDocument
    from ohmack.core.evaluate import evaluate
    from ohmack.core.rules import Severity
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
    binaries = Path(sys.executable).parent
    environment = os.environ | {"PYTHONPATH": str(ROOT / "src")}
    checks = (
        [] if arguments else [["ruff", "check", "."], ["ruff", "format", "--check", "."], ["mypy"], ["lint-imports"]]
    )
    for check in checks:
        say(" ".join(check))
        done = subprocess.run(
            [binaries / check[0], *check[1:]], cwd=ROOT, env=environment, check=False, capture_output=True, text=True
        )
        if done.returncode:
            print(done.stdout, done.stderr, sep="\n")
            return done.returncode
    shared = arguments or ["-n", "2", "--dist", "worksteal"]
    return subprocess.run([sys.executable, "-m", "pytest", *shared], cwd=ROOT, env=environment, check=False).returncode


def main(arguments: list[str]) -> int:
    """Dispatch one command."""
    command, rest = arguments[0], arguments[1:]
    try:
        if command == "demo":
            return demo()
        if command == "serve":
            return serve()
        if command == "test":
            return run_tests(rest)
        if command == "benchmark":
            return subprocess.run(
                [sys.executable, str(ROOT / "tests/benchmarks/table.py")], cwd=ROOT, check=False
            ).returncode
        if command == "evaluate" and len(rest) == 1:
            return evaluate_file(rest[0])
    except SetupTrouble as trouble:
        return fail(trouble)
    print("usage: ./ohmack evaluate FILE", file=sys.stderr)
    return 2


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
