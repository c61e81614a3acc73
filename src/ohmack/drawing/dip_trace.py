"""Volts over time in a bass note: at the post, at the amplifier, and with a remedy."""

from __future__ import annotations

from math import ceil, floor

import numpy as np
from markupsafe import Markup
from numpy.typing import NDArray

from ohmack.core.physics.dip import Dip
from ohmack.core.supply.dip_study import DipStudy, DipWith
from ohmack.drawing.car import NARROW
from ohmack.drawing.labels import Box, LabelField
from ohmack.drawing.svg import el, group, label, path

Floats = NDArray[np.float64]
HEIGHT, TOP, BOTTOM = 286.0, 34.0, 246.0
POINTS = 500  # that are drawn of a trace, the lowest and the highest of every piece
STEPS_S = (0.5, 1.0, 2.0, 5.0, 10.0)


def draw_dip(study: DipStudy, mended: DipWith | None, what: str = "a bass note") -> tuple[Markup, Markup]:
    """The trace for a screen and for a phone; one remedy is drawn over it."""
    wide, narrow = (_drawn(study, mended, width, what) for width in (760.0, NARROW))
    return wide, narrow


def _thinned(values: Floats) -> tuple[Floats, Floats]:
    """(places, values): the lowest and the highest of every piece of a long trace, so that no dip is left out."""
    if len(values) <= 2 * POINTS:
        return np.arange(len(values), dtype=np.float64), values
    edges = np.linspace(0, len(values), POINTS // 2 + 1).astype(int)
    places = sorted(
        {int(a + pick(values[a:b])) for a, b in zip(edges, edges[1:], strict=False) for pick in (np.argmin, np.argmax)}
    )
    return np.array(places, dtype=np.float64), values[places]


def _drawn(study: DipStudy, mended: DipWith | None, width: float, what: str) -> Markup:
    left, right = 46.0, width - 14.0
    shown = [study.now.dip, *([mended.dip] if mended else [])]
    low = floor(2 * min(d.lowest_amplifier_v for d in shown)) / 2
    high = ceil(2 * max(float(d.post_v.max()) for d in shown)) / 2
    seconds = float(study.now.dip.time_s[-1])

    def at(time_s: float, volts: float) -> tuple[float, float]:
        return left + (right - left) * time_s / seconds, BOTTOM - (BOTTOM - TOP) * (volts - low) / max(high - low, 0.5)

    def line(values: Floats, dip: Dip) -> list[tuple[float, float]]:
        places, shown_v = _thinned(values)
        return [at(float(dip.time_s[int(n)]), float(v)) for n, v in zip(places, shown_v, strict=True)]

    pieces = []
    volts = low
    while volts <= high + 1e-9:
        _, y = at(0.0, volts)
        pieces.append(el("path", d=f"M{left:.1f} {y:.1f}H{right:.1f}", class_="grid"))
        pieces.append(label(left - 6, y + 4, f"{volts:.1f}", "dim", "end"))
        volts += 0.5
    step_s = next((s for s in STEPS_S if seconds / s <= (12 if width > NARROW else 6)), STEPS_S[-1])
    for n in range(int(seconds / step_s) + 1):
        x, _ = at(n * step_s, low)
        pieces.append(label(x, BOTTOM + 16, f"{n * step_s:g}", "dim", "middle"))
    pieces.append(label((left + right) / 2, BOTTOM + 32, "seconds", "dim", "middle"))
    pieces.append(label(left - 6, TOP - 12, "V", "dim", "end"))
    labels = LabelField(Box(left, TOP - 4, right, BOTTOM))
    traces = [(study.now.dip.post_v, study.now.dip, "post", "at the post: lights"),
              (study.now.dip.amplifier_v, study.now.dip, "amp-v", "at the amplifier")]  # fmt: skip
    if mended is not None:
        traces.append((mended.dip.post_v, mended.dip, "post mended", ""))
        traces.append((mended.dip.amplifier_v, mended.dip, "amp-v mended", ""))
    drawn = [(line(values, dip), style, words) for values, dip, style, words in traces]
    for points, style, _ in drawn:
        pieces.append(el("path", d=path(points), class_=f"trace {style}"))
        labels.line(points[:: max(1, len(points) // 60)], 3)
    for points, style, words in drawn:
        if words:
            x, y = points[int(len(points) * 0.42)]
            placed = labels.place(words, "lab", [(x, y - 8, "start"), (x, y + 18, "start"), (x, y - 24, "start"),
                                                 (x - 10, y + 34, "end"), (x + 40, y + 34, "start")])  # fmt: skip
            pieces.append(label(placed.x, placed.y, words, "lab", "start", f"paper-halo {style}"))
    title = f"Volts over time in {what}, engine idling"
    return el(
        "svg", el("title", title), group(pieces), viewBox=f"0 0 {width:g} {HEIGHT:g}", class_="drawing dip-trace",
        role="img", aria_label=title,
    )  # fmt: skip
