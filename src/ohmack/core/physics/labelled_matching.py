"""Labelled matchings: unknown wires fall into pairs, each pair to one speaker, the rest to ground or elsewhere; counted
exactly.

The wires used so far are a bit mask; speakers are taken in turn. A forward and a backward pass over the masks give the
number (or weight) of all assignments and of those that hold any one pair at any one speaker, without listing them.
"""

from __future__ import annotations

from collections.abc import Iterator
from functools import cache
from itertools import combinations

import numpy as np
from numpy.typing import NDArray

from ohmack.core.errors import OutOfRange
from ohmack.core.record import record

MOST_WIRES = 16  # 2**16 masks of 8 bytes a speaker: under 10 MB
MOST_WITH_ABSENT = 12  # wires, where speakers may have no pair among them: more masks are alive at once
MOSTLY_OPEN = 0.25  # share of the pairs from which whole levels are counted at once; measured
Floats = NDArray[np.float64]


@record
class Marginals:
    """How much of the total weight holds each thing: pairs by speaker and orientation, and single wires."""

    total: float
    pairs: Floats  # [speaker, pair, orientation], orientation 0: plus on the first wire of the pair
    grounds: Floats  # [wire]
    others: Floats  # [wire], leads elsewhere


@cache
def pairs_of(wires: int) -> tuple[tuple[int, int], ...]:
    """All pairs of wires, in a fixed order."""
    return tuple(combinations(range(wires), 2))


def check_size(wires: int, speakers: int, grounds: int) -> None:
    """Refuse a hunt that cannot come out even.

    Parameters:
        wires: unknown wires.
        speakers: speakers they may lead to, two wires each.
        grounds: grounds among them, one wire each.

    Raises:
        OutOfRange: too many wires; or fewer than two for each speaker and one for each ground, and an odd one left or
            too many of them to leave speakers out.
    """
    if not 1 <= wires <= MOST_WIRES:
        raise OutOfRange("wires", wires, "wires", f"1 to {MOST_WIRES}")
    wanted = 2 * speakers + grounds
    if wanted > wires and (grounds > wires or (wires - grounds) % 2):
        words = f"{wanted}: two for each of {speakers} speakers and one for each of {grounds} grounds, or pairs of them"
        raise OutOfRange("wires", wires, "wires", words)
    if wanted > wires > MOST_WITH_ABSENT:
        raise OutOfRange("wires", wires, "wires", f"up to {MOST_WITH_ABSENT} where there are more speakers than pairs")


def weigh(
    weights: Floats, ground_weights: Floats, wires: int, grounds: int, other_weights: Floats | None = None
) -> Marginals:
    """Sum over every labelled matching of the product of its weights, with every marginal.

    Parameters:
        weights: [speaker, pair, orientation], 0 where a pair cannot be that speaker's.
        ground_weights: [wire], 0 where a wire cannot be a ground.
        wires: number of wires, at most 16.
        grounds: how many of them are grounds.
        other_weights: [wire], 0 where a wire cannot lead elsewhere; as many do as are left over.

    Returns:
        the total weight and the weight of all assignments that hold each pair, ground or other wire. The singles
        count in every order: divide by the factorials of grounds and of others for assignments. With more speakers
        than pairs each may be left out, with weight 1.

    Raises:
        OutOfRange: the wires do not come out even.

    Method: dynamic programming over subsets, exact. Source: textbook (Held and Karp's subset scheme).
    """
    speakers, pairs = weights.shape[0], pairs_of(wires)
    order = _narrowest_first(weights)
    back = np.argsort(order)
    weights = weights[order]
    plain, rows, marks = _steps(weights, ground_weights, wires, grounds, other_weights)
    forward = [*_forward(rows, marks, 1 << wires)]
    total = float(forward[-1][-1])
    shares = _backward(forward, rows, marks, 1 << wires)
    held = np.array([share[: len(pairs)] for share in shares[:speakers]]).reshape(speakers, len(pairs))
    scale = np.divide(held, plain, out=np.zeros_like(plain), where=plain > 0)
    alone = [*shares[speakers:], np.zeros(wires)]
    return Marginals(
        total,
        (weights * scale[:, :, None])[back],
        np.asarray(sum(alone[:grounds], start=np.zeros(wires))),
        np.asarray(sum(alone[grounds:], start=np.zeros(wires))),
    )


def total_weight(
    weights: Floats, ground_weights: Floats, wires: int, grounds: int, other_weights: Floats | None = None
) -> float:
    """The total of `weigh` alone, in half the work.

    Parameters:
        weights: as for `weigh`.
        ground_weights: as for `weigh`.
        wires: number of wires, at most 16.
        grounds: how many of them are grounds.
        other_weights: as for `weigh`.

    Returns:
        the sum over every labelled matching of the product of its weights.

    Raises:
        OutOfRange: the wires do not come out even.
    """
    plain, rows, marks = _steps(weights[_narrowest_first(weights)], ground_weights, wires, grounds, other_weights)
    start, done = None, 0
    if 2 * weights.shape[0] + grounds <= wires and np.count_nonzero(plain) > MOSTLY_OPEN * plain.size:
        start, done = _pairs_used(plain, wires), len(plain)
    *_, last = _forward(rows[done:], marks[done:], 1 << wires, start)
    return float(last[-1])


@cache
def _sets_of(wires: int, pairs: int) -> NDArray[np.int64]:
    """Every set of wires that so many pairs use, as masks in rising order."""
    masks = np.arange(1 << wires, dtype=np.int64)
    used = sum(masks >> wire & 1 for wire in range(wires))
    return np.flatnonzero(used == 2 * pairs)


@cache
def _predecessors(wires: int, pairs: int) -> tuple[NDArray[np.int32], NDArray[np.int16]]:
    """[set of so many pairs, its pairs]: the place of what is left without the pair among the smaller sets; the
    pair's number.
    """
    smaller, sets = _sets_of(wires, pairs - 1), _sets_of(wires, pairs)
    place = np.zeros(1 << wires, dtype=np.int32)
    place[smaller] = np.arange(len(smaller))
    bits = np.array([1 << a | 1 << b for a, b in pairs_of(wires)], dtype=np.int64)
    held = np.nonzero((sets[:, None] & bits) == bits)[1].reshape(len(sets), -1)
    return place[sets[:, None] ^ bits[held]], held.astype(np.int16)


def _pairs_used(plain: Floats, wires: int) -> Floats:
    """[mask] the weight of all ways in which every speaker has a pair: level by level over all sets of a size, faster
    than mask by mask where most pairs are open.
    """
    here = np.ones(1)
    for number, row in enumerate(plain, start=1):
        before, pair = _predecessors(wires, number)
        here = np.einsum("ij,ij->i", here[before], row[pair])
    every = np.zeros(1 << wires)
    every[_sets_of(wires, len(plain))] = here
    return every


def _narrowest_first(weights: Floats) -> NDArray[np.int64]:
    """The speakers with the fewest pairs first: the fewer ways a step leaves, the fewer masks the next one meets."""
    return np.argsort((weights > 0).any(axis=2).sum(axis=1), kind="stable")


def _steps(
    weights: Floats, ground_weights: Floats, wires: int, grounds: int, other_weights: Floats | None
) -> tuple[Floats, list[Floats], list[NDArray[np.int64]]]:
    """(weights of either orientation together, weights and bits of every choice in the order they are made)."""
    speakers = weights.shape[0]
    check_size(wires, speakers, grounds)
    others = max(0, wires - 2 * speakers - grounds)
    bits = np.array([1 << a | 1 << b for a, b in pairs_of(wires)], dtype=np.int64)
    singles = np.array([1 << w for w in range(wires)], dtype=np.int64)
    plain = weights.sum(axis=2)
    rows, marks = [plain[s] for s in range(speakers)], [bits] * speakers
    if 2 * speakers + grounds > wires:
        rows = [np.append(row, 1.0) for row in rows]
        marks = [np.append(bits, 0)] * speakers
    elsewhere = np.ones(wires) if other_weights is None else other_weights
    rows += [ground_weights] * grounds + [elsewhere] * others
    marks += [singles] * (grounds + others)
    return plain, rows, marks


def _forward(
    rows: list[Floats], marks: list[NDArray[np.int64]], size: int, start: Floats | None = None
) -> Iterator[Floats]:
    """[mask] the weight of all ways to have used these wires, before the first choice and after each."""
    here = np.zeros(size) if start is None else start
    if start is None:
        here[0] = 1.0
    yield here
    for row, mark_row in zip(rows, marks, strict=True):
        there, live = np.zeros(size), np.flatnonzero(here)
        for weight, mark in zip(row, mark_row, strict=True):
            if weight > 0:
                free = live[(live & mark) == 0]
                there[free | mark] += here[free] * weight
        here = there
        yield here


def _backward(forward: list[Floats], rows: list[Floats], marks: list[NDArray[np.int64]], size: int) -> list[Floats]:
    """The weight of all assignments that hold each mark of each row."""
    back = np.zeros(size)
    back[size - 1] = 1.0
    shares: list[Floats] = []
    for here, row, mark_row in zip(reversed(forward[:-1]), reversed(rows), reversed(marks), strict=True):
        before, share = np.zeros(size), np.zeros(len(row))
        live = np.flatnonzero(here)
        for k, (weight, mark) in enumerate(zip(row, mark_row, strict=True)):
            if weight <= 0:
                continue
            free = live[(live & mark) == 0]
            beyond = back[free | mark] * weight
            before[free] += beyond
            share[k] = here[free] @ beyond
        back = before
        shares.append(share)
    return shares[::-1]
