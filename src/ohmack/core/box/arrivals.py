"""When every output is heard at the driver's head, by the plan, and the delays that would make it one moment."""

from __future__ import annotations

from collections.abc import Sequence
from math import hypot

from ohmack.core.document import Design
from ohmack.core.document.boxed import boxed
from ohmack.core.document.edits import Edit
from ohmack.core.document.facts import Position
from ohmack.core.document.handles import at
from ohmack.core.document.parts import Subwoofer
from ohmack.core.document.vehicle import Hand
from ohmack.core.figures.figure import Book, Figure, Formula, Term, fixed, reference
from ohmack.core.figures.finding import set_to
from ohmack.core.loads.corners import USUAL_LENGTH_M
from ohmack.core.loads.wirings import LoadResult
from ohmack.core.physics.small_signal import SOUND_SPEED_M_S
from ohmack.core.record import record
from ohmack.core.reference import PHYSICS, PRACTICE

ALONG, ASIDE_M, OVER_M = 0.47, 0.36, 0.5  # a head: of the car's length, off the middle, over the speakers
STEP_MS = 0.02  # what processors step by; all four common practice


def way_m(x_m: float, y_m: float, length_m: float, side: float) -> float:
    """How far a place on the plan is from the driver's head.

    Parameters:
        x_m: behind the nose [m].
        y_m: to the right of the middle [m].
        length_m: of the car [m].
        side: 1 for right-hand drive, −1 for left.

    Returns:
        distance [m].

    Source: geometry; where a head is: common practice.
    """
    return hypot(x_m - ALONG * length_m, y_m - side * ASIDE_M, OVER_M)


AWAY = Formula("Way to the driver's head", "m", "√((x − 0.47 L)² + (y − 0.36 side)² + 0.5²)", way_m, PRACTICE)
DELAY = Formula(
    "Delay to set", "ms", "1000 (farthest − own) / 343.2, in steps of 0.02",
    lambda farthest, own: STEP_MS * round(1000 * (farthest - own) / SOUND_SPEED_M_S / STEP_MS), PHYSICS,
)  # fmt: skip


@record
class Arrival:
    """One output: how far its nearest speaker is from the driver's head, and how late it has to be made."""

    load: LoadResult
    away: Figure
    delay: Figure


def place_of(design: Design, thing_id: str) -> tuple[Position, str] | None:
    """Where a speaker is, or the box or own place of a subwoofer, and its path; None where the plan does not say."""
    sub = next((part for part in design.parts_of(Subwoofer) if part.id == thing_id), None)
    place_id = sub.at_ids[0] if sub is not None and sub.at_ids else thing_id
    speaker = next((s for s in design.vehicle.speakers if s.id == place_id), None)
    if speaker is not None:
        return speaker.position, at(speaker, lambda it: it.position)
    box = next((box for box, subs in boxed(design) if thing_id in {sub.id for sub in subs}), None)
    return None if box is None or box.position is None else (box.position, at(box, lambda it: it.position))


def away(book: Book, scope: str, thing_ids: Sequence[str], name: str) -> Figure | None:
    """How far the nearest of some things is from the driver's head; None where none has a place.

    Parameters:
        book: the book of the design.
        scope: what the figure is filed under.
        thing_ids: speakers or subwoofers.
        name: of all of them.

    Returns:
        the figure [m].

    Source: see `way_m`.
    """
    design = book.design
    vehicle = design.vehicle
    side = 1.0 if vehicle.hand_of_drive is Hand.RIGHT else -1.0
    length_m = vehicle.length_m.value or USUAL_LENGTH_M
    places = [place for thing_id in thing_ids if (place := place_of(design, thing_id)) is not None]
    if not places:
        return None
    position, path = min(places, key=lambda place: way_m(place[0].x_m, place[0].y_m, length_m, side))
    length: Term = reference("length of a usual car", USUAL_LENGTH_M, "m", PRACTICE)
    if vehicle.length_m.value is not None:
        length = book.fact(vehicle, lambda it: it.length_m, "length of the car", "m")
    x_m, y_m = position.point
    terms = (fixed("behind the nose", x_m, "m", path), fixed("right of the middle", y_m, "m", path))
    hand = fixed("driver sits right (1) or left (−1)", side, "", at(vehicle, lambda it: it.hand_of_drive))
    return book.figure(f"{scope}/away_m", AWAY, *terms, length, hand, name=f"{name}, way to the driver's head")


def compute_arrivals(book: Book, loads: Sequence[LoadResult]) -> list[Arrival]:
    """Every output whose place is known, with the delay that makes it arrive with the farthest.

    Parameters:
        book: the book of the design.
        loads: its outputs.

    Returns:
        one entry an output, in their order; none where fewer than two places are known.

    Source: distance over the speed of sound: textbook; filters and boxes delay besides.
    """
    known = [(load, far) for load in loads if (far := _away(book, load)) is not None]
    if len(known) < 2:
        return []
    farthest = max((far for _, far in known), key=lambda far: far.value or 0.0)
    return [
        Arrival(load, far, book.figure(f"{load.scope}/delay_ms", DELAY, farthest, far, name=f"Delay of {_named(load)}"))
        for load, far in known
    ]


def _named(load: LoadResult) -> str:
    return f"{load.channel_name}: {load.driven_name}"


def _away(book: Book, load: LoadResult) -> Figure | None:
    return away(book, load.scope, [link.to_id for link in load.links], _named(load))


def edits_of(found: Sequence[Arrival]) -> tuple[Edit, ...]:
    """Edits that set these delays on every link of every output."""
    return tuple(
        set_to(at(link, lambda it: it.delay_ms), round(one.delay.value or 0.0, 2))
        for one in found
        for link in one.load.links
    )
