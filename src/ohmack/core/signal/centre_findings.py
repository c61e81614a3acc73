"""Rules on a speaker in the middle, which wants both sides of the music."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.factory import ChannelPlace
from ohmack.core.document.handles import at
from ohmack.core.document.links import LineLink, TapLink
from ohmack.core.document.parts import Converter
from ohmack.core.figures.finding import Draft, Remedy, find_part, note, rule, watch
from ohmack.core.loads.corners import corner_of
from ohmack.core.reference import PRACTICE
from ohmack.core.signal.crossovers import speakers_on_pair
from ohmack.core.signal.ways import line_into, pair_name

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


@rule("centre-one-side", "signal", PRACTICE)
def centre_one_side(results: Results) -> Iterator[Draft]:
    """A speaker in the middle is played by one channel of a pair, so by one side of the music."""
    design = results.design
    for load in results.loads:
        link, amplifier = load.link, load.amplifier
        if corner_of(design, link.to_id) is not ChannelPlace.CENTRE or link.bridged or amplifier.processor:
            continue
        line = line_into(design, amplifier.id, link.channel)
        if line is None and not _tapped_from_sides(design, amplifier):
            continue
        source = design.part(line.from_id) if line is not None else None
        if line is None or not isinstance(source, Converter) or source.kind != "processor":
            yield watch(
                at(link),
                f"{load.driven_name}: hears one side of the music",
                "A channel on one lead of a pair plays left or right alone, and a voice in the middle comes from there"
                " at half. A processor sums both sides for it; else leave it out.",
                find_part("Find a processor", "processor"),
            )
        elif _shared(results, design, line):
            yield watch(
                at(link),
                f"{load.driven_name} shares {pair_name(source, line.pair)} of {source.name} with left and right",
                "What is summed for the middle is summed for the sides too, and nothing is left of the stereo. Give it"
                " a pair of its own.",
                Remedy("Choose its pair", path=at(line, lambda it: it.pair)),
            )
        else:
            yield note(
                at(link),
                f"{load.driven_name}: both sides summed at {pair_name(source, line.pair)} of {source.name}",
                "Left and right at half each, then some decibels lower than the sides: as loud as they are it pulls"
                " all of the music to the middle.",
            )


def _tapped_from_sides(design: Design, amplifier: Amplifier) -> bool:
    """Whether an amplifier takes its signal straight from pairs of the car, of which none carries the middle."""
    places = {c.id: c.place for c in design.vehicle.channels}
    taps = [tap for tap in design.links_of(TapLink) if tap.to_id == amplifier.id]
    return bool(taps) and not any(places.get(own) is ChannelPlace.CENTRE for tap in taps for own in tap.from_ids)


def _shared(results: Results, design: Design, line: LineLink) -> bool:
    """Whether the pair of a line feeds left or right speakers too."""
    fed = speakers_on_pair(results.crossovers, results.loads, line)
    return any(corner_of(design, place_id).side for place_id in fed)
