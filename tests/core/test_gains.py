"""Gains and what they are set against: the volume control by scipy, settings by a grid of all, lines by ngspice."""

from __future__ import annotations

from math import inf, log10, pi, sqrt
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.stats import theilslopes

from core.test_rules import VOLUME, reading
from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.links import LineLink
from ohmack.core.errors import OutOfRange, UnknownName
from ohmack.core.evaluation.answer import Evaluation
from ohmack.core.evaluation.door import evaluate
from ohmack.core.physics.gain_settings import gain_settings
from ohmack.core.physics.line_loading import cable_corner_hz, high_pass_loss_db, loading_db
from ohmack.core.physics.volume_map import volume_map
from ohmack.core.planning.gains import kept_at, raised
from ohmack.demo.building import measured
from ohmack.demo.jobs import demo_design, demo_jobs
from references import ngspice

FIVE = next(n for n, job in enumerate(demo_jobs()) if job.title.startswith("Five channels"))


def put(path: str, value: Any) -> Edit:
    return Edit(path=path, value=value)


def swept(top_v: float, db_per_step: float, steps: range, clean: int) -> list[tuple[float, float]]:
    """A volume control of so many decibels a step that clips behind its clean step: a meter sees 0.3 dB more."""
    law = {s: top_v * 10 ** (db_per_step * (s - clean) / 20) for s in steps}
    return [(float(s), v if s <= clean else top_v * 1.035) for s, v in law.items()]


# the volume control ---------------------------------------------------------------------------------------------------


@settings(max_examples=60, deadline=None)
@given(
    st.floats(0.5, 20), st.floats(0.6, 3.0), st.integers(7, 15).map(lambda n: 2 * n), st.integers(0, 11),
    st.sampled_from([0.4, 0.6, 1.6, 2.5]), st.randoms(),
)  # fmt: skip
def test_one_misread_step_moves_nothing(
    top_v: float, slope: float, clean: int, wrong: int, times: float, rnd: Any
) -> None:
    """Slope by scipy.stats.theilslopes; one reading taken in the wrong range is found and left out."""
    rows = [(s, v * 10 ** (rnd.uniform(-0.1, 0.1) / 20)) for s, v in swept(top_v, slope, range(2, 35, 2), clean)]
    below = [row for row in rows if row[0] <= clean]
    true = volume_map(rows)
    assert true is not None
    assert (true.clean_step, true.outliers) == (clean, ())
    expected = theilslopes([20 * log10(v) for _, v in below], [s for s, _ in below])[0]
    assert true.db_per_step == pytest.approx(expected)
    assert true.scatter_db < 0.3
    place = 1 + wrong % (len(below) - 3)
    rows[place] = (rows[place][0], rows[place][1] * times)
    found = volume_map(rows)
    assert found is not None
    assert found.outliers == (rows[place][0],)
    assert found.clean_step == true.clean_step
    assert found.db_per_step == pytest.approx(true.db_per_step, abs=0.15)


def test_a_control_that_slows_down_is_not_clipping() -> None:
    """3 dB a step at first and 0.9 above step 10, as taps of a control go: only what gains 3 dB at most is clipped (a
    clipped sine carries at most twice the power, textbook).
    """
    slow = [(s, 10 ** ((-20 - 3 * (10 - s) if s < 10 else -20 + 0.9 * (s - 10)) / 20)) for s in range(2, 33, 2)]
    found = volume_map(slow)
    assert found is not None
    assert found.clean_step == 32
    assert found.level_dbv(11) == pytest.approx(-19.1)
    with pytest.raises(OutOfRange, match="2 to 32"):
        found.level_dbv(33)
    assert found.step_at(-19.1) == pytest.approx(11)
    assert found.step_at(-99) == 2
    assert found.step_at(9) == inf
    assert volume_map(slow[:3]) is None
    assert volume_map([*slow, slow[4]]) is None


def test_room_becomes_the_step_it_is_used_up_at(estate: Design) -> None:
    """1.5 dB a step: a stage with 3 dB too little is clean to two steps below the top; one that waits for more level
    than the source has is never the first.
    """
    limit_v = 4.5 / 10 ** (3 / 20)
    edits = [measured("vehicle/radio/source_voltage_v", 4.5), measured("vehicle/radio/usual_step", 12.0),
             put("parts/converter/input_limit_v", limit_v), *VOLUME]  # fmt: skip
    low = apply_edits(estate, [*edits, put("parts/converter/input_stated_as", "rms")])
    result = evaluate(low)
    signal = result.results.signals[0]
    by_name = {stage.name: stage for stage in signal.stages}
    rung = by_name["converter input"]
    assert rung.room is not None
    assert rung.clean_to is not None
    assert rung.room.value == pytest.approx(-3.0)
    assert rung.clean_to.value == pytest.approx(18.0)
    assert signal.ladder.first_to_clip is rung
    assert by_name["amplifier input"].clean_to is not None
    assert by_name["amplifier input"].clean_to.value == inf
    figures = result.figures
    assert figures["radio/usual_under_db"].value == pytest.approx(12.0)
    scope = "amp/line-amp"
    top_db, usual_db = figures[f"{scope}/snr_db"].value, figures[f"{scope}/snr_usual_db"].value
    assert top_db - usual_db == pytest.approx(12.0)


def test_music_past_full_power_clips_the_amplifier_first(estate: Design) -> None:
    past = evaluate(apply_edits(estate, [put("policy/overlap_db", 6.0)])).results.signals[0]
    first = past.ladder.first_to_clip
    assert first is not None
    assert first.name == "amplifier output"
    full, clip = past.figures["full"].value, past.figures["clip"].value
    assert first.room is not None
    assert first.room.value == pytest.approx(20 * log10(clip / full) - 6.0)


# settings of a gain ---------------------------------------------------------------------------------------------------


@settings(max_examples=80, deadline=None)
@given(
    st.floats(0.5, 30), st.floats(-30, 0), st.floats(0, 20), st.floats(1, 10),
    st.lists(st.tuples(st.floats(0.1, 0.5), st.floats(1, 8)), min_size=1, max_size=4),
)  # fmt: skip
def test_the_best_gain_is_the_best_of_a_grid(
    source_v: float, low_db: float, high_db: float, limit_v: float, spans: list[tuple[float, float]]
) -> None:
    """Every gain on a grid of 0.02 dB: none that fits leaves more signal over noise than the first setting."""
    found = gain_settings(source_v, low_db, high_db, limit_v, spans, -92.0, [-98.0] * len(spans))
    noise_dbv = 10 * log10(10**-9.2 + 10**-9.8)
    best = None
    for gain_db in np.arange(low_db, high_db, 0.02):
        out_v = source_v * 10 ** (gain_db / 20)
        if out_v <= limit_v and all(most <= out_v <= least for most, least in spans):
            best = 20 * log10(out_v) - noise_dbv
    if best is None:
        assert not any(one.fits and one.output_v < limit_v * 0.99 for one in found[:1]) or found[0].fits
        return
    assert found[0].fits
    assert found[0].snr_db == pytest.approx(best, abs=0.07)
    fitting = [one.snr_db for one in found if one.fits]
    assert fitting == sorted(fitting, reverse=True)
    assert [one.fits for one in found] == sorted((one.fits for one in found), reverse=True)


def test_what_is_kept_is_what_is_computed_with(estate: Design) -> None:
    """A gain kept 6.02 dB below the best halves the line (textbook), so half the sensitivity is set behind it."""
    first = evaluate(estate).results.signals[0]
    best = first.settings[0]
    assert first.figures["gain"].value == pytest.approx(best.gain_db, abs=0.01)
    half = apply_edits(estate, [put("parts/converter/gain_kept_db", best.gain_db - 20 * log10(2))])
    result = evaluate(half)
    signal = result.results.signals[0]
    for name in ("output", "sensitivity"):
        assert signal.figures[name].value == pytest.approx(first.figures[name].value / 2, rel=2e-3), name
    assert signal.figures["target"].value == first.figures["target"].value
    assert signal.settings == first.settings
    kept = next(f for f in result.findings if f.rule == "gain-kept")
    assert "6.0 dB below" in kept.title


def test_a_knob_kept_too_high_is_said_in_decibels(estate: Design) -> None:
    """Twice as sensitive as it should be is 6.02 dB past full power (textbook); half is 6.02 dB short."""
    right_v = evaluate(estate).results.signals[0].figures["sensitivity"].value

    def at(times: float) -> tuple[Evaluation, list[str]]:
        result = evaluate(apply_edits(estate, [put("links/speaker-sub/sensitivity_kept_v", right_v / times)]))
        return result, [f.title for f in result.findings if f.rule == "sensitivity-kept"]

    hot, said = at(2.0)
    assert "6.0 dB past full power" in said[0]
    figures = hot.results.signals[0].figures
    assert figures["past"].value == pytest.approx(20 * log10(2))
    assert figures["target"].value == pytest.approx(figures["clip"].value)
    assert hot.results.signals[0].stages[-2].margin_db < 0
    cold, said = at(0.5)
    assert "6.0 dB below full power" in said[0]
    figures = cold.results.signals[0].figures
    assert figures["target"].value == pytest.approx(figures["full"].value / 2)
    assert at(1.0)[1] == []


def test_a_level_drawn_up_turns_the_knob_behind_it(estate: Design) -> None:
    """One knob of a pair of channels moves both; no knob goes past its end."""
    now = evaluate(estate)
    (edit,) = raised(now, "converter", -3.0)
    assert edit.path == "parts/converter/gain_kept_db"
    assert edit.value == pytest.approx(now.results.signals[0].figures["gain"].value - 3.0, abs=0.01)
    assert raised(now, "converter", 90.0)[0].value == now.results.signals[0].converter.gain_high_db  # type: ignore[union-attr]
    (knob,) = raised(now, "speaker-sub", 6.0)
    should = now.results.signals[0].figures["sensitivity"].value
    assert knob.value == pytest.approx(should / 10 ** (6 / 20), rel=5e-3)
    assert raised(now, "speaker-sub", -90.0)[0].value == 6.0
    with pytest.raises(UnknownName):
        raised(now, "nothing", 1.0)
    five = evaluate(demo_design(FIVE))
    front = next(s for s in five.results.signals if len(s.outputs) > 1)
    moved = raised(five, front.outputs[0].load.link.id, 1.0)
    assert {e.path.split("/")[1] for e in moved} == {k.id for o in front.outputs for k in o.load.links}
    assert len({e.value for e in moved}) == 1
    right = front.outputs[1].load.link.id
    assert {e.path for e in kept_at(five, right, 2.5)} == {e.path for e in moved}
    assert {e.value for e in kept_at(five, right, 2.5)} == {2.5}
    with pytest.raises(UnknownName):
        kept_at(five, "nothing", 2.5)


# lines ----------------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(("out_ohm", "in_ohm", "length_m"), [(100.0, 20_000.0, 5.0), (4700.0, 10_000.0, 3.0)])
def test_lines_against_a_circuit_simulator(out_ohm: float, in_ohm: float, length_m: float) -> None:
    corner_hz = cable_corner_hz(out_ohm, in_ohm, length_m, 150.0)
    low, corner, bass = ngspice(
        "line.cir", output_ohm=out_ohm, input_ohm=in_ohm, capacitance_f=length_m * 150e-12, corner_hz=corner_hz,
        transformer_ohm=10_000.0, transformer_f=1 / (2 * pi * 10_000.0 * 40.0), bass_hz=25.0,
    )  # fmt: skip
    assert loading_db(out_ohm, in_ohm) == pytest.approx(low, abs=1e-4)
    assert corner == pytest.approx(low - 10 * log10(2), abs=1e-3)
    assert high_pass_loss_db(25.0, 40.0) == pytest.approx(-bass, abs=1e-6)


def test_inputs_on_one_pair_load_it_together(estate: Design) -> None:
    """Two of 10 kΩ in parallel are 5 kΩ, on a source of 5 kΩ half its voltage: 6.02 dB (textbook); alone 3.52 dB."""
    loaded = apply_edits(estate, [put("parts/converter/output_ohm", 5000.0), put("parts/amp/input_ohm", 10_000.0)])
    (line,) = loaded.links_of(LineLink)
    alone = evaluate(loaded).figures[f"{line.id}/loading_db"].value
    assert alone == pytest.approx(20 * log10(10 / 15))
    tree = {**loaded.part("amp").model_dump(mode="json"), "id": "second"}  # type: ignore[union-attr]
    split = [
        Edit(op="add", path="parts", value=tree),
        Edit(op="add", path="links", value={**line.model_dump(mode="json"), "id": "split", "to_id": "second"}),
    ]
    both = evaluate(apply_edits(loaded, split))
    assert [both.figures[f"{name}/loading_db"].value for name in (line.id, "split")] == [pytest.approx(-6.0206)] * 2
    unread = evaluate(apply_edits(loaded, [*split, put("parts/second/input_ohm", None)]))
    assert unread.figures[f"{line.id}/loading_db"].value == alone


def test_what_an_input_takes_off_is_given_back_by_the_gain(estate: Design) -> None:
    """An input as high as the source takes 6.02 dB off (textbook): where the converter has room, it gives them back;
    the amplifier's input sees what arrives.
    """
    loaded = [put("parts/converter/output_ohm", 10_000.0), put("parts/amp/input_ohm", 10_000.0)]
    first = evaluate(estate).results.signals[0]
    signal = evaluate(apply_edits(estate, loaded)).results.signals[0]
    assert signal.figures["output"].value == pytest.approx(first.figures["output"].value)  # its clean output decides
    assert signal.figures["arrives"].value == pytest.approx(first.figures["output"].value / 2)
    assert signal.figures["sensitivity"].value == pytest.approx(first.figures["sensitivity"].value / 2)
    roomy = [put("parts/converter/output_limit_v", 20.0), put("parts/converter/gain_high_db", 20.0)]
    free = evaluate(apply_edits(estate, roomy)).results.signals[0]
    back = evaluate(apply_edits(estate, [*roomy, *loaded])).results.signals[0]
    assert back.figures["output"].value == pytest.approx(2 * free.figures["output"].value)
    assert back.figures["arrives"].value == pytest.approx(free.figures["output"].value)
    assert back.settings[0].gain_db == pytest.approx(back.figures["gain"].value, abs=0.01)


def test_the_level_of_a_pair_moves_what_arrives_and_a_phone_turned_down_the_noise(estate: Design) -> None:
    """−6.02 dB in the source halve the input (textbook); where the converter has room its gain gives them back. A phone
    6 dB under its full leaves 6 dB less over the noise at the usual step.
    """
    first = evaluate(estate).results.signals[0]
    half = -20 * log10(2)
    lower = evaluate(apply_edits(estate, [put("links/line-amp/level_db", half)])).results.signals[0]
    assert lower.figures["arrives"].value == pytest.approx(first.figures["output"].value / 2)
    assert lower.figures["sensitivity"].value == pytest.approx(first.figures["sensitivity"].value / 2)
    roomy = [put("parts/converter/output_limit_v", 20.0), put("parts/converter/gain_high_db", 20.0)]
    free = evaluate(apply_edits(estate, roomy)).results.signals[0]
    back = evaluate(apply_edits(estate, [*roomy, put("links/line-amp/level_db", half)])).results.signals[0]
    assert back.figures["arrives"].value == pytest.approx(free.figures["arrives"].value)
    assert back.figures["output"].value == pytest.approx(2 * free.figures["output"].value)
    usual = [*VOLUME, measured("vehicle/radio/usual_step", 12.0)]
    phone = [*usual, measured("vehicle/radio/player_under_db", 6.0)]
    loud, quiet = (evaluate(apply_edits(estate, e)).figures["amp/line-amp/snr_usual_db"].value for e in (usual, phone))
    assert loud - quiet == pytest.approx(6.0)
    (said,) = [f for f in evaluate(apply_edits(estate, phone)).findings if f.rule == "player-turned-down"]
    assert "6.0 dB past full power" in said.text


def test_hum_is_the_grounds_apart_less_what_is_rejected(estate: Design) -> None:
    """The ground side of the loop, Ohm's law on the solved supply; a differential input of 40 dB takes 40 dB off; an
    isolator 60 (common practice, no source); grounded at one stud the body's share is gone.
    """
    result = evaluate(estate)
    (line,) = result.results.lines
    supply = result.results.supplies[0]
    own = {s.name: s.drop_v for s in supply.segments}
    ground_v = sum(v for k, v in own.items() if k.startswith(("Ground", "Negative", "Body")))
    assert line.apart is not None
    assert line.apart.value == pytest.approx(ground_v)
    assert line.hum is not None
    idle = ground_v * 0.8 / supply.figures["current"].value * 0.1
    assert line.hum.value == pytest.approx(20 * log10(idle))
    rejecting = evaluate(apply_edits(estate, [put("parts/amp/common_mode_db", 40.0)])).results.lines[0]
    assert rejecting.hum is not None
    assert rejecting.hum.value == pytest.approx(line.hum.value - 40.0)
    isolator = {"id": "iso", "kind": "line isolator", "name": "Iso", "limit_v": 8.0, "in_line_id": "line-amp"}
    parted = evaluate(apply_edits(estate, [Edit(op="add", path="parts", value=isolator)])).results.lines[0]
    assert parted.hum is not None
    assert (parted.hum.value, parted.rejected_by) == (pytest.approx(line.hum.value - 60.0), "Iso")
    same = evaluate(apply_edits(estate, [put("links/feed-converter/ground_point_id", "ground-rear")])).results.lines[0]
    assert same.apart is not None
    assert same.apart.value == pytest.approx(ground_v - own["Body return"])


def test_hiss_follows_from_both_noises(estate: Design) -> None:
    """Two equal noises are 3.01 dB more than one (textbook)."""
    noisy = apply_edits(estate, [put("parts/amp/noise_dbv", -90.0), put("parts/converter/noise_dbv", -90.0)])
    figures = evaluate(noisy).figures
    assert figures["amp/line-amp/noise_dbv"].value == pytest.approx(-90 + 10 * log10(2))
    line_v = evaluate(noisy).results.signals[0].figures["output"].value
    assert figures["amp/line-amp/snr_db"].value == pytest.approx(20 * log10(line_v) + 90 - 10 * log10(2))
    unknown = evaluate(apply_edits(estate, [put("parts/amp/noise_dbv", None)])).figures["amp/line-amp/snr_db"]
    assert unknown.value is None
    assert unknown.missing[0].path == "parts/amp/noise_dbv"


def test_readings_that_contradict_the_file_are_said_in_decibels(estate: Design) -> None:
    """4.5 V by the readings, 9 V on file: 6.0 dB."""
    design = apply_edits(estate, [measured("vehicle/radio/source_voltage_v", 4.5 * 2), *VOLUME])
    said = [f for f in evaluate(design).findings if f.rule == "volume-contradiction"]
    assert "6.0 dB less" in said[0].title
    wrong = apply_edits(design, [Edit(op="remove", path="vehicle/volume_steps/r-16-1000"), reading(16, 1000.0, 4.0)])
    notes = [f.title for f in evaluate(wrong).findings if f.rule == "volume-contradiction"]
    assert "The reading at step 16 does not fit the others" in notes
    remedy = said[0].remedy
    assert remedy is not None
    taken = apply_edits(design, list(remedy.edits))
    assert taken.vehicle.radio.source_voltage_v.value == pytest.approx(4.5, abs=0.01)
    assert taken.vehicle.radio.clip_step.value == "20"
    assert not [f for f in evaluate(taken).findings if f.rule == "volume-contradiction"]
    assumed = apply_edits(design, [put("vehicle/radio/source_voltage_v", {"value": 9.0, "basis": "assumed"})])
    (still,) = [f for f in evaluate(assumed).findings if f.rule == "volume-contradiction"]
    assert (still.title.endswith("9.00 V is still assumed"), still.remedy) == (True, remedy)
    agrees = apply_edits(design, [measured("vehicle/radio/source_voltage_v", 4.5 * sqrt(2)),
                                  put("vehicle/radio/source_stated_as", "peak")])  # fmt: skip
    assert not [f for f in evaluate(agrees).findings if f.rule == "volume-contradiction"]
