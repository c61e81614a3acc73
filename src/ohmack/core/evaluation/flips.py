"""What flips when an assumed fact turns out otherwise, in words, each with the side of the assumption it does so on."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

SIDES = ("below", "above", "")  # of what is assumed a value lies; on neither where it is no number


def side_of(value: Any, start: Any) -> str:
    """Which of SIDES of what is assumed a value lies on."""
    if not isinstance(value, float) or not isinstance(start, float):
        return ""
    return "above" if value > start else "below"


class Flips:
    """What flips, in words, each with the sides of the assumed value it does so on."""

    def __init__(self) -> None:
        self._sides: dict[str, dict[str, None]] = {}

    def add(self, words: Iterable[str], side: str) -> None:
        """Something flips on a side."""
        for one in words:
            self._sides.setdefault(one, {})[side] = None

    def said(self, tell_sides: bool) -> tuple[str, ...]:
        """The words, with the side they hold for where the two sides differ."""
        return tuple(
            f"{words} ({side})" if tell_sides and len(sides) == 1 and (side := next(iter(sides))) else words
            for words, sides in self._sides.items()
        )
