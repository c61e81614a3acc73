"""Rules on how many pieces are in a pack, against how many places it is to go into."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.build.in_line import pieces_in_line
from ohmack.core.document import Design
from ohmack.core.document.handles import at, at_the
from ohmack.core.document.ids import free_id
from ohmack.core.document.parts import Driver
from ohmack.core.document.small_parts import (
    CrossoverNet,
    LoadResistor,
    MountingRing,
    SeriesCapacitor,
    SeriesCoil,
    SpeakerPad,
)
from ohmack.core.figures.finding import Draft, Remedy, adding, note, rule, set_to, stop, watch
from ohmack.core.fit.waiting import USUAL_PAIR
from ohmack.core.reference import PRACTICE
from ohmack.core.wording import count

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

Packed = Driver | CrossoverNet | LoadResistor | MountingRing | SeriesCapacitor | SeriesCoil | SpeakerPad


@rule("pack-short", "plan", PRACTICE)
def pack_short(results: Results) -> Iterator[Draft]:
    """A part goes into more places than there are pieces of it in the pack."""
    in_line = Counter(piece.part.id for piece in pieces_in_line(results))
    for part in results.design.parts:
        if part.in_car or not isinstance(part, Packed):
            continue
        wanted = len(part.at_ids) if isinstance(part, Driver | MountingRing) else in_line[part.id]
        if part.pieces is not None and wanted > part.pieces:
            yield stop(
                part.id,
                f"{part.name}: {count(part.pieces, 'piece')} in it, {wanted} wanted",
                "What is ordered does not reach for every place it is planned in.",
                _another(results.design, part, part.pieces),
            )
        elif part.pieces is None and isinstance(part, Driver) and wanted > USUAL_PAIR:
            yield watch(
                part.id,
                f"{part.name}: how many are in it is not on file, {wanted} places want one",
                "Speakers are mostly sold by the pair. Say how many are in the pack, so that enough are ordered.",
                Remedy("Enter it", path=at(part, lambda it: it.pieces)),
            )


@rule("pieces-over", "plan", PRACTICE)
def pieces_over(results: Results) -> Iterator[Draft]:
    """A pack has more speakers in it than places they go into."""
    for part in results.design.parts_of(Driver):
        if part.in_car or part.pieces is None or not 0 < len(part.at_ids) < part.pieces:
            continue
        yield note(
            part.id,
            f"{part.name}: {count(part.pieces, 'piece')} in it, {len(part.at_ids)} of them planned",
            "The rest is paid for and goes nowhere. Its entry lists the places it could go into, and makes new ones.",
            Remedy("Say where the rest goes", path=at(part)),
        )


def _another(design: Design, part: Packed, pieces: int) -> Remedy:
    """A press that takes another of it for the places it does not reach."""
    if isinstance(part, CrossoverNet):  # one of them parts two places; which, a person says
        return Remedy("Look at it", path=at(part))
    taken = design.taken_ids()
    another = {**part.model_dump(mode="json"), "id": free_id(part.id, taken), "at_ids": list(part.at_ids[pieces:])}
    reached = set_to(at(part, lambda it: it.at_ids), list(part.at_ids[:pieces]))
    return Remedy("Take another", (reached, adding(at_the(Design, lambda it: it.parts), another)))
