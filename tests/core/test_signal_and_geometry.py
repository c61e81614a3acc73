"""Levels and lengths: trade facts and second routes."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ohmack.core.errors import OutOfRange
from ohmack.core.physics.gain_settings import gain_settings
from ohmack.core.physics.geometry import (
    distance_to_run_m,
    follows_axis,
    length_beside_m,
    plan_length_m,
    point_at,
    run_length_m,
)
from ohmack.core.physics.signal_chain import (
    db_from_voltage_ratio,
    dbv,
    rms_from,
    target_voltage_v,
    voltage_ratio_from_db,
)
from ohmack.core.supply.small_circuits import loss_db

POINTS = st.lists(st.tuples(st.floats(0, 5), st.floats(-0.9, 0.9)), min_size=2, max_size=7)


def test_target_voltage_facts() -> None:
    # Common practice, no source: a -5 dBFS tone without overlap reads 0.56 of full voltage, with 5 dB overlap all of
    # it.
    assert target_voltage_v(30, -5, 0) == pytest.approx(30 * 0.5623, abs=0.01)
    assert target_voltage_v(30, -5, 5) == pytest.approx(30)
    assert target_voltage_v(30, 0, 10) == 30  # never above full power
    for bad in ((30, 1, 0), (30, 0, -1), (0, 0, 0), (float("nan"), 0, 0)):
        with pytest.raises(OutOfRange):
            target_voltage_v(*bad)


def test_rms_and_peak() -> None:
    # Common practice: 9 V rms is 20 W into 4 ohm, 9 V peak is 10 W.
    assert rms_from(9, "rms") ** 2 / 4 == pytest.approx(20.25)
    assert rms_from(9, "peak") ** 2 / 4 == pytest.approx(10.1, abs=0.05)
    # 40 V would be 400 W into 4 ohm (common practice).
    assert pytest.approx(400) == 40**2 / 4


def test_decibels_against_the_definition() -> None:
    assert dbv(1) == 0
    assert db_from_voltage_ratio(10) == pytest.approx(20)
    assert voltage_ratio_from_db(6) == pytest.approx(1.995, abs=1e-3)  # IEC 60027-3 table value, from memory
    assert loss_db(0.1, 2) == pytest.approx(-20 * math.log10(2 / 2.1))


@given(
    st.floats(2, 40), st.floats(-40, -10), st.floats(-9, 10), st.floats(1, 10), st.floats(0.1, 0.9), st.floats(1, 10)
)
def test_gain_plan_stays_inside_every_limit(
    src: float, low: float, high: float, clean: float, most: float, least: float
) -> None:
    plan = gain_settings(src, low, high, clean, [(most, least)], None, [None])[0]
    assert low - 1e-9 <= plan.gain_db <= high + 1e-9
    assert plan.output_v == pytest.approx(src * 10 ** (plan.gain_db / 20))
    if plan.stands_at != "its lowest gain":
        assert plan.output_v <= min(clean, least) * (1 + 1e-9)
        louder = plan.output_v * 1.001
        assert louder > clean or louder > least or louder > src * 10 ** (high / 20)  # no room left


@given(POINTS)
def test_plan_length_by_a_second_route(points: list[tuple[float, float]]) -> None:
    steps = np.diff(np.array(points), axis=0)
    assert plan_length_m(points) == pytest.approx(float(np.sqrt((steps**2).sum(axis=1)).sum()))
    assert run_length_m(points, 0.3, 0.05) == pytest.approx((plan_length_m(points) + 0.6) * 1.05)


@given(POINTS, st.floats(0, 1))
def test_point_at_lies_on_the_run(points: list[tuple[float, float]], share: float) -> None:
    total = plan_length_m(points)
    place = point_at(points, share * total)
    assert distance_to_run_m(place, points) < 1e-9
    dense = [point_at(points, total * k / 400) for k in range(401)]
    brute = min(math.dist((2.0, 0.3), p) for p in dense)
    assert distance_to_run_m((2.0, 0.3), points) == pytest.approx(brute, abs=total / 400 + 1e-9)


def test_length_beside() -> None:
    power = [(0.7, -0.7), (3.6, -0.7)]
    assert length_beside_m([(1.0, -0.6), (3.0, -0.6)], power, 0.3) == pytest.approx(2.0, abs=0.11)
    assert length_beside_m([(1.0, 0.7), (3.0, 0.7)], power, 0.3) == 0
    assert length_beside_m([(2.0, -1.0), (2.0, 1.0)], power, 0.3) == pytest.approx(0.6, abs=0.11)  # only crosses


def test_when_a_drawing_may_share_the_cars_axis() -> None:
    assert follows_axis([(0.7, -0.4), (0.7, -0.7), (3.6, -0.7), (3.6, 0)], 4.6)
    assert not follows_axis([(3.4, -0.4), (3.6, 0)], 4.6)  # battery beside the amplifier
    assert not follows_axis([(0.7, 0), (3.9, 0.7), (3.0, 0.7)], 4.6)  # doubles back
    assert not follows_axis([(2.0, -0.8), (2.0, 0.8)], 4.6)  # lies across
    assert not follows_axis([(1.0, 0.0), (2.1, 0.0)], 4.6)  # 1.10 m, less than a quarter of it
    assert follows_axis([(1.0, 0.0), (2.2, 0.0)], 4.6)  # 1.20 m, more
