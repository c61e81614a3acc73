"""The plan of proof, readings judged, gates, verdicts, and the edits behind them."""

from __future__ import annotations

from collections import Counter
from typing import Any

import pytest

from core.test_small_parts import NET, took, with_tweeters
from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.parts import HeadUnit
from ohmack.core.document.proof import Symptom
from ohmack.core.errors import NotPossible
from ohmack.core.evaluation.door import evaluate
from ohmack.core.factory.functions import Fate
from ohmack.core.figures.finding import Severity
from ohmack.core.planning.proving import (
    Read,
    accept,
    asked,
    jump,
    leave_in,
    mended,
    say_symptom,
    take_over,
    take_reading,
    withdraw,
)
from ohmack.core.planning.work import mark_done
from ohmack.core.prove.beside import volts_read
from ohmack.core.prove.candidates import candidates, with_fault
from ohmack.core.prove.closing import waits_for_proof
from ohmack.core.prove.extra_checks import extra_checks
from ohmack.core.prove.judged import State
from ohmack.core.prove.plan_of_proof import plan_of_proof
from ohmack.core.prove.probes import Quantity
from ohmack.demo.jobs import demo_design, demo_jobs
from proving import proved

TITLES = [job.title for job in demo_jobs()]


def read(design: Design, check: str, **said: Any) -> Design:
    number = len(design.proof.readings)
    return apply_edits(
        design, [Edit(op="add", path="proof/readings", value={"id": f"x-{number}", "check": check, **said})]
    )


def state(design: Design, check: str) -> State:
    found = evaluate(design).results.proof.named(check)
    assert found is not None
    return found.state


@pytest.mark.parametrize("title", TITLES)
def test_no_two_checks_and_no_two_causes_are_called_the_same(title: str) -> None:
    """Three RCA leads between the same two boxes, two drivers of one model: whoever holds the probes knows which."""
    results = evaluate(demo_design(TITLES.index(title))).results
    named = Counter(c.title for c in (*plan_of_proof(results), *extra_checks(results)))
    assert [name for name, times in named.items() if times > 1] == []
    causes = Counter((c.words, c.fault.by) for c in candidates(results))
    assert [name for name, times in causes.items() if times > 1] == []


@pytest.mark.parametrize("title", TITLES)
def test_everything_the_plan_adds_is_checked(title: str) -> None:
    """Every new wire has a continuity or a load reading, every amplifier volts, ground drop and heat, every place that
    plays is heard, every function that is kept is tried; tweeters are never popped.
    """
    results = evaluate(demo_design(TITLES.index(title))).results
    checks = plan_of_proof(results)
    ids = {c.id for c in checks}
    assert len(ids) == len(checks)
    for link in results.design.links:
        if link.kind in ("line", "tap", "remote", "feed"):
            assert f"dead/lead/{link.id}" in ids
    for load in results.loads:
        assert f"dead/pair/{load.scope}" in ids or all(c.name in _held(results, load.scope) for c in load.driver.coils)
        assert f"dead/loose/{load.scope}" in ids
    for consumer in results.power.network.consumers if results.power.network else ():
        for kind in ("live/amp/{}/running", "live/idle/{}", "level/drop/{}", "level/volts/{}", "level/heat/{}"):
            assert kind.format(consumer.id) in ids
        assert f"dead/run/power-{consumer.id}" in ids
    for drive in results.drives:
        if drive.driven:
            assert f"live/plays/{drive.speaker.id}" in ids or any(drive.speaker.id in d.through_net for load in
                                                                  results.loads for d in load.driven)  # fmt: skip
        if drive.tweeter:
            assert f"dead/pop/{drive.speaker.id}" not in ids
    new = [part for part in results.design.parts_of(HeadUnit) if not part.in_car]
    assert {i for i in ids if i.startswith("live/keys/")} == {f"live/keys/{unit.id}" for unit in new}
    assert ({"live/smell", "live/lamps"} <= ids) is bool(results.design.links or results.design.coming_out or new)
    for verdict in results.ledger:
        assert (f"live/function/{verdict.function.id}" in ids) is (verdict.fate is not Fate.LOST)
    gates = [c.gate for c in checks]
    assert gates == sorted(gates)
    assert all(set(c.needs) <= ids for c in checks), "what a check needs is a check"


def _held(results: Any, scope: str) -> frozenset[str]:
    found: frozenset[str] = results.car.output(scope).held
    return found


def test_a_job_without_work_needs_no_proof_and_says_so() -> None:
    bare = demo_design(TITLES.index("Phone music on the cart"))
    proof = evaluate(bare).results.proof
    assert not proof.checks
    assert not proof.done
    assert not proof.may_close
    assert "Nothing to prove" in proof.verdict


def test_a_proof_from_the_first_check_to_the_last(estate: Design) -> None:
    """Gate by gate: what is next, what waits, when the trim may go back, when it is done."""
    proof = evaluate(estate).results.proof
    assert proof.next_one is not None
    assert proof.next_one.check.id == "dead/battery"
    assert [g.waits for g in proof.gates] == [False, True, True]
    one = proved(estate, (1,))
    proof = evaluate(one).results.proof
    assert [(g.passed, g.waits) for g in proof.gates] == [(True, False), (False, False), (False, True)]
    assert proof.next_one is not None
    assert proof.next_one.check.gate == 2
    two = proved(one, (2,))
    assert not evaluate(two).results.proof.may_close, "levels are set before the trim is on"
    three = proved(two, (3,), but="level/heat/amp")
    proof = evaluate(three).results.proof
    assert not proof.done
    assert proof.may_close, "heat after twenty minutes is read with the trim on"
    done = read(three, "level/heat/amp", value=48.0)
    evaluation = evaluate(done)
    assert evaluation.results.proof.done
    assert (evaluation.verdict.headline, evaluation.verdict.state) == ("Done", "ready")
    hot = read(three, "level/heat/amp", value=80.0)
    assert state(hot, "level/heat/amp") is State.OFF
    assert not evaluate(hot).results.proof.done


def test_readings_are_judged_on_both_sides_of_their_window(estate: Design) -> None:
    for check in ("live/amp/amp/running", "dead/pair/amp", "level/out/amp"):
        judged = evaluate(estate).results.proof.named(check)
        assert judged is not None
        assert judged.window is not None
        low, high = judged.window.low, judged.window.high
        step = (high - low) / 50
        for value, stands in ((low - step, False), (low + step, True), (high - step, True), (high + step, False)):
            assert (state(read(estate, check, value=value), check) is State.PASSED) is stands, (check, value)
    for value, stands in ((0.0, True), (60.0, True), (900.0, False)):
        drop = read(estate, "level/drop/amp", value=value, current_a=46.0)
        assert (state(drop, "level/drop/amp") is State.PASSED) is stands, "less drop than planned is well"


def test_a_drop_is_held_against_the_current_that_flowed(estate: Design) -> None:
    """112 mV are well at 46 A, and far too much at 10 A: the same ohms at a quarter of the current."""
    assert state(read(estate, "level/drop/amp", value=112.0, current_a=46.0), "level/drop/amp") is State.PASSED
    assert state(read(estate, "level/drop/amp", value=112.0, current_a=10.0), "level/drop/amp") is State.OFF
    judged = evaluate(read(estate, "level/drop/amp", value=25.0, current_a=10.0)).results.proof.named("level/drop/amp")
    assert judged is not None
    assert judged.state is State.PASSED
    assert judged.window is not None
    assert judged.scaled is not None
    assert judged.scaled.value == pytest.approx(judged.window.value * 10 / 46.02, rel=1e-3)


def test_the_meters_leads_are_taken_off(estate: Design) -> None:
    window = evaluate(estate).results.proof.named("dead/run/power-amp")
    assert window is not None
    assert window.window is not None
    value = window.window.high + 0.1
    assert state(read(estate, "dead/run/power-amp", value=value), "dead/run/power-amp") is State.OFF
    assert state(read(estate, "dead/run/power-amp", value=value, zero_ohm=0.15), "dead/run/power-amp") is State.PASSED


def test_what_must_not_touch_shows_no_connection(estate: Design) -> None:
    for said, stands in (({"over": True}, True), ({"value": 250_000.0}, True), ({"value": 40.0}, False)):
        assert (state(read(estate, "dead/loose/amp", **said), "dead/loose/amp") is State.PASSED) is stands
    assert state(read(estate, "dead/pair/amp", over=True), "dead/pair/amp") is State.OFF


def test_what_nothing_is_known_of_is_never_green(estate: Design) -> None:
    """The radio's last clean step is not on file: what is read is judged by nobody, until a person accepts it."""
    unknown = apply_edits(estate, [Edit(path="vehicle/radio/clip_step", value={"value": None})])
    there = read(unknown, "level/clip/radio", value=27.0)
    assert state(there, "level/clip/radio") is State.UNJUDGED
    assert not evaluate(proved(unknown)).results.proof.done
    proof = evaluate(there).results.proof
    named = apply_edits(there, accept(there, proof, "level/clip/radio", "Odile", "read with the scope, twice", "d"))
    assert state(named, "level/clip/radio") is State.ACCEPTED
    assert state(read(estate, "level/clip/radio", value=27.0), "level/clip/radio") is State.PASSED
    assert state(read(estate, "level/clip/radio", value=24.0), "level/clip/radio") is State.OFF


def test_a_correction_never_overwrites(estate: Design) -> None:
    design = proved(estate, (1,))
    results = evaluate(design).results
    check = asked(results, "live/post/battery/running")
    first = apply_edits(design, take_reading(design, check, Read(value=11.1, who="Wen", when="t1")))
    second = apply_edits(first, take_reading(first, check, Read(value=14.2, who="Wen", when="t2")))
    judged = evaluate(second).results.proof.named(check.id)
    assert judged is not None
    assert judged.state is State.PASSED
    assert [r.value for r in judged.earlier] == [11.1]
    assert judged.reading is not None
    assert judged.reading.corrects == first.proof.readings[-1].id
    assert len(second.proof.readings) == len(design.proof.readings) + 2


@pytest.mark.parametrize(
    ("shown_ohm", "leads_ohm", "state"),
    [(0.1, 0.14, State.PASSED), (0.1, 0.28, State.PASSED), (0.25, 0.1, State.OFF), (0.39, 0.28, State.OFF)],
)
def test_a_good_ground_may_read_a_little_under_the_leads(
    estate: Design, shown_ohm: float, leads_ohm: float, state: State
) -> None:
    """A meter of 0.1 ohm steps reads short leads as 0.1 once and 0.2 the next time (common practice, no source): that
    is no fault of the ground, and no reason to refuse the reading.
    """
    check = next(c for c in plan_of_proof(evaluate(estate).results) if c.id == "dead/ground/amp")
    read = apply_edits(estate, take_reading(estate, check, Read(value=shown_ohm, zero_ohm=leads_ohm)))
    judged = evaluate(read).results.proof.named(check.id)
    assert judged is not None
    assert judged.state is state
    assert judged.value == pytest.approx(max(0.0, shown_ohm - leads_ohm))


def test_behind_a_net_the_meter_sees_the_woofer_and_behind_a_capacitor_nothing() -> None:
    """A capacitor is before the tweeter and passes no direct current (textbook): 4 Ω reads some 3.4, never 1.7."""
    design = took(with_tweeters(), NET)
    assert state(read(design, "dead/pair/ch-fl", value=3.4), "dead/pair/ch-fl") is State.PASSED
    assert state(read(design, "dead/pair/ch-fl", value=1.7), "dead/pair/ch-fl") is State.OFF
    check = evaluate(design).results.proof.named("dead/pair/ch-fl")
    assert check is not None
    assert "Leads off Factory radio" in check.check.how
    capacitor = {"id": "cap", "kind": "series capacitor", "name": "Bipolar 220", "capacitance_uf": 220.0,
                 "at_ids": ["ch-fl"]}  # fmt: skip
    guarded = apply_edits(design, [Edit(op="add", path="parts", value=capacitor)])
    held = evaluate(guarded).results.proof
    assert held.named("dead/pair/ch-fl") is None
    assert held.named("dead/pair/ch-fr") is not None
    assert held.named("dead/held/ch-fr") is None
    assert state(read(guarded, "dead/held/ch-fl", over=True), "dead/held/ch-fl") is State.PASSED
    assert state(read(guarded, "dead/held/ch-fl", value=3.5), "dead/held/ch-fl") is State.OFF, "it is not in the lead"


@pytest.mark.parametrize(
    ("check", "said", "words"),
    [
        ("dead/pair/amp", Read(value=-1.0), "below nothing"),
        ("dead/pair/amp", Read(), "Enter what the meter shows"),
        ("dead/pair/amp", Read(value=1.2, zero_ohm=1.9), "less than its own leads"),
        ("dead/pair/amp", Read(value=5e8), "more than any car"),
        ("dead/pop/sub", Read(), "Say whether it is good"),
        ("live/amp/amp/running", Read(value=13_900.0), "type 13.9"),
        ("live/amp/amp/running", Read(over=True), "Only an ohmmeter"),
        ("level/drop/amp", Read(value=0.112), "type 0.112 V"),
        ("level/heat/amp", Read(value=-20.0), "never below nothing"),
        ("level/out/amp", Read(value=900.0), "more than any car"),
    ],
)
def test_what_no_meter_in_a_car_shows_is_refused(check: str, said: Read, words: str, estate: Design) -> None:
    design = proved(estate, (1, 2))
    results = evaluate(design).results
    found = next(c for c in plan_of_proof(results) if c.id == check)
    with pytest.raises(NotPossible, match=words):
        take_reading(design, found, said)


def test_no_gate_is_jumped_without_a_name_and_a_reason(estate: Design) -> None:
    proof = evaluate(estate).results.proof
    with pytest.raises(NotPossible, match="Not before “Before the fuse goes in” is through: 14"):
        asked(evaluate(estate).results, "live/lamps")
    for by, reason, words in (("", "in a hurry", "who stands for it"), ("Wen", " ", "Say why")):
        with pytest.raises(NotPossible, match=words):
            jump(estate, proof, 1, by, reason, "d")
    with pytest.raises(NotPossible, match="one after the other"):
        jump(estate, proof, 2, "Wen", "in a hurry", "d")
    over = apply_edits(estate, jump(estate, proof, 1, "Wen", "the meter is at the other bay", "d"))
    after = evaluate(over)
    assert asked(after.results, "live/lamps").gate == 2
    (watch,) = [f for f in after.findings if f.rule == "gate-passed-open"]
    assert "14 checks open" in watch.title
    assert "Wen: the meter is at the other bay" in watch.text
    assert not evaluate(proved(over, (2, 3))).results.proof.done, "what was jumped is still not proved"
    assert evaluate(proved(over, (2, 3))).results.proof.may_close
    shut = apply_edits(over, withdraw(over, over.proof.jumps[0].id))
    assert evaluate(shut).results.proof.gates[1].waits


def test_the_fuse_waits_for_the_first_gate_and_the_trim_for_all(estate: Design) -> None:
    results = evaluate(estate).results
    assert "14 dead checks open, battery off next" in waits_for_proof(results, "main-fuse")
    assert waits_for_proof(results, "dead-checks") == ""
    with pytest.raises(NotPossible, match="first gate"):
        mark_done(_all_before(estate, "main-fuse"), evaluate(_all_before(estate, "main-fuse")).results.work_plan,
                  "main-fuse", True, None, "d", waits_for_proof(results, "main-fuse"))  # fmt: skip
    assert waits_for_proof(evaluate(proved(estate, (1,))).results, "main-fuse") == ""


def _all_before(design: Design, step: str) -> Design:
    plan = evaluate(design).results.work_plan
    edits = []
    for n, planned in enumerate(plan.steps):
        if planned.step.id == step:
            break
        edits.append(Edit(op="add", path="work/marks", value={"id": f"m-{n}", "step": planned.step.id, "done": True}))
    return apply_edits(design, edits)


def test_a_deviation_stands_for_the_reading_it_was_said_of(estate: Design) -> None:
    """Accepted at 11.2 V; a new reading of 10.9 V is another matter, and one of 14.2 V needs no name."""
    bad = read(proved(estate, (1,)), "live/amp/amp/running", value=11.2)
    proof = evaluate(bad).results.proof
    with pytest.raises(NotPossible, match="who stands"):
        accept(bad, proof, "live/amp/amp/running", "", "it is well", "d")
    with pytest.raises(NotPossible, match="nothing to accept"):
        accept(bad, proof, "dead/battery", "Odile", "it is well", "d")
    named = apply_edits(bad, accept(bad, proof, "live/amp/amp/running", "Odile", "alternator is ordered", "d"))
    assert state(named, "live/amp/amp/running") is State.ACCEPTED
    (said,) = [f for f in evaluate(named).findings if f.rule == "accepted-as-it-is"]
    assert said.severity is Severity.NOTE
    assert "11.20 V" in said.title
    assert "Odile: alternator is ordered" in said.text
    assert state(read(named, "live/amp/amp/running", value=10.9), "live/amp/amp/running") is State.OFF
    assert state(read(named, "live/amp/amp/running", value=14.2), "live/amp/amp/running") is State.PASSED


def test_a_reading_of_a_check_that_is_gone_is_kept_and_said(estate: Design) -> None:
    design = read(estate, "dead/pair/amp", value=1.74)
    without = apply_edits(design, [Edit(op="remove", path="parts/sub"), Edit(op="remove", path="parts/box")])
    proof = evaluate(without).results.proof
    assert [r.check for r in proof.orphans] == ["dead/pair/amp"]
    with pytest.raises(NotPossible, match="has changed"):
        asked(evaluate(without).results, "dead/pair/amp")


def test_a_change_of_the_plan_judges_what_was_read_anew(estate: Design) -> None:
    """1.74 Ω was right for coils in parallel; wired in series the same reading is wrong."""
    design = read(estate, "dead/pair/amp", value=1.74)
    assert state(design, "dead/pair/amp") is State.PASSED
    link = next(k for k in design.links if k.kind == "speaker")
    load = evaluate(design).results.loads[0]
    series = next(o for o in load.options if not o.chosen)
    other = apply_edits(design, [Edit(path=f"links/{link.id}/wiring", value=series.key)])
    assert state(other, "dead/pair/amp") is State.OFF


@pytest.mark.parametrize(
    ("check", "value", "path", "kept"),
    [
        ("live/post/battery/running", 13.61, "post_running_v", 13.61), ("live/post/battery/on", 12.21, "post_resting_v",
        12.21), ("level/asleep", 31.0, "standby_current_a", 0.031),
    ],
)  # fmt: skip
def test_a_reading_becomes_a_fact_and_moves_the_plan(
    check: str, value: float, path: str, kept: float, estate: Design
) -> None:
    design = read(estate, check, value=value)
    results = evaluate(design).results
    judged = results.proof.named(check)
    assert judged is not None
    after = apply_edits(design, take_over(results, judged, "2026-11-26"))
    fact = getattr(after.vehicle.supply, path)
    assert (fact.value, fact.basis.value) == (kept, "measured")
    again = evaluate(after, before=design)
    if path == "post_running_v":
        assert any("13.6" in str(moved.after) or "V" in str(moved.after) for moved in again.moved)
        assert state(after, check) is State.PASSED


def test_what_is_of_several_facts_is_not_taken_over(estate: Design) -> None:
    design = read(estate, "level/volts/amp", value=13.0)
    alone = volts_read(evaluate(design).results, "amp")
    assert alone is not None
    assert (alone.across_v, alone.rise_v) == (13.0, None)  # nobody read its ground yet
    results = evaluate(design).results
    judged = results.proof.named("level/volts/amp")
    assert judged is not None
    with pytest.raises(NotPossible, match="several things at once"):
        take_over(results, judged, "d")


def test_symptoms_are_said_denied_and_forgotten(estate: Design) -> None:
    one = apply_edits(estate, say_symptom(estate, Symptom.WHINE.value, "yes"))
    assert one.proof.symptoms == (Symptom.WHINE,)
    no = apply_edits(one, say_symptom(one, Symptom.WHINE.value, "no"))
    assert (no.proof.symptoms, no.proof.not_symptoms) == ((), (Symptom.WHINE,))
    none = apply_edits(no, say_symptom(no, Symptom.WHINE.value, ""))
    assert (none.proof.symptoms, none.proof.not_symptoms) == ((), ())
    with pytest.raises(NotPossible):
        say_symptom(estate, "a strange smell", "yes")


def test_a_fault_is_found_left_in_mended_and_read_again(estate: Design) -> None:
    """A bad ground of 15 mΩ: the drop says it, the search names it, the plan counts with it, the mend asks again."""
    results = evaluate(estate).results
    bad = next(c for c in candidates(results) if c.fault.kind.name == "BAD_GROUND" and c.fault.by == 0.015)
    wrong = with_fault(results.car, bad)
    design = proved(proved(estate, (1, 2), wrong), (3,), wrong)
    evaluation = evaluate(design)
    assert {j.check.id for j in evaluation.results.proof.off} >= {"level/drop/amp", "live/whine"}
    found = evaluation.results.search.found
    assert found is not None
    assert found.key == ((bad.fault.kind, bad.fault.at, ""),)
    kept = evaluate(apply_edits(design, leave_in(design, found)))
    assert kept.verdict.headline == "Not proved"
    assert [f.severity for f in kept.findings if f.rule == "fault-left-in"] == [Severity.STOP]
    assert {j.check.id for j in kept.results.proof.off} < {j.check.id for j in evaluation.results.proof.off}, (
        "with the fault in the plan its readings are as predicted"
    )
    proof = evaluation.results.proof
    better = apply_edits(design, mended(design, proof, [c.fault for c in found.faults], "bare metal", "Wen", "d"))
    assert state(better, "level/drop/amp") is State.AGAIN
    assert not evaluate(better).results.search.evidence, "what was read before says nothing of what is now"
    again = proved(better, (2, 3))
    assert evaluate(again).results.proof.done


def test_a_search_asks_between_any_two_neighbours(estate: Design) -> None:
    results = evaluate(estate).results
    drops = [c for c in extra_checks(results) if c.probe.quantity is Quantity.DROP_MV]
    network = results.power.network
    assert network is not None
    assert len(drops) == len(network.branches) - 2, "all but the amplifier's own two terminals"


def test_every_promise_is_tried_even_where_no_function_is_on_file(estate: Design) -> None:
    """A reversing camera was promised and the survey knows of none; a new radio brings reception and a microphone."""
    promised = apply_edits(estate, [Edit(path="intake/must_keep", value=["reversing camera", "chimes"])])
    ids = {c.id for c in plan_of_proof(evaluate(promised).results)}
    assert "live/keep/camera" in ids
    assert "live/keep/chimes" not in ids, "the ledger has it"
    radio = demo_design(TITLES.index("Everything new but the doors"))
    tried = {c.title for c in plan_of_proof(evaluate(radio).results)}
    assert {"Radio reception", "Hands-free"} <= tried
    alone = apply_edits(radio, [Edit(op="remove", path=f"links/{link.id}") for link in radio.links])
    tried = {c.title for c in plan_of_proof(evaluate(alone).results)}
    assert {"Warning lamps", "Nothing gets warm, nothing smells"} <= tried, "on its plug and nothing else"


@pytest.mark.parametrize(
    ("school", "low", "high"),
    [("meter: to a target voltage", False, False), ("scope or distortion detector: to where it clips, and back", True,
     False), ("clip light: until it comes on, and back", True, False)],
)  # fmt: skip
def test_gains_are_proved_by_the_shops_school(school: str, low: bool, high: bool, estate: Design) -> None:
    """By the meter the target is met from both sides; by scope or light it is not passed, and silence is no level; by
    ear none is asked.
    """
    design = apply_edits(estate, [Edit(path="policy/gain_school", value=school)])
    assert (state(read(design, "level/out/amp", value=22.0), "level/out/amp") is State.PASSED) is low
    assert (state(read(design, "level/out/amp", value=34.0), "level/out/amp") is State.PASSED) is high
    assert state(read(design, "level/out/amp", value=0.0), "level/out/amp") is State.OFF
    ear = apply_edits(estate, [Edit(path="policy/gain_school", value="by ear at 70 to 75 % of the volume")])
    ids = {c.id for c in plan_of_proof(evaluate(ear).results)}
    assert "level/out/amp" not in ids
    assert "level/round/amp" in ids


def test_a_new_radios_last_clean_step_is_found_and_planned_with() -> None:
    """Nothing is known of it before: what is read is judged by nobody until it is planned with; the old radio's step
    says nothing of the new one's.
    """
    planned = apply_edits(
        demo_design(TITLES.index("Five channels, four doors and a box")),
        [Edit(path="vehicle/radio/clip_step", value={"value": "22 of 35", "basis": "measured"})],
    )
    found = read(planned, "level/clip/radio-2", value=30.0)
    assert state(found, "level/clip/radio-2") is State.UNJUDGED
    results = evaluate(found).results
    judged = results.proof.named("level/clip/radio-2")
    assert judged is not None
    over = apply_edits(found, take_over(results, judged, "2026-11-28"))
    assert state(over, "level/clip/radio-2") is State.PASSED
    assert state(read(over, "level/clip/radio-2", value=33.0), "level/clip/radio-2") is State.OFF
    assert over.vehicle.radio.clip_step.value == "22 of 35"


def test_a_known_fault_whose_place_is_gone_breaks_nothing(estate: Design) -> None:
    """A coil was found open and left in; then the subwoofer went. The page stands, the Stop still names it."""
    fault = {"id": "f", "kind": "an open coil", "at": "amp", "other": "1"}
    left = apply_edits(read(estate, "dead/pair/amp", value=3.5), [Edit(op="add", path="proof/faults", value=fault)])
    gone = apply_edits(left, [Edit(op="remove", path="parts/sub"), Edit(op="remove", path="parts/box")])
    assert [f.title for f in evaluate(gone).findings if f.rule == "fault-left-in"]
    assert evaluate(gone).results.search is not None


def test_a_file_that_says_good_of_a_number_judges_nothing(estate: Design) -> None:
    odd = read(estate, "level/volts/amp", passed=True)
    assert state(odd, "level/volts/amp") is State.OFF
    assert evaluate(odd).results.search.begun


def test_what_was_read_of_a_finished_car_has_its_driver_in_the_box(estate: Design) -> None:
    bare = apply_edits(estate, [Edit(path="parts/box/depth_mm", value=None)])
    assert "box-unheld" in {f.rule for f in evaluate(bare).findings}
    assert "box-unheld" not in {f.rule for f in evaluate(read(bare, "level/volts/amp", value=13.0)).findings}
