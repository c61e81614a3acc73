"""Everything of a job is ordered, or here."""

from __future__ import annotations

from collections.abc import Sequence

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ohmack.core.document.edits import Edit
from ohmack.core.document.part import Stands
from ohmack.core.planning.arriving import brought_to
from ohmack.formats.entry import EntryError
from ohmack.store.design_rows import DesignRecord
from ohmack.web.routes.edits import perform
from ohmack.web.routes.forms import Form, text
from ohmack.web.sheets.order.view import ALL

router = APIRouter()


@router.post("/jobs/{number}/arrivals", name="arrivals")
def arrivals(request: Request, number: str, form: Form) -> Response:
    """Bring every part fitted now, with wire, fuses and small parts, to one state."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        stands = next((one for one in ALL if one.value == text(form, "stands")), None)
        if stands is None:
            raise EntryError(f"Say {' or '.join(ALL)}.")
        return brought_to(record.design, Stands(stands)), ALL[stands].lower()

    return perform(request, number, form, plan)
