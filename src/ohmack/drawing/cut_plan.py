"""Boards seen from above with the panels that are sawn out of them; and panels alone, one to one."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.box.cutting import SAW_M, CutSheet
from ohmack.core.physics.nesting import Placed
from ohmack.drawing.svg import el, group, label, path, text_width

WIDTH, MARGIN, GAP = 760.0, 6.0, 30.0


def draw_cut_plan(sheet: CutSheet, width: float = WIDTH) -> Markup:
    """Every board with its panels, lengths in millimetres on them."""
    nest = sheet.nest
    scale = (width - 2 * MARGIN) / nest.board_length_m
    tall = nest.board_width_m * scale
    pieces: list[Markup] = []
    for board in range(nest.boards):
        top = 22 + board * (tall + GAP)
        words = f"Board {board + 1}: {1000 * nest.board_length_m:.0f} × {1000 * nest.board_width_m:.0f} mm"
        pieces.append(label(MARGIN, top - 7, words, "lab"))
        pieces.append(el("rect", x=MARGIN, y=top, width=nest.board_length_m * scale, height=tall, class_="board"))
        for one in nest.placed:
            if one.board == board:
                x, y = MARGIN + one.x_m * scale, top + one.y_m * scale
                pieces.append(_panel(one.panel.name, one.along_m, one.across_m, x, y, scale))
    height = 22 + nest.boards * (tall + GAP) - GAP + 8
    title = f"{len(nest.placed)} panels on {nest.boards} boards, {100 * nest.waste:.0f} % left over"
    return el(
        "svg", el("title", title), group(pieces), viewBox=f"0 0 {width:g} {height:.0f}", class_="drawing cut-plan",
        role="img", aria_label=title,
    )  # fmt: skip


def _panel(name: str, along_m: float, across_m: float, x: float, y: float, scale: float) -> Markup:
    wide, tall = along_m * scale, across_m * scale
    pieces = [el("rect", x=x, y=y, width=wide, height=tall, class_="sawn")]
    lines = [name, f"{1000 * along_m:.0f} × {1000 * across_m:.0f}"]
    turned = wide < 1.1 * max(text_width(words) for words in lines) and tall > wide
    room = tall if turned else wide
    if (wide if turned else tall) < 34 or room < text_width(lines[0]):
        lines = [words for words in lines if room >= text_width(words)][:1]
    middle_x, middle_y = x + wide / 2, y + tall / 2
    for n, words in enumerate(lines):
        shift = 15 * (n - (len(lines) - 1) / 2) + 4
        if turned:
            turn = f"rotate(-90 {middle_x:.1f} {middle_y:.1f})"
            pieces.append(group([label(middle_x, middle_y + shift, words, "dim", "middle")], transform=turn))
        else:
            pieces.append(label(middle_x, middle_y + shift, words, "dim", "middle"))
    return group(pieces)


def panels_one_to_one(sheet: CutSheet) -> str:
    """The boards with their panels as SVG in millimetres, one to one, for a plotter or a router."""
    nest, pieces = sheet.nest, []
    tall = nest.boards * (nest.board_width_m + 0.05) * 1000
    for board in range(nest.boards):
        top = 1000 * board * (nest.board_width_m + 0.05)
        pieces.append(_outline(0.0, top, 1000 * nest.board_length_m, 1000 * nest.board_width_m, "board", "none"))
        for one in nest.placed:
            if one.board == board:
                x, y = 1000 * one.x_m, top + 1000 * one.y_m
                pieces.append(_outline(x, y, 1000 * one.along_m, 1000 * one.across_m, one.panel.name, "#000"))
                if sheet.side_mm and one.panel.name.startswith("side"):
                    pieces.append(_side(sheet, one, x, y))
    wide = 1000 * nest.board_length_m
    return str(
        el(
            "svg", el("title", f"Panels, one to one, saw {1000 * SAW_M:.1f} mm"), *pieces,
            xmlns="http://www.w3.org/2000/svg", width=f"{wide:g}mm", height=f"{tall:g}mm",
            viewBox=f"0 0 {wide:g} {tall:g}",
        )
    )  # fmt: skip


def _side(sheet: CutSheet, one: Placed, x: float, y: float) -> Markup:
    """The corners of a side in the rectangle it is sawn from, turned as that is."""
    lies = abs(one.along_m - one.panel.length_m) < 1e-9
    corners = [(x + (a if lies else b), y + (b if lies else a)) for a, b in sheet.side_mm]
    return el("path", d=path(corners, close=True), fill="none", stroke="#000", stroke_width="0.3")


def _outline(x: float, y: float, wide: float, tall: float, name: str, stroke: str) -> Markup:
    return group(
        [
            el("rect", x=f"{x:.3f}", y=f"{y:.3f}", width=f"{wide:.3f}", height=f"{tall:.3f}", fill="none",
               stroke=stroke if stroke != "none" else "#999", stroke_width="0.3"),
            el("title", name),
        ]
    )  # fmt: skip
