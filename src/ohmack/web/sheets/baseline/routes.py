"""A reading of the volume steps."""

from __future__ import annotations

from collections.abc import Sequence

from fastapi import APIRouter, Request
from fastapi.responses import Response
from starlette.datastructures import FormData

from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.planning.survey import volume_reading
from ohmack.core.wording import count
from ohmack.formats.entry import EntryError, read_quantity
from ohmack.formats.step_rows import read_step_rows
from ohmack.store.design_rows import DesignRecord
from ohmack.web.clock import today
from ohmack.web.routes.edits import perform
from ohmack.web.routes.forms import Form, text

router = APIRouter()


def _typed(form: FormData, name: str, unit: str, words: str) -> float:
    """What was typed into one field of the form."""
    try:
        return read_quantity(text(form, name), unit)
    except EntryError as error:
        raise EntryError(f"The {words}: {error}") from None


@router.post("/jobs/{number}/volume-reading", name="volume_reading")
def reading(request: Request, number: str, form: Form) -> Response:
    """Note one reading at the tap."""

    def several(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        tone_hz = _typed(form, "tone_hz", "hz", "tone")
        rows = read_step_rows(text(form, "rows")[:4000])
        edits: list[Edit] = []
        design = record.design
        for step, voltage_v in rows:
            made = volume_reading(design, step, tone_hz, voltage_v, text(form, "source_level")[:120], today())
            design = apply_edits(design, made)
            edits += made
        return edits, f"{count(len(rows), 'reading')} at {tone_hz:g} Hz"

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        if text(form, "rows").strip():
            return several(record)
        values = []
        for name, unit, words in (
            ("step", "", "volume step"),
            ("tone_hz", "hz", "tone"),
            ("voltage_v", "v", "reading"),
        ):
            values.append(_typed(form, name, unit, words))
        step, tone_hz, voltage_v = values
        edits = volume_reading(record.design, step, tone_hz, voltage_v, text(form, "source_level")[:120], today())
        return edits, f"step {step:g}, {tone_hz:g} Hz: {voltage_v:g} V"

    return perform(request, number, form, plan)
