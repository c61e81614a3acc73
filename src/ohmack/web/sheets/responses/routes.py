"""Responses read in, flattened, and given out again."""

from __future__ import annotations

from collections.abc import Sequence

from fastapi import APIRouter, HTTPException, Request
from fastapi.responses import Response
from starlette.datastructures import FormData, UploadFile

from ohmack.core.document.edits import Edit
from ohmack.core.errors import OhmackError
from ohmack.core.physics.equalising import Flattened
from ohmack.core.planning.responses import flatten, response_of, take_in
from ohmack.core.planning.survey import distortion_reading
from ohmack.core.signal.recorded import distorted, heard_in_noise, less_microphone, swept
from ohmack.core.wording import amount, count, listed
from ohmack.formats.entry import EntryError, read_quantity
from ohmack.formats.recording import BadRecording, read_recording
from ohmack.formats.response_columns import BadColumns, read_columns, write_columns
from ohmack.store.design_rows import DesignRecord
from ohmack.web.render import workshop_of
from ohmack.web.routes.edits import perform
from ohmack.web.routes.forms import Form, text, texts, whole

router = APIRouter()
GATES_MS = 1.0, 2000.0
Plan = tuple[Sequence[Edit], str]


@router.get("/jobs/{number}/responses/{name}.csv", name="response_columns")
def columns(request: Request, number: str, name: str) -> Response:
    """A response as CSV."""
    shop = workshop_of(request)
    record = shop.designs.load(shop.context, number)
    try:
        found = response_of(record.design, name)
    except OhmackError:
        raise HTTPException(404, f"There is no response “{name[:40]}”.") from None
    headers = {"Content-Disposition": f'attachment; filename="{record.job_number}-{found.id}.csv"'}
    return Response(write_columns(found), media_type="text/csv; charset=utf-8", headers=headers)


def _file(form: FormData) -> bytes:
    upload = form.get("file")
    return upload.file.read() if isinstance(upload, UploadFile) else b""


def _kept(
    record: DesignRecord, form: FormData, name: str, hz: Sequence[float], level_db: Sequence[float]
) -> Sequence[Edit]:
    own, where, taken, step = (text(form, field)[:120].strip() for field in ("name", "where", "taken", "step"))
    return take_in(record.design, own or name, where, taken, step, hz, level_db)


@router.post("/jobs/{number}/response-columns", name="take_columns")
def take_columns(request: Request, number: str, form: Form) -> Response:
    """A response from a file of columns."""
    remarks: list[str] = []
    data = _file(form)

    def plan(record: DesignRecord) -> Plan:
        try:
            found = read_columns(data)
        except BadColumns as error:
            raise EntryError(str(error)) from None
        remarks[:] = found.remarks
        return _kept(record, form, "Response from a file", found.hz, found.level_db), "response read in"

    def said(_: DesignRecord, __: Sequence[Edit]) -> str:
        return f"Read in: {listed(remarks)}." if remarks else "Read in."

    return perform(request, number, form, plan, say=said)


@router.post("/jobs/{number}/recordings", name="take_recording")
def take_recording(request: Request, number: str, form: Form) -> Response:
    """A response, or a distortion, out of a recording."""
    said: list[str] = []
    data = _file(form)

    def plan(record: DesignRecord) -> Plan:
        try:
            samples, rate_hz = read_recording(data)
        except BadRecording as error:
            raise EntryError(str(error)) from None
        if text(form, "played") == "tone":
            return _tone(record, form, distorted(samples, rate_hz), said)
        if text(form, "played") == "noise":
            (hz, level), name = heard_in_noise(samples, rate_hz), "Pink noise, recorded"
        else:
            (hz, level), name = swept(samples, rate_hz, _gate(form)), "Sweep, recorded"
        if text(form, "correction").strip():
            try:
                microphone = read_columns(text(form, "correction").encode())
            except BadColumns as error:
                raise EntryError(f"The microphone's correction: {error}") from None
            level = less_microphone(hz, level, microphone.hz, microphone.level_db)
        said[:] = ["Read in: the recording's level is against what was played."]
        rows = [round(float(f), 2) for f in hz], [round(float(v), 2) for v in level]
        return _kept(record, form, name, *rows), "response recorded"

    return perform(request, number, form, plan, say=lambda _, __: said[0])


def _gate(form: FormData) -> float | None:
    typed = text(form, "gate").strip()
    if not typed:
        return None
    gate_ms = read_quantity(typed, "ms")
    if not GATES_MS[0] <= gate_ms <= GATES_MS[1]:
        raise EntryError(f"The gate: {GATES_MS[0]:g} to {GATES_MS[1]:g} ms, or nothing for the whole recording.")
    return gate_ms


def _tone(record: DesignRecord, form: FormData, found: tuple[float, float], said: list[str]) -> Plan:
    """A recorded tone's distortion, noted at its volume step."""
    tone_hz, percent = found
    try:
        step = read_quantity(text(form, "step"), "")
    except EntryError as error:
        raise EntryError(f"The volume step the tone was recorded at: {error}") from None
    said[:] = [f"{amount(tone_hz, 'hz')} at step {step:g}: {percent:g} % of harmonics. Noted with the volume readings."]
    return distortion_reading(record.design, step, tone_hz, percent), f"distortion at step {step:g}"


@router.post("/jobs/{number}/flatten", name="flatten")
def flat(request: Request, number: str, form: Form) -> Response:
    """Bands that make a response even, set at the outputs that play it."""
    made: list[Flattened] = []

    def plan(record: DesignRecord) -> Plan:
        numbers = []
        for name, unit, words in (("from", "hz", "from"), ("to", "hz", "to"), ("boost", "db", "most boost")):
            try:
                numbers.append(read_quantity(text(form, name), unit))
            except EntryError as error:
                raise EntryError(f"The {words}: {error}") from None
        low_hz, high_hz, boost_db = numbers
        outputs = [name[:60] for name in texts(form, "output")]
        found, edits = flatten(
            record.design, text(form, "response")[:60], outputs, low_hz, high_hz, whole(form, "bands"), boost_db
        )
        made[:] = [found]
        return edits, "response flattened"

    def said(_: DesignRecord, __: Sequence[Edit]) -> str:
        found = made[0]
        if not found.bands:
            return f"It is even already: {amount(found.before_db, 'db')}. The outputs have no bands now."
        bands = count(len(found.bands), "band")
        return f"{bands}: uneven by {amount(found.before_db, 'db')} before, {amount(found.after_db, 'db')} with them."

    return perform(request, number, form, plan, say=said)
