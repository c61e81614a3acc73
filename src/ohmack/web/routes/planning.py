"""What the plan's sheets change: what happens to modules, keep-alive measures, weights, the strategy."""

from __future__ import annotations

from collections.abc import Sequence

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ohmack.core.document.edits import Edit
from ohmack.core.document.functions import KeepAlive
from ohmack.core.document.interventions import interventions_of
from ohmack.core.document.strategy import Weights
from ohmack.core.factory.function_edits import functions_for, happens_to, keep_alive
from ohmack.core.planning.strategy import Laying, lay_strategy
from ohmack.formats.entry import EntryError, read_quantity
from ohmack.store.designs import DesignRecord, TooManyOptions
from ohmack.web.page import Problem
from ohmack.web.render import go, job_answer, workshop_of
from ohmack.web.routes.edits import address_of, page_of, perform
from ohmack.web.routes.forms import Form, text

router = APIRouter()


@router.post("/jobs/{number}/functions", name="lay_functions")
def lay_functions(request: Request, number: str, form: Form) -> Response:
    """Lay in the functions such a car usually has."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        edits = functions_for(record.design)
        if not edits:
            raise EntryError("Everything such a car usually does is on file already.")
        return edits, "usual functions laid in"

    return perform(request, number, form, plan)


@router.post("/jobs/{number}/act", name="act")
def act(request: Request, number: str, form: Form) -> Response:
    """Say what happens to the radio or a module."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        thing_id, words = text(form, "thing"), text(form, "act")
        return happens_to(record.design, thing_id, words), f"{thing_id} {words or 'left alone'}"

    return perform(request, number, form, plan)


@router.post("/jobs/{number}/keep-alive", name="keep_alive")
def keep(request: Request, number: str, form: Form) -> Response:
    """Add a keep-alive measure, or take one back."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        now = next((i for i in interventions_of(record.design) if i.id == text(form, "thing")), None)
        if now is None:
            raise EntryError("Nothing happens to that module; say first what does.")
        try:
            measure = KeepAlive(text(form, "measure"))
        except ValueError:
            raise EntryError("Choose one of the measures.") from None
        if text(form, "back"):
            left = [k.value for k in now.keep_alive if k is not measure]
            return [Edit(path=f"interventions/{now.id}/keep_alive", value=left)], f"{measure.value} taken back"
        if measure in now.keep_alive:
            return [], ""
        return [keep_alive(record.design, now, measure)], f"{now.id}: {measure.value}"

    return perform(request, number, form, plan)


@router.post("/jobs/{number}/weights", name="weights")
def weights(request: Request, number: str, form: Form) -> Response:
    """What weighs how much for this customer; `usual` goes back to what the front page suggests."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        if text(form, "usual"):
            return [Edit(path="weights", value=None)], "usual weights"
        values = {}
        for name, field in Weights.model_fields.items():
            try:
                values[name] = read_quantity(text(form, name), "")
            except EntryError as error:
                raise EntryError(f"{field.title}: {error}") from None
        return [Edit(path="weights", value=values)], "weights moved"

    return perform(request, number, form, plan)


@router.post("/jobs/{number}/strategy", name="strategy")
def strategy(request: Request, number: str, form: Form) -> Response:
    """Choose a strategy: its parts and links are laid into the design."""

    done: list[Laying] = []

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        trees = [
            part.model_dump(mode="json", exclude={"id", "position"})
            for part in workshop_of(request).shop.parts(workshop_of(request).context)
        ]
        key = text(form, "strategy")
        done.append(lay_strategy(record.design, key, trees))
        return done[-1].edits, f"strategy: {key}"

    return perform(request, number, form, plan, say=lambda *_: done[-1].sentence)


@router.post("/jobs/{number}/options", name="add_option")
def add_option(request: Request, number: str, form: Form) -> Response:
    """A further option, copied from this one."""
    shop = workshop_of(request)
    try:
        made = shop.designs.add_option(shop.context, number)
    except TooManyOptions as error:
        page = page_of(request, shop.designs.load(shop.context, number), form, problem=Problem("options", str(error)))
        return job_answer(request, page, 422)
    return go(address_of(made, "options", ""))
