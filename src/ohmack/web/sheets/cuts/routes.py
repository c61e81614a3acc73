"""The cut list as a file."""

from __future__ import annotations

import csv
from io import StringIO

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ohmack.web.page import Page
from ohmack.web.render import workshop_of
from ohmack.web.sheets.cuts.view import CutsView

router = APIRouter()


@router.get("/jobs/{number}/cuts.csv", name="cuts_csv")
def as_csv(request: Request, number: str) -> Response:
    """Every cable with both its labels."""
    shop = workshop_of(request)
    record = shop.designs.load(shop.context, number)
    view = CutsView(Page(record, shop.evaluation(record, sweep=False), "cuts"))
    out = StringIO()
    rows = csv.writer(out)
    rows.writerow(("number", "for", "from", "to", "size", "length_m", "colour", "off", "note"))
    for cable in view.cuts.cables:
        row = cable.row
        length = "" if row.length_m is None else f"{row.length_m:.2f}"
        ends = (cable.number, row.purpose, row.start, row.end)
        rows.writerow((*ends, row.size, length, row.colour, view.off(cable), row.note))
    headers = {"Content-Disposition": f'attachment; filename="{record.job_number}-cuts.csv"'}
    return Response(out.getvalue(), media_type="text/csv; charset=utf-8", headers=headers)
