"""Wire against the published tables. Table values quoted from memory are marked so."""

from __future__ import annotations

from math import log

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.links import PowerLink
from ohmack.core.errors import OutOfRange, UnknownName
from ohmack.core.evaluation.door import evaluate
from ohmack.core.physics.conductors import (
    CCA,
    ampacity_a,
    awg_diameter_mm,
    awg_number,
    cable_price,
    circle_area_mm2,
    conductor,
    in_other_material,
    laid,
    measured_conductor,
    resistance_factor,
    sizes,
)
from ohmack.core.physics.time_current import standing_s
from ohmack.core.reference import Grade, read_toml, table
from references import published


@pytest.mark.parametrize(("size", "diameter_mm", "area_mm2"), published("awg_geometry"))
def test_awg_against_the_standard_table(size: str, diameter_mm: float, area_mm2: float) -> None:
    assert awg_diameter_mm(awg_number(size)) == pytest.approx(diameter_mm, rel=5e-4)
    assert conductor(f"{size} AWG").area_mm2 == pytest.approx(area_mm2, rel=1e-3)


def test_resistance_against_copper_wire_tables() -> None:
    for size, per_kft in published("copper_wire"):
        assert conductor(size).resistance_ohm_per_m * 304.8 == pytest.approx(per_kft, rel=1e-3)
        by_law = 1.7241e-8 / (
            circle_area_mm2(awg_diameter_mm(awg_number(size.removesuffix(" AWG")))) * 1e-6
        )  # IEC 60028
        assert by_law * 304.8 == pytest.approx(per_kft, rel=2e-3)
    # IEC 60028: 0.00393 per K; 60 °C is +16 % (common practice rounds it so).
    assert resistance_factor(60) == pytest.approx(1.157, abs=5e-4)


def test_class_5_maximum_lies_above_solid_copper() -> None:
    # IEC 60228 class 5 (from memory): stranding puts the maximum 3 to 14 % above resistivity over nominal area.
    for wire in sizes("mm2"):
        solid = 1.7241e-8 / (wire.area_mm2 * 1e-6)
        assert 1.03 < wire.resistance_ohm_per_m / solid < 1.16, wire.label
    assert conductor("25 mm2").resistance_ohm_per_m == pytest.approx(0.780e-3)


def test_ampacity_rows_quoted_from_abyc_and_iso() -> None:
    """The rows alone prove nothing, they come from the same memory as the product's: the law of heat below is the
    check.
    """
    for size, amps in (*published("ampacity_105c"), *published("ampacity_105c_metric")):
        assert ampacity_a(conductor(size), engine_space=False) == amps
    assert ampacity_a(conductor("4 AWG"), engine_space=True) == pytest.approx(136)


@pytest.mark.parametrize("name", ["ampacity_105c", "ampacity_105c_metric"])
def test_ampacity_follows_the_law_of_heat(name: str) -> None:
    """Heat I² R per length leaves over the surface, by convection as the diameter to a power of 0.25 to 1: I grows
    as area to 0.56 to 0.75 (textbook heat balance); published rows are rounded, so a step may stray and the whole
    may not."""
    rows = [(conductor(size).area_mm2, amps) for size, amps in published(name)]
    (thin_mm2, thin_a), (thick_mm2, thick_a) = rows[0], rows[-1]
    assert 0.56 <= log(thick_a / thin_a) / log(thick_mm2 / thin_mm2) <= 0.75
    for (a_mm2, a), (b_mm2, b) in zip(rows, rows[1:], strict=False):
        assert 0.4 <= log(b / a) / log(b_mm2 / a_mm2) <= 1.0


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


def test_every_metric_size_a_person_may_type_has_figures() -> None:
    for size, ohm_per_km in published("class_5"):
        wire = conductor(size)
        assert wire.resistance_ohm_per_m == pytest.approx(ohm_per_km / 1000)
        solid = 1.7241e-8 / (wire.area_mm2 * 1e-6)
        assert 1.03 < ohm_per_km / 1000 / solid < 1.16


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


def test_leads_insulation_and_company_of_a_wire_as_it_is_laid() -> None:
    """Two equal leads are about three AWG sizes (ASTM B258: three sizes are a factor 2.005); ambient factors of IEC
    60364-5-52 table B.52.14: 0.71 for 70 °C and 0.82 for 90 °C insulation in air of 50 °C; grouping of table B.52.17:
    0.80, 0.70, 0.65 (all from memory).
    """
    four, pair = conductor("4 AWG"), laid(conductor("4 AWG"), 2)
    assert pair.resistance_ohm_per_m == pytest.approx(conductor("1 AWG").resistance_ohm_per_m, rel=0.01)
    assert pair.resistance_ohm_per_m == pytest.approx(four.resistance_ohm_per_m / 2)
    assert pair.ampacity_a == pytest.approx(2 * 0.80 * four.ampacity_a)
    alone = pair.one_lead
    assert (alone.leads, alone.area_mm2, alone.resistance_ohm_per_m) == (1, four.area_mm2, four.resistance_ohm_per_m)
    assert alone.ampacity_a == pytest.approx(0.80 * four.ampacity_a), "it still lies beside the other"
    assert pair.label == "4 AWG × 2"
    for insulation_c, factor in ((70, 0.71), (90, 0.82)):
        wire = laid(four, insulation_c=insulation_c)
        assert ampacity_a(wire, True) / ampacity_a(wire, False) == pytest.approx(factor, abs=0.005)
        assert wire.ampacity_a < four.ampacity_a
    assert laid(four, beside=2).ampacity_a == pytest.approx(0.70 * four.ampacity_a)
    assert laid(four, beside=3).ampacity_a == pytest.approx(0.65 * four.ampacity_a)
    assert laid(four) is four
    with pytest.raises(OutOfRange):
        laid(four, insulation_c=45)
    with pytest.raises(OutOfRange):
        laid(four, 0)


def test_two_leads_are_cut_bought_and_fused_as_two(estate: Design) -> None:
    """Half the loss in the run, twice the wire and the rings; a fault in one of them is carried by it alone; a loom
    full of other loaded wires wants a larger size.
    """
    link = next(estate.links_of(PowerLink))
    base = f"links/{link.id}/wire"
    alone = apply_edits(estate, [Edit(path=f"{base}/size", value="4 AWG")])
    pair = apply_edits(alone, [Edit(path=f"{base}/leads", value=2)])

    def run_ohm(design: Design) -> float:
        return next(p.resistance_ohm for p in evaluate(design).results.supplies[0].pieces if p.id == f"{link.id}/run")

    assert run_ohm(pair) == pytest.approx(run_ohm(alone) / 2)
    results = evaluate(pair).results
    assert results.supplies[0].chosen is not None
    assert results.supplies[0].chosen.wire.label == "4 AWG × 2"
    rings = {row.what: row.amount for row in results.order if row.what.startswith("Ring terminal for 4 AWG")}
    once = {row.what: row.amount for row in evaluate(alone).results.order if row.what.startswith("Ring terminal for")}
    assert rings["Ring terminal for 4 AWG"] == str(2 * int(once["Ring terminal for 4 AWG"]))
    two, one = laid(conductor("4 AWG"), 2), conductor("4 AWG")
    assert standing_s(two, 2000.0, False) == pytest.approx(standing_s(one, 2000.0, False), rel=0.01)
    free = apply_edits(estate, [Edit(path=f"{base}/size", value=None)])
    crowded = apply_edits(free, [Edit(path=f"{base}/beside", value=8)])
    sized = [evaluate(d).results.supplies[0].chosen for d in (free, crowded)]
    assert sized[0] is not None
    assert sized[1] is not None
    assert sized[1].ampacity_a < 0.51 * ampacity_a(conductor(sized[1].wire.label), link.engine_space)
    assert sized[1].wire.area_mm2 >= sized[0].wire.area_mm2


def test_tinned_copper_against_the_metal_coated_column() -> None:
    """IEC 60228 class 5, metal-coated wires, ohm a kilometre at 20 °C (from memory): within 1 %; the dearer wire."""
    for area_mm2, ohm_per_km in ((1.5, 13.7), (4, 5.09), (10, 1.95), (16, 1.24), (25, 0.795), (35, 0.565), (50, 0.393)):
        tinned = conductor(f"{area_mm2:g} mm2", "tinned_copper")
        assert 1000 * tinned.resistance_ohm_per_m == pytest.approx(ohm_per_km, rel=0.01)
        plain = in_other_material(tinned, "copper")
        assert plain.resistance_ohm_per_m == pytest.approx(conductor(f"{area_mm2:g} mm2").resistance_ohm_per_m)
        assert cable_price(tinned, 1.0) > cable_price(plain, 1.0)
        assert in_other_material(tinned, CCA).resistance_ohm_per_m > tinned.resistance_ohm_per_m
    assert resistance_factor(60.0, "tinned_copper") == resistance_factor(60.0)
