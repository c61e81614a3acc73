"""What every request passes: host, origin, size, and the headers every answer carries."""

from __future__ import annotations

from urllib.parse import urlsplit

from starlette.datastructures import Headers, MutableHeaders
from starlette.responses import PlainTextResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send

LARGEST_BODY = 1_200_000
LARGEST_PHOTO = 26_000_000
LARGEST_DESIGN = 10_500_000
POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'; font-src 'self'; img-src 'self' data:; "
    "connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"
)
SAFE = {"GET", "HEAD", "OPTIONS"}


class BodyTooLarge(Exception):
    """More was sent than any form or file here needs."""


class Guard:
    """Origin check on unsafe methods, body size limit, security headers."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        path = scope["path"]
        limit = LARGEST_PHOTO if path.endswith("/photos") else LARGEST_DESIGN if path == "/import" else LARGEST_BODY
        refusal = self._refusal(scope["method"], headers, limit)
        if refusal:
            await refusal(scope, receive, _with_headers(send))
            return
        taken = 0

        async def limited() -> Message:
            nonlocal taken
            message = await receive()
            taken += len(message.get("body", b""))
            if taken > limit:
                raise BodyTooLarge
            return message

        try:
            await self.app(scope, limited, _with_headers(send))
        except BodyTooLarge:
            await PlainTextResponse(_too_large(limit), 413)(scope, receive, _with_headers(send))

    @staticmethod
    def _refusal(method: str, headers: Headers, limit: int) -> PlainTextResponse | None:
        length = headers.get("content-length", "0")
        if length.isdigit() and int(length) > limit:
            return PlainTextResponse(_too_large(limit), 413)
        if method in SAFE:
            return None
        origin = headers.get("origin") or headers.get("referer") or ""
        if urlsplit(origin).netloc != headers.get("host", ""):
            return PlainTextResponse("This form was sent from another site; nothing was changed.", 403)
        return None


def _too_large(limit: int) -> str:
    return f"Too large: at most {limit // 1_000_000} MB."


def _with_headers(send: Send) -> Send:
    async def wrapped(message: Message) -> None:
        if message["type"] == "http.response.start":
            headers = MutableHeaders(scope=message)
            headers["Content-Security-Policy"] = POLICY
            headers["X-Content-Type-Options"] = "nosniff"
            headers["Referrer-Policy"] = "same-origin"
            headers["Cross-Origin-Opener-Policy"] = "same-origin"
            if "cache-control" not in headers:
                headers["Cache-Control"] = "no-store"
        await send(message)

    return wrapped
