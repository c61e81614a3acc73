"""The wishes' weights, and the choice of a way."""

from __future__ import annotations

from collections.abc import Sequence

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ohmack.core.document.edits import Edit
from ohmack.core.document.strategy import Weights
from ohmack.core.planning.strategy import Laying, lay_strategy
from ohmack.formats.entry import EntryError, read_quantity
from ohmack.store.design_rows import DesignRecord
from ohmack.web.extras import trees_of
from ohmack.web.render import workshop_of
from ohmack.web.routes.edits import perform
from ohmack.web.routes.forms import Form, text

router = APIRouter()


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
        trees = trees_of(workshop_of(request))
        key = text(form, "strategy")
        done.append(lay_strategy(record.design, key, trees))
        return done[-1].edits, f"strategy: {key}"

    return perform(request, number, form, plan, say=lambda record, edits: done[-1].sentence)
