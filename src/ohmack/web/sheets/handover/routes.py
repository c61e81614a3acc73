"""Soak checks tried and accepted, the car held and let go."""

from __future__ import annotations

from collections.abc import Sequence

from fastapi import APIRouter, Request
from fastapi.responses import Response
from starlette.datastructures import FormData

from ohmack.core.document.edits import Edit
from ohmack.core.evaluation.results import Results
from ohmack.core.handover.soak import SoakCheck
from ohmack.core.planning.handing_over import Tried, accept_soak, asked_soak, hold, note_try, take_back
from ohmack.formats.entry import EntryError, read_minute
from ohmack.store.design_rows import DesignRecord
from ohmack.web.clock import now, today
from ohmack.web.render import workshop_of
from ohmack.web.routes.edits import perform
from ohmack.web.routes.forms import Form, number_in, text

router = APIRouter()


def _results(request: Request, record: DesignRecord) -> Results:
    return workshop_of(request).evaluation(record, sweep=False).results


@router.post("/jobs/{number}/soak-try", name="soak_try")
def tried(request: Request, number: str, form: Form) -> Response:
    """One try."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        check = asked_soak(_results(request, record), text(form, "check")[:120])
        here = now().isoformat(timespec="minutes")
        return note_try(record.design, check, _tried(form, check, here), here), f"tried: {check.title}"[:120]

    return perform(request, number, form, plan)


def _tried(form: FormData, check: SoakCheck, here: str) -> Tried:
    value = number_in(form, "value", check.quantity.unit, "The reading") if check.is_read else None
    said = text(form, "passed")
    when = read_minute(text(form, "when").strip() or here)
    return Tried(
        value, None if check.is_read or not said else said == "yes", when, text(form, "who"), text(form, "note")
    )


@router.post("/jobs/{number}/soak-accept", name="soak_accept")
def accepted(request: Request, number: str, form: Form) -> Response:
    """A soak check stands as it is, in somebody's name."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        name, by, why = text(form, "check")[:120], text(form, "by"), text(form, "reason")
        return accept_soak(_results(request, record), name, by, why, today()), f"accepted by {by[:60]}"

    return perform(request, number, form, plan)


@router.post("/jobs/{number}/hold", name="hold")
def held(request: Request, number: str, form: Form) -> Response:
    """Somebody keeps the car here."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        by = text(form, "by")
        return hold(record.design, by, text(form, "reason"), today()), f"held by {by[:60]}"

    return perform(request, number, form, plan)


@router.post("/jobs/{number}/take-back", name="take_back")
def taken_back(request: Request, number: str, form: Form) -> Response:
    """A hold, an acceptance or an open point is taken back."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        edits = take_back(record.design, text(form, "thing")[:40])
        if not edits:
            raise EntryError("It is gone already.")
        return edits, "taken back"

    return perform(request, number, form, plan)
