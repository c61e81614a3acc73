"""The voltage along the loop beside a car that stands nose up: volts across, the way along the car downwards."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from markupsafe import Markup

from ohmack.core.prove.beside import volts_read
from ohmack.core.supply.results import SupplyResult
from ohmack.core.wording import amount
from ohmack.drawing.car import NARROW, NARROW_TOP
from ohmack.drawing.labels import Box, LabelField
from ohmack.drawing.picture import Picture
from ohmack.drawing.svg import el, group, label, path
from ohmack.drawing.volts import faint_traces, grid_step_v, trace

_LEFT, _RIGHT = 222.0, NARROW - 16.0  # px for the positive side


def draw_volts_upright(picture: Picture, supply: SupplyResult, others: Sequence[SupplyResult] = ()) -> Markup:
    """The chart on the right of an upright car, other loops faint behind it; empty while nothing is solved."""
    found = trace(picture, supply)
    if found is None:
        return Markup("")
    faint = faint_traces(picture, others, found)
    source_v = max(one.positive[0][1] for one in (found, *faint))
    low_v = min(one.positive[-1][1] for one in (found, *faint))
    scale = (_RIGHT - _LEFT) / max(source_v - low_v, 0.02)

    def x_of(volts: float) -> float:
        return _RIGHT - (source_v - volts) * scale

    line = [(x_of(volts), y) for y, volts in found.positive]
    height = picture.frame.height_px
    labels = LabelField(Box(_LEFT - 40, 2, NARROW - 2, height - 2))
    labels.line(line, 8)
    top = max(min(y for _, y in line) - 24, NARROW_TOP + 14)
    bottom = min(max(y for _, y in line) + 40, height - 24)
    pieces = [_grid(source_v, low_v, x_of, top, bottom)]
    for other in faint:
        behind = [(x_of(volts), y) for y, volts in other.positive]
        pieces.append(el("path", d=path(behind), class_="trace-red faint"))
    pieces.append(el("path", d=path(line), class_="trace-red"))
    x, y = line[-1]
    pieces.append(el("circle", cx=x, cy=y, r=5, class_="level"))
    volts = amount(supply.figures["voltage"].value or 0.0, "v")
    spots = [(_LEFT - 6, y + 30, "start"), (_LEFT - 6, y - 28, "start")]
    number = labels.place(volts, "big", spots)
    pieces.append(label(number.x, number.y, volts, "number", "start", "paper-halo"))
    pieces.append(label(number.x, number.y + 16, "at the amplifier", "dim", "start", "paper-halo"))
    read = volts_read(picture.evaluation.results, supply.part.id)
    if read is not None:
        pieces.append(label(number.x, number.y + 32, read.words, "dim", "start", "" if read.good else "bad"))
    labels.block(Box(number.x, number.y - 22, number.x + 96, number.y + 20))
    for down, at_v, side, text in found.drops:
        if side == 1:
            px = x_of(at_v)
            beside = [(px - 8, down + 4, "end"), (px + 8, down + 4, "start"), (px - 8, down + 18, "end"),
                      (px - 8, down - 12, "end"), (px + 8, down + 20, "start")]  # fmt: skip
            placed = labels.place(text, "lab", beside)
            pieces.append(label(placed.x, placed.y, text, "lab", "start", "paper-halo"))
    back_v = sum(s.drop_v for s in supply.segments if s.place.returns)
    words = f"way back {amount(back_v, 'v')}: lead, body, strap"
    pieces.append(label(NARROW - 6, height - 6, words, "dim", "end", "paper-halo"))
    return group(pieces, class_="volts")


def _grid(source_v: float, low_v: float, x_of: Callable[[float], float], top: float, bottom: float) -> Markup:
    step, volts, pieces = grid_step_v((source_v - low_v) * 1.4), source_v, []
    while volts >= low_v - 1e-9:
        x, first = x_of(volts), volts == source_v
        pieces.append(el("path", d=f"M{x:.1f} {top:.1f}V{bottom:.1f}", class_="grid"))
        words = f"{volts:.2f}" + (" V" if first else "")
        pieces.append(label(x + (14 if first else 0), top - 5, words, "dim", "end" if first else "middle"))
        volts -= step
    return group(pieces)
