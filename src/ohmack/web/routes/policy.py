"""The policy page: limits and schools, for the shop's new jobs or for one job."""

from __future__ import annotations

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response
from pydantic import ValidationError

from ohmack.core.document.edits import Edit, sentence
from ohmack.core.document.policy import Policy
from ohmack.store.database import Conflict
from ohmack.store.design_rows import DesignRecord
from ohmack.web.extras import extras, policy_groups
from ohmack.web.page import Page
from ohmack.web.render import go, job_answer, page_answer, workshop_of
from ohmack.web.routes.edits import perform
from ohmack.web.routes.forms import Form, everything, whole
from ohmack.web.sheet import Asked
from ohmack.web.typed import read_model

router = APIRouter()


@router.get("/policy", name="policy")
def shop_policy(request: Request) -> HTMLResponse:
    """The policy new jobs start with."""
    record = workshop_of(request).shop.load(workshop_of(request).context)
    return _shop_form(request, record.policy, record.version, {}, {})


def _shop_form(
    request: Request, policy: Policy, version: int, typed: dict[str, list[str]], problems: dict[str, str],
    status: int = 200,
    message: str = "",
) -> HTMLResponse:  # fmt: skip
    return page_answer(
        request, "policy.html", status, groups=policy_groups(policy), version=version, typed=typed, problems=problems,
        message=message,
    )  # fmt: skip


@router.post("/policy", name="save_policy")
def save_shop_policy(request: Request, form: Form) -> Response:
    """Save the shop's policy."""
    workshop = workshop_of(request)
    shop, by = workshop.shop, workshop.context
    record = shop.load(by)
    values, problems = read_model(Policy, everything(form))
    policy = record.policy
    if not problems:
        try:
            policy = Policy.model_validate(record.policy.model_dump() | values)
        except ValidationError as error:
            problems = {str(e["loc"][-1]): f"It {sentence(e)}." for e in error.errors(include_url=False)}
    if problems:
        return _shop_form(request, record.policy, whole(form, "version"), everything(form), problems, 422)
    try:
        shop.save_policy(by, whole(form, "version"), policy)
    except Conflict:
        words = "Someone changed the policy meanwhile. What you typed is still here; save again to put it on top."
        return _shop_form(request, record.policy, record.version, everything(form), {}, 409, words)
    return go("/policy")


@router.get("/jobs/{number}/policy", name="job_policy")
def job_policy(request: Request, number: str) -> HTMLResponse:
    """The policy of one job."""
    shop = workshop_of(request)
    record = shop.designs.load(shop.context, number)
    page = Page(record, shop.evaluation(record, sweep=False), "policy")
    page.extra = extras(shop, record, page.stage, Asked())
    return job_answer(request, page)


@router.post("/jobs/{number}/shop-policy", name="take_shop_policy")
def take_shop_policy(request: Request, number: str, form: Form) -> Response:
    """Put the shop's current policy into a job."""
    policy = workshop_of(request).shop.load(workshop_of(request).context).policy

    def plan(record: DesignRecord) -> tuple[list[Edit], str]:
        return [Edit(path="policy", value=policy.model_dump(mode="json"))], "the shop's policy taken over"

    return perform(request, number, form, plan)
