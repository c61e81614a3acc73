"""What the sheet of loads asks for: subwoofers spread otherwise over the channels, a lead laid or taken off."""

from __future__ import annotations

from collections.abc import Sequence

from fastapi import APIRouter, HTTPException, Request
from fastapi.responses import Response
from starlette.datastructures import FormData

from ohmack.core.document.edits import Edit
from ohmack.core.document.handles import at
from ohmack.core.errors import UnknownName
from ohmack.core.figures.finding import set_to
from ohmack.core.loads.bench import reversed_at, terminals, with_lead, without_lead
from ohmack.core.loads.coil_split import split_of
from ohmack.core.loads.spreads import edits_of, spreads
from ohmack.core.loads.wirings import LoadResult
from ohmack.core.planning.laying import follow
from ohmack.formats.entry import EntryError
from ohmack.formats.load_curves_csv import write_load_curves
from ohmack.store.design_rows import DesignRecord
from ohmack.web.render import workshop_of
from ohmack.web.routes.edits import perform
from ohmack.web.routes.forms import Form, text

router = APIRouter()


def _output(request: Request, record: DesignRecord, form: FormData) -> LoadResult:
    """The output a form is about."""
    loads = workshop_of(request).evaluation(record, sweep=False).results.loads
    load = next((one for one in loads if one.link.id == text(form, "output")), None)
    if load is None:
        raise UnknownName("output", text(form, "output")[:40])
    return load


@router.post("/jobs/{number}/spread", name="spread")
def spread(request: Request, number: str, form: Form) -> Response:
    """Spread an amplifier's subwoofers over its channels in one of the ways that are listed."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        loads = workshop_of(request).evaluation(record, sweep=False).results.amplifier_loads
        load = next((one for one in loads if one.amplifier.id == text(form, "amplifier")), None)
        if load is None:
            raise UnknownName("amplifier", text(form, "amplifier")[:40])
        for row in spreads(record.design, load):
            if row.words == text(form, "words"):
                return follow(record.design, edits_of(record.design, row)), f"{load.amplifier.name}: spread anew"
        raise EntryError("That spread is no longer offered; look at the list again.")

    return perform(request, number, form, plan)


@router.post("/jobs/{number}/split-coils", name="split_coils")
def split_coils(request: Request, number: str, form: Form) -> Response:
    """The coils of a driver on channels of their own, or on one again."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        load = _output(request, record, form)
        split = split_of(record.design, load)
        if split is None or split.words != text(form, "words"):
            raise EntryError("That is no longer offered; look at the output again.")
        return follow(record.design, split.edits), split.words

    return perform(request, number, form, plan)


@router.post("/jobs/{number}/lead", name="lead")
def lead(request: Request, number: str, form: Form) -> Response:
    """A lead of an output laid from terminal to terminal, one taken off, or a driver reversed."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        load = _output(request, record, form)
        a, b, act = text(form, "a")[:20], text(form, "b")[:20], text(form, "act", "lay")
        said = {terminal.name: terminal.words for terminal in terminals(load)}
        if act == "reverse":
            driven = next((d for d in load.driven if d.id == text(form, "driver")), None)
            if driven is None:
                raise UnknownName("driver", text(form, "driver")[:40])
            wiring, words = reversed_at(load, [coil.name for coil in driven.coils]), f"{driven.name} reversed"
        elif act == "take":
            wiring, words = without_lead(load, a, b), f"lead from {said.get(a, a)} to {said.get(b, b)} taken off"
        else:
            wiring, words = with_lead(load, a, b), f"lead from {said.get(a, a)} to {said.get(b, b)}"
        return [set_to(at(load.link, lambda it: it.wiring), wiring)], words

    return perform(request, number, form, plan)


@router.get("/jobs/{number}/loads/curves/{about}.csv", name="load_curves")
def curves(request: Request, number: str, about: str) -> Response:
    """An output's load and levels over frequency as a table."""
    shop = workshop_of(request)
    record = shop.designs.load(shop.context, number)
    found = shop.evaluation(record, sweep=False).results.over_frequency
    swept = next((one for one in found if one.about == about), None)
    if swept is None:
        raise HTTPException(404, f"Nothing is in line on an output “{about[:40]}”.")
    headers = {"Content-Disposition": f'attachment; filename="{record.job_number}-{swept.about}-curves.csv"'}
    return Response(write_load_curves(swept), media_type="text/csv; charset=utf-8", headers=headers)
