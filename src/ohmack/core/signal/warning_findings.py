"""A rule on the car's own warning sounds where an amplifier of the plan plays the speaker they come from."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document.design import Keep
from ohmack.core.document.functions import FunctionKind
from ohmack.core.document.handles import at
from ohmack.core.document.links import RemoteLink, SpeakerLink
from ohmack.core.document.parts import Converter, HeadUnit
from ohmack.core.document.vehicle import KeyState
from ohmack.core.factory.functions import Fate
from ohmack.core.figures.finding import Draft, Remedy, note, rule, watch
from ohmack.core.reference import PRACTICE

if TYPE_CHECKING:
    from ohmack.core.document import Design
    from ohmack.core.evaluation.results import Results


@rule("chimes-asleep", "signal", PRACTICE)
def chimes_asleep(results: Results) -> Iterator[Draft]:
    """Chimes come with the key off too, and the amplifier that plays their speaker is off then."""
    design = results.design
    speakers = {speaker.id: speaker.name for speaker in design.vehicle.speakers}
    played = {link.to_id: link.from_id for link in design.links_of(SpeakerLink)}
    for verdict in results.ledger:
        function = verdict.function
        heard = function.heard_at_id or ""
        if function.kind is not FunctionKind.CHIMES or verdict.fate is Fate.LOST or heard not in speakers:
            continue
        remote = next((k for k in design.links_of(RemoteLink) if k.to_id == played.get(heard)), None)
        if remote is None or _plays_with_a_door_open(design, remote) is not False:
            continue
        amplifier = design.part(remote.to_id)
        yield (watch if Keep.CHIMES in design.intake.must_keep else note)(
            at(function),
            f"Chimes come from {speakers[heard].lower()}, which plays with the key only",
            f"{amplifier.name if amplifier is not None else 'Its amplifier'} is off while the key is: lights left on or"
            " a key left in are heard no more. Leave that speaker on the radio, or switch the amplifier by something"
            " that is awake while a door is open. Try it before anything is closed.",
            Remedy("See how it is switched on", path=at(remote)),
        )


def _plays_with_a_door_open(design: Design, remote: RemoteLink) -> bool | None:
    """Whether what a lead switches is on with the key off and a door open; None where nobody can say."""
    feed = next((feed for feed in design.vehicle.feeds if feed.id == remote.from_id), None)
    if feed is not None:
        return None if feed.live.value is None else KeyState.DOOR_OPEN in feed.live.value
    source = design.part(remote.from_id)
    if isinstance(source, HeadUnit):
        return False
    if not isinstance(source, Converter) or source.senses_audio:
        return None  # a chime may wake it, or be over before it does
    own = next((k for k in design.links_of(RemoteLink) if k.to_id == source.id and k.from_id != remote.to_id), None)
    return None if own is None else _plays_with_a_door_open(design, own)
