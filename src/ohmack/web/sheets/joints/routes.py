"""What ends a lead, and the labels for both ends."""

from __future__ import annotations

from collections.abc import Sequence

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response

from ohmack.core.document.edits import Edit
from ohmack.core.planning.radio_wiring import end_lead
from ohmack.store.design_rows import DesignRecord
from ohmack.web.page import Page
from ohmack.web.render import page_answer, workshop_of
from ohmack.web.routes.edits import perform
from ohmack.web.routes.forms import Form, text
from ohmack.web.sheets.joints.label_sizes import SIZES, size_of
from ohmack.web.sheets.joints.view import JointsView

router = APIRouter()


@router.post("/jobs/{number}/lead-end", name="end_lead")
def lead_end(request: Request, number: str, form: Form) -> Response:
    """A lead without a wire in the plug joined to an interface or a feed."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        unit, use, source = text(form, "unit"), text(form, "use"), text(form, "source")
        return end_lead(record.design, unit, use, source), f"{use} lead joined to {source}"

    return perform(request, number, form, plan)


@router.get("/jobs/{number}/labels", name="labels")
def labels(request: Request, number: str, size: str = "") -> HTMLResponse:
    """Labels for both ends of every cable and every joint, to print."""
    shop = workshop_of(request)
    record = shop.designs.load(shop.context, number)
    view = JointsView(Page(record, shop.evaluation(record, sweep=False), "joints"))
    return page_answer(
        request, "joints/labels.html", record=record, joints=view.joints.joints, view=view, cables=view.cables,
        size=size_of(size[:10]), sizes=SIZES,
    )  # fmt: skip


@router.get("/jobs/{number}/labels.css", name="label_style", include_in_schema=False)
def label_style(number: str, size: str = "") -> Response:
    """How labels of a size are laid out on paper or tape."""
    return Response(size_of(size[:10]).style, media_type="text/css")
