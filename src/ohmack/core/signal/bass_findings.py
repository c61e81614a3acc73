"""Rules on what plays the bass together."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document.edits import Edit
from ohmack.core.document.factory import ChannelPlace
from ohmack.core.document.handles import at
from ohmack.core.document.links import SpeakerLink
from ohmack.core.document.parts import PoweredSubwoofer, Subwoofer
from ohmack.core.figures.finding import Draft, Remedy, note, rule, set_to
from ohmack.core.loads.corners import corner_of
from ohmack.core.reference import PRACTICE

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


@rule("bass-beside-own", "signal", PRACTICE)
def bass_beside_own(results: Results) -> Iterator[Draft]:
    """The car's own subwoofer is driven beside one that is bought, by the plan or as before."""
    design = results.design
    driven = {link.to_id: link for link in design.links_of(SpeakerLink)}
    bought = [part.name for part in design.parts_of(Subwoofer) if part.id in driven]
    bought += [part.name for part in design.parts_of(PoweredSubwoofer)]
    for drive in results.drives:
        speaker, link = drive.speaker, driven.get(drive.speaker.id)
        if not bought or corner_of(design, speaker.id) is not ChannelPlace.SUB:
            continue
        as_found = drive.by_factory and drive.driver is None and not speaker.left_silent
        if link is None and as_found and drive.source is not None:
            yield note(
                speaker.id,
                f"{speaker.name} plays on beside {bought[0]}",
                f"{drive.source.name} drives it as before. Two unlike drivers in two places add up at some notes and"
                " cancel at others. Listen with its plug off and on, and turn the polarity of the bought one: what is"
                " fuller stays. An end that stays off is insulated.",
            )
        if link is None:
            continue
        yield note(
            link.id,
            f"{speaker.name} plays beside {bought[0]}",
            "Two unlike drivers in two places add up at some notes and cancel at others, and the smaller one gives out"
            " first. Most leave the car's own silent; who keeps both sets its level and polarity by ear.",
            Remedy(
                f"Leave {speaker.name} silent",
                (Edit(op="remove", path=at(link)), set_to(at(speaker, lambda it: it.left_silent), True)),
            ),
        )
