"""The catalogue: looking, searching, CSV in and out, and typing a part in."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any
from urllib.parse import quote

from fastapi import APIRouter, HTTPException, Request
from fastapi.responses import HTMLResponse, RedirectResponse, Response
from pydantic import BaseModel, ValidationError
from starlette.datastructures import FormData, UploadFile

from ohmack.core.document import Basis
from ohmack.core.document.edits import Edit, sentence
from ohmack.core.document.parts import PART_TYPES, Part
from ohmack.core.errors import NotPossible, UnknownName
from ohmack.core.planning.part_added import added, said_of
from ohmack.core.planning.usual_values import GUESSED, usual_values
from ohmack.core.planning.wire_kit import WireKit, kit_added, kit_parts
from ohmack.core.wording import count
from ohmack.store.database import Conflict
from ohmack.store.design_rows import DesignRecord
from ohmack.store.shop import PART, PartRecord
from ohmack.web.catalogue_csv import MOST_ROWS, SHOWN_REFUSALS, CsvReport, read_catalogue, write_catalogue
from ohmack.web.fields import model_fields
from ohmack.web.render import page_answer, workshop_of
from ohmack.web.routes.edits import perform
from ohmack.web.routes.forms import Form, everything, text, whole
from ohmack.web.typed import read_model

router = APIRouter()


KIT = "wire kit"  # no part, several of them
TO_TYPE: dict[str, type[BaseModel]] = {**PART_TYPES, KIT: WireKit}
LISTED = 200
CHANGED = "Somebody else changed this part meanwhile. What you typed is below; what is on file now is on a fresh page."


def _page(
    request: Request, kind: str, words: str, report: CsvReport | None = None, done: str = "", status: int = 200,
    away: bool = False
) -> HTMLResponse:  # fmt: skip
    workshop = workshop_of(request)
    shop, by = workshop.shop, workshop.context
    kind = kind if kind in PART_TYPES else ""
    return page_answer(
        request,
        "catalogue.html",
        status,
        parts=shop.parts(by, kind, words, LISTED, away),
        total=shop.count_parts(by, kind, words, away),
        kind=kind,
        kinds=list(PART_TYPES),
        words=words,
        report=report,
        done=done,
        most_refusals=SHOWN_REFUSALS,
        away=away,
        put_away=shop.count_parts(by, archived=True),
    )


@router.get("/catalogue", name="catalogue")
def catalogue(request: Request, kind: str = "", words: str = "", away: bool = False) -> HTMLResponse:
    """Every part the shop keeps data of; `away` shows those put away."""
    return _page(request, kind, words[:80], away=away)


@router.get("/catalogue/export", name="export_catalogue")
def export(request: Request, kind: str = "") -> Response:
    """The catalogue as CSV."""
    parts = workshop_of(request).shop.parts(
        workshop_of(request).context, kind if kind in PART_TYPES else "", most=MOST_ROWS
    )
    headers = {"Content-Disposition": 'attachment; filename="catalogue.csv"'}
    return Response(write_catalogue(parts), media_type="text/csv; charset=utf-8", headers=headers)


@router.post("/catalogue/import", name="import_catalogue")
def bring_in(request: Request, form: Form) -> HTMLResponse:
    """Take parts from a CSV file; rows that cannot be taken are reported with their reasons, the rest is stored."""
    upload = form.get("file")
    data = upload.file.read() if isinstance(upload, UploadFile) else b""
    if not data:
        empty = CsvReport((), (), (), "", ",", "Choose a file first.")
        return _page(request, "", "", empty, status=422)
    report = read_catalogue(data)
    if report.problem or not report.parts:
        return _page(request, "", "", report, status=422)
    added, changed, same = workshop_of(request).shop.put_parts(workshop_of(request).context, report.parts)
    return _page(request, "", "", report, f"{count(added, 'part')} added, {changed} changed, {same} as before.")


@router.get("/catalogue/{part_id:number}", name="catalogue_part")
def show_part(request: Request, part_id: int) -> HTMLResponse:
    """One catalogue part, to look at and change."""
    return _edit_page(
        request, part_id, workshop_of(request).shop.record(workshop_of(request).context, part_id), None, {}
    )


def _edit_page(
    request: Request, part_id: int, record: PartRecord, typed: dict[str, list[str]] | None,
    problems: dict[str, str], status: int = 200
) -> HTMLResponse:  # fmt: skip
    fields = model_fields(PART_TYPES[record.part.kind], record.part)
    return page_answer(
        request,
        "catalogue_part.html",
        status,
        part=record.part,
        record=record,
        part_id=part_id,
        fields=fields,
        typed=typed or {},
        problems=problems,
    )


@router.post("/catalogue/{part_id:number}", name="change_catalogue_part")
def change_part(request: Request, part_id: int, form: Form) -> Response:
    """Change what the catalogue says of a part, put it away, or take it back."""
    workshop = workshop_of(request)
    shop, by = workshop.shop, workshop.context
    record = shop.record(by, part_id)
    version = whole(form, "version")
    act = text(form, "act")
    if act in ("away", "back"):
        try:
            shop.put_away(by, part_id, version, back=act == "back")
        except Conflict:
            return _edit_page(request, part_id, shop.record(by, part_id), None, {"": CHANGED}, 409)
        return RedirectResponse(f"/catalogue?kind={quote(record.part.kind)}", 303)
    typed = everything(form)
    values, problems = read_model(PART_TYPES[record.part.kind], typed)
    part, more = _validated(values, record.part.kind, text(form, "name"), problems)
    if part is None:
        return _edit_page(request, part_id, record, typed, more, 422)
    try:
        shop.change_part(by, part_id, version, part)
    except Conflict:
        return _edit_page(request, part_id, shop.record(by, part_id), typed, {"": CHANGED}, 409)
    return RedirectResponse(f"/catalogue?kind={quote(part.kind)}", 303)


def _validated(
    values: dict[str, Any], kind: str, name: str, problems: dict[str, str]
) -> tuple[Part | None, dict[str, str]]:
    """(the part, problems by field) of read values."""
    if not name.strip():
        problems = problems | {"name": "Give it a name."}
    if problems:
        return None, problems
    try:
        return PART.validate_python(values | {"kind": kind, "id": "typed"}), {}
    except ValidationError as error:
        return None, {
            str(e["loc"][1] if len(e["loc"]) > 1 else ""): f"It {sentence(e)}." for e in error.errors(include_url=False)
        }


@router.get("/jobs/{number}/parts/new", name="new_part")
def new_part(request: Request, number: str, kind: str = "amplifier", in_car: str = "") -> HTMLResponse:
    """The form to type a part in; `in_car` for one that is in the car already."""
    if kind not in TO_TYPE:
        raise HTTPException(404, f"There is no kind of part “{kind[:40]}”.")
    record = workshop_of(request).designs.load(workshop_of(request).context, number)
    return _form(request, record, kind, {"in_car": ["yes"]} if in_car else {}, {})


def _form(
    request: Request,
    record: DesignRecord,
    kind: str,
    typed: dict[str, list[str]],
    problems: dict[str, str],
    status: int = 200,
) -> HTMLResponse:
    return page_answer(
        request,
        "new_part.html",
        status,
        record=record,
        kind=kind,
        kinds=list(TO_TYPE),
        of_a_kit=kind == KIT,
        may_be_usual=kind in GUESSED,
        fields=model_fields(TO_TYPE[kind]),
        typed=typed,
        problems=problems,
    )


def _type_kit(request: Request, record: DesignRecord, typed: dict[str, list[str]], form: FormData) -> Response:
    """Take a typed-in wire kit into the job, as the parts it is made of."""
    values, problems = read_model(WireKit, typed)
    kit: WireKit | None = None
    try:
        if not problems:
            kit = WireKit.model_validate(values)
            kit_parts(kit)
    except ValidationError as error:
        problems = {str(e["loc"][0]): f"It {sentence(e)}." for e in error.errors(include_url=False)}
    except NotPossible as error:
        problems = {error.parameter: error.reason}
    except UnknownName as error:
        problems = {"wire_size": str(error)}
    if kit is None or problems:
        return _form(request, record, KIT, typed, problems, 422)

    def plan(current: DesignRecord) -> tuple[Sequence[Edit], str]:
        return kit_added(current.design, kit), f"{kit.name} typed in"

    return perform(request, record.address, form, plan)


def _left_empty(model: type[BaseModel], typed: dict[str, list[str]]) -> set[str]:
    """The fields a part cannot be without that nothing was typed into."""
    return {
        name
        for name, info in model.model_fields.items()
        if info.is_required() and not any(words.strip() for words in typed.get(name, []))
    }


@router.post("/jobs/{number}/parts/new", name="type_part")
def type_part(request: Request, number: str, form: Form) -> Response:
    """Take a typed-in part into the job, and into the catalogue where wished."""
    shop = workshop_of(request)
    record = shop.designs.load(shop.context, number)
    kind = text(form, "kind")
    if kind not in TO_TYPE:
        raise HTTPException(404, "There is no such kind of part.")
    typed = everything(form)
    if kind == KIT:
        return _type_kit(request, record, typed, form)
    values, problems = read_model(PART_TYPES[kind], typed)
    usual: dict[str, Any] = {}
    if text(form, "usual"):
        usual = usual_values(kind, values, _left_empty(PART_TYPES[kind], typed), record.design.policy)
        problems = {name: words for name, words in problems.items() if name not in usual}
    part, problems = _validated(values | usual, kind, text(form, "name"), problems)
    if part is None:
        if text(form, "usual") and "ratings" in problems:
            problems["ratings"] = "Type its power, or its own fuses: what is usual behind them is worked out."
        return _form(request, record, kind, typed, problems, 422)
    tree = part.model_dump(mode="json", exclude={"id", "position"}) | {"taken_as_usual": list(usual)}
    if text(form, "keep"):
        kept = part.model_copy(update={"basis": Basis.ASSUMED}) if usual else part
        tree["catalogue_id"] = shop.shop.add_part(shop.context, kept)

    def plan(current: DesignRecord) -> tuple[Sequence[Edit], str]:
        edits = added(current.design, tree, in_car=bool(text(form, "in_car")))
        return edits, said_of(current.design, f"{part.name} typed in", edits)

    return perform(request, number, form, plan)
