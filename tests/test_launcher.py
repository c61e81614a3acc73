"""The launcher as a person meets it: commands, exit codes, plain sentences when something is in the way."""

from __future__ import annotations

import errno
import json
import os
import re
import signal
import socket
import stat
import subprocess
import sys
import time
import urllib.request
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from urllib.parse import urlencode

import pytest

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.formats.design_file import write_design
from ohmack.launch import commands, environment, system
from ohmack.launch.mariadb import MariaDbServer, free_port
from ohmack.launch.system import NEEDS, PACKAGES, SetupTrouble, ensure_programs, install
from ohmack.web.settings import Settings

ROOT = Path(__file__).resolve().parents[1]


def ohmack(*words: str) -> subprocess.CompletedProcess[str]:
    command = [sys.executable, "-m", "ohmack.launch.commands", *words]
    return subprocess.run(
        command,
        cwd=ROOT,
        capture_output=True,
        text=True,
        env=os.environ | {"PYTHONPATH": "src"},
        timeout=120,
        check=False,
    )


def test_evaluate_exit_codes(estate: Design, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    file = tmp_path / "design.json"
    file.write_bytes(write_design(estate))
    clean = ohmack("evaluate", str(file))
    assert clean.returncode == 0
    report = json.loads(clean.stdout)
    assert report["verdict"]["headline"] == "Ready to order"
    drop = next(f for f in report["figures"] if f["id"] == "amp/drop_v")
    assert drop["inputs"]
    assert 0.3 < drop["value"] < 0.5
    file.write_bytes(write_design(apply_edits(estate, [Edit(path="links/power-amp/fuse", value=None)])))
    stopped = ohmack("evaluate", str(file))
    assert stopped.returncode == 1
    assert "fuse-missing" in stopped.stdout
    file.write_text("{")
    assert commands.main(["evaluate", str(file)]) == 2
    assert "not JSON" in capsys.readouterr().err
    assert commands.main(["evaluate", "/nowhere"]) == 2
    assert commands.main(["evaluate"]) == 2


def test_usage() -> None:
    done = subprocess.run([ROOT / "ohmack", "nonsense"], capture_output=True, text=True, check=False)
    assert done.returncode == 2
    assert "usage" in done.stderr


def test_a_bare_machine_gets_what_each_command_wants(monkeypatch: pytest.MonkeyPatch) -> None:
    """A machine that has a program by chance never looks up its package; a bare one looks up all of them."""
    monkeypatch.setattr(system, "find_program", lambda name: None)
    asked: list[str] = []
    monkeypatch.setattr(system, "install", asked.extend)
    for names in NEEDS.values():
        ensure_programs(names)
    assert set(asked) == set(PACKAGES.values())
    used = (ROOT / "tests" / "browser" / "conftest.py").read_text()
    assert any(f'shutil.which("{name}")' in used for name in NEEDS["test"])
    usage = subprocess.run([ROOT / "ohmack", "help"], capture_output=True, text=True, check=True).stdout
    assert all(f"\n  {command} " in usage for command in NEEDS)


def test_no_right_to_install_is_a_plain_sentence(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(system, "_as_root", lambda: None)
    monkeypatch.setattr(
        system.shutil, "which", lambda name, path=None: "/usr/bin/apt-get" if name == "apt-get" else None
    )
    with pytest.raises(SetupTrouble, match="sudo apt-get install mariadb-server"):
        ensure_programs(["mariadbd"])
    monkeypatch.setattr(system.shutil, "which", lambda name, path=None: None)
    with pytest.raises(SetupTrouble, match="by hand"):
        install(["ngspice"])


def test_a_python_compiled_without_its_profile_gives_way_to_the_systems_own(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    own = tmp_path / "python3"

    def stands_there(*lines: str) -> None:
        own.write_text("\n".join(["#!/bin/sh", *lines, ""]))
        own.chmod(0o755)

    monkeypatch.setattr(environment, "OF_THE_SYSTEM", own)
    monkeypatch.setattr(environment.sysconfig, "get_config_var", lambda name: "'--enable-shared'")
    assert environment.faster_python() is None  # nothing is there
    stands_there("exit 1")  # too old, or without venv
    assert environment.faster_python() is None
    stands_there(f'exec {sys.executable} "$@"')  # a stand-in: taken, it would be taken again and again
    assert environment.faster_python() is None
    stands_there("exit 0")
    assert environment.faster_python() == own
    monkeypatch.setattr(environment.sysconfig, "get_config_var", lambda name: "'--enable-optimizations'")
    assert environment.faster_python() is None
    monkeypatch.undo()
    monkeypatch.setattr(environment, "OF_THE_SYSTEM", Path(sys.executable))
    assert environment.faster_python() is None


def test_an_environment_of_another_python_is_made_anew(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    other = tmp_path / "bin" / "python"
    other.parent.mkdir()
    other.symlink_to("/bin/true")  # answers that it has pip
    asked: list[str] = []

    def made() -> None:
        asked.append("anew")
        raise SetupTrouble

    monkeypatch.setattr(environment, "VENV", tmp_path)
    monkeypatch.setattr(environment, "PYTHON", other)
    monkeypatch.setattr(environment, "_make_venv", made)
    with pytest.raises(SetupTrouble):
        environment.ensure_environment(["app"])
    assert asked == ["anew"]


def test_a_left_over_database_is_stopped_first(tmp_path: Path) -> None:
    first = MariaDbServer(tmp_path / "db", quiet=True, fast=True)
    first.start()
    assert first.process
    second = MariaDbServer(tmp_path / "db", quiet=True, fast=True)
    second.start()
    try:
        assert first.process.wait(30) is not None
        assert second.process
        assert second.process.poll() is None
    finally:
        second.stop()
        first.stop()


COMMANDS = [sys.executable, "-m", "ohmack.launch.commands"]


def answers(address: str, words: bytes = b"") -> bool:
    try:
        with urllib.request.urlopen(address, timeout=5) as answer:
            return words in answer.read()
    except OSError:
        return False


def signed_in_to(address: str, login: str, password: str) -> urllib.request.OpenerDirector:
    """Who signs in by the page's own form, with the password the terminal shows."""
    made = urllib.request.build_opener(urllib.request.HTTPCookieProcessor())
    token = re.search(rb'name="form_token" value="(\w+)"', made.open(address + "sign-in", timeout=20).read())
    assert token
    fields = {"login": login, "password": password, "form_token": token[1].decode()}
    request = urllib.request.Request(address + "sign-in", urlencode(fields).encode(), {"Origin": address.rstrip("/")})
    made.open(request, timeout=20).close()
    return made


def wait_for(what: Callable[[], bool], words: str) -> None:
    deadline = time.monotonic() + 90
    while not what():
        assert time.monotonic() < deadline, words
        time.sleep(0.1)


@contextmanager
def running_demo(folder: Path, port: int) -> Iterator[tuple[subprocess.Popen[bytes], Path]]:
    environment = os.environ | {"PYTHONPATH": "src", "OHMACK_PORT": str(port), "OHMACK_VAR": str(folder / "var")}
    environment |= {"PYTHONFAULTHANDLER": "1", "OHMACK_SUMMARIES": "no"}
    log = folder / "log"
    with log.open("w") as out:
        demo = subprocess.Popen([*COMMANDS, "demo"], cwd=ROOT, env=environment, stdout=out, stderr=subprocess.STDOUT)
        try:
            yield demo, log
        finally:
            demo.kill()
            demo.wait()


def ended(demo: subprocess.Popen[bytes], log: Path) -> int:
    """How it ended; one that does not end says where each of its threads is."""
    try:
        return demo.wait(40)
    except subprocess.TimeoutExpired:
        demo.send_signal(signal.SIGABRT)
        demo.wait()
        raise AssertionError(log.read_text()) from None


def database_of(folder: Path) -> int:
    return int((folder / "var/mariadb/mariadb.pid").read_text())


def test_demo_in_a_fresh_folder(tmp_path: Path) -> None:
    """Killed while it prepares, it starts all the same; a second start and a taken port say why; a database that
    dies is started again; Ctrl-C stops both.
    """
    port = free_port()
    address = f"http://127.0.0.1:{port}/"
    with running_demo(tmp_path, port) as (demo, log):
        wait_for(lambda: bool(list((tmp_path / "var/mariadb").glob("data.new-*/*"))), "it prepares")
        demo.kill()
        demo.wait()
    environment = os.environ | {"PYTHONPATH": "src", "OHMACK_PORT": str(port), "OHMACK_VAR": str(tmp_path / "var")}
    with running_demo(tmp_path, port) as (demo, log):
        wait_for(lambda: "Ohmack is ready" in log.read_text() and answers(address, b"Who is it?"), log.read_text())
        look = signed_in_to(address, *re.findall(r"^ +(odile) +(\S+)", log.read_text(), re.MULTILINE)[0])
        assert b"Nettlefold" in look.open(address, timeout=20).read()
        assert stat.S_IMODE((tmp_path / "var/demo-people.json").stat().st_mode) == 0o600
        assert (tmp_path / "var").stat().st_mode & 0o777 == 0o700
        second = subprocess.run(
            [*COMMANDS, "demo"], cwd=ROOT, env=environment, capture_output=True, text=True, timeout=60, check=False
        )
        assert second.returncode == 1
        assert f"already runs from this folder: open {address}" in second.stderr
        other = environment | {"OHMACK_VAR": str(tmp_path / "other")}
        taken = subprocess.run(
            [*COMMANDS, "demo"], cwd=ROOT, env=other, capture_output=True, text=True, timeout=60, check=False
        )
        assert taken.returncode == 1
        assert f"OHMACK_PORT={port + 1} ./ohmack demo" in taken.stderr
        first = database_of(tmp_path)
        os.kill(first, signal.SIGKILL)
        wait_for(lambda: "MariaDB answers again" in log.read_text(), log.read_text())
        wait_for(lambda: b"J-0401" in look.open(address + "jobs/J-0401/plan", timeout=20).read(), log.read_text())
        pid = database_of(tmp_path)
        assert pid != first
        demo.send_signal(signal.SIGINT)
        assert ended(demo, log) == 0
        assert not Path(f"/proc/{pid}").exists()
        with socket.socket() as probe:
            assert probe.connect_ex(("127.0.0.1", port)) != 0
        words = log.read_text()
    for step in ("Preparing the database", "Loading the demo shop", "Ohmack is ready", "stopped by itself", "Stopping"):
        assert step in words
    for number in (signal.SIGTERM, signal.SIGKILL):  # SIGHUP goes the way of SIGTERM
        with running_demo(tmp_path, port) as (demo, log):
            wait_for(lambda: answers(address), log.read_text())
            pid = database_of(tmp_path)
            demo.send_signal(number)
            assert ended(demo, log) == (-9 if number == signal.SIGKILL else 0)
            wait_for(lambda pid=pid: not Path(f"/proc/{pid}").exists(), f"{number} leaves the database running")  # type: ignore[misc]
    assert not list((tmp_path / "var/mariadb").glob("data.new-*"))


@pytest.mark.parametrize(
    ("name", "value", "words"),
    [
        ("OHMACK_PORT", "abc", "OHMACK_PORT=abc"), ("OHMACK_PORT", "99999", "OHMACK_PORT=99999"),
        ("OHMACK_HOST", "nowhere.invalid", "no address of this machine"),
        ("OHMACK_VAR", "/proc/nothing", "/proc/nothing"), ("OHMACK_VAR", __file__, "test_launcher.py"),
    ],
)  # fmt: skip
def test_a_bad_setting_is_a_plain_sentence(tmp_path: Path, name: str, value: str, words: str) -> None:
    environment = os.environ | {"PYTHONPATH": "src", "OHMACK_PORT": str(free_port()), "OHMACK_VAR": str(tmp_path / "v")}
    done = subprocess.run(
        [*COMMANDS, "demo"],
        cwd=ROOT,
        env=environment | {name: value},
        capture_output=True,
        text=True,
        timeout=60,
        check=False,
    )
    assert done.returncode == 1, done.stdout
    assert words in done.stderr
    assert "Traceback" not in done.stderr
    assert "Ohmack could not start" in done.stderr


def test_a_full_disk_and_a_folder_of_somebody_else_are_plain_sentences(capsys: pytest.CaptureFixture[str]) -> None:
    assert system.fail(OSError(errno.ENOSPC, "No space left on device", "/v/mariadb/password")) == 1
    assert system.fail(PermissionError(errno.EACCES, "Permission denied", "/v")) == 1
    words = capsys.readouterr().err
    assert "The disk is full: /v/mariadb/password" in words
    assert "OHMACK_VAR=FOLDER" in words


def test_a_copied_folder_runs_its_own_code_and_stops_no_other_database(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, mariadb: MariaDbServer
) -> None:
    copied = tmp_path / "copied"
    site = copied / ".venv/lib/python3.11/site-packages"
    site.mkdir(parents=True)
    (site / "ohmack.pth").write_text("/somewhere/else/src\n")
    monkeypatch.setattr(environment, "ROOT", copied)
    monkeypatch.setattr(environment, "VENV", copied / ".venv")
    environment._point_to_sources()
    way = (site / "ohmack.pth").read_text().strip()
    assert not Path(way).is_absolute()
    assert (site / way).resolve() == (copied / "src").resolve()
    assert mariadb.process
    home = tmp_path / "db"
    (home / "data").mkdir(parents=True)
    for named in (mariadb.process.pid, os.getpid()):  # the pid file came along with the copy
        (home / "mariadb.pid").write_text(str(named))
        MariaDbServer(home, quiet=True).stop_left_over()
        assert mariadb.running


def test_others_than_this_machine_are_let_near_only_once_people_sign_in(
    capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("ohmack.web.sign_in.phone.own_addresses", lambda: ["10.0.0.7"])
    for host, open_ in (("127.0.0.1", False), ("localhost", False), ("::1", False), ("0.0.0.0", True), ("shop", True)):
        for anybody in (False, True):
            monkeypatch.setattr("ohmack.store.people.signs_in", lambda _, there=anybody: there)
            made = commands._check_open(Settings(host=host), None)
            said = capsys.readouterr().err
            assert ("Nobody signs in" in said) is (open_ and not anybody), host
            assert ("without TLS" in said) is (open_ and anybody), host
            assert made.host == ("127.0.0.1" if open_ and not anybody else host)
            assert ("10.0.0.7" in made.hosts) is (host == "0.0.0.0" and anybody)
            assert ("shop" in made.hosts) is (host == "shop" and anybody)


def test_serve_takes_its_settings_from_the_environment(mariadb: MariaDbServer, settings: object) -> None:
    port = free_port()
    environment = os.environ | {
        "PYTHONPATH": "src", "OHMACK_PORT": str(port), "OHMACK_DATABASE_PORT": str(mariadb.port),
        "OHMACK_DATABASE_PASSWORD": mariadb.password,
    }  # fmt: skip
    command = [sys.executable, "-m", "ohmack.launch.commands", "serve"]
    served = subprocess.Popen(command, cwd=ROOT, env=environment, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    try:
        deadline = time.monotonic() + 40
        while True:
            try:
                with urllib.request.urlopen(f"http://127.0.0.1:{port}/catalogue", timeout=5) as answer:
                    assert answer.status == 200
                break
            except OSError:
                assert time.monotonic() < deadline
                assert served.poll() is None
                time.sleep(0.2)
    finally:
        served.send_signal(signal.SIGTERM)
        assert served.wait(20) is not None
    wrong = environment | {"OHMACK_DATABASE_PASSWORD": "wrong", "OHMACK_PORT": str(free_port())}
    refused = subprocess.run(command, cwd=ROOT, env=wrong, capture_output=True, text=True, timeout=60, check=False)
    assert refused.returncode == 1
    assert "Set OHMACK_DATABASE_HOST" in refused.stderr
