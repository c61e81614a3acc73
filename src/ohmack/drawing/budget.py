"""The charging budget as two bars: what is given at idle and on the road, and what car and music take of it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from markupsafe import Markup

from ohmack.core.supply.budget import Budget
from ohmack.drawing.car import NARROW
from ohmack.drawing.labels import Box, LabelField
from ohmack.drawing.svg import el, group, label, text_width

ROW, TOP = 86.0, 26.0
BAR = 22.0
STEPS_A = (10, 20, 25, 50, 100, 200)


@dataclass(frozen=True, slots=True)
class Sheet:
    """Where the bars lie in a drawing of some width [px]."""

    width: float
    left: float
    right: float


WIDE, PHONE = Sheet(760.0, 92.0, 734.0), Sheet(NARROW, 14.0, NARROW - 18.0)


def draw_budget(budget: Budget, sheet: Sheet = WIDE) -> Markup:
    """A bar for each state over one scale of amperes; empty while nothing can be set against the music."""
    known = [*(budget.value(name) for name in ("idle", "road", "music", "bass", "full")), budget.car_a]
    given = [value for value in known if value is not None]
    if len(given) < len(known):
        return Markup("")
    idle_a, road_a, music_a, bass_a, full_a, car_a = given
    most_a = 1.06 * max(road_a, car_a + full_a)
    states = [("At idle", idle_a), ("On the road", road_a)]
    if budget.always_the_same:
        states = [("At any time", road_a)]
    rows = len(states)

    def x_of(amps: float) -> float:
        return sheet.left + (sheet.right - sheet.left) * amps / most_a

    taken = (("car", car_a), ("music", car_a + music_a), ("heavy bass", car_a + bass_a), ("full level", car_a + full_a))
    pieces = [_scale(most_a, x_of, 8 if sheet is WIDE else 5, rows)]
    for row, (words, given_a) in enumerate(states):
        pieces.append(_row(words, given_a, taken, x_of, TOP + row * ROW, sheet))
    gives = " and ".join(f"{given_a:.0f} A {words[:1].lower()}{words[1:]}" for words, given_a in states)
    title = (
        f"Charging budget: {gives}; the car takes {car_a:.0f} A, music"
        f" {music_a:.0f} A on average, heavy bass {bass_a:.0f} A, full level {full_a:.0f} A"
    )
    height = TOP + rows * ROW + 22
    return el(
        "svg", el("title", title), group(pieces), viewBox=f"0 0 {sheet.width:g} {height:g}", class_="drawing budget",
        role="img", aria_label=title,
    )  # fmt: skip


def _scale(most_a: float, x_of: Callable[[float], float], lines: int, rows: int) -> Markup:
    step = next((s for s in STEPS_A if most_a / s <= lines), STEPS_A[-1])
    bottom = TOP + rows * ROW
    pieces = []
    for amps in range(0, int(most_a) + 1, step):
        x = x_of(float(amps))
        pieces.append(el("path", d=f"M{x:.1f} {TOP - 6:.1f}V{bottom:.1f}", class_="grid"))
        pieces.append(label(x, bottom + 15, f"{amps} A" if amps == 0 else str(amps), "dim", "middle"))
    return group(pieces)


Taken = tuple[tuple[str, float], ...]  # what takes current, and how much with all before it [a]


def _row(words: str, given_a: float, taken: Taken, x_of: Callable[[float], float], top: float, sheet: Sheet) -> Markup:
    """One state: a frame as long as what is given, filled from the left with what is taken."""
    y, end = top + 18, x_of(given_a)
    labels = LabelField(Box(sheet.left - 4, top - 6, sheet.width, top + ROW - 2))
    pieces = [
        label(sheet.left - 10, y + 15, words, "lab", "end") if sheet is WIDE else label(sheet.left, y - 8, words, "lab")
    ]
    before = sheet.left
    for name, amps in taken:
        x = x_of(amps)
        kind = name.replace(" ", "-")
        inside = min(x, max(end, before))
        if inside > before:
            pieces.append(el("rect", x=before, y=y, width=inside - before, height=BAR, class_=f"taken {kind}"))
        if x > inside:
            pieces.append(el("rect", x=inside, y=y, width=x - inside, height=BAR, class_=f"taken over {kind}"))
        before = x
    pieces.append(el("rect", x=sheet.left, y=y - 3, width=end - sheet.left, height=BAR + 6, class_="given"))
    given = f"gives {given_a:.0f} A"
    placed = labels.place(given, "lab", [(end, y - 8, "end"), (end + 4, y - 8, "start")])
    pieces.append(label(placed.x, placed.y, given, "lab", "start", "paper-halo"))
    start, car_a = sheet.left, taken[0][1]
    for name, amps in taken:
        words = f"{name} {amps - (0.0 if name == 'car' else car_a):.0f} A"
        x, middle = x_of(amps), (start + x_of(amps)) / 2
        below = [(middle, y + BAR + 17, "middle"), (middle, y + BAR + 31, "middle"), (x, y + BAR + 17, "start"),
                 (x, y + BAR + 31, "start")]  # fmt: skip
        put = labels.place(words, "dim", below)
        labels.block(Box(put.x - 8, put.y - 10, put.x + text_width(words, "dim") + 8, put.y + 2))
        pieces.append(label(put.x, put.y, words, "dim", "start", "paper-halo"))
        start = x
    return group(pieces)
