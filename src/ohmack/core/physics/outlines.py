"""Outlines at full size, in millimetres: circles, lines and arcs a saw or a drill follows, about a middle at (0, 0)."""

from __future__ import annotations

from math import pi, radians

from ohmack.core.errors import require
from ohmack.core.record import record

MOST_MM = 4200.0
TURN_MM = 3.0  # radius of the hole a blade turns in where a corner is to be square, common practice


@record
class Circle:
    """A circle."""

    x_mm: float
    y_mm: float
    radius_mm: float
    cut: bool = True  # else only drawn, to find one's place


@record
class Line:
    """A straight cut."""

    x1_mm: float
    y1_mm: float
    x2_mm: float
    y2_mm: float
    cut: bool = True


@record
class Arc:
    """An arc, counter-clockwise where y points up."""

    x_mm: float
    y_mm: float
    radius_mm: float
    start_deg: float
    end_deg: float
    cut: bool = True


Shape = Circle | Line | Arc


@record
class Outline:
    """What one template is made of, and the room it takes."""

    shapes: tuple[Shape, ...]
    width_mm: float
    height_mm: float

    @property
    def cut_mm(self) -> float:
        """The length of all cuts [mm]."""
        return sum(length_mm(shape) for shape in self.shapes if shape.cut)


def length_mm(shape: Shape) -> float:
    """The length of a shape.

    Parameters:
        shape: which.

    Returns:
        along the line [mm].
    """
    if isinstance(shape, Line):
        return float(((shape.x2_mm - shape.x1_mm) ** 2 + (shape.y2_mm - shape.y1_mm) ** 2) ** 0.5)
    turn = 2 * pi if isinstance(shape, Circle) else radians((shape.end_deg - shape.start_deg) % 360)
    return turn * shape.radius_mm


def _cross(size_mm: float) -> tuple[Line, Line]:
    """A cross on the middle, to find it by."""
    return Line(-size_mm, 0, size_mm, 0, cut=False), Line(0, -size_mm, 0, size_mm, cut=False)


def round_opening(diameter_mm: float, there_mm: float | None = None) -> Outline:
    """A round opening, perhaps where a smaller one is.

    Parameters:
        diameter_mm: of the cut [mm].
        there_mm: of the opening that is there [mm].

    Raises:
        OutOfRange: a diameter that is none, or one that is wider already.
    """
    require("diameter_mm", diameter_mm, "mm", there_mm or 0.0, MOST_MM)
    old = (Circle(0, 0, there_mm / 2, cut=False),) if there_mm else ()
    return Outline((Circle(0, 0, diameter_mm / 2), *old, *_cross(8.0)), diameter_mm, diameter_mm)


def ring(outer_mm: float, inner_mm: float) -> Outline:
    """A ring.

    Parameters:
        outer_mm: outer diameter [mm].
        inner_mm: inner diameter [mm].

    Raises:
        OutOfRange: the inner one is not the smaller.
    """
    require("outer_mm", outer_mm, "mm", max(inner_mm, 0.0), MOST_MM)
    require("inner_mm", inner_mm, "mm")
    return Outline((Circle(0, 0, inner_mm / 2), Circle(0, 0, outer_mm / 2), *_cross(8.0)), outer_mm, outer_mm)


def rounded_rectangle(width_mm: float, height_mm: float, corner_mm: float = 0.0) -> Outline:
    """An opening with straight sides.

    Parameters:
        width_mm: across [mm].
        height_mm: up [mm].
        corner_mm: radius of its corners; 0 for square ones, where the holes a blade turns in stand inside [mm].

    Raises:
        OutOfRange: a side that is none, or corners wider than a side.
    """
    require("width_mm", width_mm, "mm", up_to=MOST_MM)
    require("height_mm", height_mm, "mm", up_to=MOST_MM)
    most = min(width_mm, height_mm) / 2
    require("corner_mm", corner_mm, "mm", above=-1e-12, up_to=most)
    x, y, r = width_mm / 2, height_mm / 2, corner_mm
    sides = (
        Line(-x + r, y, x - r, y), Line(x, y - r, x, -y + r), Line(x - r, -y, -x + r, -y), Line(-x, -y + r, -x, y - r),
    )  # fmt: skip
    if r:
        corners: tuple[Shape, ...] = (
            Arc(x - r, y - r, r, 0, 90), Arc(-x + r, y - r, r, 90, 180), Arc(-x + r, -y + r, r, 180, 270),
            Arc(x - r, -y + r, r, 270, 360),
        )  # fmt: skip
    else:
        t = min(TURN_MM, most)
        corners = tuple(Circle(a * (x - t), b * (y - t), t, cut=False) for a in (-1, 1) for b in (-1, 1))
    return Outline((*sides, *corners, *_cross(8.0)), width_mm, height_mm)


def bracket_holes(across_mm: float, up_mm: float, bore_mm: float) -> Outline:
    """Four holes in a rectangle.

    Parameters:
        across_mm: from middle to middle [mm].
        up_mm: from middle to middle [mm].
        bore_mm: their diameter [mm].

    Raises:
        OutOfRange: holes that would run into each other.
    """
    require("bore_mm", bore_mm, "mm")
    require("spacing", min(across_mm, up_mm), "mm", bore_mm, MOST_MM)
    places = [(a * across_mm / 2, b * up_mm / 2) for a in (-1, 1) for b in (-1, 1)]
    holes = tuple(Circle(x, y, bore_mm / 2) for x, y in places)
    arm = bore_mm / 2 + 4.0
    marks = tuple(
        Line(x - a * arm, y - b * arm, x + a * arm, y + b * arm, cut=False)
        for x, y in places
        for a, b in ((1, 0), (0, 1))
    )
    return Outline((*holes, *marks), across_mm + bore_mm, up_mm + bore_mm)
