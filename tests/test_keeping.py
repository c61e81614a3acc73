"""Commands that look after what is stored, serving by several processes, the nightly backup."""

from __future__ import annotations

import json
import os
import re
import socket
import subprocess
import sys
import time
import urllib.request
from collections.abc import Callable
from datetime import date, timedelta
from pathlib import Path

import pytest

from ohmack.formats.backup_file import verify_backup
from ohmack.launch.mariadb import MariaDbServer, free_port
from ohmack.launch.nightly import Nightly
from ohmack.store.context import BUILT_IN
from ohmack.store.database import Database, DatabaseSettings
from ohmack.store.designs import DesignStore
from ohmack.store.sessions import From, SessionStore
from ohmack.web.serving import several

ROOT = Path(__file__).resolve().parents[1]
COMMANDS = [sys.executable, "-m", "ohmack.launch.commands"]
GOOD = "copper lugs and heat shrink"
Run = Callable[..., subprocess.CompletedProcess[str]]


@pytest.fixture
def run(tmp_path: Path) -> Run:
    """A command on a folder of its own, or on the database named."""

    def run(*words: str, **settings: str) -> subprocess.CompletedProcess[str]:
        environment = os.environ | {"PYTHONPATH": "src", "OHMACK_VAR": str(tmp_path / "var")} | settings
        return subprocess.run(
            [*COMMANDS, *words], cwd=ROOT, env=environment, capture_output=True, text=True, timeout=120, check=False
        )

    return run


def named(settings: DatabaseSettings) -> dict[str, str]:
    return {"OHMACK_DATABASE_PORT": str(settings.port), "OHMACK_DATABASE_PASSWORD": settings.password}


def test_from_a_backup_to_a_folder_of_its_own(
    run: Run, settings: DatabaseSettings, database: Database, tmp_path: Path
) -> None:
    file = str(tmp_path / "shop.backup")
    made = run("backup", file, **named(settings))
    assert made.returncode == 0, made.stderr
    assert "is whole" in run("verify", file).stdout
    restored = run("restore", file)
    assert restored.returncode == 0, restored.stderr
    again = run("restore", file)
    assert again.returncode == 1
    assert "is not empty" in again.stderr
    assert "could not start" not in again.stderr
    link = run("way-in", "tester")
    token = re.search(r"/join/([\w-]{43})", link.stdout)
    assert token, link.stderr
    server = MariaDbServer(tmp_path / "var" / "mariadb", quiet=True, fast=True)
    server.start()
    try:
        place = Database(DatabaseSettings("127.0.0.1", server.port, "ohmack", server.password))
        assert DesignStore(place).count_jobs(BUILT_IN) == DesignStore(database).count_jobs(BUILT_IN)
        SessionStore(place).use_link(token[1], GOOD)
        assert SessionStore(place).sign_in("tester", GOOD, From())
        opened = run("shop", "Further Shop", "Odo", "odo")  # beside a server that runs
        assert "/join/" in opened.stdout, opened.stderr
        assert server.running
        taken = run("shop", "Yet Another", "Odo", "odo")
        assert "signs in with that name" in taken.stderr
    finally:
        server.stop()


@pytest.mark.parametrize(
    ("words", "code", "said"),
    [
        (("backup",), 2, "usage: ./ohmack backup FILE"), (("verify", "a", "b"), 2, "usage"),
        (("shop", "A", "B", " "), 2, "usage"), (("verify", "/nowhere/x"), 1, "There is no file"),
        (("verify", __file__), 1, "no whole backup"), (("backup", "/nowhere/x"), 1, "nowhere"),
        (("way-in", "nobody-at-all"), 1, "Nobody signs in as"), (("serve", "--workers"), 2, "usage"),
        (("serve", "--workers", "0"), 1, "OHMACK_WORKERS=0"),
    ],
)  # fmt: skip
def test_what_cannot_be_done_is_a_plain_sentence(
    run: Run, settings: DatabaseSettings, database: Database, words: tuple[str, ...], code: int, said: str
) -> None:
    done = run(*words, **named(settings))
    assert (done.returncode, said in done.stderr) == (code, True), done.stderr
    assert "Traceback" not in done.stderr


def fetched(address: str) -> bytes:
    try:
        with urllib.request.urlopen(address, timeout=10) as answer:
            return bytes(answer.read())
    except OSError:
        return b""


def test_two_processes_serve_one_shop_and_write_what_they_did(
    settings: DatabaseSettings, database: Database, tmp_path: Path
) -> None:
    """A session begun in one is known in the other, as nothing is kept in a process; no token is in the log."""
    port = free_port()
    base = f"http://127.0.0.1:{port}"
    environment = os.environ | named(settings) | {
        "PYTHONPATH": "src", "OHMACK_PORT": str(port), "OHMACK_VAR": str(tmp_path), "OHMACK_SUMMARIES": "no",
        "OHMACK_LOG": "json", "OHMACK_BACKUP_FOLDER": str(tmp_path / "nightly"), "OHMACK_BACKUP_AT": "00:00",
    }  # fmt: skip
    database.run(lambda c: c.cursor().execute("UPDATE chores SET last_day = '2000-01-01'"))
    token = SessionStore(database).begin(BUILT_IN, 1, From())
    log = tmp_path / "log"
    with log.open("w") as out:
        served = subprocess.Popen(
            [*COMMANDS, "serve", "--workers", "2"], cwd=ROOT, env=environment, stdout=out, stderr=out
        )
        try:
            deadline = time.monotonic() + 60
            while fetched(f"{base}/health") != b"ok\n":
                assert time.monotonic() < deadline, log.read_text()
                time.sleep(0.2)
            assert json.loads(fetched(f"{base}/ready")) == {"ready": True}
            for _ in range(12):  # each connection goes to whichever is free
                asked = urllib.request.Request(f"{base}/customers", headers={"Cookie": f"ohmack={token}"})
                with urllib.request.urlopen(asked, timeout=20) as answer:
                    assert b"<h1>Customers</h1>" in answer.read()
            fetched(f"{base}/join/{'secret' * 7}")
            counted = fetched(f"{base}/metrics").decode()
            assert re.search(r'ohmack_answers_total\{method="GET",route="/customers",status="200"\} 12\.0', counted)
            made = tmp_path / "nightly" / f"ohmack-{date.today().isoformat()}.backup"
            while not made.exists():
                assert time.monotonic() < deadline, log.read_text()
                time.sleep(0.2)
            assert verify_backup(made).tables["jobs"].rows > 10
        finally:
            served.terminate()
            assert served.wait(20) == 0
    lines = [json.loads(line) for line in log.read_text().splitlines() if line.startswith("{")]
    asked_for = [line for line in lines if line.get("route") == "/customers"]
    assert len(asked_for) == 12
    assert {"method": "GET", "status": 200, "shop": 1, "person": 1}.items() <= asked_for[0].items()
    assert asked_for[0]["ms"] > 0
    whole = log.read_text()
    assert "secretsecret" not in whole
    assert token not in whole


def test_answers_of_several_processes_do_not_wait_to_be_sent() -> None:
    """Without TCP_NODELAY (tcp(7)) the second piece of an answer waits for the first to be acknowledged: 40 ms."""
    (shared,) = several("ohmack.web.app:from_environment", "127.0.0.1", 0, 2, "text").sockets
    with shared:
        shared.listen()
        with socket.create_connection(shared.getsockname()):
            accepted, _ = shared.accept()
            with accepted:
                assert accepted.getsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY)


def test_the_nightly_backup_is_made_once_and_the_oldest_go(
    settings: DatabaseSettings, database: Database, tmp_path: Path
) -> None:
    nightly = Nightly(settings, tmp_path / "kept", "02:30", 2)
    first = date(2041, 1, 1)
    for n in range(3):
        assert nightly.make(first + timedelta(n))
        assert nightly.make(first + timedelta(n)) is None
    assert [p.name for p in sorted((tmp_path / "kept").iterdir())] == [f"ohmack-2041-01-0{n}.backup" for n in (2, 3)]
    assert Nightly(settings, Path("/proc/nowhere"), "02:30", 2).make(first + timedelta(9)) is None, (
        "it fails in the log"
    )
    assert nightly.make(first + timedelta(9)), "and another machine makes it"
