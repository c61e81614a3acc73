"""Where things are in a design: a path from the thing itself and a field picked in code, so that a type checker finds
every field that was renamed. The beginnings of paths are read off the models.

>>> from ohmack.core.document.vehicle import Supply
>>> at_the(Supply, lambda it: it.body_return_ohm)
'vehicle/supply/body_return_ohm'
"""

from __future__ import annotations

from collections.abc import Callable
from functools import cache
from types import CodeType
from typing import TypeVar, cast

from pydantic import BaseModel

from ohmack.core.document.design import Design
from ohmack.core.document.harness import Cavity, Connector
from ohmack.core.document.registry import models_in
from ohmack.core.errors import UnknownName

M = TypeVar("M", bound=BaseModel)
T = TypeVar("T")


class _Recorder:
    """Stands for a model while a field is picked, and notes the way."""

    __slots__ = ("_steps",)

    def __init__(self, steps: tuple[str, ...] = ()) -> None:
        self._steps = steps

    def __getattr__(self, name: str) -> _Recorder:
        return _Recorder((*self._steps, name))


_picked: dict[CodeType, str] = {}


def field_of(pick: Callable[[M], object]) -> str:
    """The steps to a picked field, such as `fuse/rating_a`.

    Raises:
        UnknownName: something else than a field is picked, or one that hangs on what is round the lambda.
    """
    known = _picked.get(pick.__code__)  # a lambda in code is one code object, however often it is made
    if known is None:
        found = pick(_Recorder())  # type: ignore[arg-type]
        if not isinstance(found, _Recorder) or pick.__closure__:
            raise UnknownName("field", str(found)[:60])
        known = _picked[pick.__code__] = "/".join(object.__getattribute__(found, "_steps"))
    return known


def sure(found: T | None) -> T:
    """What may not be there, where a path to a field of it is picked: `lambda link: sure(link.fuse).rating_a`."""
    return cast(T, found)


@cache
def _beginnings() -> dict[type[BaseModel], tuple[str, bool]]:
    """Where things of a kind are: (path, whether they are items of the collection there); kinds found at two places
    have none.
    """
    found: dict[type[BaseModel], tuple[str, bool]] = {}
    places: dict[type[BaseModel], set[tuple[type[BaseModel], str]]] = {}

    def visit(model: type[BaseModel], path: str | None) -> None:
        for name, info in model.model_fields.items():
            models, several = models_in(info.annotation)
            below = None if path is None else f"{path}/{name}".lstrip("/")
            for inner in models:
                places.setdefault(inner, set()).add((model, name))
                if below is not None:
                    found.setdefault(inner, (below, several))
                visit(inner, None if several else below)

    visit(Design, "")
    return {Design: ("", False)} | {kind: where for kind, where in found.items() if len(places[kind]) == 1}


_known: dict[type[BaseModel], tuple[str, bool]] = {}


def _beginning(kind: type[BaseModel]) -> tuple[str, bool]:
    beginnings = _beginnings()
    for one in kind.__mro__:
        if one in beginnings:
            _known[kind] = beginnings[one]
            return beginnings[one]
    raise UnknownName("kind of thing", kind.__name__)


def at(thing: M, pick: Callable[[M], object] | None = None) -> str:
    """The path of a part, a link or a thing of the vehicle, or of a field of it.

    Parameters:
        thing: what there is one of (the supply, the radio), or an item of a collection of the design or its vehicle.
        pick: a field of it, as `lambda feed: feed.fuse_a`.

    Returns:
        the path, as edits, findings and terms name it.

    Raises:
        UnknownName: a thing that is not in a design by itself, such as a cavity of a connector: see `within`.
    """
    path, listed = _known.get(type(thing)) or _beginning(type(thing))
    if listed:
        path = f"{path}/{thing.id}"  # type: ignore[attr-defined]
    if pick is None:
        return path
    return f"{path}/{_picked.get(pick.__code__) or field_of(pick)}"


def at_the(kind: type[M], pick: Callable[[M], object] | None = None) -> str:
    """The path of what a design has one of, or of a field of it: its supply, the policy, the design."""
    path, _ = _beginning(kind)
    return path if pick is None else f"{path}/{field_of(pick)}".lstrip("/")


def at_id(kind: type[M], own: str, pick: Callable[[M], object] | None = None) -> str:
    """The path of an item of a collection by its kind and id, or of a field of it."""
    path = f"{_beginning(kind)[0]}/{own}"
    return path if pick is None else f"{path}/{field_of(pick)}"


def cavity_at(connector: Connector, cavity: Cavity) -> str:
    """The path of a cavity of a connector."""
    return within(at(connector, lambda it: it.cavities), cavity)


def within(holder: str, item: M, pick: Callable[[M], object] | None = None) -> str:
    """The path of an item of a list by the list's path, or of a field of it: a cavity, an output pair, a reading."""
    path = f"{holder}/{item.id}"  # type: ignore[attr-defined]
    return path if pick is None else f"{path}/{field_of(pick)}"
