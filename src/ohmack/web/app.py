"""The application: middlewares, routers, and the one place where errors become pages."""

from __future__ import annotations

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from importlib.resources import files

from fastapi import FastAPI, Request
from fastapi.responses import HTMLResponse, Response
from starlette.exceptions import HTTPException
from starlette.middleware.gzip import GZipMiddleware
from starlette.middleware.trustedhost import TrustedHostMiddleware
from starlette.staticfiles import StaticFiles
from starlette.types import Scope

from ohmack.store.database import Database, NotFound, StoreUnavailable
from ohmack.web.guard import Guard
from ohmack.web.render import ENVIRONMENT, page_answer, wants_fragment
from ohmack.web.routes import catalogue, edits, files_in_out, harness, jobs, photos, planning, policy, sheets, survey
from ohmack.web.settings import Settings
from ohmack.web.workshop import Workshop


class CachedStatic(StaticFiles):
    """Static files a browser may keep for an hour; addresses carry the file's fingerprint."""

    async def get_response(self, path: str, scope: Scope) -> Response:
        """The file, with a cache header."""
        response = await super().get_response(path, scope)
        response.headers["Cache-Control"] = "public, max-age=3600"
        return response


def create_app(settings: Settings) -> FastAPI:
    """The application on a database."""
    database = Database(settings.database)

    @asynccontextmanager
    async def lifespan(_: FastAPI) -> AsyncIterator[None]:
        yield
        database.close()

    app = FastAPI(title="Ohmack", docs_url=None, redoc_url=None, openapi_url=None, lifespan=lifespan)
    app.state.workshop = Workshop(database)
    app.add_middleware(Guard)
    app.add_middleware(GZipMiddleware, minimum_size=800, compresslevel=5)
    app.add_middleware(TrustedHostMiddleware, allowed_hosts=settings.allowed_hosts.split(","), www_redirect=False)
    app.mount("/static", CachedStatic(directory=str(files("ohmack.web") / "static")), name="static")
    for router in (
        jobs.router,
        policy.router,
        catalogue.router,
        files_in_out.router,
        edits.router,
        survey.router,
        photos.router,
        planning.router,
        harness.router,
        sheets.router,
    ):
        app.include_router(router)
    app.add_exception_handler(StoreUnavailable, _unavailable)
    app.add_exception_handler(NotFound, _not_found)
    app.add_exception_handler(HTTPException, _http_error)
    return app


async def _unavailable(request: Request, error: Exception) -> HTMLResponse:
    """The database is away: say so, keep what was typed, offer to try again."""
    kept: list[tuple[str, str]] = []
    if request.method == "POST":
        form = getattr(request.state, "form", None)
        kept = [(k, str(v)) for k, v in form.multi_items() if isinstance(v, str)] if form is not None else []
    values = {"kept": kept, "action": request.url.path, "posted": request.method == "POST"}
    if wants_fragment(request):
        html = ENVIRONMENT.get_template("_trouble.html").render(**values)
        return HTMLResponse(
            html, 503, headers={"HX-Retarget": "#trouble", "HX-Reswap": "innerHTML", "HX-Push-Url": "false"}
        )
    return page_answer(request, "trouble.html", 503, **values)


async def _not_found(request: Request, error: Exception) -> HTMLResponse:
    return page_answer(request, "problem.html", 404, title="Not here", text=f"There is no {error} in this shop.")


async def _http_error(request: Request, error: Exception) -> HTMLResponse:
    status = error.status_code if isinstance(error, HTTPException) else 500
    title = {404: "Not here", 405: "Not that way", 413: "Too large"}.get(status, "That did not work")
    text = str(error.detail) if isinstance(error, HTTPException) else ""
    return page_answer(request, "problem.html", status, title=title, text=text)
