"""The edits of when a car comes into the bay; what the bay plan needs to know of a job."""

from __future__ import annotations

from ohmack.core.build.bay import Visit
from ohmack.core.document import Design
from ohmack.core.document.edits import Edit
from ohmack.core.document.handles import at_the
from ohmack.core.document.part import Phase
from ohmack.core.document.work import Booking, Work
from ohmack.core.errors import NotPossible
from ohmack.core.evaluation.answer import Evaluation

BOOKING = at_the(Work, lambda it: it.booking)
MOST_BAYS = 12


def book(
    design: Design, bay: int | None = None, starts: str | None = None, due: str | None = None, people: int | None = None
) -> tuple[Edit, ...]:
    """Book a car into a bay, or change what is booked.

    Parameters:
        design: the design.
        bay: which bay; None leaves it.
        starts: day and time it comes in, as `2026-11-30T08:00`; empty for not yet; None leaves it.
        due: day it must be ready by, as `2026-12-01`; empty for none; None leaves it.
        people: at work on it; None leaves it.

    Returns:
        the edit.

    Raises:
        NotPossible: a bay or a number of people that cannot be.
    """
    old = design.work.booking or Booking()
    if bay is not None and not 1 <= bay <= MOST_BAYS:
        raise NotPossible("bay", f"Bays have numbers from 1 to {MOST_BAYS}.")
    if people is not None and people not in (1, 2):
        raise NotPossible("people", "One or two are at work on a car.")
    tree = {
        "bay": old.bay if bay is None else bay, "starts": old.starts if starts is None else starts,
        "due": old.due if due is None else due, "people": old.people if people is None else people,
    }  # fmt: skip
    return (Edit(path=BOOKING, value=tree),)


def unbook(design: Design) -> tuple[Edit, ...]:
    """Take a car out of the bay plan."""
    return (Edit(path=BOOKING, value=None),) if design.work.booking is not None else ()


def visit_of(
    evaluation: Evaluation, job: str, title: str, today: int, starts: tuple[int, int] | None, due: int | None
) -> Visit:
    """A job as the bay plan sees it.

    Parameters:
        evaluation: of the job.
        job: its number.
        title: what it is.
        today: ordinal of the day lead times run from.
        starts: (ordinal, minute of the day) it comes in; None while it waits for a day.
        due: ordinal of the day it must be ready by.

    Returns:
        the visit; a part that was ordered is taken to need its whole lead time from today, at most.
    """
    booking = evaluation.design.work.booking or Booking()
    waiting = [p for p in evaluation.results.design.parts if p.phase is Phase.NOW and not p.at_hand]
    leads = [p.lead_days for p in waiting if p.lead_days is not None]
    return Visit(
        job, title, evaluation.results.work_plan.bay_min(booking.people), booking.bay, starts[0] if starts else None,
        starts[1] if starts else 0, due, today + max(leads) if leads else None, tuple(p.name for p in waiting),
        tuple(p.name for p in waiting if p.lead_days is None),
    )  # fmt: skip
