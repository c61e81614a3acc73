"""Places the car had no speaker at, and for which none is picked yet."""

from __future__ import annotations

from ohmack.core.document import Design
from ohmack.core.document.parts import Driver
from ohmack.core.document.vehicle import Speaker

USUAL_PAIR = 2  # speakers are sold by the pair, common practice


def waiting_places(design: Design) -> tuple[Speaker, ...]:
    """New places that no planned speaker goes into, of whose speaker nothing is on file, and that are not left silent
    on purpose.
    """
    taken = {name for part in design.parts_of(Driver) for name in part.at_ids}
    return tuple(
        speaker
        for speaker in design.vehicle.speakers
        if speaker.new_place
        and not speaker.left_silent
        and speaker.id not in taken
        and speaker.impedance_ohm.value is None
    )
