"""Currents, drops and the constant-power solution against ngspice, scipy and trade facts."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from scipy.optimize import brentq, fsolve

from ohmack.core.errors import NoOperatingPoint, OutOfRange
from ohmack.core.network.states import battery_resistance_ohm
from ohmack.core.physics.conductors import conductor
from ohmack.core.physics.protection import FAMILIES, best_fuse, choose_fuse, family, fuse_resistance_ohm
from ohmack.core.physics.supply import Load, amplifier_load, load_voltage_v, network_voltages_v, output_power_at_w
from references import ngspice


def test_trade_fact_300_watts() -> None:
    # Common practice, no source: 300 W class D at 13.8 V and 75 % draws about 29 A and loses 0.30 V in 5 m of 8 AWG.
    current_a = amplifier_load(300, 0.75, 0, regulated=True).current_at(13.8)
    assert current_a == pytest.approx(29, abs=0.1)
    assert current_a * 5 * conductor("8 AWG").resistance_ohm_per_m == pytest.approx(0.30, abs=0.005)


def test_drop_against_ngspice() -> None:
    plus_ohm, minus_ohm, power_w, idle_a = 0.0061, 0.0024, 625.0, 0.8
    (spice_v,) = ngspice(
        "drop.cir", source_v=14.2, plus_ohm=plus_ohm, minus_ohm=minus_ohm, power_w=power_w, idle_a=idle_a
    )
    ours = load_voltage_v(14.2, plus_ohm + minus_ohm, Load(power_w=power_w, current_a=idle_a))
    assert ours == pytest.approx(spice_v, abs=1e-6)


@given(st.floats(6, 30), st.floats(1e-4, 0.2), st.floats(0, 3000), st.floats(0, 5), st.floats(0, 20))
def test_load_voltage_is_the_highest_root(
    source_v: float, ohm: float, watts: float, siemens: float, amps: float
) -> None:
    load = Load(watts, siemens, amps)

    def residual(v: float) -> float:
        return source_v - ohm * load.current_at(v) - v

    try:
        v = load_voltage_v(source_v, ohm, load)
    except NoOperatingPoint:
        # scipy's view: the residual never reaches zero anywhere below the source
        assert max(residual(x) for x in np.linspace(1e-3, source_v, 4000)) < 1e-2
        return
    assert residual(v) == pytest.approx(0, abs=1e-8)
    if watts > 1 and residual(source_v * (1 + 1e-9)) < 0 and v < source_v * 0.999:
        assert all(residual(x) < 1e-9 for x in np.linspace(v * (1 + 1e-6), source_v, 50))  # nothing above it


def test_collapse_is_said_not_guessed() -> None:
    # The textbook limit of a constant-power load: P_max = E² / 4R.
    limit_w = 12.0**2 / (4 * 0.05)
    assert load_voltage_v(12.0, 0.05, Load(power_w=limit_w * 0.9999)) == pytest.approx(6, rel=0.02)
    with pytest.raises(NoOperatingPoint, match="collapses"):
        load_voltage_v(12.0, 0.05, Load(power_w=limit_w * 1.0001))
    with pytest.raises(NoOperatingPoint):
        network_voltages_v(12.0, np.array([[0.05]]), [Load(power_w=limit_w * 1.001)])


@given(
    st.lists(
        st.tuples(st.floats(0.0005, 0.03), st.floats(0, 700), st.floats(0, 2), st.floats(0, 5)), min_size=1, max_size=4
    ),
    st.floats(0, 0.006),
)
def test_network_against_scipy(branches: list[tuple[float, float, float, float]], shared_ohm: float) -> None:
    source_v = 14.0
    matrix = np.full((len(branches), len(branches)), shared_ohm) + np.diag([b[0] for b in branches])
    loads = [Load(p, g, i) for _, p, g, i in branches]
    try:
        ours = network_voltages_v(source_v, matrix, loads)
    except NoOperatingPoint:
        assume(False)

    def residual(volts: np.ndarray) -> np.ndarray:
        current = np.array(
            [load.power_w / v + load.conductance_s * v + load.current_a for load, v in zip(loads, volts, strict=True)]
        )
        return source_v - matrix @ current - volts

    theirs, _, found, _ = fsolve(residual, np.full(len(loads), source_v), full_output=True)
    if found == 1:
        assert ours == pytest.approx(list(theirs), abs=1e-6)
    assert np.abs(residual(np.array(ours))).max() < 1e-8
    if len(branches) == 1:
        assert ours[0] == pytest.approx(load_voltage_v(source_v, matrix[0, 0], loads[0]), abs=1e-8)


def test_one_pass_understates_the_drop() -> None:
    load, ohm = Load(power_w=1200), 0.02
    naive = 13.8 - ohm * load.current_at(13.8)
    exact = brentq(lambda v: 13.8 - ohm * 1200 / v - v, 7, 13.8)
    assert load_voltage_v(13.8, ohm, load) == pytest.approx(exact, abs=1e-9)
    assert exact < naive - 0.2


def test_unregulated_amplifier_follows_the_supply() -> None:
    # ANSI/CTA-2006 rates at 14.4 V (from memory): at 12.47 V three quarters of the rating.
    assert output_power_at_w(200, False, 12.47) == pytest.approx(150, abs=0.1)
    load = amplifier_load(200, 0.55, 0, regulated=False)
    assert load.current_at(14.4) == pytest.approx(200 / (0.55 * 14.4))
    assert load.current_at(7.2) == pytest.approx(load.current_at(14.4) / 2)


def test_battery_resistance_from_cranking_amps() -> None:
    # SAE J537 holds 7.2 V at CCA (from memory); about half when warm (common practice): 600 CCA is 4.5 milliohm.
    assert battery_resistance_ohm(600) == pytest.approx(0.0045)


def test_trade_fact_46_amps_gives_60() -> None:
    # Common practice, no source.
    assert best_fuse("strip", 46, 136, 0.8).rating_a == 60
    assert fuse_resistance_ohm(60) == pytest.approx(0.0012, abs=5e-5)


@given(st.sampled_from(FAMILIES), st.floats(0.5, 400), st.floats(5, 450), st.floats(0.5, 1))
def test_a_chosen_fuse_protects_the_wire_and_carries_the_load(
    name: str, current_a: float, wire_a: float, headroom: float
) -> None:
    ranked = choose_fuse(name, current_a, wire_a, headroom)
    assert sorted(c.rating_a for c in ranked) == list(family(name).ratings_a)
    fitting = [r for r in family(name).ratings_a if current_a / headroom <= r <= wire_a]
    best = ranked[0]
    assert best.fits == bool(fitting)
    assert best.rating_a == (min(fitting) if fitting else best.rating_a)
    if not best.fits:  # the nearest thing to it: never above the wire while anything below exists
        below = [r for r in family(name).ratings_a if r <= wire_a]
        assert best.rating_a == (max(below) if below else family(name).ratings_a[0])
        assert best.reason


def test_fuse_families_rise_and_refuse_strangers() -> None:
    for name in FAMILIES:
        ratings = family(name).ratings_a
        assert list(ratings) == sorted(set(ratings))
    with pytest.raises(OutOfRange):
        best_fuse("strip", float("nan"), 100, 0.8)
