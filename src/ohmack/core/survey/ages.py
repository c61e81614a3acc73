"""What a car of some model year usually charges with and draws, and which old systems it may have."""

from __future__ import annotations

from ohmack.core.document.vehicle import SystemVoltage
from ohmack.core.record import record
from ohmack.core.reference import table

Range = tuple[float, float, float]  # usual, from, to


@record
class UsualOfAnAge:
    """What is usual for a model year. Source: common practice."""

    alternator_a: Range
    draw_a: Range  # with everything on
    systems: tuple[SystemVoltage, ...]  # it may have besides 12 V
    positive_ground: bool  # whether its positive pole may be on the body
    ring: bool  # whether its system may be a digital or optical ring


def usual_of(year: int | None) -> UsualOfAnAge:
    """What is usual for a model year; of one nobody knows, what cars of today have. Source: common practice."""
    rows, old = table("supply", "by_year")["rows"], table("supply", "old_systems")
    row = rows[0] if year is None else next(row for row in rows if year >= row["from_year"])
    return UsualOfAnAge(
        tuple(row["alternator_a"]),
        tuple(row["draw_a"]),
        (SystemVoltage.V6,) if year is not None and year <= old["six_volts_until"] else (),
        year is not None and year <= old["positive_ground_until"],
        year is None or year >= old["ring_from"],
    )
