"""Tones of a job: every file that is listed is there, and is what it says."""

from __future__ import annotations

import re
from io import BytesIO

import numpy as np
from scipy.io import wavfile
from starlette.testclient import TestClient

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.physics.tones import RATE_HZ, level_dbfs
from ohmack.store.database import Database
from web.test_survey import Bench


def test_every_tone_of_a_job_is_a_file_of_its_level(client: TestClient, database: Database, estate: Design) -> None:
    """The policy's tone in frequency and level, by scipy's reader; no two of one name; a made-up name is a 404."""
    quiet = apply_edits(estate, [Edit(path="policy/tone_dbfs", value=-5.0), Edit(path="policy/tone_hz", value=45.0)])
    bench = Bench(client, database, quiet)
    page = client.get(f"/jobs/{bench.job}/tones").text
    names = re.findall(r"<audio[^>]*/tones/([a-z0-9-]+)\.wav", page)
    assert len(names) == len(set(names)) == 7
    assert "45-hz-5-under" in names
    answer = client.get(f"/jobs/{bench.job}/tones/45-hz-5-under.wav")
    assert answer.headers["content-type"] == "audio/wav"
    rate, samples = wavfile.read(BytesIO(answer.content))
    assert rate == RATE_HZ
    middle = samples[RATE_HZ : 5 * RATE_HZ] / 32_767
    assert abs(level_dbfs(middle) + 5.0) < 0.01
    spectrum = np.abs(np.fft.rfft(middle))
    assert np.fft.rfftfreq(len(middle), 1 / RATE_HZ)[spectrum.argmax()] == 45.0
    assert client.get(f"/jobs/{bench.job}/tones/none.wav").status_code == 404
