"""Placing labels so that they cover neither things nor each other."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from math import inf

from ohmack.core.record import record
from ohmack.drawing.svg import TEXT_STYLES, text_width


@record
class Box:
    """An axis-parallel rectangle."""

    left: float
    top: float
    right: float
    bottom: float

    def overlap(self, other: Box) -> float:
        """Area shared with another box; most pairs are apart, which is seen first."""
        if self.left >= other.right or other.left >= self.right or self.top >= other.bottom or other.top >= self.bottom:
            return 0.0
        width = min(self.right, other.right) - max(self.left, other.left)
        return width * (min(self.bottom, other.bottom) - max(self.top, other.top))

    def grown(self, by: float) -> Box:
        """The box with a margin around it."""
        return Box(self.left - by, self.top - by, self.right + by, self.bottom + by)

    def outside(self, frame: Box) -> float:
        """Area of this box that lies outside a frame."""
        return (self.right - self.left) * (self.bottom - self.top) - self.overlap(frame)


@record
class Placed:
    """A label with its place: baseline start and the box it covers."""

    text: str
    style: str
    x: float
    y: float
    box: Box
    kept_clear: Box


def _shared(box: Box, others: Iterable[Box]) -> float:
    """Area shared with some boxes; most lie elsewhere, which is seen first: a page places some two thousand labels."""
    left, top, right, bottom = box.left, box.top, box.right, box.bottom
    whole = 0.0
    for other in others:
        if other.left < right and other.right > left and other.top < bottom and other.bottom > top:
            whole += box.overlap(other)
    return whole


@dataclass
class LabelField:
    """Collects what must not be covered, then places labels one by one."""

    frame: Box
    solid: list[Box] = field(default_factory=list)
    lines: list[Box] = field(default_factory=list)
    placed: list[Placed] = field(default_factory=list)

    def block(self, box: Box) -> None:
        """Keep labels off a box."""
        self.solid.append(box)

    def line(self, points: Sequence[tuple[float, float]], thickness: float) -> None:
        """Prefer to keep labels off a polyline; sloping pieces are cut small."""
        for (x1, y1), (x2, y2) in zip(points, points[1:], strict=False):
            sloped = min(abs(x2 - x1), abs(y2 - y1)) > 1
            pieces = max(1, round(max(abs(x2 - x1), abs(y2 - y1)) / 12)) if sloped else 1
            for i in range(pieces):
                ax, ay = x1 + (x2 - x1) * i / pieces, y1 + (y2 - y1) * i / pieces
                bx, by = x1 + (x2 - x1) * (i + 1) / pieces, y1 + (y2 - y1) * (i + 1) / pieces
                self.lines.append(Box(min(ax, bx), min(ay, by), max(ax, bx), max(ay, by)).grown(thickness / 2))

    def cost(self, box: Box, most: float = inf) -> float:
        """What it costs to cover a box: leaving the frame, covering things or labels, lying on lines; from `most` on it
        is not summed to its end.
        """
        whole = 1000 * box.outside(self.frame)
        if whole < most:
            whole += 100 * (_shared(box, self.solid) + _shared(box, [placed.kept_clear for placed in self.placed]))
        return whole + 3 * _shared(box, self.lines) if whole < most else whole

    def place(self, text: str, style: str, spots: Iterable[tuple[float, float, str]]) -> Placed:
        """Put a label at the cheapest of its spots (x, baseline y, anchor), earlier ones first among equals."""
        size, width = TEXT_STYLES[style][1], text_width(text, style)
        back = {"start": 0.0, "middle": width / 2, "end": width}
        least, best = inf, None
        for order, (x, y, anchor) in enumerate(spots):
            if least <= order:
                break  # no later one can be cheaper
            left = x - back[anchor]
            box = Box(left, y - 0.80 * size, left + width, y + 0.25 * size)
            cost = self.cost(box, least - order) + order
            if cost < least:
                least, best = cost, (left, y, box)
        if best is None:
            raise ValueError("a label needs at least one spot")
        self.placed.append(Placed(text, style, *best, best[2].grown(2)))
        return self.placed[-1]


def around(box: Box, reach: float = 6.0) -> list[tuple[float, float, str]]:
    """Spots around a box: below, above, right, left, then farther out."""
    middle_x, middle_y = (box.left + box.right) / 2, (box.top + box.bottom) / 2
    spots: list[tuple[float, float, str]] = []
    for far in (reach, reach + 14, reach + 28):
        spots += [
            (middle_x, box.bottom + far + 9, "middle"),
            (middle_x, box.top - far, "middle"),
            (box.right + far, middle_y + 4, "start"),
            (box.left - far, middle_y + 4, "end"),
            (box.right + far, box.bottom + far + 6, "start"),
            (box.right + far, box.top - far + 4, "start"),
            (box.left - far, box.bottom + far + 6, "end"),
            (box.left - far, box.top - far + 4, "end"),
        ]
    return spots
