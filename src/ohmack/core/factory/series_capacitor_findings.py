"""Rules on small speakers that play full range, and on capacitors that are too large or too small."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document import Design
from ohmack.core.document.handles import at, at_the
from ohmack.core.factory.series_capacitors import LineCapacitor
from ohmack.core.figures.finding import Draft, Remedy, adding, rule, set_to, stop, watch
from ohmack.core.loads.line_parts import BEARS
from ohmack.core.reference import PHYSICS, PRACTICE
from ohmack.core.wording import listed, trimmed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

FAR = 1.5  # a corner this many times lower than wanted protects little, common practice


@rule("small-speaker", "loads", PRACTICE)
def small_speaker(results: Results) -> Iterator[Draft]:
    """Small speakers play full range, or their capacitor lets too much bass through."""
    for entry in results.line_capacitors:
        wanted_uf, sold_uf = entry.wanted.value, entry.nearest.value
        load_ohm = entry.load.value if entry.load is not None else None
        names = listed([speaker.name.lower() for speaker in entry.alone or entry.row.speakers])
        if wanted_uf is None or sold_uf is None or load_ohm is None or entry.row.overloads:
            continue  # first a load the output may drive, then its capacitor
        value = f"{trimmed(round(wanted_uf))} µF for {trimmed(entry.wanted_hz)} Hz at {trimmed(round(load_ohm, 2))} Ω"
        if entry.part is None:
            part = {
                "id": f"capacitor-{entry.row.channel.id}"[:40],
                "kind": "series capacitor",
                "name": f"Bipolar capacitor {trimmed(sold_uf)} µF",
                "capacitance_uf": sold_uf,
                "at_ids": [speaker.id for speaker in entry.alone] or [entry.row.channel.id],
            }
            yield watch(
                entry.row.channel.id,
                f"{entry.row.name}: small speakers play full range",
                f"Bass drives the cones of {names} off their stops. In line with them {value}; sold is"
                f" {trimmed(sold_uf)} µF.",
                Remedy(f"Put {trimmed(sold_uf)} µF in line", (adding(at_the(Design, lambda it: it.parts), part),)),
            )
        elif entry.corner is not None and entry.corner.value and entry.corner.value < _least_hz(entry):
            yield (stop if entry.tweeters else watch)(
                entry.part.id,
                f"{entry.part.name} lets {trimmed(round(entry.corner.value))} Hz through to {names}",
                f"Such cones want {trimmed(entry.wanted_hz)} Hz: {value}.",
                Remedy(
                    f"Take {trimmed(sold_uf)} µF",
                    (
                        set_to(at(entry.part, lambda it: it.capacitance_uf), sold_uf),
                        set_to(at(entry.part, lambda it: it.name), f"Bipolar capacitor {trimmed(sold_uf)} µF"),
                    ),
                ),
            )


def _least_hz(entry: LineCapacitor) -> float:
    """The lowest corner that still protects what the capacitor goes before [hz]."""
    return BEARS * entry.wanted_hz if entry.tweeters else entry.wanted_hz / FAR


@rule("capacitor-voltage", "loads", PHYSICS)
def capacitor_voltage(results: Results) -> Iterator[Draft]:
    """A capacitor in line is rated for less than what the output swings."""
    for entry in results.line_capacitors:
        if entry.part is None or entry.peak is None or entry.peak.value is None:
            continue
        if entry.part.rated_v < entry.peak.value:
            yield stop(
                entry.part.id,
                f"{entry.part.name} is rated for {results.say(entry.part.rated_v, 'v')}, the output swings to"
                f" {results.say(entry.peak.value, 'v')}",
                "In the bass all of it lies across the capacitor. Take one rated higher.",
                Remedy("Look at the part", path=at(entry.part)),
            )
