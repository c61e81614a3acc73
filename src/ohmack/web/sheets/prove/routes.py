"""Readings taken, accepted, gates passed, planned with."""

from __future__ import annotations

from collections.abc import Sequence

from fastapi import APIRouter, Request
from fastapi.responses import Response
from starlette.datastructures import FormData

from ohmack.core.document.edits import Edit
from ohmack.core.errors import NotPossible
from ohmack.core.evaluation.results import Results
from ohmack.core.planning.proving import Read, accept, asked, jump, take_over, take_reading, withdraw
from ohmack.core.prove.checks import Check
from ohmack.core.prove.probes import Quantity
from ohmack.formats.entry import EntryError, is_open
from ohmack.store.design_rows import DesignRecord
from ohmack.web.clock import now, today
from ohmack.web.render import workshop_of
from ohmack.web.routes.edits import perform
from ohmack.web.routes.forms import Form, number_in, quantity, text, whole

router = APIRouter()


def _results(request: Request, record: DesignRecord) -> Results:
    return workshop_of(request).evaluation(record, sweep=False).results


@router.post("/jobs/{number}/proof-reading", name="proof_reading")
def reading(request: Request, number: str, form: Form) -> Response:
    """One reading, or one answer."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        check = asked(_results(request, record), text(form, "check")[:120], text(form, "stage") == "fault")
        edits = take_reading(record.design, check, _read(form, check))
        return edits, f"read: {check.title}"[:120]

    return perform(request, number, form, plan)


def _read(form: FormData, check: Check) -> Read:
    """What a form says was read."""
    typed = text(form, "value").strip()
    over = bool(text(form, "over")) or (check.probe.quantity is Quantity.OHM and is_open(typed))
    value = None if over or not check.is_read else number_in(form, "value", check.probe.quantity.unit, "The reading")
    said = text(form, "passed")
    passed = None if check.is_read or not said else said == "yes"
    return Read(
        value, over, passed, quantity(form, "current", "a", "The current"),
        text(form, "instrument"), text(form, "range"), quantity(form, "zero", "ohm", "The leads") or 0.0,
        text(form, "who"), text(form, "note"), now().isoformat(timespec="minutes"),
    )  # fmt: skip


@router.post("/jobs/{number}/proof-accept", name="proof_accept")
def accepted(request: Request, number: str, form: Form) -> Response:
    """A check stands as it is, in somebody's name."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        name, by, why = text(form, "check")[:120], text(form, "by"), text(form, "reason")
        return accept(record.design, _results(request, record).proof, name, by, why, today()), f"accepted by {by[:60]}"

    return perform(request, number, form, plan)


@router.post("/jobs/{number}/proof-jump", name="proof_jump")
def jumped(request: Request, number: str, form: Form) -> Response:
    """A gate is passed with checks open."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        gate, by, why = whole(form, "gate"), text(form, "by"), text(form, "reason")
        return jump(record.design, _results(request, record).proof, gate, by, why, today()), f"gate {gate} passed open"

    return perform(request, number, form, plan)


@router.post("/jobs/{number}/proof-withdraw", name="proof_withdraw")
def withdrawn(request: Request, number: str, form: Form) -> Response:
    """A deviation or a passed gate is taken back."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        edits = withdraw(record.design, text(form, "what")[:40])
        if not edits:
            raise EntryError("It is gone already.")
        return edits, "taken back"

    return perform(request, number, form, plan)


@router.post("/jobs/{number}/proof-take-over", name="proof_take_over")
def taken_over(request: Request, number: str, form: Form) -> Response:
    """Plan with what was read."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        results = _results(request, record)
        judged = results.proof.named(text(form, "check")[:120])
        if judged is None:
            raise NotPossible("check", "The plan does not ask for this check any more: it has changed.")
        return take_over(results, judged, today()), f"planned with as read: {judged.check.title}"[:120]

    return perform(request, number, form, plan)
