"""Files in and out: design export and import, the published schema."""

from __future__ import annotations

import json
from typing import IO

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response
from starlette.datastructures import UploadFile

from ohmack.core.errors import BadDocument, OhmackError
from ohmack.formats.bundle import is_bundle, open_bundle
from ohmack.formats.design_file import LARGEST_BYTES, json_schema, read_design, write_design
from ohmack.web.render import go, page_answer, workshop_of
from ohmack.web.routes.forms import Form, text
from ohmack.web.workshop import judged

router = APIRouter()
MOST_PLACES = 60


@router.get("/schema/ohmack-design.json", name="schema")
def schema() -> Response:
    """The JSON Schema of the file format."""
    return Response(json.dumps(json_schema(), indent=2), media_type="application/schema+json")


@router.get("/jobs/{number}/export", name="export")
def export(request: Request, number: str) -> Response:
    """The design in force as a file."""
    record = workshop_of(request).designs.load(workshop_of(request).context, number)
    headers = {"Content-Disposition": f'attachment; filename="{record.job_number}-{record.letter}.ohmack.json"'}
    return Response(write_design(record.design), media_type="application/json", headers=headers)


@router.get("/import", name="import_form")
def import_form(request: Request) -> HTMLResponse:
    """The form to bring a file in."""
    return page_answer(request, "import.html", places=(), customer="")


@router.post("/import", name="import_file")
def import_file(request: Request, form: Form) -> Response:
    """Open a job from a file; a bad file is refused with places and reasons, and nothing is stored."""
    customer = text(form, "customer").strip()[:120]
    upload = form.get("file")
    if isinstance(upload, UploadFile) and is_bundle(upload.file.read(4)):
        return _bundle(request, upload.file, customer)
    data = _whole(upload) if isinstance(upload, UploadFile) else b""
    if not data or not customer:
        reason = "Choose a file." if not data else "Say whose car it is."
        return page_answer(request, "import.html", 422, places=(("form", reason),), customer=customer)
    try:
        design = read_design(data)
        judged(design)  # what cannot be judged is never stored
    except BadDocument as error:
        return page_answer(request, "import.html", 422, places=_shortened(error.places), customer=customer)
    except OhmackError as error:
        return page_answer(request, "import.html", 422, places=(("design", str(error)),), customer=customer)
    number = workshop_of(request).designs.open_job(
        workshop_of(request).context, customer, "", design.title or "Imported design", design
    )
    return go(f"/jobs/{number}")


def _whole(upload: UploadFile) -> bytes:
    """A design file, and no more of a larger one than is needed to refuse it."""
    upload.file.seek(0)
    return upload.file.read(LARGEST_BYTES + 1)


def _bundle(request: Request, file: IO[bytes], customer: str) -> Response:
    """Open a job from a bundle, whole or not at all."""
    shop = workshop_of(request)
    try:
        with open_bundle(file) as bundle:
            for design in bundle.designs:
                judged(design)
            return go(f"/jobs/{shop.bundles.open(shop.context, customer, bundle)}")
    except BadDocument as error:
        return page_answer(request, "import.html", 422, places=_shortened(error.places), customer=customer)
    except OhmackError as error:
        return page_answer(request, "import.html", 422, places=(("design", str(error)),), customer=customer)


def _shortened(places: tuple[tuple[str, str], ...]) -> tuple[tuple[str, str], ...]:
    """The first places of a bad file, and how many more there are."""
    if len(places) <= MOST_PLACES:
        return places
    return (*places[:MOST_PLACES], ("and more", f"{len(places) - MOST_PLACES} further places are wrong"))
