"""What the sheet of boxes asks for: take a proposal, curves as a table, panels one to one."""

from __future__ import annotations

from collections.abc import Sequence

from fastapi import APIRouter, HTTPException, Request
from fastapi.responses import Response

from ohmack.core.box.cabin import built_as, proposed_for
from ohmack.core.box.cutting import CutSheet, cut_sheet
from ohmack.core.box.judged import BoxResult
from ohmack.core.document.edits import Edit
from ohmack.core.errors import UnknownName
from ohmack.drawing.cut_plan import panels_one_to_one
from ohmack.formats.box_curves_csv import write_box_curves
from ohmack.formats.entry import EntryError
from ohmack.store.design_rows import DesignRecord
from ohmack.web.render import workshop_of
from ohmack.web.routes.edits import perform
from ohmack.web.routes.forms import Form, text

router = APIRouter()


def _box(request: Request, record: DesignRecord, box_id: str) -> BoxResult | None:
    found = workshop_of(request).evaluation(record, sweep=False).results.boxes
    return next((one for one in found if one.box.id == box_id), None)


@router.post("/jobs/{number}/box-take", name="take_box")
def take(request: Request, number: str, form: Form) -> Response:
    """Make a box the proposed one."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        one = _box(request, record, text(form, "box"))
        if one is None:
            raise UnknownName("box", text(form, "box")[:40])
        if one.solved is None:
            raise EntryError("Without the driver's small-signal parameters nothing is proposed.")
        for proposal in proposed_for(record.design, one):
            if proposal.words == text(form, "words"):
                return built_as(record.design, one, proposal), f"{one.name}: {proposal.words}"
        raise EntryError("That box is no longer proposed; look at the list again.")

    return perform(request, number, form, plan)


def _shown(request: Request, number: str, box_id: str) -> tuple[DesignRecord, BoxResult]:
    record = workshop_of(request).designs.load(workshop_of(request).context, number)
    one = _box(request, record, box_id)
    if one is None:
        raise HTTPException(404, f"There is no box “{box_id[:40]}”.")
    return record, one


@router.get("/jobs/{number}/box/{box_id}/curves.csv", name="box_curves")
def curves(request: Request, number: str, box_id: str) -> Response:
    """A box's curves as a table."""
    record, one = _shown(request, number, box_id)
    if one.solved is None:
        raise HTTPException(404, "Without the driver's small-signal parameters there are no curves.")
    headers = {"Content-Disposition": f'attachment; filename="{record.job_number}-{box_id}-curves.csv"'}
    return Response(write_box_curves(one.solved), media_type="text/csv; charset=utf-8", headers=headers)


@router.get("/jobs/{number}/box/{box_id}/panels.svg", name="box_panels")
def panels(request: Request, number: str, box_id: str) -> Response:
    """A box's panels on their boards, one to one in millimetres."""
    record, one = _shown(request, number, box_id)
    sheet = cut_sheet(one.box, one.subs)
    if not isinstance(sheet, CutSheet):
        raise HTTPException(404, "This box has no boards to saw: give their thickness and the box's height.")
    headers = {"Content-Disposition": f'attachment; filename="{record.job_number}-{box_id}-panels.svg"'}
    return Response(panels_one_to_one(sheet), media_type="image/svg+xml", headers=headers)
