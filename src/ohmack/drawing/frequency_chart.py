"""Charts over frequency: one axis, several curves each, a limit that is not to be passed."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from math import ceil, isnan, log10

from markupsafe import Markup

from ohmack.core.physics.boxes import Floats
from ohmack.drawing.car import NARROW
from ohmack.drawing.svg import el, group, label, path, text_width

ROW_PX, GAP_PX, TOP = 128.0, 30.0, 20.0
KEY_PX, SAMPLE_PX = 15.0, 22.0  # a row of the key, and the piece of curve in it
READ_AT = 64  # places along a curve that can be read off it
STEPS = (1.0, 2.0, 5.0, 10.0, 20.0, 50.0)


@dataclass(frozen=True, slots=True)
class Axis:
    """The frequencies that are drawn, those that are written, and from where on anything is judged."""

    low_hz: float
    high_hz: float
    ticks_hz: tuple[int, ...]
    crowded_hz: tuple[int, ...] = ()  # not written where there is little room
    judged_from_hz: float | None = None
    named: bool = False  # whether the curves' names stand in the chart


BASS = Axis(15.0, 200.0, (20, 30, 40, 60, 80, 100, 150, 200), (150,))
HEARD = Axis(
    20.0, 20_000.0, (20, 50, 100, 200, 500, 1000, 2000, 5000, 10_000), (50, 200, 500, 2000),
    named=True,
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class Sheet:
    """Where charts lie in a drawing of some width [px], and how many stand side by side."""

    width: float
    columns: int
    row_px: float = ROW_PX


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
    from_below: bool = False  # whether the curve is to stay over it


@dataclass(frozen=True, slots=True)
class Chart:
    """One chart of several curves over frequency."""

    title: str
    unit: str
    lines: tuple[Line, ...]
    low: float
    high: float
    limit: Limit | None = None


def draw_curves(charts: Sequence[Chart], frequency_hz: Floats, title: str, axis: Axis, sheet: Sheet = WIDE) -> Markup:
    """Charts over one kind of axis, side by side as far as there is room."""
    rows = ceil(len(charts) / sheet.columns)
    wide = (sheet.width - 8) / sheet.columns
    keys = [_key(chart, wide - 20) if axis.named else [] for chart in charts]
    above = KEY_PX * max((len(key) for key in keys), default=0)
    each = sheet.row_px + GAP_PX + 18 + above
    pieces = []
    for n, (chart, key) in enumerate(zip(charts, keys, strict=True)):
        left, top = 4 + wide * (n % sheet.columns), TOP + each * (n // sheet.columns)
        pieces.append(
            _chart(chart, axis, frequency_hz, (left + 34, left + wide - 12), top + 14 + above, sheet.row_px, top + 4)
        )
        pieces += _key_drawn(key, left + 4, top + 4)
    height = TOP + each * rows
    return el(
        "svg", el("title", title), *pieces, viewBox=f"0 0 {sheet.width:g} {height:g}", class_="drawing box-curves",
        role="group", aria_label=title,
    )  # fmt: skip


def both_widths(charts: Sequence[Chart], frequency_hz: Floats, title: str, axis: Axis) -> tuple[Markup, Markup]:
    """The same charts for a screen and for a phone."""
    return draw_curves(charts, frequency_hz, title, axis), draw_curves(charts, frequency_hz, title, axis, PHONE)


def _key(chart: Chart, room_px: float) -> list[list[Line]]:
    """Which curve is which, in rows that fit; nothing where there is one alone."""
    rows: list[list[Line]] = []
    used = room_px
    for line in chart.lines if len(chart.lines) > 1 else ():
        wide = SAMPLE_PX + 6 + text_width(line.words, "dim") + 14
        if used + wide > room_px:
            rows.append([])
            used = 0.0
        rows[-1].append(line)
        used += wide
    return rows


def _key_drawn(rows: list[list[Line]], left: float, title_y: float) -> list[Markup]:
    pieces = []
    for n, row in enumerate(rows):
        x, y = left, title_y + KEY_PX * (n + 1)
        for line in row:
            pieces.append(el("path", d=f"M{x:.1f} {y - 4:.1f}h{SAMPLE_PX:g}", class_=f"curve {line.style}"))
            pieces.append(label(x + SAMPLE_PX + 6, y, line.words, "dim"))
            x += SAMPLE_PX + 6 + text_width(line.words, "dim") + 14
    return pieces


def _chart(
    chart: Chart,
    axis: Axis,
    frequency_hz: Floats,
    sides: tuple[float, float],
    top: float,
    row_px: float,
    title_y: float,
) -> Markup:
    (left, right), bottom = sides, top + row_px

    def x_of(hz: float) -> float:
        return left + (right - left) * log10(hz / axis.low_hz) / log10(axis.high_hz / axis.low_hz)

    def y_of(value: float) -> float:
        share = (value - chart.low) / (chart.high - chart.low)
        return bottom - (bottom - top) * min(1.0, max(0.0, share))

    pieces = [
        label(left - 30, title_y, f"{chart.title}, {chart.unit}", "lab"),
        *_grid(chart, axis, left, right, x_of, y_of),
    ]
    if axis.judged_from_hz is not None:
        judged = x_of(axis.judged_from_hz)
        pieces.append(el("rect", x=left, y=top, width=judged - left, height=row_px, class_="below-judged"))
    inside = (frequency_hz >= axis.low_hz * (1 - 1e-9)) & (frequency_hz <= axis.high_hz * (1 + 1e-9))
    if chart.limit is not None:
        y = y_of(chart.limit.value)
        pieces.append(el("path", d=f"M{left:.1f} {y:.1f}H{right:.1f}", class_="limit"))
        if not chart.limit.from_below:
            pieces.append(label(right - 4, y - 5, chart.limit.words, "dim", "end"))
        elif y + 15 < bottom:
            pieces.append(label(right - 4, y + 13, chart.limit.words, "dim", "end"))
        else:  # no room above the axis' words: a curve as steep as that leaves some on the left
            pieces.append(label(left + 4, y - 5, chart.limit.words, "dim"))
    for line in chart.lines:
        drawn = ""
        for run in _shown(line.values[inside], chart.low):  # what falls out of the chart is not drawn along its foot
            drawn += path([(x_of(float(frequency_hz[inside][n])), y_of(float(line.values[inside][n]))) for n in run])
        pieces.append(el("path", d=drawn, class_=f"curve {line.style}"))
    lines = [line.values[inside] for line in chart.lines]
    pieces.append(_cursor(chart, frequency_hz[inside], lines, sides, top, row_px))
    return group(pieces, class_="chart", tabindex="0", role="application", aria_label=_read_by(chart))


def _shown(values: Floats, low: float) -> list[range]:
    """The stretches of a curve that lie in its chart, each with one point beyond either end where there is one; what
    is not a number is where the curve was not measured.
    """
    inside = [float(value) >= low for value in values]
    there = [not isnan(float(value)) for value in values]
    found: list[range] = []
    start = None
    for n, here in enumerate([*inside, False]):
        if here and start is None:
            start = n - 1 if n and there[n - 1] else n
        elif not here and start is not None:
            found.append(range(start, n + 1 if n < len(values) and there[n] else n))
            start = None
    return found


def _read_by(chart: Chart) -> str:
    return f"{chart.title}, {chart.unit}: arrow keys read the curve"


def _cursor(
    chart: Chart, frequency_hz: Floats, lines: Sequence[Floats], sides: tuple[float, float], top: float, row_px: float
) -> Markup:
    """What the pointer or the arrow keys read: values every few samples, for the script to show."""
    left, right = sides
    step = max(1, len(frequency_hz) // READ_AT)
    hz, *values = (",".join(f"{value:.4g}" for value in row[::step]) for row in (frequency_hz, *lines))
    return group(
        [
            el("rect", x=left, y=top, width=right - left, height=row_px, class_="reader"),
            el("path", d="", class_="cursor"),
            label(left + 6, top + row_px - 8, "", "lab", "start", "readout paper-halo"),
        ],
        data_hz=hz, data_values=";".join(values), data_unit=chart.unit,
        data_names=";".join(line.words for line in chart.lines),
    )  # fmt: skip


def _grid(
    chart: Chart, axis: Axis, left: float, right: float, x_of: Callable[[float], float], y_of: Callable[[float], float]
) -> list[Markup]:
    top, bottom = y_of(chart.high), y_of(chart.low)
    pieces = []
    shown = tuple(hz for hz in axis.ticks_hz if right - left > 250 or hz not in axis.crowded_hz)
    for hz in shown:
        x = x_of(float(hz))
        pieces.append(el("path", d=f"M{x:.1f} {top:.1f}V{bottom:.1f}", class_="grid"))
        words = str(hz) if hz < 1000 else f"{hz // 1000} k"
        unit = "" if hz != shown[-1] else " Hz" if hz < 1000 else "Hz"
        pieces.append(label(x, bottom + 15, f"{words}{unit}", "dim", "middle"))
    span = chart.high - chart.low
    step = next((s for s in STEPS if span / s <= 5), 100.0)
    value = step * ceil(chart.low / step)
    while value <= chart.high + 1e-9:
        y = y_of(value)
        pieces.append(el("path", d=f"M{left:.1f} {y:.1f}H{right:.1f}", class_="grid"))
        pieces.append(label(left - 5, y + 4, f"{value:g}".replace("-", "−"), "dim", "end"))
        value += step
    return pieces
