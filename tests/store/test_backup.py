"""Backup and restore: every row and every photo of the demo shop, while people work; broken, newer, interrupted."""

from __future__ import annotations

import json
import stat
import threading
import zipfile
from collections.abc import Iterator
from datetime import date
from pathlib import Path
from typing import Any

import pymysql
import pytest

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.formats.backup_file import BadBackup, open_backup, verify_backup
from ohmack.formats.design_file import write_design
from ohmack.formats.photo import Photo
from ohmack.launch.mariadb import MariaDbServer
from ohmack.store import backup as module
from ohmack.store.backup import NotEmpty, back_up, claim_backup, half_restored, restore
from ohmack.store.context import BUILT_IN
from ohmack.store.database import Database, DatabaseSettings, plain_connection
from ohmack.store.designs import DesignStore
from ohmack.store.migrate import migrate, migrations
from ohmack.store.photos import PhotoStore
from ohmack.store.search import SearchStore


@pytest.fixture(scope="module")
def elsewhere(tmp_path_factory: pytest.TempPathFactory) -> Iterator[MariaDbServer]:
    server = MariaDbServer(tmp_path_factory.mktemp("elsewhere"), quiet=True, fast=True)
    server.start()
    yield server
    server.stop()


@pytest.fixture
def empty(elsewhere: MariaDbServer) -> DatabaseSettings:
    """A place without a table."""
    settings = DatabaseSettings("127.0.0.1", elsewhere.port, "ohmack", elsewhere.password, "ohmack")
    connection = module._connect(settings)
    with connection.cursor() as cursor:
        cursor.execute("SET foreign_key_checks = 0")
        cursor.execute("SELECT table_name FROM information_schema.tables WHERE table_schema = DATABASE()")
        for (name,) in list(cursor.fetchall()):
            cursor.execute(f"DROP TABLE `{name}`")
    connection.close()
    return settings


@pytest.fixture(scope="module")
def file(settings: DatabaseSettings, database: Database, tmp_path_factory: pytest.TempPathFactory) -> Path:
    pixels = bytes(range(256)) * 40
    PhotoStore(database).add(BUILT_IN, "J-0401", "vehicle/radio", Photo("plug.jpg", 2, 2, pixels, b"\x00\xff\n'"))
    path = tmp_path_factory.mktemp("backup") / "shop.backup"
    back_up(settings, path)
    return path


def all_rows(settings: DatabaseSettings) -> dict[str, list[tuple[Any, ...]]]:
    """Every row of every table, as plain SQL reads them."""
    connection = plain_connection(settings)
    try:
        with connection.cursor() as cursor:
            cursor.execute("SELECT table_name FROM information_schema.tables WHERE table_schema = DATABASE()")
            found = {}
            for (name,) in list(cursor.fetchall()):
                cursor.execute(f"SELECT * FROM `{name}`")
                found[name] = sorted(cursor.fetchall(), key=repr)
            return found
    finally:
        connection.close()


def test_every_row_and_every_photo_comes_back(file: Path, settings: DatabaseSettings, empty: DatabaseSettings) -> None:
    assert stat.S_IMODE(file.stat().st_mode) == 0o600
    assert not list(file.parent.glob("*.part"))
    manifest = verify_backup(file)
    restored = restore(empty, file)
    assert restored == manifest
    ours, theirs = all_rows(settings), all_rows(empty)
    assert ours.keys() == theirs.keys()
    for name in ours.keys() - {"applied_migrations"}:
        assert theirs[name] == ours[name], name
    assert len(ours["revisions"]) > 100
    assert len(ours["photos"]) >= 1
    assert manifest.rows == sum(len(rows) for name, rows in ours.items() if name != "applied_migrations")
    there = DesignStore(Database(empty))
    assert there.load(BUILT_IN, "J-0401").design == DesignStore(Database(settings)).load(BUILT_IN, "J-0401").design
    assert SearchStore(Database(empty)).find(BUILT_IN, "lantern")
    with pytest.raises(NotEmpty, match="is not empty"):
        restore(empty, file)
    assert all_rows(empty) == theirs


def test_it_is_one_moment_while_people_work(
    settings: DatabaseSettings, database: Database, estate: Design, tmp_path: Path
) -> None:
    """No design points at a revision that is not in the file, and no job is without its design."""
    store, going = DesignStore(database), threading.Event()
    number = store.open_job(BUILT_IN, "Busy", "", "Busy", estate)

    def work() -> None:
        mine = DesignStore(Database(settings))
        for n in range(400):
            record = mine.load(BUILT_IN, number)
            edited = apply_edits(record.design, [Edit(path="title", value=f"Busy {n}")])
            mine.save(BUILT_IN, record.design_id, record.version, edited, f"{n}")
            mine.open_job(BUILT_IN, f"Busy {n}", "", "Busy", estate)
            if going.is_set():
                return

    thread = threading.Thread(target=work)
    thread.start()
    try:
        for n in range(3):
            path = tmp_path / f"{n}.backup"
            back_up(settings, path)
            with open_backup(path) as found:
                tables = {
                    name: [dict(zip(found.manifest.tables[name].columns, row, strict=True)) for row in found.rows(name)]
                    for name in ("jobs", "designs", "revisions")
                }
            there = {(r["design_id"], r["number"]) for r in tables["revisions"]}
            assert {(d["id"], d["current_number"]) for d in tables["designs"]} <= there
            assert {j["id"] for j in tables["jobs"]} == {d["job_id"] for d in tables["designs"]}
    finally:
        going.set()
        thread.join(60)


@pytest.mark.parametrize("kept", [0, 1, 40, 0.3, 0.5, 0.9, 0.999])
def test_one_that_is_cut_is_refused_and_nothing_is_stored(
    file: Path, empty: DatabaseSettings, tmp_path: Path, kept: float
) -> None:
    whole = file.read_bytes()
    cut = tmp_path / "cut.backup"
    cut.write_bytes(whole[: int(kept if kept >= 1 else kept * len(whole))])
    with pytest.raises(BadBackup):
        verify_backup(cut)
    with pytest.raises(BadBackup):
        restore(empty, cut)
    assert all_rows(empty) == {}
    assert not half_restored(empty)


def test_a_changed_byte_or_word_is_found(file: Path, tmp_path: Path) -> None:
    """A flipped byte at sixteen places: what is read is what was written, or the file is refused."""
    whole = file.read_bytes()
    manifest = verify_backup(file)
    for n in range(16):
        place = (n * len(whole) // 16 + 101) % len(whole)
        changed = tmp_path / "changed.backup"
        changed.write_bytes(whole[:place] + bytes([whole[place] ^ 0x20]) + whole[place + 1 :])
        try:
            assert verify_backup(changed) == manifest, place
        except BadBackup:
            continue
    swapped = tmp_path / "swapped.backup"
    with zipfile.ZipFile(file) as source, zipfile.ZipFile(swapped, "w") as out:
        for item in source.namelist():
            content = source.read(item)
            out.writestr(
                item, content.replace(b"Lantern Lane", b"Lantern Lame") if item == "customers.jsonl" else content
            )
    with pytest.raises(BadBackup, match="customers"):
        verify_backup(swapped)
    for name, content in (("photo.jpg", b"\xff\xd8\xff"), ("empty.zip", b"PK\x05\x06" + b"\0" * 18)):
        (tmp_path / name).write_bytes(content)
        with pytest.raises(BadBackup):
            verify_backup(tmp_path / name)
    with pytest.raises(BadBackup, match="no file"):
        verify_backup(tmp_path / "nothing")


@pytest.mark.parametrize("newer", ["format", "schema"])
def test_one_of_a_newer_ohmack_is_refused(file: Path, empty: DatabaseSettings, tmp_path: Path, newer: str) -> None:
    path = tmp_path / "newer.backup"
    with zipfile.ZipFile(file) as source, zipfile.ZipFile(path, "w") as out:
        for item in source.namelist():
            content = source.read(item)
            if item == "manifest.json":
                tree = json.loads(content)
                tree["version" if newer == "format" else "made_at"] = 99 if newer == "format" else tree["made_at"]
                tree["schema_ids"] |= {"0999.later": 3} if newer == "schema" else {}
                content = json.dumps(tree).encode()
            out.writestr(item, content)
    with pytest.raises(BadBackup, match="newer Ohmack"):
        restore(empty, path)
    assert all_rows(empty) == {}


def test_an_interrupted_restore_is_begun_again(
    file: Path, empty: DatabaseSettings, monkeypatch: pytest.MonkeyPatch
) -> None:
    real, done = module._insert, []

    def stops(*asked: Any) -> None:
        done.append(1)
        if len(done) > 9:
            raise pymysql.err.OperationalError(2013, "the power went")
        real(*asked)

    monkeypatch.setattr(module, "_insert", stops)
    with pytest.raises(pymysql.err.OperationalError):
        restore(empty, file)
    assert half_restored(empty)
    monkeypatch.undo()
    restore(empty, file)
    assert not half_restored(empty)
    with open_backup(file) as found:
        names = {row[found.manifest.tables["customers"].columns.index("name")] for row in found.rows("customers")}
    assert names <= {value for row in all_rows(empty)["customers"] for value in row}
    assert len(all_rows(empty)["customers"]) == verify_backup(file).tables["customers"].rows


def test_a_backup_of_an_older_ohmack_is_brought_up_to_date(
    elsewhere: MariaDbServer, empty: DatabaseSettings, estate: Design, tmp_path: Path
) -> None:
    """Written before there were people, read by one that has them."""
    migrate(empty, upto=[name for name in migrations() if name < "0009"])
    document = write_design(estate).decode()

    def fill(c: Any) -> None:
        with c.cursor() as cursor:
            cursor.execute("INSERT INTO customers (name, phone) VALUES ('Old Book', '555 1')")
            cursor.execute(
                "INSERT INTO vehicles (customer_id, make, model, body) VALUES (1, 'Marren', 'Tilde', 'estate')"
            )
            cursor.execute("INSERT INTO jobs (number, customer_id, vehicle_id, title) VALUES ('J-0417', 1, 1, 'Old')")
            cursor.execute("INSERT INTO designs (job_id, letter, current_number) VALUES (1, 'A', 1)")
            cursor.execute(
                "INSERT INTO revisions (design_id, number, document, reason) VALUES (1, 1, %s, 'then')", (document,)
            )

    Database(empty).run(fill)
    path = tmp_path / "old.backup"
    assert "people" in back_up(empty, path).tables
    assert "sessions" not in verify_backup(path).tables
    connection = module._connect(empty)
    with connection.cursor() as cursor:
        cursor.execute("SET foreign_key_checks = 0")
        for name in all_rows(empty):
            cursor.execute(f"DROP TABLE `{name}`")
    connection.close()
    restore(empty, path)
    there = DesignStore(Database(empty))
    assert there.load(BUILT_IN, "J-0417").design == estate
    assert there.open_job(BUILT_IN, "Next", "", "Next", estate) == "J-0418"


def test_of_all_processes_one_makes_the_nightly_backup(database: Database, settings: DatabaseSettings) -> None:
    day = date(2031, 3, 1)
    told = [claim_backup(Database(settings), day) for _ in range(4)]
    assert told == [True, False, False, False]
    assert claim_backup(database, date(2031, 3, 2))
    assert not claim_backup(database, day), "a clock that was set back makes none"
