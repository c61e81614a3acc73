"""What one thing may be tied to: the choices of the editor, by the kind of thing that is selected."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from pydantic import BaseModel

from ohmack.core.document import Design
from ohmack.core.document.part import PartBase, Phase, Stands
from ohmack.core.document.paths import get
from ohmack.core.document.registry import holders, reference_of, scan
from ohmack.core.document.vehicle import Body
from ohmack.core.errors import UnknownName
from ohmack.core.planning.moving import spots

Options = list[tuple[str, str]]


@dataclass(frozen=True)
class Choice:
    """One reference to choose: its path, label, options, and what is chosen."""

    path: str
    label: str
    options: Options
    chosen: str | tuple[str, ...] | None
    many: bool = False
    empty: str = ""  # what choosing nothing means; "" where something must be chosen


def options_of(design: Design, group: str) -> Options:
    """(id, name) of everything a reference to a group may name."""
    return options_in(design, [group])[group]


def options_in(design: Design, groups: Iterable[str]) -> dict[str, Options]:
    """By group, (id, name) of everything a reference to it may name."""
    names, named = names_of(design), design.named()
    return {group: [(name, names.get(name, name)) for name in named[group]] for group in groups}


def names_of(design: Design) -> dict[str, str]:
    """What everything with an id is called, an output pair of a factory amplifier with its box."""
    vehicle = design.vehicle
    names: dict[str, str] = {}
    for collection in scan(Design).collections:
        for items in holders(design, collection.steps):
            names |= {item.id: getattr(item, "title", "") or getattr(item, "name", item.id) for item in items}
    names |= {p.id: p.name for p in design.parts} | {vehicle.radio.id: vehicle.radio.name}
    return names | {c.id: f"{c.name} ({m.name})" for m in vehicle.modules for c in m.channels}


def choices_of(design: Design, path: str) -> list[Choice]:
    """The references one can set on the thing at a path, as its model declares them."""
    try:
        thing = get(design, path)
    except UnknownName:
        return []
    found = []
    for field, info in type(thing).model_fields.items() if isinstance(thing, BaseModel) else ():
        ref = reference_of(type(thing), field)
        if ref is None or not ref.offered:
            continue
        options = [(name, title) for name, title in options_of(design, ref.to) if name != getattr(thing, "id", "")]
        if len(options) < ref.least:
            continue
        value = getattr(thing, field)
        if len(options) > 1 or (options and (ref.empty or isinstance(value, tuple))):
            many = isinstance(value, tuple)
            found.append(Choice(f"{path}/{field}", info.title or field, options, value, many, ref.empty))
    return [*found, *(_standing(design, thing, path) if isinstance(thing, PartBase) else ())]


def _standing(design: Design, part: PartBase, path: str) -> list[Choice]:
    """Where a part is put, when it comes, what became of it, and whose it is."""
    here = next((key for key, (_, place) in spots(design).items() if place == part.position), "")
    places = [(key, words) for key, (words, _) in spots(design).items()]
    put_in = (
        [Choice(f"{path}/position", "Put it in", places, here, empty="choose a place")]
        if part.position is not None else []
    )  # fmt: skip
    yes_no = [("false", "the shop's"), ("true", "the customer's own")]
    return [
        *put_in,
        Choice(f"{path}/phase", "Fitted", [(p.value, p.value) for p in Phase], part.phase.value),
        Choice(f"{path}/stands", "Status", [(s.value, s.value) for s in Stands], part.stands.value),
        Choice(f"{path}/by_customer", "Whose part it is", yes_no, "true" if part.by_customer else "false"),
    ]


USUAL = (Body.HATCH, Body.SALOON, Body.ESTATE, Body.COUPE, Body.PICKUP, Body.SUV, Body.PEOPLE_CARRIER, Body.CONVERTIBLE)


def bodies() -> list[str]:
    """What a car may be, the usual bodies first."""
    return [body.value for body in sorted(Body, key=lambda one: one not in USUAL)]
