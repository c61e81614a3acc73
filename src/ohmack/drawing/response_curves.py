"""Responses over each other: before, after, and what the equaliser is to make of them."""

from __future__ import annotations

from collections.abc import Sequence
from math import ceil, floor

import numpy as np
from markupsafe import Markup

from ohmack.core.physics.filter_families import Floats
from ohmack.core.physics.responses import grid_hz
from ohmack.core.signal.responses import Measured
from ohmack.drawing.car import NARROW
from ohmack.drawing.frequency_chart import HEARD, Chart, Line, Sheet, draw_curves

STYLES = ("most", "strong", "thin", "faint")
LEAST_DB = -30.0


def draw_responses(measured: Sequence[Measured]) -> tuple[Markup, Markup]:
    """Every response, thirds of an octave against its middle, for a screen and for a phone."""
    hz = grid_hz(20.0, 20_000.0, 12)
    lines = []
    for n, one in enumerate(measured):
        lines.append(Line(_on(hz, one.hz, one.level), STYLES[n % len(STYLES)], one.response.name))
        if one.with_bands is not None:
            lines.append(Line(_on(hz, one.hz, one.with_bands), "predicted", f"{one.response.name}, equalised"))
    values = np.concatenate([line.values[np.nan_to_num(line.values, nan=LEAST_DB) > LEAST_DB] for line in lines])
    low = max(LEAST_DB, 6.0 * floor(float(values.min()) / 6)) if len(values) else LEAST_DB
    high = max(6.0, 6.0 * ceil(float(values.max()) / 6)) if len(values) else 6.0
    chart = Chart("Level against its middle, thirds of an octave", "dB", tuple(lines), low, high)
    wide, narrow = (draw_curves((chart,), hz, "Responses", HEARD, Sheet(width, 1, 200.0)) for width in (760.0, NARROW))
    return wide, narrow


def _on(hz: Floats, own_hz: Floats, level: Floats) -> Floats:
    """A response on the chart's frequencies; beyond its own it is not drawn."""
    return np.asarray(np.interp(np.log(hz), np.log(own_hz), level, left=np.nan, right=np.nan))
