"""The bay plan: a week of all bays, jobs booked into them, the calendar as a file."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, datetime, timedelta

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response

from ohmack.core.document.edits import Edit
from ohmack.core.planning.booking import book, unbook
from ohmack.drawing.bay_week import Standing, draw_week
from ohmack.formats.calendar import moment, write_calendar
from ohmack.formats.entry import EntryError, is_whole
from ohmack.store.design_rows import DesignRecord
from ohmack.web.bay_plan import bay_plan, first_free, ordinal
from ohmack.web.car_picture import two_widths
from ohmack.web.clock import now
from ohmack.web.render import page_answer, workshop_of
from ohmack.web.routes.edits import perform
from ohmack.web.routes.forms import Form, text

router = APIRouter()


@router.get("/bay", name="bay")
def week(request: Request, week: str = "") -> HTMLResponse:
    """A week of the bays."""
    shop, today = workshop_of(request), now().date()
    asked = ordinal(week)
    around = date.fromordinal(asked) if asked is not None and 366 < asked < 3_000_000 else today
    plan = bay_plan(shop, around)
    clashing = {job for clash in plan.clashes for job in clash.jobs}
    rows = [Standing(v, tuple(plan.pieces(v)), v.job in clashing) for v in plan.this_week]
    picture = two_widths(*draw_week(plan.days, plan.hours, rows, today, lambda job: f"/jobs/{job}#when"))
    return page_answer(
        request, "bay.html", plan=plan, picture=picture, today=today, before=plan.monday - timedelta(days=7),
        after=plan.monday + timedelta(days=7), moment=moment,
    )  # fmt: skip


@router.get("/bay.ics", name="bay_calendar")
def calendar(request: Request) -> Response:
    """The bay plan for a calendar program."""
    plan = bay_plan(workshop_of(request), now().date())
    data = write_calendar([(v, plan.pieces(v)) for v in plan.visits], now().astimezone())
    headers = {"Content-Disposition": 'attachment; filename="bays.ics"'}
    return Response(data, media_type="text/calendar; charset=utf-8", headers=headers)


def _day(typed: str, words: str) -> str:
    if typed and ordinal(typed) is None:
        raise EntryError(f"{words}: a day such as {now().date().isoformat()}; “{typed[:20]}” is none.")
    return typed[:10]


def _time(typed: str) -> str:
    if not typed:
        return ""
    try:
        return datetime.fromisoformat(typed).strftime("%Y-%m-%dT%H:%M")
    except ValueError:
        example = now().strftime("%Y-%m-%dT08:00")
        raise EntryError(f"Comes in: a day and a time such as {example}; “{typed[:20]}” is none.") from None


def _number(form: Form, name: str, words: str) -> int | None:
    typed = text(form, name).strip()
    if not typed:
        return None
    if not is_whole(typed):
        raise EntryError(f"{words}: a whole number; “{typed[:20]}” is none.")
    return int(typed)


@router.post("/jobs/{number}/booking", name="booking")
def booking(request: Request, number: str, form: Form) -> Response:
    """When a car comes in; into the first free place, or out of the plan."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        act = text(form, "act")
        if act == "out":
            return unbook(record.design), "taken out of the bay plan"
        due, people = _day(text(form, "due").strip(), "Ready by"), _number(form, "people", "At work")
        if act == "free":
            found = first_free(workshop_of(request), record, now())
            starts = moment(found.day or 0, found.minute).strftime("%Y-%m-%dT%H:%M")
            return book(record.design, found.bay, starts, due, people), f"booked into bay {found.bay}, {starts}"
        starts, bay = _time(text(form, "starts").strip()), _number(form, "bay", "Bay")
        return book(record.design, bay, starts, due, people), f"booked: {starts or 'no day yet'}"

    return perform(request, number, form, plan)
