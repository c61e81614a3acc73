"""One's own account: password, second factor, where one is signed in."""

from __future__ import annotations

import time
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response

from ohmack.store.passwords import weakness
from ohmack.store.people import PeopleStore
from ohmack.store.second_factor import address_of, new_secret, step_of
from ohmack.store.sessions import SessionStore, TooManyGuesses
from ohmack.store.tokens import digest_of
from ohmack.web.render import go, page_answer, workshop_of
from ohmack.web.routes.forms import Form, text
from ohmack.web.sign_in.cookie import token_in
from ohmack.web.sign_in.gate import signed_in
from ohmack.web.square_code import square_code

router = APIRouter()
WRONG = "That is not your password."


def _page(request: Request, status: int = 200, **values: Any) -> HTMLResponse:
    visitor, shop = signed_in(request), workshop_of(request)
    people, sessions = PeopleStore(shop.database), SessionStore(shop.database)
    pending, me = people.pending_secret(visitor.context), people.get(visitor.context, visitor.context.person_id)
    shown: dict[str, Any] = {"problems": {}, "codes": [], "message": ""} | values
    return page_answer(
        request, "sign_in/account.html", status, visitor=visitor, person=me,
        sessions=sessions.list(visitor.context), here=digest_of(token_in(request)), pending=pending,
        square=square_code(address_of(pending, visitor.login, visitor.shop)) if pending else "",
        codes_left=people.codes_left(visitor.context), **shown,
    )  # fmt: skip


@router.get("/account", name="account")
def account(request: Request) -> HTMLResponse:
    """What somebody may change of themselves."""
    return _page(request)


def _again(request: Request, password: str) -> str:
    """Why a password shown once more is not taken; empty where it is right."""
    visitor, sessions = signed_in(request), SessionStore(workshop_of(request).database)
    try:
        sessions.claim_guess(visitor.context)
    except TooManyGuesses as error:
        return f"Too many wrong tries. Nothing is looked at for {error.minutes} min."
    if not PeopleStore(workshop_of(request).database).password_is(visitor.context, password):
        return WRONG
    sessions.forgive(visitor.context)
    return ""


@router.post("/account/password", name="change_password")
def change_password(request: Request, form: Form) -> Response:
    """A new password; every other place is signed out."""
    visitor, new = signed_in(request), text(form, "new")[:1000]
    problems: dict[str, str] = {}
    if weak := weakness(new, (visitor.name, visitor.login, visitor.shop)):
        problems["new"] = weak
    elif wrong := _again(request, text(form, "old")[:1000]):
        problems["old"] = wrong
    if problems:
        return _page(request, 422, problems=problems)
    keep = digest_of(token_in(request))
    PeopleStore(workshop_of(request).database).set_password(visitor.context, new, keep)
    return _page(request, message="The password is changed; everywhere else you are signed out.")


@router.post("/account/second-factor", name="begin_factor")
def begin_factor(request: Request, form: Form) -> Response:
    """A secret for the phone; it counts once a code of it was entered."""
    if wrong := _again(request, text(form, "old")[:1000]):
        return _page(request, 422, problems={"begin": wrong})
    PeopleStore(workshop_of(request).database).begin_second_factor(signed_in(request).context, new_secret())
    return go("/account#second-factor")


@router.post("/account/second-factor/confirm", name="confirm_factor")
def confirm_factor(request: Request, form: Form) -> Response:
    """The first code: from now on sign-in asks for one."""
    visitor, people = signed_in(request), PeopleStore(workshop_of(request).database)
    secret = people.pending_secret(visitor.context)
    step = step_of(secret, text(form, "code")[:40], time.time()) if secret else None
    if step is None:
        words = "That code is not right. Is the phone’s clock? It shows a new one every 30 s."
        return _page(request, 422, problems={"code": words})
    codes = people.confirm_second_factor(visitor.context, step, digest_of(token_in(request)))
    return _page(request, codes=codes, message="Sign-in asks for a code from now on.")


@router.post("/account/second-factor/off", name="drop_factor")
def drop_factor(request: Request, form: Form) -> Response:
    """Sign-in asks for no code any more."""
    if wrong := _again(request, text(form, "old")[:1000]):
        return _page(request, 422, problems={"off": wrong})
    visitor = signed_in(request)
    PeopleStore(workshop_of(request).database).drop_second_factor(visitor.context, visitor.context.person_id)
    return _page(request, message="Sign-in asks for no code any more.")


@router.post("/account/sessions", name="end_sessions")
def end_sessions(request: Request, form: Form) -> Response:
    """Sign out everywhere else."""
    SessionStore(workshop_of(request).database).end_others(signed_in(request).context, token_in(request))
    return _page(request, message="Everywhere else you are signed out.")
