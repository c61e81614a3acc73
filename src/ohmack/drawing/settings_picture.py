"""The settings as a picture: how far the volume is clean, and what each output plays and how loud it is set."""

from __future__ import annotations

from collections.abc import Sequence
from math import log10

from markupsafe import Markup

from ohmack.core.handover.settings import Ceiling, Played
from ohmack.drawing.svg import cut_to, el, group, label, text_width

WIDTH, LEFT, RIGHT = 358.0, 8.0, 350.0
VOLUME_PX, BAND_PX, AXIS_PX = 58.0, 42.0, 26.0
FROM_HZ, TO_HZ = 20.0, 20_000.0
MARKS_HZ = {20.0: "20 Hz", 100.0: "100 Hz", 1000.0: "1 kHz", 10_000.0: "10 kHz"}


def draw_settings(ceilings: Sequence[Ceiling], played: Sequence[Played]) -> Markup:
    """Volume scales, and under them what every output plays.

    Parameters:
        ceilings: how far every source is clean.
        played: the outputs.

    Returns:
        an SVG as wide as a phone; nothing where there is nothing to set.
    """
    if not ceilings and not played:
        return Markup("")
    pieces, top = [], 0.0
    for ceiling in ceilings:
        pieces.append(_volume(ceiling, top))
        top += VOLUME_PX
    if played:
        pieces.append(_axis(top, top + AXIS_PX + BAND_PX * len(played)))
        top += AXIS_PX
    for one in played:
        pieces.append(_band(one, top))
        top += BAND_PX
    said = [f"{c.source}: {c.words or 'not read'}" for c in ceilings] + [f"{p.name}: {p.words}" for p in played]
    title = f"The settings as they are left. {'; '.join(said)}"
    size = f"0 0 {WIDTH:g} {top + 6:g}"
    return el("svg", el("title", title), *pieces, viewBox=size, class_="drawing settings-picture", role="img",
              aria_label=title)  # fmt: skip


def _volume(ceiling: Ceiling, top: float) -> Markup:
    """The scale of a source: clean up to its last clean step, hatched above; empty where nobody knows it."""
    bar, deep = top + 22, 14.0
    last = ceiling.of if ceiling.of is not None else max(1.25 * (ceiling.step or 0.0), 1.0)
    end = RIGHT if ceiling.step is None else LEFT + (RIGHT - LEFT) * min(1.0, ceiling.step / last)
    pieces = [label(LEFT, top + 15, ceiling.source, "lab")]
    outer = "vol-unknown" if ceiling.step is None else "vol-past"
    pieces.append(el("rect", x=LEFT, y=bar, width=RIGHT - LEFT, height=deep, rx=3, class_=outer))
    words = "nobody read how far it is clean"
    if ceiling.step is not None:
        pieces.append(el("rect", x=LEFT, y=bar, width=max(3.0, end - LEFT), height=deep, rx=3, class_="vol-clean"))
        pieces.append(el("path", d=f"M{end:.1f} {bar - 5:.1f}v{deep + 10:.1f}", class_="vol-end"))
        words = f"clean to {ceiling.words}" + ("" if ceiling.read else ", by its papers")
    wide = text_width(words, "lab")
    at = min(max(end, LEFT + wide), RIGHT)
    pieces.append(label(at, bar + deep + 16, words, "lab", "end"))
    return group(pieces)


def _x(hz: float) -> float:
    share = log10(min(max(hz, FROM_HZ), TO_HZ) / FROM_HZ) / log10(TO_HZ / FROM_HZ)
    return LEFT + (RIGHT - LEFT) * share


def _axis(top: float, bottom: float) -> Markup:
    pieces = []
    for hz, words in MARKS_HZ.items():
        x = _x(hz)
        anchor = "start" if hz == FROM_HZ else "middle"
        pieces.append(el("path", d=f"M{x:.1f} {top + 18:.1f}V{bottom:.1f}", class_="vol-grid"))
        pieces.append(label(x, top + 14, words, "dim", anchor))
    return group(pieces)


def _band(one: Played, top: float) -> Markup:
    a, b = _x(one.from_hz), _x(one.to_hz)
    words = f"{one.name}: {one.words}" if one.words else one.name
    return group([
        el("rect", x=a, y=top + 20, width=max(3.0, b - a), height=12.0, rx=6, class_="plays"),
        label(LEFT, top + 14, cut_to(RIGHT - LEFT, words), "dim", "start", "paper-halo"),
    ])  # fmt: skip
