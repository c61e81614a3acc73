"""Somebody agrees to the quote."""

from __future__ import annotations

from collections.abc import Sequence

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ohmack.core.document.edits import Edit
from ohmack.core.planning.work import accept_quote
from ohmack.store.design_rows import DesignRecord
from ohmack.web.clock import today
from ohmack.web.render import workshop_of
from ohmack.web.routes.edits import perform
from ohmack.web.routes.forms import Form, text

router = APIRouter()


@router.post("/jobs/{number}/accept-quote", name="accept_quote")
def accept(request: Request, number: str, form: Form) -> Response:
    """Keep the quote as it is as what was agreed."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        quote = workshop_of(request).evaluation(record, sweep=False).results.quote
        by = text(form, "by")
        return accept_quote(record.design, quote, by, text(form, "reason"), today()), f"quote agreed with {by[:60]}"

    return perform(request, number, form, plan)
