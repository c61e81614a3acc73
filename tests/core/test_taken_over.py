"""A car somebody else worked on, and a complaint: what lies there is entered, what nobody read is asked for, what is on
file is named before any fault is searched for.
"""

from __future__ import annotations

import pytest

from ohmack.core.build.step_making import generated
from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.design import Intake
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.factory import Tier
from ohmack.core.document.links import LineLink
from ohmack.core.document.policy import Policy
from ohmack.core.document.proof import FaultKind, Symptom
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.evaluation.door import evaluate
from ohmack.core.evaluation.stages import READ_AT, without_value
from ohmack.core.figures.finding import RULES, Finding, Severity
from ohmack.core.figures.gaps import lacking, why_none
from ohmack.core.loads.driven import DC_HIGH, DC_LOW
from ohmack.core.loads.meter import ways_shown, wired_as, wired_now
from ohmack.core.planning.part_added import added
from ohmack.core.planning.placing import place_part
from ohmack.core.planning.proving import Read, take_over, take_reading
from ohmack.core.planning.remedies import edits_of
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.core.prove.explained import explained
from ohmack.core.prove.judged import State
from ohmack.core.prove.search import Search
from ohmack.core.reference import table
from ohmack.demo.building import catalogue
from ohmack.demo.jobs import demo_design, demo_jobs

# Sections whose figures are entered or judged where they are asked for: Survey, Plan and Build.
ELSEWHERE = {"runs", "fits", "cost", "pickup", "baseline", "earlier_work", "crossings", "bulkhead", "wire_rows"}
READ = "links/speaker-sub/reads_ohm"


def put(path: str, value: object) -> Edit:
    return Edit(path=path, value=value)


def measured(path: str, value: object) -> tuple[Edit, Edit]:
    return put(f"{path}/value", value), put(f"{path}/basis", "measured")


def found(amplifier: str = "Tessel M500", driver: str = "Morrowick 12 D2", box: bool = True) -> Design:
    """A hatch with a radio of later, an amplifier and a driver in it that nobody read yet."""
    vehicle = new_vehicle("Brindle", "Corran", 2009, Body.HATCH, Hand.LEFT)
    design = apply_edits(new_design("It cuts out", vehicle, Intake(), Policy()), measured("vehicle/radio/tier",
                         Tier.AFTERMARKET.value))  # fmt: skip
    trees = {tree["name"]: tree for tree in catalogue()}
    for name in (amplifier, driver, *(("Cooperage 45 vented",) if box else ())):
        design = apply_edits(design, added(design, dict(trees[name]), in_car=True))
    return design


def entered(design: Design, *ohms: float) -> Design:
    """The same with cables and line output entered, and the pair read where a reading is given."""
    design = pressed(apply_edits(design, measured("vehicle/radio/line_pairs", 1)), "signal-missing")
    sizes = [put(f"links/{name}/wire/size", "4 AWG") for name in ("power-amp", "ground-amp", "speaker-sub")]
    read = [edit for ohm in ohms for edit in measured(READ, ohm)]
    return apply_edits(design, [*sizes, *measured("vehicle/radio/line_v", 4.0), *read])


def said(design: Design, rule: str) -> Finding | None:
    return next((f for f in evaluate(design).findings if f.rule == rule), None)


def searching(design: Design, *symptoms: Symptom) -> Search:
    return evaluate(apply_edits(design, [put("proof/symptoms", [s.value for s in symptoms])])).results.search


def pressed(design: Design, rule: str) -> Design:
    finding = said(design, rule)
    assert finding is not None
    assert finding.remedy is not None
    return apply_edits(design, edits_of(design, finding.remedy))


def test_lines_of_a_radio_are_counted_before_a_converter_is_bought_and_lie_in_the_car() -> None:
    """Common practice, no source: an amplifier that is there hears something already."""
    design = found()
    asked = said(design, "signal-missing")
    assert asked is not None
    assert asked.title.endswith("has no signal")
    assert asked.remedy is not None
    assert asked.remedy.path == "vehicle/radio/line_pairs"
    none = said(apply_edits(design, measured("vehicle/radio/line_pairs", 0)), "signal-missing")
    assert none is not None
    assert none.remedy is not None
    assert (none.remedy.sheet, none.remedy.query) == ("find", "kind=converter")
    one = apply_edits(design, measured("vehicle/radio/line_pairs", 1))
    line = next(pressed(one, "signal-missing").links_of(LineLink))
    assert line.in_car
    fuse = next(tree for tree in catalogue() if tree["name"] == "Hob strip fuse 60 A, two")
    planned = apply_edits(one, place_part(one, dict(fuse)))  # now something new is planned
    assert not next(pressed(planned, "signal-missing").links_of(LineLink)).in_car


def test_a_stage_is_not_done_while_its_figures_have_no_value() -> None:
    design = found()
    lacks = evaluate(design)
    assert without_value(lacks, "supply")
    assert all(figure.value is None for figure in without_value(lacks, "supply"))
    unread = evaluate(entered(design))
    refused = why_none(without_value(unread, "supply"))
    assert "nobody said how its coils are wired" in refused, "not the first gap, but what keeps the others from a value"
    assert without_value(unread, "loads")
    assert without_value(unread, "signal")
    done = evaluate(pressed(entered(design, 3.5), "coils-unread"))
    assert not [without_value(done, stage) for stage in READ_AT if without_value(done, stage)]
    slow = [figure for figure in unread.figures.values() if figure.id == "amp/resting_v"]
    assert slow
    assert not lacking(slow), "nothing is ordered by it"


def test_what_nobody_read_is_not_predicted_but_told_by_the_reading() -> None:
    """A pair wired before: no wiring is the right one until it is read, so the reading is planned with, not judged."""
    design = entered(found())
    check = evaluate(design).results.proof.named("dead/pair/amp")
    assert check is not None
    assert check.window is None
    assert check.expects == "0.90 Ω or 3.60 Ω, to plan with"
    assert check.check.how.endswith("0.90 Ω: both coils in parallel; 3.60 Ω: both coils in series.")
    read = apply_edits(design, take_reading(design, check.check, Read(value=0.95)))
    judged = evaluate(read).results.proof.named("dead/pair/amp")
    assert judged is not None
    assert judged.state is State.UNJUDGED
    told = said(read, "reading-unjudged")
    assert told is not None
    assert "Plan with it" in told.text
    planned = pressed(apply_edits(read, take_over(evaluate(read).results, judged, "2026-05-04")), "coils-unread")
    now = evaluate(planned).results.proof.named("dead/pair/amp")
    assert now is not None
    assert now.state is State.PASSED


@pytest.mark.parametrize(
    ("amplifier", "ohm", "permitted"), [("Tessel M1200", 0.95, True), ("Tessel M500", 0.95, False)]
)
def test_a_search_takes_a_pair_as_it_reads_while_that_is_permitted(amplifier: str, ohm: float, permitted: bool) -> None:
    """What was found wired is no fault by itself: only a wiring the amplifier does not permit is named."""
    design = entered(found(amplifier))
    load = evaluate(design).results.loads[0]
    assert abs(load.chosen.meter_ohm - ohm) > 1, "not the wiring that would be chosen"
    check = evaluate(design).results.proof.named("dead/pair/amp")
    assert check is not None
    read = apply_edits(design, take_reading(design, check.check, Read(value=ohm)))
    suspects = searching(read, Symptom.DRAINS).suspects
    coils = sum(s.odds for s in suspects for c in s.faults if c.fault.kind is FaultKind.WRONG_COILS)
    assert (coils < 0.05) == permitted
    if permitted:
        likeliest = [c.fault.kind for s in suspects[:2] for c in s.faults]
        assert likeliest == [FaultKind.WEAK_BATTERY, FaultKind.WRONG_FEED], "not what reads as it may"


def test_a_fuse_nobody_read_is_asked_for_and_no_longer_once_it_is_read() -> None:
    """Where nothing new is planned it is looked at now; else the next one to open the car knows what goes in."""
    unread = said(pressed(entered(design := found(), 3.5), "coils-unread"), "fuse-unread")
    assert unread is not None
    assert (unread.severity, unread.about) == (Severity.WATCH, "power-amp")
    assert unread.remedy is not None
    read = put(unread.remedy.path, 60.0)
    there = apply_edits(entered(design, 3.5), [read])
    assert said(there, "fuse-unread") is None
    assert not [step for step in generated(evaluate(there).results) if step.kind == "main-fuse"]


@pytest.mark.parametrize("number", range(len(demo_jobs())))
def test_every_section_with_figures_is_read_at_a_stage(number: int) -> None:
    sections = {name for name, figures in evaluate(demo_design(number)).results.filed.items() if figures}
    assert sections <= {name for names in READ_AT.values() for name in names} | ELSEWHERE


def test_a_read_pair_says_how_coils_in_the_car_are_wired() -> None:
    """Two coils that read R each show R/2 side by side and 2 R in a row (textbook); the spread is common practice."""
    design = entered(found(), 0.95)
    load = evaluate(design).results.loads[0]
    coil_ohm = load.driven[0].coils[0].dc_resistance_ohm
    assert [point.ohm for _, point in ways_shown(load)] == pytest.approx([coil_ohm / 2, 2 * coil_ohm])
    nominal = [load.driven[0].coils[0].impedance_ohm * times for times in (0.5, 2.0)]
    assert [p.low_ohm for _, p in ways_shown(load)] == pytest.approx([DC_LOW * ohm for ohm in nominal])
    assert [p.high_ohm for _, p in ways_shown(load, 0.5)] == pytest.approx(
        [(coil_ohm * times + 0.5) * DC_HIGH * 2.0 / coil_ohm for times in (0.5, 2.0)]
    )
    asked = said(design, "coils-unread")
    assert asked is not None
    assert "reads 0.95 Ω, as both coils in parallel would" in asked.title
    assert said(design, "load-reading") is None, "nothing is expected of what nobody knows"
    assert evaluate(pressed(design, "coils-unread")).results.loads[0].chosen.load_ohm == pytest.approx(1.0)
    strange = said(entered(found(), 12.0), "coils-unread")
    assert strange is not None
    assert "which no wiring of its coils shows" in strange.title
    assert strange.remedy is not None
    assert strange.remedy.path == READ


def test_coils_that_lie_there_are_wired_anew_as_a_step_until_their_pair_is_read_again() -> None:
    parallel = pressed(entered(found(), 0.95), "coils-unread")
    series = pressed(parallel, "load-below-permitted")
    evaluation = evaluate(series)
    load = evaluation.results.loads[0]
    now = wired_now(load)
    assert now is not None
    assert (now.words, load.chosen.words) == ("both coils in parallel", "both coils in series")
    told = said(series, "load-reading")
    assert told is not None
    assert told.severity is Severity.WATCH
    assert "both coils in parallel now, both coils in series by the plan" in told.title
    steps = {step.id: step for step in generated(evaluation.results)}
    assert steps["rewire-speaker-sub"].what.startswith("Coils of Morrowick 12 D2 wired anew: both coils in series")
    assert "battery-off" in {need for step in steps.values() for need in step.needs}
    again = apply_edits(series, measured(READ, 3.6))
    assert wired_as(evaluate(again).results.loads[0], 3.6) == (evaluate(again).results.loads[0].chosen,)
    assert said(again, "load-reading") is None
    assert "rewire-speaker-sub" not in {step.id for step in generated(evaluate(again).results)}
    new = apply_edits(series, [put("links/speaker-sub/in_car", False)])
    fresh = said(new, "load-reading")
    assert fresh is not None
    assert fresh.severity is Severity.STOP, "what is wired in this job is wrong, not old"


def test_what_is_on_file_brings_a_symptom_about_before_any_fault() -> None:
    """Common practice, no source: an amplifier under its lowest load cuts out when it is loud; it does not whine."""
    low = pressed(entered(found(), 0.95), "coils-unread")
    findings = evaluate(low).findings
    both = explained((Symptom.WHINE, Symptom.CUTS_OUT), findings)
    assert both[0].finding.rule == "load-below-permitted"
    assert both[0].symptom is Symptom.CUTS_OUT
    assert not [it for it in both if it.symptom is Symptom.WHINE and it.finding.rule == "load-below-permitted"]
    assert all(it.finding.severity is not Severity.NOTE for it in both)
    assert explained((), findings) == ()
    ranks = [it.finding.severity.rank for it in explained(Symptom, findings)]
    assert ranks == sorted(ranks)


def test_every_symptom_has_rules_that_are_rules() -> None:
    brings = {name: rules for name, rules in table("proof", "explains").items() if name.isupper()}
    assert set(brings) == {symptom.name for symptom in Symptom}
    assert {rule for rules in brings.values() for rule in rules} <= set(RULES)


def test_the_box_of_a_driver_that_is_there_is_typed_in_not_bought() -> None:
    bare = said(found(box=False), "driver-boxless")
    assert bare is not None
    assert bare.remedy is not None
    assert (bare.remedy.sheet, bare.remedy.query) == ("parts/new", "kind=box&in_car=yes")
    assert any(found(box=False).parts_of(Amplifier))
    assert said(found(), "driver-boxless") is None
