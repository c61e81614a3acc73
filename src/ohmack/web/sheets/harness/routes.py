"""What the pin map's page asks for: plugs, readings, maps as files, what a pair reaches."""

from __future__ import annotations

from collections.abc import Sequence

from fastapi import APIRouter, HTTPException, Request
from fastapi.responses import Response
from starlette.datastructures import UploadFile

from ohmack.core.document.edits import Edit
from ohmack.core.document.facts import Basis
from ohmack.core.document.handles import at
from ohmack.core.document.harness import OPEN_OHM
from ohmack.core.harness.speaker_circuits import take_reach
from ohmack.core.planning.harness import (
    connector_of,
    new_connector,
    put_map,
    read_pin,
)
from ohmack.core.wording import count
from ohmack.formats.entry import EntryError, is_open, is_whole, read_quantity
from ohmack.formats.pin_grid import COLUMNS, read_grid
from ohmack.formats.pin_map_csv import PinMapReport, changes, merged, read_pin_map, write_pin_map
from ohmack.store.design_rows import DesignRecord
from ohmack.web.page import Problem
from ohmack.web.render import job_answer, workshop_of
from ohmack.web.routes.edits import page_of, perform
from ohmack.web.routes.forms import Form, text, texts

router = APIRouter()


@router.post("/jobs/{number}/connector", name="add_connector")
def add_connector(request: Request, number: str, form: Form) -> Response:
    """A further connector, its cavities still to be found out."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        name = text(form, "name").strip()
        if not name:
            raise EntryError("Give the connector a name.")
        more = {field: text(form, field) for field in ("keyway", "numbered", "gender") if text(form, field)}
        return new_connector(
            record.design, name, _count(form, "rows"), _count(form, "columns"), **more
        ), f"connector {name}"

    return perform(request, number, form, plan, opened=True)


def _count(form: Form, name: str) -> int:
    """A typed whole number; a sentence where it is none."""
    typed = text(form, name).strip()
    if not is_whole(typed, 4):
        raise EntryError(
            f"{name.capitalize()}: “{typed[:20]}” is no whole number." if typed else f"How many {name} has it?"
        )
    return int(typed)


@router.post("/jobs/{number}/pin", name="read_pin")
def pin(request: Request, number: str, form: Form) -> Response:
    """What the meter showed at one cavity."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        readings: dict[str, float | None] = {}
        for name, unit in (("off_v", "v"), ("accessory_v", "v"), ("lights_v", "v"), ("body_ohm", "ohm")):
            typed = text(form, name).strip()
            opened = name == "body_ohm" and is_open(typed)
            readings[name] = OPEN_OHM if opened else read_quantity(typed, unit) if typed else None
            if (readings[name] or 0) < 0 and name == "body_ohm":
                raise EntryError("A resistance is never negative: zero the leads and read again.")
        connector, cavity = text(form, "connector"), text(form, "cavity")
        return read_pin(record.design, connector, cavity, readings), f"{connector} {cavity} read by meter"

    return perform(request, number, form, plan)


@router.get("/jobs/{number}/pin-map/{connector}", name="export_pin_map")
def export(request: Request, number: str, connector: str) -> Response:
    """A connector's pin map as CSV."""
    record = workshop_of(request).designs.load(workshop_of(request).context, number)
    found = next((c for c in record.design.vehicle.connectors if c.id == connector), None)
    if found is None:
        raise HTTPException(404, f"There is no connector “{connector[:40]}”.")
    headers = {"Content-Disposition": f'attachment; filename="{record.job_number}-{found.id}.csv"'}
    return Response(write_pin_map(found, record.design.vehicle), media_type="text/csv; charset=utf-8", headers=headers)


@router.post("/jobs/{number}/pin-map", name="import_pin_map")
def bring_in(request: Request, number: str, form: Form) -> Response:
    """Rows of a CSV file over a connector's map; refused rows are named, what was measured stays."""
    shop = workshop_of(request)
    record = shop.designs.load(shop.context, number)
    upload = form.get("file")
    data = upload.file.read() if isinstance(upload, UploadFile) else b""
    here = next((c for c in record.design.vehicle.connectors if c.id == text(form, "connector")), None)
    if here is None:
        page = page_of(request, record, form, problem=Problem("pin-map", "Choose the connector the map is of."))
        return job_answer(request, page, 422)
    report = (
        read_pin_map(data, record.design.vehicle, here.housing)
        if data
        else PinMapReport((), (), (), "", ",", "Choose a file first.")
    )
    problem = report.problem or ("" if report.cavities else "No row could be taken.")
    if problem:
        page = page_of(request, record, form, problem=Problem("pin-map", problem))
        page.extra["pin_map"] = report
        return job_answer(request, page, 422)

    def plan(current: DesignRecord) -> tuple[Sequence[Edit], str]:
        here = connector_of(current.design, text(form, "connector"))
        edits = [*put_map(here, merged(here.cavities, report))]
        if report.lettered:
            edits.append(Edit(path=at(here, lambda it: it.housing.numbered), value="lettered rows"))
        return edits, f"pin map of {here.name} from a file"

    answer = perform(request, number, form, plan)
    if answer.status_code >= 400:
        return answer
    page = page_of(request, shop.designs.load(shop.context, number), form)
    page.extra["pin_map"] = report
    connector = connector_of(record.design, text(form, "connector"))
    page.extra["pin_map_changes"] = changes(connector.cavities, report, record.design.vehicle)
    page.extra["pin_map_done"] = (
        f"{count(len(report.cavities), 'cavity', 'cavities')} taken. Undo puts back what was there."
    )
    return job_answer(request, page)


@router.post("/jobs/{number}/pin-grid", name="type_pin_map")
def grid(request: Request, number: str, form: Form) -> Response:
    """A map typed as a grid: every cavity at once, one save."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        here = connector_of(record.design, text(form, "connector"))
        typed = {
            c.id: {name: text(form, f"{name}-{c.id}") for name in COLUMNS if f"{name}-{c.id}" in form}
            for c in here.cavities
        }
        basis = Basis.MEASURED if text(form, "basis") == Basis.MEASURED.value else Basis.DOCUMENTED
        cavities = read_grid(here, record.design.vehicle, typed, basis)
        changed = sum(new != old for new, old in zip(cavities, here.cavities, strict=True))
        if not changed:
            return [], "nothing changed"
        return put_map(here, cavities), f"{count(changed, 'cavity', 'cavities')} of {here.name} typed"

    return perform(request, number, form, plan, say=lambda _, edits: "The map is kept." if edits else "")


@router.post("/jobs/{number}/reach", name="take_reach")
def reach(request: Request, number: str, form: Form) -> Response:
    """Put into the survey what a pair reaches."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        channel = text(form, "channel")
        return take_reach(record.design, channel, texts(form, "speaker")), f"{channel} reaches what its reading says"

    return perform(request, number, form, plan)
