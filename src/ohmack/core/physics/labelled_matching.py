"""Labelled matchings: unknown wires fall into pairs, each pair to one speaker, the rest to ground; counted exactly.

The wires used so far are a bit mask; speakers are taken in turn. A forward and a backward pass over the masks give the
number (or weight) of all assignments and of those that hold any one pair at any one speaker, without listing them.
"""

from __future__ import annotations

from functools import cache
from itertools import combinations

import numpy as np
from numpy.typing import NDArray

from ohmack.core.errors import OutOfRange
from ohmack.core.record import record

MOST_WIRES = 16  # 2**16 masks of 8 bytes a speaker: under 10 MB
Floats = NDArray[np.float64]


@record
class Marginals:
    """How much of the total weight holds each thing: pairs by speaker and orientation, and grounds."""

    total: float
    pairs: Floats  # [speaker, pair, orientation], orientation 0: plus on the first wire of the pair
    grounds: Floats  # [wire]


@cache
def pairs_of(wires: int) -> tuple[tuple[int, int], ...]:
    """All pairs of wires, in a fixed order."""
    return tuple(combinations(range(wires), 2))


@cache
def _layers(wires: int) -> tuple[NDArray[np.int64], ...]:
    """The masks with 0, 1, 2 ... wires used."""
    masks = np.arange(1 << wires, dtype=np.int64)
    used = np.zeros_like(masks)
    for bit in range(wires):
        used += masks >> bit & 1
    return tuple(masks[used == count] for count in range(wires + 1))


def check_size(wires: int, speakers: int, grounds: int) -> None:
    """Refuse a hunt whose wires do not come out even.

    Parameters:
        wires: unknown wires.
        speakers: speakers they may lead to, two wires each.
        grounds: grounds among them, one wire each.

    Raises:
        OutOfRange: too many wires, or two for each speaker and one for each ground do not make their number.
    """
    if not 1 <= wires <= MOST_WIRES:
        raise OutOfRange("wires", wires, "wires", f"1 to {MOST_WIRES}")
    if 2 * speakers + grounds != wires:
        wanted = f"{2 * speakers + grounds}: two for each of {speakers} speakers and one for each of {grounds} grounds"
        raise OutOfRange("wires", wires, "wires", wanted)


def weigh(weights: Floats, ground_weights: Floats, wires: int, grounds: int) -> Marginals:
    """Sum over every labelled matching of the product of its weights, with every marginal.

    Parameters:
        weights: [speaker, pair, orientation], 0 where a pair cannot be that speaker's.
        ground_weights: [wire], 0 where a wire cannot be a ground.
        wires: number of wires, at most 16.
        grounds: how many of them are grounds.

    Returns:
        the total weight and the weight of all assignments that hold each pair or ground.

    Raises:
        OutOfRange: the wires do not come out even.

    Method: dynamic programming over subsets, exact. Source: textbook (Held and Karp's subset scheme).
    """
    speakers = weights.shape[0]
    check_size(wires, speakers, grounds)
    pairs, size = pairs_of(wires), 1 << wires
    bits = np.array([1 << a | 1 << b for a, b in pairs], dtype=np.int64)
    plain = weights.sum(axis=2)
    steps = [(2, plain[s], bits) for s in range(speakers)]
    steps += [(1, ground_weights, np.array([1 << w for w in range(wires)], dtype=np.int64))] * grounds
    layers, forward, used = _layers(wires), [np.zeros(size)], 0
    forward[0][0] = 1.0
    for taken, row, marks in steps:
        here, there = forward[-1], np.zeros(size)
        live = layers[used][here[layers[used]] > 0]
        for weight, mark in zip(row, marks, strict=True):
            if weight > 0:
                free = live[(live & mark) == 0]
                there[free | mark] += here[free] * weight
        forward.append(there)
        used += taken
    total = float(forward[-1][size - 1])
    shares, ground_shares = _backward(forward, steps, layers, speakers, size, wires)
    scale = np.divide(shares, plain, out=np.zeros_like(plain), where=plain > 0)
    return Marginals(total, weights * scale[:, :, None], ground_shares)


def _backward(
    forward: list[Floats],
    steps: list[tuple[int, Floats, NDArray[np.int64]]],
    layers: tuple[NDArray[np.int64], ...],
    speakers: int,
    size: int,
    wires: int,
) -> tuple[Floats, Floats]:
    """The weight of all assignments that hold each pair at each speaker, and each wire as a ground."""
    back = np.zeros(size)
    back[size - 1] = 1.0
    used = wires
    shares = np.zeros((speakers, len(pairs_of(wires))))
    grounds = np.zeros(wires)
    for number in range(len(steps) - 1, -1, -1):
        taken, row, marks = steps[number]
        used -= taken
        here, before = forward[number], np.zeros(size)
        live = layers[used][here[layers[used]] > 0]
        for k, (weight, mark) in enumerate(zip(row, marks, strict=True)):
            if weight <= 0:
                continue
            free = live[(live & mark) == 0]
            beyond = back[free | mark] * weight
            before[free] += beyond
            share = float(here[free] @ beyond)
            if number < speakers:
                shares[number, k] = share
            else:
                grounds[k] += share
        back = before
    return shares, grounds
