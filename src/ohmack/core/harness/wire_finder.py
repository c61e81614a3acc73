"""Which wire is which: readings narrow the assignments, the odds are exact, and the next test is the one that
decides most a minute.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache
from math import factorial, log2

import numpy as np

from ohmack.core.document.harness import Fault, Hunt, HuntWire
from ohmack.core.document.vehicle import Vehicle
from ohmack.core.harness.contradictions import smallest_contradiction
from ohmack.core.harness.hunt_masks import allowed_by, ground_of, together
from ohmack.core.harness.hunt_targets import Target, hypotheses
from ohmack.core.harness.next_tests import MOST_PROPOSED, NextTest, Way, proofs, queue_of, tests_worth_doing
from ohmack.core.physics.labelled_matching import Floats, Marginals, check_size, pairs_of, weigh
from ohmack.core.record import record
from ohmack.core.reference import table

CERTAIN = 1 - 1e-9


@record
class Guess:
    """One pair at one speaker with its odds; `plus` is the wire that is positive, with the odds of that."""

    speaker_id: str
    wires: tuple[str, str]
    odds: float
    plus: str
    plus_odds: float


@record
class Suspect:
    """A speaker that may be the one that is dead, or whose pair is shorted, with the odds."""

    speaker_id: str
    fault: Fault
    odds: float


@record
class Found:
    """What the readings leave: how many assignments, what is certain, the odds, what to do next, or what
    contradicts.
    """

    possible: float
    certain: tuple[Guess, ...]
    guesses: tuple[Guess, ...]  # the likeliest pair of every speaker not yet certain
    pair_odds: dict[tuple[str, str], float]
    grounds: tuple[str, ...]
    next_tests: tuple[NextTest, ...]
    contradiction: tuple[str, ...]  # ids of readings that cannot all be true
    unclear: tuple[str, ...]  # ids of readings that say nothing
    others: tuple[str, ...] = ()  # wires that lead elsewhere
    absent: tuple[str, ...] = ()  # speakers that have no pair among the wires
    suspects: tuple[Suspect, ...] = ()
    queue: tuple[NextTest, ...] = ()  # tests to go on with before the next answer is known
    smallest: bool = True  # whether no smaller set of readings contradicts; else none of them can be spared

    @property
    def complete(self) -> bool:
        """Whether every pair has its speaker."""
        return not self.guesses and not self.contradiction

    @property
    def bits_left(self) -> float:
        """Yes-or-no questions that are still open."""
        return log2(self.possible) if self.possible > 0 else 0.0


def colour_odds(one: HuntWire, other: HuntWire) -> float:
    """How much likelier two wires are a pair than two of no like colour.

    Parameters:
        one: a wire.
        other: another.

    Returns:
        a factor, 1 where the colours say nothing. Source: common practice; colours mislead, so they only move odds.
    """
    odds = table("harness", "hunt")
    if one.base is None or other.base is None:
        return 1.0
    if one.base is other.base and one.tracer is not other.tracer:
        return float(odds["odds_same_base"])
    mirrored = one.tracer is not None and (one.base, one.tracer) == (other.tracer, other.base)
    return float(odds["odds_mirrored"]) if mirrored else 1.0


def _plus_odds(one: HuntWire, other: HuntWire) -> float:
    """How much likelier the first is the plus: where both have one base, the plain one."""
    factor = float(table("harness", "hunt")["odds_tracer_minus"])
    if one.base is None or one.base is not other.base or (one.tracer is None) == (other.tracer is None):
        return 1.0
    return factor if one.tracer is None else 1 / factor


def _colours(hunt: Hunt) -> Floats:
    rows = []
    for a, b in pairs_of(len(hunt.wires)):
        one, other = hunt.wires[a], hunt.wires[b]
        factor, plus = colour_odds(one, other), _plus_odds(one, other)
        rows.append((factor * plus / (1 + plus), factor / (1 + plus)))
    return np.array(rows)


def find(vehicle: Vehicle, hunt: Hunt) -> Found:
    """Everything the readings of a hunt say.

    Parameters:
        vehicle: the car, whose speakers the wires may lead to.
        hunt: wires, speakers, grounds and readings.

    Returns:
        how many assignments are left, what is certain, odds, the next tests, or the readings that contradict. Where
        one speaker of unknown name is dead or shorted, every one that may be it counts.

    Raises:
        OutOfRange: the wires do not come out even.
    """
    return _find(hypotheses(vehicle, hunt), hunt)


@lru_cache(maxsize=32)  # a page asks several times, and so does every neighbour's page of the same job
def _find(ways: tuple[tuple[Target, ...], ...], hunt: Hunt) -> Found:
    check_size(len(hunt.wires), len(hunt.speaker_ids), hunt.grounds)
    readings = [r for r in hunt.readings if not r.withdrawn]
    ground = ground_of(hunt, readings)
    unclear = tuple(r.id for r in readings if not all(allowed_by(ground, way, r).clear for way in ways))
    colours = _colours(hunt)
    plain = bool((colours == colours[:1]).all())
    counted, weighed = [], []
    for way in ways:
        allowed = together(ground, way, readings)
        singles = allowed.grounds.astype(float), len(hunt.wires), hunt.grounds, allowed.others.astype(float)
        counted.append(weigh(allowed.pairs.astype(float), *singles))
        # where no colours are known they weigh nothing, and the odds are the count's own
        weighed.append(counted[-1] if plain else weigh(allowed.pairs * colours[None, :, :], *singles))
    total, whole = sum(one.total for one in counted), sum(one.total for one in weighed)
    if total <= 0:
        found = smallest_contradiction(hunt, ways)
        return Found(0.0, (), (), {}, (), (), found.ids, unclear, smallest=found.smallest)
    return _said(hunt, ways, (counted, total), (weighed, whole), unclear)


def _said(
    hunt: Hunt,
    ways: Sequence[tuple[Target, ...]],
    count: tuple[list[Marginals], float],
    weight: tuple[list[Marginals], float],
    unclear: tuple[str, ...],
) -> Found:
    (counted, total), (weighed, whole) = count, weight
    odds = [one.pairs / whole for one in weighed]
    over_all = np.asarray(sum(odds))
    sure = np.asarray(sum(one.pairs for one in counted)) / total
    certain, guesses, absent = _guesses(hunt, over_all, sure)
    ground_odds = np.asarray(sum(one.grounds for one in counted)) / total
    other_odds = np.asarray(sum(one.others for one in counted)) / total
    grounds = tuple(w.id for w, share in zip(hunt.wires, ground_odds, strict=True) if share > CERTAIN)
    tests = tests_worth_doing(
        hunt,
        [Way(way, share) for way, share in zip(ways, odds, strict=True) if share.any()],
        np.asarray(sum(one.grounds for one in weighed)) / whole,
        np.asarray(sum(one.others for one in weighed)) / whole,
        len(grounds) == hunt.grounds,
    )
    if not tests:
        live = [way for way, one in zip(ways, counted, strict=True) if one.total > 0]
        alike = {t.id: t for t in live[0]}
        pairs = [(alike[g.speaker_id], g.wires) for g in certain if not any(_silent(way, g.speaker_id) for way in live)]
        tests = proofs(hunt, [r for r in hunt.readings if not r.withdrawn], pairs)
    names = [(hunt.wires[a].id, hunt.wires[b].id) for a, b in pairs_of(len(hunt.wires))]
    return Found(
        total / factorial(hunt.grounds) / factorial(hunt.others),
        certain,
        guesses,
        dict(zip(names, map(float, over_all.sum(axis=(0, 2))), strict=True)),
        grounds,
        tests[:MOST_PROPOSED],
        (),
        unclear,
        tuple(w.id for w, share in zip(hunt.wires, other_odds, strict=True) if share > CERTAIN),
        absent,
        _suspects(hunt, ways, [one.total / whole for one in weighed]),
        queue_of(tests),
    )


def _silent(way: Sequence[Target], speaker_id: str) -> bool:
    return any(t.silent for t in way if t.id == speaker_id)


def _suspects(hunt: Hunt, ways: Sequence[tuple[Target, ...]], shares: Sequence[float]) -> tuple[Suspect, ...]:
    """Who may be the one that is dead or shorted, the likeliest first."""
    found = []
    for k, name in enumerate(hunt.speaker_ids):
        if hunt.fault_of(name) is not None:
            continue
        silent = [(way[k].reads_open, share) for way, share in zip(ways, shares, strict=True) if way[k].silent]
        for fault, opens in ((Fault.DEAD, True), (Fault.SHORTED, False)):
            odds = sum(share for is_open, share in silent if is_open is opens)
            if odds > 0:
                found.append(Suspect(name, fault, odds))
    return tuple(sorted(found, key=lambda one: (one.fault, -one.odds)))


def _guesses(hunt: Hunt, odds: Floats, sure: Floats) -> tuple[tuple[Guess, ...], tuple[Guess, ...], tuple[str, ...]]:
    """(certain, likeliest, speakers without a pair among the wires)."""
    certain: list[Guess] = []
    guesses: list[Guess] = []
    absent: list[str] = []
    pairs = pairs_of(len(hunt.wires))
    for s, name in enumerate(hunt.speaker_ids):
        if not sure[s].any():
            absent.append(name)
            continue
        by_pair = sure[s].sum(axis=1)
        best = int(np.argmax(by_pair))
        done = by_pair[best] > CERTAIN
        if not done:
            best = int(np.argmax(odds[s].sum(axis=1)))
        a, b = (hunt.wires[w].id for w in pairs[best])
        share = float(odds[s, best].sum())
        first = float(odds[s, best, 0]) / share if share else 0.5
        plus, plus_odds = (a, first) if first >= 0.5 else (b, 1 - first)
        if done and min(sure[s, best]) > 0 and plus_odds > CERTAIN:
            plus_odds = CERTAIN  # colours alone never make certain
        guess = Guess(name, (a, b), share, plus, plus_odds)
        (certain if done else guesses).append(guess)
    return tuple(certain), tuple(guesses), tuple(absent)
