"""Open points, the signature, the pack made and fetched."""

from __future__ import annotations

import re
from collections.abc import Sequence

from fastapi import APIRouter, HTTPException, Request
from fastapi.responses import HTMLResponse, Response, StreamingResponse

from ohmack.core.document.edits import Edit
from ohmack.core.errors import NotPossible
from ohmack.core.planning.handing_over import leave_open, sign
from ohmack.store.design_rows import DesignRecord
from ohmack.web.clock import today
from ohmack.web.extras import extras
from ohmack.web.job_pack import begin_pack
from ohmack.web.page import Page
from ohmack.web.render import ENVIRONMENT, go, job_answer, wants_fragment, workshop_of
from ohmack.web.routes.edits import perform
from ohmack.web.routes.forms import Form, text, whole
from ohmack.web.sheet import Asked
from ohmack.web.sheets.pack.view import MOST_DRAWN

router = APIRouter()
POINT = re.compile(r"(\d{1,4}),(\d{1,4})")


@router.post("/jobs/{number}/open-point", name="open_point")
def open_point(request: Request, number: str, form: Form) -> Response:
    """Something is left to do."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        return leave_open(record.design, text(form, "what_is_left"), text(form, "whose")), "left open"

    return perform(request, number, form, plan)


@router.post("/jobs/{number}/signature", name="signature")
def signed(request: Request, number: str, form: Form) -> Response:
    """The customer signs for the revision on the screen."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        results = workshop_of(request).evaluation(record, sweep=False).results
        by, drawn = text(form, "by"), _strokes(text(form, "drawn"))
        return sign(results, by, drawn, whole(form, "base"), record.number, today()), f"signed by {by.strip()[:60]}"

    return perform(request, number, form, plan)


def _strokes(drawn: str) -> list[list[tuple[int, int]]]:
    """The lines of the pen as the page sends them: points across and down, lines apart by semicolons."""
    if len(drawn) > MOST_DRAWN:
        raise NotPossible("drawn", "That is more than a signature: draw it again, in a few lines.")
    strokes = []
    for line in drawn.split(";"):
        points = [(int(x), int(y)) for x, y in POINT.findall(line)]
        if any(x > 1000 or y > 1000 for x, y in points):
            raise NotPossible("drawn", "The signature leaves its field: draw it again.")
        if points:
            strokes.append(points)
    return strokes


@router.post("/jobs/{number}/make-pack", name="make_pack")
def make_pack(request: Request, number: str, form: Form) -> Response:
    """Begin to make the pack of the revision in force; it is made beside this."""
    shop = workshop_of(request)
    record = shop.designs.load(shop.context, number)
    last = shop.packs.last(shop.context, record.design_id)
    if last is None or not last.making:
        begin_pack(shop, record, today())
    if not wants_fragment(request):
        return go(f"/jobs/{number}/pack#pack")
    page = Page(record, shop.evaluation(record, sweep=False), "pack")
    page.extra = extras(shop, record, "pack", Asked())
    return job_answer(request, page, address=f"/jobs/{number}/pack")


@router.get("/jobs/{number}/pack-state", name="pack_state")
def pack_state(request: Request, number: str) -> HTMLResponse:
    """How far the pack is, fetched while it is made."""
    shop = workshop_of(request)
    record = shop.designs.load(shop.context, number)
    page = Page(record, shop.evaluation(record, sweep=False), "pack")
    page.extra = extras(shop, record, "pack", Asked())
    return HTMLResponse(ENVIRONMENT.get_template("pack/state.html").render(page=page, request=request))


@router.get("/jobs/{number}/packs/{pack_id:number}.zip", name="pack_file")
def pack_file(request: Request, number: str, pack_id: int) -> Response:
    """A pack that is made, in pieces."""
    shop = workshop_of(request)
    record = shop.designs.load(shop.context, number)
    pack = shop.packs.load(shop.context, record.design_id, pack_id)
    if not pack.made:
        raise HTTPException(409, "That pack is not made yet.")
    headers = {
        "Content-Disposition": f'attachment; filename="{record.address}-revision-{pack.number}.zip"',
        "Content-Length": str(pack.bytes),
        "ETag": f'"{pack.digest}"',
        "Content-Encoding": "identity",
    }
    return StreamingResponse(shop.packs.pieces(shop.context, pack), media_type="application/zip", headers=headers)
