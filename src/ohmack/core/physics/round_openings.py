"""Round openings beside each other in a board: whether they go in, and how long the board has to be."""

from __future__ import annotations

from collections.abc import Sequence
from math import hypot

from ohmack.core.errors import require


def go_in(diameters: Sequence[float], width: float, height: float, between: float) -> bool:
    """Whether round openings go into a rectangle with some wood between them.

    Parameters:
        diameters: of the openings, any one unit.
        width: of the rectangle.
        height: of the rectangle.
        between: wood between any two.

    Returns:
        True where they do: for one and two exact, also cornerwise; for more in rows, so that a denser way may be
        missed, never one claimed.

    Raises:
        OutOfRange: a size not above zero, or less than nothing between.

    Source: plane geometry.

    >>> go_in([281.0, 281.0], 404.0, 324.0, 28.0), go_in([281.0, 281.0], 600.0, 324.0, 28.0)
    (False, True)
    """
    for name, value in (("width", width), ("height", height), *(("diameter", d) for d in diameters)):
        require(name, value, "mm")
    if any(d > min(width, height) for d in diameters):
        return False
    if len(diameters) == 2:
        half = sum(diameters) / 2
        return hypot(width - half, height - half) >= half + between
    return _in_rows(diameters, width, height, between) or _in_rows(diameters, height, width, between)


def _in_rows(diameters: Sequence[float], width: float, height: float, between: float) -> bool:
    """The largest first, row after row."""
    rows: list[list[float]] = []
    for diameter in sorted(diameters, reverse=True):
        if rows and sum(rows[-1]) + between * len(rows[-1]) + diameter <= width:
            rows[-1].append(diameter)
        else:
            rows.append([diameter])
    return sum(row[0] for row in rows) + between * max(0, len(rows) - 1) <= height
