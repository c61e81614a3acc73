"""Which facts are looked at, and by whom: the innermost list that is open in this thread notes them.

What is remembered between calls has to say again what it rests on, or whoever takes the remembered answer would seem to
rest on nothing: `Remembered` does that.
"""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Hashable, Iterator
from contextlib import contextmanager, suppress
from threading import local
from typing import Any, Generic, TypeVar

T = TypeVar("T")
_open = local()


def _lists() -> list[set[str]]:
    found: list[set[str]] | None = getattr(_open, "lists", None)
    if found is None:
        found = _open.lists = []
    return found


def look(paths: str | frozenset[str]) -> None:
    """Note that facts are looked at, where a list is open."""
    lists = _lists()
    if lists:
        lists[-1].update((paths,) if isinstance(paths, str) else paths)


@contextmanager
def listing(into: set[str]) -> Iterator[set[str]]:
    """Note into a list what is looked at meanwhile; what was open before does not see it."""
    lists = _lists()
    lists.append(into)
    try:
        yield into
    finally:
        lists.pop()


class Remembered(Generic[T]):
    """Answers remembered by the identity of what they rest on, each with the facts it looked at."""

    def __init__(self, size: int) -> None:
        self._size = size
        self._known: OrderedDict[Hashable, tuple[tuple[Any, ...], T, frozenset[str]]] = OrderedDict()

    def get(self, rests_on: tuple[Any, ...], more: Hashable, make: Callable[[], T]) -> T:
        """The answer for objects and a value; made where it is not remembered."""
        key = (*(id(part) for part in rests_on), more)
        known = self._known.get(key)
        if known is not None and all(a is b for a, b in zip(known[0], rests_on, strict=True)):
            look(known[2])
            return known[1]
        with listing(set()) as looked:
            answer = make()
        facts = frozenset(looked)
        look(facts)
        self._known[key] = (rests_on, answer, facts)  # the objects are held, so no other can take their ids
        while len(self._known) > self._size:
            with suppress(KeyError):  # another thread was quicker
                self._known.popitem(last=False)
        return answer
