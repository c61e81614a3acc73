"""What somebody is told who was not let through, with what they sent kept wherever it can be."""

from __future__ import annotations

from urllib.parse import quote, urlsplit

from fastapi import Request
from fastapi.responses import HTMLResponse, Response

from ohmack.web.guard import SAFE
from ohmack.web.render import go, page_answer, wants_fragment
from ohmack.web.routes.forms import sent_fields
from ohmack.web.sign_in.gate import SignedOut, back_of, own_address
from ohmack.web.sign_in.routes import kept_fields, outside


def _shown_page(request: Request) -> str:
    """The page a browser shows while it asks for a part of it."""
    shown = urlsplit(request.headers.get("hx-current-url", ""))
    return own_address(shown.path + (f"?{shown.query}" if shown.query else ""))


async def signed_out(request: Request, error: Exception) -> Response:
    """To the sign-in and back again; what was sent is kept to be sent again."""
    assert isinstance(error, SignedOut)
    if request.method in SAFE:
        back = _shown_page(request) if wants_fragment(request) else own_address(back_of(request))
        place = "/first" if error.first else "/second-factor" if error.half else "/sign-in"
        where = place if back == "/" or error.first else f"{place}?back={quote(back, safe='/')}"
        return Response(status_code=401, headers={"HX-Redirect": where}) if wants_fragment(request) else go(where)
    words = "You were signed out. Sign in; what you sent is kept, and is sent again when you say so."
    kept = kept_fields(request)
    page = {"login": "", "back": own_address(back_of(request)), "kept": kept}
    return outside(request, "sign_in/sign_in.html", 401, problem=words if kept else "You were signed out.", **page)


async def not_allowed(request: Request, error: Exception) -> HTMLResponse:
    """Said beside the page somebody is on, which stays as it is."""
    if wants_fragment(request):
        return _beside(page_answer(request, "sign_in/_not_allowed.html", 403, words=str(error)))
    return page_answer(request, "problem.html", 403, title="Not yours to do", text=str(error), back="")


async def strange_form(request: Request, error: Exception) -> HTMLResponse:
    """A form from before the last sign-in: everything typed, to be sent again by hand."""
    values = {"to": request.url.path, "pairs": sent_fields(request), "back": own_address(back_of(request))}
    return outside(request, "sign_in/again.html", 403, **values)


def _beside(answer: HTMLResponse) -> HTMLResponse:
    answer.headers.update({"HX-Retarget": "#trouble", "HX-Reswap": "innerHTML", "HX-Push-Url": "false"})
    return answer
