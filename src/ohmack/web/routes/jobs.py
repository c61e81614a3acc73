"""The list of jobs, opening one, and its front page."""

from __future__ import annotations

from secrets import token_urlsafe
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response
from pydantic import ValidationError

from ohmack.core.document.design import Intake, Keep, Wish
from ohmack.core.document.edits import sentence
from ohmack.core.document.vehicle import Body, Hand, Powertrain, Vehicle
from ohmack.core.document.work import Work
from ohmack.core.errors import OhmackError
from ohmack.core.planning.standing import Standing
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.core.planning.templates import as_papers
from ohmack.formats.entry import is_whole
from ohmack.store.database import Conflict
from ohmack.store.designs import SORTS
from ohmack.web.choices import bodies
from ohmack.web.extras import extras
from ohmack.web.fields import base_type
from ohmack.web.page import Page, Problem
from ohmack.web.render import go, job_answer, page_answer, wants_fragment, workshop_of
from ohmack.web.routes.forms import Form, everything, text, texts, whole
from ohmack.web.sheet import Asked
from ohmack.web.typed import read_model, read_value
from ohmack.web.workshop import judged

router = APIRouter()
PICTURES = 12  # jobs of a page that are shown with their car
BLANK: dict[str, list[str]] = {}


@router.get("/", name="jobs")
def jobs(
    request: Request, words: str = "", away: str = "", page: str = "1", at: str = "", sort: str = ""
) -> HTMLResponse:
    """The shop's jobs, a page at a time; verdicts are read, not made."""
    shop = workshop_of(request)
    archived = away == "yes"
    standing = Standing(at) if at in [each.value for each in Standing] else None
    found = shop.designs.list_jobs(
        shop.context, words[:80], archived, int(page) if is_whole(page) else 1, standing=standing, sort=sort
    )
    standings, put_away = shop.designs.standings(shop.context)
    return page_answer(
        request,
        "jobs.html",
        found=found,
        words=words[:80],
        archived=archived,
        standing=standing,
        standings=standings,
        put_away=put_away,
        sort=sort if sort in SORTS else "",
        pictures=PICTURES,
        shop=shop.shop.load(shop.context),
    )


@router.get("/jobs/{number}/verdict", name="verdict")
def verdict(request: Request, number: str) -> HTMLResponse:
    """A job's verdict with its open facts counted, fetched when its line comes into view."""
    shop = workshop_of(request)
    evaluation = shop.evaluation(shop.designs.load(shop.context, number), sweep=True)
    return page_answer(request, "_job_verdict.html", summary=evaluation.verdict, lazy="")


@router.get("/jobs/new", name="new_job")
def new_job(request: Request, template: str = "", customer: str = "") -> HTMLResponse:
    """The form for a new job, perhaps of a car that was kept, or for a customer who is there."""
    typed = {"template": [template]} if is_whole(template) else dict(BLANK)
    if is_whole(customer):
        person = workshop_of(request).customers.get(workshop_of(request).context, int(customer))
        typed |= {"customer": [person.name], "phone": [person.phone], "customer_id": [str(person.id)]}
    return _new_job_form(request, typed, {})


def _new_job_form(
    request: Request, typed: dict[str, list[str]], problems: dict[str, str], status: int = 200
) -> HTMLResponse:
    choices = {
        "body": bodies(),
        "hand_of_drive": [h.value for h in Hand],
        "powertrain": [p.value for p in Powertrain],
    }
    wishes = {"wishes": [w.value for w in Wish], "must_keep": [k.value for k in Keep]}
    return page_answer(
        request,
        "new_job.html",
        status,
        typed=typed,
        problems=problems,
        choices=choices,
        flags=wishes,
        templates=workshop_of(request).templates.list(workshop_of(request).context),
        currency=workshop_of(request).shop.load(workshop_of(request).context).policy.currency,
        once=next(iter(typed.get("once", [])), "") or token_urlsafe(18),
    )


@router.post("/jobs/new", name="open_job")
def open_job(request: Request, form: Form) -> Response:
    """Open a job: customer, vehicle, wishes; everything about the car starts as assumed."""
    typed = everything(form)
    problems: dict[str, str] = {}
    shop = workshop_of(request)
    template = shop.templates.load(shop.context, whole(form, "template")) if whole(form, "template") else None
    kept = template.vehicle if template is not None else None
    needed = [("customer", "Who is it for?")]
    if kept is None:
        needed += [("make", "Which make?"), ("model", "Which model?")]
    for name, words in needed:
        if not text(form, name).strip():
            problems[name] = words
    if kept is not None and text(form, "body") and text(form, "body") != kept.body.value:
        problems["body"] = f"The kept car’s body is {kept.body.value}: choose that one, or start without it."
    intake_values, intake_problems = read_model(Intake, typed)
    intake_values["reversible"] = bool(text(form, "reversible"))
    problems |= intake_problems
    car: dict[str, Any] = {}
    for name in ("year", "body", "hand_of_drive", "powertrain"):
        if name == "body" and kept is not None:
            continue
        annotation = base_type(Vehicle.model_fields[name].annotation)
        try:
            car[name] = read_value(annotation, name, texts(form, name), optional=name == "year")
        except ValueError as error:
            problems[name] = str(error)
    if not problems:
        try:
            hand = Hand(car["hand_of_drive"])
            if kept is not None:
                vehicle = kept.model_copy(update={"hand_of_drive": hand, "year": car["year"] or kept.year})
            else:
                vehicle = new_vehicle(
                    text(form, "make").strip(), text(form, "model").strip(), car["year"], Body(car["body"]), hand,
                    Powertrain(car["powertrain"]),
                )  # fmt: skip
            title = text(form, "title").strip() or "New job"
            design = new_design(
                title, vehicle, Intake.model_validate(intake_values), shop.shop.load(shop.context).policy
            )
            if template is not None:
                design = design.model_copy(update={"work": Work(own_steps=template.own_steps)})
            judged(design)  # what cannot be judged is never stored
            number = shop.designs.open_job(shop.context,
                text(form, "customer").strip()[:120], text(form, "phone").strip()[:40], title, design,
                opened_with=text(form, "once")[:64] or None, customer_id=whole(form, "customer_id"),
            )  # fmt: skip
            return go(f"/jobs/{number}/survey")
        except ValidationError as error:
            problems = {str(e["loc"][-1]): f"It {sentence(e)}." for e in error.errors(include_url=False)}
        except (ValueError, OhmackError) as error:
            problems = {"body": str(error)}
    return _new_job_form(request, typed, problems, 422)


@router.get("/jobs/{number}", name="job")
def job(request: Request, number: str, since: str = "") -> HTMLResponse:
    """The job's front page: what the customer wants."""
    shop = workshop_of(request)
    record = shop.designs.load(shop.context, number)
    page = Page(record, shop.evaluation(record, sweep=True), "job")
    if is_whole(since) and (moved := shop.moved(record, int(since))):
        page.moved = moved.moved
    return job_answer(request, page)


@router.post("/jobs/{number}/customer", name="customer")
def customer(request: Request, number: str, form: Form) -> Response:
    """Change the customer's name or phone; each field saves itself, as everything on the front page does."""
    shop = workshop_of(request)
    record = shop.designs.load(shop.context, number)
    field = "phone" if "phone" in form and "customer" not in form else "customer"
    name = text(form, "customer", record.customer).strip()[:120]
    phone = text(form, "phone", record.phone).strip()[:40]
    problem = "" if name else "Say who it is for."
    if not problem:
        try:
            shop.designs.rename_customer(shop.context, number, whole(form, "customer_version"), name, phone)
        except Conflict:
            theirs = record.phone if field == "phone" else record.customer
            problem = (
                f"Someone changed it meanwhile to “{theirs}”. What you typed is still here; keep it to put it on top."
            )
    if problem:
        page = Page(
            record, shop.evaluation(record, sweep=True), "job", problem=Problem(field, problem, everything(form))
        )
        return job_answer(request, page, 409 if name else 422)
    if not wants_fragment(request):
        return go(f"/jobs/{number}")
    record = shop.designs.load(shop.context, number)
    return job_answer(request, Page(record, shop.evaluation(record, sweep=False), "job"), address=f"/jobs/{number}")


@router.post("/jobs/{number}/template", name="keep_template")
def keep_template(request: Request, number: str, form: Form) -> Response:
    """Keep the surveyed car for the next one of its kind."""
    shop = workshop_of(request)
    record = shop.designs.load(shop.context, number)
    template_id = shop.templates.add(shop.context, as_papers(record.design.vehicle, number), number,
                                     record.design.work.own_steps)  # fmt: skip
    return go(f"/jobs/new?template={template_id}")


@router.post("/jobs/{number}/archive", name="archive")
def archive(request: Request, number: str, form: Form) -> Response:
    """Put a job away, or bring it back."""
    away = text(form, "away") == "yes"
    workshop_of(request).designs.archive(workshop_of(request).context, number, away)
    return go("/" if away else f"/jobs/{number}")


@router.get("/jobs/{number}/measure", name="measure")
def measure(request: Request, number: str, show: str = "", since: str = "") -> HTMLResponse:
    """The measuring round: one fact at a time."""
    shop = workshop_of(request)
    record = shop.designs.load(shop.context, number)
    page = Page(record, shop.evaluation(record, sweep=True), "measure", show[:300])
    if is_whole(since) and (moved := shop.moved(record, int(since))):
        page.moved = moved.moved
    return job_answer(request, page)


@router.get("/jobs/{number}/history", name="history")
def history(request: Request, number: str) -> HTMLResponse:
    """Every revision, newest first."""
    shop = workshop_of(request)
    record = shop.designs.load(shop.context, number)
    page = Page(record, shop.evaluation(record, sweep=False), "history")
    page.extra = extras(shop, record, page.stage, Asked())
    return job_answer(request, page)


@router.get("/jobs/{number}/print.css", name="print_style", include_in_schema=False)
def print_style(request: Request, number: str) -> Response:
    """Paper size, and the job's number and the page's on every page: what lies on a bench must say whose it is."""
    record = workshop_of(request).designs.load(workshop_of(request).context, number)
    size = "letter" if record.design.policy.length_unit == "ft" else "A4"
    text_ = f'font:9pt Barlow,sans-serif;content:"{record.address}, revision {record.number}"'
    count_ = 'font:9pt Barlow,sans-serif;content:"page " counter(page) " of " counter(pages)'
    style = f"@page{{size:{size} portrait;@bottom-left{{{text_}}}@bottom-right{{{count_}}}}}\n"
    asked = request.query_params.get("r") == str(record.number)  # by its own number a revision's never changes
    headers = {"Cache-Control": "private, max-age=86400"} if asked else {}
    return Response(style, media_type="text/css", headers=headers)
