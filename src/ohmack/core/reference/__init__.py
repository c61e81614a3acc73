"""Packaged tables. Every table states its source and its grade; the loader refuses one that does not."""

from __future__ import annotations

import tomllib
from enum import StrEnum
from functools import cache
from importlib.resources import files
from typing import Any

from ohmack.core.record import record


class Grade(StrEnum):
    """How good a reference value is, best first."""

    STANDARD = "standard"
    HANDBOOK = "handbook"
    PRACTICE = "common practice"
    MEMORY = "from memory"

    @property
    def rank(self) -> int:
        """0 for the best; a figure shows the worst it rests on."""
        return _RANK[self]


_RANK = {grade: rank for rank, grade in enumerate(Grade)}


@record
class Source:
    """Where a number or a formula comes from."""

    text: str
    grade: Grade

    def __str__(self) -> str:
        return self.text if self.text == self.grade.value else f"{self.text} ({self.grade.value})"


PRACTICE = Source("common practice", Grade.PRACTICE)
PHYSICS = Source("textbook circuit theory", Grade.HANDBOOK)


@cache
def read_toml(name: str) -> dict[str, Any]:
    """Read one packaged TOML file by its stem."""
    return tomllib.loads((files(__package__) / f"{name}.toml").read_text(encoding="utf-8"))


@cache
def table(file: str, name: str) -> dict[str, Any]:
    """One table of a file, with its `source` parsed; `file.group` names a group of tables within a file.

    Raises:
        KeyError: the table is absent or states no source.
    """
    stem, _, group = file.partition(".")
    found = read_toml(stem)
    raw = dict((found[group] if group else found)[name])
    raw["source"] = Source(raw["source"], Grade(raw["grade"]))
    return raw


def source(file: str, name: str) -> Source:
    """The source of one table."""
    found: Source = table(file, name)["source"]
    return found
