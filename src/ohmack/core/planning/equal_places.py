"""One measurement for equal places: what was found at a speaker taken for the one on the other side, or the next
headrest or place in the ceiling.
"""

from __future__ import annotations

from ohmack.core.document import Basis, Design, Fact
from ohmack.core.document.edits import Edit
from ohmack.core.document.handles import at
from ohmack.core.document.vehicle import Speaker, SpeakerPlace
from ohmack.core.loads.sides import mirrors

# What equal places share; a resistance is read at each speaker, and a reading is not copied.
SHARED = (
    "impedance_ohm", "takes_w", "own_capacitor", "cut_out_mm", "depth_mm", "window_depth_mm", "trim_clearance_mm",
    "adapter_ring_mm",
)  # fmt: skip


ALIKE = (SpeakerPlace.HEADREST, SpeakerPlace.CEILING)  # one cushion is as the next, and so is one end of a roof


def equals_of(design: Design, speaker: Speaker) -> list[Speaker]:
    """The places that are like a speaker's: its mirror on the other side; in headrests and the ceiling all others."""
    found = []
    for other in design.vehicle.speakers:
        if other.id == speaker.id or other.place is not speaker.place:
            continue
        if speaker.place in ALIKE or mirrors(speaker, other):
            found.append(other)
    return found


def _found(speaker: Speaker, name: str) -> Fact[object]:
    fact: Fact[object] = getattr(speaker, name)
    return fact


def taken_as(design: Design, speaker_id: str) -> tuple[Edit, ...]:
    """Edits that take what was measured at one speaker's place for its equals.

    Parameters:
        design: the design.
        speaker_id: the speaker.

    Returns:
        an edit for every fact that somebody measured here, or has from papers, and nobody did there; each keeps its
        basis and says in its note whose it is. None where there is nothing to take over.
    """
    speaker = next((s for s in design.vehicle.speakers if s.id == speaker_id), None)
    if speaker is None:
        return ()
    edits = []
    for other in equals_of(design, speaker):
        for name in SHARED:
            here, there = _found(speaker, name), _found(other, name)
            if here.value is None or here.basis is Basis.ASSUMED or there.basis is not Basis.ASSUMED:
                continue
            tree = here.model_dump(mode="json") | {"note": f"as {speaker.name}"}
            edits.append(Edit(path=f"{at(other)}/{name}", value=tree))
    return tuple(edits)
