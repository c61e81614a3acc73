"""Rules on left and right of the music: speakers that play the other side, or both sides one signal."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit
from ohmack.core.document.handles import at
from ohmack.core.figures.finding import Draft, Remedy, note, rule, watch
from ohmack.core.reference import PRACTICE
from ohmack.core.signal.stereo import (
    AXLES,
    BOTH,
    SidePlayed,
    exchanged,
    led_by_pairs,
    led_by_sides,
    sides_played,
    to_own_channel,
)
from ohmack.core.wording import listed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


@rule("stereo", "signal", PRACTICE)
def stereo(results: Results) -> Iterator[Draft]:
    """Left and right speakers play the sides of the music exchanged, or one signal."""
    design = results.design
    rows = sides_played(design)
    for axle in AXLES:
        here = [row for row in rows if row.axle == axle and row.link is not None]
        crossed = [row for row in here if row.exchanged]
        if crossed and (back := led_by_pairs(design, crossed)):
            yield watch(
                _about(crossed, "side"),
                f"{_names(crossed)} {'plays' if len(crossed) == 1 else 'play'} the {crossed[0].plays} of the music",
                f"{_hangs(crossed)}, and each side is led into half of the inputs, as bridged outputs want it.",
                _remedy("Lead left and right into every input", back, crossed),
            )
        elif crossed and {row.side for row in crossed} == {"left", "right"}:
            yield watch(
                _about(crossed, "side"),
                f"{axle.capitalize()} left and right are exchanged",
                f"{_hangs(crossed)}, and of an input the odd channel is the left one. Balance would go the wrong way.",
                _remedy("Exchange the channels", exchanged(design, crossed), crossed),
            )
        elif crossed:
            side = crossed[0].side
            others = any(row.plays != crossed[0].plays for row in rows if row.axle == axle and row.side == side)
            yield watch(
                _about(crossed, "side"),
                f"{_names(crossed)} {'plays' if len(crossed) == 1 else 'play'} the {crossed[0].plays} of the music",
                f"{_hangs(crossed)}, and of an input the odd channel is the left one."
                + ("" if others else f" What is mixed to the {side} is heard nowhere in this end of the car."),
                _remedy(*to_own_channel(design, crossed), crossed),
            )
        yield from _summed(design, axle, [row for row in here if row.plays == BOTH])


def _summed(design: Design, axle: str, rows: Sequence[SidePlayed]) -> Iterator[Draft]:
    """What plays left and right added up, of one end of the car."""
    if {row.side for row in rows} != {"left", "right"}:
        return
    names = _names(rows)
    if all(row.link is not None and row.link.bridged for row in rows):
        yield (watch if axle == "front" else note)(
            _about(rows, "sum"),
            f"{names}: bridged outputs play left and right added up",
            "A bridged output plays what comes into both of its inputs. Lead the left alone into both of one and the"
            " right alone into both of the other, a Y lead each; else nothing is left of the stereo.",
            _remedy("Lead each side into a bridged output of its own", led_by_sides(design, rows), rows),
        )
    else:
        yield (watch if axle == "front" else note)(
            _about(rows, "sum"),
            f"{names} play one signal",
            "Left and right are the same there: nothing is left of the stereo, and balance does nothing."
            + (" Between rear speakers few miss it." if axle == "rear" else " Each side wants a channel of its own."),
            _remedy(*to_own_channel(design, rights := [row for row in rows if row.side == "right"]), rights),
        )


def _about(rows: Sequence[SidePlayed], what: str) -> str:
    """What a finding is about: the first of the cables, so that it is told on the drawing."""
    return next(f"{at(row.link)}/{what}" for row in rows if row.link is not None)


def _names(rows: Sequence[SidePlayed]) -> str:
    return listed([row.speaker.name for row in rows])


def _hangs(rows: Sequence[SidePlayed]) -> str:
    """What hangs on which channel, in words."""
    on = [f"{row.speaker.name} hangs on channel {row.link.channel}" for row in rows if row.link is not None]
    return listed(on)


def _remedy(label: str, edits: tuple[Edit, ...], rows: Sequence[SidePlayed]) -> Remedy:
    link = rows[0].link
    assert link is not None
    return Remedy(label, edits) if edits else Remedy("Look at its channel", path=at(link, lambda it: it.channel))
