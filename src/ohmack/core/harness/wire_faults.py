"""Why readings of a hunt cannot all be true: a speaker that is dead, a pair that is shorted, one reading that is wrong;
each with its odds.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from functools import lru_cache

from ohmack.core.document.harness import Fault, Hunt, HuntReading
from ohmack.core.document.vehicle import Vehicle
from ohmack.core.harness.hunt_targets import Target, broken, targets_of
from ohmack.core.harness.wire_finder import can_all_be_true, possible_assignments
from ohmack.core.record import record
from ohmack.core.reference import table


@record
class Explanation:
    """One thing that, if it is wrong, makes all other readings fit, with its odds among such things."""

    fault: Fault | None  # None for a reading that is wrong
    about_id: str  # the speaker's, or the reading's
    odds: float


def explanations(vehicle: Vehicle, hunt: Hunt) -> tuple[Explanation, ...]:
    """What single fault would make the readings of a hunt fit.

    Parameters:
        vehicle: the car.
        hunt: a hunt whose readings cannot all be true.

    Returns:
        the faults that do, the likeliest first, their odds summing to one; empty where no single one does. A fault
        weighs by how common it is and by how many assignments the readings leave under it.

    Source: Bayes's rule; how common faults are is common practice.
    """
    return _explanations(targets_of(vehicle, hunt), hunt)


@lru_cache(maxsize=16)
def _explanations(targets: tuple[Target, ...], hunt: Hunt) -> tuple[Explanation, ...]:
    readings = tuple(r for r in hunt.readings if not r.withdrawn)
    if can_all_be_true(hunt, targets, readings):
        return ()
    limits = table("harness", "hunt")
    common: dict[Fault | None, float] = {fault: float(limits[f"odds_{fault.value}"]) for fault in Fault}
    common[None] = float(limits["odds_misread"])
    found = []
    for fault, about_id, those, kept in _suspects(targets, readings):
        if can_all_be_true(hunt, those, kept):
            found.append((fault, about_id, common[fault] * possible_assignments(hunt, those, kept)))
    total = sum(weight for *_, weight in found)
    ranked = sorted(found, key=lambda item: (-item[2], item[1]))
    return tuple(Explanation(fault, about_id, weight / total) for fault, about_id, weight in ranked if total > 0)


def _suspects(
    targets: tuple[Target, ...], readings: tuple[HuntReading, ...]
) -> Iterator[tuple[Fault | None, str, tuple[Target, ...], Sequence[HuntReading]]]:
    """Everything that may be wrong alone, with the speakers and the readings that are left to hold then."""
    for k, target in enumerate(targets):
        for fault in (Fault.DEAD, Fault.SHORTED):
            if not target.silent:
                yield fault, target.id, (*targets[:k], broken(target, fault), *targets[k + 1 :]), readings
    for reading in readings:
        yield None, reading.id, targets, [r for r in readings if r is not reading]
