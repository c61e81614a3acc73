"""Templates at full size: cuts as lines, a cross on the middle, a bar of 100 mm to hold a ruler to."""

from __future__ import annotations

from collections.abc import Iterator
from math import ceil, cos, radians, sin

from markupsafe import Markup

from ohmack.core.build.full_size import FullSize
from ohmack.core.physics.outlines import Arc, Circle, Line, Outline, Shape
from ohmack.core.record import record
from ohmack.drawing.svg import el, group

BAR_MM = 100.0
MARGIN_MM = 8.0
FOOT_MM = 18.0  # below the outline, for the bar
CUT = {"fill": "none", "stroke": "#000", "stroke_width": "0.35"}
MARK = {"fill": "none", "stroke": "#555", "stroke_width": "0.2", "stroke_dasharray": "2 1.2"}
TEXT = {"font_family": "Barlow,sans-serif", "font_size": "3.6", "fill": "#000"}


@record
class Tile:
    """A part of a template that fits a sheet of paper."""

    name: str  # row and column, as A1
    x_mm: float
    y_mm: float
    width_mm: float
    height_mm: float


def full_size_svg(one: FullSize) -> Markup:
    """A template as a drawing of its own, one millimetre a unit, with its bar."""
    x0, y0, width, height = _frame(one.outline)
    return _svg(_drawn(one), x0, y0, width, height, f"{one.name}, full size")


def preview(one: FullSize) -> Markup:
    """The same, as large as its place on a page allows."""
    x0, y0, width, height = _frame(one.outline)
    title = f"{one.name}: {one.says}"
    return el(
        "svg", el("title", title), _drawn(one, bar=False), viewBox=f"{x0:g} {y0:g} {width:g} {height - FOOT_MM:g}",
        class_="drawing full-size", role="img", aria_label=title,
    )  # fmt: skip


def tiles(one: FullSize, width_mm: float, height_mm: float) -> list[tuple[Tile, Markup]]:
    """A template over as many sheets as it takes, each with the bar at its foot and marks at its corners.

    Parameters:
        one: the template.
        width_mm: printable width of the paper [mm].
        height_mm: printable height, the bar in it [mm].
    """
    found = []
    for tile in _tiles(one.outline, width_mm, height_mm - FOOT_MM):
        corners = [
            el("path", d=f"M{x - a * 4:g} {y:g}H{x + a * 4:g}M{x:g} {y - b * 4:g}V{y + b * 4:g}", **MARK)
            for x, a in ((tile.x_mm, 1), (tile.x_mm + tile.width_mm, 1))
            for y, b in ((tile.y_mm, 1), (tile.y_mm + tile.height_mm, 1))
        ]
        bar = _bar(tile.x_mm + 4, tile.y_mm + tile.height_mm + 8)
        drawn = group([_drawn(one, bar=False), *corners, bar])
        size = (tile.x_mm, tile.y_mm, tile.width_mm, tile.height_mm + FOOT_MM)
        found.append((tile, _svg(drawn, *size, f"{one.name}, {tile.name}")))
    return found


def _tiles(outline: Outline, width_mm: float, height_mm: float) -> Iterator[Tile]:
    whole_w, whole_h = outline.width_mm + 2 * MARGIN_MM, outline.height_mm + 2 * MARGIN_MM
    across, down = ceil(whole_w / width_mm - 1e-9), ceil(whole_h / height_mm - 1e-9)
    for row in range(down):
        for column in range(across):
            x = -across * width_mm / 2 + column * width_mm
            y = -down * height_mm / 2 + row * height_mm
            yield Tile(f"{chr(ord('A') + row)}{column + 1}", x, y, width_mm, height_mm)


def _frame(outline: Outline) -> tuple[float, float, float, float]:
    width = max(outline.width_mm, BAR_MM) + 2 * MARGIN_MM
    return -width / 2, -outline.height_mm / 2 - MARGIN_MM, width, outline.height_mm + 2 * MARGIN_MM + FOOT_MM


def _svg(drawn: Markup, x0: float, y0: float, width: float, height: float, title: str) -> Markup:
    return el(
        "svg", el("title", title), drawn, xmlns="http://www.w3.org/2000/svg",
        viewBox=f"{x0:.2f} {y0:.2f} {width:.2f} {height:.2f}", width=f"{width:.2f}mm", height=f"{height:.2f}mm",
    )  # fmt: skip


def _drawn(one: FullSize, bar: bool = True) -> Markup:
    shapes = [_shape(shape) for shape in one.outline.shapes]
    if bar:
        shapes.append(_bar(-BAR_MM / 2, one.outline.height_mm / 2 + MARGIN_MM + 4))
    return group(shapes)


def _bar(x: float, y: float) -> Markup:
    ticks = "".join(f"M{x + n * 10:g} {y - (3 if n % 5 == 0 else 1.6):g}V{y:g}" for n in range(11))
    words = "100 mm: hold a ruler to it before cutting"
    line = el("path", d=f"M{x:g} {y:g}H{x + BAR_MM:g}{ticks}", **CUT)
    return group([line, el("text", words, x=f"{x:g}", y=f"{y + 5:g}", **TEXT)])


def _shape(shape: Shape) -> Markup:
    style = CUT if shape.cut else MARK
    if isinstance(shape, Circle):
        return el("circle", cx=f"{shape.x_mm:.3f}", cy=f"{-shape.y_mm:.3f}", r=f"{shape.radius_mm:.3f}", **style)
    if isinstance(shape, Line):
        d = f"M{shape.x1_mm:.3f} {-shape.y1_mm:.3f}L{shape.x2_mm:.3f} {-shape.y2_mm:.3f}"
        return el("path", d=d, **style)
    return el("path", d=_arc(shape), **style)


def _arc(arc: Arc) -> str:
    def at(degrees: float) -> str:
        a = radians(degrees)
        return f"{arc.x_mm + arc.radius_mm * cos(a):.3f} {-(arc.y_mm + arc.radius_mm * sin(a)):.3f}"

    wide = int((arc.end_deg - arc.start_deg) % 360 > 180)
    return f"M{at(arc.start_deg)}A{arc.radius_mm:.3f} {arc.radius_mm:.3f} 0 {wide} 0 {at(arc.end_deg)}"
