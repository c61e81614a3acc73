"""Things taken off and put back."""

from __future__ import annotations

from collections.abc import Sequence

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ohmack.core.build.teardown import counted
from ohmack.core.document.edits import Edit
from ohmack.core.planning.work import put_back, take_off
from ohmack.formats.entry import EntryError, is_whole
from ohmack.store.design_rows import DesignRecord
from ohmack.web.clock import today
from ohmack.web.render import workshop_of
from ohmack.web.routes.edits import perform
from ohmack.web.routes.forms import Form, text
from ohmack.web.sheets.teardown.view import COUNTS, said

router = APIRouter()


def _number(form: Form, name: str) -> int:
    typed = text(form, name).strip()
    if not typed:
        return 0
    if not is_whole(typed) or int(typed) > 99:
        raise EntryError(f"How many {said(name).lower()}? A whole number up to 99; “{typed[:20]}” is none.")
    return int(typed)


def _holds_a_person(form: Form, step: str) -> bool:
    """Asked of what nobody planned; of a planned seat the plan knows it."""
    said = text(form, "holds_a_person")
    if not step and said not in ("yes", "no"):
        raise EntryError("Is it a seat or a belt? Their bolts hold a person in a crash; say yes or no.")
    return said == "yes"


@router.post("/jobs/{number}/take-off", name="take_off")
def off(request: Request, number: str, form: Form) -> Response:
    """Something came off: what held it."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        values: dict[str, object] = {name: _number(form, name) for name in COUNTS}
        values |= {name: text(form, name).strip()[:110] for name in ("name", "kind", "tray", "torque")}
        values["note"] = text(form, "note").strip()[:1900]
        results = workshop_of(request).evaluation(record, sweep=False).results
        step = text(form, "step")[:90]
        values["holds_a_person"] = _holds_a_person(form, step)
        edits = take_off(record.design, results.work_plan, step, values, today())
        return edits, f"taken off: {edits[0].value['name']}"

    return perform(request, number, form, plan)


@router.post("/jobs/{number}/put-back", name="put_back")
def back(request: Request, number: str, form: Form) -> Response:
    """Something is back on: what was counted in."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        fasteners, clips, plugs = (_number(form, c.name) for c in counted())
        results = workshop_of(request).evaluation(record, sweep=False).results
        name = text(form, "item")[:60]
        gate = results.closing_gate
        edits = put_back(record.design, results.work_plan, name, fasteners, clips, plugs, today(), gate)
        return edits, f"put back: {name}"

    return perform(request, number, form, plan)
