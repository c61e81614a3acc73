"""The drop test: what a meter must show between points of a consumer's loop at a stated current, and what readings
there say.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from ohmack.core.document.drop_readings import DropReading, Section
from ohmack.core.document.handles import at
from ohmack.core.figures.figure import Book, Figure, Formula, Term, fixed
from ohmack.core.network.model import Place
from ohmack.core.record import record
from ohmack.core.reference import PHYSICS
from ohmack.core.supply.results import Segment, SupplyResult

PLACES = {
    Section.FUSE: frozenset((Place.POST, Place.FUSE)),
    Section.RUN: frozenset((Place.RUN, Place.BLOCK, Place.POSITIVE)),
    Section.GROUND: frozenset((Place.NEGATIVE, Place.LEAD, Place.RING)),
    Section.BODY: frozenset((Place.BODY,)),
    Section.STRAP: frozenset((Place.STRAP,)),
}
"""Which pieces of the loop a meter spans; the fuses of branches lie in the run."""

GOOD, METER_OHM = (
    1.3,
    0.0003,
)  # a reading may be so many times what was planned, and a meter's last digit; common practice

PLANNED = Formula(
    "Must show at full load",
    "mv",
    "1000 × Σ R × I of the pieces between the points",
    lambda *drops: 1000 * sum(drops),
    PHYSICS,
)
BETWEEN = Formula("Planned between the points", "ohm", "Σ R of the pieces", lambda *ohms: sum(ohms), PHYSICS)
READ = Formula("Read resistance", "ohm", "U / I", lambda v, a: v / a, PHYSICS)


@record
class DropSection:
    """Two points of one consumer's loop: what a meter must show between them, and what it read."""

    section: Section
    planned: Figure
    between: Figure  # the resistance that is planned
    reading: DropReading | None
    read: Figure | None  # the resistance a reading comes to

    @property
    def planned_ohm(self) -> float:
        """The resistance that is planned [ohm]."""
        return float(self.between.value)

    @property
    def good(self) -> bool | None:
        """Whether the reading is what was planned, a meter's spread counted; None without one."""
        if self.read is None or self.read.value is None:
            return None
        return bool(self.read.value <= GOOD * self.planned_ohm + METER_OHM)

    @property
    def more_ohm(self) -> float:
        """How much more than planned was read [ohm]; below zero where it is less, 0 without a reading."""
        if self.read is None or self.read.value is None:
            return 0.0
        return float(self.read.value) - self.planned_ohm


@record
class DropTest:
    """One consumer's drop test."""

    supply: SupplyResult
    sections: tuple[DropSection, ...]

    @property
    def current_a(self) -> float:
        """What it draws at full load [a]."""
        return float(self.supply.figures["current"].value or 0.0)


def compute_drop_tests(book: Book, supplies: Sequence[SupplyResult]) -> list[DropTest]:
    """What a meter must show round every solved consumer, with the readings that were taken.

    Parameters:
        book: the book of the design.
        supplies: the runs with their pieces.

    Returns:
        one entry a consumer whose loop is solved.

    Source: Ohm's law on the solved network.
    """
    return [_test(book, supply) for supply in supplies if not supply.is_main and supply.segments]


def _test(book: Book, supply: SupplyResult) -> DropTest:
    readings = {r.section: r for r in book.design.drop_readings if r.consumer_id == supply.part.id}
    current = supply.figures["current"].term
    first_fuse = next((s.id for s in supply.segments if s.place is Place.FUSE), "")
    rows = []
    for section, places in PLACES.items():
        pieces = [s for s in supply.segments if _spans(section, places, s, first_fuse)]
        if not pieces:
            continue
        figure_id = f"{supply.part.id}/drop_test/{section.name.lower()}"
        planned = book.figure(
            f"{figure_id}_mv", PLANNED, *(piece.lost(current) for piece in pieces), name=f"Must show, {section.value}"
        )
        ohms = [replace(piece.term, name=piece.name, value=piece.resistance_ohm, unit="ohm") for piece in pieces]
        between = book.figure(f"{figure_id}_ohm", BETWEEN, *ohms, name=f"Planned, {section.value}")
        reading = readings.get(section)
        rows.append(DropSection(section, planned, between, reading, _read(book, figure_id, section, reading)))
    return DropTest(supply, tuple(rows))


def _spans(section: Section, places: frozenset[Place], piece: Segment, first_fuse: str) -> bool:
    """Whether a piece lies between the points: the first fuse belongs to the post, others to the run."""
    if piece.place is Place.FUSE:
        return section is (Section.FUSE if piece.id == first_fuse else Section.RUN)
    return piece.place in places


def _read(book: Book, figure_id: str, section: Section, reading: DropReading | None) -> Figure | None:
    if reading is None:
        return None
    volts = Term("read", reading.voltage_v.value, "v", reading.voltage_v.basis, None,
                 reading.voltage_v.basis.word.lower(), at(reading, lambda it: it.voltage_v))  # fmt: skip
    amps = fixed("at", reading.current_a, "a", at(reading, lambda it: it.current_a))
    return book.figure(f"{figure_id}_read_ohm", READ, volts, amps, name=f"Read, {section.value}")
