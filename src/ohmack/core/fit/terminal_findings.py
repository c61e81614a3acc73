"""A rule on terminals that come near metal where a speaker sits in steel."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document.parts import Driver
from ohmack.core.document.vehicle import Speaker, SpeakerPlace
from ohmack.core.figures.finding import Draft, Remedy, note, rule
from ohmack.core.fit.clearances import ring_under
from ohmack.core.reference import PRACTICE
from ohmack.core.wording import listed, trimmed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

STEEL = (SpeakerPlace.DOOR, SpeakerPlace.SIDE, SpeakerPlace.SHELF, SpeakerPlace.CEILING)
PLAY_MM = 3.0  # between a basket and the edge of its hole: less, and its terminals or their tabs may touch
BEHIND_MM = 8.0  # behind the magnet: less, and a plug on its back may touch; both common practice


@rule("terminals-near-metal", "loads", PRACTICE)
def terminals_near_metal(results: Results) -> Iterator[Draft]:
    """A speaker sits so close in its hole that a terminal may touch the body."""
    speakers = {speaker.id: speaker for speaker in results.design.vehicle.speakers}
    for part in results.design.parts_of(Driver):
        near = [where for name in part.at_ids if (where := _near(results, part, speakers[name]))]
        if near:
            yield note(
                part.id,
                f"{part.name}: terminals near metal in {listed([name for name, _ in near])}",
                f"{listed(list(dict.fromkeys(gap for _, gap in near))).capitalize()}. Turn the terminals to the open"
                " side, sleeve them, and check each pair against the body with the meter: it has to be open.",
                Remedy("Look at the fit", sheet="fit"),
            )


def _near(results: Results, part: Driver, speaker: Speaker) -> tuple[str, str] | None:
    """(place, what is close there); None where nothing is, or nothing was measured."""
    if speaker.place not in STEEL or part.in_cup:
        return None
    hole_mm, ringed = speaker.cut_out_mm.value, bool(speaker.adapter_ring_mm.value)
    if hole_mm is not None and not ringed and ring_under(results.design, speaker) is None:
        play_mm = (hole_mm - part.cut_out_mm) / 2
        if 0 <= play_mm < PLAY_MM:
            return speaker.name.lower(), f"{trimmed(round(play_mm, 1))} mm round the basket"
    spare = results.book.figures.get(f"{part.id}/{speaker.id}/depth_spare_mm")
    if spare is not None and spare.value is not None and 0 <= spare.value < BEHIND_MM:
        return speaker.name.lower(), f"{spare.value:.0f} mm behind the magnet"
    return None
