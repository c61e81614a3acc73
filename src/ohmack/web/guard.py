"""What every request passes: host, origin, size, time, and the headers every answer carries; the last net for a
fault of ours.
"""

from __future__ import annotations

import asyncio
import logging
from collections.abc import Callable
from typing import Any
from urllib.parse import urlsplit

from starlette.datastructures import Headers, MutableHeaders
from starlette.requests import ClientDisconnect, Request
from starlette.responses import HTMLResponse, PlainTextResponse, Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

LARGEST_BODY = 1_200_000
LARGEST_PHOTO = 26_000_000
LARGEST_DRAWN = 6_000_000  # a signature that is none is told so
LARGEST_IMPORT = 501_000_000  # a bundle with its photos
LARGER = {"/photos": LARGEST_PHOTO, "/recordings": LARGEST_PHOTO, "/music": LARGEST_PHOTO,
          "/signature": LARGEST_DRAWN, "/import": LARGEST_IMPORT}  # fmt: skip
BODY_SECONDS = 30.0  # how long one piece of a body may keep us waiting
POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'; font-src 'self'; img-src 'self' data:; media-src 'self'; "
    "connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"
)
SAFE = {"GET", "HEAD", "OPTIONS"}
LOG = logging.getLogger("ohmack")
Fault = Callable[[Request, Exception], HTMLResponse]


class BodyTooLarge(Exception):
    """More was sent than any form or file here needs."""


class BodyTooSlow(Exception):
    """A body that does not come to its end."""


class Guard:
    """Origin check on unsafe methods, body size and time limits, security headers, and a page where something of
    ours fails.
    """

    def __init__(self, app: ASGIApp, fault: Fault) -> None:
        self.app = app
        self.fault = fault

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """One request."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        answer = _Answer(send, head=scope["method"] == "HEAD")
        if answer.head:
            scope = {**scope, "method": "GET"}  # the same page without its body
        headers, path = Headers(scope=scope), scope["path"]
        limit = next((most for ends, most in LARGER.items() if path.endswith(ends)), LARGEST_BODY)
        refusal = _refusal(scope, headers, limit)
        if refusal:
            await refusal(scope, receive, answer)
            return
        body = _Body(receive, limit)
        try:
            await self.app(scope, body, answer)
        except BodyTooLarge:
            await self._late(answer, scope, receive, PlainTextResponse(_too_large(limit), 413))
        except BodyTooSlow:
            await self._late(answer, scope, receive, PlainTextResponse("The request did not come to its end.", 408))
        except ClientDisconnect:
            return  # nobody is there any more to be answered
        except Exception as error:
            LOG.exception("a request failed: %s %s", scope["method"], path)
            if answer.started:
                raise
            await self.fault(Request(scope), error)(scope, receive, answer)

    @staticmethod
    async def _late(answer: _Answer, scope: Scope, receive: Receive, response: Response) -> None:
        """An answer to a request whose body was not read to its end: the connection cannot go on."""
        response.headers["Connection"] = "close"
        if not answer.started:
            await response(scope, receive, answer)


class _Body:
    """The request's body, no larger than its limit, no slower than its time."""

    def __init__(self, receive: Receive, limit: int) -> None:
        self.receive, self.limit = receive, limit
        self.taken, self.whole = 0, False

    async def __call__(self) -> Message:
        if self.whole:
            return await self.receive()  # waits for the client to go away
        try:
            message = await asyncio.wait_for(self.receive(), BODY_SECONDS)
        except TimeoutError:
            raise BodyTooSlow from None
        self.taken += len(message.get("body", b""))
        self.whole = not message.get("more_body", False)
        if self.taken > self.limit:
            raise BodyTooLarge
        return message


class _Answer:
    """What is sent: with the headers every answer carries, and for HEAD without a body."""

    def __init__(self, send: Send, head: bool) -> None:
        self.send, self.head = send, head
        self.started = False

    async def __call__(self, message: Any) -> None:
        if message["type"] == "http.response.start":
            self.started = True
            headers = MutableHeaders(scope=message)
            headers["Content-Security-Policy"] = POLICY
            headers["X-Content-Type-Options"] = "nosniff"
            headers.setdefault("Referrer-Policy", "same-origin")
            headers["Cross-Origin-Opener-Policy"] = "same-origin"
            headers["Permissions-Policy"] = "camera=(self), microphone=(), geolocation=()"
            if "cache-control" not in headers:
                headers["Cache-Control"] = "no-store"
        elif self.head and message["type"] == "http.response.body":
            message = {**message, "body": b""}
        await self.send(message)


def _refusal(scope: Scope, headers: Headers, limit: int) -> PlainTextResponse | None:
    length = headers.get("content-length", "0")
    if "transfer-encoding" in headers and "content-length" in headers:
        return PlainTextResponse("A body has one length.", 400, headers={"Connection": "close"})
    if not (length.isascii() and length.isdigit() and len(length) < 12) or int(length) > limit:
        return PlainTextResponse(_too_large(limit), 413, headers={"Connection": "close"})
    if scope["method"] in SAFE:
        return None
    if not _same_site(scope, headers):
        return PlainTextResponse("This form was sent from another site; nothing was changed.", 403)
    return None


def _same_site(scope: Scope, headers: Headers) -> bool:
    """Whether a form came from this very site: scheme, host and port."""
    try:
        origin = urlsplit(headers.get("origin") or headers.get("referer") or "")
        return (origin.scheme, origin.netloc) == (scope.get("scheme", "http"), headers.get("host", "?"))
    except ValueError:
        return False


def _too_large(limit: int) -> str:
    return f"Too large: at most {limit // 1_000_000} MB."
