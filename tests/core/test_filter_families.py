"""Filters against scipy.signal, within 0.01 dB and 0.1°; and the sums crossovers are chosen for."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from scipy import signal

from ohmack.core.errors import OutOfRange
from ohmack.core.physics.filter_families import (
    FAMILIES,
    all_pass,
    bell,
    delayed,
    high_pass,
    high_shelf,
    level_db,
    low_pass,
    low_shelf,
)

HZ = np.geomspace(10.0, 20_000.0, 200)
CORNER = 80.0


def by_scipy(kind: str, order: int, family: str) -> Any:
    """The same filter by scipy's designs, as poles and zeros at angular frequencies."""
    w = 2 * np.pi * CORNER
    if family == "Bessel":
        z, p, k = signal.bessel(order, w, kind, analog=True, output="zpk", norm="mag")
        return signal.freqs_zpk(z, p, k, worN=2 * np.pi * HZ)[1]
    half = order // 2 if family == "Linkwitz-Riley" else order
    z, p, k = signal.butter(half, w, kind, analog=True, output="zpk")
    found = signal.freqs_zpk(z, p, k, worN=2 * np.pi * HZ)[1]
    return found**2 if family == "Linkwitz-Riley" else found


@pytest.mark.parametrize("family", FAMILIES)
@pytest.mark.parametrize("order", range(1, 9))
def test_every_family_and_slope_is_scipys(family: str, order: int) -> None:
    if family == "Linkwitz-Riley" and order % 2:
        with pytest.raises(OutOfRange):
            low_pass(HZ, CORNER, 6 * order, family)
        return
    for kind, made in (("low", low_pass), ("high", high_pass)):
        own, other = made(HZ, CORNER, 6 * order, family), by_scipy(kind, order, family)
        heard = np.abs(other) > 1e-5
        assert level_db(own)[heard] == pytest.approx(level_db(other)[heard], abs=0.01)
        assert np.degrees(np.angle(own / other))[heard] == pytest.approx(0.0, abs=0.1)


def test_what_a_linkwitz_riley_sums_to_and_a_butterworth_does_not() -> None:
    """LR 24 sums flat, LR 12 with one side turned round; Butterworth 12 has a hump of 3 dB turned round, a hole
    plain; Butterworth 6 and 18 sum flat in level: Linkwitz 1976, from memory; here by the responses.
    """
    for slope, turned in ((24, 1), (48, 1), (12, -1), (36, -1)):
        whole = low_pass(HZ, CORNER, slope, "Linkwitz-Riley") + turned * high_pass(HZ, CORNER, slope, "Linkwitz-Riley")
        assert level_db(whole) == pytest.approx(0.0, abs=1e-6)
    for slope in (6, 18):
        assert level_db(low_pass(HZ, CORNER, slope) + high_pass(HZ, CORNER, slope)) == pytest.approx(0.0, abs=1e-6)
    at = np.array([CORNER])
    assert level_db(low_pass(at, CORNER, 12) - high_pass(at, CORNER, 12)) == pytest.approx(3.01, abs=0.01)
    assert level_db(low_pass(at, CORNER, 12) + high_pass(at, CORNER, 12))[0] < -100


def test_corners_are_where_they_are_said() -> None:
    at = np.array([CORNER])
    for family, down in (("Butterworth", -3.0103), ("Bessel", -3.0103), ("Linkwitz-Riley", -6.0206)):
        for made in (low_pass, high_pass):
            assert level_db(made(at, CORNER, 24, family))[0] == pytest.approx(down, abs=1e-3)


def test_bands_shelves_and_all_passes() -> None:
    """A band has its gain at its centre and none far off, and its cut undoes its boost; half of a shelf's gain at its
    corner; an all-pass is 0 dB throughout, 90° at its centre in first order, 180° in second.
    """
    at = np.array([1.0, CORNER, 20_000.0])
    assert level_db(bell(at, CORNER, 6.0, 1.4)) == pytest.approx([0.0, 6.0, 0.0], abs=0.01)
    assert bell(HZ, CORNER, 6.0, 1.4) * bell(HZ, CORNER, -6.0, 1.4) == pytest.approx(np.ones_like(HZ))
    edges = CORNER * (np.array([-1, 1]) + np.sqrt(1 + 4 * 1.4**2)) / (2 * 1.4)  # the band's edges: (f₂ − f₁) / f₀ = 1/Q
    assert level_db(bell(edges, CORNER, 6.0, 1.4)) == pytest.approx(3.0, abs=1e-6)
    assert level_db(low_shelf(at, CORNER, 8.0)) == pytest.approx([8.0, 4.0, 0.0], abs=0.01)
    assert level_db(high_shelf(at, CORNER, -8.0)) == pytest.approx([0.0, -4.0, -8.0], abs=0.01)
    assert level_db(all_pass(HZ, CORNER)) == pytest.approx(0.0, abs=1e-9)
    assert level_db(all_pass(HZ, CORNER, 0.7)) == pytest.approx(0.0, abs=1e-9)
    assert np.degrees(np.angle(all_pass(at[1:2], CORNER)))[0] == pytest.approx(-90.0)
    assert abs(np.degrees(np.angle(all_pass(at[1:2], CORNER, 0.7)))[0]) == pytest.approx(180.0)
    low, high = np.array([CORNER / 8]), np.array([CORNER * 8])
    assert np.angle(high_shelf(low, CORNER, 8.0)) == pytest.approx(-np.angle(low_shelf(high, CORNER, 8.0)))


def test_a_delay_turns_the_phase_by_its_time() -> None:
    """1 ms is a quarter turn at 250 Hz."""
    (found,) = delayed(np.array([250.0]), 1.0)
    assert found == pytest.approx(-1j)


def test_what_is_no_filter_is_refused() -> None:
    for slope in (0, 7, 54, -12):
        with pytest.raises(OutOfRange):
            low_pass(HZ, CORNER, slope)
    with pytest.raises(OutOfRange):
        high_pass(HZ, 0.0, 12)
    with pytest.raises(OutOfRange):
        low_pass(HZ, CORNER, 12, "Chebyshev")
