"""Responses, recordings and filter settings as files: what programs write, and what nobody should send."""

from __future__ import annotations

import json
from io import BytesIO

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.io import wavfile

from ohmack.core.document.responses import Response
from ohmack.core.physics.responses import at_rate
from ohmack.core.physics.tones import sine
from ohmack.formats.entry import EntryError
from ohmack.formats.filter_settings import (
    BadSettings,
    OutputFilters,
    read_filters,
    write_filters_csv,
    write_filters_json,
)
from ohmack.formats.recording import BadRecording, read_recording
from ohmack.formats.response_columns import BadColumns, read_columns, write_columns
from ohmack.formats.step_rows import read_step_rows

GOOD = {
    "tabs": b"* Seat\nFreq\tSPL\tPhase\n20\t60.5\t-12\n40.5\t72\t3\n1000\t80.25\t0\n",
    "semicolons, decimal commas": "Hz;dB\r\n20,0;60,5\r\n40,5;72,0\r\n1000;80,25\r\n".encode("cp1252"),
    "commas": b'"Hz","dB"\n20,60.5\n40.5,72\n1.0e3,80.25\n',
    "spaces": b"# by a meter\n  20.0   60.5\n  40.5   72.0\n\n  1000   80.25  0.0\n",
    "spaces, decimal commas": b"20,0 60,5\n40,5 72,0\n1000,0 80,25\n",
    "UTF-16": "20\t60.5\n40.5\t72\n1000\t80.25\n".encode("utf-16"),
}


@pytest.mark.parametrize("data", GOOD.values(), ids=GOOD)
def test_columns_of_any_kind(data: bytes) -> None:
    found = read_columns(data)
    assert (found.hz, found.level_db) == ((20.0, 40.5, 1000.0), (60.5, 72.0, 80.25))


def test_what_had_to_be_put_right_is_said() -> None:
    found = read_columns(b"100 1\n50 2\n200 3\n200 3\n9000 4\n0 7\n300 x\n")
    assert found.hz == (50.0, 100.0, 200.0, 9000.0)
    said = "; ".join(found.remarks)
    for words in (
        "sorted by frequency",
        "1 doubled",
        "between 200 and 9000 Hz",
        "1 rows outside",
        "1 lines that are no",
    ):
        assert words in said
    many = read_columns("".join(f"{20 * 1.002**n:.4f} {n % 7}\n" for n in range(3400)).encode())
    assert len(many.hz) <= 400
    assert many.hz[0] == 20.0


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "Choose a file"),
        (b"\x00\x01" * 50, "no text"),
        (b"hello\nworld\n", "no two columns"),
        (b"20 1\n30 2\n", "no two columns"),
        (b"20 1\n30 2\n30 9\n40 1\n", "30 Hz stands there twice, with 2 and 9 dB"),
        (b"20 nan\n30 inf\n40 1\n", "no two columns"),
        (b"x" * 1_000_001, "larger than 1 MB"),
        (b"1\n" * 20_001, "more than 20000 lines"),
        (b"20 1\n30 2\n40 3\n" + b"word word\n" * 9, "are no numbers"),
    ],
)
def test_rubbish_is_refused_with_a_reason(data: bytes, words: str) -> None:
    with pytest.raises(BadColumns, match=words):
        read_columns(data)


@settings(max_examples=80, deadline=None)
@given(st.binary(max_size=400) | st.text("0123456789.,;\t \n-eE#ab", max_size=300).map(str.encode))
def test_nothing_sent_breaks_the_reader(data: bytes) -> None:
    try:
        found = read_columns(data)
    except BadColumns as error:
        assert str(error).endswith(".")
        return
    assert list(found.hz) == sorted(set(found.hz))
    assert len(found.hz) == len(found.level_db) >= 3


def test_a_response_goes_out_and_in_again() -> None:
    response = Response(id="r", name="R", hz=(20.0, 63.5, 1000.0), level_db=(60.5, -3.25, 0.0))
    found = read_columns(write_columns(response))
    assert (found.hz, found.level_db) == (response.hz, response.level_db)


# recordings -----------------------------------------------------------------------------------------------------------


def wav(samples: np.ndarray, rate: int = 48_000) -> bytes:
    """Written by scipy, another library than the one that reads."""
    into = BytesIO()
    wavfile.write(into, rate, samples)
    return into.getvalue()


@pytest.mark.parametrize("kind", [np.int16, np.int32, np.float32])
def test_recordings_of_every_width(kind: type) -> None:
    tone = sine(1000.0, -6.0, 1.0)
    scale = np.iinfo(kind).max if np.issubdtype(kind, np.integer) else 1.0  # type: ignore[type-var]
    stereo = np.stack([0.1 * tone, tone], axis=1)
    samples, rate = read_recording(wav((stereo * scale).astype(kind)))
    assert rate == 48_000
    assert np.abs(samples - tone).max() < 1e-4  # the louder channel, at its level
    assert len(at_rate(samples, 48_000, 44_100)) == pytest.approx(44_100, abs=2)


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "Choose a file"),
        (b"RIFF nothing", "no recording"),
        (wav(np.zeros(48_000, np.int16)), "silence"),
        (wav(np.zeros(100 * 16_000, np.int16), 16_000), "100 s long"),
        (wav(np.ones(8000, np.int16), 8000), "8000 samples a second"),
        (wav((np.clip(3 * sine(100.0, 0.0, 1.0), -1, 1) * 32767).astype(np.int16)), "clipped"),
        (wav(np.full(48_000, np.nan, np.float32)), "broken"),
    ],
    ids=["none", "rubbish", "silence", "long", "slow", "clipped", "nan"],
)
def test_recordings_that_are_none(data: bytes, words: str) -> None:
    with pytest.raises(BadRecording, match=words):
        read_recording(data)


# filter settings ------------------------------------------------------------------------------------------------------

BANDS = ({"kind": "band", "centre_hz": 63.0, "gain_db": -7.5, "q": 1.2},
         {"kind": "low shelf", "centre_hz": 90.0, "gain_db": 3.0, "q": 0.7})  # fmt: skip
ROWS = (
    OutputFilters("speaker-fl", "=Front, left", 80.0, None, 24, "Linkwitz-Riley", 1.66, 3.5, BANDS),
    OutputFilters("speaker-sub", "Sub", 30.0, 80.0, None, "Butterworth", 0.0, None, ()),
)


def test_settings_go_out_and_in_again_both_ways() -> None:
    assert read_filters(write_filters_json(ROWS)) == ROWS
    assert read_filters(write_filters_csv(ROWS)) == ROWS
    assert b"'=Front" in write_filters_csv(ROWS)  # no spreadsheet calculates a name


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"  ", "Choose a file"),
        (b"{", "broken JSON"),
        (b'{"format": "other"}', "holds no filter settings"),
        (json.dumps({"format": "ohmack-filters", "version": 9}).encode(), "later Ohmack"),
        (json.dumps({"format": "ohmack-filters", "version": 1, "outputs": [3]}).encode(), "no outputs"),
        (b"output,high_pass_hz\nx,loud\n", "Row 2, high_pass_hz"),
        (b"name\nx\n", "no column output"),
        (b"output,bands\nx,hump 63 Hz\n", "Row 2: the band"),
        (b"output,bands\nx,band 63 Hz 99 dB Q 1\n", "none an equaliser has"),
    ],
)
def test_settings_that_are_none(data: bytes, words: str) -> None:
    with pytest.raises(BadSettings, match=words):
        read_filters(data)


# volume steps ---------------------------------------------------------------------------------------------------------


def test_readings_are_typed_as_lines() -> None:
    rows = "8 0.77\n10: 1,07 V\n\n12;1480 mV\n14\t1.90 V\n"
    assert read_step_rows(rows) == [(8.0, 0.77), (10.0, 1.07), (12.0, pytest.approx(1.48)), (14.0, 1.9)]
    assert read_step_rows(" \n") == []
    for text, words in (("12", "Line 1"), ("8 1\n12 loud", "Line 2"), ("8 1\n8 2", "Step 8 stands there twice")):
        with pytest.raises(EntryError, match=words):
            read_step_rows(text)
