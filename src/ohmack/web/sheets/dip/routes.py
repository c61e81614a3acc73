"""Music read in for the dip, and its circuit given out."""

from __future__ import annotations

from collections.abc import Sequence

from fastapi import APIRouter, HTTPException, Request
from fastapi.responses import Response
from starlette.datastructures import UploadFile

from ohmack.core.document.edits import Edit
from ohmack.core.errors import OhmackError
from ohmack.core.planning.music import take_music
from ohmack.core.supply.dip_study import DipStudy, loads_of
from ohmack.formats.dip_netlist import dip_netlist
from ohmack.formats.entry import EntryError
from ohmack.formats.recording import BadRecording, read_music
from ohmack.store.design_rows import DesignRecord
from ohmack.web.render import workshop_of
from ohmack.web.routes.edits import perform
from ohmack.web.routes.forms import Form, text

router = APIRouter()


@router.post("/jobs/{number}/music", name="take_music")
def bring_music(request: Request, number: str, form: Form) -> Response:
    """How loud a piece of music is, out of its file."""
    upload = form.get("file")
    data = upload.file.read() if isinstance(upload, UploadFile) else b""
    called = text(form, "name")[:60].strip() or (upload.filename or "" if isinstance(upload, UploadFile) else "")

    def plan(_: DesignRecord) -> tuple[Sequence[Edit], str]:
        try:
            samples, rate_hz = read_music(data)
            return take_music(called.rpartition(".")[0][:60] or called[:60], samples, rate_hz), "music read in"
        except (BadRecording, OhmackError) as error:
            raise EntryError(str(error)) from None

    return perform(request, number, form, plan)


@router.get("/jobs/{number}/dip.cir", name="dip_netlist")
def netlist_of(request: Request, number: str, of: str = "note") -> Response:
    """The circuit of the dip for another program."""
    shop = workshop_of(request)
    record = shop.designs.load(shop.context, number)
    results = shop.evaluation(record, sweep=False).results
    found = results.music_dip if of == "music" else results.dip
    if not isinstance(found, DipStudy):
        raise HTTPException(404, found)
    music = results.design.use.music if of == "music" else None
    overlap_db = results.design.policy.overlap_db if music else 0.0
    loads = loads_of(found.playing, music, overlap_db)
    words = f"{record.job_number}: {found.supply.part.name}, {music.name if music else 'a bass note'}"
    ask_s = (0.3, 0.5, 1.0, 2.0)
    headers = {"Content-Disposition": f'attachment; filename="{record.job_number}-dip.cir"'}
    return Response(
        dip_netlist(found.circuit, *loads, words, ask_s), media_type="text/plain; charset=utf-8", headers=headers
    )
