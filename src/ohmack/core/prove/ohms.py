"""What an ohmmeter reads between points of a car with nothing on, and what resistances make of power."""

from __future__ import annotations

from dataclasses import replace
from functools import lru_cache

from ohmack.core.network.faulted import OPEN_OHM
from ohmack.core.physics.nodal import SHORT_OHM, Part
from ohmack.core.physics.nodal import solve as nodal_solve
from ohmack.core.prove.points import MINUS, PLUS

NOTHING_OHM = 1e6  # from here a meter shows no connection


@lru_cache(maxsize=1024)
def powers_of(parts: tuple[Part, ...]) -> dict[str, float]:
    """By part, its share of the power in all; none where nothing connects the two ends, or they touch."""
    ohm = pair_ohm(parts)
    if ohm >= NOTHING_OHM or ohm <= 0:
        return {}
    solved = nodal_solve(parts, PLUS, MINUS)
    return {part.name: float(solved.power_w(part.name)[0]) * ohm for part in parts}


def pair_ohm(parts: tuple[Part, ...]) -> float:
    """What an ohmmeter reads across an output; a great many where nothing connects the two."""
    return between_ohm(parts, PLUS, MINUS)


def components(parts: tuple[Part, ...]) -> dict[str, tuple[Part, ...]]:
    """By point, the closed parts that hang together with it."""
    head: dict[str, str] = {}

    def root(point: str) -> str:
        while (up := head.setdefault(point, point)) != point:
            head[point] = head[up]
            point = up
        return point

    closed = [part for part in parts if _ohm(part) < NOTHING_OHM]
    for part in closed:
        head[root(part.a)] = root(part.b)
    own: dict[str, list[Part]] = {}
    for part in closed:
        own.setdefault(root(part.a), []).append(part)
    whole = {top: tuple(found) for top, found in own.items()}
    return {point: whole[root(point)] for point in head}


@lru_cache(maxsize=4096)
def between_ohm(parts: tuple[Part, ...], a: str, b: str) -> float:
    """What an ohmmeter reads between two points of some resistances.

    Parameters:
        parts: the resistances; an open one counts as not there.
        a: one probe.
        b: the other.

    Returns:
        resistance [ohm]; `OPEN_OHM` where nothing connects them.

    Source: nodal analysis: textbook circuit theory.
    """
    closed = [_not_zero(part) for part in parts if _ohm(part) < NOTHING_OHM]
    joined, todo = {a}, [a]
    while todo:
        here = todo.pop()
        for part in closed:
            for one, other in ((part.a, part.b), (part.b, part.a)):
                if one == here and other not in joined:
                    joined.add(other)
                    todo.append(other)
    if b not in joined:
        return OPEN_OHM
    if a == b:
        return 0.0
    return float(nodal_solve([p for p in closed if p.a in joined], a, b).input_ohm[0].real)


def _ohm(part: Part) -> float:
    return float(part.impedance_ohm.real)


def _not_zero(part: Part) -> Part:
    return replace(part, impedance_ohm=SHORT_OHM) if part.impedance_ohm == 0 else part
