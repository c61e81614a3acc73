"""A wire hunt: begun, read, withdrawn, its result put in."""

from __future__ import annotations

from collections.abc import Sequence

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ohmack.core.document.edits import Edit
from ohmack.core.document.harness import OPEN_OHM, TestKind
from ohmack.core.planning.harness import (
    add_reading,
    begin_hunt,
    hunt_of,
    put_result,
    take_fault,
    withdraw,
)
from ohmack.core.wording import count
from ohmack.formats.entry import EntryError, read_quantity
from ohmack.store.design_rows import DesignRecord
from ohmack.web.routes.edits import perform
from ohmack.web.routes.forms import Form, text, texts, whole

router = APIRouter()


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


@router.post("/jobs/{number}/hunt-fault", name="hunt_fault")
def hunt_fault(request: Request, number: str, form: Form) -> Response:
    """Take a speaker of the hunt for dead or shorted, or for whole again."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        speaker_id, fault = text(form, "speaker"), text(form, "fault")
        edits = take_fault(record.design, fault, speaker_id)
        name = next(s.name for s in record.design.vehicle.speakers if s.id == speaker_id)
        return edits, f"{name} taken for {fault or 'whole'}"

    return perform(request, number, form, plan)
