"""The charging budget and a capacitor: against ngspice, scipy, the textbook, and a job worked by hand."""

from __future__ import annotations

from math import pi, sin, sqrt

import pytest
from scipy.integrate import quad

from ohmack.core.build.step_making import generated
from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.links import ChargeLink, PowerLink
from ohmack.core.document.parts import ChargingRelay
from ohmack.core.document.vehicle import Body, Hand, Powertrain
from ohmack.core.errors import OutOfRange
from ohmack.core.evaluation.door import evaluate
from ohmack.core.evaluation.stages import is_done
from ohmack.core.figures.finding import Severity
from ohmack.core.network.states import battery_resistance_ohm
from ohmack.core.physics.charging import average_current_a, battery_lasts_h, charging_resistor_ohm, sag_v
from ohmack.core.physics.conductors import ampacity_a, conductor, sizes
from ohmack.core.planning.starting_points import new_vehicle
from ohmack.core.planning.wiring import connect_everything
from ohmack.demo.building import documented, measured
from ohmack.demo.jobs import catalogue, demo_design, demo_jobs
from references import ngspice

S = "vehicle/supply"


@pytest.mark.parametrize("at_s", [0.002, 0.01, 0.05, 0.2])
@pytest.mark.parametrize(("holds_f", "own_ohm"), [(1.0, 0.002), (0.5, 0.006)])
def test_a_burst_sags_as_a_circuit_simulator_says(at_s: float, holds_f: float, own_ohm: float) -> None:
    (volts,) = ngspice(
        "burst.cir", source_v=14.2, loop_ohm=0.009, own_ohm=own_ohm, capacitance_f=holds_f, current_a=60.0, at_s=at_s,
        step_s=at_s / 400,
    )  # fmt: skip
    assert sag_v(60.0, 0.009, at_s, holds_f, own_ohm) == pytest.approx(14.2 - volts, abs=2e-3)


def test_a_capacitor_holds_for_milliseconds() -> None:
    """Charge: 1 F that may fall by 0.5 V gives 60 A for 8.3 ms (I = C dV/dt). A note of 0.2 s sees nothing of it."""
    assert pytest.approx(8.3e-3, rel=0.01) == 1.0 * 0.5 / 60
    bare = sag_v(60.0, 0.009, 0.2)
    assert bare == pytest.approx(0.54)
    assert sag_v(60.0, 0.009, 0.2, 1.0, 0.002) == pytest.approx(bare, rel=1e-6)
    assert sag_v(60.0, 0.009, 0.008, 1.0, 0.002) < 0.65 * bare


def test_class_ab_draws_by_its_level_and_class_d_by_its_power() -> None:
    """The textbook class-B stage: its supply delivers the half-waves of the output current, so its mean current is
    proportional to the amplitude; an eighth of the power is √(1/8) of the amplitude.
    """

    def mean_a(amplitude_a: float) -> float:
        return float(quad(lambda t: abs(amplitude_a * sin(t)), 0, 2 * pi)[0] / (2 * pi))

    full_a = mean_a(30.0)
    assert average_current_a(full_a, 0.0, 1 / 8, follows_level=True) == pytest.approx(mean_a(30.0 * sqrt(1 / 8)))
    assert average_current_a(40.8, 0.8, 1 / 8, follows_level=False) == pytest.approx(5.8)  # 0.8 + 40 / 8
    with pytest.raises(OutOfRange):
        average_current_a(10.0, 12.0, 0.1, follows_level=False)


def test_a_battery_gives_its_rated_capacity_at_its_rated_current_and_never_more() -> None:
    """By its definition 100 Ah at 20 h is 5 A for 20 h. Peukert: at 10 A with k = 1.2 it lasts 20 (5/10)^1.2 h."""
    assert battery_lasts_h(100.0, 5.0, 1.0, 1.2) == pytest.approx(20.0)
    assert battery_lasts_h(100.0, 10.0, 1.0, 1.2) == pytest.approx(8.706, rel=1e-3)
    assert battery_lasts_h(100.0, 1.0, 1.0, 1.2) * 1.0 == pytest.approx(100.0), "not more than its rated capacity"
    assert battery_lasts_h(100.0, 10.0, 0.5, 1.2) == pytest.approx(4.353, rel=1e-3)
    with pytest.raises(OutOfRange):
        battery_lasts_h(100.0, 10.0, 0.5, 0.9)


def test_the_charging_resistor_is_one_that_is_sold() -> None:
    """5 R C = 100 s asks for 20 Ω at 1 F: 22 Ω of E12 (18 and 22 are its neighbours), 14.2²/22 = 9.2 W at first."""
    assert charging_resistor_ohm(1.0, 100.0) == 22.0
    assert pytest.approx(110) == 5 * 22.0 * 1.0


TWO = next(n for n, job in enumerate(demo_jobs()) if job.title.startswith("Two amplifiers"))


@pytest.fixture
def two() -> Design:
    return demo_design(TWO)


def test_the_budget_of_two_amplifiers_by_hand(two: Design) -> None:
    """90 A label, half of it at idle (common practice, no source), the car takes 45 A: nothing is left at idle for
    music, 45 A on the road. Class D averages an eighth, the amplifier of the subwoofer a third with heavy bass.
    """
    result = evaluate(two)
    figures, parts = result.figures, {p.id: p for p in two.parts}
    full = {name: figures[f"{name}/current_a"].value for name in ("amp", "amp-2")}
    idle = {name: parts[name].idle_current_a for name in full}  # type: ignore[union-attr]
    music_a = sum(idle[n] + (full[n] - idle[n]) / 8 for n in full)
    bass_a = idle["amp"] + (full["amp"] - idle["amp"]) / 3 + idle["amp-2"] + (full["amp-2"] - idle["amp-2"]) / 8
    budget = result.results.budget
    assert budget is not None
    assert budget.value("full") == pytest.approx(sum(full.values()))
    assert budget.value("music") == pytest.approx(music_a, rel=1e-6)
    assert budget.value("bass") == pytest.approx(bass_a, rel=1e-3)
    assert budget.value("idle_music") == pytest.approx(90 / 2 - 45 - music_a, rel=1e-6)
    assert budget.value("road_bass") == pytest.approx(90 - 45 - bass_a, rel=1e-3)
    behind_ah = 70.0 + 60.0  # both batteries are joined while the engine runs
    deficit_a = -(budget.value("idle_bass") or 0.0)
    assert budget.value("lasts") == pytest.approx(0.5 * 20 * (behind_ah / 20 / deficit_a) ** 1.2, rel=1e-6)
    one, two_ohm = (12.6 - 7.2) / 600 / 2, (12.6 - 7.2) / 500 / 2
    between = figures["battery-2/join_ohm"].value  # all audio hangs on the second; the car's draw is just covered
    from_first_a = sum(full.values()) * two_ohm / (one + between + two_ohm)
    assert budget.value("post") == pytest.approx(12.6 - from_first_a * one, rel=1e-6)


def test_the_alternator_that_would_do_goes_by_what_this_one_gives_at_idle(two: Design) -> None:
    """Half of a label at idle (common practice, no source) until somebody reads it: 63 A of 90 are seven tenths."""
    read = apply_edits(two, [Edit(path="vehicle/supply/alternator_idle_a", value={"value": 63.0, "basis": "measured"})])
    for design, share in ((two, 0.5), (read, 0.7)):
        budget = evaluate(design).results.budget
        assert budget is not None
        needed = evaluate(design).figures["charging/alternator_needed_a"].value
        assert needed == pytest.approx((45 + (budget.value("bass") or 0.0)) / share, rel=1e-6)


def test_a_strap_nobody_read_is_not_said_to_read_well() -> None:
    """By its usual 0.4 mΩ there is nothing to gain, but who says it has them; read, it is said."""
    design, said = demo_design(0), []
    for basis in ("assumed", "measured"):
        strap = Edit(path="vehicle/supply/battery_strap_ohm", value={"value": 0.0004, "basis": basis})
        budget = evaluate(apply_edits(design, [strap])).results.budget
        assert budget is not None
        assert budget.cures[0].brings[0].value == pytest.approx(0.0, abs=1e-9)
        said.append((budget.cures[0].worth, budget.cures[0].why.split(".")[0]))
    unread = "Nobody read it yet, and every other reading rests on it"
    assert said == [("not known", unread), ("nothing to gain", "The strap reads well")]


def test_the_cures_come_in_order_with_what_each_brings(two: Design) -> None:
    fed_from_the_front = apply_edits(
        two, [Edit(path=f"links/{k.id}/from_id", value="battery") for k in two.links if k.kind == "power"
              and k.to_id == "block"]
    )  # fmt: skip
    budget = evaluate(fed_from_the_front).results.budget
    assert budget is not None
    assert [cure.key for cure in budget.cures] == ["strap", "alternator", "wire", "capacitor"]
    strap, alternator, wire, capacitor = budget.cures
    assert strap.brings[0].value == pytest.approx((0.0012 - 0.0004) * (budget.value("full") or 0.0))
    assert (strap.worth, alternator.worth, capacitor.worth) == ("helps", "helps", "nothing to gain")
    assert alternator.brings[0].value == pytest.approx((45 + (budget.value("bass") or 0.0)) / 0.5)
    worst = max(
        (s for s in evaluate(fed_from_the_front).results.supplies if not s.is_main),
        key=lambda s: s.figures["drop"].value,
    )
    larger = min(
        (c for c in worst.candidates if c.wire.area_mm2 > worst.chosen.wire.area_mm2 and c.drop_v is not None),  # type: ignore[union-attr]
        key=lambda c: c.wire.area_mm2,
    )
    assert wire.brings[0].value == pytest.approx(worst.figures["drop"].value - larger.drop_v)  # type: ignore[operator]


@pytest.mark.parametrize(
    ("rated_a", "severity"), [(55.0, Severity.STOP), (90.0, Severity.WATCH), (128.0, Severity.NOTE), (220.0, None)]
)
def test_a_deficit_is_as_grave_as_it_is(two: Design, rated_a: float, severity: Severity | None) -> None:
    """Car 45 A, music 11 A, heavy bass 21 A: under 56 A it never charges, under 112 A not at idle, under 132 A not
    with heavy bass.
    """
    found = evaluate(apply_edits(two, [documented(f"{S}/alternator_rating_a", rated_a)])).findings
    said = [f.severity for f in found if f.rule == "charging-budget"]
    assert said == ([severity] if severity else [])


@pytest.mark.parametrize(
    ("limit_a", "said"),
    [
        (45.0, [(Severity.STOP, "With everything on 3 A more is drawn than charging gives")]),
        (52.0, [(Severity.WATCH, "With heavy bass 5 A more is drawn than the converter gives")]),
        (60.0, []),
    ],
)
def test_a_converter_gives_standing_what_it_gives_on_the_road(
    limit_a: float, said: list[tuple[Severity, str]]
) -> None:  # fmt: skip
    """Car 41 A, music 7 A, heavy bass 16 A: what is over its limit is over it everywhere, and nothing charges it again
    on the way.
    """
    electric = demo_design(next(n for n, job in enumerate(demo_jobs()) if job.title == "Bass at the converter's limit"))
    result = evaluate(apply_edits(electric, [documented(f"{S}/dc_dc_limit_a", limit_a)]))
    assert [(f.severity, f.title) for f in result.findings if f.rule == "charging-budget"] == said
    budget = result.results.budget
    assert budget is not None
    assert budget.value("idle_bass") == budget.value("road_bass")
    assert budget.cures[0].title == "Battery strap"
    names = [f"{f.name} {f.formula} {' '.join(term.name for term in f.inputs)}" for f in result.figures.values()]
    assert not [name for name in names if "engine" in name or "turns" in name or "at idle" in name]


def test_nothing_is_green_while_the_alternator_is_not_known(two: Design) -> None:
    unknown = apply_edits(two, [Edit(path=f"{S}/alternator_rating_a", value={"value": None})])
    found = next(f for f in evaluate(unknown).findings if f.rule == "charging-budget")
    assert found.severity is Severity.WATCH
    assert "are set against nothing: alternator rating is not known" in found.title
    assert is_done(evaluate(two), "supply")
    assert not is_done(evaluate(unknown), "supply")
    small = demo_design(
        next(n for n, job in enumerate(demo_jobs()) if job.title.startswith("Bass behind the seat, out"))
    )
    bare = apply_edits(small, [Edit(path=f"{S}/alternator_rating_a", value={"value": None})])
    said = [(f.severity, f.title[:4]) for f in evaluate(bare).findings if f.rule == "charging-budget"]
    assert said == [(Severity.NOTE, "26 A")], "a small draw is said too, and stops nobody"
    assert is_done(evaluate(bare), "supply")
    hard = evaluate(apply_edits(bare, [Edit(path=f"{S}/kind", value="DC-DC converter")]))
    said = [(f.severity, f.about) for f in hard.findings if f.rule == "charging-budget"]
    assert said == [(Severity.WATCH, f"{S}/dc_dc_limit_a")], "a converter gives no more than its limit"
    assert not is_done(hard, "supply")
    low = apply_edits(two, [documented(f"{S}/alternator_rating_a", 220.0), measured(f"{S}/post_loaded_v", 12.9)])
    assert (
        "The post reads 12.90 V idling" in next(f for f in evaluate(low).findings if f.rule == "charging-budget").title
    )


def test_a_capacitor_is_wired_to_the_amplifier_that_plays_the_bass() -> None:
    design = demo_design(0)
    part = {**next(t for t in catalogue() if t["kind"] == "capacitor"), "id": "cap", "position": {"x_m": 3.4, "y_m": 0}}
    bought = apply_edits(design, [Edit(op="add", path="parts", value=part)])
    assert [f.title for f in evaluate(bought).findings if f.rule == "capacitor-wired"] == [
        "1 farad capacitor is in no wire"
    ]
    wired = apply_edits(bought, connect_everything(bought, "cap"))
    result = evaluate(wired)
    entry = result.results.stiffening[0]
    assert (entry.link.from_id, entry.wire) == ("amp", result.results.supplies[0].chosen.wire)  # type: ignore[union-attr]
    leads_ohm = 2 * entry.wire.resistance_ohm_per_m * 0.3  # type: ignore[union-attr]
    assert result.figures["cap/leads_ohm"].value == pytest.approx(leads_ohm)
    loop_ohm, full_a = result.figures["amp/loop_ohm"].value, result.figures["amp/current_a"].value
    assert result.figures["cap/sag_edge_v"].value == pytest.approx(
        sag_v(full_a - design.part("amp").idle_current_a, loop_ohm, 0.01, 1.0, 0.002 + leads_ohm)  # type: ignore[union-attr]
    )
    rows = [row for row in result.results.wire_rows if row.purpose.startswith("Capacitor")]
    assert [(row.start, row.end, row.size) for row in rows] == [("Tessel M500", "1 farad capacitor", entry.wire.label)]  # type: ignore[union-attr]
    before, after = evaluate(bought).results.cost, result.results.cost
    assert before is not None
    assert after is not None
    assert after.value > before.value, "its leads are paid for"
    far = apply_edits(wired, [measured("links/leads-cap/tape_length_m", 0.9)])
    assert "0.90 m of lead" in next(f for f in evaluate(far).findings if f.rule == "capacitor-wired").title


def test_the_bass_of_the_cars_own_subwoofer_counts_as_bass() -> None:
    """An amplifier on the works' subwoofer averages a third with heavy bass, one on doors an eighth."""
    number = next(n for n, job in enumerate(demo_jobs()) if job.title.startswith("One driver now"))
    later = demo_design(number)
    now = apply_edits(
        later,
        [Edit(path=f"links/{k.id}/phase", value="now") for k in later.links if k.phase == "later"]
        + [Edit(path=f"parts/{p.id}/phase", value="now") for p in later.parts if p.phase == "later"],
    )
    figures = evaluate(now).figures
    full_a, idle_a = figures["amp/current_a"].value, now.part("amp").idle_current_a  # type: ignore[union-attr]
    assert figures["amp/average_music_a"].value == pytest.approx(idle_a + (full_a - idle_a) / 8)
    assert figures["amp/average_bass_a"].value == pytest.approx(idle_a + (full_a - idle_a) * 0.3333)


def test_only_what_comes_back_through_the_strap_gains_by_a_better_one(two: Design) -> None:
    budget = evaluate(two).results.budget  # both amplifiers are fed from the second battery, grounded beside it
    assert budget is not None
    assert budget.cures[0].worth == "nothing to gain"
    assert [f.id for f in budget.cures[0].brings] == ["charging/three_cables"]


def test_batteries_that_rest_apart_push_a_current_through_the_relay() -> None:
    """Ohm's law over both batteries' own resistances and the cable; no relay that carries it, a watch; none where
    they rest alike, or a charger stands between.
    """
    number = next(n for n, job in enumerate(demo_jobs()) if job.title.startswith("Two amplifiers"))
    design = demo_design(number)
    first, second = design.vehicle.supply.batteries

    def said(rests_v: float, how: str = "relay") -> tuple[float | None, list[str]]:
        relay = next(design.parts_of(ChargingRelay))
        changed = apply_edits(
            design,
            [
                measured(f"vehicle/supply/batteries/{second.id}/own_resting_v", rests_v),
                Edit(path=f"parts/{relay.id}/how", value=how),
            ],
        )
        results = evaluate(changed).results
        figure = results.charging[0].figures.get("joined")
        titles = [f.title for f in evaluate(changed).findings if "as" in f.title and "joins the batteries" in f.title]
        return (figure.value if figure else None), titles

    charging = evaluate(design).results.charging[0]
    cable_ohm = (charging.figures["drop"].value or 0.0) / (charging.figures["current"].value or 1.0)
    own = sum(battery_resistance_ohm(b.cca_a.value or 0.0, b.cranking_standard) for b in (first, second))
    low_v = 10.6
    amps, titles = said(low_v)
    assert amps == pytest.approx((12.6 - low_v) / (own + cable_ohm))
    assert len(titles) == 1
    assert f"{amps:.0f} A" in titles[0]
    assert said(12.5)[1] == []
    assert said(low_v, "DC-DC charger") == (None, [])


def test_each_of_the_three_main_cables_gives_what_its_copper_saves(estate: Design) -> None:
    """16 mm² of copper by IEC 60228 (from memory, 1.21 mΩ a metre) against the size that carries the alternator, over
    1.5, 0.5 and 0.6 m (common practice), at its rating.
    """
    charged = apply_edits(estate, [documented(f"{S}/alternator_rating_a", 180.0), measured(f"{S}/car_draw_a", 45.0)])
    results = evaluate(charged).results
    assert results.budget is not None
    new = conductor(str(results.book.figures["charging/three_cables"].value))
    gains = [results.book.figures[f"charging/cable_{n}_v"].value for n in (1, 2, 3)]
    wanted = [(0.00121 - new.resistance_ohm_per_m) * length_m * 180.0 for length_m in (1.5, 0.5, 0.6)]
    assert gains == pytest.approx(wanted)
    small = evaluate(apply_edits(charged, [documented(f"{S}/alternator_rating_a", 60.0)])).results
    assert "charging/cable_1_v" not in small.book.figures, "what is there carries it"


@pytest.mark.parametrize(("over_a", "step"), [(0.0, 0), (1.0, 1)])
def test_a_cable_that_carries_just_the_alternator_is_thick_enough(estate: Design, over_a: float, step: int) -> None:
    """At its ampacity in the engine space a size is enough, an ampere above it the next one is taken."""
    pool = sizes(estate.policy.wire_system)
    number = next(n for n, one in enumerate(pool) if ampacity_a(one, engine_space=True) > 130.0)
    rated_a = ampacity_a(pool[number], engine_space=True) + over_a
    charged = apply_edits(estate, [documented(f"{S}/alternator_rating_a", rated_a), measured(f"{S}/car_draw_a", 45.0)])
    assert evaluate(charged).figures["charging/three_cables"].value == pool[number + step].label


def test_a_second_batterys_ground_is_judged_and_prepared_as_any_other(two: Design) -> None:
    """A seat-belt bolt holds a person: nothing is grounded there (common practice, no source)."""
    point = next(g.id for g in two.vehicle.ground_points if g.id != "ground-rear")
    belted = apply_edits(
        two,
        [Edit(path="links/charge-battery-2/ground_point_id", value=point),
         measured(f"vehicle/ground_points/{point}/kind", "seat-belt bolt")],
    )  # fmt: skip
    results = evaluate(belted)
    (found,) = [f for f in results.findings if f.rule == "ground-place" and f.severity is Severity.STOP]
    assert (found.about, found.title) == (point, "Never ground on a seat-belt bolt")
    assert found.remedy is not None
    assert found.remedy.path == "links/charge-battery-2/ground_point_id"
    assert results.results.work_plan.named(f"ground-{point}") is not None


@pytest.mark.parametrize(("shop_m", "most_m"), [(0.05, 0.05), (0.18, 0.18), (0.45, 0.45), (1.0, 0.45)])
def test_a_charge_cable_is_laid_with_its_fuse_as_near_as_the_shop_asks(
    two: Design, shop_m: float, most_m: float
) -> None:
    """Never farther than 18 inches, 0.45 m, however far the shop goes elsewhere (common practice, no source)."""
    policy = Edit(path="policy/fuse_distance_m", value=shop_m)
    bare = apply_edits(two, [policy, Edit(op="remove", path="links/charge-battery-2")])
    laid = apply_edits(bare, connect_everything(bare))
    (link,) = laid.links_of(ChargeLink)
    assert link.fuse is not None
    assert link.fuse.from_source_m.high == most_m
    again = apply_edits(bare, [Edit(op="remove", path=f"links/{run.id}") for run in bare.links_of(PowerLink)])
    runs = [run for run in apply_edits(again, connect_everything(again)).links_of(PowerLink) if run.fuse is not None]
    assert runs
    assert max(run.fuse.from_source_m.high for run in runs if run.fuse and run.fuse.from_source_m.high) == most_m


@pytest.mark.parametrize(("distance_m", "words"), [(0.3, ""), (3.0, "Fuse 3.00 m from"), (None, "Not known: how far")])
def test_the_charge_cables_fuse_sits_at_the_battery(two: Design, distance_m: float | None, words: str) -> None:
    """Within 18 inches, 0.46 m, of the source (ABYC E-11, from memory), as the fuse of any other cable."""
    edit = Edit(path="links/charge-battery-2/fuse/from_source_m", value={"value": distance_m})
    said = evaluate(apply_edits(two, [edit])).findings
    found = [f.title for f in said if (f.rule, f.about) == ("fuse-too-far", "charge-battery-2")]
    assert [words in title for title in found] == [True] * bool(words)


def test_a_charge_cable_comes_through_the_bulkhead_as_any_other(two: Design) -> None:
    """Its way is a known one, with its step and its grommet; with none on file the usual one is offered."""
    results = evaluate(two).results
    assert [(c.link_id, c.passage_id) for c in results.bulkhead] == [("charge-battery-2", "bulkhead")]
    assert [step.id for step in generated(results) if step.kind == "passage"] == ["through-bulkhead"]
    closed = apply_edits(two, [Edit(op="remove", path="vehicle/passages/bulkhead")])
    (said,) = [f for f in evaluate(closed).findings if f.rule == "bulkhead-way"]
    assert said.remedy is not None
    mended = evaluate(apply_edits(closed, said.remedy.edits))
    assert not [f for f in mended.findings if f.rule == "bulkhead-way"]
    assert [c.passage_id for c in mended.results.bulkhead] == ["bulkhead"]


@pytest.mark.parametrize(
    ("powertrain", "kind"),
    [(Powertrain.COMBUSTION, "alternator"), (Powertrain.HYBRID, "DC-DC converter"),
     (Powertrain.ELECTRIC, "DC-DC converter")],
)  # fmt: skip
def test_a_car_with_a_high_voltage_side_is_charged_by_a_converter(powertrain: Powertrain, kind: str) -> None:
    """Hybrids too: there is no alternator to be read, and what the converter gives is not guessed (common practice)."""
    vehicle = new_vehicle("Any", "Any", 2019, Body.ESTATE, Hand.RIGHT, powertrain)
    assert vehicle.supply.kind == kind
    assert (vehicle.supply.alternator_rating_a.value is None) is (kind != "alternator")
    assert vehicle.supply.dc_dc_limit_a.value is None
