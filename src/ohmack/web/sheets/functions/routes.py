"""What the function ledger's page asks for: functions laid in, what happens to a module, what keeps things alive."""

from __future__ import annotations

from collections.abc import Sequence

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ohmack.core.document.edits import Edit
from ohmack.core.document.functions import KeepAlive
from ohmack.core.document.interventions import interventions_of
from ohmack.core.factory.function_edits import functions_for, happens_to, keep_alive
from ohmack.formats.entry import EntryError
from ohmack.store.design_rows import DesignRecord
from ohmack.web.routes.edits import perform
from ohmack.web.routes.forms import Form, text

router = APIRouter()


@router.post("/jobs/{number}/functions", name="lay_functions")
def lay_functions(request: Request, number: str, form: Form) -> Response:
    """Lay in the functions such a car usually has."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        edits = functions_for(record.design)
        if not edits:
            raise EntryError("Everything such a car usually does is on file already.")
        return edits, "usual functions laid in"

    return perform(request, number, form, plan)


@router.post("/jobs/{number}/act", name="act")
def act(request: Request, number: str, form: Form) -> Response:
    """Say what happens to the radio or a module."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        thing_id, words = text(form, "thing"), text(form, "act")
        return happens_to(record.design, thing_id, words), f"{thing_id} {words or 'left alone'}"

    return perform(request, number, form, plan)


@router.post("/jobs/{number}/keep-alive", name="keep_alive")
def keep(request: Request, number: str, form: Form) -> Response:
    """Add a keep-alive measure, or take one back."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        now = next((i for i in interventions_of(record.design) if i.id == text(form, "thing")), None)
        if now is None:
            raise EntryError("Nothing happens to that module; say first what does.")
        try:
            measure = KeepAlive(text(form, "measure"))
        except ValueError:
            raise EntryError("Choose one of the measures.") from None
        if text(form, "back"):
            left = [k.value for k in now.keep_alive if k is not measure]
            return [Edit(path=f"interventions/{now.id}/keep_alive", value=left)], f"{measure.value} taken back"
        if measure in now.keep_alive:
            return [], ""
        return [keep_alive(record.design, now, measure)], f"{now.id}: {measure.value}"

    return perform(request, number, form, plan)
