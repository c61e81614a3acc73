"""The one search box: what is found while somebody types, and the page of all that was found."""

from __future__ import annotations

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse

from ohmack.store.search import Kind
from ohmack.web.render import page_answer, workshop_of

router = APIRouter()
TITLES = {
    Kind.JOB: "Jobs", Kind.CUSTOMER: "Customers", Kind.CAR: "Cars", Kind.PART: "Parts in the catalogue",
    Kind.FINDING: "Findings", Kind.NOTE: "Notes",
}  # fmt: skip
TYPED = 24  # hits while somebody types
WHOLE = 200


@router.get("/search", name="search")
def search(request: Request, words: str = "", kind: str = "", typed: str = "") -> HTMLResponse:
    """What has the words, by kind."""
    shop, asked = workshop_of(request), words.strip()[:80]
    of = kind if kind in [k.value for k in Kind] else ""
    hits = shop.search.find(shop.context, asked, of, TYPED if typed else WHOLE)
    groups = {TITLES[k]: (k, [h for h in hits if h.kind is k]) for k in Kind}
    shown = {title: group for title, group in groups.items() if group[1]}
    template = "_found.html" if typed else "search.html"
    return page_answer(request, template, groups=shown, words=asked, kind=of, full=len(hits) >= WHOLE, titles=TITLES)
