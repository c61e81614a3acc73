"""The papers of a job."""

from __future__ import annotations

from fastapi import APIRouter, HTTPException, Request
from fastapi.responses import Response

from ohmack.web.extras import extras
from ohmack.web.page import Page
from ohmack.web.papers.making import PAPERS, paper_pdf, paper_svg
from ohmack.web.papers.pdf import NoPapers
from ohmack.web.render import workshop_of
from ohmack.web.sheet import Asked

router = APIRouter()


def _asked(request: Request, number: str, name: str) -> Page:
    made = PAPERS.get(name)
    if made is None:
        raise HTTPException(404, "no such paper")
    shop = workshop_of(request)
    record = shop.designs.load(shop.context, number)
    page = Page(record, shop.evaluation(record, sweep=name == "build"), made.sheet)
    if made.sheet in ("pack", "car"):  # they show what other jobs and photos say, too
        page.extra = extras(shop, record, made.sheet, Asked())
    return page


@router.get("/jobs/{number}/papers/{name}.pdf", name="paper")
def paper(request: Request, number: str, name: str) -> Response:
    """One paper of a job, of the revision in force."""
    page = _asked(request, number, name)
    headers = {"Content-Disposition": f'inline; filename="{page.record.address}-{name}.pdf"'}
    try:
        data = paper_pdf(page, name)
    except NoPapers as error:
        raise HTTPException(503, str(error)) from error
    return Response(data, media_type="application/pdf", headers=headers)


@router.get("/jobs/{number}/papers/{name}.svg", name="paper_drawing")
def drawing(request: Request, number: str, name: str) -> Response:
    """The drawing of a paper by itself, with its style in it."""
    drawn = paper_svg(_asked(request, number, name))
    if not drawn:
        raise HTTPException(404, "that sheet has no drawing")
    return Response(drawn, media_type="image/svg+xml")
