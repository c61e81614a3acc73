"""What an earlier owner's work costs in extra minutes."""

from __future__ import annotations

from ohmack.core.document.vehicle import Vehicle
from ohmack.core.figures.figure import Book, Figure, Formula
from ohmack.core.reference import PRACTICE

EARLIER_WORK = Formula("Extra work for what was done before", "min", "sum of the findings", lambda *m: sum(m), PRACTICE)


def compute_earlier_work(book: Book) -> Figure | None:
    """The extra work an earlier owner left, in minutes; its range stands beside it."""
    found = book.design.vehicle.alterations
    if not found:
        return None
    terms = [book.fact(a, lambda it: it.work_min, a.name, "min") for a in found]
    return book.figure("earlier_work_min", EARLIER_WORK, *terms)  # fmt: skip


def work_range_min(vehicle: Vehicle) -> tuple[float, float] | None:
    """The range of the extra work, as far as it was estimated.

    Parameters:
        vehicle: the car.

    Returns:
        (low, high) [min]; None where nothing was found or an estimate is missing.
    """
    low_min = high_min = 0.0
    for alteration in vehicle.alterations:
        fact = alteration.work_min
        if fact.value is None:
            return None
        low_min += fact.low if fact.low is not None else fact.value
        high_min += fact.high if fact.high is not None else fact.value
    return (low_min, high_min) if vehicle.alterations else None
