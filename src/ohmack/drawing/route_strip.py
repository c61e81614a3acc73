"""A run unrolled by length: its points with the metres to each, its ties, what it must be kept clear of."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.build.lists import SCREENED
from ohmack.core.build.route_cards import RouteCard
from ohmack.core.document.cabin import ZoneKind
from ohmack.core.wording import amount
from ohmack.drawing.car import NARROW
from ohmack.drawing.svg import el, group, label, text_width

LINE_Y, ROW_PX, EDGE = 56.0, 15.0, 12.0
HEIGHT = 96.0
GAP_PX = 8.0


def draw_strip(card: RouteCard, length_unit: str) -> tuple[Markup, Markup]:
    """The strip for a screen and for a phone."""
    return _drawn(card, 760.0, length_unit), _drawn(card, NARROW, length_unit)


def _drawn(card: RouteCard, width: float, unit: str) -> Markup:
    whole_m = max(card.marks[-1].at_m, 1e-6)

    def x_of(at_m: float) -> float:
        return EDGE + (width - 2 * EDGE) * at_m / whole_m

    pieces = [_zone(x_of(p.from_m), x_of(p.to_m), p.zone.kind) for p in card.pinches]
    d = f"M{x_of(0):.1f} {LINE_Y:.1f}H{x_of(whole_m):.1f}"
    tone = card.colour.partition(",")[0].partition("/")[0].lower()
    if card.size == SCREENED or not tone:
        core = el("path", d=d, class_="w-line-core", stroke_width=2.4)
        pieces += [el("path", d=d, class_="w-line", stroke_width=6), core]
    else:
        line = el("path", d=d, class_=f"w-{tone}", stroke_width=5)
        pieces += [el("path", d=d, class_="w-out", stroke_width=8), line]
    step = whole_m / max(card.ties - 1, 1)
    for n in range(card.ties):
        x = x_of(n * step)
        pieces.append(el("path", d=f"M{x:.1f} {LINE_Y - 6:.1f}V{LINE_Y + 6:.1f}", class_="tie"))
    names, metres = _Rows(width), _Rows(width)
    last = len(card.marks) - 1
    for n, mark in enumerate(card.marks):
        x, anchor = x_of(mark.at_m), "start" if n == 0 else "end" if n == last else "middle"
        pieces.append(el("circle", cx=x, cy=LINE_Y, r=4.6, class_="mark"))
        row = names.place(x, mark.name, anchor)
        if row is not None:
            pieces.append(label(x + _shift(anchor), LINE_Y - 14 - row * ROW_PX, mark.name, "dim", anchor))
        said = amount(mark.at_m, "m", unit) if n else "0"
        if (row := metres.place(x, said, anchor)) is not None:
            pieces.append(label(x + _shift(anchor), LINE_Y + 21 + row * ROW_PX, said, "dim", anchor))
    title = f"{card.number}: {card.start} to {card.end}, by length"
    return el(
        "svg", el("title", title), group(pieces), viewBox=f"0 0 {width:g} {HEIGHT:g}", class_="drawing route-strip",
        role="img", aria_label=title,
    )  # fmt: skip


def _shift(anchor: str) -> float:
    """End labels reach to the edge of the dot."""
    return {"start": -4.0, "end": 4.0}.get(anchor, 0.0)


def _zone(x0: float, x1: float, kind: ZoneKind) -> Markup:
    calm = " heat" if kind is ZoneKind.HEAT else ""
    return el("rect", x=x0, y=LINE_Y - 9, width=max(x1 - x0, 2.0), height=18.0, class_=f"zone{calm}")


class _Rows:
    """Labels in up to three rows, none over another; what finds no room is left out."""

    def __init__(self, width: float) -> None:
        self.width = width
        self.taken: list[list[tuple[float, float]]] = [[], [], []]

    def place(self, x: float, text: str, anchor: str) -> int | None:
        """The row a label has room in."""
        wide = text_width(text, "dim")
        start = {"start": x, "end": x - wide}.get(anchor, x - wide / 2)
        end = start + wide
        if start < 0 or end > self.width:
            return None
        for n, row in enumerate(self.taken):
            if all(end + GAP_PX < a or start - GAP_PX > b for a, b in row):
                row.append((start, end))
                return n
        return None
