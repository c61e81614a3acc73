"""The one cookie: it holds a session's token, or before anybody signed in a token for the form alone."""

from __future__ import annotations

from fastapi import Request
from fastapi.responses import Response

from ohmack.store.sessions import From
from ohmack.web.settings import is_loopback

PLAIN, SECURE = "ohmack", "__Host-ohmack"


def _over_tls(request: Request) -> bool:
    return request.url.scheme == "https"


def token_in(request: Request) -> str:
    """The cookie's token; empty where there is none. Over TLS only the cookie counts that no other host can set."""
    return request.cookies.get(SECURE if _over_tls(request) else PLAIN, "")[:200]


def keep_token(request: Request, answer: Response, token: str, hours: int) -> None:
    """Hand a token to the browser; no script reads it, no other site sends it with a form."""
    tls = _over_tls(request)
    answer.set_cookie(
        SECURE if tls else PLAIN, token, max_age=hours * 3600, path="/", secure=tls, httponly=True, samesite="lax"
    )


def drop_token(request: Request, answer: Response) -> None:
    """Take the token back."""
    tls = _over_tls(request)
    answer.delete_cookie(SECURE if tls else PLAIN, path="/", secure=tls, httponly=True, samesite="lax")


def from_this_machine(request: Request) -> bool:
    """Whether a request comes over loopback."""
    return request.client is not None and is_loopback(request.client.host)


def whence(request: Request) -> From:
    """Where a request comes from."""
    return From(request.client.host if request.client else "", request.headers.get("user-agent", "")[:160])
