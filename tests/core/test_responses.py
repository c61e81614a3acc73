"""Responses: recordings taken apart against filters that scipy makes, bands against a response they were made of."""

from __future__ import annotations

from math import log10

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.signal import butter, sosfilt, sosfreqz

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.links import SpeakerLink
from ohmack.core.errors import NotPossible, OutOfRange, UnknownName
from ohmack.core.evaluation.door import evaluate
from ohmack.core.physics.equalising import FlatBand, bands_level_db, flattened
from ohmack.core.physics.filter_families import bell, level_db
from ohmack.core.physics.responses import distortion, grid_hz, noise_response, smoothed, swept_response
from ohmack.core.physics.tones import RATE_HZ, pink_noise, sine, sweep
from ohmack.core.planning.responses import MOST, flatten, take_in
from ohmack.core.planning.survey import distortion_reading
from ohmack.core.signal.equaliser import bands_response

FILTER = butter(2, [90.0, 6000.0], "bandpass", fs=RATE_HZ, output="sos")
HZ = grid_hz(30.0, 15_000.0, 6)


def filtered(samples: np.ndarray) -> np.ndarray:
    return np.asarray(sosfilt(FILTER, samples))


def truth_db() -> np.ndarray:
    _, response = sosfreqz(FILTER, HZ, fs=RATE_HZ)
    return np.asarray(20 * np.log10(np.abs(response)))


def test_a_recorded_sweep_gives_back_the_filter_it_went_through() -> None:
    """Late, quieter by 6.02 dB, with noise under it: within 0.2 dB of scipy.signal.sosfreqz where it is not 30 dB
    down; a gate keeps what comes first and leaves an echo of 40 ms out.
    """
    played = sweep(20.0, 20_000.0, -20.0, 8.0)
    noise = 1e-5 * np.random.default_rng(3).standard_normal(len(played) + RATE_HZ)
    late = np.concatenate([np.zeros(RATE_HZ // 2), 0.5 * filtered(played), np.zeros(RATE_HZ // 2)]) + noise
    found = swept_response(late, played, RATE_HZ, HZ)
    kept = truth_db() > -30
    assert np.abs(found - truth_db() + 20 * log10(2))[kept].max() < 0.2
    echo = late + 0.5 * np.roll(late, round(0.04 * RATE_HZ))
    high = HZ > 300
    gated = swept_response(echo, played, RATE_HZ, HZ, 20.0)
    assert np.abs(gated - truth_db() + 20 * log10(2))[kept & high].max() < 0.4
    combed = swept_response(echo, played, RATE_HZ, HZ) - found
    assert np.abs(combed).max() > 2
    mean_db = 10 * log10(1 + 0.5**2)  # textbook: a comb of many teeth in a band adds the powers
    assert combed[kept & (HZ > 2000)] == pytest.approx(mean_db, abs=0.4)
    with pytest.raises(OutOfRange):
        swept_response(np.zeros(RATE_HZ), played, RATE_HZ, HZ)
    with pytest.raises(OutOfRange, match="half the recording"):
        swept_response(late, played, 22_050, HZ)


def test_recorded_noise_gives_the_same_shape() -> None:
    """Pink noise through the same filter: within 1.5 dB in sixths of an octave, against its own middle."""
    found = noise_response(0.3 * filtered(pink_noise(-20.0, 30.0)), RATE_HZ, HZ)
    middle = (HZ >= 200) & (HZ <= 2000)
    wanted = truth_db() - truth_db()[middle].mean()
    assert np.abs(found - wanted)[(wanted > -15) & (HZ > 40)].max() < 1.5


@pytest.mark.parametrize("hz", [50.0, 997.0])
def test_distortion_is_the_share_of_harmonics(hz: float) -> None:
    """A second harmonic of 3 % and a third of 4 % are 5 % together; a square wave has √(π²/8 − 1) of its fundamental
    (Fourier series, textbook), here its first nine harmonics.
    """
    times = np.arange(2 * RATE_HZ) / RATE_HZ
    tone = sum(a * np.sin(2 * np.pi * n * hz * times + n) for n, a in ((1, 0.5), (2, 0.015), (3, 0.02)))
    found_hz, rms, share = distortion(np.asarray(tone), RATE_HZ)
    assert found_hz == pytest.approx(hz, rel=1e-4)
    assert rms == pytest.approx(np.sqrt((0.5**2 + 0.015**2 + 0.02**2) / 2), rel=1e-3)
    assert share == pytest.approx(0.05, rel=1e-3)
    clean = distortion(sine(hz, -6.0, 2.0)[4800:-4800], RATE_HZ)[2]
    assert clean < 1e-4
    if hz < 100:
        square = distortion(np.sign(np.sin(2 * np.pi * hz * times)) * 0.5, RATE_HZ)[2]
        assert square == pytest.approx(np.sqrt(sum(1 / n**2 for n in (3, 5, 7, 9))), rel=5e-3)
    with pytest.raises(OutOfRange, match="steady tone"):
        distortion(np.random.default_rng(1).standard_normal(RATE_HZ), RATE_HZ)


def test_smoothing_keeps_power() -> None:
    """A flat response stays flat; one bin 20 dB over n others in its third is 10 log10((n − 1 + 100)/n) more."""
    hz = grid_hz(20.0, 20_000.0, 24)
    assert np.allclose(smoothed(hz, np.full(len(hz), 5.0), 3), 5.0)
    spike = np.zeros(len(hz))
    spike[100] = 20.0
    found = smoothed(hz, spike, 3)
    assert found[100] == pytest.approx(10 * log10((8 + 100) / 9))
    assert found[90] == 0.0


# flattening -----------------------------------------------------------------------------------------------------------


@settings(max_examples=12, deadline=None)
@given(st.floats(150, 4000), st.floats(3, 10), st.floats(0.8, 4), st.floats(2.5, 6))  # skirts within the range
def test_bands_undo_the_bands_a_response_was_made_of(hz: float, hump: float, q: float, apart: float) -> None:
    """Two humps of a parametric equaliser are taken off again to less than a tenth of what they were, or until no peak
    of 0.8 dB is left, which is worth no band (common practice).
    """
    grid = grid_hz(20.0, 20_000.0, 24)
    made = level_db(bell(grid, hz, hump, q)) + level_db(bell(grid, hz * apart, hump / 2, q))
    found = flattened(grid, made, 30.0, 19_000.0, 4, 3.0)
    left = made + bands_level_db(grid, found.bands)
    assert found.after_db < max(0.1 * found.before_db, 0.2) or np.abs(left - left.mean()).max() < 0.8
    assert all(band.gain_db <= 3.0 for band in found.bands)


def test_a_hole_is_not_filled_beyond_the_boost_that_is_allowed() -> None:
    """A dip of 12 dB: with 3 dB of boost it is lifted by 3 at most; with none nothing is lifted at all."""
    grid = grid_hz(20.0, 20_000.0, 24)
    hole = level_db(bell(grid, 200.0, -12.0, 3.0))
    some = flattened(grid, hole, 40.0, 12_000.0, 4, 3.0)
    assert 0 < max(b.gain_db for b in some.bands) <= 3.0
    assert bands_level_db(grid, some.bands).max() < 3.3  # bands are not piled up
    none = flattened(grid, hole, 40.0, 12_000.0, 4, 0.0)
    assert all(b.gain_db <= 0 for b in none.bands)
    assert flattened(grid, np.zeros(len(grid)), 40.0, 12_000.0).bands == ()
    one = (FlatBand(100.0, -6.0, 1.0),)
    assert bands_level_db(np.array([100.0]), one)[0] == pytest.approx(-6.0)
    for wrong in ({"low_hz": 500.0, "high_hz": 400.0}, {"most_bands": 11}, {"most_boost_db": -1.0}, {"high_hz": 41.0}):
        with pytest.raises(OutOfRange):
            flattened(grid, hole, **({"low_hz": 40.0, "high_hz": 12_000.0} | wrong))  # type: ignore[arg-type]


# in a design ----------------------------------------------------------------------------------------------------------


def with_response(design: Design, level: np.ndarray, hz: np.ndarray, where: str = "at the tap", **more: str) -> Design:
    words = {"taken": "before the work", "step": "24"} | more
    return apply_edits(design, take_in(design, "Front", where, words["taken"], words["step"], list(hz), list(level)))


def test_flattening_sets_bands_that_do_what_is_drawn(estate: Design) -> None:
    hz = grid_hz(20.0, 20_000.0, 12)
    bumpy = with_response(estate, 85 + level_db(bell(hz, 63.0, 8.0, 1.0)), hz)
    proposal, edits = flatten(bumpy, "response", ["speaker-sub"], 30.0, 500.0, 3, 3.0)
    design = apply_edits(bumpy, edits)
    (one,) = evaluate(design).results.responses
    link = next(design.links_of(SpeakerLink))
    assert len(link.bands) == len(proposal.bands) >= 1
    assert one.link is link
    assert one.with_bands is not None
    assert np.allclose(one.with_bands - one.level, level_db(bands_response(link.bands, hz)))
    assert one.evener is not None
    assert one.evener.value < 0.4 * one.uneven.value
    with pytest.raises(UnknownName):
        flatten(design, "nothing", ["speaker-sub"], 30.0, 500.0, 3, 3.0)
    with pytest.raises(NotPossible, match="outputs"):
        flatten(design, "response", ["line-amp"], 30.0, 500.0, 3, 3.0)


def test_bass_that_is_missing_at_the_tap_is_said_in_decibels(estate: Design) -> None:
    hz = grid_hz(20.0, 20_000.0, 12)
    lean = np.where(hz < 120, -9.0, 0.0)

    def said(design: Design) -> list[str]:
        return [f.title for f in evaluate(design).findings if f.rule == "tap-response"]

    design = with_response(estate, lean, hz)
    assert said(design) == ["Front at step 24: 9.0 dB less bass than midrange"]
    assert said(with_response(estate, lean / 2, hz)) == []
    assert said(with_response(estate, lean, hz, "at the driver's head")) == []
    assert said(apply_edits(design, [Edit(path="parts/converter/restores_bass", value=True)])) == []
    short = with_response(estate, np.zeros(20), hz[40:60])
    assert evaluate(short).results.responses[0].bass is None


def test_after_is_judged_against_before(estate: Design) -> None:
    hz = grid_hz(20.0, 20_000.0, 12)
    seat = "at the driver's head"
    first = with_response(estate, level_db(bell(hz, 500.0, 4.0, 1.0)), hz, seat)
    worse = with_response(first, level_db(bell(hz, 500.0, 14.0, 1.0)), hz, seat, taken="after it")
    assert [f.title for f in evaluate(worse).findings if f.rule == "response-worse"]
    better = with_response(first, level_db(bell(hz, 500.0, 1.0, 1.0)), hz, seat, taken="after it")
    assert not [f for f in evaluate(better).findings if f.rule == "response-worse"]
    full = better
    for _ in range(MOST - 2):
        full = with_response(full, np.zeros(len(hz)), hz)
    with pytest.raises(NotPossible, match="12 responses"):
        with_response(full, np.zeros(len(hz)), hz)


def test_harmonics_by_step_name_the_last_clean_one(estate: Design) -> None:
    """Under one percent is clean (common practice, no source); one tone and step are one reading."""
    design = estate
    for step, percent in ((20.0, 0.2), (24.0, 0.6), (28.0, 3.0), (32.0, 0.4), (24.0, 0.8)):
        design = apply_edits(design, distortion_reading(design, step, 1000.0, percent))
    (tone,) = evaluate(design).results.baseline.sweeps
    assert tone.distorted == ((20.0, 0.2), (24.0, 0.8), (28.0, 3.0), (32.0, 0.4))
    assert tone.clean_by_recording == 24.0
    assert tone.last_clean is None


def test_an_echo_counts_the_less_the_nearer_the_end_of_the_gate() -> None:
    """The gate's second half falls as a raised cosine: an echo a quarter in is whole, at three quarters half, behind it
    nothing (by hand). A click and its echo: 1 + a e^(-jωt) swings between 1 + a and 1 - a.
    """
    rate_hz, gate_ms, a = 8000, 16.0, 0.5
    at_hz = np.arange(200.0, 3800.0, 4.0)
    played = np.zeros(4096)
    played[10] = 1.0
    for at_ms, kept in ((4.0, 1.0), (12.0, 0.5), (20.0, 0.0)):
        recorded = played + a * np.roll(played, round(at_ms / 1000 * rate_hz))
        level = 10 ** (swept_response(recorded, played, rate_hz, at_hz, gate_ms) / 20)
        swing = (level.max() - level.min()) / (level.max() + level.min())
        assert swing == pytest.approx(a * kept, abs=0.05), at_ms
