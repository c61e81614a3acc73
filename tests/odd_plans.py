"""Plans nobody would draw, and every single thing of a plan that could be otherwise."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from contextlib import suppress
from enum import Enum
from random import Random

from ohmack.core.document import Design
from ohmack.core.document.design import Intake, Wish
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.factory import Tier
from ohmack.core.document.paths import design_facts
from ohmack.core.document.policy import Policy
from ohmack.core.document.vehicle import Body, Hand, Powertrain
from ohmack.core.errors import OhmackError
from ohmack.core.factory.usual_modules import modules_for
from ohmack.core.planning.part_added import added
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.core.planning.survey import ADDITIONS, add_to_survey
from ohmack.demo.building import catalogue


def others(value: object) -> list[object]:
    """What a value of a document may be instead: half and twice a number, the next of a choice, the other of two."""
    match value:
        case bool():
            return [not value]
        case Enum():
            members = list(type(value))
            return [members[(members.index(value) + 1) % len(members)]]
        case int() if value > 1:
            return [value - 1, value + 1]
        case float():
            return [value / 2, value * 2]
    return []


def changes(design: Design) -> Iterator[Edit]:
    """Every single thing that could be otherwise: each fact, each value of a part or a link, each that is taken out."""
    for path, fact, _, _ in design_facts(design):
        yield from (Edit(path=f"{path}/value", value=value) for value in (*others(fact.value), None))
    for things, folder in ((design.parts, "parts"), (design.links, "links")):
        for thing in things:
            yield Edit(op="remove", path=f"{folder}/{thing.id}")
            for name, value in thing:
                yield from (Edit(path=f"{folder}/{thing.id}/{name}", value=other) for other in others(value))


def odd_plan(seed: int) -> Design:
    """A plan nobody would draw: any car, what is found in it by chance, any parts in any order, any of it otherwise."""
    chance = Random(seed)
    vehicle = new_vehicle(
        "Marl", f"Odd {seed}", chance.choice([1975, 1988, 1998, 2008, 2016, 2023]), chance.choice(list(Body)),
        chance.choice(list(Hand)), chance.choice(list(Powertrain)),
    )  # fmt: skip
    intake = Intake(wishes=tuple(chance.sample(list(Wish), 2)), budget=chance.choice([None, 400.0, 2000.0]),
                    reversible=chance.random() < 0.3)  # fmt: skip
    design = new_design("Odd", vehicle, intake, Policy())
    tier = chance.choice(list(Tier))
    tries: list[Callable[[], Iterable[Edit]]] = [
        lambda: [*modules_for(design, tier), Edit(path="vehicle/radio/tier/value", value=tier.value)],
        *(lambda what=what: add_to_survey(design, what)[1] for what in chance.sample(list(ADDITIONS), 4)),
        *(lambda tree=tree: added(design, tree, in_car=chance.random() < 0.2)
          for tree in chance.sample(catalogue(), chance.randint(2, 6))),
        *(lambda: [chance.choice(list(changes(design)))] for _ in range(chance.randint(0, 8))),
    ]  # fmt: skip
    for attempt in tries:
        with suppress(OhmackError):  # what this car may not have
            design = apply_edits(design, list(attempt()))
    return design
