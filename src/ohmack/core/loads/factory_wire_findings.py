"""Rules on the works' own speaker wires under an amplifier: where they are too thin, and where they would do."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document import Design
from ohmack.core.document.handles import at
from ohmack.core.document.links import SpeakerLink
from ohmack.core.figures.finding import Draft, Remedy, note, rule, set_to, watch
from ohmack.core.loads.wirings import LoadResult
from ohmack.core.reference import PRACTICE
from ohmack.core.wording import count

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

FACTORY_WIRE_W = 75.0  # per speaker, common practice
WORTH_DOORS = 2  # one boot is threaded without asking; common practice


def _used_w(load: LoadResult) -> float | None:
    """What the wires to an output's speakers carry [w]: what it gives, at most what the speakers take."""
    power_w = load.power.value
    return None if power_w is None else min(power_w, load.allowed_w or power_w)


@rule("factory-wire-power", "loads", PRACTICE)
def factory_wire_power(results: Results) -> Iterator[Draft]:
    """More power than the works' speaker wires are meant for."""
    for load in results.loads:
        used_w = _used_w(load)
        if used_w is not None and used_w > FACTORY_WIRE_W and any(link.factory_wire for link in load.links):
            yield watch(
                load.link.id,
                f"{results.say(used_w, 'w')} over the factory wires to {load.driven_name}",
                f"They do up to about {FACTORY_WIRE_W:.0f} W RMS a speaker. Above, pull fresh wire, through the door"
                " boot.",
                Remedy(
                    "Pull fresh wire",
                    tuple(set_to(at(link, lambda it: it.factory_wire), False) for link in load.links),
                ),
            )


@rule("fresh-through-doors", "loads", PRACTICE)
def fresh_through_doors(results: Results) -> Iterator[Draft]:
    """Fresh cable is threaded through doors whose own wires carry what is played there."""
    design = results.design
    if design.intake.reversible or design.vehicle.radio.shared_return.value is True:
        return  # the works' wires are parted at a plug for it
    alone = _alone_on_their_pair(design)
    fresh: dict[str, list[SpeakerLink]] = {}
    for load in results.loads:
        used_w = _used_w(load)
        if used_w is None or used_w > FACTORY_WIRE_W or len(load.links) > 1:
            continue
        if not (load.link.factory_wire or load.link.in_car) and load.link.to_id in alone:
            fresh.setdefault(load.amplifier.id, []).append(load.link)
    doors = {s.id for s in design.vehicle.speakers if s.in_door}
    for amplifier_id, links in fresh.items():
        threaded = sum(link.to_id in doors for link in links)
        if threaded < WORTH_DOORS:
            continue
        yield note(
            amplifier_id,
            f"Fresh cable to {count(len(links), 'speaker')} whose own wires would do",
            f"Up to about {FACTORY_WIRE_W:.0f} W RMS a speaker they are thick enough. Cable then ends at the plug of"
            f" what feeds them now, where they are parted from it, and no cable goes through {count(threaded, 'door')}."
            " Fresh cable loses a little less and leaves the works' wires whole: both are done.",
            Remedy(
                "Play over the works' wires",
                tuple(set_to(at(link, lambda it: it.factory_wire), True) for link in links),
            ),
        )


def _alone_on_their_pair(design: Design) -> set[str]:
    """The places of speakers that have a pair of the car to themselves."""
    pairs = {pair.id for pair in design.vehicle.channels}
    sharing = Counter(speaker.channel_id for speaker in design.vehicle.speakers)
    return {s.id for s in design.vehicle.speakers if s.channel_id in pairs and sharing[s.channel_id] == 1}
