"""Reels as bars, the pieces cut off them in order, what is left hatched; what has no reel as bars of its own."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.build.cut_list import CutList, Piece
from ohmack.core.wording import amount
from ohmack.drawing.car import NARROW
from ohmack.drawing.svg import el, group, label, text_width

ROW, BAR, TOP, GAP = 44.0, 20.0, 8.0, 1.6


def draw_cuts(cuts: CutList, length_unit: str) -> tuple[Markup, Markup]:
    """The bars for a screen and for a phone; empty while nothing is cut."""
    rows = _rows(cuts, length_unit)
    if not rows:
        return Markup(""), Markup("")
    return _drawn(rows, 760.0, length_unit), _drawn(rows, NARROW, length_unit)


Row = tuple[str, tuple[Piece, ...], float]  # words, pieces, what is left [m]; nothing left where it is bought


def _rows(cuts: CutList, unit: str) -> list[Row]:
    rows: list[Row] = [
        (f"{one.reel.name}: {amount(one.left_m, 'm', unit)} left", one.pieces, one.left_m) for one in cuts.reels
    ]
    sizes: dict[str, list[Piece]] = {}
    for piece in cuts.to_buy:
        own = piece.cable.row.colour
        colour = f", {own}" if own and own != piece.cable.size else ""
        sizes.setdefault(f"{piece.cable.size}{colour}", []).append(piece)
    for words, pieces in sizes.items():
        metres = amount(sum(p.length_m for p in pieces), "m", unit)
        rows.append((f"{words}: {metres} to buy", tuple(pieces), 0.0))
    return rows


def _drawn(rows: list[Row], width: float, unit: str) -> Markup:
    left, right = 10.0, width - 10.0
    longest = max(sum(p.length_m for p in pieces) + rest for _, pieces, rest in rows) or 1.0
    scale = (right - left) / longest
    drawn = []
    for n, (words, pieces, rest) in enumerate(rows):
        y, x = TOP + n * ROW, left
        drawn.append(label(left, y + 11, words, "dim"))
        for piece in pieces:
            wide = piece.length_m * scale
            drawn.append(el("rect", x=x, y=y + 16, width=max(1.0, wide - GAP), height=BAR, rx=2.0, class_="cut"))
            for text in (f"{piece.cable.number} {amount(piece.length_m, 'm', unit)}", piece.cable.number):
                if text_width(text, "dim") <= wide - 6:
                    drawn.append(label(x + wide / 2, y + 30, text, "dim", "middle", "in-cut"))
                    break
            x += wide
        if rest > 0.01:
            drawn.append(el("rect", x=x, y=y + 16, width=rest * scale, height=BAR, rx=2.0, class_="cut left-on"))
    height = TOP + len(rows) * ROW + 4
    title = "What is cut from which reel"
    return el(
        "svg", el("title", title), group(drawn), viewBox=f"0 0 {width:g} {height:g}", class_="drawing cut-bars",
        role="img", aria_label=title,
    )  # fmt: skip
