"""Jobs put into one car or apart; a job opened from another: a fault reported, more work, the plan for another car."""

from __future__ import annotations

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ohmack.core.document import Design
from ohmack.core.document.proof import Symptom
from ohmack.core.document.vehicle import Body
from ohmack.core.errors import NotPossible, OhmackError
from ohmack.core.planning.copying import as_it_was_built, onto_another_car
from ohmack.core.planning.taking_out import all_out
from ohmack.formats.entry import EntryError, is_whole
from ohmack.store.database import NotFound
from ohmack.store.design_rows import DesignRecord
from ohmack.web.choices import bodies
from ohmack.web.render import go, workshop_of
from ohmack.web.routes.edits import refusal
from ohmack.web.routes.forms import Form, text
from ohmack.web.workshop import judged

router = APIRouter()


def _record(request: Request, number: str) -> DesignRecord:
    shop = workshop_of(request)
    return shop.designs.load(shop.context, number)


@router.post("/jobs/{number}/same-car", name="same_car")
def same_car(request: Request, number: str, form: Form) -> Response:
    """Two jobs are of one car."""
    shop = workshop_of(request)
    try:
        shop.cars.join(shop.context, number, text(form, "other")[:20])
    except NotFound:
        return refusal(request, _record(request, number), form, "same-car", "There is no such job in this shop.")
    return go(f"/jobs/{number}/car")


@router.post("/jobs/{number}/own-car", name="own_car")
def own_car(request: Request, number: str, form: Form) -> Response:
    """A job is of a car of its own."""
    shop = workshop_of(request)
    shop.cars.part(shop.context, number)
    return go(f"/jobs/{number}/car")


@router.post("/jobs/{number}/report-fault", name="report_fault")
def report_fault(request: Request, number: str, form: Form) -> Response:
    """A fault is reported: a job of this car as it was built, with the search for it begun."""
    record = _record(request, number)
    said, words = text(form, "symptom"), text(form, "words").strip()
    known = [s for s in Symptom if s.value == said]
    if not known and not words:
        return refusal(request, record, form, "report", "Choose what is wrong, or say it in words.")
    title = f"Reported: {known[0].value if known else words}"[:120]
    opened = _open(request, record, as_it_was_built(record.design, title, tuple(known)), title)
    return go(f"/jobs/{opened}/fault")


@router.post("/jobs/{number}/more-work", name="more_work")
def more_work(request: Request, number: str, form: Form) -> Response:
    """More work on the same car: a job with what is in it."""
    record = _record(request, number)
    title = text(form, "title").strip()[:120]
    if not title:
        return refusal(request, record, form, "more", "Say what for.")
    return go(f"/jobs/{_open(request, record, as_it_was_built(record.design, title), title)}")


@router.post("/jobs/{number}/all-out", name="all_out")
def take_all_out(request: Request, number: str, form: Form) -> Response:
    """Everything of ours comes out of the car: a job that makes it as it was."""
    record = _record(request, number)
    try:
        design = all_out(as_it_was_built(record.design, "Everything out, the car as it was"))
    except OhmackError as error:
        return refusal(request, record, form, "all-out", str(error))
    return go(f"/jobs/{_open(request, record, design, design.title)}/plan")


def _open(request: Request, record: DesignRecord, design: Design, title: str) -> str:
    shop = workshop_of(request)
    judged(design)  # what cannot be judged is never stored
    return shop.designs.open_job(
        shop.context, record.customer, record.phone, title, design, same_car_as=record.job_number
    )  # fmt: skip


@router.post("/jobs/{number}/copy", name="copy_job")
def copy(request: Request, number: str, form: Form) -> Response:
    """The plan for another car: its survey is asked anew."""
    shop, record = workshop_of(request), _record(request, number)
    try:
        customer, year = text(form, "customer").strip(), text(form, "year").strip()
        if not customer:
            raise NotPossible("customer", "Say whose car it is.")
        if year and not (is_whole(year, 4) and 1900 <= int(year) <= 2100):
            raise EntryError("A year has four digits; or leave it empty.")
        body = text(form, "body") or record.design.vehicle.body.value
        if body not in bodies():
            raise EntryError("Choose a body from the list.")
        design = onto_another_car(
            record.design, record.address, text(form, "make")[:120], text(form, "model")[:120],
            int(year) if year else None, text(form, "wish").strip()[:2000], Body(body),
        )  # fmt: skip
        judged(design)
    except (EntryError, OhmackError) as error:
        return refusal(request, record, form, "copy", str(error))
    phone, title = text(form, "phone").strip()[:40], record.design.title or "Copied plan"
    opened = shop.designs.open_job(shop.context, customer[:120], phone, title, design)
    return go(f"/jobs/{opened}/survey")
