"""Cables that lie on top of each other on the plan are drawn side by side."""

from __future__ import annotations

from collections.abc import Iterable
from itertools import pairwise

from ohmack.core.fit.runs import Run
from ohmack.core.physics.geometry import Point

APART_PX = 7.0
SAME_M = 0.03  # two pieces so near to each other lie on one another
LEAST_M = 0.15  # and for so long


def _together(a: tuple[Point, Point], b: tuple[Point, Point], axis: int) -> bool:
    """Whether two pieces run along an axis (0 along the car) over each other."""
    across = 1 - axis
    flat = max(p[across] for p in (*a, *b)) - min(p[across] for p in (*a, *b)) < SAME_M
    low = max(min(p[axis] for p in a), min(p[axis] for p in b))
    return flat and min(max(p[axis] for p in a), max(p[axis] for p in b)) - low > LEAST_M


def shifts_px(runs: Iterable[Run]) -> dict[str, Point]:
    """How far each run is drawn beside its place.

    Parameters:
        runs: runs in the order they are drawn.

    Returns:
        by link id, (right, down) in the picture [px]; none named, none shifted.
    """
    found: dict[str, Point] = {}
    before: list[tuple[Run, int, int]] = []
    for run in runs:
        pieces = list(pairwise(run.points or ()))
        down = right = 0
        for other, other_right, other_down in before:
            for piece in pieces:
                for old in pairwise(other.points or ()):
                    if _together(piece, old, 0):
                        down = max(down, other_down + 1)
                    if _together(piece, old, 1):
                        right = max(right, other_right + 1)
        before.append((run, right, down))
        if right or down:
            found[run.link.id] = (APART_PX * right, APART_PX * down)
    return found
