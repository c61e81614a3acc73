"""The work across jobs: what steps took in the shop, and which cars are booked when."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from ohmack.core.build.learned_times import Took
from ohmack.core.document import Design
from ohmack.core.planning.standing import Standing, standing
from ohmack.store.context import Context
from ohmack.store.database import QUERIES, Database

MOST_TIMES = 5_000  # the newest
MOST_BOOKED = 400


class WorkStore:
    """The repository of times and bookings; both follow the designs and are written with them."""

    def __init__(self, database: Database) -> None:
        self.database = database

    def times(self, context: Context, but_job: str = "") -> list[Took]:
        """Every step that was timed in the shop, but for one job's."""
        rows = self.database.read(
            lambda c: list(QUERIES.list_times(c, shop_id=context.shop_id, but_job=but_job, most=MOST_TIMES))
        )
        return [Took(r["kind"], r["job_id"], r["make"], r["model"], float(r["minutes"])) for r in rows]

    def booked(self, context: Context, begins: datetime, ends: datetime) -> list[str]:
        """The numbers of the jobs that come in within a span, and of those that wait for a day."""
        question = {"begins": begins, "ends": ends, "most": MOST_BOOKED}
        rows = self.database.read(lambda c: list(QUERIES.list_bookings(c, shop_id=context.shop_id, **question)))
        return [row["number"] for row in rows]


def _moment(text: str) -> datetime | None:
    """A day or a time as stored; None for none, and for one no calendar has, as a file may bring."""
    try:
        return datetime.fromisoformat(text)
    except ValueError:
        return None


def mirror_standing(c: Any, context: Context, design_id: int, before: Design | None, design: Design) -> None:
    """Keep where a design stands, and with it its job, inside the transaction that saves it."""
    stands = standing(design)
    if before is None or standing(before) is not stands:
        rank = list(Standing).index(stands)
        QUERIES.put_standing(c, shop_id=context.shop_id, design_id=design_id, standing=rank)
        QUERIES.job_stands_as_its_options(c, shop_id=context.shop_id, design_id=design_id)


def mirror_work(c: Any, context: Context, design_id: int, before: Design | None, design: Design) -> None:
    """Keep what a design says of times and bookings in their tables, inside the transaction that saves it.

    Parameters:
        c: the connection.
        context: who saves.
        design_id: the design.
        before: what was in force; None where it is not known.
        design: what is in force now.
    """
    shop_id = context.shop_id
    if before is None or before.work.marks != design.work.marks:
        QUERIES.clear_times(c, shop_id=shop_id, design_id=design_id)
        for mark in design.work.marks:
            if mark.once_min is not None:
                QUERIES.add_time(
                    c, shop_id=shop_id, design_id=design_id, step=mark.step, kind=mark.kind, minutes=mark.once_min
                )
    if before is None or before.work.booking != design.work.booking:
        booking = design.work.booking
        if booking is None:
            QUERIES.clear_booking(c, shop_id=shop_id, design_id=design_id)
        else:
            starts, due = _moment(booking.starts), _moment(booking.due)
            QUERIES.put_booking(c, shop_id=shop_id, design_id=design_id, bay=booking.bay, starts=starts, due=due)
