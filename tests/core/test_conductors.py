"""Wire against the published tables. Table values quoted from memory are marked so."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ohmack.core.errors import OutOfRange, UnknownName
from ohmack.core.physics.conductors import (
    CCA,
    ampacity_a,
    awg_diameter_mm,
    awg_number,
    circle_area_mm2,
    conductor,
    in_other_material,
    measured_conductor,
    resistance_factor,
    sizes,
)
from ohmack.core.reference import Grade, read_toml, table

# ASTM B258 table: size, diameter in mm, area in mm2 (from memory).
B258 = [("4/0", 11.684, 107.2), ("1/0", 8.251, 53.49), ("2", 6.544, 33.63), ("4", 5.189, 21.15), ("6", 4.115, 13.30),
        ("8", 3.264, 8.367), ("10", 2.588, 5.261), ("12", 2.053, 3.309), ("16", 1.291, 1.309), ("18", 1.024, 0.823)]  # fmt: skip


@pytest.mark.parametrize(("size", "diameter_mm", "area_mm2"), B258)
def test_awg_against_the_standard_table(size: str, diameter_mm: float, area_mm2: float) -> None:
    assert awg_diameter_mm(awg_number(size)) == pytest.approx(diameter_mm, rel=5e-4)
    assert conductor(f"{size} AWG").area_mm2 == pytest.approx(area_mm2, rel=1e-3)


def test_resistance_against_copper_wire_tables() -> None:
    # NBS Handbook 100 copper wire tables at 20 °C, ohm per 1000 ft (from memory).
    for size, per_kft in (("4 AWG", 0.2485), ("8 AWG", 0.6282), ("10 AWG", 0.9989), ("1/0 AWG", 0.09827)):
        assert conductor(size).resistance_ohm_per_m * 304.8 == pytest.approx(per_kft, rel=1e-3)
    # IEC 60028: 0.00393 per K; 60 °C is +16 % (common practice rounds it so).
    assert resistance_factor(60) == pytest.approx(1.157, abs=5e-4)


def test_class_5_maximum_lies_above_solid_copper() -> None:
    # IEC 60228 class 5 (from memory): stranding puts the maximum 3 to 14 % above resistivity over nominal area.
    for wire in sizes("mm2"):
        solid = 1.7241e-8 / (wire.area_mm2 * 1e-6)
        assert 1.03 < wire.resistance_ohm_per_m / solid < 1.16, wire.label
    assert conductor("25 mm2").resistance_ohm_per_m == pytest.approx(0.780e-3)


def test_ampacity_rows_quoted_from_abyc_and_iso() -> None:
    # ABYC E-11 and ISO 10133, 105 °C insulation outside the engine space (from memory).
    for size, amps in (
        ("8 AWG", 80),
        ("4 AWG", 160),
        ("1/0 AWG", 285),
        ("4/0 AWG", 445),
        ("10 mm2", 90),
        ("25 mm2", 170),
    ):
        assert ampacity_a(conductor(size), engine_space=False) == amps
    assert ampacity_a(conductor("4 AWG"), engine_space=True) == pytest.approx(136)


@pytest.mark.parametrize("system", ["AWG", "mm2"])
def test_tables_obey_their_law(system: str) -> None:
    wires = sizes(system)
    for thin, thick in zip(wires, wires[1:], strict=False):
        assert thin.area_mm2 < thick.area_mm2
        assert thin.resistance_ohm_per_m > thick.resistance_ohm_per_m
        assert thin.ampacity_a < thick.ampacity_a
        # thicker wire cools worse: ampacity per area falls
        assert thin.ampacity_a / thin.area_mm2 > thick.ampacity_a / thick.area_mm2


def test_geometry_of_the_gauge() -> None:
    # ASTM B258 is geometric: 39 steps are a factor of 92; about three sizes double the area.
    assert awg_diameter_mm(-3) / awg_diameter_mm(36) == pytest.approx(92)
    two_parallel = 2 * circle_area_mm2(awg_diameter_mm(8))
    assert two_parallel == pytest.approx(circle_area_mm2(awg_diameter_mm(5)), rel=0.01)


def test_clad_aluminium_is_about_two_sizes_worse() -> None:
    # ASTM B566 (from memory) and common practice: 4 AWG clad is like 6 AWG copper.
    clad, copper = conductor("4 AWG", CCA), conductor("6 AWG")
    assert clad.resistance_ohm_per_m == pytest.approx(copper.resistance_ohm_per_m, rel=0.03)
    assert clad.ampacity_a == pytest.approx(copper.ampacity_a, rel=0.07)


def test_counted_strands_beat_the_label() -> None:
    thin = measured_conductor(200, 0.2)  # sold as "8 gauge", really 6.3 mm2
    assert thin.area_mm2 == pytest.approx(6.28, rel=1e-2)
    assert thin.ampacity_a == conductor("10 AWG").ampacity_a


@given(st.integers(1, 5000), st.floats(0.05, 1.0))
def test_counted_strands_never_promise_more_than_the_next_smaller_size(count: int, diameter_mm: float) -> None:
    try:
        wire = measured_conductor(count, diameter_mm)
    except UnknownName:
        return
    assert all(wire.ampacity_a >= c.ampacity_a for c in sizes("AWG") if c.area_mm2 <= wire.area_mm2)
    assert all(wire.ampacity_a < c.ampacity_a for c in sizes("AWG") if c.area_mm2 > wire.area_mm2 * 1.001)


@pytest.mark.parametrize("bad", ["", "4", "5/0 AWG", "41 AWG", "25 AWG", "24 mm2", "0.1 mm2", "four", "-4 AWG"])
def test_unknown_sizes_are_named(bad: str) -> None:
    with pytest.raises(UnknownName, match="not known"):
        conductor(bad)


@pytest.mark.parametrize("bad", [0, -1, float("nan"), float("inf")])
def test_ranges_refuse_nonsense(bad: float) -> None:
    with pytest.raises(OutOfRange):
        circle_area_mm2(bad)


def test_every_reference_table_states_source_and_grade() -> None:
    for file in ("wire", "fuses", "joints"):
        for name in read_toml(file):
            assert isinstance(table(file, name)["source"].grade, Grade)
            assert table(file, name)["source"].text


# ISO 10133 at 105 °C and IEC 60228 class 5 beyond the shop's usual range (from memory).
@pytest.mark.parametrize(
    ("size", "amps", "ohm_per_km"), [("0.75 mm2", 16, 26.0), ("95 mm2", 390, 0.206), ("120 mm2", 450, 0.161)]
)
def test_every_metric_size_a_person_may_type_has_figures(size: str, amps: float, ohm_per_km: float) -> None:
    wire = conductor(size)
    assert (wire.ampacity_a, wire.resistance_ohm_per_m) == (amps, pytest.approx(ohm_per_km / 1000))


def test_odd_gauges_carry_what_the_thinner_listed_one_does() -> None:
    """ABYC E-11 lists even gauges; between two of them nothing may be promised beyond the thinner one."""
    for odd, thinner, thicker in (("3", "4", "2"), ("5", "6", "4"), ("7", "8", "6"), ("13", "14", "12")):
        wire, below, above = (conductor(f"{size} AWG") for size in (odd, thinner, thicker))
        assert wire.ampacity_a == below.ampacity_a
        assert below.area_mm2 < wire.area_mm2 < above.area_mm2
    every = [conductor(f"{n} AWG") for n in range(24, 0, -1)]
    amps = [wire.ampacity_a for wire in every]
    assert amps == sorted(amps), "a thicker wire never carries less"
    assert conductor("20 AWG").ampacity_a < conductor("18 AWG").ampacity_a


def test_the_same_size_in_clad_aluminium_there_and_back() -> None:
    copper = conductor("4 AWG")
    clad = in_other_material(copper, CCA)
    assert clad == conductor("4 AWG", CCA)
    back = in_other_material(clad, "copper")
    assert back.resistance_ohm_per_m == pytest.approx(copper.resistance_ohm_per_m)
    assert back.ampacity_a == pytest.approx(copper.ampacity_a)
