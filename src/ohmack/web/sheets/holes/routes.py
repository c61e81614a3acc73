"""Holes noted, openings drawn, templates as files."""

from __future__ import annotations

from collections.abc import Sequence

from fastapi import APIRouter, HTTPException, Request
from fastapi.responses import Response

from ohmack.core.build.full_size import FullSize
from ohmack.core.document.edits import Edit
from ohmack.core.document.work import Opening, OpeningKind
from ohmack.core.planning.cutting import OPENINGS, draw_opening, note_hole
from ohmack.drawing.full_size import full_size_svg
from ohmack.formats.dxf import write_dxf
from ohmack.store.design_rows import DesignRecord
from ohmack.web.clock import today
from ohmack.web.render import workshop_of
from ohmack.web.routes.edits import perform
from ohmack.web.routes.forms import Form, quantity, text
from ohmack.web.sheets.holes.view import NOTES

router = APIRouter()


@router.post("/jobs/{number}/hole", name="note_hole")
def hole(request: Request, number: str, form: Form) -> Response:
    """What is noted of a hole."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        values: dict[str, object] = {name: text(form, name).strip()[:500] for name in NOTES}
        values |= {"diameter_mm": quantity(form, "diameter_mm", "mm", "How wide"), "name": text(form, "name").strip()}
        work = workshop_of(request).evaluation(record, sweep=False).results.work_plan
        edits = note_hole(record.design, work, text(form, "step")[:90], values, today())
        return edits, f"hole noted: {edits[-1].value['name'][:60]}"

    return perform(request, number, form, plan)


@router.post("/jobs/{number}/opening", name="draw_opening")
def opening(request: Request, number: str, form: Form) -> Response:
    """A template of the shop's own, drawn or taken out."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        if gone := text(form, "gone"):
            known = [o.id for o in record.design.work.openings if o.id == gone]
            return tuple(Edit(op="remove", path=f"{OPENINGS}/{name}") for name in known), "template taken out"
        sizes = {n: quantity(form, n, "mm", str(Opening.model_fields[n].title)) for n in (
            "width_mm", "height_mm", "inner_mm", "gap_mm", "corner_mm")}  # fmt: skip
        kind = next((k for k in OpeningKind if k.value == text(form, "kind")), OpeningKind.RECTANGLE)
        edits = draw_opening(
            record.design, text(form, "name"), kind, sizes["width_mm"], sizes["height_mm"], sizes["inner_mm"],
            sizes["gap_mm"] or 0.0, sizes["corner_mm"] or 0.0,
        )  # fmt: skip
        return edits, f"template drawn: {text(form, 'name')[:60]}"

    return perform(request, number, form, plan)


def _template(request: Request, number: str, key: str) -> FullSize:
    shop = workshop_of(request)
    results = shop.evaluation(shop.designs.load(shop.context, number), sweep=False).results
    found = next((one for one in results.full_size if one.key == key), None)
    if found is None:
        raise HTTPException(404, "no such template")
    return found


@router.get("/jobs/{number}/templates/{key}.svg", name="template_svg")
def as_svg(request: Request, number: str, key: str) -> Response:
    """A template at full size, one millimetre a unit."""
    return Response(str(full_size_svg(_template(request, number, key))), media_type="image/svg+xml")


@router.get("/jobs/{number}/templates/{key}.dxf", name="template_dxf")
def as_dxf(request: Request, number: str, key: str) -> Response:
    """A template as a drawing for a router or a cutter."""
    headers = {"Content-Disposition": f'attachment; filename="{number[:20]}-{key[:60]}.dxf"'}
    text_ = write_dxf(_template(request, number, key).outline)
    return Response(text_, media_type="image/vnd.dxf", headers=headers)
