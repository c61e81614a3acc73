"""A reading against its window: the stretch a sound car reads in, and a stroke where this one does."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.prove.judged import Judged
from ohmack.core.wording import amount
from ohmack.drawing.svg import el, label, text_width

WIDTH, HEIGHT = 358.0, 54.0
LEFT, RIGHT, TOP, DEEP = 2.0, 356.0, 10.0, 12.0
ROOM = 0.8  # of the window's width is left free beyond either end


def draw_window(judged: Judged) -> Markup:
    """The window of a check with its reading; nothing where no number is read, or nothing is known."""
    window = judged.shown
    if window is None or not judged.check.is_read:
        return Markup("")
    unit, value = judged.check.probe.quantity.unit, judged.value
    width = max(window.high - window.low, 1e-9)
    low, high = window.low - ROOM * width, window.high + ROOM * width
    beyond = value is not None and not low <= value <= high

    def x(at: float) -> float:
        return LEFT + (RIGHT - LEFT) * (min(max(at, low), high) - low) / (high - low)

    a, b = x(window.low), x(window.high)
    pieces = [
        el("rect", x=LEFT, y=TOP, width=RIGHT - LEFT, height=DEEP, class_="window-out"),
        el("rect", x=a, y=TOP, width=max(b - a, 2.0), height=DEEP, class_="window-in"),
    ]
    words = [(a, amount(window.low, unit)), (b, amount(window.high, unit))]
    if words[0][1] == words[1][1]:
        words = words[:1]
    wide = [text_width(text, "dim") for _, text in words]
    if len(words) == 2 and b - a < (wide[0] + wide[1]) / 2 + 10:
        a, b = a - (wide[0] + wide[1]) / 4, b + (wide[0] + wide[1]) / 4
    places = (a, b)
    for place, (_, text), across in zip(places, words, wide, strict=False):
        at = min(max(place, LEFT + across / 2), RIGHT - across / 2)
        pieces.append(label(at, TOP + DEEP + 18, text, "dim", "middle"))
    if value is not None:
        here = x(value)
        pieces.append(el("path", d=f"M{here:.1f} {TOP - 8:.1f}v{DEEP + 16:.1f}", class_="window-reading"))
        if beyond:
            way = -1 if value < low else 1
            d = f"M{here - 6 * way:.1f} {TOP - 8:.1f}l{6 * way:.1f} 6l{-6 * way:.1f} 6"
            pieces.append(el("path", d=d, class_="window-reading"))
    said = f"{judged.read_words or 'not read yet'}; expected {judged.expects}"
    return el("svg", el("title", said), *pieces, viewBox=f"0 0 {WIDTH:g} {HEIGHT:g}", class_="drawing window-bar",
              role="img", aria_label=said)  # fmt: skip
