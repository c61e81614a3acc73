"""Mechanical fit: a speaker in its hole, a radio in its opening, a box in its space, and what must hold it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from itertools import permutations
from math import cos, floor, radians, sin

from ohmack.core.errors import require
from ohmack.core.record import record

LEAST_SIDE_M = 0.3  # of a box that a driver still goes into; common practice
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


def room_in_l(length_m: float, width_m: float, height_m: float, board_m: float, taken_l: float) -> float:
    """Net volume of the largest block a space has room for.

    Parameters:
        length_m: of the space, margin taken off [m].
        width_m: across [m].
        height_m: its height [m].
        board_m: thickness of the boards [m].
        taken_l: what drivers take inside [l].

    Returns:
        litres; zero where the boards take all of it. Source: geometry.
    """
    inside = [max(0.0, side - 2 * board_m) for side in (length_m, width_m, height_m)]
    return max(0.0, 1000 * inside[0] * inside[1] * inside[2] - taken_l)


@record
class Block:
    """The outside of a box in boards, and the air in it."""

    length_m: float
    width_m: float
    height_m: float
    net_l: float


def block_for_space(
    room_m: Sequence[float], way_in_m: Sequence[float], margin_m: float, board_m: float, wanted_l: float, taken_l: float
) -> Block | None:
    """The largest block that goes into a space and straight through its way in, no larger than it need be.

    Parameters:
        room_m: of the space, along, across and up [m].
        way_in_m: its width and height [m].
        margin_m: what is kept spare of either [m].
        board_m: thickness of the boards [m].
        wanted_l: net volume that will do [l].
        taken_l: what drivers take inside [l].

    Returns:
        the block, whole centimetres outside; None where the boards leave no air.

    Source: geometry: two edges face the way in, the third goes in after them.
    """
    room = [side - margin_m for side in room_m]
    best: Block | None = None
    for after in range(3):
        one, other = (n for n in range(3) if n != after)
        for wide, high in (way_in_m, way_in_m[::-1]):
            sides = list(room)
            sides[one], sides[other] = min(room[one], wide - margin_m), min(room[other], high - margin_m)
            if min(sides) > 2 * board_m:
                block = _no_larger(sides, board_m, wanted_l, taken_l)
                if block.net_l > 0 and (best is None or block.net_l > best.net_l + 1e-9):
                    best = block
    return best


Sides = tuple[float, float, float]


def _no_larger(sides: Sequence[float], board_m: float, wanted_l: float, taken_l: float) -> Block:
    """A block made less long, wide or high, the longest of them first, while it holds what is wanted; in whole
    centimetres.
    """
    length_m, width_m, height_m = (floor(100 * side + 1e-9) / 100 for side in sides)
    cut: Sides = length_m, width_m, height_m
    smaller: Sides | None = cut
    while smaller is not None:
        cut, smaller = smaller, None
        for side in sorted(range(3), key=lambda n: -cut[n]):
            less = _less(cut, side)
            if cut[side] > LEAST_SIDE_M and room_in_l(*less, board_m, taken_l) >= wanted_l:
                smaller = less
                break
    return Block(*cut, room_in_l(*cut, board_m, taken_l))


def _less(sides: Sides, which: int) -> Sides:
    """A centimetre less of its length (0), its width (1) or its height (2)."""
    length_m, width_m, height_m = (round(s - 0.01, 2) if n == which else s for n, s in enumerate(sides))
    return length_m, width_m, height_m
