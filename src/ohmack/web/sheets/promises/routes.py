"""What the customer says of a wish."""

from __future__ import annotations

from collections.abc import Sequence

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ohmack.core.document.edits import Edit
from ohmack.core.planning.handing_over import hear
from ohmack.store.design_rows import DesignRecord
from ohmack.web.clock import today
from ohmack.web.render import workshop_of
from ohmack.web.routes.edits import perform
from ohmack.web.routes.forms import Form, text

router = APIRouter()


@router.post("/jobs/{number}/heard", name="heard")
def heard(request: Request, number: str, form: Form) -> Response:
    """One word of the customer."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        results = workshop_of(request).evaluation(record, sweep=False).results
        wish, met = text(form, "wish")[:120], text(form, "met")
        return hear(results, wish, met, text(form, "words"), today()), f"the customer: {met}"[:120]

    return perform(request, number, form, plan)
