"""The levels of a way from radio to cone as rows, for a phone: one stage a row, level and clipping on one scale."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.physics.signal_chain import voltage_ratio_from_db
from ohmack.core.signal.levels import SignalResult
from ohmack.core.wording import amount
from ohmack.drawing.car import NARROW
from ohmack.drawing.labels import Box, LabelField
from ohmack.drawing.levels import SHORT, grid_step_db
from ohmack.drawing.picture import picture_svg
from ohmack.drawing.svg import el, group, label, path

_LEFT, _RIGHT, _TOP, _ROW = 104.0, NARROW - 26.0, 40.0, 46.0


def draw_levels_upright(signal: SignalResult) -> Markup:
    """The rows; empty while the levels are not known."""
    stages = signal.stages
    if not stages:
        return Markup("")
    high, low = max(s.clip_dbv for s in stages) + 3, min(s.level_dbv for s in stages) - 4
    height = _TOP + _ROW * len(stages) + 8

    def x_of(level: float) -> float:
        return _LEFT + (_RIGHT - _LEFT) * (level - low) / max(high - low, 6.0)

    step = grid_step_db(high - low)
    pieces = [label(4, 12, "● level at the top volume, 0 dBFS   ┃ clips at", "dim")]
    for level in range(step * int(low // step + 1), int(high) + 1, step):
        x = x_of(level)
        pieces.append(el("path", d=f"M{x:.1f} {_TOP - 8:.1f}V{height - 8:.1f}", class_="grid"))
        pieces.append(label(x, _TOP - 12, f"{level:+d}".replace("-", "−") if level else "0 dBV", "dim", "middle"))
    line = [(x_of(s.level_dbv), _TOP + _ROW * n + 14) for n, s in enumerate(stages)]
    pieces.append(el("path", d=path(line), class_="level-line"))
    for n, stage in enumerate(stages):
        (x, y), clip = line[n], x_of(stage.clip_dbv)
        over = stage.level_dbv > stage.clip_dbv + 0.01
        row = LabelField(Box(_LEFT - 8, y - 14, NARROW - 2, y + 32))
        row.block(Box(x - 6, y - 6, x + 6, y + 6))
        row.block(Box(clip - 3, y - 10, clip + 3, y + 10))
        row.line(line[n : n + 2], 4)
        pieces += [
            label(4, y + 4, SHORT[stage.name], "lab"),
            el("path", d=f"M{x:.1f} {y:.1f}H{clip:.1f}", class_="margin over" if over else "margin"),
            el("path", d=f"M{clip:.1f} {y - 10:.1f}v20", class_="clip"),
            el("circle", cx=x, cy=y, r=4.5, class_="level over" if over else "level"),
        ]
        volts = amount(voltage_ratio_from_db(stage.level_dbv), "v")
        spots = [(x, y + 20, "middle"), (x - 10, y + 18, "end"), (x + 10, y + 18, "start"), (x + 10, y - 8, "start"),
                 (x - 10, y - 6, "end")]  # fmt: skip
        placed = row.place(volts, "dim", spots)
        pieces.append(label(placed.x, placed.y, volts, "dim", "start", "paper-halo"))
    return picture_svg([group(pieces, class_="levels")], height, "Level of every stage", "levels-rows", NARROW)
