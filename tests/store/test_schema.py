"""The schema as the database sees it."""

from __future__ import annotations

import re
from importlib.resources import files
from typing import Any

from ohmack.store.database import Database


def rows(database: Database, sql: str) -> list[dict[str, Any]]:
    def ask(connection: Any) -> list[dict[str, Any]]:
        with connection.cursor() as cursor:
            cursor.execute(sql)
            return list(cursor.fetchall())

    return database.read(ask)


def test_every_table_is_transactional_and_speaks_every_language(database: Database) -> None:
    tables = rows(
        database,
        "SELECT table_name AS name, engine, table_collation AS letters FROM information_schema.tables WHERE"
        " table_schema = 'ohmack'",
    )
    assert {t["name"] for t in tables} == {
        "applied_migrations",
        "instruments",
        "people",
        "photos",
        "shop",
        "customers",
        "vehicles",
        "jobs",
        "designs",
        "revisions",
        "catalogue_parts",
        "vehicle_templates",
        "summaries",
        "step_times",
        "customer_links",
        "packs",
        "pack_pieces",
        "bookings",
        "sessions",
        "one_time_links",
        "wrong_guesses",
        "audit",
        "chores",
        "search_entries",
        "search_words",
    }
    for table in tables:
        assert table["engine"] == "InnoDB"
        assert table["letters"].startswith("utf8mb4")


def test_references_are_held_by_foreign_keys(database: Database) -> None:
    found = rows(
        database,
        "SELECT table_name AS t, column_name AS c, referenced_table_name AS r FROM information_schema.key_column_usage "
        "WHERE table_schema = 'ohmack' AND referenced_table_name IS NOT NULL",
    )
    keys = {(f["t"], f["c"], f["r"]) for f in found}
    columns = rows(
        database,
        "SELECT table_name AS t, column_name AS c FROM information_schema.columns WHERE table_schema = 'ohmack' AND"
        " column_name LIKE '%|_id' ESCAPE '|'",
    )
    assert len(columns) > 20
    for column in columns:
        assert any(k[:2] == (column["t"], column["c"]) for k in keys), column


def test_migrations_only_go_forward() -> None:
    names = sorted(p.name for p in (files("ohmack.store") / "migrations").iterdir())
    assert names
    assert not [n for n in names if "rollback" in n]
    numbers = [int(re.match(r"(\d{4})\.", n)[1]) for n in names]  # type: ignore[index]
    assert numbers == list(range(1, len(numbers) + 1))
    for name in names:
        text = (files("ohmack.store") / "migrations" / name).read_text()
        assert not re.search(r"\b(DROP (?!INDEX IF EXISTS )|TRUNCATE|DELETE)\b", text), name
        for words in re.findall(r"\b(?:CREATE TABLE|ADD (?:COLUMN|KEY|UNIQUE KEY)) (?:\w+ ){3}", text):
            assert words.endswith("IF NOT EXISTS "), f"{name}: a statement may run twice"


def test_every_query_states_its_parameters() -> None:
    for file in (files("ohmack.store") / "queries").iterdir():
        text = file.read_text()
        for block in re.split(r"(?=-- name: )", text)[1:]:
            head = block.splitlines()[0]
            stated = set(filter(None, (p.strip() for p in re.search(r"\((.*)\)", head)[1].split(","))))  # type: ignore[index]
            used = set(re.findall(r"(?<!:):(\w+)", "\n".join(block.splitlines()[1:])))
            assert stated == used, head


def test_every_table_carries_its_shop(database: Database) -> None:
    carried = {
        r["name"]
        for r in rows(
            database,
            "SELECT table_name AS name FROM information_schema.columns WHERE table_schema = 'ohmack' AND column_name ="
            " 'shop_id'",
        )
    }
    every = {
        r["name"]
        for r in rows(
            database, "SELECT table_name AS name FROM information_schema.tables WHERE table_schema = 'ohmack'"
        )
    }
    assert every - carried == {"shop", "applied_migrations", "wrong_guesses", "chores"}
    assert {
        r["name"]
        for r in rows(
            database, "SELECT column_name AS name FROM information_schema.columns WHERE table_name = 'revisions'"
        )
    } >= {"person_id"}
