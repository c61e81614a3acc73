"""What a customer's link opens: one page of one revision, without signing in, without scripts."""

from __future__ import annotations

import re
from functools import cache

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response

from ohmack.core.handover.leaflet import leaflet
from ohmack.store.database import NotFound, StoreUnavailable
from ohmack.store.design_rows import BrokenDesign
from ohmack.web.clock import now, today
from ohmack.web.leaflet import pictures
from ohmack.web.page import Page
from ohmack.web.papers.picture_style import STATIC
from ohmack.web.render import ENVIRONMENT, workshop_of_server

router = APIRouter()
QUIET = {"Referrer-Policy": "no-referrer", "X-Robots-Tag": "noindex, nofollow"}


@router.get("/l/style.css", name="leaflet_style", include_in_schema=False)
def style() -> Response:
    """The one style sheet of the page: its own rules, the colours, and the drawings'."""
    return Response(_style(), media_type="text/css", headers=QUIET | {"Cache-Control": "public, max-age=3600"})


@cache
def _style() -> str:
    own = (STATIC / "ohmack.css").read_text("utf-8")
    colours = own[own.index(":root{") : own.index("}", own.index(":root{")) + 1]
    drawings = re.sub(r"/\*.*?\*/", "", (STATIC / "drawing.css").read_text("utf-8"), flags=re.DOTALL)
    return f"{colours}\n{drawings}\n{(STATIC / 'customer_link.css').read_text('utf-8')}"


@router.get("/l/{token}", name="customer_link", include_in_schema=False)
def opened(request: Request, token: str) -> HTMLResponse:
    """The page a link opens; a forged, withdrawn or ended one, or one nobody can read, opens the same plain page."""
    try:
        linked = workshop_of_server(request).links.opened(token, now().date())
        shop = workshop_of_server(request).seen_by(linked.context)
        record = shop.designs.at(linked.context, linked.design_id, linked.number)
        page = Page(record, shop.evaluation(record, sweep=False), "leaflet")
        html = ENVIRONMENT.get_template("customer_link.html").render(
            page=page, leaflet=leaflet(page.evaluation.results), pictures=pictures(page.evaluation, standing=True),
            ends_on=linked.ends_on.isoformat(), date=today(),
        )  # fmt: skip
    except (NotFound, BrokenDesign):
        return _plain("This link opens nothing. Ask the shop that gave it to you for a new one.", 404)
    except StoreUnavailable:
        return _plain("This page cannot be shown just now. Try again in some minutes.", 503)
    return HTMLResponse(html, headers=QUIET)


def _plain(words: str, status: int) -> HTMLResponse:
    html = ENVIRONMENT.get_template("customer_link_gone.html").render(words=words)
    return HTMLResponse(html, status, headers=QUIET)
