"""Volts over time in a bass note: at the post, at the amplifier, and with a remedy."""

from __future__ import annotations

from math import ceil, floor

import numpy as np
from markupsafe import Markup

from ohmack.core.physics.dip import Dip
from ohmack.core.supply.dip_study import DipStudy, DipWith
from ohmack.drawing.car import NARROW
from ohmack.drawing.labels import Box, LabelField
from ohmack.drawing.svg import el, group, label, path

HEIGHT, TOP, BOTTOM = 286.0, 34.0, 246.0
EVERY = 5  # samples between two points that are drawn


def draw_dip(study: DipStudy, mended: DipWith | None) -> tuple[Markup, Markup]:
    """The trace for a screen and for a phone; one remedy is drawn over it."""
    wide, narrow = (_drawn(study, mended, width) for width in (760.0, NARROW))
    return wide, narrow


def _drawn(study: DipStudy, mended: DipWith | None, width: float) -> Markup:
    left, right = 46.0, width - 14.0
    shown = [study.now.dip, *([mended.dip] if mended else [])]
    low = floor(2 * min(d.lowest_amplifier_v for d in shown)) / 2
    high = ceil(2 * max(float(d.post_v.max()) for d in shown)) / 2
    seconds = float(study.now.dip.time_s[-1])

    def at(time_s: float, volts: float) -> tuple[float, float]:
        return left + (right - left) * time_s / seconds, BOTTOM - (BOTTOM - TOP) * (volts - low) / max(high - low, 0.5)

    def line(values: np.ndarray[tuple[int, ...], np.dtype[np.float64]], dip: Dip) -> list[tuple[float, float]]:
        pairs = zip(dip.time_s[::EVERY], values[::EVERY], strict=True)
        return [at(float(t), float(v)) for t, v in pairs]

    pieces = []
    volts = low
    while volts <= high + 1e-9:
        _, y = at(0.0, volts)
        pieces.append(el("path", d=f"M{left:.1f} {y:.1f}H{right:.1f}", class_="grid"))
        pieces.append(label(left - 6, y + 4, f"{volts:.1f}", "dim", "end"))
        volts += 0.5
    for tenth in range(0, int(10 * seconds) + 1, 5):
        x, _ = at(tenth / 10, low)
        pieces.append(label(x, BOTTOM + 16, f"{tenth / 10:g}", "dim", "middle"))
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
    title = "Volts over time in a bass note, engine idling"
    return el(
        "svg", el("title", title), group(pieces), viewBox=f"0 0 {width:g} {HEIGHT:g}", class_="drawing dip-trace",
        role="img", aria_label=title,
    )  # fmt: skip
