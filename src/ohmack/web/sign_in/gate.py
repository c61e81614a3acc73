"""The gate: every route is reached through it, signed in and with the right to it, and every form by its token."""

from __future__ import annotations

import logging
from hmac import compare_digest
from urllib.parse import quote

from fastapi import HTTPException, Request
from starlette.concurrency import run_in_threadpool

from ohmack.store.database import StoreUnavailable
from ohmack.store.people import signs_in
from ohmack.store.roles import Role
from ohmack.store.sessions import SessionStore, Visitor
from ohmack.store.tokens import form_token_of
from ohmack.web.guard import SAFE
from ohmack.web.render import workshop_of_server
from ohmack.web.routes.forms import read_form
from ohmack.web.sign_in.cookie import token_in
from ohmack.web.sign_in.form_token import set_form_token
from ohmack.web.sign_in.here import set_visitor
from ohmack.web.sign_in.rights import Right, refusal, right_for

LOG = logging.getLogger("ohmack.security")
FORMS = ("application/x-www-form-urlencoded", "multipart/form-data")
FORM_HEADER = "x-form-token"
LARGEST_KEPT = 200_000  # of what was sent without being signed in


class SignedOut(Exception):
    """Nobody is signed in, or the second factor is due (`half`), or the server has no owner yet (`first`)."""

    def __init__(self, half: bool = False, first: bool = False) -> None:
        super().__init__("signed out")
        self.half, self.first = half, first


class NotAllowed(Exception):
    """Who is signed in may not do this."""


class StrangeForm(Exception):
    """A form that was not made for this session: from before the last sign-in, or from elsewhere."""


def visitor_of(request: Request) -> Visitor | None:
    """Who is signed in; None where nobody has to be."""
    found: Visitor | None = getattr(request.state, "visitor", None)
    return found


def signed_in(request: Request) -> Visitor:
    """Who is signed in, on a route that asks for somebody.

    Raises:
        SignedOut: nobody.
    """
    visitor = visitor_of(request)
    if visitor is None:
        raise SignedOut
    return visitor


async def gate(request: Request) -> None:
    """Let a request through to its route.

    Raises:
        SignedOut, NotAllowed, StrangeForm: it is not let through; nothing was done.
    """
    route, token = request.scope["route"].name, token_in(request)
    server = workshop_of_server(request)
    set_form_token(form_token_of(token) if token else "")
    try:
        visitor = await run_in_threadpool(SessionStore(server.database).opened, token) if token else None
    except StoreUnavailable:
        await _keep_what_is_small(request)
        raise
    set_visitor(None if visitor is None or visitor.half else visitor)
    if visitor is not None and not visitor.half:
        request.state.visitor = visitor
        request.state.workshop = server.seen_by(visitor.context)
    try:
        if request.method not in SAFE and _kind_of(request) not in FORMS:
            raise HTTPException(415, "Only forms are taken here.")
        if right_for(route, request.method) is not Right.NOBODY:
            await _let_in(request, route, visitor)
        if request.method not in SAFE:
            await read_form(request)
            if not _made_for(request, token):
                raise StrangeForm
    except BaseException:
        await request.close()
        raise


async def _let_in(request: Request, route: str, visitor: Visitor | None) -> None:
    """Whether somebody is signed in who may."""
    if visitor is None or visitor.half:
        await _keep_what_is_small(request)
        nobody = visitor is None and not await run_in_threadpool(signs_in, workshop_of_server(request).database)
        raise SignedOut(half=visitor is not None, first=nobody)
    words = refusal(visitor.role, route, request.method)
    if not words and visitor.role is Role.DESK and request.method not in SAFE:
        words = refusal(visitor.role, route, request.method, str((await read_form(request)).get("path", ""))[:300])
    if words:
        by = {"shop": visitor.context.shop_id, "person": visitor.context.person_id}
        LOG.warning("refused: %s %s to a %s", request.method, route, visitor.role, extra=by | {"route": route})
        raise NotAllowed(words)


async def _keep_what_is_small(request: Request) -> None:
    """Read a form that is not let through, for the page that says so to keep what was typed."""
    stated = request.headers.get("content-length", "")
    if request.method not in SAFE and stated.isdigit() and len(stated) < 9 and int(stated) <= LARGEST_KEPT:
        await read_form(request)


def _kind_of(request: Request) -> str:
    """What is sent; a form where nothing is."""
    empty = request.headers.get("content-length", "0") == "0" and "transfer-encoding" not in request.headers
    return request.headers.get("content-type", FORMS[0] if empty else "").partition(";")[0].strip().lower()


def _made_for(request: Request, token: str) -> bool:
    """Whether a form carries the token of the session it is sent with."""
    shown = request.headers.get(FORM_HEADER, "") or request.state.shown_token
    return bool(token) and compare_digest(shown.encode("utf-8", "replace"), form_token_of(token).encode())


def back_of(request: Request) -> str:
    """Where to go on after signing in: what was asked for, or the page a form was on; an address of this server."""
    if request.method in SAFE:
        query = request.url.query
        return request.url.path + (f"?{query}" if query else "")
    referer = request.headers.get("referer", "")
    base = str(request.base_url).rstrip("/")
    return referer.removeprefix(base) if referer.startswith(f"{base}/") else "/"


def own_address(text: str) -> str:
    """An address of this server as it was asked for; the list of jobs where it is none."""
    plain = text[:400]
    if not plain.startswith("/") or plain.startswith(("//", "/\\")) or any(ord(letter) < 32 for letter in plain):
        return "/"
    return quote(plain, safe="/?&=:%,.-_~+;@!$'()*")
