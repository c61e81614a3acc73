"""The stages of a job."""

from __future__ import annotations

from fastapi import APIRouter, HTTPException, Request
from fastapi.responses import HTMLResponse

from ohmack.formats.entry import is_whole
from ohmack.web.extras import extras
from ohmack.web.page import Page
from ohmack.web.render import ENVIRONMENT, job_answer, wants_fragment, workshop_of
from ohmack.web.sheet import Asked, sheets

router = APIRouter()


@router.get("/jobs/{number}/open-questions", name="open_questions")
def open_questions(request: Request, number: str, stage: str = "survey") -> HTMLResponse:
    """The swept measure-first list with verdict and counts, fetched after an edit was shown."""
    shop = workshop_of(request)
    record = shop.designs.load(shop.context, number)
    page = Page(record, shop.evaluation(record, sweep=True), stage)
    html = ENVIRONMENT.get_template("_open_questions.html").render(page=page, oob=True)
    return HTMLResponse(html, headers={"Vary": "HX-Request"})


@router.get("/jobs/{number}/{stage}", name="sheet")
def sheet(
    request: Request,
    number: str,
    stage: str,
    show: str = "",
    since: str = "",
    kind: str = "",
    words: str = "",
    instead: str = "",
) -> HTMLResponse:
    """One stage's sheet."""
    if stage not in sheets():
        raise HTTPException(404, f"There is no stage “{stage[:40]}”.")
    shop = workshop_of(request)
    record = shop.designs.load(shop.context, number)
    evaluation = shop.evaluation(record, sweep=not wants_fragment(request) or stage in ("survey", "build"))
    page = Page(record, evaluation, stage, show[:300])
    if is_whole(since):
        moved = shop.moved(record, int(since))
        page.moved = moved.moved if moved else ()
    page.extra = extras(shop, record, stage, Asked(page.show, kind, words, instead))
    return job_answer(request, page)
