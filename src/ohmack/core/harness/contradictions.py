"""Whether readings of a hunt can all be true, how many assignments they leave, and the fewest that cannot be."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from itertools import combinations
from math import factorial

import numpy as np

from ohmack.core.document.harness import Hunt, HuntReading
from ohmack.core.harness.hunt_masks import Allowed, ground_of, together
from ohmack.core.harness.hunt_targets import Target
from ohmack.core.physics.labelled_matching import check_size, pairs_of, total_weight
from ohmack.core.record import record

MOST_CHECKS = 150  # sets of readings tried for the smallest that cannot all be true
MOST_STEPS = 200  # of one such try, before it is settled by dynamic programming


@record
class Contradiction:
    """Readings that cannot all be true; `smallest` where no smaller set is, else none of them can be spared."""

    ids: tuple[str, ...]
    smallest: bool = True


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
    allowed = together(ground_of(hunt, readings), tuple(targets), readings)
    marks = np.array([1 << a | 1 << b for a, b in pairs_of(len(hunt.wires))], dtype=np.int64)
    absent = [0] if 2 * len(targets) + hunt.grounds > len(hunt.wires) else []
    fits = allowed.pairs[:, :, 0] | allowed.pairs[:, :, 1]
    options = [[*marks[fits[s]].tolist(), *absent] for s in range(len(targets))]
    singles = _Singles(allowed, hunt.grounds, hunt.others)
    quick = _search(options, (1 << len(hunt.wires)) - 1, singles, [MOST_STEPS])
    return quick if quick is not None else _reachable(options, len(hunt.wires), singles)


class _Singles:
    """Which sets of wires may be left for grounds and for what leads elsewhere."""

    def __init__(self, allowed: Allowed, grounds: int, others: int) -> None:
        def mask(row: np.ndarray) -> int:
            return sum(1 << int(w) for w in np.flatnonzero(row))

        self.ground, self.other = mask(allowed.grounds) if grounds else 0, mask(allowed.others) if others else 0
        self.grounds, self.others = grounds, others

    def take(self, left: int) -> bool:
        """Whether these wires may be the grounds and those that lead elsewhere."""
        if left.bit_count() != self.grounds + self.others or left & ~(self.ground | self.other):
            return False
        only_ground, only_other = left & ~self.other, left & ~self.ground
        return only_ground.bit_count() <= self.grounds and only_other.bit_count() <= self.others


def _search(options: list[list[int]], free: int, singles: _Singles, steps: list[int]) -> bool | None:
    """Whether every speaker finds a pair among the free wires, and what is left may be single; None where the steps
    run out.

    Sets of few readings leave so much open that the first try succeeds.
    """
    if not options:
        return singles.take(free)
    steps[0] -= 1
    if steps[0] < 0:
        return None
    fitting = [[mark for mark in rows if mark & free == mark] for rows in options]
    at = min(range(len(fitting)), key=lambda k: len(fitting[k]))
    rest = fitting[:at] + fitting[at + 1 :]
    for mark in fitting[at]:
        found = _search(rest, free & ~mark, singles, steps)
        if found is not False:
            return found
    return False


def _reachable(options: list[list[int]], wires: int, singles: _Singles) -> bool:
    """The same by dynamic programming over sets of used wires: at most 2**16 of them a speaker, whatever the
    readings; the narrowest speaker first, so that few sets are alive for long.
    """
    here = np.zeros(1 << wires, dtype=bool)
    here[0] = True
    for rows in sorted(options, key=len):
        live, there = np.flatnonzero(here), np.zeros(1 << wires, dtype=bool)
        for mark in rows:
            there[live[(live & mark) == 0] | mark] = True
        here = there
    everything = (1 << wires) - 1
    return any(singles.take(everything & ~int(mask)) for mask in np.flatnonzero(here))


def possible_assignments(hunt: Hunt, targets: Sequence[Target], readings: Sequence[HuntReading]) -> float:
    """How many assignments agree with some readings.

    Parameters:
        hunt: wires, speakers and grounds.
        targets: the speakers with their ranges.
        readings: the readings that hold.

    Returns:
        their number, orientations counted; exact where nothing touches.

    Raises:
        OutOfRange: the wires do not come out even.
    """
    allowed = together(ground_of(hunt, readings), tuple(targets), readings)
    total = total_weight(
        allowed.pairs.astype(float), allowed.grounds.astype(float), len(hunt.wires), hunt.grounds,
        allowed.others.astype(float),
    )  # fmt: skip
    return total / factorial(hunt.grounds) / factorial(hunt.others)


def holds(hunt: Hunt, ways: Sequence[Sequence[Target]], readings: Sequence[HuntReading]) -> bool:
    """Whether the readings can all be true in some way the speakers may be.

    Of ways that differ only in which of several speakers is which, where none of those is named, one is tried.
    """
    if len(ways) == 1:
        return can_all_be_true(hunt, ways[0], readings)
    named = {reading.speaker_id for reading in readings}
    unlike = {tuple(sorted(_as_read(target, named) for target in targets)): targets for targets in ways}
    return any(can_all_be_true(hunt, targets, readings) for targets in unlike.values())


def _as_read(target: Target, named: Collection[str | None]) -> tuple[str, float, float, bool, bool, bool]:
    """All that a reading may tell of a speaker."""
    name = target.id if target.id in named else ""
    return name, target.low_ohm, target.high_ohm, target.reads_open, target.may_pop, target.silent


def smallest_contradiction(hunt: Hunt, ways: Sequence[Sequence[Target]]) -> Contradiction:
    """The smallest set of readings that cannot all be true.

    Parameters:
        hunt: the hunt; withdrawn readings do not count.
        ways: every way the speakers may be.

    Returns:
        the readings; none where all agree. Smallest as far as MOST_CHECKS tries show it, beyond that a set of which
        none can be spared.
    """
    readings = [r for r in hunt.readings if not r.withdrawn]
    if holds(hunt, ways, readings):
        return Contradiction(())
    spare = list(readings)  # thrown out while the rest still contradicts: in halves, then one by one
    size = len(spare) // 2
    while size:
        at = 0
        while at < len(spare):
            rest = spare[:at] + spare[at + size :]
            if len(rest) < len(spare) and not holds(hunt, ways, rest):
                spare = rest
            else:
                at += size
        size //= 2
    tries = 0
    for size in range(1, len(spare)):
        for some in combinations(readings, size):
            tries += 1
            if tries > MOST_CHECKS:
                return Contradiction(tuple(r.id for r in spare), smallest=False)
            if not holds(hunt, ways, some):
                return Contradiction(tuple(r.id for r in some))
    return Contradiction(tuple(r.id for r in spare))
