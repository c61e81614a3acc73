"""What the harness sheets change: connectors, pins, pin maps in and out, what a pair reaches, the wire hunt."""

from __future__ import annotations

from collections.abc import Sequence

from fastapi import APIRouter, HTTPException, Request
from fastapi.responses import HTMLResponse, Response
from starlette.datastructures import UploadFile

from ohmack.core.document.edits import Edit
from ohmack.core.document.harness import OPEN_OHM, TestKind
from ohmack.core.harness.speaker_circuits import take_reach
from ohmack.core.planning.harness import (
    add_reading,
    begin_hunt,
    connector_of,
    hunt_of,
    new_connector,
    put_map,
    put_result,
    read_pin,
    withdraw,
)
from ohmack.core.wording import count
from ohmack.formats.entry import EntryError, is_whole, read_quantity
from ohmack.formats.pin_map_csv import PinMapReport, changes, merged, read_pin_map, write_pin_map
from ohmack.store.designs import DesignRecord
from ohmack.web.harness import HarnessView
from ohmack.web.page import Page, Problem
from ohmack.web.render import job_answer, page_answer, workshop_of
from ohmack.web.routes.edits import page_of, perform
from ohmack.web.routes.forms import Form, text, texts, whole

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
            opened = name == "body_ohm" and typed.lower() in ("open", "ol", "o.l.", "inf", "∞")
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
    report = (
        read_pin_map(data, record.design.vehicle) if data else PinMapReport((), (), (), "", ",", "Choose a file first.")
    )
    problem = report.problem or ("" if report.cavities else "No row could be taken.")
    if problem:
        page = page_of(request, record, form, problem=Problem("pin-map", problem))
        page.extra["pin_map"] = report
        return job_answer(request, page, 422)

    def plan(current: DesignRecord) -> tuple[Sequence[Edit], str]:
        here = connector_of(current.design, text(form, "connector"))
        return put_map(here, merged(here.cavities, report)), f"pin map of {here.name} from a file"

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


@router.post("/jobs/{number}/reach", name="take_reach")
def reach(request: Request, number: str, form: Form) -> Response:
    """Put into the survey what a pair reaches."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        channel = text(form, "channel")
        return take_reach(record.design, channel, texts(form, "speaker")), f"{channel} reaches what its reading says"

    return perform(request, number, form, plan)


@router.get("/jobs/{number}/labels", name="labels")
def labels(request: Request, number: str) -> HTMLResponse:
    """Labels for both ends of every joint, to print."""
    shop = workshop_of(request)
    record = shop.designs.load(shop.context, number)
    view = HarnessView(Page(record, shop.evaluation(record, sweep=False), "joints"))
    return page_answer(request, "labels.html", record=record, joints=view.joints.joints, view=view)


@router.post("/jobs/{number}/hunt", name="begin_hunt")
def hunt(request: Request, number: str, form: Form) -> Response:
    """Begin a hunt for unknown wires, or end it."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        if text(form, "end"):
            return [Edit(path="vehicle/hunt", value=None)], "wire hunt ended"
        connector = text(form, "connector")
        cavities = texts(form, f"cavity-{connector}") if connector else [""] * whole(form, "loose")
        speakers, grounds = texts(form, "speaker"), whole(form, "grounds")
        wanted = 2 * len(speakers) + grounds
        if not cavities or not speakers:
            raise EntryError("Tick the unknown wires and the speakers they may lead to.")
        if wanted != len(cavities):
            raise EntryError(
                f"{count(len(cavities), 'wire')} for {count(len(speakers), 'speaker')} and {count(grounds, 'ground')}: "
                f"two for each speaker and one for each ground make {wanted}."
            )
        return begin_hunt(record.design, connector, cavities, speakers, grounds), "wire hunt begun"

    return perform(request, number, form, plan)


@router.post("/jobs/{number}/hunt-reading", name="hunt_reading")
def hunt_reading(request: Request, number: str, form: Form) -> Response:
    """A reading of the hunt."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        kind, wires = text(form, "kind"), [w for w in texts(form, "wire") if w]
        hunt_of(record.design)
        value = None
        if kind == TestKind.RESISTANCE.value:
            value = _ohms(text(form, "outcome") or text(form, "value"))
        elif not text(form, "outcome"):
            raise EntryError("Say what happened.")
        if not wires:
            raise EntryError("Say which wires it was taken on.")
        edits = add_reading(
            record.design, kind, wires, value_ohm=value, outcome="" if value is not None else text(form, "outcome")
        )
        return edits, f"wire hunt: {kind}"

    return perform(request, number, form, plan)


def _ohms(typed: str) -> float:
    if typed.strip().lower() in ("open", "ol", "o.l.", "inf", "∞"):
        return OPEN_OHM
    ohm = read_quantity(typed, "ohm")
    if ohm < 0:
        raise EntryError("A resistance is never negative: zero the leads and read again.")
    return ohm


@router.post("/jobs/{number}/hunt-withdraw", name="hunt_withdraw")
def hunt_withdraw(request: Request, number: str, form: Form) -> Response:
    """Withdraw a reading, or take it up again."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        reading = next((r for r in hunt_of(record.design).readings if r.id == text(form, "reading")), None)
        if reading is None:
            raise EntryError("That reading is gone already.")
        return [withdraw(reading)], "reading withdrawn" if not reading.withdrawn else "reading taken up again"

    return perform(request, number, form, plan)


@router.post("/jobs/{number}/hunt-result", name="hunt_result")
def hunt_result(request: Request, number: str, form: Form) -> Response:
    """Put what is certain into the pin map."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        edits = put_result(record.design)
        if not edits:
            raise EntryError("Nothing is certain yet that sits in a cavity of the map.")
        return edits, "wire hunt into the pin map"

    return perform(request, number, form, plan)
