"""What people wrote down in a plan in their own words: what is searched of it besides names."""

from __future__ import annotations

from collections.abc import Iterator
from functools import cache
from typing import Any

from pydantic import BaseModel, StringConstraints

from ohmack.core.document import Design
from ohmack.core.document.facts import Note

_LONG = next(m.max_length for m in Note.__metadata__ if isinstance(m, StringConstraints))  # type: ignore[attr-defined]


@cache
def _fields(kind: type[BaseModel]) -> tuple[tuple[str, bool], ...]:
    """The fields of a model: its name, and whether it holds a note."""
    limits = {
        name: {getattr(m, "max_length", None) for m in field.metadata} for name, field in kind.model_fields.items()
    }
    return tuple((name, field.annotation is str and _LONG in limits[name]) for name, field in kind.model_fields.items())


def notes(design: Design) -> tuple[str, ...]:
    """Every note of a design, in the order it stands there, each once; empty ones are left out."""
    return tuple(dict.fromkeys(text for text in _notes(design) if text))


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
