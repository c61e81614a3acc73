"""What the survey's page asks for: one measurement for equal places, the other side of a speaker."""

from __future__ import annotations

from collections.abc import Sequence

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ohmack.core.document.edits import Edit
from ohmack.core.errors import UnknownName
from ohmack.core.planning.equal_places import taken_as
from ohmack.core.planning.mirroring import mirrored
from ohmack.store.design_rows import DesignRecord
from ohmack.web.routes.edits import perform
from ohmack.web.routes.forms import Form, text

router = APIRouter()


@router.post("/jobs/{number}/same", name="same")
def same(request: Request, number: str, form: Form) -> Response:
    """Take what was found at one speaker's place for the places like it."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        speaker_id = text(form, "speaker")
        name = next((s.name for s in record.design.vehicle.speakers if s.id == speaker_id), None)
        if name is None:
            raise UnknownName("speaker", speaker_id)
        return taken_as(record.design, speaker_id), f"equal places as {name}"

    return perform(request, number, form, plan)


@router.post("/jobs/{number}/mirror", name="mirror")
def mirror(request: Request, number: str, form: Form) -> Response:
    """Put a speaker like one across the car, with its pair."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        edits = mirrored(record.design, text(form, "speaker"))
        return edits, f"{edits[-1].value['name']} added"

    return perform(request, number, form, plan)
