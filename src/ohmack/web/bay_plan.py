"""The bay plan over all jobs: which cars are booked, how long each stands, when its parts are here."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime, timedelta

from ohmack.core.build.bay import Clash, Hours, Piece, Visit, clashes, free_place, hours_of, pieces
from ohmack.core.document.work import Booking
from ohmack.core.planning.booking import visit_of
from ohmack.store.database import StoreError
from ohmack.store.design_rows import DesignRecord
from ohmack.web.clock import now
from ohmack.web.workshop import Workshop

BEFORE_DAYS, AFTER_DAYS = 45, 400  # how far from a week other jobs are looked at


def ordinal(text: str) -> int | None:
    """A day as its ordinal; None for none, or for one no calendar has."""
    try:
        return date.fromisoformat(text[:10]).toordinal()
    except ValueError:
        return None


def start_of(booking: Booking) -> tuple[int, int] | None:
    """(ordinal, minute of the day) a booking begins at."""
    try:
        begins = datetime.fromisoformat(booking.starts)
    except ValueError:
        return None
    return begins.toordinal(), begins.hour * 60 + begins.minute


def as_visit(shop: Workshop, record: DesignRecord) -> Visit:
    """A job as the bay plan sees it."""
    booking = record.design.work.booking or Booking()
    evaluation, due = shop.evaluation(record, sweep=False), ordinal(booking.due)
    return visit_of(evaluation, record.job_number, record.title, now().toordinal(), start_of(booking), due)


@dataclass(frozen=True)
class BayPlan:
    """A week of the bays, and who waits for a day."""

    monday: date
    hours: Hours
    visits: tuple[Visit, ...]
    waiting: tuple[Visit, ...]
    clashes: tuple[Clash, ...]

    @property
    def days(self) -> list[date]:
        """The days of the week the shop is open, and those something stands on."""
        week = [self.monday + timedelta(days=n) for n in range(7)]
        used = {p.day for v in self.visits for p in self.pieces(v)}
        return [d for d in week if self.hours.is_open(d.toordinal()) or d.toordinal() in used]

    def pieces(self, visit: Visit) -> list[Piece]:
        """Where a visit stands."""
        return pieces(visit, self.hours)

    @property
    def this_week(self) -> list[Visit]:
        """The visits that come in or stand in this week."""
        week = range(self.monday.toordinal(), self.monday.toordinal() + 7)
        return [v for v in self.visits if v.day in week or any(p.day in week for p in self.pieces(v))]

    @property
    def near(self) -> list[Clash]:
        """The clashes of this week's jobs and of those that wait."""
        jobs = {v.job for v in (*self.this_week, *self.waiting)}
        return [c for c in self.clashes if jobs & set(c.jobs)]


def booked(shop: Workshop, around: date) -> list[Visit]:
    """Every visit about a day, and those that wait for one."""
    middle = datetime.combine(around, datetime.min.time())
    span = middle - timedelta(days=BEFORE_DAYS), middle + timedelta(days=AFTER_DAYS)
    found = []
    for number in shop.work.booked(shop.context, *span):
        try:
            found.append(as_visit(shop, shop.designs.load(shop.context, number)))
        except StoreError:
            continue  # a job nobody can read must not keep the others from the plan
    return found


def bay_plan(shop: Workshop, around: date) -> BayPlan:
    """The week of a day."""
    hours = hours_of(shop.shop.load(shop.context).policy)
    visits = booked(shop, around)
    placed = tuple(v for v in visits if v.day is not None)
    monday = around - timedelta(days=around.weekday())
    return BayPlan(monday, hours, placed, tuple(v for v in visits if v.day is None), tuple(clashes(visits, hours)))


def first_free(shop: Workshop, record: DesignRecord, now: datetime) -> Visit:
    """Where a job fits first, after its parts are here.

    Raises:
        NotPossible: nobody knows when its parts will be here, or no bay is free.
    """
    hours = hours_of(shop.shop.load(shop.context).policy)
    wanted, others = as_visit(shop, record), booked(shop, now.date())
    return free_place(others, wanted, hours, now.toordinal(), now.hour * 60 + now.minute)
