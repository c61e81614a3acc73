"""Links on the customer's page, made and withdrawn."""

from __future__ import annotations

from datetime import timedelta

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ohmack.formats.entry import EntryError, read_day
from ohmack.web.clock import now
from ohmack.web.extras import extras
from ohmack.web.page import Page
from ohmack.web.render import go, job_answer, wants_fragment, workshop_of
from ohmack.web.routes.edits import refusal
from ohmack.web.routes.forms import Form, text
from ohmack.web.sheet import Asked
from ohmack.web.square_code import square_code

router = APIRouter()
MOST_DAYS = 3653  # ten years
SHEET = "leaflet"


@router.post("/jobs/{number}/links", name="make_link")
def make_link(request: Request, number: str, form: Form) -> Response:
    """A new link on the revision in force; its address is shown in this answer and never again."""
    shop = workshop_of(request)
    record = shop.designs.load(shop.context, number)
    try:
        ends_on = read_day(text(form, "ends_on").strip())
        ahead = ends_on - now().date()
        if not timedelta(0) <= ahead <= timedelta(days=MOST_DAYS):
            raise EntryError("A link ends today at the earliest, and in ten years at the latest.")
    except EntryError as error:
        return refusal(request, record, form, "links", str(error))
    token = shop.links.make(shop.context, record.design_id, record.number, ends_on)
    address = f"{request.app.state.public_address or str(request.base_url).rstrip('/')}/l/{token}"
    page = Page(record, shop.evaluation(record, sweep=False), SHEET)
    page.extra = extras(shop, record, SHEET, Asked()) | {"made": address, "code": square_code(address)}
    return job_answer(request, page)


@router.post("/jobs/{number}/links/{link_id:number}/withdraw", name="withdraw_link")
def withdraw(request: Request, number: str, link_id: int, form: Form) -> Response:
    """Close a link at once."""
    shop = workshop_of(request)
    record = shop.designs.load(shop.context, number)
    shop.links.withdraw(shop.context, record.design_id, link_id)
    if not wants_fragment(request):
        return go(f"/jobs/{number}/{SHEET}")
    page = Page(record, shop.evaluation(record, sweep=False), SHEET)
    page.extra = extras(shop, record, SHEET, Asked())
    return job_answer(request, page, address=f"/jobs/{number}/{SHEET}")
