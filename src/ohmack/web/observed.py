"""What is counted and written down of every request: route, status and time, and whose shop it was; never an address
with a token in it, never what was typed.
"""

from __future__ import annotations

import logging
import os
import time
from secrets import token_hex
from typing import Any

from prometheus_client import CONTENT_TYPE_LATEST, REGISTRY, CollectorRegistry, Counter, Histogram, generate_latest
from prometheus_client.multiprocess import MultiProcessCollector
from starlette.types import ASGIApp, Message, Receive, Scope, Send

LOG = logging.getLogger("ohmack.request")
SHARED = "PROMETHEUS_MULTIPROC_DIR"  # where several processes of one machine keep their counts
METHODS = {"GET", "HEAD", "POST"}
BUCKETS = (0.005, 0.01, 0.02, 0.03, 0.06, 0.1, 0.2, 0.5, 1, 2, 5, 10, 30)
ANSWERS = Counter("ohmack_answers_total", "Answers by route and status", ("method", "route", "status"))
SECONDS = Histogram("ohmack_answer_seconds", "Time to the end of an answer", ("route",), buckets=BUCKETS)


class Observed:
    """Counts every request and writes a line about it."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """One request."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        begun, status, number = time.perf_counter(), 500, token_hex(8)

        async def noted(message: Message) -> None:
            nonlocal status
            if message["type"] == "http.response.start":
                status = message["status"]
                message["headers"] = [*message.get("headers", []), (b"x-request-id", number.encode())]
            await send(message)

        try:
            await self.app(scope, receive, noted)
        finally:
            seconds, route = time.perf_counter() - begun, _route(scope)
            method = scope["method"] if scope["method"] in METHODS else "other"  # a stranger makes no rows of ours
            ANSWERS.labels(method, route, str(status)).inc()
            SECONDS.labels(route).observe(seconds)
            said = {"method": method, "route": route, "status": status, "ms": round(seconds * 1000, 1),
                    "request": number, **_who(scope)}  # fmt: skip
            LOG.info("%s %s %s %.1f ms", method, route, status, seconds * 1000, extra=said)


def _route(scope: Scope) -> str:
    """The route as it is declared: an address may hold a token."""
    return str(getattr(scope.get("route"), "path", "static" if scope["path"].startswith("/static/") else "none"))


def _who(scope: Scope) -> dict[str, Any]:
    visitor = scope.get("state", {}).get("visitor")
    return {} if visitor is None else {"shop": visitor.context.shop_id, "person": visitor.context.person_id}


def metrics_page() -> tuple[bytes, str]:
    """What was counted, of every process of this machine, as Prometheus reads it."""
    if os.environ.get(SHARED):
        whole = CollectorRegistry()
        MultiProcessCollector(whole)  # type: ignore[no-untyped-call]
        return generate_latest(whole), CONTENT_TYPE_LATEST
    return generate_latest(REGISTRY), CONTENT_TYPE_LATEST
