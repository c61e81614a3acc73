"""The level ladder under the way from radio to cone: level, clipping and noise of every stage in dBV."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.physics.signal_chain import voltage_ratio_from_db
from ohmack.core.signal.levels import SignalResult, Stage
from ohmack.core.wording import amount, digits
from ohmack.drawing.car import WIDTH
from ohmack.drawing.labels import Box, LabelField
from ohmack.drawing.picture import Picture
from ohmack.drawing.svg import el, group, label, path

CHART_HEIGHT = 234.0
_LEFT, _RIGHT = 76.0, WIDTH - 24.0
_NEAR = 52.0  # px between two stages at least
SHORT = {
    "radio output": "radio",
    "radio line output": "radio line",
    "factory amplifier output": "factory amp",
    "converter input": "converter in",
    "converter output": "converter out",
    "amplifier input": "amplifier in",
    "amplifier output": "amplifier out",
    "subwoofer input": "sub in",
    "driver": "cone",
}


def stage_places(picture: Picture, signal: SignalResult) -> list[float]:
    """The x of every stage: under its thing, pushed apart where two share a place, always in signal order."""
    wanted = []
    for stage in signal.stages:
        box = picture.things.get(stage.thing_id)
        wanted.append((box.left + box.right) / 2 if box else _LEFT)
    placed: list[float] = []
    for i, x in enumerate(wanted):
        pair = (
            i + 1 < len(wanted)
            and abs(wanted[i + 1] - x) < 1
            and signal.stages[i].thing_id == signal.stages[i + 1].thing_id
        )
        start = x - _NEAR / 2 if pair else x
        placed.append(max(start, placed[-1] + _NEAR) if placed else start)
    overshoot = max(0.0, placed[-1] - (_RIGHT - 30)) if placed else 0.0
    if overshoot:  # push back from the right edge, keeping distances
        for i in range(len(placed) - 1, -1, -1):
            limit = (_RIGHT - 30) - (len(placed) - 1 - i) * _NEAR
            placed[i] = min(placed[i], limit)
    return placed


def draw_levels(picture: Picture, signal: SignalResult, top: float) -> Markup:
    """The ladder below the plan; empty while the levels are not known."""
    stages = signal.stages
    if not stages:
        return Markup("")
    xs = stage_places(picture, signal)
    high = max(s.clip_dbv for s in stages) + 4
    low = min(s.level_dbv for s in stages) - 6
    upper, lower = top + 26, top + 150
    scale = (lower - upper) / max(high - low, 6.0)
    noises = [s.noise_dbv for s in stages if s.noise_dbv is not None]

    def y_of(level: float) -> float:
        return upper + (high - level) * scale

    def noise_y(level: float) -> float:
        floor, ceiling = min(noises) - 4, max(noises) + 4
        return lower + 32 + (ceiling - level) / (ceiling - floor) * 26

    labels = LabelField(Box(_LEFT - 70, top, WIDTH - 4, top + CHART_HEIGHT))
    pieces = [_grid(low, high, y_of, top, labels)]
    clip_line = [(x + dx, y_of(s.clip_dbv)) for x, s in zip(xs, stages, strict=True) for dx in (-18, 18)]
    level_line = [(x, y_of(s.level_dbv)) for x, s in zip(xs, stages, strict=True)]
    pieces.append(el("path", d=path(clip_line), class_="clip-line"))
    pieces.append(el("path", d=path(level_line), class_="level-line"))
    labels.line(level_line, 6)
    for x, stage in zip(xs, stages, strict=True):
        pieces.append(_rung(picture, x, stage, y_of, top))
        labels.block(Box(x - 19, y_of(stage.clip_dbv) - 3, x + 19, y_of(stage.clip_dbv) + 3))
        labels.block(Box(x - 6, y_of(stage.level_dbv) - 6, x + 6, y_of(stage.level_dbv) + 6))
    for x, stage in zip(xs, stages, strict=True):
        volts = amount(voltage_ratio_from_db(stage.level_dbv), "v")
        y = y_of(stage.level_dbv)
        placed = labels.place(
            volts,
            "lab",
            [
                (x, y + 19, "middle"),
                (x, y - 10, "middle"),
                (x + 9, y + 14, "start"),
                (x - 9, y + 14, "end"),
                (x, y + 33, "middle"),
            ],
        )
        pieces.append(label(placed.x, placed.y, volts, "lab", "start", "paper-halo"))
    pieces += _names(xs, stages, top)
    if noises:
        pieces += _noise(xs, stages, noise_y, signal)
    pieces.append(label(_LEFT, top + 12, "── clips at", "dim", "start", "clip-text"))
    pieces.append(label(_LEFT + 78, top + 12, "● level at the top volume, 0 dBFS", "dim"))
    return group(pieces, class_="levels")


def grid_step_db(span_db: float) -> int:
    """Grid step in decibels over a span."""
    return 10 if span_db < 70 else 20


def _grid(low: float, high: float, y_of: object, top: float, labels: LabelField) -> Markup:
    pieces = []
    step = grid_step_db(high - low)
    level = step * int(low // step + 1)
    while level <= high:
        y = y_of(level)  # type: ignore[operator]
        pieces.append(el("path", d=f"M{_LEFT:.1f} {y:.1f}H{_RIGHT:.1f}", class_="grid"))
        labels.block(Box(_LEFT - 34, y - 8, _LEFT - 4, y + 7))
        pieces.append(label(_LEFT - 6, y + 4, f"{level:+d}".replace("-", "−") if level else "0", "dim", "end"))
        level += step
    pieces.append(label(_LEFT - 6, top + 12, "dBV", "dim", "end"))
    return group(pieces)


def _rung(picture: Picture, x: float, stage: Stage, y_of: object, top: float) -> Markup:
    clip_y, level_y = y_of(stage.clip_dbv), y_of(stage.level_dbv)  # type: ignore[operator]
    over = stage.level_dbv > stage.clip_dbv + 0.01
    pieces = [
        el("path", d=f"M{x:.1f} {clip_y:.1f}V{level_y:.1f}", class_="margin over" if over else "margin"),
        el("path", d=f"M{x - 18:.1f} {clip_y:.1f}h36", class_="clip"),
        el("circle", cx=x, cy=level_y, r=4.5, class_="level over" if over else "level"),
    ]
    box = picture.things.get(stage.thing_id)
    if box and abs((box.left + box.right) / 2 - x) < _NEAR * 0.6:
        pieces.insert(
            0, el("path", d=f"M{x:.1f} {max(box.bottom + 4, top - 70):.1f}V{clip_y - 5:.1f}", class_="dropline")
        )
    return group(pieces)


def _names(xs: list[float], stages: tuple[Stage, ...], top: float) -> list[Markup]:
    """Stage name and margin on two staggered rows under the ladder."""
    pieces = []
    base = top + 162
    for i, (x, stage) in enumerate(zip(xs, stages, strict=True)):
        near = (i > 0 and x - xs[i - 1] < 74) or (i + 1 < len(xs) and xs[i + 1] - x < 74)
        row = base + (13 if near and i % 2 else 0)
        pieces.append(label(x, row, SHORT[stage.name], "dim", "middle", "paper-halo"))
    return pieces


def _noise(xs: list[float], stages: tuple[Stage, ...], noise_y: object, signal: SignalResult) -> list[Markup]:
    pieces: list[Markup] = []
    known = [(x, s.noise_dbv, s) for x, s in zip(xs, stages, strict=True) if s.noise_dbv is not None]
    if not known:
        return pieces
    for x, level, _ in known:
        y = noise_y(level)  # type: ignore[operator]
        pieces.append(el("path", d=f"M{x - 12:.1f} {y + 12:.1f}h24", class_="noise"))
        pieces.append(label(x + 16, y + 16, digits(level, 3, 0), "dim"))
    row = noise_y(known[0][1])  # type: ignore[operator]
    pieces.append(label(_LEFT - 6, row + 16, "noise", "dim", "end"))
    pieces.append(el("path", d=f"M{_LEFT - 14:.1f} {noise_y(known[0][1]) - 10:.1f}l9 -5m-9 12l9 -5", class_="break"))  # type: ignore[operator]
    return pieces
