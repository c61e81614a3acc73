"""Signal's pages: a gain moved, responses and settings read in, refused with a reason, and given out again."""

from __future__ import annotations

import json
import re
from collections import Counter
from io import BytesIO
from typing import Any

import numpy as np
import pytest
from scipy.io import wavfile
from scipy.signal import butter, sosfilt, sosfreqz
from starlette.testclient import TestClient

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.links import LineLink, SpeakerLink
from ohmack.core.document.parts import Converter
from ohmack.core.evaluation.door import evaluate
from ohmack.core.physics.tones import RATE_HZ, sine, sweep
from ohmack.core.signal.tones import SECONDS, SWEEP_DBFS
from ohmack.demo.jobs import demo_design, demo_jobs
from ohmack.store.database import Database
from web.test_pages import HX, form
from web.test_survey import Bench

OLD = next(n for n, job in enumerate(demo_jobs()) if job.title.startswith("The wasp"))


def sent(bench: Bench, to: str, data: bytes, **fields: Any) -> Any:
    body = form(bench.client, bench.job, **fields) | {
        "stage": "crossing" if to == "filters" else "responses",
        "path": to,
    }
    return bench.client.post(f"/jobs/{bench.job}/{to}", data=body, files={"file": ("a.txt", data)}, headers=HX)


def said(answer: Any) -> str:
    found = re.search(r'class="problem[^"-]*"[^>]*>\s*([^<]+?)\s*<', answer.text)
    return found[1] if found else ""


def test_a_gain_moved_on_the_ladder_is_kept(client: TestClient, database: Database, estate: Design) -> None:
    bench = Bench(client, database, estate)
    before = evaluate(estate).results.signals[0].figures["gain"].value

    def gain() -> float | None:
        return next(bench.design.parts_of(Converter)).gain_kept_db

    assert 'data-gain="converter"' in bench.page("signal")
    bench.post("raise", "signal", thing="converter", rise="-2.5")
    assert gain() == pytest.approx(before - 2.5, abs=0.01)
    bench.post("raise", "signal", thing="converter", nudge="up")
    assert gain() == pytest.approx(before - 2.0, abs=0.01)
    page = bench.page("signal")
    assert "settings compared" in page
    assert "where it is kept" in page
    for wrong in ({"rise": "loud"}, {"rise": "nan"}, {"rise": "999"}, {"thing": "nothing", "rise": "1"}):
        assert bench.post("raise", "signal", **({"thing": "converter"} | wrong)).status_code == 422
    assert gain() == pytest.approx(before - 2.0, abs=0.01)


def test_one_field_a_knob_keeps_it_for_all_it_sets(client: TestClient, database: Database) -> None:
    number = next(n for n, job in enumerate(demo_jobs()) if job.title.startswith("Five channels"))
    bench = Bench(client, database, demo_design(number))
    page = bench.page("signal")
    paths = re.findall(r'name="path" value="(links/[^"]+/sensitivity_kept_v)"', page)
    assert len(paths) == len(set(paths)) == 3
    assert ", channels 1 and 2 at" in page

    def kept() -> dict[float | None, int]:
        return dict(Counter(link.sensitivity_kept_v for link in bench.design.links_of(SpeakerLink)))

    cables = sum(kept().values())
    assert bench.post("knob", "signal", path=paths[0], value="2,5").status_code == 303
    assert kept() == {2.5: 2, None: cables - 2}
    other = paths[0].replace("sensitivity_kept_v", "high_pass_hz")
    for wrong in (
        {"value": "loud"},
        {"value": "900"},
        *({"path": p} for p in ("links/none/sensitivity_kept_v", "x", other)),
    ):
        assert bench.post("knob", "signal", **({"path": paths[0], "value": "3"} | wrong)).status_code == 422
    assert bench.post("knob", "signal", path=paths[0], value="").status_code == 303
    assert kept() == {None: cables}


def test_columns_are_read_in_drawn_given_out_and_refused(
    client: TestClient, database: Database, estate: Design
) -> None:
    bench = Bench(client, database, estate)
    rows = b"20\t60\n100\t70\n1000\t72,5\n9000\t71\n"
    answer = sent(bench, "response-columns", rows, name="Seat <b>", where="at the driver's head", taken="after it")
    assert answer.status_code == 200
    assert "nothing between 100 and 1000 Hz" in answer.text
    (kept,) = bench.design.vehicle.responses
    assert (kept.hz, kept.level_db) == ((20.0, 100.0, 1000.0, 9000.0), (60.0, 70.0, 72.5, 71.0))
    page = bench.page("responses")
    assert "Seat &lt;b&gt;" in page
    assert "<b>" not in page.split("<tbody>")[1].split("</tbody>")[0]
    out = client.get(f"/jobs/{bench.job}/responses/{kept.id}.csv")
    assert out.text.splitlines()[:2] == ["hz,level_db", "20,60"]
    assert client.get(f"/jobs/{bench.job}/responses/none.csv").status_code == 404
    refused = sent(bench, "response-columns", b"no numbers at all", name="Mine")
    assert refused.status_code == 422
    assert "no two columns" in said(refused)
    assert 'value="Mine"' in refused.text  # what was typed is still there
    assert len(bench.design.vehicle.responses) == 1


def wav(samples: np.ndarray, rate: int = RATE_HZ) -> bytes:
    into = BytesIO()
    wavfile.write(into, rate, (np.clip(samples, -1, 1) * 32_767).astype(np.int16))
    return into.getvalue()


def test_a_recorded_sweep_becomes_a_response(client: TestClient, database: Database, estate: Design) -> None:
    """The job's own sweep through a filter of scipy's, a microphone's error taken off: the filter within half a
    decibel. A recorded tone is noted with the volume readings.
    """
    bench = Bench(client, database, estate)
    sos = butter(2, 80.0, "highpass", fs=RATE_HZ, output="sos")
    played = sweep(20.0, 20_000.0, SWEEP_DBFS, SECONDS)
    recorded = np.concatenate([np.zeros(9000), np.asarray(sosfilt(sos, played)), np.zeros(9000)])
    answer = sent(bench, "recordings", wav(recorded), played="sweep", name="Tap", correction="20 3\n200 3\n20000 3")
    assert answer.status_code == 200
    (kept,) = bench.design.vehicle.responses
    hz, level = np.array(kept.hz), np.array(kept.level_db)
    wanted = 20 * np.log10(np.abs(sosfreqz(sos, hz, fs=RATE_HZ)[1])) - 3
    inside = (hz > 25) & (hz < 15_000)
    assert np.abs(level - wanted)[inside].max() < 0.5
    times = np.arange(2 * RATE_HZ) / RATE_HZ
    bent = sine(1000.0, -12.0, 2.0) + 0.02 * 10 ** (-12 / 20) * np.sin(2 * np.pi * 3000 * times)
    answer = sent(bench, "recordings", wav(bent), played="tone", step="28")
    assert re.search(r"1000 Hz at step 28: (1\.9\d|2|2\.0\d) % of harmonics", answer.text)
    (noted,) = bench.design.vehicle.volume_steps
    assert (noted.step, noted.tone_hz) == (28.0, 1000.0)
    assert noted.distortion_percent == pytest.approx(2.0, abs=0.05)
    for fields, data, words in (
        ({"played": "tone", "step": "high"}, wav(bent), "The volume step"),
        ({"played": "sweep", "gate": "9000"}, wav(recorded), "The gate"),
        ({"played": "sweep", "correction": "all flat"}, wav(recorded), "The microphone's correction"),
        ({"played": "noise"}, b"RIFF", "no recording"),
    ):
        refused = sent(bench, "recordings", data, **fields)
        assert refused.status_code == 422
        assert words in said(refused).replace("&#39;", "'"), fields
    assert len(bench.design.vehicle.responses) == 1


def test_a_response_is_flattened_at_the_outputs_that_play_it(client: TestClient, database: Database) -> None:
    bench = Bench(client, database, demo_design(OLD))
    fields = {"response": "response", "from": "40", "to": "1 kHz", "bands": "3", "boost": "2 dB"}
    answer = bench.post("flatten", "responses", hx=True, output="speaker-sub", **fields)
    assert answer.status_code == 200
    assert re.search(r"\d bands?: uneven by [\d.]+ dB before, [\d.]+ dB with them", answer.text)
    link = next(bench.design.links_of(SpeakerLink))
    assert 1 <= len(link.bands) <= 3
    assert max(band.gain_db for band in link.bands) <= 2.0
    assert "equalised" in bench.page("responses")
    for wrong, words in (
        ({"output": ""}, "Choose the outputs"),
        ({"from": "2 kHz"}, "high_hz"),
        ({"boost": "x"}, "boost"),
    ):
        refused = bench.post(
            "flatten", "responses", hx=True, path="flatten", **(fields | {"output": "speaker-sub"} | wrong)
        )
        assert refused.status_code == 422, wrong
        assert words in said(refused) or "2000" in said(refused), wrong
        ticked = re.search(r'value="speaker-sub"\s+checked', refused.text) is not None
        assert ticked is ("output" not in wrong)  # what was ticked is ticked still


def test_settings_go_out_of_one_job_into_another(client: TestClient, database: Database, estate: Design) -> None:
    first, second = Bench(client, database, estate), Bench(client, database, estate)
    first.post("edit", "crossing", path="links/speaker-sub/low_pass_hz", value="63")
    first.post("edit", "crossing", path="links/speaker-sub/high_pass_hz", value="28")
    for kind in ("csv", "json"):
        out = client.get(f"/jobs/{first.job}/filters.{kind}")
        assert out.status_code == 200
        assert sent(second, "filters", out.content).status_code == 200
        link = next(second.design.links_of(SpeakerLink))
        assert (link.low_pass_hz, link.high_pass_hz, link.filter_slope_db) == (63.0, 28.0, 12)
    (entry,) = evaluate(second.design).results.crossovers
    assert entry.high_pass is not None
    assert entry.high_pass.value == 28.0
    other = json.loads(client.get(f"/jobs/{first.job}/filters.json").content)
    other["outputs"][0]["output"] = "speaker-ghost"
    refused = sent(second, "filters", json.dumps(other).encode())
    assert refused.status_code == 422
    assert "no output “speaker-ghost”" in said(refused)
    assert client.get(f"/jobs/{first.job}/filters.xml").status_code == 404


def test_the_old_radio_is_read_step_by_step(client: TestClient, database: Database) -> None:
    """1.4 dB a step, the usual step 6 below the last clean one: 8.4 dB under the top; 3 dB past full power are two
    steps.
    """
    bench = Bench(client, database, demo_design(OLD))
    baseline = bench.page("baseline")
    assert "under 1 % of harmonics up to step <b>22</b>" in re.sub(r"\s+", " ", baseline)
    figures = evaluate(bench.design).figures
    assert figures["radio/step_db"].value == pytest.approx(1.4, abs=0.02)
    assert figures["radio/usual_under_db"].value == pytest.approx(8.4, abs=0.1)
    signal = re.sub(r"\s+", " ", bench.page("signal"))
    assert "amplifier output clips first, 3.0 dB below the top volume: from step 20 on" in signal


def test_a_drop_is_read_judged_and_refused(client: TestClient, database: Database, estate: Design) -> None:
    bench = Bench(client, database, estate)
    fields = {"consumer": "amp", "section": "body there to body at the battery", "path": "drop-amp-body"}
    assert "pairs of points to read" in bench.page("drop")
    answer = bench.post("drop-reading", "drop", hx=True, voltage_v="60", current_a="10", **fields)
    assert "4.70 mΩ too much" in answer.text
    (kept,) = bench.design.drop_readings
    assert (kept.voltage_v.value, kept.current_a) == (pytest.approx(0.06), 10.0)
    for wrong, words in (({"voltage_v": "much"}, "The reading"), ({"current_a": "0"}, "Without a current")):
        refused = bench.post(
            "drop-reading", "drop", hx=True, **({"voltage_v": "5 mV", "current_a": "9"} | fields | wrong)
        )
        assert refused.status_code == 422
        assert words in said(refused)
    assert len(bench.design.drop_readings) == 1
    for sheet in ("protection", "dip"):
        assert "<svg" in bench.page(sheet)


def test_a_cure_of_a_loss_is_tried_and_taken(client: TestClient, database: Database) -> None:
    """The Stop leads to what helps; a press does the first line; pressed again it says that the car is another."""
    number = next(n for n, job in enumerate(demo_jobs()) if job.title.startswith("Two amplifiers"))
    tree = demo_design(number).model_dump(mode="json")
    tree["policy"]["drop_limit_v"] = 0.3
    bench = Bench(client, database, Design.model_validate(tree))
    assert "/loss" in bench.page("supply")
    page = re.sub(r"\s+", " ", bench.page("loss"))
    assert "0.41 V lost of 0.30 V allowed" in page
    assert page.index("A run of its own to Tessel M500") < page.index("Morrowick 10 D4 wired to 8.00 Ω")
    assert bench.post("less-loss", "loss", cure="own-power-amp").status_code == 303
    assert evaluate(bench.design).results.supplies[-1].figures["drop"].value < 0.3
    assert "Every loop holds" in bench.page("loss")
    refused = bench.post("less-loss", "loss", hx=True, cure="own-power-amp")
    assert refused.status_code == 422
    assert "the car is another by now" in refused.text


def test_the_build_sheet_says_what_the_processor_filters(client: TestClient, database: Database) -> None:
    """Before the amplifiers' own: a tweeter lives by it."""
    number = next(n for n, job in enumerate(demo_jobs()) if job.title == "Two bands, one front")
    design = demo_design(number)
    line = next(k for k in design.links_of(LineLink) if design.part(k.from_id) is next(design.parts_of(Converter)))
    design = apply_edits(design, [Edit(path=f"links/{line.id}/low_pass_hz", value=2950.0)])
    page = " ".join(re.sub(r"<[^>]+>", " ", Bench(client, database, design).page("build")).split())
    name = next(design.parts_of(Converter)).name
    assert f"Filters in {name} low-pass 2950 Hz for " in page
