"""Somebody agrees to the quote."""

from __future__ import annotations

from collections.abc import Sequence

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ohmack.core.document.edits import Edit
from ohmack.core.planning.work import accept_quote
from ohmack.formats.csv_table import guarded_cell, write_table
from ohmack.store.design_rows import DesignRecord
from ohmack.web.clock import today
from ohmack.web.render import workshop_of
from ohmack.web.routes.edits import perform
from ohmack.web.routes.forms import Form, text

router = APIRouter()
COLUMNS = ("group", "what", "note", "low", "high")


@router.get("/jobs/{number}/quote.csv", name="quote_csv")
def as_csv(request: Request, number: str) -> Response:
    """Every line of the quote, and its sums."""
    shop = workshop_of(request)
    record = shop.designs.load(shop.context, number)
    quote = shop.evaluation(record, sweep=False).results.quote
    rows = [
        {"group": n.group, "what": n.what, "note": n.note, "low": f"{n.low:.2f}", "high": f"{n.high:.2f}"}
        for n in quote.lines
    ]
    sums = quote.sums
    for what, low, high in (
        ("net", sums.net_low, sums.net_high), ("tax", sums.tax_low, sums.tax_high), ("together", sums.low, sums.high),
    ):  # fmt: skip
        rows.append({"group": "Sums", "what": what, "note": "", "low": f"{low:.2f}", "high": f"{high:.2f}"})
    headers = {"Content-Disposition": f'attachment; filename="{record.job_number}-quote.csv"'}
    return Response(write_table(rows, COLUMNS, guarded_cell), media_type="text/csv; charset=utf-8", headers=headers)


@router.post("/jobs/{number}/accept-quote", name="accept_quote")
def accept(request: Request, number: str, form: Form) -> Response:
    """Keep the quote as it is as what was agreed."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        quote = workshop_of(request).evaluation(record, sweep=False).results.quote
        by = text(form, "by")
        return accept_quote(record.design, quote, by, text(form, "reason"), today()), f"quote agreed with {by[:60]}"

    return perform(request, number, form, plan)
