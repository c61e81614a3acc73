"""Cables that lie on top of each other on the plan are drawn side by side."""

from __future__ import annotations

from collections.abc import Iterable
from itertools import pairwise

from ohmack.core.fit.runs import Run
from ohmack.core.physics.geometry import Point

APART_PX = 7.0
WIDEST_PX = 28.0  # of a bundle: more cables lie closer
FEW = 5  # lanes beside the first
SAME_M = 0.03  # two pieces so near to each other lie on one another
LEAST_M = 0.15  # and for so long


def _together(a: tuple[Point, Point], b: tuple[Point, Point], axis: int) -> bool:
    """Whether two pieces run along an axis (0 along the car) over each other."""
    across = 1 - axis
    flat = max(p[across] for p in (*a, *b)) - min(p[across] for p in (*a, *b)) < SAME_M
    low = max(min(p[axis] for p in a), min(p[axis] for p in b))
    return flat and min(max(p[axis] for p in a), max(p[axis] for p in b)) - low > LEAST_M


def _free(taken: set[int]) -> int:
    """The first lane nobody has."""
    return next(lane for lane in range(len(taken) + 1) if lane not in taken)


def _beside(lane: int, most: int) -> int:
    """How many cables a lane lies beside the first one: a few on one side, which leaves room for a label on the other,
    a ribbon of many on either side in turn.
    """
    if most <= FEW:
        return lane
    return (lane + 1) // 2 if lane % 2 else -lane // 2


def shifts_px(runs: Iterable[Run]) -> dict[str, Point]:
    """How far each run is drawn beside its place.

    Parameters:
        runs: runs in the order they are drawn.

    Returns:
        by link id, (right, down) in the picture [px]; none named, none shifted.
    """
    lanes: list[tuple[Run, int, int]] = []
    for run in runs:
        pieces = list(pairwise(run.points or ()))
        taken: tuple[set[int], set[int]] = (set(), set())
        for other, other_right, other_down in lanes:
            for piece in pieces:
                for old in pairwise(other.points or ()):
                    if _together(piece, old, 0):
                        taken[1].add(other_down)
                    if _together(piece, old, 1):
                        taken[0].add(other_right)
        lanes.append((run, _free(taken[0]), _free(taken[1])))
    most = max((lane for _, *both in lanes for lane in both), default=0)
    apart_px = min(APART_PX, WIDEST_PX / max(most, 1))
    return {
        run.link.id: (apart_px * _beside(right, most), apart_px * _beside(down, most))
        for run, right, down in lanes
        if right or down
    }
