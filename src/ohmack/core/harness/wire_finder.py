"""Which wire is which: readings narrow the assignments, the odds are exact, and the next test is the one that
decides most a minute.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from functools import lru_cache
from itertools import combinations
from math import factorial, log2

import numpy as np

from ohmack.core.document.harness import Heard, Hunt, HuntReading, HuntWire, TestKind
from ohmack.core.document.vehicle import Vehicle
from ohmack.core.harness.hunt_targets import Target, targets_of
from ohmack.core.physics.labelled_matching import Floats, check_size, pairs_of, weigh
from ohmack.core.record import record
from ohmack.core.reference import table

CERTAIN = 1 - 1e-9
MOST_CHECKS = 800  # readings are tried together at most so often for the smallest set that cannot all be true
MOST_STEPS = 200  # of one such try, before it is settled by dynamic programming


@record
class Guess:
    """One pair at one speaker with its odds; `plus` is the wire that is positive, with the odds of that."""

    speaker_id: str
    wires: tuple[str, str]
    odds: float
    plus: str
    plus_odds: float


@record
class NextTest:
    """A test worth doing: what it decides in bits, the minutes it takes."""

    kind: TestKind
    wires: tuple[str, ...]
    bits: float
    minutes: float

    @property
    def worth(self) -> float:
        """Bits a minute."""
        return self.bits / self.minutes


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

    @property
    def complete(self) -> bool:
        """Whether every pair has its speaker."""
        return not self.guesses and not self.contradiction

    @property
    def bits_left(self) -> float:
        """Yes-or-no questions that are still open."""
        return log2(self.possible) if self.possible > 0 else 0.0


class _Rules:
    """Readings turned into what is allowed: [speaker, pair, orientation] and [wire as ground]."""

    def __init__(self, hunt: Hunt, targets: Sequence[Target]) -> None:
        self.index = {wire.id: n for n, wire in enumerate(hunt.wires)}
        self.targets = targets
        self.pairs = pairs_of(len(hunt.wires))
        self.number = {pair: n for n, pair in enumerate(self.pairs)}
        self.allowed: Floats = np.ones((len(targets), len(self.pairs), 2))
        self.ground: Floats = np.ones(len(hunt.wires))
        self.unclear: list[str] = []
        self.limits = table("harness", "hunt")

    def take(self, reading: HuntReading) -> None:
        """Narrow by one reading."""
        a = self.index[reading.wire_a_id]
        if reading.kind is TestKind.BODY:
            self._body(a, reading.heard is Heard.CONNECTED)
            return
        b = self.index[reading.wire_b_id or reading.wire_a_id]
        if reading.kind is TestKind.RESISTANCE:
            self._resistance(a, b, reading)
        elif reading.kind is TestKind.TRIAL:
            wanted = [t.id == reading.speaker_id and not t.silent for t in self.targets]
            if reading.speaker_id is None:
                self.allowed[np.array([not t.silent for t in self.targets]), self._pair(a, b)] = 0
            else:
                self._is_pair(a, b, wanted)
        else:
            self._pop(a, b, reading)

    def _pair(self, a: int, b: int) -> int:
        return self.number[min(a, b), max(a, b)]

    def _body(self, a: int, connected: bool) -> None:
        if not connected:
            self.ground[a] = 0
            return
        for n, pair in enumerate(self.pairs):
            if a in pair:
                self.allowed[:, n] = 0

    def _resistance(self, a: int, b: int, reading: HuntReading) -> None:
        ohm = reading.value_ohm or 0.0
        if ohm >= self.limits["open_ohm"]:
            shut = np.array([not t.reads_open for t in self.targets])
            self.allowed[shut, self._pair(a, b)] = 0
        elif ohm <= self.limits["pair_ohm"]:
            self._is_pair(a, b, [not t.reads_open and t.low_ohm <= ohm <= t.high_ohm for t in self.targets])
        else:
            self.unclear.append(reading.id)

    def _pop(self, a: int, b: int, reading: HuntReading) -> None:
        pops = [t.may_pop for t in self.targets]
        pair = self._pair(a, b)
        if reading.heard is Heard.NOTHING:
            self.allowed[np.array(pops), pair] = 0
            return
        self._is_pair(a, b, pops)
        plus_first = (reading.heard is Heard.OUT) == (a < b)
        self.allowed[:, pair, 1 if plus_first else 0] = 0

    def _is_pair(self, a: int, b: int, speakers: Sequence[bool]) -> None:
        """a and b belong together, at one of some speakers."""
        self.ground[[a, b]] = 0
        for n, pair in enumerate(self.pairs):
            if pair == (min(a, b), max(a, b)):
                self.allowed[~np.array(speakers, dtype=bool), n] = 0
            elif a in pair or b in pair:
                self.allowed[:, n] = 0


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


def _rules(hunt: Hunt, targets: Sequence[Target], readings: Sequence[HuntReading]) -> _Rules:
    rules = _Rules(hunt, targets)
    for reading in readings:
        rules.take(reading)
    return rules


def can_all_be_true(hunt: Hunt, targets: Sequence[Target], readings: Sequence[HuntReading]) -> bool:
    """Whether some assignment agrees with all of these readings.

    Parameters:
        hunt: wires, speakers and grounds.
        targets: the speakers with their ranges.
        readings: the readings to hold together.

    Returns:
        True where one exists; found by searching the most constrained speaker first.

    Raises:
        OutOfRange: the wires do not come out even.
    """
    check_size(len(hunt.wires), len(targets), hunt.grounds)
    rules = _rules(hunt, targets, readings)
    marks = [1 << a | 1 << b for a, b in rules.pairs]
    options = [[marks[n] for n in np.flatnonzero(rules.allowed[s].any(axis=1))] for s in range(len(targets))]
    may_ground = sum(1 << int(w) for w in np.flatnonzero(rules.ground))
    everything = (1 << len(hunt.wires)) - 1
    quick = _search(options, everything, may_ground, [MOST_STEPS])
    return quick if quick is not None else _reachable(options, len(hunt.wires), may_ground)


def _search(options: list[list[int]], free: int, ground: int, steps: list[int]) -> bool | None:
    """Whether every speaker finds a pair among the free wires, and what is left may be ground; None where the steps
    run out.

    Sets of few readings leave so much open that the first try succeeds.
    """
    if not options:
        return not free & ~ground
    steps[0] -= 1
    if steps[0] < 0:
        return None
    fitting = [[mark for mark in rows if mark & free == mark] for rows in options]
    at = min(range(len(fitting)), key=lambda k: len(fitting[k]))
    rest = fitting[:at] + fitting[at + 1 :]
    for mark in fitting[at]:
        found = _search(rest, free & ~mark, ground, steps)
        if found is not False:
            return found
    return False


def _reachable(options: list[list[int]], wires: int, ground: int) -> bool:
    """The same by dynamic programming over sets of used wires: at most 2**16 of them a speaker, whatever the
    readings.
    """
    masks = np.arange(1 << wires, dtype=np.int64)
    here = np.zeros(1 << wires, dtype=bool)
    here[0] = True
    for rows in options:
        live, there = masks[here], np.zeros(1 << wires, dtype=bool)
        for mark in rows:
            there[live[(live & mark) == 0] | mark] = True
        here = there
    left = ((1 << wires) - 1) & ~masks[here]
    return bool(((left & ~ground) == 0).any())


def possible_assignments(hunt: Hunt, targets: Sequence[Target], readings: Sequence[HuntReading]) -> float:
    """How many assignments agree with some readings.

    Parameters:
        hunt: wires, speakers and grounds.
        targets: the speakers with their ranges.
        readings: the readings that hold.

    Returns:
        their number, orientations counted; exact.

    Raises:
        OutOfRange: the wires do not come out even.
    """
    rules = _rules(hunt, targets, readings)
    return weigh(rules.allowed, rules.ground, len(hunt.wires), hunt.grounds).total / factorial(hunt.grounds)


def smallest_contradiction(hunt: Hunt, targets: Sequence[Target]) -> tuple[str, ...]:
    """The smallest set of readings that cannot all be true.

    Parameters:
        hunt: the hunt; withdrawn readings do not count.
        targets: the speakers.

    Returns:
        ids of the readings; empty where all agree. Smallest up to three readings or as many tries as MOST_CHECKS
        allows; beyond that a set of which none can be spared.
    """
    readings = [r for r in hunt.readings if not r.withdrawn]
    if can_all_be_true(hunt, targets, readings):
        return ()
    spare = list(readings)  # thrown out one by one while the rest still contradicts
    for reading in readings:
        rest = [r for r in spare if r is not reading]
        if not can_all_be_true(hunt, targets, rest):
            spare = rest
    tries = 0
    for size in range(1, len(spare)):
        for some in combinations(readings, size):
            tries += 1
            if tries > MOST_CHECKS:
                return tuple(r.id for r in spare)
            if not can_all_be_true(hunt, targets, some):
                return tuple(r.id for r in some)
    return tuple(r.id for r in spare)


def find(vehicle: Vehicle, hunt: Hunt) -> Found:
    """Everything the readings of a hunt say.

    Parameters:
        vehicle: the car, whose speakers the wires may lead to.
        hunt: wires, speakers, grounds and readings.

    Returns:
        how many assignments are left, what is certain, odds, the next tests, or the readings that contradict.

    Raises:
        OutOfRange: two wires for each speaker and one for each ground do not make the number of wires.
    """
    return _find(targets_of(vehicle, hunt), hunt)


@lru_cache(maxsize=32)  # a page asks several times, and so does every neighbour's page of the same job
def _find(targets: tuple[Target, ...], hunt: Hunt) -> Found:
    wires = len(hunt.wires)
    check_size(wires, len(targets), hunt.grounds)
    rules = _rules(hunt, targets, [r for r in hunt.readings if not r.withdrawn])
    unclear = tuple(rules.unclear)
    weights = rules.allowed * _colours(hunt)[None, :, :]
    weighed = weigh(weights, rules.ground, wires, hunt.grounds)
    if weighed.total <= 0:
        return Found(0.0, (), (), {}, (), (), smallest_contradiction(hunt, targets), unclear)
    counted = weigh(rules.allowed, rules.ground, wires, hunt.grounds)
    possible = counted.total / factorial(hunt.grounds)
    odds = weighed.pairs / weighed.total
    sure = counted.pairs.sum(axis=2) / counted.total
    certain, guesses = _guesses(hunt, targets, odds, sure, counted.pairs / counted.total)
    pair_odds = odds.sum(axis=(0, 2))
    names = [(hunt.wires[a].id, hunt.wires[b].id) for a, b in rules.pairs]
    grounds = tuple(
        w.id for w, share in zip(hunt.wires, counted.grounds / counted.total, strict=True) if share > CERTAIN
    )
    tests = tuple(
        sorted(_tests(hunt, targets, odds, weighed.grounds / weighed.total), key=lambda t: (-t.worth, t.kind, t.wires))
    )
    return Found(
        possible,
        certain,
        guesses,
        dict(zip(names, map(float, pair_odds), strict=True)),
        grounds,
        tests[:5],
        (),
        unclear,
    )


def _guesses(
    hunt: Hunt, targets: Sequence[Target], odds: Floats, sure: Floats, counted: Floats
) -> tuple[tuple[Guess, ...], tuple[Guess, ...]]:
    certain: list[Guess] = []
    guesses: list[Guess] = []
    pairs = pairs_of(len(hunt.wires))
    for s, target in enumerate(targets):
        best = int(np.argmax(sure[s]))
        done = sure[s, best] > CERTAIN
        if not done:
            best = int(np.argmax(odds[s].sum(axis=1)))
        a, b = (hunt.wires[w].id for w in pairs[best])
        share = float(odds[s, best].sum())
        first = float(odds[s, best, 0]) / share if share else 0.5
        plus, plus_odds = (a, first) if first >= 0.5 else (b, 1 - first)
        if done and min(counted[s, best]) > 0 and plus_odds > CERTAIN:
            plus_odds = CERTAIN  # colours alone never make certain
        guess = Guess(target.id, (a, b), share, plus, plus_odds)
        (certain if done else guesses).append(guess)
    return tuple(certain), tuple(guesses)


def _entropy(shares: Iterator[float] | list[float]) -> float:
    return -sum(p * log2(p) for p in shares if p > 1e-12)


def _classes(targets: Sequence[Target]) -> list[int]:
    """Speakers an ohmmeter cannot tell apart share a class; those that read open have class -1."""
    order = sorted(range(len(targets)), key=lambda k: targets[k].low_ohm)
    found, number, reach = [-1] * len(targets), -1, -1.0
    for k in order:
        if targets[k].reads_open:
            continue
        if targets[k].low_ohm > reach:
            number += 1
        found[k] = number
        reach = max(reach, targets[k].high_ohm)
    return found


def _tests(hunt: Hunt, targets: Sequence[Target], odds: Floats, grounds: Floats) -> Iterator[NextTest]:
    """Every test that still decides something: the outcome follows from the assignment, so its bits are the
    outcome's entropy.
    """
    limits, classes = table("harness", "hunt"), _classes(targets)
    pops = np.array([t.may_pop for t in targets])
    for n, (a, b) in enumerate(pairs_of(len(hunt.wires))):
        names = (hunt.wires[a].id, hunt.wires[b].id)
        by_speaker = odds[:, n].sum(axis=1)
        seen = [
            sum(float(p) for p, c in zip(by_speaker, classes, strict=True) if c == k)
            for k in range(max(classes, default=-1) + 1)
        ]
        for kind, shares in (
            (TestKind.RESISTANCE, seen),
            (TestKind.TRIAL, [float(p) for p in by_speaker]),
            (TestKind.POP, [float(odds[pops, n, k].sum()) for k in (0, 1)]),
        ):
            bits = _entropy([*shares, max(0.0, 1 - sum(shares))])
            if bits > 1e-6:
                yield NextTest(kind, names, bits, float(limits[f"minutes_{kind.name.lower()}"]))
    if hunt.grounds:
        for wire, share in zip(hunt.wires, grounds, strict=True):
            bits = _entropy([float(share), 1 - float(share)])
            if bits > 1e-6:
                yield NextTest(TestKind.BODY, (wire.id,), bits, float(limits["minutes_body"]))
