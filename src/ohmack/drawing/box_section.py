"""A box from its side, cut through the middle: boards, driver, vent, with its sizes in millimetres."""

from __future__ import annotations

from collections.abc import Sequence

from markupsafe import Markup

from ohmack.core.box.circuit import opens, vent_area_m2, vent_mm
from ohmack.core.box.shapes import Baffle, Shape, shape_of
from ohmack.core.document.boxes import Box, VentShape
from ohmack.core.document.parts import Subwoofer
from ohmack.core.errors import OutOfRange
from ohmack.core.physics.box_panels import BoxShape
from ohmack.core.physics.prism import PrismShape, inner_corners
from ohmack.drawing.svg import el, group, label, path

WIDTH, ROOM = 300.0, 196.0
LEFT, TOP = 18.0, 22.0
USUAL_BOARD_M = 0.016


def draw_box(box: Box, subs: tuple[Subwoofer, ...]) -> Markup:
    """The box as it stands, its front to the left; empty where its height is not known."""
    if box.height_m is None:
        return Markup("")
    shape = shape_of(box) or _as_bought(box, box.height_m)
    outside, inside = _outlines(shape)
    top_m = box.boards.top_length_m or box.length_m
    long_m = max(x for x, _ in outside)
    height_m = max(z for _, z in outside)
    scale = min((WIDTH - LEFT - 76) / long_m, ROOM / height_m)
    low, high, tall = long_m * scale, top_m * scale, height_m * scale

    def drawn(corners: Sequence[tuple[float, float]]) -> str:
        return path([(LEFT + x * scale, TOP + (height_m - z) * scale) for x, z in corners], close=True)

    front = shape.board_m * shape.fronts * scale
    cut = drawn(outside) + (drawn(inside) if inside else "")
    pieces = [
        el("path", d=cut, class_="wood", fill_rule="evenodd"),
        *_drivers(box, subs, scale, tall),
        *_vent(box, scale, tall, front),
        label(LEFT + low / 2, TOP + tall + 18, f"{1000 * long_m:.0f}", "dim", "middle"),
        label(LEFT + low + 8, TOP + tall / 2 + 4, f"{1000 * height_m:.0f} high", "dim"),
        label(LEFT + low + 8, TOP + tall / 2 + 20, f"{1000 * box.width_m:.0f} wide", "dim"),
    ]
    if box.boards.top_length_m is not None and isinstance(shape, BoxShape):
        pieces.append(label(LEFT + high / 2, TOP - 8, f"{1000 * top_m:.0f}", "dim", "middle"))
    title = f"{box.name} from its side"
    return el(
        "svg", el("title", title), group(pieces), viewBox=f"0 0 {WIDTH:g} {TOP + tall + 28:.0f}",
        class_="drawing box-section", role="img", aria_label=title,
    )  # fmt: skip


def _as_bought(box: Box, height_m: float) -> BoxShape:
    """A ready-made box, its boards of a usual thickness."""
    return BoxShape(box.length_m, box.length_m, box.width_m, height_m, USUAL_BOARD_M, box.boards.fronts)


def _outlines(shape: Shape) -> tuple[Sequence[tuple[float, float]], Sequence[tuple[float, float]]]:
    """(the side from outside, the air in it), from the front's foot; no air where the boards leave none."""
    if isinstance(shape, Baffle):
        return [(0.0, 0.0), (shape.bottom_m, 0.0), (shape.bottom_m, shape.height_m), (0.0, shape.height_m)], ()
    if isinstance(shape, BoxShape):
        corners = ((0.0, 0.0), (shape.bottom_m, 0.0), (shape.top_m, shape.height_m), (0.0, shape.height_m))
        shape = PrismShape(corners, shape.width_m, shape.board_m, shape.fronts)
    try:
        inside: Sequence[tuple[float, float]] = inner_corners(shape)
    except OutOfRange:
        inside = ()
    return shape.corners, inside


def _drivers(box: Box, subs: tuple[Subwoofer, ...], scale: float, tall: float) -> list[Markup]:
    """One driver seen in the front; further ones stand behind it in the picture."""
    if not subs:
        return []
    sub = subs[0]
    half = (sub.cut_out_mm or 220.0) / 2000 * scale
    deep = (sub.mounting_depth_mm or 110.0) / 1000 * scale
    room = 2 * half + 24 < 0.72 * tall  # the vent is below it
    middle = TOP + (half + 16 if opens(box) and room else tall / 2)
    cone = [
        (LEFT, middle - half), (LEFT + 0.55 * deep, middle - 0.5 * half), (LEFT + deep, middle - 0.5 * half),
        (LEFT + deep, middle + 0.5 * half), (LEFT + 0.55 * deep, middle + 0.5 * half), (LEFT, middle + half),
    ]  # fmt: skip
    return [el("path", d=path(cone, close=True), class_="steel")]


def _vent(box: Box, scale: float, tall: float, front: float) -> list[Markup]:
    area, length_mm = vent_area_m2(box.vents), vent_mm(box)
    if area is None or length_mm is None or not opens(box):
        return []
    wide = (box.vents.height_mm if box.vents.shape is VentShape.SLOT else box.vents.diameter_mm) or 0.0
    wide_px = wide / 1000 * scale
    long_px = max(front, min(length_mm / 1000, 0.92 * box.length_m) * scale)
    y = TOP + tall - max(14.0, 0.16 * tall) - wide_px
    walls = f"M{LEFT:.1f} {y:.1f}h{long_px:.1f}m0 {wide_px:.1f}h{-long_px:.1f}"
    return [el("path", d=walls, class_="pipe")]
