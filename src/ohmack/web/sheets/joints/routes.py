"""The labels for both ends."""

from __future__ import annotations

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse

from ohmack.web.page import Page
from ohmack.web.render import page_answer, workshop_of
from ohmack.web.sheets.joints.view import JointsView

router = APIRouter()


@router.get("/jobs/{number}/labels", name="labels")
def labels(request: Request, number: str) -> HTMLResponse:
    """Labels for both ends of every joint, to print."""
    shop = workshop_of(request)
    record = shop.designs.load(shop.context, number)
    view = JointsView(Page(record, shop.evaluation(record, sweep=False), "joints"))
    return page_answer(request, "joints/labels.html", record=record, joints=view.joints.joints, view=view)
