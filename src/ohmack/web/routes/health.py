"""Whether the process lives, whether it can serve, and what it has counted: for what looks after it."""

from __future__ import annotations

from hmac import compare_digest
from typing import Any

import pymysql
from fastapi import APIRouter, Request
from fastapi.responses import JSONResponse, PlainTextResponse, Response

from ohmack.store.backup import half_restored
from ohmack.store.database import StoreUnavailable
from ohmack.store.migrate import applied, migrations
from ohmack.web.observed import metrics_page
from ohmack.web.render import workshop_of_server
from ohmack.web.sign_in.cookie import from_this_machine

router = APIRouter()


@router.get("/health", name="health")
def health() -> PlainTextResponse:
    """The process lives."""
    return PlainTextResponse("ok\n")


@router.get("/ready", name="ready")
def ready(request: Request) -> JSONResponse:
    """Whether it can serve: the database answers, on the schema this Ohmack knows, with nothing half restored."""
    settings = workshop_of_server(request).database.settings
    try:
        there = applied(settings)
        half = half_restored(settings)
    except (pymysql.MySQLError, StoreUnavailable):
        return JSONResponse({"ready": False, "because": "the database does not answer"}, 503)
    lacking = [name for name, statements in migrations().items() if there.get(name, 0) < len(statements)]
    why = "a restore was interrupted" if half else f"migrations are missing: {', '.join(lacking)}" if lacking else ""
    answer: dict[str, Any] = {"ready": not why} | ({"because": why} if why else {})
    return JSONResponse(answer, 503 if why else 200)


@router.get("/metrics", name="metrics")
def metrics(request: Request) -> Response:
    """Counts and times, for Prometheus: with the token, or from this machine where none is set."""
    token, shown = request.app.state.metrics_token, request.headers.get("authorization", "")
    here = from_this_machine(request) and "x-forwarded-for" not in request.headers
    if not (compare_digest(shown.encode(), f"Bearer {token}".encode()) if token else here):
        return PlainTextResponse("Not for you.\n", 403)
    content, kind = metrics_page()
    return Response(content, media_type=kind)
