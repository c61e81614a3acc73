"""What the sheet of loads asks for: subwoofers spread otherwise over the channels."""

from __future__ import annotations

from collections.abc import Sequence

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ohmack.core.document.edits import Edit
from ohmack.core.errors import UnknownName
from ohmack.core.loads.spreads import edits_of, spreads
from ohmack.core.planning.laying import follow
from ohmack.formats.entry import EntryError
from ohmack.store.design_rows import DesignRecord
from ohmack.web.render import workshop_of
from ohmack.web.routes.edits import perform
from ohmack.web.routes.forms import Form, text

router = APIRouter()


@router.post("/jobs/{number}/spread", name="spread")
def spread(request: Request, number: str, form: Form) -> Response:
    """Spread an amplifier's subwoofers over its channels in one of the ways that are listed."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        loads = workshop_of(request).evaluation(record, sweep=False).results.amplifier_loads
        load = next((one for one in loads if one.amplifier.id == text(form, "amplifier")), None)
        if load is None:
            raise UnknownName("amplifier", text(form, "amplifier")[:40])
        for row in spreads(record.design, load):
            if row.words == text(form, "words"):
                return follow(record.design, edits_of(record.design, row)), f"{load.amplifier.name}: spread anew"
        raise EntryError("That spread is no longer offered; look at the list again.")

    return perform(request, number, form, plan)
