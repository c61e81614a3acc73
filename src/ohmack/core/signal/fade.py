"""Fade and balance: whether the speakers at either end and on either side of the car still play signals of their own
once a plan is laid.
"""

from __future__ import annotations

from dataclasses import replace

from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.edits import Edit
from ohmack.core.document.functions import FunctionKind
from ohmack.core.document.handles import at
from ohmack.core.document.links import LineLink, SpeakerLink
from ohmack.core.factory.functions import Fate, Verdict
from ohmack.core.figures.finding import set_to
from ohmack.core.loads.corners import corner_of
from ohmack.core.record import record
from ohmack.core.signal.stereo import sides_played, to_own_channel, without_stereo
from ohmack.core.signal.ways import (
    PAIR_NAMES,
    LineSource,
    Way,
    line_source,
    pairs_of,
    picked_up,
    signal_ways,
    tapped_source,
)

BOTH = "both"  # a signal that is of no one end
FADED = ("front", "rear")


@record
class Ends:
    """By end of the car, which ends' signals its speakers play; None among them where nobody can say."""

    front: frozenset[str | None]
    rear: frozenset[str | None]

    @property
    def judged(self) -> bool:
        """Whether there is something at both ends, and it is known what that plays."""
        return bool(self.front) and bool(self.rear) and None not in self.front | self.rear

    @property
    def faded(self) -> bool:
        """Whether each end has its own signal."""
        return "front" in self.front and "rear" in self.rear


def with_fade(design: Design, ledger: tuple[Verdict, ...]) -> tuple[Verdict, ...]:
    """The function ledger with what the plan's signals do to fade and balance.

    Parameters:
        design: the design.
        ledger: the fate of every function by modules and links alone.

    Returns:
        the same; fade is lost where the plan plays both ends of the car from one signal, or left and right.
    """
    if not any(v.function.kind is FunctionKind.FADE and v.fate is not Fate.LOST for v in ledger):
        return ledger
    ends, mono = ends_heard(design), without_stereo(sides_played(design))
    apart = not ends.judged or ends.faded
    if apart and not mono:
        return ledger
    ties = (way.tap or way.line for way in signal_ways(design))
    path = next((at(tie) for tie in ties if tie is not None), "")
    mending, mends = to_own_channel(design, mono) if apart else ("Pick up both ends", _mends(design))
    return tuple(
        replace(
            v,
            fate=Fate.LOST,
            why="left and right speakers play one and the same signal" if apart else _why(ends),
            measures=(),
            rests_on=(),
            taken_over=False,
            look_at=path,
            mends=mends,
            mending=mending,
        )
        if v.function.kind is FunctionKind.FADE and v.fate is not Fate.LOST
        else v
        for v in ledger
    )


def _why(ends: Ends) -> str:
    """What is wrong with the ends of a car that is faded no more, in words."""
    if (ends.front, ends.rear) == (frozenset({"rear"}), frozenset({"front"})):
        return "front and rear are exchanged: each plays the other's pair"
    heard = ends.front | ends.rear
    if len(heard) > 1:
        return f"the {'rear' if 'front' in ends.front else 'front'} speakers have no signal of their own"
    whose = "" if BOTH in heard else f", that of the {'front' if 'front' in heard else 'rear'} pair"
    return f"front and rear speakers play one and the same signal{whose}"


def _mends(design: Design) -> tuple[Edit, ...]:
    """The edits that pick up the other end's pairs too, for an amplifier they go straight into; none where it has no
    inputs left for them, or the signal comes another way.
    """
    for way in signal_ways(design):
        if way.tap is None or way.line is not None or not isinstance(way.amplifier, Amplifier):
            continue
        own = [c for c in tapped_source(design, way.tap).channels if c.place is not None and c.place.axle in FADED]
        ids = [c.id for end in FADED for c in own if c.place is not None and c.place.axle == end]
        if set(way.tap.from_ids) < set(ids) and len(ids) <= way.amplifier.channels:
            return (set_to(at(way.tap, lambda it: it.from_ids), ids),)
    return ()


def ends_heard(design: Design) -> Ends:
    """Which ends' signals the speakers at either end of a car play."""
    ways = signal_ways(design)
    driven = {link.to_id: link for link in design.links_of(SpeakerLink)}
    found: dict[str, set[str | None]] = {end: set() for end in FADED}
    for speaker in design.vehicle.speakers:
        end, link = corner_of(design, speaker.id).axle, driven.get(speaker.id)
        if end not in found or (link is None and speaker.channel_id is None):
            continue
        if link is None:
            found[end].add(end)  # it plays on its own pair
            continue
        fed = [way for way in ways if way.amplifier.id == link.from_id and way.reaches(link.channel)]
        found[end] |= {_signal_of(design, way, link.channel) for way in fed} or {None}
    return Ends(frozenset(found["front"]), frozenset(found["rear"]))


def _signal_of(design: Design, way: Way, channel: int) -> str | None:
    """Whose signal a way carries to a channel: front, rear, or of no one end; None where nobody can say."""
    if way.tap is not None:
        pairs = picked_up(way, channel)
        axles = {c.place.axle for c in tapped_source(design, way.tap).channels if c.id in pairs and c.place is not None}
        return axles.pop() or BOTH if len(axles) == 1 else BOTH if axles else None
    if way.radio is None or way.line is None:
        return None
    if way.converter is None:
        return _pair_of(way.radio, way.line.pair)
    into = [line for line in design.links_of(LineLink) if line.to_id == way.converter.id]
    carried = {_pair_of(line_source(design, line.from_id), line.pair) for line in into}
    return carried.pop() if len(carried) == 1 else None  # which of several a processor gives out is set in it


def _pair_of(source: LineSource, pair: int) -> str | None:
    """What a line pair of a radio carries; None where nobody knows how many it has."""
    has = pairs_of(source)
    if has is None:
        return None
    names = PAIR_NAMES.get(min(has, max(PAIR_NAMES)), ())
    name = names[pair - 1] if pair <= len(names) else ""
    return name if name in FADED else BOTH
