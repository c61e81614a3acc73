"""What the crossover sheet asks for: the delays of every output by the plan."""

from __future__ import annotations

from collections.abc import Sequence

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ohmack.core.box.arrivals import edits_of
from ohmack.core.document.edits import Edit
from ohmack.formats.entry import EntryError
from ohmack.store.design_rows import DesignRecord
from ohmack.web.render import workshop_of
from ohmack.web.routes.edits import perform
from ohmack.web.routes.forms import Form

router = APIRouter()


@router.post("/jobs/{number}/delays", name="delays")
def delays(request: Request, number: str, form: Form) -> Response:
    """Set the delay of every output so that all arrive with the farthest."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        found = workshop_of(request).evaluation(record, sweep=False).results.arrivals
        if not found:
            raise EntryError("Fewer than two outputs have a place on the plan; there is nothing to align.")
        return edits_of(found), "delays by the plan"

    return perform(request, number, form, plan)
