"""What the documents promise is there."""

from __future__ import annotations

import re
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]


def test_every_test_that_is_named_is_there() -> None:
    there = {n for f in (ROOT / "tests").rglob("*.py") for n in re.findall(r"def (test_\w+)", f.read_text())}
    for page in (ROOT / "docs").glob("*.md"):
        named = set(re.findall(r"`(test_\w+)`", page.read_text()))
        assert named <= there, (page.name, sorted(named - there))


def test_every_setting_is_in_the_operations_page() -> None:
    from ohmack.web.settings import Settings

    text = (ROOT / "docs" / "operations.md").read_text()
    for name in Settings.model_fields:
        assert f"`OHMACK_{name.upper()}`" in text, name


def test_every_row_of_the_security_table_says_how_it_stands() -> None:
    text = (ROOT / "docs" / "security.md").read_text()
    rows = [line.split("|")[1:-1] for line in text.splitlines() if re.match(r"\| \d+\.", line)]
    chapters = {row[0].strip().split(".")[0] for row in rows}
    assert chapters == {"2", "3", "4", "5", "7", "13"}
    assert all(len(row) == 4 and row[1].strip() and row[2].strip() for row in rows)
    assert sum("test_" in row[3] for row in rows) > 50
