"""Leads laid by hand: whatever network they make has the load, the shares and the polarity circuit theory gives it."""

from __future__ import annotations

from itertools import pairwise
from math import log10

import pytest
from hypothesis import given
from hypothesis import strategies as st

from core.test_spreads import subs_on_four
from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.handles import at
from ohmack.core.errors import OutOfRange, UnknownName
from ohmack.core.evaluation.door import evaluate
from ohmack.core.loads.bench import bench_of, reversed_at, terminals, with_lead, without_lead
from ohmack.core.loads.coil_faults import coil_faults
from ohmack.core.loads.coil_rows import coil_rows, half_ohm
from ohmack.core.loads.meter import points
from ohmack.core.loads.wirings import LoadResult
from ohmack.core.physics.bench_wiring import BenchWiring, laid, leads_of, terminals_of
from ohmack.core.physics.nodal import OPEN_OHM
from ohmack.core.physics.speaker_loads import Coil, wirings
from ohmack.demo.jobs import demo_design

COILS = (Coil("A1", 4.0, 3.4), Coil("A2", 4.0, 3.4), Coil("B1", 8.0, 6.8), Coil("B2", 2.0, 1.7), Coil("C1", 3.0, 2.6))
BRIDGE = "+=A1+,+=A2+,A1-=B1+,A2-=B2+,B1-=-,B2-=-,A1-=C1+,A2-=C1-"


def bench(text: str, many: int) -> BenchWiring:
    """Leads among the first coils."""
    leads = leads_of(f"leads({text})", COILS[:many])
    assert leads is not None
    return BenchWiring(leads, COILS[:many])


def two_subs(estate: Design, wiring: str = "") -> Design:
    """Two subwoofers with two 4 Ω coils on one output, wired so."""
    design = subs_on_four(estate, 2, 4.0, 4.0)
    link = evaluate(design).results.loads[0].link
    return apply_edits(design, [Edit(path=at(link, lambda it: it.wiring), value=wiring)])


def load_of(design: Design) -> LoadResult:
    return evaluate(design).results.loads[0]


def said(design: Design) -> set[tuple[str, str]]:
    """(rule, severity) of everything said about the loads."""
    return {(f.rule, f.severity.value) for f in evaluate(design).findings if f.stage == "loads"}


@pytest.mark.parametrize("many", [1, 2, 3, 4])
def test_every_listed_wiring_survives_being_laid(many: int) -> None:
    """As leads it has the load, the reading and the shares it has as series and parallel, and reduces to itself."""
    for wiring in wirings(COILS[:many]):
        own = BenchWiring(laid(wiring), COILS[:many])
        assert own.resistance_ohm() == pytest.approx(wiring.resistance_ohm(), rel=1e-9)
        assert own.resistance_ohm(dc=True) == pytest.approx(wiring.resistance_ohm(dc=True), rel=1e-9)
        assert own.shares() == pytest.approx(wiring.shares())
        assert set(own.polarity.values()) == {1}
        assert own.reduced is not None
        assert own.reduced.shares() == pytest.approx(wiring.shares())
        assert leads_of(own.key(), COILS[:many]) == own.leads


def test_a_bridge_is_solved_though_no_series_or_parallel_makes_it() -> None:
    """Star for delta by hand: 4 and 4 over, 8 and 2 under, 3 Ω across. Y-Δ: star of A1, A2, C1 (4, 4, 3 Ω): 16/11 at
    the top, 12/11 at each lower corner; 16/11 + (12/11 + 8) ∥ (12/11 + 2) = 3.7614 Ω. Textbook.
    """
    own = bench(BRIDGE, 5)
    upper, lower = 16 / 11, 12 / 11
    expected = upper + (lower + 8) * (lower + 2) / (2 * lower + 10)
    assert own.resistance_ohm() == pytest.approx(expected, rel=1e-9)
    assert own.reduced is None
    assert sum(own.shares().values()) == pytest.approx(1.0)
    assert own.polarity == {"A1": 1, "A2": 1, "B1": 1, "B2": 1, "C1": 1}  # more falls over 8 Ω: C1 is fed from A1's end
    turned = bench(BRIDGE.replace("A1-=C1+,A2-=C1-", "A1-=C1-,A2-=C1+"), 5)
    assert turned.polarity["C1"] == -1
    even = BenchWiring(own.leads, (*COILS[:2], Coil("B1", 2.0, 2.0), Coil("B2", 2.0, 2.0), COILS[4]))
    assert even.polarity["C1"] == 0  # balanced: nothing flows
    assert even.shares()["C1"] == pytest.approx(0.0, abs=1e-12)


def test_what_makes_no_load_is_told_apart() -> None:
    short, nothing = bench("+=A1+,A1-=-,+=-", 1), bench("+=A1+", 1)
    assert short.shorted
    assert short.resistance_ohm() == 0.0
    assert nothing.opened
    assert nothing.resistance_ohm() == OPEN_OHM
    over = bench("+=A1+,A1-=A2+,A2+=A2-,A2-=-", 2)
    assert over.bridged_over() == ("A2",)
    assert over.resistance_ohm() == pytest.approx(4.0)
    assert over.shares() == pytest.approx({"A1": 1.0, "A2": 0.0})
    assert leads_of("leads(+=Z1+)", COILS) is None
    assert leads_of("leads(+=+)", COILS) is None
    assert leads_of("series(A1,A2)", COILS) is None
    assert leads_of("leads(+=A1+", COILS) is None
    assert leads_of("+=A1+)", COILS) is None


@given(st.data())
def test_any_leads_have_shares_that_add_up(data: st.DataObject) -> None:
    """Energy: the coils together take what the output gives, and each at most all of it; Tellegen's theorem."""
    ends = terminals_of(COILS[:4])
    pairs = st.tuples(st.sampled_from(ends), st.sampled_from(ends)).filter(lambda pair: pair[0] != pair[1])
    own = BenchWiring(tuple(data.draw(st.lists(pairs, max_size=9))), COILS[:4])
    shares = own.shares()
    gives = not own.shorted and not own.opened
    assert sum(shares.values()) == pytest.approx(1.0 if gives else 0.0, abs=1e-6)
    assert min(shares.values()) >= -1e-9
    assert {name for name, sign in own.polarity.items() if sign} == {n for n, s in shares.items() if s > 1e-11}


def test_a_lead_is_laid_and_taken_off(estate: Design) -> None:
    """By hand to where the list was, and one more lead too far."""
    load = load_of(two_subs(estate))
    start = bench_of(load)
    first = start.leads[0]
    off = load_of(two_subs(estate, without_lead(load, *first)))
    assert off.chosen.wiring.key().startswith("leads(")
    again = load_of(two_subs(estate, with_lead(off, *first)))
    assert again.chosen.key == load.chosen.key  # it is the wiring of the list once more
    assert len(again.options) == len(load.options)
    with pytest.raises(OutOfRange, match="not joined yet"):
        with_lead(load, *first)
    with pytest.raises(UnknownName):
        with_lead(load, "+", "Q1+")
    with pytest.raises(UnknownName):
        without_lead(load, "+", "-")
    assert len(terminals(load)) == len({t.words for t in terminals(load)}) == 10
    ends = [t.words.rpartition(", ")[2] for t in terminals(load)[2:6]]
    assert ends == ["coil 1 +", "coil 1 −", "coil 2 +", "coil 2 −"]


def test_a_box_is_one_circuit_while_all_its_coils_push_one_way(estate: Design) -> None:
    one = subs_on_four(estate, 1, 4.0, 4.0)
    load = load_of(one)

    def why_not(*turned: str) -> list[str]:
        path = at(load.link, lambda it: it.wiring)
        laid_so = apply_edits(one, [Edit(path=path, value=reversed_at(load, list(turned)))])
        return [box.unlike for box in evaluate(laid_so).results.boxes]

    assert why_not("1") == ["a coil in it is reversed, shorted or hangs open"]
    assert why_not("1", "2") == [""]


def test_polarity_is_judged_by_driver_and_by_output(estate: Design) -> None:
    plain = load_of(two_subs(estate))
    assert not {("polarity-reversed", "stop"), ("polarity-reversed", "watch")} & said(two_subs(estate))
    one = two_subs(estate, reversed_at(plain, ["B1", "B2"]))
    assert ("polarity-reversed", "stop") in said(one)
    load = load_of(one)
    assert load.chosen.words.endswith("B1 and B2 reversed")
    assert load.load.value == pytest.approx(plain.load.value)
    assert load.power.value == pytest.approx(plain.power.value)
    back = load_of(two_subs(estate, reversed_at(load, ["B1", "B2"])))
    assert back.chosen.key == plain.chosen.key
    whole = two_subs(estate, reversed_at(plain, ["A1", "A2", "B1", "B2"]))
    assert {("polarity-reversed", "watch"), ("polarity-reversed", "note")} & said(
        whole
    )  # a note where it sums better so
    assert load_of(whole).chosen.words.endswith(", reversed")


def test_impossible_leads_are_stops_with_no_figure_made_up(estate: Design) -> None:
    """A short, an open output, a driver left out: said, and nothing is computed where there is nothing to compute."""
    short = two_subs(estate, "leads(+=-,+=A1+,A1-=-)")
    assert ("leads-make-no-load", "stop") in said(short)
    load = load_of(short)
    assert load.load.value is None
    assert "shorts" in load.load.refused
    assert load.power.value is None
    assert load.allowed.value is None
    assert load.chosen.net == "shorted"
    opened = two_subs(estate, "leads(+=A1+)")
    assert ("leads-make-no-load", "stop") in said(opened)
    assert load_of(opened).chosen.reads == "OL"
    lone = two_subs(estate, "leads(+=A1+,A1-=A2+,A2-=-)")
    assert ("leads-make-no-load", "stop") in said(lone)  # driver B hangs on nothing
    assert load_of(lone).load.value == pytest.approx(8.0)
    half = two_subs(estate, "leads(+=A1+,A1-=-,+=B1+,B1-=B2+,B2-=-)")
    assert ("leads-make-no-load", "watch") in said(half)
    mono = load_of(half)
    takes_w = mono.driven[0].power_rms_w
    assert takes_w is not None
    # coil A1 alone takes half of its driver's power, and gets 8/12 of the output's: full at 3/4 of a driver's rating
    assert mono.allowed_w == pytest.approx(takes_w / 2 / (8 / 12))
    over = two_subs(estate, "leads(+=A1+,A1-=A2+,A2+=A2-,A2-=B1+,B1-=B2+,B2-=-)")
    assert ("leads-make-no-load", "stop") in said(over)


def test_the_meter_reads_the_leads_as_they_lie(estate: Design) -> None:
    """Half of A hangs open: 3.4 Ω beside 6.8 Ω, by the usual 0.85 of nominal."""
    load = load_of(two_subs(estate, "leads(+=A1+,A1-=-,+=B1+,B1-=B2+,B2-=-)"))
    assert points(load)[0].ohm == pytest.approx(3.4 * 6.8 / 10.2)
    assert points(load, 0.2)[0].ohm == pytest.approx(3.4 * 6.8 / 10.2 + 0.2)


def test_a_wiring_that_fits_no_longer_is_said(estate: Design) -> None:
    kept = load_of(two_subs(estate, "series(A1,A2,B1,B2)"))
    assert not kept.gone
    assert ("wiring-gone", "watch") in said(two_subs(estate, "series(A1,A2,B1,B3)"))


def test_a_lead_a_joint() -> None:
    """The fewest: from n coils in any network, nets join with one lead less than they have ends."""
    for wiring in wirings(COILS[:4]):
        own = BenchWiring(laid(wiring), COILS[:4])
        assert len(own.leads) == sum(len(net) - 1 for net in own.nets)
        assert all(a != b for a, b in own.leads)
        assert not any(set(a) == set(b) for a, b in pairwise(own.leads))


def test_every_stage_stands_what_leads_may_make() -> None:
    """The pickup's box is judged on from whatever is laid: no figure fails, every page has its answer."""
    design = demo_design(0)
    link = evaluate(design).results.loads[0].link
    path = at(link, lambda it: it.wiring)
    for text in ("leads(+=-)", "leads()", "leads(+=1+,1-=-)", "leads(+=1-,1+=-)", "leads(+=1+,1-=2-,2+=-)"):
        found = evaluate(apply_edits(design, [Edit(path=path, value=text)]))
        assert found.findings
        assert found.verdict.state == "stopped" or "1-" in text
        wrong = found.results.boxes[0].unlike
        assert ("no load" in wrong) == (not found.results.loads[0].chosen.stays)
        assert ("reversed" in wrong) == ("1" in text and found.results.loads[0].chosen.stays)  # open or opposed


def test_a_coil_that_fails_is_worked_out(estate: Design) -> None:
    """Two drivers of 2 × 4 Ω, coils in series, drivers in parallel, 4 Ω: a coil open leaves the other driver, 8 Ω; a
    coil shorted leaves 4 Ω beside 8 Ω, 2.67 Ω, and that driver's other coil gets twice what its neighbour's pair gets.
    """
    load = load_of(two_subs(estate, "parallel(series(A1,A2),series(B1,B2))"))
    opened, shorted, *others = coil_faults(load)  # of the first driver, then of the other
    assert len(others) == 2
    assert opened.words == f"a coil of {load.driven[0].name} open"
    assert shorted.words.endswith("shorted")
    assert opened.load_ohm == pytest.approx(8.0)
    assert opened.meter_ohm == pytest.approx(6.8)
    assert shorted.load_ohm == pytest.approx(8 / 3)
    assert shorted.meter_ohm == pytest.approx(6.8 / 3)
    powers = {name: watts for name, watts, _ in shorted.powers_w}
    if powers:
        a, b = powers.values()
        assert a == pytest.approx(2 * b)
        assert shorted.hardest is not None
        assert shorted.hardest[2] == pytest.approx((load.driven[0].power_rms_w or 0) / 2)
    assert [watts > 1e-6 for _, watts, _ in opened.powers_w] == [False, True]
    single = load_of(apply_edits(estate, [Edit(path="parts/sub/coils", value=[{"impedance_ohm": 4.0}])]))
    kinds = {fault.words.rsplit(" ", 1)[1]: fault for fault in coil_faults(single)}
    assert kinds["open"].opens
    assert kinds["open"].words == f"{single.driven[0].name} open"
    assert kinds["shorted"].load_ohm == 0.0
    assert not kinds["shorted"].permitted
    assert not coil_faults(load_of(two_subs(estate, "leads(+=-)")))


def test_every_coil_has_its_volts_amperes_and_both_powers(estate: Design) -> None:
    """Ohm's law coil by coil: two 4 Ω in series, each driver beside the other; at 0.85 of nominal the same volts give
    1/0.85 of the power.
    """
    load = load_of(two_subs(estate, "parallel(series(A1,A2),series(B1,B2))"))
    full_v = load.full_scale.value
    assert full_v is not None
    rows = coil_rows(load)
    assert [row.name for row in rows] == ["A1", "A2", "B1", "B2"]
    for row in rows:
        assert row.volts == pytest.approx(full_v / 2)
        assert row.current_a == pytest.approx(full_v / 8)
        assert row.power_w == pytest.approx(row.volts * row.current_a)
        assert row.dc_power_w == pytest.approx(row.power_w / 0.85)
        assert row.level_db == pytest.approx(0.0)
    assert sum(row.power_w for row in rows) == pytest.approx(load.power.value)
    mixed = coil_rows(load_of(two_subs(estate, "series(A1,parallel(A2,series(B1,B2)))")))
    assert mixed[0].level_db == 0.0
    assert mixed[1].level_db == pytest.approx(10 * log10((8 / 12) ** 2))  # by the current it carries
    assert not coil_rows(load_of(two_subs(estate, "leads(+=-)")))
    assert half_ohm(load) is None
