"""Steps done, left out, put in."""

from __future__ import annotations

from collections.abc import Sequence

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ohmack.core.build.learned_times import learned_times
from ohmack.core.build.work_plan import PlannedStep, WorkPlan
from ohmack.core.document.edits import Edit
from ohmack.core.planning.step_order import (
    made_whole,
    move_step,
    moved_back,
    plan_by_practice,
    plan_with,
    split_step,
)
from ohmack.core.planning.work import leave_out, mark_done, own_step, put_in_again
from ohmack.core.prove.closing import waits_for_proof
from ohmack.core.wording import numbered
from ohmack.formats.csv_table import guarded_cell, write_table
from ohmack.formats.entry import is_whole
from ohmack.store.design_rows import DesignRecord
from ohmack.web.clock import today
from ohmack.web.render import workshop_of
from ohmack.web.routes.edits import perform
from ohmack.web.routes.forms import Form, quantity, text

router = APIRouter()
COLUMNS = ("number", "phase", "step", "tools", "people", "minutes_low", "minutes_high", "after", "cautions", "one_shot",
           "done", "minutes")  # fmt: skip


def _plan(request: Request, record: DesignRecord) -> WorkPlan:
    return workshop_of(request).evaluation(record, sweep=False).results.work_plan


@router.post("/jobs/{number}/step", name="step_done")
def done(request: Request, number: str, form: Form) -> Response:
    """A step is done, or is not after all."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        name, is_done = text(form, "step")[:90], text(form, "done") == "yes"
        minutes = quantity(form, "minutes", "min", "Minutes")
        results = workshop_of(request).evaluation(record, sweep=False).results
        held = waits_for_proof(results, name)
        edits = mark_done(record.design, results.work_plan, name, is_done, minutes, today(), held)
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
        low = quantity(form, "low", "min", "At least")
        high = quantity(form, "high", "min", "At most")
        low_min = low if low is not None else (high or 5.0)
        edits = own_step(
            record.design, _plan(request, record), text(form, "what"), _one(text(form, "after")),
            _one(text(form, "before")), low_min, high if high is not None else low_min, bool(text(form, "one_shot")),
        )  # fmt: skip
        return edits, f"own step: {text(form, 'what')[:60]}"

    return perform(request, number, form, plan)


@router.post("/jobs/{number}/step-move", name="step_moved")
def moved(request: Request, number: str, form: Form) -> Response:
    """A step is done before another, or where the plan puts it."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        name, work = text(form, "step")[:90], _plan(request, record)
        if text(form, "back"):
            return moved_back(record.design, name), f"step back in its place: {name}"
        typed = text(form, "before").strip()
        at = int(typed) if is_whole(typed) else 0
        before = next((p.step.id for p in work.steps if p.number == at), "")
        return move_step(record.design, work, name, before), f"step moved: {name}"

    return perform(request, number, form, plan)


@router.post("/jobs/{number}/step-split", name="step_split")
def split(request: Request, number: str, form: Form) -> Response:
    """A step is done in two halves, or in one again."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        name = text(form, "step")[:90]
        if text(form, "whole"):
            return made_whole(record.design, name), f"step in one again: {name}"
        edits = split_step(record.design, _plan(request, record), name, text(form, "first"), text(form, "second"))
        return edits, f"step in two: {name}"

    return perform(request, number, form, plan)


@router.post("/jobs/{number}/step-times", name="step_times")
def times(request: Request, number: str, form: Form) -> Response:
    """Plan with what steps took here, or with common practice again."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        if text(form, "practice"):
            return plan_by_practice(record.design), "planned by common practice"
        shop, car = workshop_of(request), record.design.vehicle
        learned = learned_times(shop.work.times(shop.context, record.job_number), car.make, car.model)
        return plan_with(record.design, learned), "planned with what steps took here"

    return perform(request, number, form, plan)


@router.get("/jobs/{number}/steps.csv", name="steps_csv")
def as_csv(request: Request, number: str) -> Response:
    """Every step with what it needs and what happened to it."""
    shop = workshop_of(request)
    record = shop.designs.load(shop.context, number)
    plan = _plan(request, record)
    named = {p.step.id: p.number for p in plan.steps}
    rows = [_row(p, numbered(named[n] for n in p.step.needs if n in named)) for p in plan.steps]
    headers = {"Content-Disposition": f'attachment; filename="{record.job_number}-steps.csv"'}
    return Response(write_table(rows, COLUMNS, guarded_cell), media_type="text/csv; charset=utf-8", headers=headers)


def _row(planned: PlannedStep, after: str) -> dict[str, str]:
    step, mark = planned.step, planned.mark
    took = "" if mark is None or mark.minutes is None else f"{mark.minutes:g}"
    return {
        "number": str(planned.number), "phase": step.phase.words, "step": step.what, "tools": step.tools,
        "people": str(step.people), "minutes_low": f"{step.low_min:g}", "minutes_high": f"{step.high_min:g}",
        "after": after, "cautions": "; ".join(step.cautions), "one_shot": "yes" if step.one_shot else "",
        "done": "yes" if planned.done else "", "minutes": took,
    }  # fmt: skip


def _one(value: str) -> tuple[str, ...]:
    return (value[:90],) if value else ()
