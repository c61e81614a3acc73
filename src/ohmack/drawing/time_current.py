"""Seconds against amperes on two logarithmic axes: a fuse's band, the one before it, what the wire stands, the load and
the shorts.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from math import log10

import numpy as np
from markupsafe import Markup

from ohmack.core.physics.time_current import ADIABATIC_S, LONGEST_S, band_of, damage_current_a, opening_s, standing_s
from ohmack.core.supply.protection_study import Protected
from ohmack.drawing.car import NARROW
from ohmack.drawing.labels import Box, LabelField
from ohmack.drawing.svg import el, group, label, path

LOW_S, HIGH_S = 0.01, LONGEST_S
TICKS_S = ((0.01, "10 ms"), (0.1, "0.1 s"), (1.0, "1 s"), (10.0, "10 s"), (60.0, "1 min"), (600.0, "10 min"),
           (3600.0, "1 h"))  # fmt: skip
TICKS_A = (10, 20, 50, 100, 200, 500, 1000, 2000, 5000)
POINTS = 90
Place = Callable[[float, float], tuple[float, float]]


@dataclass(frozen=True, slots=True)
class _Frame:
    width: float
    left: float
    right: float
    top: float
    bottom: float
    low_a: float
    high_a: float

    def at(self, current_a: float, seconds: float) -> tuple[float, float]:
        """Where a current and a time are drawn."""
        across = log10(min(max(current_a, self.low_a), self.high_a) / self.low_a) / log10(self.high_a / self.low_a)
        up = log10(min(max(seconds, LOW_S), HIGH_S) / LOW_S) / log10(HIGH_S / LOW_S)
        return self.left + (self.right - self.left) * across, self.bottom - (self.bottom - self.top) * up


def draw_time_current(one: Protected, load_a: float | None) -> tuple[Markup, Markup]:
    """The chart of one fused run, for a screen and for a phone."""
    wide, narrow = (_drawn(one, load_a, width) for width in (760.0, NARROW))
    return wide, narrow


def _drawn(one: Protected, load_a: float | None, width: float) -> Markup:
    near_a = float(one.near.value)
    low_a = 10.0 if min(one.rating_a, load_a or one.rating_a) >= 12 else 1.0
    frame = _Frame(width, 58.0, width - 26.0, 18.0, 330.0, low_a, max(2000.0, near_a * 1.25))
    labels = LabelField(Box(frame.left, frame.top, frame.right, frame.bottom))
    currents = [float(a) for a in np.geomspace(low_a, frame.high_a, POINTS)]
    pieces = [*_grid(frame)]
    if one.before is not None:
        pieces.append(_band(frame, one.before, currents, "band-before"))
    pieces.append(_band(frame, one, currents, "band"))
    for_ever_a = damage_current_a(one.wire, one.engine_space)
    heated = [for_ever_a * (1 + more) for more in (1e-9, 1e-5, 1e-3, 1e-2, 0.03)]
    heated += [a for a in currents if a > heated[-1]]
    stands = [(a, standing_s(one.wire, a, one.engine_space)) for a in heated]
    wire = [frame.at(a, s) for a, s in stands]
    _, quick_y = frame.at(low_a, ADIABATIC_S)
    quick, long = [p for p in wire if p[1] >= quick_y - 6], [p for p in wire if p[1] <= quick_y + 6]
    pieces.append(el("path", d=path(quick), class_="stands"))
    pieces.append(el("path", d=path(long), class_="stands long"))
    labels.line(wire, 8)
    marks = [(float(one.far.value), "short at its end"), (near_a, "at the fuse")]
    marks += [(load_a, "full load")] if load_a is not None else []
    for current_a, _ in marks:
        x, _ = frame.at(current_a, 1.0)
        pieces.append(el("path", d=f"M{x:.1f} {frame.top:.1f}V{frame.bottom:.1f}", class_="mark-line"))
        labels.line([(x, frame.top), (x, frame.bottom)], 4)
    for current_a, words in marks:
        x, _ = frame.at(current_a, 1.0)
        text = f"{words} {current_a:.0f} A"
        spots = [(x + 5, frame.top + 12 + 16 * n, "start") for n in range(6)]
        spots += [(x - 5, frame.top + 12 + 16 * n, "end") for n in range(6)]
        placed = labels.place(text, "dim", spots)
        pieces.append(label(placed.x, placed.y, text, "dim", "start", "paper-halo"))
    named = [(one, f"{one.rating_a:g} A fuse"), (one.before, "fuse before it" if one.before is not None else "")]
    for fuse, words in named:
        if fuse is not None:
            pieces.append(_called(frame, labels, fuse, words))
    if wire:
        x, y = wire[len(wire) // 3]
        words = f"{one.wire.label} stands"
        spots = [(x + 8, y - 6, "start"), (x + 8, y - 24, "start"), (x - 8, y + 18, "end"), (x - 8, y + 34, "end")]
        placed = labels.place(words, "lab", spots)
        pieces.append(label(placed.x, placed.y, words, "lab", "start", "paper-halo of-wire"))
    title = f"{one.name}: its fuse, its wire and its shorts, seconds against amperes"
    return el(
        "svg", el("title", title), group(pieces), viewBox=f"0 0 {width:g} 366", class_="drawing time-current",
        role="img", aria_label=title,
    )  # fmt: skip


def _called(frame: _Frame, labels: LabelField, fuse: Protected, words: str) -> Markup:
    """The name of a band, beside its upper end."""
    x, y = frame.at(band_of(fuse.family).multiples[0] * fuse.rating_a, 60.0)
    spots = [(x - 6, y + dy, "end") for dy in (0.0, 18.0, -18.0, 40.0)] + [(x + 26, y - 30, "start")]
    placed = labels.place(words, "lab", spots)
    return label(placed.x, placed.y, words, "lab", "start", "paper-halo")


def _band(frame: _Frame, fuse: Protected, currents: list[float], style: str) -> Markup:
    """The times a fuse may open in, as an area."""
    from_a = band_of(fuse.family).multiples[0] * fuse.rating_a
    inside = [from_a, *(a for a in currents if a > from_a)]
    times = [(a, opening_s(fuse.family, fuse.rating_a, a)) for a in inside]
    slow = [frame.at(a, t[1]) for a, t in times]
    fast = [frame.at(a, t[0]) for a, t in reversed(times)]
    return el("path", d=path([*slow, *fast], close=True), class_=style)


def _grid(frame: _Frame) -> list[Markup]:
    pieces = []
    for seconds, words in TICKS_S:
        _, y = frame.at(frame.low_a, seconds)
        pieces.append(el("path", d=f"M{frame.left:.1f} {y:.1f}H{frame.right:.1f}", class_="grid"))
        pieces.append(label(frame.left - 6, y + 4, words, "dim", "end"))
    shown = [a for a in TICKS_A if frame.low_a <= a <= frame.high_a]
    for n, current_a in enumerate(shown):
        x, _ = frame.at(float(current_a), 1.0)
        pieces.append(el("path", d=f"M{x:.1f} {frame.top:.1f}V{frame.bottom:.1f}", class_="grid"))
        unit = " A" if n == len(shown) - 1 else ""
        pieces.append(label(x, frame.bottom + 16, f"{current_a}{unit}", "dim", "middle"))
    return pieces
