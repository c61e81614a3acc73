"""Instruments identified and kept, looked at, and a reading taken from one."""

from __future__ import annotations

from collections.abc import Sequence

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response
from starlette.datastructures import FormData

from ohmack.core.document.edits import Edit
from ohmack.core.errors import NotPossible
from ohmack.core.evaluation.results import Results
from ohmack.core.planning.proving import Read, asked, take_reading
from ohmack.core.prove.car import Setting
from ohmack.core.prove.checks import Check
from ohmack.core.prove.free_probing import READS as FREE_READS
from ohmack.core.prove.free_probing import free_check, free_id
from ohmack.core.prove.probes import Quantity
from ohmack.core.wording import amount
from ohmack.formats.entry import EntryError
from ohmack.instruments.address import NoInstrument, read_address
from ohmack.instruments.practice import as_planned, car_of
from ohmack.instruments.scpi import hush, identify, play
from ohmack.instruments.taking import FromInstrument, OnTheBench, take_from
from ohmack.instruments.true_car import LEADS_OHM, Meter
from ohmack.store.design_rows import DesignRecord
from ohmack.store.instruments import InstrumentKind, InstrumentRecord
from ohmack.web.clock import now
from ohmack.web.instrument_kinds import kind_for
from ohmack.web.render import ENVIRONMENT, go, page_answer, wants_fragment, workshop_of
from ohmack.web.routes.edits import address_of, perform, refusal
from ohmack.web.routes.forms import Form, quantity, text

router = APIRouter()
TONED = (Quantity.AC_V, Quantity.DISTORTION)  # read while the source plays a tone, where there is one
PRACTICE_METER = "Bench multimeter, practice"


@router.post("/jobs/{number}/instrument", name="instrument")
def kept(request: Request, number: str, form: Form) -> Response:
    """An instrument is asked who it is and kept, or forgotten."""
    shop = workshop_of(request)

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        known = {k.value: k for k in InstrumentKind}
        kind = known.get(text(form, "kind"))
        if kind is None:
            raise EntryError("There is no such instrument.")
        if text(form, "forget"):
            shop.instruments.drop(shop.context, kind)
            return (), ""
        try:
            address = read_address(text(form, "address")[:120])
            found = identify(address)
        except NoInstrument as error:
            raise EntryError(str(error)) from None
        shop.instruments.put(shop.context, InstrumentRecord(kind, str(address), found.words[:120]))
        return (), ""

    return perform(request, number, form, plan)


@router.get("/jobs/{number}/live", name="live")
def live(request: Request, number: str, check: str = "") -> HTMLResponse:
    """What the instrument shows at a check, now; a sentence where it shows nothing."""
    shop = workshop_of(request)
    record = shop.designs.load(shop.context, number)
    results = shop.evaluation(record, sweep=False).results
    words, trouble = "", ""
    try:
        found = asked(results, check[:120])
        words = _words(found, _from_instrument(request, record, found))
    except (NoInstrument, NotPossible) as error:
        trouble = str(error)
    if not wants_fragment(request):
        back = f"/jobs/{record.address}/instruments"
        return page_answer(request, "instruments/live_page.html", back=back, words=words, trouble=trouble)
    html = ENVIRONMENT.get_template("instruments/live.html").render(words=words, trouble=trouble)
    return HTMLResponse(html, headers={"Vary": "HX-Request"})


def _words(check: Check, said: FromInstrument) -> str:
    if said.passed is not None:
        return "good" if said.passed else "not good"
    if said.over or said.value is None:
        return "no connection"
    return amount(said.value, check.probe.quantity.unit)


@router.post("/jobs/{number}/probes", name="probes")
def probes(request: Request, number: str, form: Form) -> Response:
    """Both probes are put somewhere; what they show is on the instruments' page."""
    shop = workshop_of(request)
    record = shop.designs.load(shop.context, number)
    results = shop.evaluation(record, sweep=False).results
    quantities, settings = {q.name: q for q in FREE_READS}, {s.name: s for s in Setting}
    read, setting = quantities.get(text(form, "quantity")), settings.get(text(form, "setting"))
    if read is None or setting is None:
        return refusal(request, record, form, "probes", "Choose what is read, and where the key is.")
    name = free_id(read, setting, text(form, "plus")[:60], text(form, "minus")[:60])
    if free_check(results, name) is None:
        words = "Two different points, and volts only with the fuse in: choose a key position."
        return refusal(request, record, form, "probes", words)
    return go(address_of(number, "instruments", f"check:{name}"))


@router.post("/jobs/{number}/proof-take", name="proof_take")
def taken(request: Request, number: str, form: Form) -> Response:
    """A reading is taken from the instrument."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        results: Results = workshop_of(request).evaluation(record, sweep=False).results
        check = asked(results, text(form, "check")[:120], text(form, "stage") == "fault")
        try:
            said = _from_instrument(request, record, check)
        except NoInstrument as error:
            raise EntryError(str(error)) from None
        read = Read(
            said.value, said.over, said.passed, _current_a(record, check, form), said.instrument, "", said.leads_ohm,
            text(form, "who"), "", now().isoformat(timespec="minutes"),
        )  # fmt: skip
        return take_reading(record.design, check, read), f"taken: {check.title}"[:120]

    return perform(request, number, form, plan)


def _current_a(record: DesignRecord, check: Check, form: FormData) -> float | None:
    """What flows while a drop is read: in a practice car what it draws, at a real one what the clamp says."""
    if not check.asks_current:
        return None
    if record.design.proof.practice is None:
        return quantity(form, "current", "a", "The current")
    car, _ = car_of(record.design)
    live_now = car.live(check.setting)
    return None if live_now is None else round(live_now.current_a.get(check.probe.subject, 0.0), 1) or None


def _from_instrument(request: Request, record: DesignRecord, check: Check) -> FromInstrument:
    """What the practice car or the shop's instrument shows."""
    if record.design.proof.practice is not None:
        car, seed = car_of(record.design)
        shown = Meter(car, seed, LEADS_OHM).at(check)
        return FromInstrument(PRACTICE_METER, shown.value, shown.over, shown.passed, LEADS_OHM)
    shop = workshop_of(request)
    kind = kind_for(check.probe.quantity)
    known = shop.instruments.all(shop.context).get(kind)
    if known is None:
        raise NoInstrument(f"No {kind.value} is known yet: enter where it is reached.")
    stands, where = OnTheBench(as_planned(record.design)), read_address(known.address)
    source = shop.instruments.all(shop.context).get(InstrumentKind.SOURCE)
    output = shop.evaluation(record, sweep=False).results.car.output(check.probe.subject)
    if source is None or output is None or check.probe.quantity not in TONED:
        return take_from(where, check, stands)
    tone_from = read_address(source.address)
    play(tone_from, output.tone_hz, record.design.policy.tone_dbfs)
    try:
        return take_from(where, check, stands)
    finally:
        hush(tone_from)
