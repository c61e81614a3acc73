"""The readings as a table."""

from __future__ import annotations

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ohmack.formats.hand_over_csv import readings_csv
from ohmack.web.render import workshop_of

router = APIRouter()


@router.get("/jobs/{number}/readings.csv", name="readings_csv")
def as_csv(request: Request, number: str) -> Response:
    """Every reading ever taken, corrected ones too, beside what was predicted."""
    shop = workshop_of(request)
    record = shop.designs.load(shop.context, number)
    data = readings_csv(shop.evaluation(record, sweep=False).results)
    headers = {"Content-Disposition": f'attachment; filename="{record.job_number}-readings.csv"'}
    return Response(data, media_type="text/csv; charset=utf-8", headers=headers)
