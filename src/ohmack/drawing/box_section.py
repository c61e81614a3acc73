"""A box from its side, cut through the middle: boards, driver, vent, with its sizes in millimetres."""

from __future__ import annotations

from math import sqrt

from markupsafe import Markup

from ohmack.core.box.circuit import opened_m3, vent_area_m2, wanted_length_m
from ohmack.core.document.boxes import Box
from ohmack.core.document.parts import Subwoofer
from ohmack.core.errors import OutOfRange
from ohmack.drawing.svg import el, group, label, path

WIDTH, ROOM = 300.0, 196.0
LEFT, TOP = 18.0, 22.0


def draw_box(box: Box, subs: tuple[Subwoofer, ...]) -> Markup:
    """The box as it stands, its front to the left; empty where its height is not known."""
    if box.height_m is None:
        return Markup("")
    top_m = box.boards.top_length_m or box.length_m
    scale = min((WIDTH - LEFT - 76) / max(box.length_m, top_m), ROOM / box.height_m)
    low, high, tall = box.length_m * scale, top_m * scale, box.height_m * scale
    wall = (box.boards.thickness_mm or 16.0) / 1000 * scale
    outer = [(LEFT, TOP), (LEFT + high, TOP), (LEFT + low, TOP + tall), (LEFT, TOP + tall)]
    front = wall * box.boards.fronts
    inner = [
        (LEFT + front, TOP + wall),
        (LEFT + high - wall, TOP + wall),
        (LEFT + low - wall, TOP + tall - wall),
        (LEFT + front, TOP + tall - wall),
    ]
    pieces = [
        el("path", d=path(outer, close=True) + path(inner, close=True), class_="wood", fill_rule="evenodd"),
        *_drivers(box, subs, scale, tall),
        *_vent(box, scale, tall, front),
        label(LEFT + low / 2, TOP + tall + 18, f"{1000 * box.length_m:.0f}", "dim", "middle"),
        label(LEFT + max(low, high) + 8, TOP + tall / 2 + 4, f"{1000 * box.height_m:.0f} high", "dim"),
        label(LEFT + max(low, high) + 8, TOP + tall / 2 + 20, f"{1000 * box.width_m:.0f} wide", "dim"),
    ]
    if box.boards.top_length_m is not None:
        pieces.append(label(LEFT + high / 2, TOP - 8, f"{1000 * top_m:.0f}", "dim", "middle"))
    title = f"{box.name} from its side"
    return el(
        "svg", el("title", title), group(pieces), viewBox=f"0 0 {WIDTH:g} {TOP + tall + 28:.0f}",
        class_="drawing box-section", role="img", aria_label=title,
    )  # fmt: skip


def _drivers(box: Box, subs: tuple[Subwoofer, ...], scale: float, tall: float) -> list[Markup]:
    """One driver seen in the front; further ones stand behind it in the picture."""
    if not subs:
        return []
    sub = subs[0]
    half = (sub.cut_out_mm or 220.0) / 2000 * scale
    deep = (sub.mounting_depth_mm or 110.0) / 1000 * scale
    vented = box.box_type in ("vented", "bandpass", "passive radiator")
    room = 2 * half + 24 < 0.72 * tall  # the vent is below it
    middle = TOP + (half + 16 if vented and room else tall / 2)
    cone = [
        (LEFT, middle - half), (LEFT + 0.55 * deep, middle - 0.5 * half), (LEFT + deep, middle - 0.5 * half),
        (LEFT + deep, middle + 0.5 * half), (LEFT + 0.55 * deep, middle + 0.5 * half), (LEFT, middle + half),
    ]  # fmt: skip
    return [el("path", d=path(cone, close=True), class_="steel")]


def _vent(box: Box, scale: float, tall: float, front: float) -> list[Markup]:
    area = vent_area_m2(box.vents)
    if area is None or box.box_type not in ("vented", "bandpass"):
        return []
    try:
        length_m = (
            box.vents.length_mm / 1000 if box.vents.length_mm is not None else wanted_length_m(box, opened_m3(box))
        )
    except OutOfRange:
        return []
    wide = (box.vents.height_mm or 2000 * sqrt(area / 3.14159265)) / 1000 * scale
    long = min((length_m or 0.0), 0.92 * box.length_m) * scale
    y = TOP + tall - max(14.0, 0.16 * tall) - wide / 2
    return [el("path", d=f"M{LEFT:.1f} {y - wide / 2:.1f}h{max(long, front):.1f}m0 {wide:.1f}h{-max(long, front):.1f}",
               class_="pipe")]  # fmt: skip
