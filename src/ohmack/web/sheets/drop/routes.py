"""A reading of the drop test."""

from __future__ import annotations

from collections.abc import Sequence

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ohmack.core.document.edits import Edit
from ohmack.core.planning.drop_readings import drop_reading
from ohmack.core.wording import amount
from ohmack.formats.entry import EntryError, read_quantity
from ohmack.store.design_rows import DesignRecord
from ohmack.web.clock import today
from ohmack.web.routes.edits import perform
from ohmack.web.routes.forms import Form, text

router = APIRouter()


@router.post("/jobs/{number}/drop-reading", name="drop_reading")
def reading(request: Request, number: str, form: Form) -> Response:
    """Note what the meter read between two points, and at which current."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        values = []
        for name, unit, words in (("voltage_v", "v", "reading"), ("current_a", "a", "current")):
            try:
                typed = text(form, name).strip()
                if name == "voltage_v" and not any(letter.isalpha() for letter in typed):
                    typed += " mV"  # the range the meter stands on
                values.append(read_quantity(typed, unit))
            except EntryError as error:
                raise EntryError(f"The {words}: {error}") from None
        voltage_v, current_a = values
        edits = drop_reading(
            record.design, text(form, "consumer")[:60], text(form, "section")[:80], abs(voltage_v), current_a, today()
        )
        return edits, f"drop read: {amount(abs(voltage_v), 'v')} at {current_a:g} A"

    return perform(request, number, form, plan)
