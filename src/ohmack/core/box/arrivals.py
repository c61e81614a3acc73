"""When every output is heard at the driver's head, by the plan, and the delays that would make it one moment."""

from __future__ import annotations

from collections.abc import Sequence
from math import hypot

from ohmack.core.document import Design
from ohmack.core.document.boxed import boxed
from ohmack.core.document.edits import Edit
from ohmack.core.document.facts import Position
from ohmack.core.document.handles import at
from ohmack.core.document.vehicle import Hand
from ohmack.core.figures.finding import set_to
from ohmack.core.loads.corners import USUAL_LENGTH_M
from ohmack.core.loads.wirings import LoadResult
from ohmack.core.physics.small_signal import SOUND_SPEED_M_S
from ohmack.core.record import record

HEAD = 0.47, 0.36, 0.5  # of the car's length; metres off the middle; metres over the speakers: common practice
STEP_MS = 0.02  # what processors step by, common practice


@record
class Arrival:
    """One output: how far its nearest speaker is from the driver's head, and how late it has to be made."""

    load: LoadResult
    distance_m: float
    delay_ms: float


def away_m(design: Design, position: Position) -> float:
    """How far a place is from the driver's head, by the plan [m]. Source: where a head is: common practice."""
    along, aside, over = HEAD
    length_m = design.vehicle.length_m.value or USUAL_LENGTH_M
    side = 1 if design.vehicle.hand_of_drive is Hand.RIGHT else -1
    return hypot(position.x_m - along * length_m, position.y_m - side * aside, over)


def place_of(design: Design, thing_id: str) -> Position | None:
    """Where a speaker, or the box of a subwoofer, is; None where the plan does not say."""
    speaker = next((s for s in design.vehicle.speakers if s.id == thing_id), None)
    if speaker is not None:
        return speaker.position
    return next((box.position for box, subs in boxed(design) if thing_id in {sub.id for sub in subs}), None)


def arrivals(design: Design, loads: Sequence[LoadResult]) -> tuple[Arrival, ...]:
    """Every output whose place is known, with the delay that makes it arrive with the farthest.

    Parameters:
        design: the design.
        loads: its outputs.

    Returns:
        one entry an output, in their order; none where fewer than two places are known.

    Source: distance over the speed of sound: textbook; filters and boxes delay besides.
    """
    far: list[tuple[LoadResult, float]] = []
    for load in loads:
        places = [place for link in load.links if (place := place_of(design, link.to_id)) is not None]
        if places:
            far.append((load, min(away_m(design, place) for place in places)))
    if len(far) < 2:
        return ()
    farthest = max(metres for _, metres in far)
    return tuple(
        Arrival(load, metres, STEP_MS * round(1000 * (farthest - metres) / SOUND_SPEED_M_S / STEP_MS))
        for load, metres in far
    )


def edits_of(found: Sequence[Arrival]) -> tuple[Edit, ...]:
    """Edits that set these delays on every link of every output."""
    return tuple(
        set_to(at(link, lambda it: it.delay_ms), round(one.delay_ms, 2)) for one in found for link in one.load.links
    )
