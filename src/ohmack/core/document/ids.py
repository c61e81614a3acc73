"""Ids nobody has yet."""

from __future__ import annotations

from collections.abc import Container


def free_id(stem: str, taken: Container[str]) -> str:
    """An id nobody has yet: the stem itself, else with the first number from 2 that is free."""
    number, free = 2, stem
    while free in taken:
        free, number = f"{stem}-{number}", number + 1
    return free
