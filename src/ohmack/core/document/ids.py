"""Ids and names nobody has yet."""

from __future__ import annotations

from collections.abc import Container


def free_id(stem: str, taken: Container[str]) -> str:
    """An id nobody has yet: the stem itself, else with the first number from 2 that is free."""
    number, free = 2, stem
    while free in taken:
        free, number = f"{stem}-{number}", number + 1
    return free


ORDINALS = ("second", "third", "fourth", "fifth", "sixth", "seventh", "eighth")


def free_name(name: str, taken: Container[str]) -> str:
    """A name nobody has yet: the one given, else with the first ordinal that is free; as given beyond the eighth.

    >>> free_name("Block", ["Block", "Block, second"]), free_name("Block", ["Radio"])
    ('Block, third', 'Block')
    """
    if name not in taken:
        return name
    return next((free for word in ORDINALS if (free := f"{name}, {word}") not in taken), name)
