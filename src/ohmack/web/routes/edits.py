"""Everything that changes a design: parse, edit, save, evaluate, render."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Any
from urllib.parse import quote

from fastapi import APIRouter, HTTPException, Request
from fastapi.responses import Response
from starlette.datastructures import FormData

from ohmack.core.document import Basis, Fact
from ohmack.core.document.edits import Edit
from ohmack.core.document.paths import get
from ohmack.core.errors import BadDocument, OfTheValue, OhmackError, in_words
from ohmack.core.planning.laying import follow, lay_anew
from ohmack.core.planning.moving import check_on_body, insert_way_point, move_to, nudge, put_in
from ohmack.core.planning.remedies import edits_of
from ohmack.core.planning.survey import add_to_survey
from ohmack.drawing.car import frame_of
from ohmack.formats.entry import EntryError
from ohmack.store.database import Conflict, NotFound
from ohmack.store.design_rows import DesignRecord
from ohmack.web.clock import today
from ohmack.web.extras import extras
from ohmack.web.fields import fact_view
from ohmack.web.page import Page, Problem
from ohmack.web.render import go, job_answer, wants_fragment, workshop_of
from ohmack.web.routes.forms import Form, everything, text, texts, whole
from ohmack.web.sheet import Asked, sheets
from ohmack.web.titles import label_of
from ohmack.web.typed import read_field, read_stated
from ohmack.web.workshop import MERGE_TRIES, Workshop, judged

router = APIRouter()
Plan = Callable[[DesignRecord], tuple[Sequence[Edit], str]]
Say = Callable[[DesignRecord, Sequence[Edit]], str]


def stage_of(form: FormData) -> str:
    """The sheet a form was sent from."""
    stage = text(form, "stage", "plan")
    return stage if stage in sheets() or stage in ("job", "policy", "history", "measure") else "plan"


def address_of(number: str, stage: str, show: str, since: int = 0) -> str:
    """The address of a sheet with a thing selected."""
    base = f"/jobs/{number}" if stage == "job" else f"/jobs/{number}/{stage}"
    query = [f"show={quote(show, safe='/:')}"] if show else []
    query += [f"since={since}"] if since else []
    return base + (f"?{'&'.join(query)}" if query else "")


def page_of(request: Request, record: DesignRecord, form: FormData, show: str = "", **more: Any) -> Page:
    """The page an edit is answered with; the form says what is selected unless `show` does."""
    shop, stage = workshop_of(request), stage_of(form)
    selected = show or text(form, "show")[:300]
    page = Page(record, shop.evaluation(record, sweep=stage == "measure"), stage, selected, **more)
    page.extra = extras(shop, record, stage, Asked(page.show))
    return page


def perform(
    request: Request, number: str, form: FormData, plan: Plan, opened: bool = False, say: Say | None = None
) -> Response:
    """Make edits from a form, save them behind the version check, and answer with what moved.

    Edits of somebody else meanwhile are no hindrance as long as they are about other things; the same thing conflicts.
    With `opened` the thing the last edit adds is selected in the answer; `say` makes a sentence about what was done.
    """
    shop = workshop_of(request)
    version, base, stage, show = whole(form, "version"), whole(form, "base"), stage_of(form), text(form, "show")[:300]
    path = text(form, "path")[:300]
    for _ in range(MERGE_TRIES):
        record = shop.designs.load(shop.context, number)
        try:
            made, reason = plan(record)
            if version != record.version and not shop.untouched(record, base, made):
                return _conflict(request, record, form)
            if not made:
                return _done(request, stage, show, record, record, form)
            after = shop.edit(record, made, reason)
        except Conflict:
            continue  # somebody was quicker between reading and saving: once more on what is there now
        except EntryError as error:
            return refusal(request, record, form, path, str(error))
        except BadDocument as error:
            return refusal(request, record, form, path, _sentence(error, path))
        except OhmackError as error:
            return refusal(request, record, form, path, str(error))
        if opened:
            show = f"{made[-1].path}/{made[-1].value['id']}"
        return _done(request, stage, show, record, after, form, say(record, made) if say else "")
    return _conflict(request, shop.designs.load(shop.context, number), form)


def refusal(request: Request, record: DesignRecord, form: FormData, path: str, sentence: str) -> Response:
    """What was typed was not taken: said at its place, with everything typed kept."""
    problem = Problem(path, sentence, everything(form))
    return job_answer(request, page_of(request, record, form, problem=problem), 422)


def _done(
    request: Request, stage: str, show: str, before: DesignRecord, after: DesignRecord, form: FormData,
    message: str = "",
) -> Response:  # fmt: skip
    """The answer to what was done: the page as it is after it, and what moved since before."""
    shop, number = workshop_of(request), after.address
    if (after.design.vehicle, after.design.intake) != (before.design.vehicle, before.design.intake):
        _share(shop, after)
    if not wants_fragment(request):
        return go(address_of(number, stage, show, before.number))
    page = page_of(request, after, form, show, message=message)
    page.added = show != text(form, "show")[:300]
    page.moved = shop.moved_between(before, page.evaluation)
    return job_answer(request, page, address=address_of(number, stage, show))


def _share(shop: Workshop, after: DesignRecord) -> None:
    """The survey belongs to the job: that of one option goes to the others."""
    if len(shop.designs.options(shop.context, after.address)) > 1:
        shop.share_survey(after)


def _sentence(error: BadDocument, path: str) -> str:
    """The reasons of a refused document, shortest way to say them: what was typed is "it", anything else is named."""
    reasons = []
    for place, reason in error.places:
        leaf = place.split("/")[-1]
        near = leaf in path or place in path or leaf in ("value", "low", "high")
        if isinstance(reason, OfTheValue):
            reasons.append(f"{'It' if near else in_words(leaf).capitalize()} {reason}.")
        else:
            reasons.append(f"{reason[0].upper()}{reason[1:]}.")
    return " ".join(dict.fromkeys(reasons))


def _conflict(request: Request, record: DesignRecord, form: FormData) -> Response:
    """Somebody saved first: show the newest state and keep what was typed."""
    shop = workshop_of(request)
    page = page_of(request, record, form)
    base = whole(form, "base")
    moved: tuple[Any, ...] = ()
    if 0 < base < record.number + 1 and base != record.number:
        found = shop.moved(record, base)
        moved = found.moved if found else ()
    path = text(form, "path")[:300]
    kept = [(k, v) for k, vs in everything(form).items() if k not in ("version", "base") for v in vs]
    page.conflict = {
        "label": label_of(record.design, path) if path else text(form, "what") or "what you did",
        "typed": ", ".join(t for t in texts(form, "value") if t) or text(form, "what"),
        "kept": kept,
        "action": request.url.path,
        "moved": moved,
    }
    return job_answer(request, page, 409)


def _fact_edit(record: DesignRecord, form: FormData) -> tuple[Sequence[Edit], str]:
    """A fact from its form: value, basis, range, how, who, note. What is typed from a meter is measured, in one act."""
    path = text(form, "path")[:300]
    fact = get(record.design, path)
    if not isinstance(fact, Fact):
        raise EntryError("There is no such fact.")
    value, stated = read_stated(record.design, f"{path}/value", texts(form, "value"), text(form, "stated"))
    if text(form, "reading") and not any(t.strip() for t in texts(form, "value")):
        raise EntryError("Enter the reading first.")
    before = tree_value(fact)
    basis = _basis_of(record, form, fact, value)
    tree = fact.model_dump(mode="json") | {"value": value, "basis": basis}
    if basis == Basis.ASSUMED.value:
        for end in ("low", "high"):
            if end in form:
                tree[end] = read_field(record.design, f"{path}/{end}", texts(form, end))
    else:
        tree |= {"low": None, "high": None, "alternatives": []}
    for name in ("who", "note"):
        if name in form:
            tree[name] = text(form, name)
    if "how" in form and text(form, "how") != fact.how.value:
        tree["how"] = text(form, "how")
    elif basis != fact.basis.value:
        by_meter = isinstance(value, (float, list))  # a number, or the key states a feed is live in
        tree["how"] = {"measured": "by meter" if by_meter else "by eye", "documented": "papers"}.get(
            basis, "not checked"
        )
    if value != before or basis != fact.basis.value:
        tree["when"] = today()
    if value is None:
        tree |= {"basis": "assumed", "how": "not checked"}
    words = " ".join(texts(form, "value")) or "not known"
    return [Edit(path=path, value=tree), *stated], f"{label_of(record.design, path)}: {words} ({basis})"


def _basis_of(record: DesignRecord, form: FormData, fact: Fact[Any], value: Any) -> str:
    """The basis of an entry: as chosen; a value typed over an assumption is a reading unless its range was typed
    too.
    """
    chosen = text(form, "basis") or Basis.MEASURED.value
    if chosen != Basis.ASSUMED.value or fact.basis is not Basis.ASSUMED or value is None or value == tree_value(fact):
        return chosen
    path = text(form, "path")[:300]
    shown = fact_view(record.design, path)
    ends = {"low": shown.low, "high": shown.high}
    moved = any(name in form and text(form, name).strip() != was for name, was in ends.items())
    return chosen if moved else Basis.MEASURED.value


def tree_value(fact: Fact[Any]) -> Any:
    """A fact's value as plain JSON."""
    return fact.model_dump(mode="json")["value"]


@router.post("/jobs/{number}/edit", name="edit")
def edit(request: Request, number: str, form: Form) -> Response:
    """Set one value."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        path = text(form, "path")[:300]
        value, stated = read_stated(record.design, path, texts(form, "value"), text(form, "stated"))
        if "/position/" in path:
            check_on_body(record.design, path, value)
        words = " ".join(texts(form, "value"))[:80] or "empty"
        edits = follow(record.design, [Edit(path=path, value=value), *stated])
        return edits, f"{label_of(record.design, path)}: {words}"

    return perform(request, number, form, plan)


@router.post("/jobs/{number}/fact", name="fact")
def fact(request: Request, number: str, form: Form) -> Response:
    """Enter a fact, or a reading of it."""
    return perform(request, number, form, lambda record: _fact_edit(record, form))


@router.post("/jobs/{number}/choose", name="choose")
def choose(request: Request, number: str, form: Form) -> Response:
    """Set a reference to another thing, a wiring, or several at once."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        path, values = text(form, "path")[:300], texts(form, "value")
        value: Any = values if text(form, "many") else (values[0] if values and values[0] else None)
        if path.endswith(("wiring",)) and value is None:
            value = ""
        if path.endswith("/position"):  # a place by its name
            moves = put_in(record.design, path.removesuffix("/position"), str(value or ""))
        else:
            moves = (Edit(path=path, value=value),)
        edits = follow(record.design, moves)
        return edits, text(form, "what")[:120] or f"{label_of(record.design, path)} chosen"

    return perform(request, number, form, plan)


@router.post("/jobs/{number}/remedy", name="remedy")
def remedy(request: Request, number: str, form: Form) -> Response:
    """Apply a finding's remedy, found again in the current evaluation."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        evaluation = workshop_of(request).evaluation(record, sweep=False)
        rule, about = text(form, "rule"), text(form, "about")
        for finding in evaluation.findings:
            if (finding.rule, finding.about) == (rule, about) and finding.remedy:
                return edits_of(record.design, finding.remedy), finding.remedy.label
        raise EntryError("That finding is gone; nothing had to be changed.")

    return perform(request, number, form, plan)


@router.post("/jobs/{number}/remove", name="remove")
def remove(request: Request, number: str, form: Form) -> Response:
    """Take a part, a link or a thing out; undo brings it back."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        path = text(form, "path")[:300]
        name = getattr(get(record.design, path), "name", "") or path.split("/")[-1]
        return follow(record.design, [Edit(op="remove", path=path)]), f"{name} removed"

    return perform(request, number, form, plan)


@router.post("/jobs/{number}/add", name="add_to_survey")
def add(request: Request, number: str, form: Form) -> Response:
    """Add a ground point, feed, speaker or passage to the survey."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        _, edits = add_to_survey(record.design, text(form, "what"))
        return edits, f"{text(form, 'what')} added"

    return perform(request, number, form, plan, opened=True)


@router.post("/jobs/{number}/move", name="move")
def move(request: Request, number: str, form: Form) -> Response:
    """Move a thing or a way point: dropped at a place of the picture, or nudged."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        path, direction = text(form, "path")[:300], text(form, "nudge")
        if direction:
            nudged = follow(record.design, nudge(record.design, path, direction))
            return nudged, f"{label_of(record.design, path)} nudged {direction}"
        x, _, y = text(form, "at").partition(",")
        try:
            place = frame_of(record.design.vehicle).back(float(x), float(y))
        except ValueError:
            raise EntryError("That is no place on the car.") from None
        return follow(record.design, move_to(path, *place)), f"{label_of(record.design, path)} moved"

    return perform(request, number, form, plan)


@router.post("/jobs/{number}/way", name="way")
def way(request: Request, number: str, form: Form) -> Response:
    """Add a way point to a run, or take the last one out."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        link_id = text(form, "link")
        if text(form, "action") == "add":
            return follow(record.design, insert_way_point(record.design, link_id)), "way point added"
        if text(form, "action") == "lay":
            return lay_anew(record.design, [link_id]), "laid anew"
        points = get(record.design, f"links/{link_id}/way_points")
        less = [Edit(path=f"links/{link_id}/way_points", value=[p.model_dump() for p in points[:-1]])]
        return follow(record.design, less), "way point removed"

    return perform(request, number, form, plan)


@router.post("/jobs/{number}/undo", name="undo")
def undo(request: Request, number: str, form: Form) -> Response:
    """Back to the revision before."""
    return _step(request, number, form, forward=False)


@router.post("/jobs/{number}/redo", name="redo")
def redo(request: Request, number: str, form: Form) -> Response:
    """On to the revision that was undone."""
    return _step(request, number, form, forward=True)


def _step(request: Request, number: str, form: FormData, forward: bool) -> Response:
    shop = workshop_of(request)
    design_id, _, at, _, _ = shop.designs.where_it_stands(shop.context, number)
    try:
        shop.designs.step(shop.context, design_id, whole(form, "version"), forward)
    except Conflict:
        return _conflict(request, shop.designs.load(shop.context, number), form)
    after = shop.designs.load(shop.context, number)
    return _done(request, stage_of(form), text(form, "show")[:300], _before(shop, after, at), after, form)


def _before(shop: Workshop, record: DesignRecord, at: int) -> DesignRecord:
    """A record as it was at another revision; as it is where that one cannot be read."""
    try:
        return replace(record, design=shop.designs.revision(shop.context, record.design_id, at), number=at)
    except (BadDocument, NotFound):
        return record


@router.post("/jobs/{number}/restore", name="restore")
def restore(request: Request, number: str, form: Form) -> Response:
    """Make an old revision the newest one; it works too where the revision in force cannot be read or judged."""
    shop = workshop_of(request)
    design_id, _, at, _, _ = shop.designs.where_it_stands(shop.context, number)
    wanted = whole(form, "revision")
    try:
        design = shop.designs.revision(shop.context, design_id, wanted)
        judged(design)
    except OhmackError as error:
        raise HTTPException(422, f"Revision {wanted} cannot be judged either: {error}") from None
    try:
        shop.designs.save(shop.context, design_id, whole(form, "version"), design, f"revision {wanted} restored")
    except Conflict:
        return _conflict(request, shop.designs.load(shop.context, number), form)
    after = shop.designs.load(shop.context, number)
    return _done(request, "plan", "", _before(shop, after, at), after, form)
