"""Paths into a design: `vehicle/supply/post_running_v/value`, `parts/amp/price`; items of a list go by their id."""

from __future__ import annotations

from collections import OrderedDict
from contextlib import suppress
from itertools import chain
from typing import Any

from pydantic import BaseModel

from ohmack.core.document.design import Design
from ohmack.core.document.facts import Fact
from ohmack.core.document.links import ENDS_BEFORE
from ohmack.core.errors import UnknownName


def steps(path: str) -> list[str]:
    """The steps of a path.

    Raises:
        UnknownName: an empty path or an empty step.
    """
    parts = path.split("/")
    if not all(parts) or len(parts) > 10:
        raise UnknownName("path", path[:120])
    return parts


def place_of(step: str) -> int | None:
    """A step of a path as a place in a list; None where it is none."""
    return int(step) if step.isascii() and step.isdigit() and len(step) <= 4 else None


def _index(items: tuple[Any, ...], step: str) -> int:
    for number, item in enumerate(items):
        if getattr(item, "id", None) == step:
            return number
    place = place_of(step)
    if place is not None and place < len(items) and not hasattr(items[place], "id"):
        return place
    raise UnknownName("item", step[:60])


def get(root: Any, path: str) -> Any:
    """The value at a path.

    Raises:
        UnknownName: the path leads nowhere.
    """
    here = root
    for step in steps(path):
        if isinstance(here, BaseModel) and step in type(here).model_fields:
            here = getattr(here, step)
        elif isinstance(here, tuple):
            here = here[_index(here, step)]
        else:
            raise UnknownName("path", path[:120])
    return here


def parent_of(root: Any, path: str) -> tuple[BaseModel, str]:
    """The model that holds the last step of a path, and the step.

    Raises:
        UnknownName: the path leads nowhere, or its last step is no field of a model.
    """
    *head, last = steps(path)
    parent = get(root, "/".join(head)) if head else root
    if not isinstance(parent, BaseModel) or last not in type(parent).model_fields:
        raise UnknownName("path", path[:120])
    return parent, last


def called_now(root: Any, path: str) -> str:
    """A path as its fields are called today: an open page or a bookmark may still use a link's names of before."""
    parts = path.split("/")
    if len(parts) < 3 or parts[0] != "links":
        return path
    kind = next((link.kind for link in root.links if link.id == parts[1]), "")
    parts[2] = ENDS_BEFORE.get(kind, {}).get(parts[2], parts[2])
    return "/".join(parts)


def unit_field(path: str) -> str:
    """The field name that carries the unit of a path: the fact's own name for its value and ends.

    >>> unit_field("vehicle/supply/post_running_v/value")
    'post_running_v'
    """
    parts = steps(path)
    return parts[-2] if parts[-1] in ("value", "low", "high") and len(parts) > 1 else parts[-1]


def replace(root: BaseModel, path: str, value: Any) -> Any:
    """A copy of the model with one already valid value replaced; nothing is validated again.

    Raises:
        UnknownName: the path leads nowhere.
    """
    return _replace(root, steps(path), value)


def _replace(here: Any, parts: list[str], value: Any) -> Any:
    if not parts:
        return value
    step, rest = parts[0], parts[1:]
    if isinstance(here, BaseModel) and step in type(here).model_fields:
        return here.model_copy(update={step: _replace(getattr(here, step), rest, value)})
    if isinstance(here, tuple):
        index = _index(here, step)
        return (*here[:index], _replace(here[index], rest, value), *here[index + 1 :])
    raise UnknownName("path", "/".join(parts)[:120])


Found = tuple[str, Fact[Any], BaseModel, str]
_walked: OrderedDict[tuple[int, str], tuple[BaseModel, tuple[Found, ...]]] = OrderedDict()
WALKED_SIZE = 8192


def _own_facts(model: BaseModel) -> tuple[Found, ...]:
    """The facts below an immutable model, paths relative to it; remembered by identity, as a sweep shares most of a
    design.
    """
    known = _walked.get((id(model), ""))
    if known is not None and known[0] is model:  # the model is held, so its id cannot be another's
        return known[1]
    found: list[Found] = []
    for field in type(model).model_fields:
        value = getattr(model, field)
        if isinstance(value, Fact):
            found.append((field, value, model, field))
        elif isinstance(value, BaseModel):
            found += _under(field, value)
        elif isinstance(value, tuple):
            for number, item in enumerate(value):
                if isinstance(item, BaseModel):
                    found += _under(f"{field}/{getattr(item, 'id', number)}", item)
    return _remember((id(model), ""), model, found)


def _under(step: str, model: BaseModel) -> tuple[Found, ...]:
    """The facts below a model, paths relative to what holds it at `step`; remembered too."""
    known = _walked.get((id(model), step))
    if known is not None and known[0] is model:
        return known[1]
    found = [(f"{step}/{path}", fact, owner, name) for path, fact, owner, name in _own_facts(model)]
    return _remember((id(model), step), model, found)


def _remember(key: tuple[int, str], model: BaseModel, found: list[Found]) -> tuple[Found, ...]:
    result = tuple(found)
    _walked[key] = (model, result)
    while len(_walked) > WALKED_SIZE:
        with suppress(KeyError):  # another thread was quicker
            _walked.popitem(last=False)
    return result


def facts(root: BaseModel, prefix: str = "") -> tuple[Found, ...]:
    """Every fact below a model: (path, fact, the model that owns it, its field name)."""
    return _under(prefix, root) if prefix else _own_facts(root)


def design_facts(design: Design) -> tuple[Found, ...]:
    """Every fact of a design; parts and intake carry none."""
    found = [facts(design.vehicle, "vehicle"), *(facts(link, f"links/{link.id}") for link in design.links)]
    return tuple(chain.from_iterable(found))
