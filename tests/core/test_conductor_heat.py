"""Conductor heat: air by a textbook's table, the balance of heat, and the ampacity tables it was not made from."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ohmack.core.document import Design
from ohmack.core.errors import OutOfRange
from ohmack.core.evaluation.door import evaluate
from ohmack.core.physics.conductor_heat import air, given_off_w_m, holds_a, nusselt, outer_mm, runs_at_c
from ohmack.core.physics.conductors import CCA, conductor, resistance_factor, sizes


@pytest.mark.parametrize(
    ("kelvin", "conductivity", "kinematic", "prandtl"),
    [(300, 0.0263, 15.89e-6, 0.707), (350, 0.0300, 20.92e-6, 0.700), (400, 0.0338, 26.41e-6, 0.690)],
)
def test_air_is_the_textbooks(kelvin: float, conductivity: float, kinematic: float, prandtl: float) -> None:
    """Air at atmospheric pressure (Incropera and DeWitt, appendix A.4, from memory), within 2 %."""
    assert air(kelvin - 273.15) == pytest.approx((conductivity, kinematic, prandtl), rel=0.02)
    with pytest.raises(OutOfRange):
        air(300.0)


def test_convection_has_its_limits() -> None:
    """Nu → 0.36 for a thin wire in still air, and grows with the cube root of Ra where it is turbulent (Churchill and
    Chu).
    """
    assert nusselt(1e-12, 0.7) == pytest.approx(0.36, abs=0.02)
    assert nusselt(1e12, 0.7) / nusselt(1e9, 0.7) == pytest.approx(10.0, rel=0.08)
    with pytest.raises(OutOfRange):
        nusselt(0.0, 0.7)


@settings(max_examples=40, deadline=None)
@given(st.sampled_from(["16 AWG", "8 AWG", "4 AWG", "1/0 AWG", "25 mm2"]), st.floats(0.2, 1.1), st.floats(-10, 60))
def test_what_is_made_is_given_off(size: str, share: float, ambient_c: float) -> None:
    """At the temperature a wire runs at, I²R(T) is what its surface gives off, and what would just hold that is I."""
    wire = conductor(size)
    current_a = share * wire.ampacity_a
    warm_c = runs_at_c(wire, current_a, ambient_c)
    assert ambient_c < warm_c < 200
    assert holds_a(wire, warm_c, ambient_c) == pytest.approx(current_a, rel=1e-4)
    made = current_a**2 * wire.resistance_ohm_per_m * resistance_factor(warm_c)
    bare, whole = outer_mm(wire)
    assert bare < whole
    assert given_off_w_m(warm_c, ambient_c, whole) > made  # its skin is cooler than the conductor
    assert runs_at_c(wire, current_a * 1.05, ambient_c) > warm_c
    assert runs_at_c(wire, current_a, ambient_c + 5) > warm_c


@pytest.mark.parametrize("system", ["AWG", "mm2"])
def test_the_tables_are_what_physics_allows(system: str) -> None:
    """Every listed ampacity (ABYC E-11, ISO 10133, both from memory) lies 0 to 20 % under what one wire alone in still
    air of 30 °C holds at 105 °C; and 50 °C in an engine space take off what the table's factor of 0.85 takes.
    """
    for wire in sizes(system):
        alone = holds_a(wire, 105.0, 30.0)
        assert 1.0 <= alone / wire.ampacity_a <= 1.2, wire.label
        assert holds_a(wire, 105.0, 50.0) / alone == pytest.approx(0.85, abs=0.012)


def test_clad_aluminium_holds_less_and_absurd_currents_are_refused() -> None:
    copper, clad = conductor("4 AWG"), conductor("4 AWG", CCA)
    assert holds_a(clad, 105.0, 30.0) / holds_a(copper, 105.0, 30.0) == pytest.approx(0.63**0.5, rel=0.02)
    with pytest.raises(OutOfRange, match="200 °C"):
        runs_at_c(copper, 900.0, 30.0)
    with pytest.raises(OutOfRange):
        holds_a(copper, 20.0, 30.0)


def test_the_run_of_a_plan_is_computed_where_it_lies(estate: Design) -> None:
    result = evaluate(estate).results
    (heat,) = result.wire_heat
    supply = result.supplies[0]
    assert supply.chosen is not None
    wire, engine = supply.chosen.wire, supply.link.engine_space
    assert engine
    assert heat.tabled.value == pytest.approx(wire.ampacity_a * 0.85)
    assert heat.computed.value == pytest.approx(holds_a(wire, 105.0, 50.0))
    assert heat.runs_at.value == pytest.approx(runs_at_c(wire, supply.figures["current"].value, 50.0))
