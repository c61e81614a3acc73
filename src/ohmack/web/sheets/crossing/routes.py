"""What the crossover sheet asks for: the delays of every output by the plan, and its settings as files."""

from __future__ import annotations

from collections.abc import Sequence

from fastapi import APIRouter, HTTPException, Request
from fastapi.responses import Response
from starlette.datastructures import UploadFile

from ohmack.core.box.arrivals import edits_of
from ohmack.core.document.edits import Edit
from ohmack.core.document.handles import at
from ohmack.core.document.links import SpeakerLink
from ohmack.core.signal.crossovers import filter_shape
from ohmack.core.wording import count
from ohmack.formats.entry import EntryError
from ohmack.formats.filter_settings import (
    BadSettings,
    OutputFilters,
    read_filters,
    write_filters_csv,
    write_filters_json,
)
from ohmack.store.design_rows import DesignRecord
from ohmack.web.render import workshop_of
from ohmack.web.routes.edits import perform
from ohmack.web.routes.forms import Form
from ohmack.web.workshop import Workshop

router = APIRouter()


def _settings(record: DesignRecord, shop: Workshop) -> list[OutputFilters]:
    """The filters of every output as they come out, the usual where none is chosen."""
    results = shop.evaluation(record, sweep=False).results
    rows = []
    for load in results.loads:
        entry, (slope_db, family) = results.crossover_of(load.scope), filter_shape(load.link, load.amplifier)
        high, low = (entry.high_pass, entry.low_pass) if entry is not None else (None, None)
        rows.append(
            OutputFilters(
                load.link.id, f"{load.channel_name}: {load.driven_name}",
                high.value if high is not None else None, low.value if low is not None else None,
                slope_db, family, load.link.delay_ms, load.link.turned_down_db,
                tuple(band.model_dump() for band in load.link.bands),
            )
        )  # fmt: skip
    return rows


@router.get("/jobs/{number}/filters.{kind}", name="filter_settings")
def out(request: Request, number: str, kind: str) -> Response:
    """The settings of every output as CSV or JSON."""
    writers = {"csv": (write_filters_csv, "text/csv; charset=utf-8"), "json": (write_filters_json, "application/json")}
    if kind not in writers:
        raise HTTPException(404, "Filter settings come as csv or json.")
    shop = workshop_of(request)
    record = shop.designs.load(shop.context, number)
    write, media = writers[kind]
    headers = {"Content-Disposition": f'attachment; filename="{record.job_number}-filters.{kind}"'}
    return Response(write(_settings(record, shop)), media_type=media, headers=headers)


@router.post("/jobs/{number}/filters", name="take_filters")
def bring_in(request: Request, number: str, form: Form) -> Response:
    """Settings from a file, all of them or none."""
    upload = form.get("file")
    data = upload.file.read() if isinstance(upload, UploadFile) else b""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        try:
            rows = read_filters(data)
        except BadSettings as error:
            raise EntryError(str(error)) from None
        links = {link.id: link for link in record.design.links_of(SpeakerLink)}
        edits: list[Edit] = []
        for row in rows:
            link = links.get(row.output)
            if link is None:
                raise EntryError(f"This plan has no output “{row.output[:40]}” ({row.name[:60] or 'no name'}).")
            values = {"high_pass_hz": row.high_pass_hz, "low_pass_hz": row.low_pass_hz,
                      "filter_slope_db": row.slope_db, "filter_family": row.family, "delay_ms": row.delay_ms,
                      "bands": list(row.bands)}  # fmt: skip
            if row.turned_down_db is not None:
                values["turned_down_db"] = row.turned_down_db
            edits += [Edit(path=f"{at(link)}/{name}", value=value) for name, value in values.items()]
        return edits, f"filters of {count(len(rows), 'output')} from a file"

    return perform(request, number, form, plan)


@router.post("/jobs/{number}/delays", name="delays")
def delays(request: Request, number: str, form: Form) -> Response:
    """Set the delay of every output so that all arrive with the farthest."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        found = workshop_of(request).evaluation(record, sweep=False).results.arrivals
        if not found:
            raise EntryError("Fewer than two outputs have a place on the plan; there is nothing to align.")
        return edits_of(found), "delays by the plan"

    return perform(request, number, form, plan)
