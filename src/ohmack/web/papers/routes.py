"""The papers of a job."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from importlib.resources import files
from typing import Any

from fastapi import APIRouter, HTTPException, Request
from fastapi.responses import Response
from markupsafe import Markup

from ohmack.drawing.full_size import tiles
from ohmack.web.clock import today
from ohmack.web.frame import picture_of
from ohmack.web.page import Page
from ohmack.web.papers.pdf import NoPapers, pdf_of
from ohmack.web.papers.picture_style import on_paper, picture_alone
from ohmack.web.render import ENVIRONMENT, workshop_of

router = APIRouter()
A4_MM, LETTER_MM = (210.0, 297.0), (215.9, 279.4)
EDGE_MM, HEAD_MM = 12.0, 60.0


def _of_templates(page: Page) -> dict[str, Any]:
    """Templates over as many sheets as they take."""
    width, height = _paper_mm(page)
    room = width - 2 * EDGE_MM, height - 2 * EDGE_MM - HEAD_MM
    return {"pieces": [(one, tiles(one, *room)) for one in page.evaluation.results.full_size]}


@dataclass(frozen=True)
class Paper:
    """One paper: the sheet it is of, its title, its template, what it shows besides."""

    sheet: str
    title: str
    template: str
    more: Callable[[Page], dict[str, Any]] = field(default=lambda _: {})


PAPERS = {
    "build": Paper("build", "Build sheet", "sheet.html"), "cuts": Paper("cuts", "Cut list", "sheet.html"),
    "routes": Paper("routes", "Routes", "sheet.html"), "order": Paper("order", "To order", "sheet.html"),
    "steps": Paper("steps", "Steps", "steps.html"), "labels": Paper("cuts", "Labels", "labels.html"),
    "proof": Paper("prove", "Proof", "proof.html"), "quote": Paper("quote", "Quote", "quote.html"),
    "templates": Paper("holes", "Templates at full size", "templates.html", _of_templates),
}  # fmt: skip


def _asked(request: Request, number: str, name: str) -> tuple[Paper, Page]:
    made = PAPERS.get(name)
    if made is None:
        raise HTTPException(404, "no such paper")
    shop = workshop_of(request)
    record = shop.designs.load(shop.context, number)
    return made, Page(record, shop.evaluation(record, sweep=name == "build"), made.sheet)


@router.get("/jobs/{number}/papers/{name}.pdf", name="paper")
def paper(request: Request, number: str, name: str) -> Response:
    """One paper of a job, of the revision in force."""
    made, page = _asked(request, number, name)
    html = ENVIRONMENT.get_template(f"papers/{made.template}").render(
        page=page, request=request, title=made.title, date=today(), style=_style(page), **made.more(page)
    )
    headers = {"Content-Disposition": f'inline; filename="{page.record.address}-{name}.pdf"'}
    try:
        data = pdf_of(str(on_paper(html)))
    except NoPapers as error:
        raise HTTPException(503, str(error)) from error
    return Response(data, media_type="application/pdf", headers=headers)


@router.get("/jobs/{number}/papers/{name}.svg", name="paper_drawing")
def drawing(request: Request, number: str, name: str) -> Response:
    """The drawing of a paper by itself, with its style in it."""
    drawn = picture_alone(str(picture_of(_asked(request, number, name)[1])))
    if not drawn:
        raise HTTPException(404, "that sheet has no drawing")
    return Response(drawn, media_type="image/svg+xml")


def _paper_mm(page: Page) -> tuple[float, float]:
    return LETTER_MM if page.design.policy.length_unit == "ft" else A4_MM


def _style(page: Page) -> Markup:
    """The papers' style sheet, the paper's size, and whose page it is at the foot of every page."""
    sheet = (files("ohmack.web.papers") / "paper.css").read_text("utf-8")
    width, height = _paper_mm(page)
    said = f"{page.record.address}, revision {page.record.number}, {today()}"
    foot = 'font:8pt Barlow;content:"page " counter(page) " of " counter(pages)'
    return Markup(
        f"@page{{size:{width:g}mm {height:g}mm;margin:{EDGE_MM:g}mm {EDGE_MM:g}mm 15mm;"
        f'@bottom-left{{font:8pt Barlow;content:"{said}"}}@bottom-right{{{foot}}}}}\n{sheet}'
    )
