"""Why readings of a hunt cannot all be true: a dead speaker, a shorted pair, wires that touch each other or the body,
one reading that is wrong; each with its odds.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from functools import lru_cache

from ohmack.core.document.harness import Fault, Heard, Hunt, HuntReading, TestKind, reads_open
from ohmack.core.document.vehicle import Vehicle
from ohmack.core.harness.contradictions import can_all_be_true, holds, possible_assignments
from ohmack.core.harness.hunt_targets import Target, broken, hypotheses
from ohmack.core.record import record
from ohmack.core.reference import table

RETEST_FROM = 0.04  # odds from which a reading is taken again first
MOST_COUNTED = 48  # explanations weighed by the assignments they leave


@record
class Explanation:
    """One thing that, if it is wrong, makes all other readings fit, with its odds among such things."""

    fault: Fault | None  # None for a reading that is wrong
    about_id: str  # the speaker's, the reading's, or the wire's
    odds: float
    other_id: str = ""  # the second wire of two that touch


@record
class _Suspect:
    fault: Fault | None
    about_id: str
    other_id: str
    hunt: Hunt
    ways: tuple[tuple[Target, ...], ...]
    kept: tuple[HuntReading, ...]
    prior: float  # how likely this is before anything was read
    twin: object  # what has the same twin leaves as many assignments


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
    return _explanations(hypotheses(vehicle, hunt), hunt)


@lru_cache(maxsize=16)
def _explanations(ways: tuple[tuple[Target, ...], ...], hunt: Hunt) -> tuple[Explanation, ...]:
    readings = tuple(r for r in hunt.readings if not r.withdrawn)
    if holds(hunt, ways, readings):
        return ()
    fitting: list[tuple[_Suspect, tuple[tuple[Target, ...], ...]]] = []
    twins: dict[object, tuple[tuple[Target, ...], ...]] = {}
    for suspect in _suspects(ways, hunt, readings):
        if suspect.twin not in twins:
            twins[suspect.twin] = tuple(way for way in suspect.ways if can_all_be_true(suspect.hunt, way, suspect.kept))
        if live := twins[suspect.twin]:
            fitting.append((suspect, live))
    found, counts = [], dict[object, float]()
    for suspect, live in sorted(fitting, key=lambda item: -item[0].prior)[:MOST_COUNTED]:
        if suspect.twin not in counts:
            left = sum(possible_assignments(suspect.hunt, way, suspect.kept) for way in live)
            counts[suspect.twin] = left / len(suspect.ways)
        found.append((suspect, suspect.prior * counts[suspect.twin]))
    total = sum(weight for _, weight in found)
    ranked = sorted(found, key=lambda item: (-item[1], item[0].about_id, item[0].other_id))
    return tuple(
        Explanation(one.fault, one.about_id, weight / total, one.other_id) for one, weight in ranked if total > 0
    )


def _suspects(
    ways: tuple[tuple[Target, ...], ...], hunt: Hunt, readings: tuple[HuntReading, ...]
) -> Iterator[_Suspect]:
    """Everything that may be wrong alone, with the speakers and the readings that are left to hold then."""
    limits = table("harness", "hunt")
    wires = len(hunt.wires)
    for k, target in enumerate(ways[0]):
        for fault in (Fault.DEAD, Fault.SHORTED):
            whole = [way for way in ways if not way[k].silent]
            if whole:
                those = tuple((*way[:k], broken(way[k], fault), *way[k + 1 :]) for way in whole)
                prior, twin = float(limits[f"odds_{fault.value}"]), (fault, _kind(target, readings, ways))
                yield _Suspect(fault, target.id, "", hunt, those, readings, prior, twin)
    for a, b in sorted(_may_touch(hunt, readings)):
        joined = hunt.model_copy(update={"touching_ids": tuple(sorted({*hunt.touching_ids, a, b}))})
        prior = float(limits["odds_touching"]) / (wires * (wires - 1) / 2)  # these two, of all there are
        yield _Suspect(Fault.TOUCHING, a, b, joined, ways, readings, prior, (a, b))
    for wire in sorted(_may_be_on_the_body(hunt, readings)):
        joined = hunt.model_copy(update={"to_body_ids": (*hunt.to_body_ids, wire)})
        yield _Suspect(Fault.TO_BODY, wire, "", joined, ways, readings, float(limits["odds_to_body"]) / wires, wire)
    for reading in readings:
        kept = tuple(r for r in readings if r is not reading)
        # a probe that does not touch shows nothing; that something shows where nothing is, is rarer
        missed = reads_open(reading.value_ohm) or reading.heard in (Heard.NOTHING, Heard.OPEN)
        prior = float(limits["odds_missed" if missed else "odds_misread"])
        if read_twice(hunt, reading):
            prior *= float(limits["odds_wrong_again"])
        yield _Suspect(None, reading.id, "", hunt, ways, kept, prior, reading.id)


def read_twice(hunt: Hunt, reading: HuntReading) -> bool:
    """Whether the same was read once before, withdrawn, and taken again."""

    def said(one: HuntReading) -> object:
        ohm = None if one.value_ohm is None else (reads_open(one.value_ohm), round(one.value_ohm))
        return one.kind, {one.wire_a_id, *one.clip}, one.heard, one.speaker_id, ohm

    return any(one.withdrawn and said(one) == said(reading) for one in hunt.readings)


def to_read_again(hunt: Hunt, found: Sequence[Explanation]) -> str:
    """The one reading to take again before anything is thought broken.

    Parameters:
        hunt: the hunt.
        found: what may explain its contradiction.

    Returns:
        the id of the reading that is likeliest wrong, where that is likely enough and it was not read twice; else "".
        Source: common practice, a reading costs half a minute.
    """
    readings = {r.id: r for r in hunt.readings}
    for one in found:
        if one.fault is None and one.odds >= RETEST_FROM and not read_twice(hunt, readings[one.about_id]):
            return one.about_id
    return ""


def _kind(target: Target, readings: Sequence[HuntReading], ways: Sequence[tuple[Target, ...]]) -> object:
    """What no reading tells apart, where no speaker is thought broken already: alike by ohms and named by none."""
    named = any(r.speaker_id == target.id for r in readings)
    return target.id if named or len(ways) > 1 else replace(target, id="", name="")


def _may_touch(hunt: Hunt, readings: Sequence[HuntReading]) -> set[tuple[str, str]]:
    """Two wires that read as one, and any two partners of a wire that shows a pair with both."""
    if hunt.touching_ids:
        return set()
    limits = table("harness", "hunt")
    found: set[tuple[str, str]] = set()
    partners: dict[str, list[str]] = {}
    for r in readings:
        if len(r.clip) != 1:
            continue
        a, b = r.wire_a_id, r.clip[0]
        if r.value_ohm is not None and r.value_ohm <= limits["shorted_ohm"]:
            found.add((min(a, b), max(a, b)))
        heard = r.kind is not TestKind.RESISTANCE and r.heard is not Heard.NOTHING
        if heard or (r.value_ohm is not None and r.value_ohm <= limits["pair_ohm"]):
            partners.setdefault(a, []).append(b)
            partners.setdefault(b, []).append(a)
    for those in partners.values():
        found |= {(min(x, y), max(x, y)) for n, x in enumerate(those) for y in those[n + 1 :] if x != y}
    return found


def _may_be_on_the_body(hunt: Hunt, readings: Sequence[HuntReading]) -> set[str]:
    return {
        r.wire_a_id
        for r in readings
        if r.kind is TestKind.BODY and r.heard is Heard.CONNECTED and r.wire_a_id not in hunt.to_body_ids
    }
