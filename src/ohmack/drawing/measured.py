"""Volts measured against volts predicted, point by point under the car: a grey stretch where a sound car reads, a
stroke where this one did.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

from markupsafe import Markup

from ohmack.core.prove.car import Setting
from ohmack.core.prove.judged import Judged, State
from ohmack.core.wording import amount
from ohmack.drawing.car import NARROW, WIDTH
from ohmack.drawing.levels import apart
from ohmack.drawing.picture import Picture
from ohmack.drawing.svg import cut_to, el, group, label, text_width

LADDER_HEIGHT, ROW, LINE_PX = 210.0, 40.0, 15.0
SHOWN = (Setting.RUNNING, Setting.LEVEL, Setting.ON)
LEFT, RIGHT, NEAR, MOST = 120.0, WIDTH - 40.0, 138.0, 12


def _rows(ladder: Sequence[Judged]) -> list[Judged]:
    """What is drawn: what was read, of the settings that say most; else what is to be read while the engine runs."""
    read = [j for j in ladder if j.reading is not None and j.check.setting in SHOWN]
    return read[:MOST] or [j for j in ladder if j.check.setting is Setting.RUNNING][:MOST]


def _name(judged: Judged) -> str:
    return judged.check.plus.name if judged.check.plus is not None else judged.check.title


def _bounds(rows: Sequence[Judged]) -> tuple[float, float]:
    values = [v for j in rows if j.window is not None for v in (j.window.low, j.window.high)]
    values += [j.value for j in rows if j.value is not None]
    low, high = min(values), max(values)
    room = 0.12 * max(high - low, 0.2)
    return low - room, high + room


def draw_measured(picture: Picture, ladder: Sequence[Judged], top: float) -> Markup:
    """The ladder below a car that lies: each point under its place, a dotted line down to it."""
    rows = _rows(ladder)
    if not rows:
        return Markup("")
    low, high = _bounds(rows)
    upper, lower = top + 26, top + LADDER_HEIGHT - 46

    def y_of(volts: float) -> float:
        return upper + (high - volts) / (high - low) * (lower - upper)

    def x_of(judged: Judged) -> float:
        point = judged.check.plus.point if judged.check.plus is not None else None
        return picture.frame.at(*point)[0] if point is not None else LEFT

    points = {_name(j): x_of(j) for j in rows}
    names = sorted(points, key=lambda name: (points[name], name))
    near = min(NEAR, (RIGHT - LEFT - 30) / max(1, len(names)))
    places = dict(zip(names, apart([points[n] for n in names], near, LEFT + 10, RIGHT - 20), strict=True))
    pieces = _grid(low, high, y_of)
    for name, x in places.items():
        thing, _, end = name.partition(", ")
        pieces += [
            el("path", d=f"M{x:.1f} {top + 18:.1f}V{lower + 4:.1f}", class_="dropline"),
            label(x, lower + 16, cut_to(near - 4, thing), "dim", "middle"),
            label(x, lower + 31, cut_to(near - 4, end), "dim", "middle"),
        ]
        own = sorted((j for j in rows if _name(j) == name), key=lambda j: _shown_y(j, y_of))
        ys = apart([_shown_y(j, y_of) for j in own], LINE_PX, upper - 6, lower + 4)
        pieces += [_point(j, x, y, y_of) for j, y in zip(own, ys, strict=True)]
    pieces.append(label(8, top + 12, "Volts, measured against predicted", "dim"))
    return group(pieces, class_="measured")


def _grid(low: float, high: float, y_of: Callable[[float], float]) -> list[Markup]:
    step = next(s for s in (0.1, 0.2, 0.5, 1.0, 2.0, 5.0) if (high - low) / s <= 5.5 or s == 5.0)
    first = int(low / step) + 1
    pieces = []
    for n in range(first, int(high / step) + 1):
        y = y_of(n * step)
        pieces += [
            el("path", d=f"M{LEFT - 14:.1f} {y:.1f}H{RIGHT:.1f}", class_="grid"),
            label(LEFT - 20, y + 4, amount(n * step, "v"), "dim", "end"),
        ]
    return pieces


def _shown_y(judged: Judged, y_of: Callable[[float], float]) -> float:
    """Where the words of a reading would stand: at what was read, else at what was planned."""
    assert judged.window is not None
    return y_of(judged.value if judged.value is not None else judged.window.value)


def _point(judged: Judged, x: float, words_y: float, y_of: Callable[[float], float]) -> Markup:
    """A reading on its window; its words at a height where they lie on no other's."""
    window = judged.window
    assert window is not None
    top, bottom = y_of(window.high), y_of(window.low)
    state = {Setting.RUNNING: "running", Setting.LEVEL: "full level", Setting.ON: "key on"}[judged.check.setting]
    pieces = [
        el("rect", x=x - 9, y=top, width=18.0, height=max(bottom - top, 3.0), rx=3, class_="window-band"),
        el("path", d=f"M{x - 9:.1f} {y_of(window.value):.1f}h18", class_="window-line"),
        label(x - 18, words_y + 4, state, "dim", "end"),
    ]
    if judged.value is not None:
        y, good = y_of(judged.value), judged.state in (State.PASSED, State.ACCEPTED)
        pieces += [
            el("path", d=f"M{x - 15:.1f} {y:.1f}h30", class_="measured-good" if good else "measured-off"),
            label(x + 18, words_y + 4.5, amount(judged.value, "v"), "lab", "start", "" if good else "bad"),
        ]
    title = f"{judged.check.title}: {judged.read_words or 'not read'}, expected {judged.expects}"
    return group([el("title", title), *pieces])


def measured_alone(ladder: Sequence[Judged]) -> Markup:
    """The same for a phone: a row a point, volts across."""
    rows = _rows(ladder)
    if not rows:
        return Markup("")
    low, high = _bounds(rows)
    left, right = 8.0, NARROW - 8.0

    def x_of(volts: float) -> float:
        return left + (volts - low) / (high - low) * (right - left)

    pieces = []
    for n, judged in enumerate(rows):
        y, window = 16 + n * ROW, judged.window
        assert window is not None
        good = judged.state in (State.PASSED, State.ACCEPTED)
        value = judged.read_words or "not read"
        room = right - left - text_width(value, "lab") - 12
        pieces += [
            label(left, y, cut_to(room, judged.check.title), "dim"),
            label(right, y, value, "lab", "end", "" if good or judged.value is None else "bad"),
            el("rect", x=left, y=y + 6, width=right - left, height=8.0, class_="window-out"),
            el("rect", x=x_of(window.low), y=y + 6, width=max(x_of(window.high) - x_of(window.low), 2.0), height=8.0,
               class_="window-band"),
        ]  # fmt: skip
        if judged.value is not None:
            style = "measured-good" if good else "measured-off"
            pieces.append(el("path", d=f"M{x_of(judged.value):.1f} {y + 3:.1f}v14", class_=style))
    title = "Volts, measured against predicted"
    return el("svg", el("title", title), *pieces, viewBox=f"0 0 {NARROW:g} {16 + len(rows) * ROW:.0f}",
              class_="drawing measured", role="img", aria_label=title)  # fmt: skip
