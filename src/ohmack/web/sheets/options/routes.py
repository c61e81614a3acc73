"""Another option of the job, and the page for the customer."""

from __future__ import annotations

from dataclasses import dataclass

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response
from markupsafe import Markup

from ohmack.core.figures.figure import Figure
from ohmack.core.planning.offer import Offer, offer
from ohmack.store.design_rows import TooManyOptions
from ohmack.web.clock import today
from ohmack.web.page import Problem
from ohmack.web.render import go, job_answer, page_answer, workshop_of
from ohmack.web.routes.edits import address_of, page_of
from ohmack.web.routes.forms import Form
from ohmack.web.thumbnail import thumbnail

router = APIRouter()


@router.post("/jobs/{number}/options", name="add_option")
def add_option(request: Request, number: str, form: Form) -> Response:
    """A further option, copied from this one."""
    shop = workshop_of(request)
    try:
        made = shop.designs.add_option(shop.context, number)
    except TooManyOptions as error:
        page = page_of(request, shop.designs.load(shop.context, number), form, problem=Problem("options", str(error)))
        return job_answer(request, page, 422)
    return go(address_of(made, "options", ""))


@dataclass(frozen=True)
class OfferedOption:
    """One option on the customer's page."""

    letter: str
    name: str
    car: Markup
    said: Offer


@router.get("/jobs/{number}/offer", name="offer")
def customers_page(request: Request, number: str) -> HTMLResponse:
    """Every option in the customer's words: sum, work, wishes."""
    shop = workshop_of(request)
    record = shop.designs.load(shop.context, number)
    pairs = shop.options(record.address)
    offers = [
        OfferedOption(r.letter, r.design.option_name, thumbnail(evaluation), offer(evaluation))
        for r, evaluation in pairs
    ]
    currency = record.design.policy.currency

    def money(figure: Figure | None) -> str:
        return "–" if figure is None or figure.value is None else f"{figure.value:.0f} {currency}"

    def span(ends: tuple[Figure, Figure], digits: int, unit: str = "") -> str:
        low, high = (f"{end.value:.{digits}f}" for end in ends)
        return f"{low if low == high else f'{low} to {high}'} {unit}".strip()

    return page_answer(
        request, "options/offer.html", record=record, offers=offers, money=money, span=span, currency=currency,
        rate=f"{record.design.policy.labour_rate:.0f} {currency}",
        today=today(),
    )  # fmt: skip
