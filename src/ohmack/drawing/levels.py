"""The level ladder under the way from radio to cone: level, clipping and noise of every stage in dBV."""

from __future__ import annotations

from collections.abc import Sequence

from markupsafe import Markup

from ohmack.core.physics.signal_chain import voltage_ratio_from_db
from ohmack.core.prove.beside import level_read
from ohmack.core.signal.ladder import Stage
from ohmack.core.signal.levels import SignalResult
from ohmack.core.wording import amount, digits
from ohmack.drawing.car import WIDTH
from ohmack.drawing.labels import Box, LabelField
from ohmack.drawing.picture import Picture
from ohmack.drawing.svg import el, group, label, path

CHART_HEIGHT = 234.0
_LEFT, _RIGHT = 76.0, WIDTH - 24.0
BESIDE = ((20.0, 4.0, "start"), (-20.0, 4.0, "end"), (20.0, -10.0, "start"), (-20.0, 18.0, "end"))
_NEAR = 52.0  # px between two stages at least
_BESIDE = 2.0  # times as far apart as that: what lies nearer by each other keeps the order of the signal
SHORT = {
    "radio output": "radio",
    "radio line output": "radio line",
    "adapter line output": "adapter line",
    "factory amplifier output": "factory amp",
    "converter input": "converter in",
    "converter output": "converter out",
    "amplifier input": "amplifier in",
    "amplifier output": "amplifier out",
    "subwoofer input": "sub in",
    "driver": "cone",
}
OF_THE_RADIO = ("radio output", "radio line output", "adapter line output")


def _box(picture: Picture, stage: Stage) -> Box | None:
    """Where the thing of a stage is drawn; a new radio sits in the old one's place, an adapter hears it there."""
    return picture.things.get(stage.thing_id) or (picture.things.get("radio") if stage.name in OF_THE_RADIO else None)


def stage_places(picture: Picture, signal: SignalResult) -> list[float]:
    """The x of every stage: under its thing, an input left of its output, pushed apart where two come too close."""
    wanted = []
    for i, stage in enumerate(signal.stages):
        box = _box(picture, stage)
        x = (box.left + box.right) / 2 if box else _LEFT
        same = [n for n, other in enumerate(signal.stages) if other.thing_id == stage.thing_id]
        wanted.append(x + (same.index(i) - (len(same) - 1) / 2) * _NEAR)
    for n in range(1, len(wanted)):  # things side by side keep the order of the signal
        if 0 <= wanted[n - 1] - wanted[n] < _BESIDE * _NEAR:
            wanted[n] = wanted[n - 1] + 0.1
    order = sorted(range(len(wanted)), key=lambda n: (wanted[n], n))
    placed = apart([wanted[n] for n in order], _NEAR, _LEFT + 20, _RIGHT - 30)
    return [placed[order.index(n)] for n in range(len(wanted))]


def apart(wanted: list[float], least: float, low: float, high: float) -> list[float]:
    """Places at least so far from each other, each as near to where it is wanted as that allows.

    Parameters:
        wanted: places in rising order.
        least: the distance to keep.
        low, high: between which they lie.

    Returns:
        places in rising order: groups that touch are moved together to where their wishes balance.
    """
    groups: list[list[float]] = []  # each: the mean wish of its first place, how many
    for x in wanted:
        groups.append([x, 1.0])
        while len(groups) > 1 and groups[-2][0] + groups[-2][1] * least > groups[-1][0]:
            start, many = groups.pop()
            before, count = groups[-1]
            groups[-1] = [(before * count + (start - count * least) * many) / (count + many), count + many]
    placed = [start + n * least for start, many in groups for n in range(int(many))]
    over = max(0.0, placed[-1] - high) if placed else 0.0
    placed = [min(x, high - (len(placed) - 1 - n) * least) for n, x in enumerate(placed)] if over else placed
    return [max(x, low + n * least) for n, x in enumerate(placed)]


def draw_levels(picture: Picture, signal: SignalResult, top: float, others: Sequence[SignalResult] = ()) -> Markup:
    """The ladder below the plan, the levels of other ways faint behind it; empty while the levels are not known."""
    stages = signal.stages
    if not stages:
        return Markup("")
    xs = stage_places(picture, signal)
    high = max(s.clip_dbv for s in stages) + 4
    low = min(s.level_dbv for s in (*stages, *(s for other in others for s in other.stages))) - 6
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
    for other in others:
        if len(other.stages) > 1:
            line = [(x, y_of(s.level_dbv)) for x, s in zip(stage_places(picture, other), other.stages, strict=True)]
            pieces.append(el("path", d=path(line), class_="level-line faint"))
    pieces.append(el("path", d=path(clip_line), class_="clip-line"))
    pieces.append(el("path", d=path(level_line), class_="level-line"))
    labels.line(level_line, 6)
    for x, stage in zip(xs, stages, strict=True):
        pieces.append(_rung(picture, x, stage, y_of, top, _handle(signal, stage), 1 / scale))
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
    for x, stage in zip(xs, stages, strict=True):
        read = level_read(picture.evaluation.results, signal.scope, stage.name)
        if read is not None:
            y = min(max(y_of(stage.level_dbv + read.off_db), upper - 8), lower + 8)
            style = "measured-good" if read.good else "measured-off"
            spots = [(x + dx, y + dy, side) for dx, dy, side in BESIDE]
            placed = labels.place(read.words, "lab", spots)
            shown = "paper-halo" if read.good else "paper-halo bad"
            words = label(placed.x, placed.y, read.words, "lab", "start", shown)
            mark = el("path", d=f"M{x - 14:.1f} {y:.1f}h28", class_=style)
            pieces.append(group([el("title", read.words), mark, words], class_="measured"))
    pieces += _names(xs, stages, top)
    if noises:
        pieces += _noise(xs, stages, noise_y, signal)
    pieces.append(label(_LEFT, top + 12, "── clips at", "dim", "start", "clip-text"))
    pieces.append(label(_LEFT + 78, top + 12, "● level at the top volume, 0 dBFS", "dim", "start", "paper-halo"))
    return group(pieces, class_="levels")


def _handle(signal: SignalResult, stage: Stage) -> str:
    """The thing whose gain sets a stage's level: the converter itself, the link at an output; "" where none does."""
    if stage.name == "converter output":
        return stage.thing_id
    return signal.outputs[0].load.link.id if stage.name == "amplifier output" and signal.outputs else ""


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


def _rung(picture: Picture, x: float, stage: Stage, y_of: object, top: float, handle: str, db_per_px: float) -> Markup:
    clip_y, level_y = y_of(stage.clip_dbv), y_of(stage.level_dbv)  # type: ignore[operator]
    over = stage.level_dbv > stage.clip_dbv + 0.01
    pieces = [
        el("path", d=f"M{x:.1f} {clip_y:.1f}V{level_y:.1f}", class_="margin over" if over else "margin"),
        el("path", d=f"M{x - 18:.1f} {clip_y:.1f}h36", class_="clip"),
        _level(x, level_y, "level over" if over else "level", stage, handle, db_per_px),
    ]
    box = _box(picture, stage)
    if box:
        middle = min(max(x, box.left + 4), box.right - 4)
        d = f"M{middle:.1f} {box.bottom + 4:.1f}V{max(box.bottom + 4, top + 2):.1f}L{x:.1f} {clip_y - 5:.1f}"
        pieces.insert(0, el("path", d=d, class_="dropline"))
    return group(pieces)


def _level(x: float, y: float, style: str, stage: Stage, handle: str, db_per_px: float) -> Markup:
    """The level itself; where a gain sets it, a handle that is drawn up and down or moved by arrow keys."""
    dot = el("circle", cx=x, cy=y, r=4.5, class_=style)
    if not handle:
        return dot
    said = f"Level of the {stage.name}: {amount(stage.level_dbv, 'dbv')}. Arrow up and down move its gain."
    return el(
        "g", el("circle", cx=x, cy=y, r=11, class_="grip"), dot,
        id=f"gain-{handle}", class_="handle", tabindex="0", role="slider", aria_orientation="vertical",
        aria_label=said, aria_valuenow=f"{stage.level_dbv:.1f}", aria_valuemin="-120", aria_valuemax="60",
        data_gain=handle, data_db=f"{db_per_px:.5f}",
    )  # fmt: skip


def _names(xs: list[float], stages: tuple[Stage, ...], top: float) -> list[Markup]:
    """Stage name and margin on two staggered rows under the ladder."""
    pieces = []
    base = top + 162
    order = sorted(range(len(xs)), key=lambda n: xs[n])
    for i, (x, stage) in enumerate(zip(xs, stages, strict=True)):
        rank = order.index(i)
        near = any(abs(x - xs[order[n]]) < 74 for n in (rank - 1, rank + 1) if 0 <= n < len(xs))
        row = base + (13 if near and rank % 2 else 0)
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
