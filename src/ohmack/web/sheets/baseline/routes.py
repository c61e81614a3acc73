"""A reading of the volume steps."""

from __future__ import annotations

from collections.abc import Sequence

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ohmack.core.document.edits import Edit
from ohmack.core.planning.survey import volume_reading
from ohmack.formats.entry import EntryError, read_quantity
from ohmack.store.design_rows import DesignRecord
from ohmack.web.clock import today
from ohmack.web.routes.edits import perform
from ohmack.web.routes.forms import Form, text

router = APIRouter()


@router.post("/jobs/{number}/volume-reading", name="volume_reading")
def reading(request: Request, number: str, form: Form) -> Response:
    """Note one reading at the tap."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        values = []
        for name, unit, words in (
            ("step", "", "volume step"),
            ("tone_hz", "hz", "tone"),
            ("voltage_v", "v", "reading"),
        ):
            try:
                values.append(read_quantity(text(form, name), unit))
            except EntryError as error:
                raise EntryError(f"The {words}: {error}") from None
        step, tone_hz, voltage_v = values
        edits = volume_reading(record.design, step, tone_hz, voltage_v, text(form, "source_level")[:120], today())
        return edits, f"step {step:g}, {tone_hz:g} Hz: {voltage_v:g} V"

    return perform(request, number, form, plan)
