"""Rules on left and right of the music: speakers that play the other side, or both sides one signal."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING

from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.edits import Edit
from ohmack.core.document.handles import at
from ohmack.core.document.links import SpeakerLink
from ohmack.core.figures.finding import Draft, Remedy, note, rule, set_to, watch
from ohmack.core.reference import PRACTICE
from ohmack.core.signal.stereo import AXLES, BOTH, SidePlayed, side_of_output, sides_played
from ohmack.core.signal.ways import signal_ways
from ohmack.core.wording import count, listed

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
        if crossed and {row.side for row in crossed} == {"left", "right"}:
            yield watch(
                f"stereo/{axle}",
                f"{axle.capitalize()} left and right are exchanged",
                f"{_hangs(crossed)}, and of an input the odd channel is the left one. Balance would go the wrong way.",
                _remedy("Exchange the channels", _exchanged(design, crossed), crossed),
            )
        elif crossed:
            side = crossed[0].side
            yield watch(
                f"stereo/{axle}",
                f"{_names(crossed)} {'plays' if len(crossed) == 1 else 'play'} the {crossed[0].plays} of the music",
                f"{_hangs(crossed)}: what is mixed to the {side} is heard nowhere in this end of the car.",
                _moved(design, crossed),
            )
        yield from _summed(design, axle, [row for row in here if row.plays == BOTH])


def _summed(design: Design, axle: str, rows: Sequence[SidePlayed]) -> Iterator[Draft]:
    """What plays left and right added up, of one end of the car."""
    if {row.side for row in rows} != {"left", "right"}:
        return
    names = _names(rows)
    if all(row.link is not None and row.link.bridged for row in rows):
        yield (watch if axle == "front" else note)(
            f"stereo/{axle}",
            f"{names}: bridged outputs play left and right added up",
            "A bridged output plays what comes into both of its inputs. Lead the left alone into both of one and the"
            " right alone into both of the other, a Y lead each; else nothing is left of the stereo.",
            _remedy("Look at the channels", (), rows),
        )
    else:
        yield (watch if axle == "front" else note)(
            f"stereo/{axle}",
            f"{names} play one signal",
            "Left and right are the same there: nothing is left of the stereo, and balance does nothing."
            + (" Between rear speakers few miss it." if axle == "rear" else " Each side wants a channel of its own."),
            _moved(design, [row for row in rows if row.side == "right"]),
        )


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


def _exchanged(design: Design, rows: Sequence[SidePlayed]) -> tuple[Edit, ...]:
    """The edits that exchange the channels of two outputs side by side; none where other things hang on them too."""
    links = {row.link.id: row.link for row in rows if row.link is not None}
    pairs = {(link.from_id, (link.channel + 1) // 2) for link in links.values()}
    there = [k for k in design.links_of(SpeakerLink) if (k.from_id, (k.channel + 1) // 2) in pairs]
    if any(k.id not in links or k.bridged for k in there):
        return ()
    return tuple(set_to(at(k, lambda it: it.channel), k.channel + (1 if k.channel % 2 else -1)) for k in there)


def _moved(design: Design, rows: Sequence[SidePlayed]) -> Remedy:
    """A press that hangs speakers on a free channel that plays their side; where to look while there is none."""
    link, side = rows[0].link, rows[0].side
    assert link is not None
    ways, part = signal_ways(design), design.part(link.from_id)
    taken = {
        n for k in design.links_of(SpeakerLink) if k.from_id == link.from_id
        for n in range(k.channel, k.channel + (2 if k.bridged else 1))
    }  # fmt: skip
    free = [n for n in range(1, part.channels + 1) if n not in taken] if isinstance(part, Amplifier) else []
    to = next((n for n in free if side_of_output(design, ways, link.from_id, n) == side), None)
    cables = [row.link for row in rows if row.link is not None and row.link.from_id == link.from_id]
    if to is None or len({k.channel for k in cables}) > 1:
        return _remedy("", (), rows)
    label = f"Put {'it' if len(cables) == 1 else count(len(cables), 'speaker')} on channel {to}"
    return Remedy(label, tuple(set_to(at(k, lambda it: it.channel), to) for k in cables))
