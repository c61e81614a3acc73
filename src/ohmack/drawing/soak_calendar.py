"""The soak over its days: a row a check, a mark a try, so that one sees what is left and which day it was."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from markupsafe import Markup

from ohmack.core.handover.soak import SoakJudged, SoakState, is_good
from ohmack.drawing.car import NARROW
from ohmack.drawing.svg import cut_to, el, label, text_width

ROW, HEAD, FOOT = 30.0, 30.0, 8.0
SIGNS = {SoakState.PASSED: "✓", SoakState.ACCEPTED: "✓", SoakState.OFF: "!", SoakState.AGAIN: "↻",
         SoakState.UNJUDGED: "?", SoakState.BEGUN: "…", SoakState.OPEN: ""}  # fmt: skip


def draw_soak(
    checks: Sequence[SoakJudged], days: Sequence[str], width: float, name_px: float, link_to: Callable[[str], str]
) -> Markup:  # fmt: skip
    """Every soak check over the days it was tried; each a link to where it is tried.

    Parameters:
        checks: the checks as they stand.
        days: the days to show, ISO, oldest first.
        width: of the drawing [px].
        name_px: how much of it the names and limits take [px].
        link_to: the address that shows a check.

    Returns:
        an SVG.
    """
    height = HEAD + ROW * len(checks) + FOOT
    step = (width - name_px - 44) / max(1, len(days))
    pieces: list[Markup] = []
    for n, day in enumerate(days):
        x = name_px + step * (n + 0.5)
        pieces.append(label(x, 18, f"{int(day[8:10])}.{int(day[5:7])}.", "dim", "middle"))
        pieces.append(el("path", d=f"M{x:.1f} {HEAD - 4:.1f}V{height - FOOT:.1f}", class_="soak-day"))
    for n, judged in enumerate(checks):
        pieces.append(_row(judged, days, HEAD + ROW * n, width, name_px, step, link_to))
    stand = sum(j.state.stands for j in checks)
    said = f"The soak by day: {stand} of {len(checks)} checks stand"
    return el("svg", el("title", said), *pieces, viewBox=f"0 0 {width:g} {height:g}", class_="drawing soak-days",
              role="group", aria_label=said)  # fmt: skip


def _row(
    judged: SoakJudged, days: Sequence[str], top: float, width: float, name_px: float, step: float,
    link_to: Callable[[str], str],
) -> Markup:  # fmt: skip
    middle = top + ROW / 2
    wide = width > NARROW  # there is room for what must show
    room = name_px - 12 - (text_width(judged.check.expects, "dim") + 14 if wide and judged.check.is_read else 0)
    pieces: list[Markup] = [
        el("path", d=f"M4 {top + ROW:.1f}H{width - 4:.1f}", class_="soak-rule"),
        el("rect", x=2.0, y=top + 2, width=width - 4, height=ROW - 4, rx=4, class_="soak-touch"),
        label(4, middle + 4.5, cut_to(room, judged.check.title, "lab"), "lab"),
    ]
    if wide:
        pieces.append(label(name_px - 10, middle + 4.5, judged.check.expects, "dim", "end"))
    for n, day in enumerate(days):
        tried = [r for r in judged.readings if r.when[:10] == day]
        for k, reading in enumerate(tried[-3:]):
            x = name_px + step * (n + 0.5) + 13 * (k - (min(len(tried), 3) - 1) / 2)
            good = is_good(judged.check, reading)
            style = "good" if good else "off" if good is False else "unknown"
            pieces.append(el("circle", cx=x, cy=middle, r=5.5, class_=f"soak-try {style}"))
            if not good:
                pieces.append(label(x, middle + 4, "!" if good is False else "?", "dim", "middle", "on-try"))
    sign = SIGNS[judged.state]
    style = "stands" if judged.state.stands else judged.state.name.lower()
    pieces.append(el("rect", x=width - 38, y=middle - 11, width=34.0, height=22.0, rx=11, class_=f"soak-pill {style}"))
    words = sign or f"{judged.good}/{judged.check.times}"
    words = f"{judged.good}/{judged.check.times}" if judged.state is SoakState.BEGUN else words
    pieces.append(label(width - 21, middle + 4.4, words, "dim", "middle", f"on-{style}"))
    said = f"{judged.check.title}: {judged.state.value}{f', {judged.left}' if judged.left else ''}"
    return el("a", el("title", said), *pieces, href=link_to(f"check:{judged.check.id}"), class_="soak-row",
              aria_label=said)  # fmt: skip
