"""Steps done, left out, put in."""

from __future__ import annotations

from collections.abc import Sequence

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ohmack.core.build.work_plan import WorkPlan
from ohmack.core.document.edits import Edit
from ohmack.core.planning.work import leave_out, mark_done, own_step, put_in_again
from ohmack.formats.entry import EntryError, read_quantity
from ohmack.store.design_rows import DesignRecord
from ohmack.web.clock import today
from ohmack.web.render import workshop_of
from ohmack.web.routes.edits import perform
from ohmack.web.routes.forms import Form, text

router = APIRouter()


def _plan(request: Request, record: DesignRecord) -> WorkPlan:
    return workshop_of(request).evaluation(record, sweep=False).results.work_plan


def _minutes(typed: str, words: str) -> float | None:
    if not typed.strip():
        return None
    try:
        return read_quantity(typed, "min")
    except EntryError as error:
        raise EntryError(f"{words}: {error}") from None


@router.post("/jobs/{number}/step", name="step_done")
def done(request: Request, number: str, form: Form) -> Response:
    """A step is done, or is not after all."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        name, is_done = text(form, "step")[:90], text(form, "done") == "yes"
        minutes = _minutes(text(form, "minutes"), "Minutes")
        edits = mark_done(record.design, _plan(request, record), name, is_done, minutes, today())
        return edits, f"step {'done' if is_done else 'not done'}: {name}"

    return perform(request, number, form, plan)


@router.post("/jobs/{number}/step-out", name="step_left_out")
def left_out(request: Request, number: str, form: Form) -> Response:
    """A step is left out, for a reason; or is on the list again."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        name = text(form, "step")[:90]
        if text(form, "again"):
            return put_in_again(record.design, name), f"step on the list again: {name}"
        return leave_out(record.design, _plan(request, record), name, text(form, "reason")), f"step left out: {name}"

    return perform(request, number, form, plan)


@router.post("/jobs/{number}/own-step", name="own_step")
def own(request: Request, number: str, form: Form) -> Response:
    """A step of the shop's own."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        low = _minutes(text(form, "low"), "At least")
        high = _minutes(text(form, "high"), "At most")
        low_min = low if low is not None else (high or 5.0)
        edits = own_step(
            record.design, _plan(request, record), text(form, "what"), _one(text(form, "after")),
            _one(text(form, "before")), low_min, high if high is not None else low_min, bool(text(form, "one_shot")),
        )  # fmt: skip
        return edits, f"own step: {text(form, 'what')[:60]}"

    return perform(request, number, form, plan)


def _one(value: str) -> tuple[str, ...]:
    return (value[:90],) if value else ()
