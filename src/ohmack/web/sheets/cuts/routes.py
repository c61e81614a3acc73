"""The cut list as a file."""

from __future__ import annotations

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ohmack.formats.csv_table import guarded_cell, write_table
from ohmack.web.page import Page
from ohmack.web.render import workshop_of
from ohmack.web.sheets.cuts.view import CutsView

router = APIRouter()
COLUMNS = ("number", "for", "from", "to", "size", "length_m", "colour", "off", "note")


@router.get("/jobs/{number}/cuts.csv", name="cuts_csv")
def as_csv(request: Request, number: str) -> Response:
    """Every cable with what both its labels say."""
    shop = workshop_of(request)
    record = shop.designs.load(shop.context, number)
    view = CutsView(Page(record, shop.evaluation(record, sweep=False), "cuts"))
    rows = [
        {
            "number": c.number, "for": c.row.purpose, "from": c.row.start, "to": c.row.end, "size": c.row.size,
            "length_m": "" if c.row.length_m is None else f"{c.row.length_m:.2f}", "colour": c.row.colour,
            "off": view.off(c), "note": c.row.note,
        }
        for c in view.cuts.cables
    ]  # fmt: skip
    headers = {"Content-Disposition": f'attachment; filename="{record.job_number}-cuts.csv"'}
    return Response(write_table(rows, COLUMNS, guarded_cell), media_type="text/csv; charset=utf-8", headers=headers)
