"""Rules on pairs the signal is picked up from: how low they reach, and what must not be summed."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document.factory import ChannelPlace, Radio
from ohmack.core.document.handles import at, at_the
from ohmack.core.document.links import TapLink
from ohmack.core.document.parts import Converter
from ohmack.core.figures.finding import Draft, Remedy, note, rule, set_to, stop, watch
from ohmack.core.reference import PRACTICE
from ohmack.core.signal.ways import tapped_source
from ohmack.core.wording import listed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


@rule("tap-band", "signal", PRACTICE)
def tap_band(results: Results) -> Iterator[Draft]:
    """The signal at the tap does not reach down to the bass a subwoofer needs."""
    vehicle = results.design.vehicle
    for output in {
        tapped_source(results.design, tap).id: tapped_source(results.design, tap)
        for tap in results.design.links_of(TapLink)
    }.values():
        low_hz = output.tap_low_hz.value
        path = (
            at_the(Radio, lambda it: it.tap_low_hz) if output is vehicle.radio else at(output, lambda it: it.tap_low_hz)
        )
        if low_hz is not None and low_hz > 40:
            yield watch(
                path,
                f"The lowest bass at the tap is {low_hz:g} Hz",
                "A subwoofer wants it flat from about 25 to 160 Hz. Pick up another pair, or use a converter that"
                " restores bass.",
                Remedy("Measure the tap", path=path),
            )
    for tap in results.design.links_of(TapLink):
        if len(tap.from_ids) == 1:
            yield note(
                tap.id,
                "Only one side is picked up",
                "Bass that sits on the other side is lost to a mono subwoofer. Pick up left and right.",
            )


@rule("tap-combs", "signal", PRACTICE)
def tap_combs(results: Results) -> Iterator[Draft]:
    """Pairs that carry the same music in another mix are summed: they comb."""
    design = results.design
    channels = {c.id: c for c in design.vehicle.channels}
    for tap in design.links_of(TapLink):
        part = design.part(tap.to_id)
        room = 2 * part.output_pairs if isinstance(part, Converter) else 2
        tapped = [channels[name] for name in tap.from_ids if name in channels]
        middle = [c for c in tapped if c.place is ChannelPlace.CENTRE]
        sides = [c for c in tapped if c.place is not None and c.place.value.split()[-1] in ("left", "right")]
        if len(tapped) > room and middle and sides:
            yield stop(
                tap.id,
                f"{listed([c.name for c in middle])} summed with {listed([c.name for c in sides])}",
                "A centre carries both sides mixed: added to left and right it doubles the middle and cancels parts of"
                " the treble, and no equaliser mends a comb. Take the sides alone.",
                Remedy(
                    "Take the sides alone",
                    (set_to(at(tap, lambda it: it.from_ids), [c.id for c in tapped if c not in middle]),),
                ),
            )
