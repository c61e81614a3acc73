"""A gain moved on the ladder, a knob kept where it is."""

from __future__ import annotations

from collections.abc import Sequence

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ohmack.core.document.edits import Edit
from ohmack.core.document.handles import at
from ohmack.core.document.links import SpeakerLink
from ohmack.core.errors import UnknownName
from ohmack.core.planning.gains import STEP_DB, kept_at, raised
from ohmack.core.wording import amount
from ohmack.formats.entry import EntryError
from ohmack.store.design_rows import DesignRecord
from ohmack.web.render import workshop_of
from ohmack.web.routes.edits import perform
from ohmack.web.routes.forms import Form, text, texts
from ohmack.web.titles import label_of
from ohmack.web.typed import read_stated

router = APIRouter()
MOST_DB = 200.0


@router.post("/jobs/{number}/raise", name="raise_gain")
def raise_gain(request: Request, number: str, form: Form) -> Response:
    """Move a gain: by how far its level was drawn up or down, or by an arrow key."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        nudged = {"up": STEP_DB, "down": -STEP_DB}.get(text(form, "nudge"))
        try:
            rise_db = float(text(form, "rise")) if nudged is None else nudged
        except ValueError:
            raise EntryError("How far was it moved? In decibels.") from None
        if not abs(rise_db) <= MOST_DB:
            raise EntryError("That is no change of a gain.")
        found = workshop_of(request).evaluation(record, sweep=False)
        edits = raised(found, text(form, "thing")[:60], rise_db)
        return edits, f"level moved by {amount(rise_db, 'db')}"

    return perform(request, number, form, plan)


@router.post("/jobs/{number}/knob", name="keep_knob")
def keep_knob(request: Request, number: str, form: Form) -> Response:
    """Keep a gain knob where it is, for every output it sets."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        path = text(form, "path")[:300]
        link = next(
            (k for k in record.design.links_of(SpeakerLink) if path == at(k, lambda it: it.sensitivity_kept_v)), None
        )
        if link is None:
            raise UnknownName("gain", path)
        volts, _ = read_stated(record.design, path, texts(form, "value"), "")
        edits = kept_at(workshop_of(request).evaluation(record, sweep=False), link.id, volts)
        return edits, f"{label_of(record.design, path)}: {' '.join(texts(form, 'value'))[:80] or 'empty'}"

    return perform(request, number, form, plan)
