"""A private MariaDB on loopback, its data in a folder of the project. Standard library only."""

from __future__ import annotations

import contextlib
import getpass
import os
import secrets
import shutil
import signal
import socket
import subprocess
import time
from pathlib import Path

from ohmack.launch.system import SetupTrouble, find_program, say

START_SECONDS = 60
STOP_SECONDS = 30
LEAST_FREE_BYTES = 64 << 20  # below this MariaDB cannot write its logs


def free_port() -> int:
    """A port nobody listens on right now."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def _tied() -> list[str]:
    """What to put before a command so that it is told to stop when this process dies, however it dies."""
    program = find_program("setpriv")
    return [program, "--pdeathsig", "TERM", "--"] if program else []


class MariaDbServer:
    """One server with its data in `home`; start() and stop() leave nothing behind but the data."""

    def __init__(self, home: Path, quiet: bool = False, fast: bool = False) -> None:
        self.home = home
        self.data = home / "data"
        self.port = 0
        self.quiet = quiet
        self.fast = fast
        self.process: subprocess.Popen[bytes] | None = None

    @property
    def password(self) -> str:
        """The password of the application's user; made once."""
        file = self.home / "password"
        if not file.exists():
            self._make_home()
            file.touch(mode=0o600)
            file.write_text(secrets.token_urlsafe(24))
        return file.read_text().strip()

    def _say(self, text: str) -> None:
        if not self.quiet:
            say(text)

    def _make_home(self) -> None:
        """The folder with data and password is nobody else's to read."""
        self.home.mkdir(mode=0o700, parents=True, exist_ok=True)

    @property
    def running(self) -> bool:
        """Whether the server that was started is still there."""
        return self.process is not None and self.process.poll() is None

    @property
    def _scratch(self) -> Path:
        """Its own folder for temporary tables: a starting server clears away what it finds of others in a shared
        one.
        """
        folder = self.home / "tmp"
        folder.mkdir(parents=True, exist_ok=True)
        return folder

    def _prepare(self) -> None:
        """Make the data folder beside its place and rename it when it is whole: a run that is killed leaves none
        half made.
        """
        for unfinished in self.home.glob("data.new-*"):
            shutil.rmtree(unfinished, ignore_errors=True)
        if (self.data / "mysql").is_dir():
            return
        installer = find_program("mariadb-install-db")
        if installer is None:
            raise SetupTrouble("MariaDB is installed without mariadb-install-db; install the package mariadb-server.")
        self._say("Preparing the database folder (once)")
        made = self.home / f"data.new-{os.getpid()}"
        made.mkdir(mode=0o700)
        command = [installer, "--no-defaults", f"--datadir={made}", "--skip-test-db", "--skip-name-resolve",
                   "--auth-root-authentication-method=socket", f"--user={getpass.getuser()}"]  # fmt: skip
        surroundings = os.environ | {"TMPDIR": str(self._scratch)}
        done = subprocess.run(command, capture_output=True, text=True, check=False, env=surroundings)
        if done.returncode:
            shutil.rmtree(made, ignore_errors=True)
            raise SetupTrouble(
                "The database folder could not be prepared in"
                f" {self.home}.{self._no_room()}\n{done.stderr.strip()[-400:]}"
            )
        shutil.rmtree(self.data, ignore_errors=True)  # without its system tables there is nothing in it to keep
        made.rename(self.data)

    def _no_room(self) -> str:
        """A sentence where the disk is full; else nothing."""
        with contextlib.suppress(OSError):
            free = shutil.disk_usage(self.home).free
            if free < LEAST_FREE_BYTES:
                return f" The disk of {self.home} is full ({free >> 20} MB free): make room."
        return ""

    def _is_ours(self, pid: int) -> bool:
        """Whether a process is a MariaDB on exactly this data folder; a copied pid file of another folder proves
        nothing.
        """
        try:
            words = Path(f"/proc/{pid}/cmdline").read_bytes().split(b"\0")
            folder = next(w for w in words if w.startswith(b"--datadir=")).removeprefix(b"--datadir=")
            return Path(os.fsdecode(words[0])).name == "mariadbd" and os.path.samefile(os.fsdecode(folder), self.data)
        except (OSError, StopIteration):
            return False

    def port_in_use(self) -> int:
        """The port of a server that runs on this data; 0 where none does."""
        with contextlib.suppress(OSError, ValueError):
            if self._is_ours(int((self.home / "mariadb.pid").read_text())):
                return int((self.home / "port").read_text())
        return 0

    def stop_left_over(self) -> None:
        """Stop a server that an earlier run left on this data."""
        with contextlib.suppress(OSError, ValueError):
            pid = int((self.home / "mariadb.pid").read_text())
            if self._is_ours(pid):
                self._say("A database from an earlier run is still running; stopping it first")
                os.kill(pid, signal.SIGTERM)
                deadline = time.monotonic() + STOP_SECONDS
                while self._is_ours(pid) and time.monotonic() < deadline:
                    time.sleep(0.1)

    def start(self) -> None:
        """Start on a free port and wait until it answers.

        Raises:
            SetupTrouble: it did not come up; the message shows the end of its log.
        """
        self.start_on(free_port())

    def start_on(self, port: int) -> None:
        """Start on a port and wait until it answers.

        Raises:
            SetupTrouble: it did not come up; the message shows the end of its log.
        """
        program = find_program("mariadbd")
        if program is None:
            raise SetupTrouble("MariaDB is not installed: sudo apt-get install mariadb-server")
        self._make_home()
        self.stop_left_over()
        self._prepare()
        self._say("Starting MariaDB on loopback")
        self.port = port
        (self.home / "port").write_text(str(port))
        init = self.home / "init.sql"
        init.touch(mode=0o600)
        init.write_text(
            "CREATE DATABASE IF NOT EXISTS ohmack CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci;\n"
            f"CREATE USER IF NOT EXISTS 'ohmack'@'127.0.0.1' IDENTIFIED BY '{self.password}';\n"
            f"ALTER USER 'ohmack'@'127.0.0.1' IDENTIFIED BY '{self.password}';\n"
            "GRANT ALL ON ohmack.* TO 'ohmack'@'127.0.0.1';\n"
        )
        log = self.home / "mariadb.log"
        command = [
            *_tied(),
            program,
            "--no-defaults",
            f"--datadir={self.data}",
            f"--port={self.port}",
            "--bind-address=127.0.0.1",
            "--socket=s",
            f"--pid-file={self.home / 'mariadb.pid'}",
            f"--log-error={log}",
            f"--tmpdir={self._scratch}",
            f"--init-file={init}",
            "--skip-name-resolve",
            "--character-set-server=utf8mb4",
            "--collation-server=utf8mb4_unicode_ci",
            "--innodb-buffer-pool-size=64M",
            "--skip-log-bin",
            f"--user={getpass.getuser()}",
        ]
        if self.fast:  # throwaway data: no need to survive a power cut
            command += [
                "--innodb-flush-log-at-trx-commit=0",
                "--innodb-flush-method=nosync",
                "--skip-innodb-doublewrite",
            ]
        self.process = subprocess.Popen(
            command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, start_new_session=True
        )
        deadline = time.monotonic() + START_SECONDS
        while time.monotonic() < deadline:
            if self.process.poll() is not None:
                break
            with contextlib.suppress(OSError), socket.create_connection(("127.0.0.1", self.port), timeout=1) as probe:
                if probe.recv(1):
                    return
            time.sleep(0.1)
        tail = log.read_text(errors="replace")[-600:] if log.exists() else ""
        self.stop()
        raise SetupTrouble(f"MariaDB did not start.{self._no_room()} The end of its log ({log}):\n{tail}")

    def stop(self) -> None:
        """Stop cleanly; data stay."""
        if self.process is not None and self.process.poll() is None:
            self.process.terminate()
            try:
                self.process.wait(STOP_SECONDS)
            except subprocess.TimeoutExpired:
                self.process.kill()
                self.process.wait()
        self.process = None
