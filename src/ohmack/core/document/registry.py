"""The registry: every collection and every reference of a design, declared where its model is and read off the
models here.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from enum import Enum, StrEnum
from functools import cache
from types import UnionType
from typing import Annotated, Any, Literal, Union, get_args, get_origin

from pydantic import BaseModel
from pydantic.fields import FieldInfo

from ohmack.core.document.facts import Fact
from ohmack.core.record import record


class Gone(Enum):
    """What happens to what names a thing that is taken out."""

    GOES_TOO = "goes too"
    IS_UNSET = "is unset"


class Survey(StrEnum):
    """The headings a survey takes the facts of a car under, in order."""

    SUPPLY = "Supply"
    SYSTEM = "Factory system"
    WAYS = "Feeds, grounds and ways"
    SPEAKERS = "Speakers"
    BODY = "Load space and body"
    EARLIER = "Earlier damage"


@record
class Many:
    """Marks a field as a collection: things with ids, added and taken out one by one."""

    group: str  # what one of them is called
    plural: str
    shared: bool = True  # their ids belong to the design's one namespace; else they differ only among themselves
    survey: Survey | None = None  # the heading a survey asks for their facts under


@record
class One:
    """Marks a field as a single thing with an id of the design's one namespace."""

    group: str


@record
class Ref:
    """Marks a field as the id, or the ids, of other things."""

    to: str  # the group it names, or a union of groups
    gone: Gone = Gone.IS_UNSET
    empty: str = ""  # what naming nothing means, in a form; "" where something must be named
    offered: bool = True  # whether a form offers to change it
    least: int = 1  # how many there must be to choose from before a form offers it


@record
class Each:
    """A step into every item of a list, those of some kinds only where kinds are named."""

    kinds: frozenset[str] = frozenset()


Steps = tuple[str | Each, ...]


@record
class Collection:
    """A collection found in the models: where it is and what it holds."""

    steps: Steps
    many: Many
    models: tuple[type[BaseModel], ...]
    way: int  # where its lists are in what `Registry.reached` gives


@record
class Reference:
    """A reference found in the models: the holder's place, the field, and what it names."""

    steps: Steps
    field: str
    ref: Ref
    several: bool  # whether the field holds ids, not an id
    way: int  # where its holders are in what `Registry.reached` gives


@record
class Found:
    """One holder met on the way: its path, itself, and the innermost item of a collection it belongs to."""

    path: tuple[str, ...]
    holder: Any
    item: Any
    items: Any  # the list the item is in; None where it is in none


@dataclass(frozen=True)
class Registry:
    """All of it."""

    collections: tuple[Collection, ...]
    singles: tuple[tuple[int, One], ...]  # the way to it, and its mark
    references: tuple[Reference, ...]
    ways: tuple[tuple[int, str | Each], ...]  # one step further than an earlier way, the first than the document

    def reached(self, root: Any) -> list[list[Any]]:
        """What every way leads to in a document, as `walk` finds it; each step is taken once for all that need it."""
        found = [[root]]
        for before, step in self.ways:
            here = found[before]
            found.append(_onwards(here, step) if here else here)
        return found

    def collection_at(self, steps: tuple[str, ...]) -> Collection | None:
        """The collection a path names, such as `vehicle/modules/amp/channels`; None where it names none."""
        for collection in self.collections:
            if len(collection.steps) == len(steps) and all(
                isinstance(a, Each) or a == b for a, b in zip(collection.steps, steps, strict=True)
            ):
                return collection
        return None

    def is_local(self, group: str) -> bool:
        """Whether the ids of a group differ only among themselves, so that nothing outside their own list names
        them.
        """
        return any(not c.many.shared and c.many.group == group for c in self.collections)

    def shared(self, reached: list[list[Any]]) -> Iterator[tuple[str, list[Any]]]:
        """The things of the one namespace, by group, of what was reached in a document."""
        for way, one in self.singles:
            yield one.group, reached[way]
        for collection in self.collections:
            if collection.many.shared:
                yield collection.many.group, [item for items in reached[collection.way] for item in items]


def child(here: Any, step: str) -> Any:
    """A field of a model or of its plain tree."""
    return here.get(step) if isinstance(here, dict) else getattr(here, step)


def _id(thing: Any) -> str:
    return str(child(thing, "id"))


def walk(root: Any, steps: Steps, path: tuple[str, ...] = (), item: Any = None, items: Any = None) -> Iterator[Found]:
    """Everything a pattern of steps leads to, in models or in plain trees."""
    if not steps:
        yield Found(path, root, item, items)
        return
    step, rest = steps[0], steps[1:]
    if isinstance(step, Each):
        for thing in root:
            if not step.kinds or child(thing, "kind") in step.kinds:
                yield from walk(thing, rest, (*path, _id(thing)), thing, root)
        return
    below = child(root, step)
    if below is not None:
        yield from walk(below, rest, (*path, step), item, items)


def holders(root: Any, steps: Steps) -> list[Any]:
    """What a pattern of steps leads to, as `walk` finds it, without the way there."""
    here = [root]
    for step in steps:
        here = _onwards(here, step)
    return here


def _onwards(here: list[Any], step: str | Each) -> list[Any]:
    if isinstance(step, Each):
        kinds = step.kinds
        return [thing for items in here for thing in items if not kinds or child(thing, "kind") in kinds]
    return [below for thing in here if (below := child(thing, step)) is not None]


def named_by(reference: Reference, holder: Any) -> tuple[str, ...]:
    """The ids a holder names by a reference; none where it names nothing."""
    value = child(holder, reference.field)
    if value is None:
        return ()
    return tuple(value) if reference.several else (value,)


@cache
def scan(model: type[BaseModel]) -> Registry:
    """The registry of a document model."""
    collections: list[Collection] = []
    singles: list[tuple[int, One]] = []
    references: list[Reference] = []
    ways: dict[Steps, int] = {(): 0}

    def way(steps: Steps) -> int:
        if steps not in ways:
            way(steps[:-1])
            ways[steps] = len(ways)
        return ways[steps]

    def visit(here: type[BaseModel], steps: Steps) -> None:
        for name, info in here.model_fields.items():
            models, several = models_in(info.annotation)
            for mark in _marks(info):
                if isinstance(mark, Many):
                    collections.append(Collection((*steps, name), mark, models, way((*steps, name))))
                elif isinstance(mark, One):
                    singles.append((way((*steps, name)), mark))
                elif isinstance(mark, Ref):
                    references.append(Reference(steps, name, mark, several, way(steps)))
            for below in models:
                into: Steps = (*steps, name)
                if several:
                    if "id" not in below.model_fields:
                        continue
                    into = (*into, Each(_kinds(below) if len(models) > 1 else frozenset()))
                visit(below, into)

    visit(model, ())
    onwards = tuple((ways[steps[:-1]], steps[-1]) for steps in ways if steps)
    return Registry(tuple(collections), tuple(singles), tuple(references), onwards)


def reference_of(model: type[BaseModel], field: str) -> Ref | None:
    """How a field of a model names other things; None where it names none."""
    return next((m for m in _marks(model.model_fields[field]) if isinstance(m, Ref)), None)


def _marks(info: FieldInfo) -> tuple[Any, ...]:
    return tuple(m for m in info.metadata if isinstance(m, (Many, One, Ref)))


def _kinds(model: type[BaseModel]) -> frozenset[str]:
    return frozenset(str(v) for v in get_args(model.model_fields["kind"].annotation))


def models_in(annotation: Any) -> tuple[tuple[type[BaseModel], ...], bool]:
    """(document models inside an annotation, whether it is a list of them)."""
    origin = get_origin(annotation)
    if origin is Annotated:
        return models_in(get_args(annotation)[0])
    if origin is Literal:
        return (), False
    if origin is tuple:
        return models_in(get_args(annotation)[0])[0], True
    if origin in (Union, UnionType):
        found = [models_in(a) for a in get_args(annotation)]
        return tuple(m for models, _ in found for m in models), any(several for _, several in found)
    if isinstance(annotation, type) and issubclass(annotation, BaseModel) and not issubclass(annotation, Fact):
        return (annotation,), False
    return (), False
