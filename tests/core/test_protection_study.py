"""Fuses against wires and shorts: bands at their points, heating by integration, shorts by Ohm's law, all currents."""

from __future__ import annotations

from math import inf
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from core.test_rules import BLOCKED, fact, put
from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.errors import OutOfRange, UnknownName
from ohmack.core.evaluation.door import evaluate
from ohmack.core.physics.conductors import CCA, ampacity_a, conductor
from ohmack.core.physics.protection import FAMILIES
from ohmack.core.physics.time_current import (
    band_of,
    damage_current_a,
    opening_s,
    selective_up_to_a,
    standing_s,
    unprotected_a,
)
from ohmack.core.supply.protection_study import Protected, not_judged
from ohmack.demo.jobs import demo_design, demo_jobs

TWO = next(n for n, job in enumerate(demo_jobs()) if job.title.startswith("Two amplifiers"))
P = "links/power-amp"


def test_a_blade_opens_inside_its_band() -> None:
    """Regular blades: 135 % 0.75 to 600 s, 200 % 0.15 to 5 s, 350 % 0.04 to 0.5 s, 600 % at most 0.1 s (ISO 8820-3 and
    SAE J1284, from memory); never under 110 %.
    """
    for times, fastest, slowest in ((1.35, 0.75, 600.0), (2.0, 0.15, 5.0), (3.5, 0.04, 0.5)):
        assert opening_s("blade", 20.0, 20.0 * times) == pytest.approx((fastest, slowest))
    assert opening_s("blade", 20.0, 120.0)[1] == pytest.approx(0.1)
    assert opening_s("blade", 20.0, 22.0) == (inf, inf)
    assert opening_s("blade", 20.0, 240.0)[1] == pytest.approx(0.1 / 4)  # by equal heat beyond
    assert opening_s("maxi", 40.0, 80.0) != opening_s("blade", 40.0, 80.0)
    with pytest.raises(UnknownName):
        opening_s("glass", 20.0, 40.0)
    with pytest.raises(OutOfRange):
        opening_s("blade", 0.0, 40.0)


@pytest.mark.parametrize("name", FAMILIES)
def test_bands_fall_with_current_and_never_cross(name: str) -> None:
    """The law of every band: more current opens it sooner, its fastest is under its slowest; between points it is
    straight in both logarithms (numpy.interp).
    """
    band = band_of(name)
    currents = np.geomspace(1.35, 30.0, 200)
    fast, slow = zip(*(opening_s(name, 1.0, float(a)) for a in currents), strict=True)
    assert list(fast) == sorted(fast, reverse=True)
    assert list(slow) == sorted(slow, reverse=True)
    assert all(a < b for a, b in zip(fast, slow, strict=True))
    inside = currents[currents <= band.multiples[-1]]
    wanted = np.interp(np.log(inside), np.log(band.multiples), np.log(band.slowest_s))
    assert np.allclose(np.log(slow[: len(inside)]), wanted)


@settings(max_examples=40, deadline=None)
@given(st.sampled_from(["4 AWG", "8 AWG", "1/0 AWG", "16 mm2"]), st.floats(1.02, 30), st.booleans())
def test_a_wire_warms_by_newtons_law(size: str, over: float, engine: bool) -> None:
    """The time to the limit against scipy.integrate.solve_ivp of dθ/dt = ((I/I∞)² − θ)/τ, and k²S²/I² far above it
    (adiabatic rule, IEC 60364-5-54 with k = 115, from memory).
    """
    wire = conductor(size)
    for_ever_a = damage_current_a(wire, engine)
    current_a = over * for_ever_a
    found = standing_s(wire, current_a, engine)
    tau = (115.0 * wire.area_mm2 / for_ever_a) ** 2

    def warm(_: float, rise: Any) -> Any:
        return (over**2 - rise) / tau

    def reached(_: float, rise: Any) -> float:
        return float(rise[0] - 1.0)

    reached.terminal = True  # type: ignore[attr-defined]
    run = solve_ivp(warm, (0, 30 * tau), [0.0], events=reached, rtol=1e-9, atol=1e-12, max_step=tau / 20)
    assert found == pytest.approx(run.t_events[0][0], rel=1e-3)
    adiabatic = (115.0 * wire.area_mm2 / current_a) ** 2
    assert found > adiabatic
    if over > 8:
        assert found == pytest.approx(adiabatic, rel=0.01)
    assert standing_s(wire, for_ever_a * 0.999, engine) == inf
    assert for_ever_a == pytest.approx(ampacity_a(wire, engine) * (130 / 75) ** 0.5)


def test_copper_clad_aluminium_stands_less() -> None:
    """k = 76 of aluminium against 115 of copper (IEC 60364-5-54, from memory)."""
    copper, clad = conductor("4 AWG"), conductor("4 AWG", CCA)
    assert standing_s(clad, 3000.0, False) / standing_s(copper, 3000.0, False) == pytest.approx(
        (76 / 115) ** 2, rel=0.01
    )


def test_a_wire_as_thick_as_its_fuse_wants_is_protected_at_every_current() -> None:
    """A rating within the ampacity protects: by a grid of 2000 currents up to 5 s, and by the rule that the fuse must
    open at 1.45 times the ampacity at most (IEC 60364-4-43, from memory); a wire for a third of it does not.
    """
    for name, rating_a, size in (("strip", 100.0, "4 AWG"), ("maxi", 60.0, "8 AWG"), ("blade", 30.0, "12 AWG")):
        wire = conductor(size)
        assert ampacity_a(wire, True) > rating_a
        assert unprotected_a(name, rating_a, wire, True, 3000.0) is None
        for current_a in np.geomspace(1.351 * rating_a, 3000.0, 2000):
            slowest = opening_s(name, rating_a, float(current_a))[1]
            assert slowest > 5 or slowest <= standing_s(wire, float(current_a), True)
    carries_a = ampacity_a(conductor("8 AWG"), True)
    edge_a = 1.45 * carries_a / 1.35
    assert unprotected_a("maxi", edge_a * 0.99, conductor("8 AWG"), True, 3000.0) is None
    assert unprotected_a("maxi", edge_a * 1.01, conductor("8 AWG"), True, 3000.0) == pytest.approx(1.35 * edge_a * 1.01)
    slow = conductor("0.75 mm2")  # within its overload, but a slow strip lets a short through
    assert 1.45 * ampacity_a(slow, False) > 1.35 * 15.0
    found_a = unprotected_a("strip", 15.0, slow, False, 3000.0)
    assert found_a is not None
    assert opening_s("strip", 15.0, found_a)[1] > (115.0 * 0.75 / found_a) ** 2


def test_a_branch_opens_first_where_its_slowest_is_under_the_mains_fastest() -> None:
    assert selective_up_to_a(("blade", 5.0), ("strip", 150.0), 1000.0) == 1000.0
    assert selective_up_to_a(("strip", 100.0), ("strip", 100.0), 1000.0) == 100.0
    up_to_a = selective_up_to_a(("strip", 60.0), ("strip", 100.0), 949.0)
    assert 60.0 < up_to_a < 949.0
    for current_a in np.geomspace(81.0, up_to_a, 50):
        assert opening_s("strip", 60.0, float(current_a))[1] < opening_s("strip", 100.0, float(current_a))[0]
    beyond = up_to_a * 1.1
    assert opening_s("strip", 60.0, beyond)[1] > opening_s("strip", 100.0, beyond)[0] * 0.7


# in a design ----------------------------------------------------------------------------------------------------------


def study(design: Design) -> list[Protected]:
    return evaluate(design).results.protection


def test_shorts_are_ohms_law_on_the_loop(estate: Design) -> None:
    """12.6 V over (12.6 − 7.2)/CCA/2 (SAE J537, from memory) and the pieces of the loop; just behind the fuse only
    post and fuse are in the way.
    """
    design = apply_edits(estate, [fact("vehicle/supply/batteries/battery/cca_a", 600.0)])
    result = evaluate(design)
    (one,) = result.results.protection
    pieces = result.results.supplies[0].pieces
    inner = (12.6 - 7.2) / 600.0 / 2
    assert one.far.value == pytest.approx(12.6 / (inner + sum(p.resistance_ohm for p in pieces)))
    assert one.near.value == pytest.approx(12.6 / (inner + sum(p.resistance_ohm for p in pieces[:2])))
    assert one.opens.value == pytest.approx(opening_s("strip", one.rating_a, one.far.value)[1])
    assert one.stands.value == pytest.approx(standing_s(one.wire, one.far.value, True))
    assert one.before is None
    weaker = study(apply_edits(design, [fact("vehicle/supply/batteries/battery/cca_a", 300.0)]))[0]
    assert weaker.far.value < one.far.value
    longer = study(apply_edits(design, [fact(f"{P}/tape_length_m", 9.0)]))[0]
    assert longer.near.value == pytest.approx(one.near.value)
    assert longer.far.value != pytest.approx(one.far.value)


def test_branches_behind_a_block_know_the_fuse_before_them() -> None:
    main, *branches = study(demo_design(TWO))
    assert main.before is None
    assert main.always_selective
    assert [b.before for b in branches] == [main, main]
    for branch in branches:
        assert branch.near.value < main.near.value
        assert branch.selective is not None
        assert branch.selective.value == selective_up_to_a(
            (branch.family, branch.rating_a), (main.family, main.rating_a), branch.far.value
        )


def test_a_fuse_far_too_large_is_a_stop_with_both_times(estate: Design) -> None:
    edits: list[Edit] = [put(f"{P}/wire/size", "14 AWG"), put(f"{P}/fuse/rating_a", 300.0)]
    design = apply_edits(estate, edits)
    (one,) = study(design)
    (found,) = [f for f in evaluate(design).findings if f.rule == "fuse-opens-late"]
    assert found.severity.value == "stop"
    assert one.opens.value == inf
    assert f"may never open, the wire stands {one.stands.value:.2f} s" in found.title
    less = apply_edits(estate, [put(f"{P}/wire/size", "10 AWG"), put(f"{P}/fuse/rating_a", 200.0)])
    (one,) = study(less)
    (late,) = [f for f in evaluate(less).findings if f.rule == "fuse-opens-late"]
    assert f"may take {one.opens.value:.1f} s to open, the wire stands {one.stands.value:.2f} s" in late.title
    assert f"drives {study(design)[0].far.value:.0f} A" in found.text
    assert not [f for f in evaluate(estate).findings if f.rule == "fuse-opens-late"]


def test_what_is_not_judged_says_why(estate: Design) -> None:
    unknown = apply_edits(estate, [put("vehicle/supply/batteries/battery/cca_a/value", None)])
    result = evaluate(unknown)
    assert result.results.protection == []
    assert "cold cranking" in not_judged(result.results.book, result.results.supplies, [])
    cart = next(n for n, job in enumerate(demo_jobs()) if "cart" in job.title)
    pack = evaluate(demo_design(cart))
    assert "converter" in not_judged(pack.results.book, pack.results.supplies, []).lower()
    judged = evaluate(estate).results
    assert not_judged(judged.book, judged.supplies, judged.protection) == ""
    assert judged.protection[0].breaks_a == (2000.0, 6000.0)


def test_a_slow_short_and_fuses_that_open_together_are_told_apart(estate: Design) -> None:
    """A weak battery drives a large fuse slowly though the wire survives; equal fuses overlap at every current, one
    three steps smaller only above the current that is said.
    """
    weak = [
        fact("vehicle/supply/batteries/battery/cca_a", 100.0),
        put(f"{P}/wire/size", "2 AWG"),
        put(f"{P}/fuse/rating_a", 150.0),
    ]
    design = apply_edits(estate, weak)
    (one,) = study(design)
    assert 5.0 < one.opens.value < one.stands.value
    assert one.bare_from_a is None
    (found,) = [f for f in evaluate(design).findings if f.rule == "fuse-opens-late"]
    assert found.severity.value == "watch"
    assert f"may take {one.opens.value:.2f} s to open in a short at the far end" in found.title
    assert f"Only {one.far.value:.0f} A" in found.text
    quick = apply_edits(estate, [*weak[1:2], put(f"{P}/fuse/rating_a", 150.0)])
    assert study(quick)[0].opens.value < 5.0
    assert not [f for f in evaluate(quick).findings if f.rule == "fuse-opens-late"]
    for branch_a, words in ((100.0, "overlap at every current"), (40.0, "Sure only up to")):
        both = [put("links/main/fuse/rating_a", 100.0), put("links/way-1/fuse/rating_a", branch_a)]
        split = apply_edits(estate, [*BLOCKED, *both])
        (said,) = [f for f in evaluate(split).findings if f.rule == "not-selective"]
        assert words in said.text, branch_a
        branch = next(p for p in study(split) if p.before is not None)
        assert branch.selective is not None
        if branch_a < 100.0:
            assert f"up to {branch.selective.value:.0f} A; a short there drives {branch.far.value:.0f} A" in said.text
    leads = [put("links/way-1/wire/leads", 2), put("links/way-1/fuse_each", True), put("links/main/fuse/rating_a", 100)]
    for each_a, words in ((50.0, "overlap at every current"), (20.0, "Sure only up to")):
        shared = apply_edits(estate, [*BLOCKED, *leads, put("links/way-1/fuse/rating_a", each_a)])
        (said,) = [f for f in evaluate(shared).findings if f.rule == "not-selective"]
        assert words in said.text, "what opens before the main fuse are both together"
        assert f"its 2 fuses of {each_a:g} A and the 100 A fuse" in said.title
        branch = next(p for p in study(shared) if p.before is not None)
        assert branch.far_a == pytest.approx(2 * branch.far.value)
        assert each_a > 20.0 or f"a short there drives {branch.far_a:.0f} A" in said.text
    tiny = apply_edits(split, [put("links/way-1/fuse/rating_a", 5.0), put("links/main/fuse/rating_a", 300.0)])
    assert not [f for f in evaluate(tiny).findings if f.rule == "not-selective"]
