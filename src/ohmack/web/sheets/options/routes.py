"""Another option of the job."""

from __future__ import annotations

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ohmack.store.design_rows import TooManyOptions
from ohmack.web.page import Problem
from ohmack.web.render import go, job_answer, workshop_of
from ohmack.web.routes.edits import address_of, page_of
from ohmack.web.routes.forms import Form

router = APIRouter()


@router.post("/jobs/{number}/options", name="add_option")
def add_option(request: Request, number: str, form: Form) -> Response:
    """A further option, copied from this one."""
    shop = workshop_of(request)
    try:
        made = shop.designs.add_option(shop.context, number)
    except TooManyOptions as error:
        page = page_of(request, shop.designs.load(shop.context, number), form, problem=Problem("options", str(error)))
        return job_answer(request, page, 422)
    return go(address_of(made, "options", ""))
