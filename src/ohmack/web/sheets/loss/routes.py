"""A cure taken."""

from __future__ import annotations

from collections.abc import Sequence

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ohmack.core.document.edits import Edit
from ohmack.core.evaluation.door import evaluate
from ohmack.core.planning.less_loss import edits_for
from ohmack.store.design_rows import DesignRecord
from ohmack.web.extras import trees_of
from ohmack.web.render import workshop_of
from ohmack.web.routes.edits import perform
from ohmack.web.routes.forms import Form, text

router = APIRouter()


@router.post("/jobs/{number}/less-loss", name="less_loss")
def less_loss(request: Request, number: str, form: Form) -> Response:
    """Do what a cure says: it is tried again first, as the car may be another by now."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        edits = edits_for(evaluate(record.design), text(form, "cure")[:200], trees_of(workshop_of(request)))
        return edits, "less loss"

    return perform(request, number, form, plan)
