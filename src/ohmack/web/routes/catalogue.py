"""The catalogue: looking, searching, CSV in and out, and typing a part in."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter, HTTPException, Request
from fastapi.responses import HTMLResponse, Response
from pydantic import ValidationError
from starlette.datastructures import UploadFile

from ohmack.core.document.edits import Edit, sentence
from ohmack.core.document.parts import PART_TYPES
from ohmack.core.wording import count
from ohmack.store.designs import DesignRecord
from ohmack.store.shop import PART
from ohmack.web.catalogue_csv import MOST_ROWS, SHOWN_REFUSALS, CsvReport, read_catalogue, write_catalogue
from ohmack.web.fields import model_fields, read_model
from ohmack.web.render import page_answer, workshop_of
from ohmack.web.routes.edits import perform, wired
from ohmack.web.routes.forms import Form, everything, text

router = APIRouter()


LISTED = 200


def _page(
    request: Request, kind: str, words: str, report: CsvReport | None = None, done: str = "", status: int = 200
) -> HTMLResponse:
    shop = workshop_of(request).shop
    kind = kind if kind in PART_TYPES else ""
    return page_answer(
        request, "catalogue.html", status, parts=shop.parts(kind, words, LISTED), total=shop.count_parts(kind, words), kind=kind, kinds=list(PART_TYPES),
        words=words, report=report, done=done, most_refusals=SHOWN_REFUSALS,
    )  # fmt: skip


@router.get("/catalogue", name="catalogue")
def catalogue(request: Request, kind: str = "", words: str = "") -> HTMLResponse:
    """Every part the shop keeps data of."""
    return _page(request, kind, words[:80])


@router.get("/catalogue/export", name="export_catalogue")
def export(request: Request, kind: str = "") -> Response:
    """The catalogue as CSV."""
    parts = workshop_of(request).shop.parts(kind if kind in PART_TYPES else "", most=MOST_ROWS)
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
    added, changed, same = workshop_of(request).shop.put_parts(report.parts)
    return _page(request, "", "", report, f"{count(added, 'part')} added, {changed} changed, {same} as before.")


@router.get("/jobs/{number}/parts/new", name="new_part")
def new_part(request: Request, number: str, kind: str = "amplifier") -> HTMLResponse:
    """The form to type a part in."""
    if kind not in PART_TYPES:
        raise HTTPException(404, f"There is no kind of part “{kind[:40]}”.")
    record = workshop_of(request).designs.load(number)
    return _form(request, record, kind, {}, {})


def _form(
    request: Request,
    record: DesignRecord,
    kind: str,
    typed: dict[str, list[str]],
    problems: dict[str, str],
    status: int = 200,
) -> HTMLResponse:
    return page_answer(
        request, "new_part.html", status, record=record, kind=kind, kinds=list(PART_TYPES), fields=model_fields(PART_TYPES[kind]),
        typed=typed, problems=problems,
    )  # fmt: skip


@router.post("/jobs/{number}/parts/new", name="type_part")
def type_part(request: Request, number: str, form: Form) -> Response:
    """Take a typed-in part into the job, and into the catalogue where wished."""
    shop = workshop_of(request)
    record = shop.designs.load(number)
    kind = text(form, "kind")
    if kind not in PART_TYPES:
        raise HTTPException(404, "There is no such kind of part.")
    values, problems = read_model(PART_TYPES[kind], everything(form))
    if not text(form, "name").strip():
        problems["name"] = "Give it a name."
    tree: dict[str, Any] = values | {"kind": kind}
    if not problems:
        try:
            part = PART.validate_python(tree | {"id": "typed"})
        except ValidationError as error:
            problems = {
                str(e["loc"][1] if len(e["loc"]) > 1 else ""): f"It {sentence(e)}."
                for e in error.errors(include_url=False)
            }
    if problems:
        return _form(request, record, kind, everything(form), problems, 422)
    tree = part.model_dump(mode="json", exclude={"id", "position"})
    if text(form, "keep"):
        tree["catalogue_id"] = shop.shop.add_part(part)

    def plan(current: DesignRecord) -> tuple[list[Edit], str]:
        return wired(current, tree), f"{part.name} typed in"

    return perform(request, number, form, plan)
