"""Rules on pairs of the radio nothing on file hangs on."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document import Basis, Design
from ohmack.core.document.edits import Edit
from ohmack.core.document.factory import Radio, RadioChannel, Tier
from ohmack.core.document.handles import at_the, within
from ohmack.core.document.ids import free_id
from ohmack.core.document.interventions import new_radio
from ohmack.core.document.vehicle import Vehicle
from ohmack.core.factory.usual_speakers import SETS, SpeakerSet, usual_speaker
from ohmack.core.figures.finding import Draft, Remedy, adding, rule, stop
from ohmack.core.reference import PRACTICE
from ohmack.core.wording import count

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


@rule("pair-bare", "loads", PRACTICE)
def pair_bare(results: Results) -> Iterator[Draft]:
    """A new radio is joined to a pair the car has, and no speaker on file hangs on it."""
    design = results.design
    unit, radio = new_radio(design), design.vehicle.radio
    if unit is None or radio.tier.value in (Tier.AMPLIFIED, Tier.RING, Tier.NONE):
        return
    bare = [pair for pair in radio.channels if _is_bare(design, pair)]
    for pair in bare:
        beside = next((c.name for c in radio.channels if c.place is pair.place and c not in bare), "")
        joined = f"the same lead of {unit.name} as {beside}" if beside else f"a lead of {unit.name}"
        path = within(at_the(Radio, lambda it: it.channels), pair, lambda it: it.reaches)
        yield stop(
            pair.id,
            f"Nothing on file hangs on {pair.name}",
            f"Its wires go to {joined}: what they load it with was not judged, nor whether a tweeter there has a"
            " capacitor of its own. Enter what hangs there, or that the pair reaches no speaker.",
            _usual(design, bare, pair) or Remedy("Say whether it reaches one", path=path),
        )


def _is_bare(design: Design, pair: RadioChannel) -> bool:
    """Whether somebody knows of a pair, and nobody of what hangs on it."""
    if pair.place is None or pair.reaches.value is False:
        return False
    if any(speaker.channel_id == pair.id for speaker in design.vehicle.speakers):
        return False
    mapped = any(c.channel_id == pair.id for plug in design.vehicle.connectors for c in plug.cavities)
    return mapped or pair.band.basis is not Basis.ASSUMED or pair.pair_resistance_ohm.value is not None


def _usual(design: Design, bare: list[RadioChannel], pair: RadioChannel) -> Remedy | None:
    """The remedy that puts the usual speakers on a pair and on those of its band that are bare too."""
    alike = [(c, one) for c in bare if c.band.value is pair.band.value and (one := _set_for(c)) is not None]
    if pair not in [c for c, _ in alike]:
        return None
    taken = design.taken_ids()
    edits: list[Edit] = []
    for channel, one in alike:
        assert channel.place is not None
        own_id = free_id(f"spk-{one.key}-{channel.place.value.split()[-1]}", taken)
        taken.add(own_id)
        tree = usual_speaker(design.vehicle, one, channel.place, own_id, channel.id)
        edits.append(adding(at_the(Vehicle, lambda it: it.speakers), tree))
    words = count(len(alike), "tweeter" if alike[0][1].key.endswith("tweeter") else "speaker")
    return Remedy(f"Take it for {words} the works fitted", tuple(edits))


def _set_for(pair: RadioChannel) -> SpeakerSet | None:
    """The set of speakers a works usually hangs on such a pair."""
    return next((one for one in SETS if pair.place in one.pairs and one.band is pair.band.value), None)
