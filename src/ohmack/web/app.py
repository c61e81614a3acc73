"""The application: middlewares, routers, and the one place where errors become pages."""

from __future__ import annotations

import re
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager

from fastapi import Depends, FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import HTMLResponse
from starlette.concurrency import run_in_threadpool
from starlette.exceptions import HTTPException
from starlette.middleware.gzip import GZipMiddleware
from starlette.middleware.trustedhost import TrustedHostMiddleware

from ohmack.store.database import Database, NotFound, StoreUnavailable
from ohmack.store.design_rows import BrokenDesign, RevisionRow
from ohmack.web.guard import Guard
from ohmack.web.observed import Observed
from ohmack.web.papers import routes as papers
from ohmack.web.render import ENVIRONMENT, page_answer, wants_fragment, workshop_of
from ohmack.web.routes import (
    bay,
    catalogue,
    customer_link,
    customers,
    edits,
    files_in_out,
    health,
    jobs,
    parts,
    photos,
    policy,
    search,
    sheets,
)  # fmt: skip
from ohmack.web.routes.forms import sent_fields
from ohmack.web.serving import settle
from ohmack.web.settings import Settings, is_loopback
from ohmack.web.sheet import sheet_routers
from ohmack.web.sign_in import account, phone, refused, staff
from ohmack.web.sign_in import routes as sign_in
from ohmack.web.sign_in.gate import NotAllowed, SignedOut, StrangeForm, gate
from ohmack.web.static_files import FOLDER, CachedStatic
from ohmack.web.workshop import Workshop


def from_environment() -> FastAPI:
    """The application with the settings of the environment: what each of several processes serves."""
    made = create_app(Settings())
    settle()
    return made


def create_app(settings: Settings) -> FastAPI:
    """The application on a database."""
    database = Database(settings.database)

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        if settings.summaries:
            app.state.workshop.begin_summaries()
        yield
        database.close()

    app = FastAPI(title="Ohmack", docs_url=None, redoc_url=None, openapi_url=None, lifespan=lifespan,
                  dependencies=[Depends(gate)])  # fmt: skip
    app.state.workshop = Workshop(database)
    app.state.public_address = settings.public_address.rstrip("/")
    app.state.on_the_network = not is_loopback(settings.host)
    app.add_middleware(GZipMiddleware, minimum_size=800, compresslevel=5)
    app.add_middleware(TrustedHostMiddleware, allowed_hosts=settings.hosts, www_redirect=False)
    app.add_middleware(Guard, fault=_fault)  # its headers are on every answer
    app.add_middleware(Observed)  # outermost: what the guard refuses is counted too
    app.state.metrics_token = settings.metrics_token
    app.mount("/static", CachedStatic(directory=FOLDER), name="static")
    own = (
        sign_in,
        account,
        staff,
        phone,
        search,
        customers,
        jobs,
        bay,
        policy,
        catalogue,
        files_in_out,
        edits,
        parts,
        photos,
        customer_link,
        health,
    )
    for router in (*(module.router for module in own), papers.router, *sheet_routers(), sheets.router):
        app.include_router(router)
    app.add_exception_handler(SignedOut, refused.signed_out)
    app.add_exception_handler(NotAllowed, refused.not_allowed)
    app.add_exception_handler(StrangeForm, refused.strange_form)
    app.add_exception_handler(StoreUnavailable, _unavailable)
    app.add_exception_handler(NotFound, _not_found)
    app.add_exception_handler(BrokenDesign, _broken)
    app.add_exception_handler(HTTPException, _http_error)
    app.add_exception_handler(RequestValidationError, _not_understood)
    return app


async def _unavailable(request: Request, error: Exception) -> HTMLResponse:
    """The database is away: say so, keep what was typed, offer to try again."""
    values = {"kept": sent_fields(request), "action": request.url.path, "posted": request.method == "POST"}
    headers = {"Retry-After": "5"}
    if wants_fragment(request):
        html = ENVIRONMENT.get_template("_trouble.html").render(**values)
        headers |= {"HX-Retarget": "#trouble", "HX-Reswap": "innerHTML", "HX-Push-Url": "false"}
        return HTMLResponse(html, 503, headers=headers)
    answer = page_answer(request, "trouble.html", 503, **values)
    answer.headers.update(headers)
    return answer


def _back(request: Request) -> str:
    """The job an address belongs to; empty where it is none."""
    found = re.match(r"/jobs/(J-[0-9]{1,9}(?:-[A-Z])?)(?:/|$)", request.url.path)
    return f"/jobs/{found[1]}" if found else ""


def _problem(request: Request, status: int, title: str, text: str, back: str = "") -> HTMLResponse:
    return page_answer(request, "problem.html", status, title=title, text=text, back=back)


async def _not_found(request: Request, error: Exception) -> HTMLResponse:
    return _problem(request, 404, "Not here", f"There is no {error} in this shop.")


async def _http_error(request: Request, error: Exception) -> HTMLResponse:
    status = error.status_code if isinstance(error, HTTPException) else 500
    title = {404: "Not here", 405: "Not that way", 413: "Too large"}.get(status, "That did not work")
    text = str(error.detail) if isinstance(error, HTTPException) else ""
    return _problem(request, status, title, text, _back(request) if status != 404 else "")


async def _not_understood(request: Request, error: Exception) -> HTMLResponse:
    words = "Something in that address is no number, or is missing. Go on from here."
    return _problem(request, 422, "That address was not understood", words, _back(request))


async def _broken(request: Request, error: Exception) -> HTMLResponse:
    """A stored design nobody can read or judge: where it fails, and the ways back."""
    assert isinstance(error, BrokenDesign)
    workshop = workshop_of(request)
    designs, by = workshop.designs, workshop.context

    def revisions() -> list[RevisionRow]:
        design_id, *_ = designs.where_it_stands(by, error.address)
        return designs.history(by, design_id)

    return page_answer(request, "broken.html", 409, broken=error, revisions=await run_in_threadpool(revisions))


def _fault(request: Request, error: Exception) -> HTMLResponse:
    """A fault of ours: it is logged, nothing of it leaks, and there is a way back."""
    words = "A fault in Ohmack; it was noted in its log. What was saved before is safe, this last step was not saved."
    return _problem(request, 500, "That did not work", words, _back(request))
