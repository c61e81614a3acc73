"""Mechanical fit: a speaker in its hole, a radio in its opening, a box in its space, and what must hold it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from itertools import permutations
from math import cos, radians, sin

from ohmack.core.errors import require

GRAVITY_M_PER_S2 = 9.80665  # standard gravity, ISO 80000-3; exact


def ring_range_mm(
    mounting_depth_mm: float, front_height_mm: float, depth_mm: float, ahead_mm: float, margin_mm: float
) -> tuple[float, float]:
    """The thicknesses of an adapter ring with which a speaker clears both what is behind and what is in front.

    Parameters:
        mounting_depth_mm: from the speaker's flange back [mm].
        front_height_mm: what stands proud of its flange [mm].
        depth_mm: clear depth behind the mounting face, window at its worst [mm].
        ahead_mm: from the mounting face to trim or grille [mm].
        margin_mm: spare to keep on both sides [mm].

    Returns:
        (thinnest, thickest) [mm]; the thinnest is above the thickest where no ring helps.

    Raises:
        OutOfRange: a negative size.

    Formula: a ring of thickness t moves the speaker forward: depth + t - mounting depth >= margin and
    ahead - front height - t >= margin. Source: plain geometry.
    """
    for name, value in (
        ("mounting_depth_mm", mounting_depth_mm), ("front_height_mm", front_height_mm), ("depth_mm", depth_mm),
        ("ahead_mm", ahead_mm), ("margin_mm", margin_mm),
    ):  # fmt: skip
        require(name, value, "mm", above=-1e-12, up_to=3000)
    return max(0.0, mounting_depth_mm + margin_mm - depth_mm), ahead_mm - front_height_mm - margin_mm


def block_spare_m(box: Sequence[float], space: Sequence[float]) -> float:
    """The tightest spare of a box in a space, standing as it is or turned by a right angle on the floor.

    Parameters:
        box: (length, width, height) [m], shape (3,).
        space: (length, width, height) [m], shape (3,).

    Returns:
        the smallest of the three spares in the better direction [m]; below zero it does not fit.

    Source: plain geometry.
    """
    length_m, width_m, height_m = box
    ways = ((length_m, width_m, height_m), (width_m, length_m, height_m))
    return max(min(have - need for need, have in zip(way, space, strict=True)) for way in ways)


def leaning(box: Sequence[float], space: Sequence[float]) -> tuple[float, float]:
    """The tightest spare of a box that leans in its space, and the angle it leans by.

    Parameters:
        box: (length, width, height) [m], shape (3,).
        space: (length, width, height) [m], shape (3,).

    Returns:
        (spare [m], angle [deg]) at the best angle, leaning along the space's length or across it; angle 0 where it
        stands best.

    Formula: least of L − (l cos a + h sin a), H − (l sin a + h cos a) and what is spare across. Source: plain geometry;
    whether a rectangle goes into another at all is Carver's theorem (1957).
    """
    best = (block_spare_m(box, space), 0.0)
    length_m, width_m, height_m = box
    for lies_m, stands_m in ((length_m, width_m), (width_m, length_m)):
        for along_m, across_m in ((space[0], space[1]), (space[1], space[0])):
            sideways = across_m - stands_m

            def spare(
                deg: float, lies_m: float = lies_m, along_m: float = along_m, sideways: float = sideways
            ) -> float:
                c, s = cos(radians(deg)), sin(radians(deg))
                return min(along_m - lies_m * c - height_m * s, space[2] - lies_m * s - height_m * c, sideways)

            rough = max(range(1, 90), key=spare)
            deg = _peak(spare, rough - 1.0, rough + 1.0)
            if spare(deg) > best[0] + 1e-9:
                best = (spare(deg), deg)
    return best


def _peak(of: Callable[[float], float], low: float, high: float) -> float:
    """Where a function with one peak between two places has it, by thirds."""
    for _ in range(60):
        a, b = low + (high - low) / 3, high - (high - low) / 3
        low, high = (a, high) if of(a) < of(b) else (low, b)
    return (low + high) / 2


def way_in_spare_m(box: Sequence[float], opening: Sequence[float]) -> float:
    """The tightest spare of a box pushed straight through a rectangular opening, any face first.

    Parameters:
        box: three edges [m], shape (3,).
        opening: (width, height) [m], shape (2,).

    Returns:
        the smaller spare of the best way in [m]; below zero it does not go through without tilting.

    Source: plain geometry; tilting a box through is not looked for.
    """
    return max(min(have - need for need, have in zip(pair, opening, strict=True)) for pair in permutations(box, 2))


def restraint_n(mass_kg: float, multiple: float) -> float:
    """The force the fixing of a box has to hold in a crash.

    Parameters:
        mass_kg: box with driver [kg].
        multiple: how many times its weight.

    Returns:
        force [n].

    Raises:
        OutOfRange: no mass.

    Formula: m g n. Source: standard gravity; the multiple is common practice.
    """
    require("mass_kg", mass_kg, "kg", up_to=1000)
    return mass_kg * GRAVITY_M_PER_S2 * multiple
