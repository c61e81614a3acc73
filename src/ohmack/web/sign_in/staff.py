"""The people of a shop, and the list of what they did: the owner's pages."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response

from ohmack.formats.entry import is_whole
from ohmack.store.audit import PAGE, AuditStore
from ohmack.store.database import Conflict
from ohmack.store.people import LastOwner, Limits, LoginTaken, PeopleStore
from ohmack.store.roles import Role
from ohmack.web.render import go, page_answer, workshop_of
from ohmack.web.routes.forms import Form, everything, text, whole
from ohmack.web.sign_in.gate import signed_in

router = APIRouter()
IDLE = (5, 12 * 60)  # minutes
TOTAL = (1, 24)  # hours
CHANGED = "Somebody changed it meanwhile. What you typed is still here; keep it to put it on top."


def _people(request: Request) -> PeopleStore:
    return PeopleStore(workshop_of(request).database)


def link_of(request: Request, token: str) -> str:
    """The address of a link that works once."""
    return f"{request.app.state.public_address or str(request.base_url).rstrip('/')}/join/{token}"


def _page(request: Request, status: int = 200, **values: Any) -> HTMLResponse:
    by = signed_in(request).context
    shown: dict[str, Any] = {"problems": {}, "typed": {}, "link": "", "message": ""} | values
    return page_answer(
        request, "sign_in/people.html", status, people=_people(request).list(by), roles=list(Role),
        limits=_people(request).limits(by), me=by.person_id, **shown,
    )  # fmt: skip


@router.get("/people", name="people")
def people(request: Request) -> HTMLResponse:
    """Who signs in."""
    return _page(request)


@router.post("/people", name="invite")
def invite(request: Request, form: Form) -> Response:
    """A further person; the link is shown once, to be handed over by hand."""
    name, login = text(form, "name").strip()[:120], text(form, "login").strip()[:120]
    role = _role(text(form, "role"))
    problems = {k: w for k, v, w in (("name", name, "Who is it?"), ("login", login, "What will they sign in with?"))
                if not v}  # fmt: skip
    if role is None:
        problems["role"] = "Choose one."
    if not problems and role is not None:
        try:
            token = _people(request).invite(signed_in(request).context, name, login, role)
            words = f"{name} chooses a password with this link. It works once, for seven days."
            return _page(request, link=link_of(request, token), message=words)
        except LoginTaken as error:
            problems["login"] = str(error)
    return _page(request, 422, problems=problems, typed=everything(form))


def _role(word: str) -> Role | None:
    return Role(word) if word in [role.value for role in Role] else None


@router.post("/people/{person_id:number}", name="change_person")
def change_person(request: Request, person_id: int, form: Form) -> Response:
    """Name, role, put away or taken back."""
    by, act = signed_in(request).context, text(form, "act")
    name, role = text(form, "name").strip()[:120], _role(text(form, "role"))
    away = act == "away" or (act != "back" and _people(request).get(by, person_id).away)
    typed = {f"person-{field}-{person_id}": [text(form, field)] for field in ("name", "role")}
    problem, status = "A name and a role, please.", 422
    if name and role is not None:
        try:
            _people(request).change(by, person_id, whole(form, "version"), name, role, away)
            return go("/people")
        except Conflict:
            problem, status = CHANGED, 409
        except LastOwner as error:
            problem = str(error)
    return _page(request, status, problems={f"person-{person_id}": problem}, typed=typed)


@router.post("/people/{person_id:number}/reset", name="reset_link")
def reset_link(request: Request, person_id: int, form: Form) -> Response:
    """A link for a new password, shown to the owner."""
    person = _people(request).get(signed_in(request).context, person_id)
    token = _people(request).reset(signed_in(request).context, person_id)
    words = f"{person.name} chooses a new password with this link. It works once, for a day; where a second factor is on, it is still asked for."  # noqa: E501
    return _page(request, link=link_of(request, token), message=words)


@router.post("/people/{person_id:number}/factor-off", name="owner_drops_factor")
def owner_drops_factor(request: Request, person_id: int, form: Form) -> Response:
    """Somebody lost the phone and the codes."""
    person = _people(request).get(signed_in(request).context, person_id)
    _people(request).drop_second_factor(signed_in(request).context, person_id)
    return _page(request, message=f"{person.name} signs in with the password alone until they set it up again.")


@router.post("/people/limits", name="limits")
def limits(request: Request, form: Form) -> Response:
    """How long people stay signed in."""
    found = {"idle": (text(form, "idle"), IDLE, "minutes"), "total": (text(form, "total"), TOTAL, "hours")}
    problems = {
        name: f"A whole number of {unit} from {least} to {most}."
        for name, (typed, (least, most), unit) in found.items()
        if not is_whole(typed) or not least <= int(typed) <= most
    }
    if problems:
        return _page(request, 422, problems=problems, typed=everything(form))
    _people(request).set_limits(signed_in(request).context, Limits(whole(form, "idle"), whole(form, "total")))
    return go("/people")


@router.get("/audit", name="audit")
def audit(request: Request, person: str = "", before: str = "") -> HTMLResponse:
    """What was done, newest first."""
    by = signed_in(request).context
    who = int(person) if is_whole(person) else 0
    rows = AuditStore(workshop_of(request).database).list(by, who, int(before) if is_whole(before) else 0)
    return page_answer(
        request, "sign_in/audit.html", rows=rows, people=_people(request).list(by), who=who,
        before=before if is_whole(before) else "", more=len(rows) == PAGE,
    )  # fmt: skip
