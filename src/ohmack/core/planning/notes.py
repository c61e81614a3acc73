"""What people wrote down in a plan in their own words: what is searched of it besides names."""

from __future__ import annotations

from collections.abc import Iterator
from enum import Enum
from functools import cache
from types import NoneType, UnionType
from typing import Annotated, Any, Union, get_args, get_origin

from pydantic import BaseModel, StringConstraints

from ohmack.core.document import Design
from ohmack.core.document.facts import Note

_LONG = next(m.max_length for m in Note.__metadata__ if isinstance(m, StringConstraints))  # type: ignore[attr-defined]


@cache
def _fields(kind: type[BaseModel]) -> tuple[tuple[str, bool], ...]:
    """The fields of a model that are notes or may have some inside: the name, and whether it is one."""
    found = []
    for name, field in kind.model_fields.items():
        is_note = field.annotation is str and _LONG in {getattr(m, "max_length", None) for m in field.metadata}
        if is_note or not _is_plain(field.annotation):
            found.append((name, is_note))
    return tuple(found)


def _is_plain(kind: Any) -> bool:
    """Whether a field holds a number, a word or nothing: no note is in it."""
    parts = [part for part in get_args(kind) if part is not NoneType]
    if get_origin(kind) is Annotated:
        return _is_plain(parts[0])
    if get_origin(kind) in (Union, UnionType):
        return all(map(_is_plain, parts))
    return isinstance(kind, type) and issubclass(kind, str | int | float | Enum)


def notes(design: Design) -> tuple[str, ...]:
    """Every note of a design, in the order it stands there, each once; empty ones are left out."""
    return tuple(dict.fromkeys(text for text in _notes(design) if text))


def noted_anew(before: Any, after: Any) -> bool:
    """Whether notes may differ between two designs, or two things of them: what both share is not looked at."""
    if before is after:
        return False
    if isinstance(before, BaseModel) and type(before) is type(after):
        pairs = ((getattr(before, name), getattr(after, name), is_note) for name, is_note in _fields(type(before)))
        return any(was != now if is_note else noted_anew(was, now) for was, now, is_note in pairs)
    if isinstance(before, tuple) and isinstance(after, tuple) and len(before) == len(after):
        return any(map(noted_anew, before, after))
    return any(True for text in (*_notes(before), *_notes(after)) if text)


def _notes(thing: Any) -> Iterator[str]:
    if isinstance(thing, BaseModel):
        for name, is_note in _fields(type(thing)):
            value = getattr(thing, name)
            if is_note:
                yield value
            elif isinstance(value, BaseModel | tuple):
                yield from _notes(value)
    elif isinstance(thing, tuple):
        for item in thing:
            if isinstance(item, BaseModel | tuple):
                yield from _notes(item)
