"""What a box gives over frequency: level, travel of the cone, air in the vent, impedance; one axis of frequency."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from math import ceil, log10

from markupsafe import Markup

from ohmack.core.box.circuit import JUDGED_FROM_HZ, Solved
from ohmack.core.physics.box_limits import MOST_AIR_SPEED_M_S
from ohmack.core.physics.boxes import Floats, Vent
from ohmack.drawing.car import NARROW
from ohmack.drawing.svg import el, group, label, path

LOW_HZ, HIGH_HZ = 15.0, 200.0
TICKS_HZ = (20, 30, 40, 60, 80, 100, 150, 200)
ROW_PX, GAP_PX, TOP = 128.0, 30.0, 20.0
STEPS = (1.0, 2.0, 5.0, 10.0, 20.0, 50.0)


@dataclass(frozen=True, slots=True)
class Sheet:
    """Where charts lie in a drawing of some width [px], and how many stand side by side."""

    width: float
    columns: int


WIDE, PHONE = Sheet(760.0, 2), Sheet(NARROW, 1)


@dataclass(frozen=True, slots=True)
class Line:
    """One curve: its values, how it is drawn and what it is."""

    values: Floats
    style: str
    words: str


@dataclass(frozen=True, slots=True)
class Limit:
    """A level that is not to be passed."""

    value: float
    words: str


@dataclass(frozen=True, slots=True)
class Chart:
    """One chart of several curves over frequency."""

    title: str
    unit: str
    lines: tuple[Line, ...]
    low: float
    high: float
    limit: Limit | None = None


def charts_of(solved: Solved, cabin_db: Floats | None = None) -> list[Chart]:
    """What there is to draw of a box at full level."""
    curves = solved.curves
    levels = [
        Line(solved.most.level_db, "most", "the most it gives"),
        Line(curves.level_db, "strong", "at full level, as driven"),
    ]
    if cabin_db is not None:
        levels.append(Line(curves.level_db + cabin_db, "faint", "about so much in the cabin"))
    top = 5.0 * ceil(max(float(line.values.max()) for line in levels) / 5 + 0.2)
    found = [Chart("Level at 1 m", "dB", tuple(levels), top - 40.0, top)]
    xmax_mm = solved.xmax_mm
    travel = 1000 * curves.excursion_m
    tallest = max(solved.travel_mm, xmax_mm or 0.0)
    limit = None if xmax_mm is None else Limit(xmax_mm, f"{xmax_mm:.0f} mm in its papers")
    found.append(Chart("Cone, one way", "mm", (Line(travel, "strong", ""),), 0.0, 1.3 * tallest, limit))
    if isinstance(solved.enclosure.outlet, Vent) and solved.enclosure.outlet.ends:
        speed = curves.air_speed_m_s
        most = max(float(speed.max()), MOST_AIR_SPEED_M_S)
        heard = Limit(MOST_AIR_SPEED_M_S, f"heard above about {MOST_AIR_SPEED_M_S:.0f} m/s")
        found.append(Chart("Air in the vent", "m/s", (Line(speed, "strong", ""),), 0.0, 1.25 * most, heard))
    ohms = curves.impedance_ohm
    found.append(Chart("Impedance", "Ω", (Line(ohms, "strong", ""),), 0.0, 1.15 * float(ohms.max())))
    return found


def draw_curves(charts: Sequence[Chart], frequency_hz: Floats, title: str, sheet: Sheet = WIDE) -> Markup:
    """Charts over one kind of axis, side by side as far as there is room."""
    rows = ceil(len(charts) / sheet.columns)
    wide = (sheet.width - 8) / sheet.columns
    pieces = []
    for n, chart in enumerate(charts):
        left = 4 + wide * (n % sheet.columns)
        top = TOP + (ROW_PX + GAP_PX + 18) * (n // sheet.columns)
        pieces.append(_chart(chart, frequency_hz, left + 34, left + wide - 12, top + 14))
    height = TOP + (ROW_PX + GAP_PX + 18) * rows
    return el(
        "svg", el("title", title), *pieces, viewBox=f"0 0 {sheet.width:g} {height:g}", class_="drawing box-curves",
        role="img", aria_label=title,
    )  # fmt: skip


def _chart(chart: Chart, frequency_hz: Floats, left: float, right: float, top: float) -> Markup:
    bottom = top + ROW_PX

    def x_of(hz: float) -> float:
        return left + (right - left) * log10(hz / LOW_HZ) / log10(HIGH_HZ / LOW_HZ)

    def y_of(value: float) -> float:
        share = (value - chart.low) / (chart.high - chart.low)
        return bottom - (bottom - top) * min(1.0, max(0.0, share))

    pieces = [label(left - 30, top - 10, f"{chart.title}, {chart.unit}", "lab"), *_grid(chart, left, right, x_of, y_of)]
    judged = x_of(JUDGED_FROM_HZ)
    pieces.append(el("rect", x=left, y=top, width=judged - left, height=ROW_PX, class_="below-judged"))
    inside = (frequency_hz >= LOW_HZ) & (frequency_hz <= HIGH_HZ)
    if chart.limit is not None:
        y = y_of(chart.limit.value)
        pieces.append(el("path", d=f"M{left:.1f} {y:.1f}H{right:.1f}", class_="limit"))
        pieces.append(label(right - 4, y - 5, chart.limit.words, "dim", "end"))
    for line in chart.lines:
        points = [
            (x_of(float(f)), y_of(float(v))) for f, v in zip(frequency_hz[inside], line.values[inside], strict=True)
        ]
        pieces.append(el("path", d=path(points), class_=f"curve {line.style}"))
    return group(pieces)


def _grid(
    chart: Chart, left: float, right: float, x_of: Callable[[float], float], y_of: Callable[[float], float]
) -> list[Markup]:
    top, bottom = y_of(chart.high), y_of(chart.low)
    pieces = []
    shown = TICKS_HZ if right - left > 250 else tuple(hz for hz in TICKS_HZ if hz != 150)
    for hz in shown:
        x = x_of(float(hz))
        pieces.append(el("path", d=f"M{x:.1f} {top:.1f}V{bottom:.1f}", class_="grid"))
        pieces.append(label(x, bottom + 15, f"{hz} Hz" if hz == shown[-1] else str(hz), "dim", "middle"))
    span = chart.high - chart.low
    step = next((s for s in STEPS if span / s <= 5), 100.0)
    value = step * ceil(chart.low / step)
    while value <= chart.high + 1e-9:
        y = y_of(value)
        pieces.append(el("path", d=f"M{left:.1f} {y:.1f}H{right:.1f}", class_="grid"))
        pieces.append(label(left - 5, y + 4, f"{value:g}", "dim", "end"))
        value += step
    return pieces
