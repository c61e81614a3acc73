"""The launcher as a person meets it: commands, exit codes, plain sentences when something is in the way."""

from __future__ import annotations

import json
import os
import signal
import socket
import subprocess
import sys
import time
import urllib.request
from pathlib import Path

import pytest

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.formats.design_file import write_design
from ohmack.launch import system
from ohmack.launch.mariadb import MariaDbServer, free_port
from ohmack.launch.system import SetupTrouble, ensure_programs, install

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


def test_evaluate_exit_codes(estate: Design, tmp_path: Path) -> None:
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
    bad = ohmack("evaluate", str(file))
    assert bad.returncode == 2
    assert "not JSON" in bad.stderr
    assert ohmack("evaluate", "/nowhere").returncode == 2
    assert ohmack("evaluate").returncode == 2


def test_usage() -> None:
    done = subprocess.run([ROOT / "ohmack", "nonsense"], capture_output=True, text=True, check=False)
    assert done.returncode == 2
    assert "usage" in done.stderr


def test_no_right_to_install_is_a_plain_sentence(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(system, "_as_root", lambda: None)
    monkeypatch.setattr(
        system.shutil, "which", lambda name, path=None: "/usr/bin/apt-get" if name == "apt-get" else None
    )
    with pytest.raises(SetupTrouble, match="sudo apt-get install mariadb-server"):
        ensure_programs(["mariadbd"])
    monkeypatch.setattr(system.shutil, "which", lambda name, path=None: None)
    with pytest.raises(SetupTrouble, match="by hand"):
        install(["chromium"])


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


def test_demo_in_a_fresh_folder_starts_refuses_a_second_and_stops(tmp_path: Path) -> None:
    """`demo` in its own data folder: pages answer, a second start and a taken port say why, Ctrl-C stops both."""
    port = free_port()
    environment = os.environ | {"PYTHONPATH": "src", "OHMACK_PORT": str(port), "OHMACK_VAR": str(tmp_path / "var")}
    command = [sys.executable, "-m", "ohmack.launch.commands", "demo"]
    log = (tmp_path / "log").open("w+")
    demo = subprocess.Popen(command, cwd=ROOT, env=environment, stdout=log, stderr=subprocess.STDOUT)
    try:
        deadline = time.monotonic() + 60
        while time.monotonic() < deadline:
            try:
                with urllib.request.urlopen(f"http://127.0.0.1:{port}/", timeout=5) as answer:
                    assert b"Lantern Lane Players" in answer.read()
                break
            except OSError:
                time.sleep(0.2)
        second = subprocess.run(
            command, cwd=ROOT, env=environment, capture_output=True, text=True, timeout=60, check=False
        )
        assert second.returncode == 1
        assert f"already runs from this folder: open http://127.0.0.1:{port}/" in second.stderr
        other = environment | {"OHMACK_VAR": str(tmp_path / "other")}
        taken = subprocess.run(command, cwd=ROOT, env=other, capture_output=True, text=True, timeout=60, check=False)
        assert taken.returncode == 1
        assert f"OHMACK_PORT={port + 1} ./ohmack demo" in taken.stderr
        pid = int((tmp_path / "var/mariadb/mariadb.pid").read_text())
        demo.send_signal(signal.SIGINT)
        assert demo.wait(40) == 0
        assert not Path(f"/proc/{pid}").exists()
        with socket.socket() as probe:
            assert probe.connect_ex(("127.0.0.1", port)) != 0
    finally:
        demo.kill()
        demo.wait()
        log.seek(0)
        words = log.read()
        log.close()
    for step in ("Starting MariaDB", "Loading the demo shop", "Ohmack is ready", "Stopping MariaDB"):
        assert step in words


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
