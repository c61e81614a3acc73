"""Parts and cables that go into a plan, take another's place, get new places, or come out of the car."""

from __future__ import annotations

from collections.abc import Sequence

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ohmack.core.document.edits import Edit
from ohmack.core.document.links import LinkBase
from ohmack.core.document.part import PartBase
from ohmack.core.document.paths import get
from ohmack.core.document.rewired import laid_anew
from ohmack.core.evaluation.results import Results
from ohmack.core.planning.laying import follow
from ohmack.core.planning.new_places import into_new_places
from ohmack.core.planning.part_added import added, said_of
from ohmack.core.planning.parts_tried import in_place_of, taken
from ohmack.core.planning.taking_out import everything_out, link_out, part_out, replaced
from ohmack.formats.entry import EntryError
from ohmack.store.design_rows import DesignRecord
from ohmack.web.render import workshop_of
from ohmack.web.routes.edits import perform
from ohmack.web.routes.forms import Form, text, whole
from ohmack.web.titles import label_of

router = APIRouter()


@router.post("/jobs/{number}/replace-cable", name="replace_cable")
def replace_cable(request: Request, number: str, form: Form) -> Response:
    """A cable that lies in the car comes out, and another is laid in its place."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        link = get(record.design, text(form, "path")[:300])
        if not isinstance(link, LinkBase) or not link.in_car:
            raise EntryError("That cable does not lie in the car.")
        return laid_anew(link), "a cable laid in place of an old one"

    return perform(request, number, form, plan)


@router.post("/jobs/{number}/parts", name="add_part")
def add_part(request: Request, number: str, form: Form) -> Response:
    """Take a part from the catalogue, place it and wire it up."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        part_number = whole(form, "catalogue_id")
        if not part_number:
            raise EntryError("Choose a part first.")
        part = workshop_of(request).shop.part(workshop_of(request).context, part_number)
        tree = part.model_dump(mode="json", exclude={"id", "position"})
        instead = text(form, "instead")[:60]
        if text(form, "swap") and (old := in_place_of(record.design, tree, instead)):
            out = replaced(results_of(request, record), old.id) if old.in_car else ()
            return (*out, *taken(record.design, tree, instead)), f"{part.name} instead of {old.name}"
        there = bool(text(form, "in_car"))
        edits = added(record.design, tree, in_car=there)
        words = f"{part.name} is in the car already" if there else said_of(record.design, f"{part.name} added", edits)
        return edits, words

    return perform(request, number, form, plan)


@router.post("/jobs/{number}/take-out", name="take_out")
def take_out(request: Request, number: str, form: Form) -> Response:
    """What is in the car comes out of it: a part with its cables, a cable alone, everything; undo brings it back."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        path, results = text(form, "path")[:300], results_of(request, record)
        if path == "parts":
            return everything_out(results), "everything comes out"
        thing = get(record.design, path)
        if isinstance(thing, LinkBase):
            return link_out(results, thing.id), "a cable comes out"
        if not isinstance(thing, PartBase):
            raise EntryError("That is no part and no cable.")
        return part_out(results, thing.id), f"{thing.name} comes out"

    return perform(request, number, form, plan)


def results_of(request: Request, record: DesignRecord) -> Results:
    """What is computed of a design as it is stored."""
    return workshop_of(request).evaluation(record, sweep=False).results


@router.post("/jobs/{number}/new-places", name="new_places")
def new_places(request: Request, number: str, form: Form) -> Response:
    """Make places the car had no speaker at, and put a planned one there."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        part_id = text(form, "path").partition("/")[2].partition("/")[0]
        edits = follow(record.design, into_new_places(record.design, part_id, text(form, "what")))
        return edits, f"{text(form, 'what')} made for {label_of(record.design, f'parts/{part_id}')}"

    return perform(request, number, form, plan)
