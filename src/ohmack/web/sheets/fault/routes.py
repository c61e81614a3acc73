"""Symptoms said, faults mended or left in."""

from __future__ import annotations

from collections.abc import Sequence

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ohmack.core.document.edits import Edit
from ohmack.core.errors import NotPossible
from ohmack.core.planning.proving import leave_in, mended, say_symptom
from ohmack.store.design_rows import DesignRecord
from ohmack.web.clock import today
from ohmack.web.render import workshop_of
from ohmack.web.routes.edits import perform
from ohmack.web.routes.forms import Form, text

router = APIRouter()


@router.post("/jobs/{number}/proof-symptom", name="proof_symptom")
def symptom(request: Request, number: str, form: Form) -> Response:
    """Something is heard or seen, or is not."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        name = text(form, "symptom")[:80]
        return say_symptom(record.design, name, text(form, "said")), f"symptom: {name}"

    return perform(request, number, form, plan)


@router.post("/jobs/{number}/proof-mended", name="proof_mended")
def mended_now(request: Request, number: str, form: Form) -> Response:
    """What was found is mended, or left in for now."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        results = workshop_of(request).evaluation(record, sweep=False).results
        words, who, found = text(form, "words"), text(form, "who"), results.search.found
        if name := text(form, "fault")[:40]:
            known = [f for f in record.design.proof.faults if f.id == name]
            return mended(record.design, results.proof, known, words, who, today()), "mended what was left in"
        if found is None:
            raise NotPossible("fault", "Nothing is found yet: another reading decides.")
        if text(form, "leave"):
            return leave_in(record.design, found), f"left in: {found.words}"[:120]
        faults = [c.fault for c in found.faults]
        said = words.strip() or found.words
        return mended(record.design, results.proof, faults, said, who, today()), f"mended: {found.words}"[:120]

    return perform(request, number, form, plan)
