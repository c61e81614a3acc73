"""Rules on what is grounded where."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document.facts import Basis
from ohmack.core.document.grounding import Grounding, groundings
from ohmack.core.document.handles import at
from ohmack.core.document.vehicle import Body, GroundKind
from ohmack.core.figures.finding import Draft, Remedy, note, rule, stop, watch
from ohmack.core.reference import PRACTICE

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

FORBIDDEN = (GroundKind.SEAT_BOLT, GroundKind.BELT_BOLT)


@rule("ground-place", "supply", PRACTICE)
def ground_place(results: Results) -> Iterator[Draft]:
    """Something is grounded where it must not be, or where nobody looked, or otherwise than the shop does it."""
    said = set[str]()
    for one in sorted(groundings(results.design), key=lambda it: not it.of_a_run):
        if one.point.id not in said:  # once for a point, of a run's own lead before any other
            said.add(one.point.id)
            yield from _judged(one, results.design.policy.ground_school)


@rule("frame-floats", "supply", PRACTICE)
def frame_floats(results: Results) -> Iterator[Draft]:
    """Something is grounded at the frame of an electric cart, which may hang on neither pole of its pack."""
    vehicle = results.design.vehicle
    path = at(vehicle.supply, lambda it: it.body_return_ohm)
    if vehicle.body is not Body.CART or vehicle.supply.body_return_ohm.basis is not Basis.ASSUMED:
        return
    for one in groundings(results.design):
        read = one.point.body_return_ohm.basis is not Basis.ASSUMED and one.point.body_return_ohm.value is not None
        if one.point.kind.value is not GroundKind.BATTERY and not read:
            yield watch(
                path,
                f"Not known: whether {one.point.name} reaches the pack's negative",
                "The frame of many electric carts is on neither pole. Read from it to the negative post of the pack; if"
                " it is open, lead a black wire back, as thick as the red one.",
                Remedy("Enter it", path=path),
            )
            return


def _judged(one: Grounding, school: str) -> Iterator[Draft]:
    point, kind = one.point, one.point.kind.value
    if kind is None:
        yield stop(
            point.id,
            f"Not known: what {point.name} is",
            "A stud, a factory bolt, a seat bolt? Look before you plan on it.",
            Remedy("Enter it", path=at(point, lambda it: it.kind)),
        )
    elif kind in FORBIDDEN:
        yield stop(
            point.id,
            f"Never ground on a {kind.value}",
            "It holds a person in a crash; its thread and torque belong to the maker.",
            Remedy("Choose another point", path=one.path),
        )
    elif kind is GroundKind.SELF_TAPPING:
        yield watch(
            point.id,
            "Grounded by a self-tapping screw",
            "Tolerated by some in thick metal, refused by others. Measure the drop under load.",
        )
    elif one.of_a_run and kind.value != school:
        yield note(
            point.id,
            f"Ground on a {kind.value}",
            f"The shop's way is the {school}. Measure the drop under load.",
        )
