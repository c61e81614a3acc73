"""The tones of a job as files."""

from __future__ import annotations

from functools import lru_cache

from fastapi import APIRouter, HTTPException, Request
from fastapi.responses import Response

from ohmack.core.physics.tones import RATE_HZ
from ohmack.core.signal.tones import Tone, samples_of, tones_of
from ohmack.formats.wav import write_wav
from ohmack.web.render import workshop_of

router = APIRouter()
KEPT = 12  # files of some megabytes, for the next who plays them


@lru_cache(maxsize=KEPT)
def _file(tone: Tone) -> bytes:
    return write_wav(samples_of(tone), RATE_HZ)


@router.get("/jobs/{number}/tones/{name}.wav", name="tone")
def tone(request: Request, number: str, name: str) -> Response:
    """One tone of a job."""
    shop = workshop_of(request)
    record = shop.designs.load(shop.context, number)
    signals = shop.evaluation(record, sweep=False).results.signals
    found = next((one for one in tones_of(record.design, signals) if one.name == name), None)
    if found is None:
        raise HTTPException(404, f"There is no tone “{name[:40]}”.")
    headers = {"Content-Disposition": f'inline; filename="{found.name}.wav"'}
    return Response(_file(found), media_type="audio/wav", headers=headers)
