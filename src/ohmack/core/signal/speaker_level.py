"""Speaker-level inputs: the level that arrives at an amplifier or a powered subwoofer straight from a pair."""

from __future__ import annotations

from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.handles import at
from ohmack.core.document.links import TapLink
from ohmack.core.document.parts import PoweredSubwoofer
from ohmack.core.figures.figure import Book, Figure, Formula, fixed
from ohmack.core.physics.signal_chain import db_from_voltage_ratio, rms_from
from ohmack.core.record import record
from ohmack.core.reference import PHYSICS
from ohmack.core.signal.ways import tapped_source

INPUT_LIMIT = Formula("Speaker-level input takes", "v", "as stated; peak / √2 where stated as peak", rms_from, PHYSICS)

INPUT_MARGIN = Formula(
    "Room at the input", "db", "20 log₁₀(V_limit / V_arrives)", lambda v, most: db_from_voltage_ratio(most / v), PHYSICS
)


@record
class DirectInput:
    """A speaker-level input: what arrives, what it takes, and the room between."""

    part: Amplifier | PoweredSubwoofer
    tap: TapLink
    source: Figure
    limit: Figure
    margin: Figure
    lowest_v: float | None


def compute_direct_inputs(book: Book, sources: dict[str, Figure]) -> list[DirectInput]:
    """Every pair that goes straight into a speaker-level input."""
    taken = {p.id: p for p in book.design.parts if isinstance(p, (Amplifier, PoweredSubwoofer))}
    results = []
    for tap in book.design.links_of(TapLink):
        part = taken.get(tap.to_id)
        if part is None:
            continue
        source = sources[tapped_source(book.design, tap).id]
        stated = part.input_stated_as if isinstance(part, PoweredSubwoofer) else "rms"
        limit = book.figure(
            f"{part.id}/input_limit_v",
            INPUT_LIMIT,
            book.part(part, lambda it: it.speaker_level_high_v, "speaker-level input takes up to", "v"),
            fixed("stated as", stated, path=at(part)),
            name=f"{part.name}: speaker-level input takes",
        )
        margin = book.figure(
            f"{part.id}/input_margin_db", INPUT_MARGIN, source, limit, name=f"{part.name}: room at the input"
        )
        results.append(DirectInput(part, tap, source, limit, margin, part.speaker_level_low_v))
    return results
