"""The readings as a table."""

from __future__ import annotations

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ohmack.core.document.proof import ProofReading
from ohmack.core.prove.judged import Judged, read_words
from ohmack.formats.csv_table import guarded_cell, write_table
from ohmack.web.render import workshop_of

router = APIRouter()
COLUMNS = ("check", "gate", "what", "value", "unit", "low", "high", "stands", "current_a", "when", "who", "instrument",
           "range", "zero_ohm", "note", "corrected")  # fmt: skip


@router.get("/jobs/{number}/readings.csv", name="readings_csv")
def as_csv(request: Request, number: str) -> Response:
    """Every reading ever taken, corrected ones too, beside what was predicted."""
    shop = workshop_of(request)
    record = shop.designs.load(shop.context, number)
    proof = shop.evaluation(record, sweep=False).results.proof
    rows = [_row(j, r) for j in proof.checks for r in (*j.earlier, *((j.reading,) if j.reading is not None else ()))]
    headers = {"Content-Disposition": f'attachment; filename="{record.job_number}-readings.csv"'}
    return Response(write_table(rows, COLUMNS, guarded_cell), media_type="text/csv; charset=utf-8", headers=headers)


def _row(judged: Judged, reading: ProofReading) -> dict[str, str]:
    check, window = judged.check, judged.shown
    said = read_words(check, reading, reading.value) if reading.value is None else f"{reading.value:g}"
    return {
        "check": check.id, "gate": str(check.gate), "what": check.title, "value": said,
        "unit": check.probe.quantity.unit if reading.value is not None else "",
        "low": "" if window is None else f"{window.low:.6g}", "high": "" if window is None else f"{window.high:.6g}",
        "stands": judged.state.value if reading is judged.reading else "",
        "current_a": "" if reading.current_a is None else f"{reading.current_a:g}", "when": reading.when,
        "who": reading.who, "instrument": reading.instrument, "range": reading.range,
        "zero_ohm": f"{reading.zero_ohm:g}" if reading.zero_ohm else "", "note": reading.note,
        "corrected": "" if reading is judged.reading else "yes",
    }  # fmt: skip
