"""Jinja set-up and the one way a job page becomes an answer: the whole page, or for htmx its frame."""

from __future__ import annotations

import json
from importlib.resources import files
from typing import Any

from fastapi import Request
from fastapi.responses import HTMLResponse, RedirectResponse, Response
from jinja2 import Environment, FileSystemLoader, StrictUndefined, select_autoescape

from ohmack.core.build.part_words import part_words
from ohmack.core.document.handles import at
from ohmack.core.evaluation.changes import shown
from ohmack.core.planning.survey import ADDITIONS
from ohmack.core.wording import amount, count, digits, hours, lowered, millimetres, percent, times_of, trimmed
from ohmack.web.compact import Compact
from ohmack.web.frame import headline, picture_of, template_of, titles, view_of
from ohmack.web.measuring import measuring_round
from ohmack.web.page import Page
from ohmack.web.places import GROUPS
from ohmack.web.sheet import tabs_of
from ohmack.web.sign_in.form_token import FormToken, form_token
from ohmack.web.sign_in.here import visitor_here
from ohmack.web.static_files import static
from ohmack.web.workshop import Workshop

HTMX = json.dumps(
    {
        "allowEval": False,
        "includeIndicatorStyles": False,
        "selfRequestsOnly": True,
        "refreshOnHistoryMiss": True,
        "historyCacheSize": 0,
        "defaultSettleDelay": 0,  # what is there works at once: a choice made before its form listens would be lost
        "responseHandling": [{"code": "204", "swap": False}, {"code": "...", "swap": True}],
    },
    separators=(",", ":"),
)


def environment() -> Environment:
    """Templates with escaping everywhere and undefined names refused."""
    env = Environment(
        loader=FileSystemLoader([str(files("ohmack.web") / folder) for folder in ("templates", "sheets", "")]),
        autoescape=select_autoescape(default=True, default_for_string=True),
        undefined=StrictUndefined,
        auto_reload=False,  # else every file a page includes is asked whether it changed
        trim_blocks=True,
        lstrip_blocks=True,
        extensions=[FormToken, Compact],
    )
    env.filters |= {
        "amount": amount,
        "digits": digits,
        "hours": hours,
        "lowered": lowered,
        "percent": percent,
        "millimetres": millimetres,
        "trimmed": trimmed,
        "shown": shown,
    }
    env.globals |= {
        "htmx_config": HTMX,
        "form_token": form_token,
        "visitor_here": visitor_here,
        "at": at,
        "count": count,
        "times_of": times_of,
        "part_words": part_words,
        "headline": headline,
        "measuring_round": measuring_round,
        "picture_of": picture_of,
        "view_of": view_of,
        "template_of": template_of,
        "stage_titles": titles(),
        "static": static,
        "tabs_of": tabs_of,
        "additions": tuple(ADDITIONS),
        "groups": GROUPS,
    }
    return env


ENVIRONMENT = environment()


def workshop_of(request: Request) -> Workshop:
    """The workshop as who is signed in sees it; nobody is let through to a route that asks for it without."""
    found: Workshop = request.state.workshop
    return found


def workshop_of_server(request: Request) -> Workshop:
    """The workshop of the running application, as nobody sees it."""
    found: Workshop = request.app.state.workshop
    return found


def wants_fragment(request: Request) -> bool:
    """Whether htmx asks for the frame alone."""
    return request.headers.get("hx-request") == "true" and request.headers.get("hx-history-restore-request") != "true"


def page_answer(request: Request, name: str, status: int = 200, **values: Any) -> HTMLResponse:
    """A page that stands alone."""
    partial = wants_fragment(request)
    html = ENVIRONMENT.get_template(name).render(
        layout="_bare.html" if partial else "base.html", request=request, **values
    )
    headers = {"Vary": "HX-Request"} | ({"HX-Push-Url": "false"} if partial and request.method == "POST" else {})
    return HTMLResponse(html, status, headers=headers)


def job_answer(request: Request, page: Page, status: int = 200, address: str = "") -> HTMLResponse:
    """A job page: plate, track, sheet, docket."""
    partial = wants_fragment(request)
    template = "_frame.html" if partial else "frame.html"
    html = ENVIRONMENT.get_template(template).render(layout="base.html", page=page, request=request, partial=partial)
    headers = {"Vary": "HX-Request"}
    if partial and request.method == "POST":
        headers["HX-Push-Url"] = address or "false"
    return HTMLResponse(html, status, headers=headers)


def go(address: str) -> Response:
    """After a plain form post: to the page that shows the result."""
    return RedirectResponse(address, 303)
