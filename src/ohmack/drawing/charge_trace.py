"""The charge of the battery over the usual drive, in a winter night and on a summer day."""

from __future__ import annotations

from collections.abc import Sequence
from math import ceil, floor

from markupsafe import Markup

from ohmack.core.supply.energy import Energy, Season
from ohmack.core.wording import amount
from ohmack.drawing.car import NARROW
from ohmack.drawing.labels import Box, LabelField
from ohmack.drawing.svg import el, group, label, path, text_width

HEIGHT, TOP, BOTTOM = 252.0, 42.0, 208.0
LEAST_SPAN = 6.0  # percent of the capacity; a smaller change is drawn small


def draw_charge(energy: Energy, legs: Sequence[tuple[float, float]]) -> tuple[Markup, Markup]:
    """The trace for a screen and for a phone: legs are (minutes, turns of the engine); empty where none is reckoned."""
    if not energy.seasons:
        return Markup(""), Markup("")
    return _drawn(energy, legs, 760.0), _drawn(energy, legs, NARROW)


def _drawn(energy: Energy, legs: Sequence[tuple[float, float]], width: float) -> Markup:
    left, right = 46.0, width - 16.0
    values = [100 * c for s in energy.seasons for c in s.run.charge]
    low, high = floor(min(values) / 2) * 2, ceil(max(values) / 2) * 2
    if high - low < LEAST_SPAN:
        low, high = low - 2, high + 2
    minutes = energy.seasons[0].run.minutes[-1]

    def at(minute: float, percent: float) -> tuple[float, float]:
        return left + (right - left) * minute / minutes, BOTTOM - (BOTTOM - TOP) * (percent - low) / (high - low)

    labels = LabelField(Box(left + 2, TOP - 2, width - 4, BOTTOM))
    pieces = [*_grid(low, high, left, right, at), *_legs(legs, energy.seasons[0], at, width < 500)]
    pieces.append(label(left - 8, TOP - 14, "%", "dim", "end"))
    pieces.append(label((left + right) / 2, BOTTOM + 34, "minutes", "dim", "middle"))
    lines = {s.key: [at(m, 100 * c) for m, c in zip(s.run.minutes, s.run.charge, strict=True)] for s in energy.seasons}
    for season in energy.seasons:
        pieces.append(el("path", d=path(lines[season.key]), class_=f"trace {season.key}"))
        labels.line(lines[season.key], 4)
    for season in energy.seasons:
        change = season.change.value or 0.0
        words = f"{season.title} {'+' if change > 0 else ''}{amount(change, 'percent')}"
        x, y = lines[season.key][-1]
        spots = [(x - 4, y + down, "end") for down in (-9, 19, -20, 30, 42, 56)]
        placed = labels.place(words, "lab", spots)
        pieces.append(label(placed.x, placed.y, words, "lab", "start", f"paper-halo of-{season.key}"))
    title = "Charge of the battery over the usual drive"
    return el(
        "svg", el("title", title), group(pieces), viewBox=f"0 0 {width:g} {HEIGHT:g}", class_="drawing charge-trace",
        role="img", aria_label=title,
    )  # fmt: skip


def _grid(low: float, high: float, left: float, right: float, at: object) -> list[Markup]:
    step = next((s for s in (2, 5, 10, 20) if (high - low) / s <= 6), 25)
    pieces, percent = [], ceil(low / step) * step
    while percent <= high + 1e-9:
        _, y = at(0.0, float(percent))  # type: ignore[operator]
        pieces.append(el("path", d=f"M{left:.1f} {y:.1f}H{right:.1f}", class_="grid"))
        pieces.append(label(left - 8, y + 4, f"{percent:g}", "dim", "end"))
        percent += step
    return pieces


def _legs(legs: Sequence[tuple[float, float]], season: Season, at: object, crowded: bool) -> list[Markup]:
    """Where the speed changes, with what is given there."""
    pieces, passed = [], 0.0
    for number, ((minutes, rpm), given) in enumerate(zip(legs, season.given, strict=True)):
        x, y = at(passed, 0.0)[0], TOP - 4  # type: ignore[operator]
        end = at(passed + minutes, 0.0)[0]  # type: ignore[operator]
        if number:
            pieces.append(el("path", d=f"M{x:.1f} {TOP - 10:.1f}V{BOTTOM:.1f}", class_="leg"))
        pieces.append(label(x, BOTTOM + 16, f"{passed:g}", "dim", "middle"))
        amps = amount(given.value or 0.0, "a")
        wordings = [amps] if crowded or not rpm else [f"{rpm:.0f}/min gives {amps}", amps]
        words = next((w for w in wordings if text_width(w, "dim") <= end - x - 6), "")
        if words:
            pieces.append(label((x + end) / 2, y, words, "dim", "middle"))
        passed += minutes
    pieces.append(label(at(passed, 0.0)[0], BOTTOM + 16, f"{passed:g}", "dim", "middle"))  # type: ignore[operator]
    return pieces
