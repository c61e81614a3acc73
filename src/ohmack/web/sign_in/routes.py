"""Signing in and out, the second factor, the first owner, and the links that work once."""

from __future__ import annotations

import json
import time
from typing import Any
from urllib.parse import quote

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response

from ohmack.store.database import NotFound
from ohmack.store.passwords import weakness
from ohmack.store.people import PeopleStore, new_shop, signs_in
from ohmack.store.sessions import NotLetIn, SessionStore, TooManyGuesses
from ohmack.store.tokens import form_token_of, new_token
from ohmack.web.render import ENVIRONMENT, go, page_answer, wants_fragment, workshop_of_server
from ohmack.web.routes.forms import SECRETS, Form, everything, sent_fields, text
from ohmack.web.sign_in.cookie import drop_token, from_this_machine, keep_token, token_in, whence
from ohmack.web.sign_in.form_token import set_form_token
from ohmack.web.sign_in.gate import own_address, visitor_of
from ohmack.web.sign_in.picture import car_before

router = APIRouter()
VISIT_HOURS = 1
MOST_KEPT = 200_000
GONE = "This link opens nothing: it was used, it is over, or never was one. Ask the owner of your shop for a new one."


def _sessions(request: Request) -> SessionStore:
    return SessionStore(workshop_of_server(request).database)


def outside(request: Request, name: str, status: int = 200, **values: Any) -> HTMLResponse:
    """A page for somebody who is not signed in; its forms carry the token of the cookie it leaves, where there is
    none yet.
    """
    token, fresh = token_in(request), ""
    if not token:
        token = fresh = new_token()
        set_form_token(form_token_of(token))
    answer = page_answer(request, name, status, car=car_before(), **values)
    if fresh:
        keep_token(request, answer, fresh, VISIT_HOURS)
    if wants_fragment(request):
        answer.headers.update({"HX-Retarget": "#frame", "HX-Reswap": "outerHTML", "HX-Push-Url": "false"})
    return answer


def kept_fields(request: Request) -> str:
    """What was sent by somebody who has to sign in first, as text to send along; empty where there is nothing."""
    pairs = sent_fields(request)
    made = json.dumps({"to": request.url.path, "pairs": pairs})
    return made if pairs and len(made) <= MOST_KEPT else ""


def _kept_in(text_: str) -> tuple[str, list[tuple[str, str]]] | None:
    """What was kept, as a page sent it back; None where it is none of ours."""
    try:
        tree = json.loads(text_[:MOST_KEPT] or "null")
        return own_address(tree["to"]), [(str(k), str(v)) for k, v in tree["pairs"]]
    except (ValueError, TypeError, KeyError, RecursionError):
        return None


@router.get("/sign-in", name="sign_in")
def sign_in(request: Request, back: str = "/", who: str = "") -> Response:
    """Who is it?"""
    if visitor_of(request) is not None:
        return go(own_address(back))
    if not signs_in(workshop_of_server(request).database):
        return go("/first")
    return outside(request, "sign_in/sign_in.html", login=who[:120], back=own_address(back), problem="", kept="")


@router.post("/sign-in", name="let_in")
def let_in(request: Request, form: Form) -> Response:
    """Name and password."""
    login, back, kept = text(form, "login")[:120], own_address(text(form, "back", "/")), text(form, "kept")
    try:
        token, half = _sessions(request).sign_in(login, text(form, "password")[:1000], whence(request))
    except (NotLetIn, TooManyGuesses) as error:
        problem, status = _words(error)
        return outside(request, "sign_in/sign_in.html", status, login=login, back=back, problem=problem, kept=kept)
    if half:
        set_form_token(form_token_of(token))
        answer: Response = _ask_code(request, back, kept)
    else:
        answer = _on(request, token, back, kept)
    keep_token(request, answer, token, VISIT_HOURS if half else _hours(request, token))
    return answer


def _words(error: NotLetIn | TooManyGuesses) -> tuple[str, int]:
    if isinstance(error, TooManyGuesses):
        minutes = f"{error.minutes} minute{'s' if error.minutes != 1 else ''}"
        return f"Too many wrong tries. Nothing is looked at for {minutes}.", 429
    return str(error), 422


def _hours(request: Request, token: str) -> int:
    visitor = _sessions(request).opened(token)
    store = PeopleStore(workshop_of_server(request).database)
    return store.limits(visitor.context).total_hours if visitor is not None else VISIT_HOURS


def _ask_code(request: Request, back: str, kept: str, problem: str = "", status: int = 200) -> HTMLResponse:
    return page_answer(request, "sign_in/code.html", status, car=car_before(), back=back, kept=kept, problem=problem)


def _on(request: Request, token: str, back: str, kept: str) -> Response:
    """Where somebody goes on: to what was asked for, or to sending again what could not be taken."""
    found = _kept_in(kept)
    if found is None:
        return go(back)
    set_form_token(form_token_of(token))
    return page_answer(request, "sign_in/again.html", car=car_before(), to=found[0], pairs=found[1], back=back)


@router.get("/second-factor", name="second_factor")
def second_factor(request: Request, back: str = "/") -> Response:
    """The code, for whom it is due."""
    return _ask_code(request, own_address(back), "")


@router.post("/second-factor", name="check_code")
def check_code(request: Request, form: Form) -> Response:
    """A phone's code, or a spare one."""
    back, kept = own_address(text(form, "back", "/")), text(form, "kept")
    try:
        token = _sessions(request).second(token_in(request), text(form, "code")[:40], time.time(), whence(request))
    except (NotLetIn, TooManyGuesses) as error:
        problem, status = _words(error)
        return _ask_code(request, back, kept, problem, status)
    answer = _on(request, token, back, kept)
    keep_token(request, answer, token, _hours(request, token))
    return answer


@router.post("/sign-out", name="sign_out")
def sign_out(request: Request, form: Form) -> Response:
    """Leave; the session is over on the server too."""
    _sessions(request).end(token_in(request))
    answer = go("/sign-in")
    drop_token(request, answer)
    return answer


@router.get("/first", name="first")
def first(request: Request) -> Response:
    """The first owner, on a server nobody signs in to yet."""
    return _first_page(request, {}, {})


def _first_page(request: Request, typed: dict[str, list[str]], problems: dict[str, str], status: int = 200) -> Response:
    if signs_in(workshop_of_server(request).database):
        return go("/sign-in")
    here = from_this_machine(request)
    return outside(request, "sign_in/first.html", status if here else 403, typed=typed, problems=problems, here=here)


@router.post("/first", name="first_owner")
def first_owner(request: Request, form: Form) -> Response:
    """Shop, owner, password."""
    database = workshop_of_server(request).database
    shop, name, login = (text(form, field).strip()[:120] for field in ("shop", "name", "login"))
    password = text(form, "password")[:1000]
    problems = {
        field: words
        for field, value, words in (
            ("shop", shop, "What is the shop called?"), ("name", name, "Who are you?"),
            ("login", login, "What do you sign in with?"),
        )
        if not value
    }  # fmt: skip
    if weak := weakness(password, (shop, name, login)):
        problems["password"] = weak
    if problems or not from_this_machine(request) or signs_in(database):
        typed = {k: v for k, v in everything(form).items() if k not in SECRETS}
        return _first_page(request, typed, problems, 422)
    token = new_shop(database, shop, name, login)
    _sessions(request).use_link(token, password)
    return go(f"/sign-in?who={quote(login)}")


@router.get("/join/{token}", name="joining")
def joining(request: Request, token: str) -> Response:
    """A link that works once: choose a password."""
    return _join_page(request, token, "")


def _join_page(request: Request, token: str, problem: str, status: int = 200) -> Response:
    try:
        invited = _sessions(request).link(token)
    except NotFound:
        return HTMLResponse(ENVIRONMENT.get_template("customer_link_gone.html").render(words=GONE), 404)
    answer = outside(request, "sign_in/join.html", status, invited=invited, token=token, problem=problem)
    answer.headers["Referrer-Policy"] = "no-referrer"
    return answer


@router.post("/join/{token}", name="join_shop")
def join_shop(request: Request, token: str, form: Form) -> Response:
    """The password is chosen; the link is used up."""
    password = text(form, "password")[:1000]
    try:
        invited = _sessions(request).link(token)
        if weak := weakness(password, (invited.name, invited.login, invited.shop)):
            return _join_page(request, token, weak, 422)
        _sessions(request).use_link(token, password)
    except NotFound:
        return _join_page(request, token, "")
    return go(f"/sign-in?who={quote(invited.login)}")
