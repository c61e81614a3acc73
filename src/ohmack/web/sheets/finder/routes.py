"""A wire hunt: begun, read, withdrawn, its result put in."""

from __future__ import annotations

from collections.abc import Sequence

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ohmack.core.document.edits import Edit
from ohmack.core.document.harness import OPEN_OHM, TestKind
from ohmack.core.errors import OutOfRange
from ohmack.core.physics.labelled_matching import MOST_WIRES, MOST_WITH_ABSENT, check_size
from ohmack.core.planning.hunting import (
    add_reading,
    begin_hunt,
    hunt_of,
    put_result,
    take_fault,
    withdraw,
)
from ohmack.core.wording import count
from ohmack.formats.entry import EntryError, is_open, read_quantity
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
        named = [line for line in text(form, "names").splitlines() if line.strip()]
        loose = named or [""] * whole(form, "loose")
        cavities = texts(form, f"cavity-{connector}") if connector else loose
        speakers, grounds = texts(form, "speaker"), whole(form, "grounds")
        if not cavities or not speakers:
            raise EntryError("Tick the unknown wires and the speakers they may lead to.")
        if len(cavities) > MOST_WIRES:
            raise EntryError(f"{count(len(cavities), 'wire')} at once: {MOST_WIRES} are the most. Begin with some.")
        _check_even(len(cavities), len(speakers), grounds)
        bundles = bool(text(form, "bundles"))
        edits = begin_hunt(record.design, connector, cavities, speakers, grounds, bundles=bundles)
        return edits, "wire hunt begun"

    return perform(request, number, form, plan)


def _check_even(wires: int, speakers: int, grounds: int) -> None:
    try:
        check_size(wires, speakers, grounds)
    except OutOfRange:
        pairs = f"{count(wires, 'wire')} for {count(speakers, 'speaker')} and {count(grounds, 'ground')}: "
        if (wires - grounds) % 2:
            raise EntryError(f"{pairs}without the grounds an odd number is left, and every pair takes two.") from None
        raise EntryError(
            f"{pairs}untick speakers; with more than {MOST_WITH_ABSENT} wires each needs its pair."
        ) from None


@router.post("/jobs/{number}/hunt-reading", name="hunt_reading")
def hunt_reading(request: Request, number: str, form: Form) -> Response:
    """A reading of the hunt."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        kind, wires = text(form, "kind"), list(dict.fromkeys(w for w in texts(form, "wire") if w))
        hunt_of(record.design)
        # a speaker's button says at once who moved and which way
        speaker, _, way = text(form, "outcome").rpartition("|")
        speaker, value = speaker or text(form, "speaker"), None
        outcome = speaker if kind == TestKind.TRIAL.value and speaker else way
        if kind == TestKind.RESISTANCE.value:
            value, outcome = _ohms(outcome or text(form, "value")), ""
        elif not outcome:
            raise EntryError("Say what happened.")
        if not wires:
            raise EntryError("Say which wires it was taken on.")
        edits = add_reading(record.design, kind, wires, value_ohm=value, outcome=outcome, speaker_id=speaker)
        return edits, f"wire hunt: {kind}"

    return perform(request, number, form, plan)


def _ohms(typed: str) -> float:
    if is_open(typed):
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
            raise EntryError("Nothing is certain yet.")
        return edits, "wire hunt into the pin map"

    return perform(request, number, form, plan)


@router.post("/jobs/{number}/hunt-fault", name="hunt_fault")
def hunt_fault(request: Request, number: str, form: Form) -> Response:
    """Take a speaker or a wire of the hunt for broken, or for whole again."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        fault, about, other = text(form, "fault"), text(form, "about"), text(form, "other")
        names = {s.id: s.name for s in record.design.vehicle.speakers}
        names |= {w.id: w.name for w in hunt_of(record.design).wires}
        edits = take_fault(record.design, fault, about, other)
        return edits, f"{names.get(about, 'one speaker')} taken for {fault or 'whole'}"

    return perform(request, number, form, plan)
