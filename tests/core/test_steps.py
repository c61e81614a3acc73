"""The steps of the work and the teardown: order against networkx and every order there is, rules on every demo job, the
count by hand.
"""

from __future__ import annotations

from itertools import pairwise, permutations

import networkx as nx
import pytest
from hypothesis import given
from hypothesis import strategies as st

from core.test_everyday_jobs import TREES, empty, with_parts
from core.test_trying import named, small_kit
from ohmack.core.build.step_making import generated
from ohmack.core.build.steps import Phase
from ohmack.core.build.teardown import lacking
from ohmack.core.document import Design
from ohmack.core.document.drop_readings import Section
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.links import FeedLink, Pickup, PowerLink, RemoteLink, SpeakerLink, TapLink
from ohmack.core.document.parts import DistributionBlock, FuseHolder
from ohmack.core.document.vehicle import Body, SpeakerPlace
from ohmack.core.errors import NotPossible
from ohmack.core.evaluation.answer import Evaluation
from ohmack.core.evaluation.door import evaluate
from ohmack.core.figures.finding import Severity
from ohmack.core.physics.schedule import Circle, Task, all_before, in_order, longest_chain, placed
from ohmack.core.planning.copying import as_it_was_built
from ohmack.core.planning.parts_tried import taken
from ohmack.core.planning.taking_out import everything_out
from ohmack.core.planning.work import leave_out, mark_done, own_step, put_back, put_in_again, take_off
from ohmack.core.supply.own_runs import feeds_of_the_old
from ohmack.demo.building import measured
from ohmack.demo.jobs import demo_design, demo_jobs
from proving import proved

JOBS = range(len(demo_jobs()))


@st.composite
def tasks(draw: st.DrawFn) -> list[Task]:
    found: list[Task] = []
    for n in range(draw(st.integers(1, 6))):
        needs = tuple(t.id for t in found if draw(st.booleans()))
        found.append(Task(f"s{n}", needs, float(draw(st.integers(0, 30))), draw(st.integers(1, 2))))
    return draw(st.permutations(found))


@pytest.mark.parametrize("number", JOBS)
def test_every_part_and_every_cable_of_a_plan_is_in_a_step(number: int) -> None:
    """What is bought and is in no step stays in its box; what is laid, fixed or joined comes after what it needs."""
    results = evaluate(demo_design(number)).results
    steps = generated(results)
    handled = {part_id for step in steps for part_id in step.part_ids}
    words = " ".join(step.what for step in steps)
    for part in results.design.parts:
        used_up = part.kind in ("wire", "line cable", "fuse") or getattr(part, "category", "") == "consumables"
        spare = isinstance(part, FuseHolder) and not any(s.link.fuse for s in results.supplies)
        if part.in_car:
            assert part.id not in handled, part.name
            continue
        assert used_up or spare or part.id in handled or part.name in words, part.name
    laid = {step.id.removeprefix("lay-").removeprefix("knob-") for step in steps if step.id.startswith("lay-")}
    for row in results.wire_rows:
        if row.in_car:
            assert row.link_id not in laid, row
            continue
        at_once = row.purpose in ("Ground", "Line level") and row.link_id not in {k.id for k in results.design.links}
        pair = row.end.split("'s plug, ")[-1].removesuffix(" pair")  # laid with others to the same plug
        in_a_bundle = row.end != pair and any(pair in step.what for step in steps if " × " in step.what)
        assert row.link_id in laid or row.purpose == "Ground" or at_once or in_a_bundle, row
    fused = [s for s in results.supplies if s.link.fuse and s.link.from_id not in
             {b.id for b in results.design.parts_of(DistributionBlock)}]  # fmt: skip
    assert {f"fix-fuse-{s.link.id}" for s in fused} <= {step.id for step in steps}


def test_a_new_radio_goes_in_where_the_old_one_came_out() -> None:
    """A job of a radio and its adapters alone: everything is tried, the battery is off, the new one goes in last."""
    design = with_parts(empty(Body.HATCH), "Quillon S2 screen radio", "Radio plug adapter, 16 way")
    results = evaluate(design).results
    steps = {step.id: step for step in generated(results)}
    assert steps["join-plug"].what == (
        "Adapters and plugs behind the radio: Quillon S2 screen radio and Radio plug adapter, 16 way"
    )
    assert steps["back-radio"].what == "Quillon S2 screen radio into the dash; everything counted in"
    order = [*steps]
    assert order.index("try-all") < order.index("battery-off") < order.index("off-radio") < order.index("join-plug")
    assert order.index("battery-on") < order.index("back-radio")
    alone = generated(evaluate(with_parts(empty(Body.HATCH), "Pell & Fenn Coax 65, pair")).results)
    assert not [step for step in alone if step.id in ("off-radio", "battery-off")], "doors alone need neither"


def test_what_goes_into_speakers_leads_has_its_step_and_its_cables() -> None:
    """Woofers, tweeters in new pillars and their crossover on the radio's own power: nothing of it is left to guess."""
    names = ("Morrowick W65 woofer, pair", "Morrowick T25 tweeter, pair", "Morrowick X3 crossover, pair")
    design = with_parts(empty(Body.HATCH), *names)
    ring = {"id": "ring", "kind": "mounting ring", "name": "Oak ring", "at_ids": ["spk-fl"], "thickness_mm": 12.0,
            "opening_mm": 142.0, "outer_mm": 170.0}  # fmt: skip
    capacitor = {"id": "cap", "kind": "series capacitor", "name": "Bipolar 220", "capacitance_uf": 220.0,
                 "at_ids": ["ch-rl", "spk-rr"]}  # fmt: skip
    resistor = {"id": "load", "kind": "load resistor", "name": "Ten ohms", "at_ids": ["ch-fl"], "resistance_ohm": 10.0,
                "rated_w": 50.0}  # fmt: skip
    parts = [Edit(op="add", path="parts", value=tree) for tree in (ring, capacitor, resistor)]
    results = evaluate(apply_edits(design, parts)).results
    steps = {step.id: step for step in generated(results)}
    crossed = steps["line-net-ch-fl"]
    assert crossed.what == (
        "Morrowick X3 crossover, pair into the front left pair, behind the radio: out to front left door and front"
        " pillar left"
    )
    assert {"off-radio", "lay-pillar-left"} <= set(crossed.needs)
    assert steps["lay-pillar-left"].what.startswith("18 AWG cable from Morrowick X3 crossover, pair, front left pair")
    assert "Look behind before cutting" in steps["fix-pillar-left"].cautions
    assert "Nothing of it in the way of the airbag" in steps["fix-pillar-left"].cautions
    assert " on Oak ring;" in steps["fix-spk-fl"].what
    assert steps["line-cap-ch-rl"].what == "Bipolar 220 in line with the rear left pair, behind the radio"
    assert steps["line-cap-spk-rr"].needs == ("off-spk-rr",)
    assert "hot" in steps["line-load-ch-fl"].cautions[0]
    joints = next(row for row in results.order if row.note == "at what is put in line")
    assert joints.amount == "6", "two at each capacitor, two at the resistor; a net has terminals"


@given(tasks())
def test_order_and_longest_chain_against_networkx_and_every_order(steps: list[Task]) -> None:
    """Of every order of the steps, the one found is allowed; the chain is as long as the longest of all ways, and as
    networkx finds it with the time on the arrows.
    """
    needs = {t.id: set(t.needs) for t in steps}

    def allowed(order: tuple[str, ...]) -> bool:
        return all(needs[name] <= set(order[:n]) for n, name in enumerate(order))

    found = tuple(in_order(steps))
    assert allowed(found)
    liked = [t.id for t in steps]
    if allowed(tuple(liked)):
        assert list(found) == liked, "what may stay as it was stays"
    assert any(found == o for o in permutations(liked)), "each of them once"
    minutes = {t.id: t.minutes for t in steps}
    graph = nx.DiGraph()
    for t in steps:
        graph.add_edge(f"{t.id} begins", f"{t.id} ends", weight=t.minutes)
        graph.add_edges_from(((f"{n} ends", f"{t.id} begins") for n in t.needs), weight=0.0)
    chain = longest_chain(steps)
    assert sum(minutes[n] for n in chain) == pytest.approx(nx.dag_longest_path_length(graph))
    assert all(a in all_before(steps)[b] for a, b in zip(chain, chain[1:], strict=False))


@given(tasks(), st.integers(1, 3))
def test_nobody_does_two_things_and_nothing_begins_before_what_it_needs(steps: list[Task], people: int) -> None:
    plan = {p.id: p for p in placed(steps, people)}
    by_name = {t.id: t for t in steps}
    for name, p in plan.items():
        assert p.end_min == p.start_min + by_name[name].minutes
        assert len(p.lanes) == min(by_name[name].people, people)
        assert all(plan[n].end_min <= p.start_min for n in by_name[name].needs)
    for lane in range(people):
        mine = sorted((p.start_min, p.end_min) for p in plan.values() if lane in p.lanes)
        assert all(a[1] <= b[0] for a, b in zip(mine, mine[1:], strict=False))
    whole = max(p.end_min for p in plan.values())
    hands = sum(t.minutes * min(t.people, people) for t in steps)
    longest = sum(by_name[n].minutes for n in longest_chain(steps))
    assert max(longest, hands / people) <= whole + 1e-9
    assert whole <= sum(t.minutes for t in steps) + 1e-9
    if people == 1:
        assert whole == pytest.approx(sum(t.minutes for t in steps))


def test_a_circle_is_named() -> None:
    with pytest.raises(Circle, match=r"a → b|b → a"):
        in_order([Task("a", ("b",)), Task("b", ("a",)), Task("c")])


@pytest.mark.parametrize("number", JOBS)
def test_every_job_is_done_in_an_order_that_hurts_nobody(number: int) -> None:
    """The negative comes off before anything is taken off, laid, fixed or joined; the fuse goes in after everything is
    joined and checked; nothing is closed before it was tried; behind every hole was looked; what comes off goes back.
    """
    results = evaluate(demo_design(number)).results
    steps = {s.id: s for s in generated(results)}
    if not steps:
        assert not results.design.links
        return
    before = all_before([Task(s.id, s.needs) for s in steps.values()])
    for name, step in steps.items():
        assert step.low_min <= step.high_min
        assert step.minutes > 0
        if results.design.links and step.phase in (Phase.OFF, Phase.LAY, Phase.JOIN):
            assert "battery-off" in before[name], name
        if step.phase is Phase.CLOSE:
            assert "first-power" in before[name], name
        if step.phase in (Phase.FIT, Phase.JOIN) and "dead-checks" in steps:
            assert name in before["dead-checks"], name
        if step.kind == "drill" or (step.kind == "ground" and step.one_shot):
            assert any(steps[n].kind == "look-behind" for n in before[name]), name
        if step.one_shot:
            assert "try-all" in before[name], name
        if name.startswith("off-"):
            assert f"back-{name.removeprefix('off-')}" in steps
    fed = {f"lay-{feed.part.id}" for feed in results.pack_feeds}
    assert fed <= set(steps)
    assert all(f"lay-{feed.part.id}" in before[f"fix-{feed.part.id}"] for feed in results.pack_feeds)
    assert ("main-fuse" in steps) == ("join-post" in steps), "what has a fuse hangs on a post"
    if "main-fuse" in steps:
        joined = {n for n, s in steps.items() if s.phase in (Phase.JOIN, Phase.FIT, Phase.LAY)}
        assert joined | {"dead-checks", "battery-on"} <= before["main-fuse"]
    laid = {n.removeprefix("lay-") for n in steps if n.startswith("lay-")}
    assert {k.id for k in results.design.links_of(PowerLink)} <= laid


def test_times_are_those_of_the_trade() -> None:
    """Amplifier and subwoofer half a day to a day, a speaker swap of two doors one to two hours (common practice, no
    source: driver swap 25 min, amplifier and subwoofer half a day).
    """
    amplifier, doors = (evaluate(demo_design(n)).results.work_plan for n in (0, 3))
    assert 3 * 60 <= (amplifier.low_min + amplifier.high_min) / 2 <= 8 * 60
    assert 40 <= (doors.low_min + doors.high_min) / 2 <= 120
    assert amplifier.two_min < sum(p.step.minutes for p in amplifier.steps)
    assert amplifier.two_min >= sum(p.step.minutes for p in amplifier.steps if p.critical)


def test_a_longer_cable_takes_longer_but_not_at_its_ends(estate: Design) -> None:
    """Two fifths of the minutes are at the ends, the rest is for five metres of power cable, three of another (common
    practice, no source).
    """
    known = generated(evaluate(estate).results)
    usual = {"lay-power-amp": 5.0, "lay-line-amp": 3.0}
    for length_m, times in ((0.0, 0.4), (1.0, 1.0), (2.0, 1.6)):
        edits = [measured(f"links/{k[4:]}/tape_length_m", max(length_m * m, 0.01)) for k, m in usual.items()]
        steps = {s.id: s for s in generated(evaluate(apply_edits(estate, edits)).results)}
        for name in usual:
            assert steps[name].times == pytest.approx(times, abs=0.01)
            assert steps[name].once_min == pytest.approx(next(s.once_min for s in known if s.id == name))
            assert steps[name].minutes == pytest.approx(steps[name].times * sum(steps[name].once_min) / 2)
    out = everything_out(evaluate(as_it_was_built(estate, "Out")).results)
    gone = apply_edits(as_it_was_built(estate, "Out"), out)
    way = {s.id: s.times for s in generated(evaluate(gone).results) if s.kind == "old-out"}
    (run,) = [one for one in gone.coming_out if one.id == "power-amp"]
    walked = sum(abs(a.x_m - b.x_m) + abs(a.y_m - b.y_m) for a, b in pairwise(run.way))
    assert way["out-power-amp"] == pytest.approx(0.4 + 0.6 * walked / 4.0, rel=0.02), "along and across the car"
    stays = apply_edits(gone, [Edit(path="coming_out/power-amp/stays", value=True)])
    assert next(s for s in generated(evaluate(stays).results) if s.id == "out-power-amp").times == pytest.approx(0.4)


def test_leads_a_fresh_wire_replaces_are_not_left_bare_in_the_door() -> None:
    """A factory channel behind them may still play (common practice)."""
    design = demo_design(13)
    steps = {step.id: step for step in generated(evaluate(design).results)}
    fresh = {link.id: not link.factory_wire for link in design.links_of(SpeakerLink)}
    pairs = {link.id for link in design.links_of(SpeakerLink) if link.to_id.startswith("spk-")}
    laid = {name: step for name in pairs if (step := steps.get(f"lay-{name}")) is not None}
    told = {name for name, step in laid.items() if any("old leads" in caution for caution in step.cautions)}
    assert told == {name for name in laid if fresh[name]}
    assert told


def test_a_new_wire_into_a_door_comes_through_its_bellows_once() -> None:
    """Common practice, no source: each door a cable of ours goes into has its way opened before the cable is laid, once
    for a woofer and a tweeter of one door; over the car's own door wires nothing is opened.
    """
    design = demo_design(13)
    fresh = {
        speaker.id: link.id
        for link in design.links_of(SpeakerLink)
        for speaker in design.vehicle.speakers
        if speaker.id == link.to_id and speaker.in_door and not link.factory_wire
    }
    steps = {step.id: step for step in generated(evaluate(design).results)}
    assert {s.id for s in steps.values() if s.kind == "into-door"} == {f"into-{name}" for name in fresh} != set()
    for name, link_id in fresh.items():
        assert f"into-{name}" in steps[f"lay-{link_id}"].needs
        assert f"off-{name}" in steps[f"into-{name}"].needs
    (first, *others) = fresh
    door = next(s for s in design.vehicle.speakers if s.id == first)
    beside = Edit(path=f"vehicle/speakers/{others[0]}/position", value=door.position.model_dump(mode="json"))
    one_door = {s.id: s for s in generated(evaluate(apply_edits(design, [beside])).results)}
    shared = [s.id for s in one_door.values() if s.kind == "into-door"]
    assert len(shared) == len(fresh) - 1
    assert all(set(shared) & set(one_door[f"lay-{link_id}"].needs) for link_id in fresh.values())
    doors = [link for link in design.links_of(SpeakerLink) if link.to_id.startswith("spk-")]
    all_new = apply_edits(design, [Edit(path=f"links/{link.id}/factory_wire", value=False) for link in doors])
    opened = [s.id for s in generated(evaluate(all_new).results) if s.kind == "into-door"]
    assert sorted(opened) == ["into-spk-fl", "into-spk-fr", "into-spk-rl", "into-spk-rr"], "a rear door is another one"
    old = [Edit(path=f"links/{link_id}/factory_wire", value=True) for link_id in fresh.values()]
    assert not [s for s in generated(evaluate(apply_edits(design, old)).results) if s.kind == "into-door"]


def plan_of(design: Design) -> Evaluation:
    return evaluate(design)


def done(design: Design, *names: str, minutes: float | None = None) -> Design:
    for name in names:
        design = apply_edits(design, mark_done(design, evaluate(design).results.work_plan, name, True, minutes, "d"))
    return design


def all_until(design: Design, stop: str) -> Design:
    """Everything before a step done, in order."""
    for planned in evaluate(design).results.work_plan.steps:
        if planned.step.id == stop:
            break
        design = done(design, planned.step.id)
    return design


def test_a_step_is_not_done_before_what_it_needs_and_may_be_undone(estate: Design) -> None:
    with pytest.raises(NotPossible, match="Not before step"):
        done(estate, "battery-off")
    begun = done(estate, "try-all", "note", "battery-off", minutes=7.0)
    plan = evaluate(begun).results.work_plan
    assert plan.took_min == 21.0
    assert {p.step.id for p in plan.ready} >= {"off-radio", "off-sill-left"}
    with pytest.raises(NotPossible, match="minutes"):
        done(estate, "try-all", minutes=-3.0)
    with pytest.raises(NotPossible, match="not on the list"):
        done(estate, "nothing-of-the-kind")
    back = apply_edits(begun, mark_done(begun, plan, "battery-off", False, None, "d"))
    assert not [p for p in evaluate(back).results.work_plan.ready if p.step.id == "off-radio"]


def test_a_step_of_ones_own_stands_where_it_was_put(estate: Design) -> None:
    plan = evaluate(estate).results.work_plan
    edits = own_step(estate, plan, "Deaden the boot floor", ("off-rear",), ("fix-box",), 30.0, 50.0, True)
    own = apply_edits(estate, edits)
    after = evaluate(own).results.work_plan
    number = {p.step.id: p.number for p in after.steps}
    (mine,) = own.work.own_steps
    assert number["off-rear"] < number[f"own-{mine.id}"] < number["fix-box"]
    assert after.high_min == plan.high_min + 50.0
    for wrong in (
        ("", (), (), 5, 10),
        ("x", (), (), 10, 5),
        ("x", (), (), -1, 5),
        ("x", ("fix-box",), ("off-rear",), 1, 2),
    ):
        with pytest.raises(NotPossible):
            own_step(estate, plan, *wrong, one_shot=False)  # type: ignore[arg-type]
    circle = apply_edits(own, [
        Edit(path=f"work/own_steps/{mine.id}/after", value=["fix-box"]),
    ])  # fmt: skip
    found = evaluate(circle)
    assert "circle" in found.results.work_plan.circle
    assert [f.severity for f in found.findings if f.rule == "steps-in-a-circle"] == [Severity.STOP]
    assert len(found.results.work_plan.steps) == len(after.steps), "nothing is lost"


def test_what_keeps_people_from_harm_is_left_out_only_as_a_stop(estate: Design) -> None:
    plan = evaluate(estate).results.work_plan
    with pytest.raises(NotPossible, match="why"):
        leave_out(estate, plan, "dead-checks", "  ")
    for name, severity in (("dead-checks", Severity.STOP), ("battery-off", Severity.STOP), ("gains", None)):
        without = apply_edits(estate, leave_out(estate, plan, name, "no time"))
        found = [f for f in evaluate(without).findings if f.rule == "step-left-out"]
        assert [f.severity for f in found] == ([severity] if severity else [])
        left = evaluate(without).results.work_plan
        assert left.named(name) is None
        assert [(s.id, why) for s, why in left.left_out] == [(name, "no time")]
        needs = {p.step.id: p.step.needs for p in left.steps}
        assert all(name not in n for n in needs.values())
        if name == "dead-checks":
            assert "join-amp" in needs["battery-on"], "what needed it waits for what it waited for"
        again = apply_edits(without, put_in_again(without, name))
        assert [p.step for p in evaluate(again).results.work_plan.steps] == [p.step for p in plan.steps]


def test_what_came_off_is_counted_in_before_it_is_closed(estate: Design) -> None:
    """Screws 6, clips 3 on the panel and 2 in the body, plugs 1; one screw short is a stop with its number."""
    design = all_until(estate, "off-radio")
    plan = evaluate(design).results.work_plan
    values = {"fasteners": 6, "clips": 3, "clips_in_body": 2, "plugs": 1, "kind": "T20", "tray": "A"}
    design = apply_edits(design, take_off(design, plan, "off-sill-left", values, "d"))
    item = design.work.taken[0]
    assert item.name == "Sill trims, left"
    assert evaluate(design).results.work_plan.named("off-sill-left").done  # type: ignore[union-attr]
    assert lacking(item) == "6 screws or bolts, 5 clips and 1 plug"
    state = evaluate(design).results.teardown
    assert not state.may_close
    plan = evaluate(design).results.work_plan
    with pytest.raises(NotPossible, match="7 screws or bolts cannot go back in: 6 came out"):
        put_back(design, plan, item.id, 7, 5, 1, "d")
    with pytest.raises(NotPossible):
        put_back(design, plan, "no-such", 0, 0, 0, "d")
    short = apply_edits(design, put_back(design, plan, item.id, 5, 5, 1, "d"))
    (said,) = [f for f in evaluate(short).findings if f.rule == "closed-with-something-out"]
    assert said.severity is Severity.STOP
    assert "1 screw or bolt not" in said.title
    assert not evaluate(short).results.teardown.may_close
    whole = apply_edits(short, put_back(short, plan, item.id, 6, 5, 1, "d"))
    assert evaluate(whole).results.teardown.left_over == ()
    assert evaluate(whole).results.teardown.still_out == ()
    assert evaluate(whole).results.work_plan.named("back-sill-left").done  # type: ignore[union-attr]
    with pytest.raises(NotPossible, match="Say what"):
        take_off(design, plan, "", {}, "d")


def test_a_trim_with_two_sizes_of_screw_is_back_when_both_are(estate: Design) -> None:
    """The first kind alone closes nothing; what another trim still lacks does not hold this one."""
    design = all_until(estate, "off-radio")
    for step, values in (
        ("off-sill-left", {"fasteners": 4}), ("off-sill-left", {"fasteners": 2}), ("off-radio", {"clips": 3})
    ):  # fmt: skip
        plan = evaluate(design).results.work_plan
        design = apply_edits(design, take_off(design, plan, step, values, "d"))
    first, second = (t for t in design.work.taken if t.step == "off-sill-left")
    half = apply_edits(design, put_back(design, evaluate(design).results.work_plan, first.id, 4, 0, 0, "d"))
    closing = evaluate(half).results.work_plan.named("back-sill-left")
    assert closing is not None
    assert not closing.done
    whole = apply_edits(half, put_back(half, evaluate(half).results.work_plan, second.id, 2, 0, 0, "d"))
    closing = evaluate(whole).results.work_plan.named("back-sill-left")
    assert closing is not None
    assert closing.done


def test_a_panel_is_not_closed_by_the_list_while_its_screws_are_out(estate: Design) -> None:
    design = all_until(estate, "off-radio")
    plan = evaluate(design).results.work_plan
    design = apply_edits(design, take_off(design, plan, "off-radio", {"fasteners": 4}, "d"))
    for planned in evaluate(design).results.work_plan.steps:
        if not planned.done and not planned.step.id.startswith(("back-", "settings")):
            design = done(design, planned.step.id)
    with pytest.raises(NotPossible, match="Factory radio is not counted in: 4 screws"):
        done(design, "back-radio")
    state = evaluate(design).results.teardown
    uncounted = [p.step.takes_off for p in state.uncounted]
    assert uncounted == ["Sill trims, left", "Load space trim"], "done, and never counted"


def test_handed_back_with_nothing_counted_is_said(estate: Design) -> None:
    """Every step ticked on the list, no screw counted: the car is closed and nothing says that nothing lies in it."""
    design = all_until(estate, "settings-back")
    assert not design.work.taken
    assert not [f for f in evaluate(design).findings if f.rule == "closed-with-something-out"], "not handed back yet"
    found = evaluate(done(design, "settings-back"))
    (said,) = [f for f in found.findings if f.rule == "closed-with-something-out"]
    assert said.severity is Severity.WATCH
    assert "3 things not counted in" in said.title
    assert not found.results.teardown.may_close


def test_an_adapter_goes_where_the_signal_is_picked_up() -> None:
    """Behind a factory amplifier the plug is at the amplifier, not behind the radio."""
    design = demo_design(4)
    (tap,) = design.links_of(TapLink)
    plugged = apply_edits(design, [Edit(path=f"links/{tap.id}/method", value=Pickup.PLUG_ADAPTER.value)])
    steps = {s.id: s for s in generated(evaluate(plugged).results)}
    (source,) = {plugged.vehicle.source_of(c).name for c in tap.from_ids}
    assert "join-plug" not in steps
    assert steps["join-plug-factory-amp"].what == f"Adapters and plugs at {source}"
    assert "join-plug" in {s.id for s in generated(evaluate(demo_design(0)).results)}
    adapter = TREES["Radio plug adapter, 16 way"]
    bought = apply_edits(plugged, [Edit(op="add", path="parts", value=dict(adapter) | {"id": "plug-lead"})])
    steps = {s.id: s for s in generated(evaluate(bought).results)}
    assert steps["join-plug-factory-amp"].part_ids == ("plug-lead",)
    assert "join-plug" not in steps, "nothing is plugged in behind the radio"
    radio = dict(TREES["Quillon S2 screen radio"]) | {"id": "unit"}
    both = evaluate(apply_edits(bought, [Edit(op="add", path="parts", value=radio)]))
    (lacking,) = [f for f in both.findings if f.rule == "adapter-missing"]
    assert (lacking.about, lacking.severity) == (tap.id, Severity.STOP), "the one there is goes on the new radio's plug"
    steps = {s.id: s for s in generated(both.results)}
    assert steps["join-plug"].part_ids == ("unit", "plug-lead")
    there = evaluate(apply_edits(bought, [Edit(path="parts/plug-lead/stands", value="already in the car")]))
    (lacking,) = [f for f in there.findings if f.rule == "adapter-missing"]
    assert lacking.about == tap.id, "what is in the car is on the radio's plug"
    stays = {"id": "radio", "act": "taken out", "keep_alive": ["stays powered and connected, out of sight"]}
    hidden = evaluate(apply_edits(both.design, [Edit(op="add", path="interventions", value=stays)]))
    assert not [f for f in hidden.findings if f.rule == "adapter-missing"], "the hidden radio keeps its plug"
    steps = {s.id: s for s in generated(hidden.results)}
    assert steps["join-plug-factory-amp"].part_ids == ("plug-lead",)
    assert "off-radio" in {s.id for s in generated(evaluate(bought).results)}, "the converter is fed behind the radio"
    (old,) = feeds_of_the_old(bought)
    feeds = {f.id for f in bought.vehicle.feeds}
    hung = [*bought.links_of(FeedLink), *(k for k in bought.links_of(RemoteLink) if k.from_id in feeds)]
    elsewhere = apply_edits(bought, [Edit(path=f"links/{k.id}/from_id", value=old.id) for k in hung])
    assert "off-radio" not in {s.id for s in generated(evaluate(elsewhere).results)}, "nothing is done behind it"


def test_the_reverse_is_the_order_in_which_it_goes_back(estate: Design) -> None:
    design = all_until(estate, "off-radio")
    for name in ("off-radio", "off-sill-left", "off-rear"):
        design = apply_edits(design, take_off(design, evaluate(design).results.work_plan, name, {"clips": 2}, "d"))
    results = evaluate(design).results
    places = {p.step.id: p.number for p in results.work_plan.steps}
    back = [places[item.step.replace("off-", "back-")] for item in results.teardown.reverse]
    assert back == sorted(back)
    assert [i.step for i in results.teardown.items] == ["off-radio", "off-sill-left", "off-rear"]


def test_a_seat_asks_for_the_makers_torque(estate: Design) -> None:
    plan = evaluate(estate).results.work_plan
    seat = apply_edits(estate, take_off(estate, plan, "", {"name": "Front left seat", "fasteners": 4}, "d"))
    assert [f.severity for f in evaluate(seat).findings if f.rule == "seat-bolt-torque"] == [Severity.STOP]
    known = apply_edits(
        seat, [Edit(path=f"work/taken/{seat.work.taken[0].id}/torque", value="as the guide says, page 12")]
    )
    assert not [f for f in evaluate(known).findings if f.rule == "seat-bolt-torque"]


@pytest.mark.parametrize(("hand", "y_m", "seat"), [("left", 0.37, "passenger"), ("right", 0.37, "driver")])
def test_a_seat_something_goes_under_comes_off_its_bolts(hand: str, y_m: float, seat: str) -> None:
    """A front seat stands about two fifths of the half width aside; left-hand drive has its driver on the left. Its
    plugs wait for the battery, and its bolts ask for the maker's torque without being asked what it is.
    """
    design = apply_edits(with_parts(empty(Body.HATCH), "Cooperage Underseat 8"), [
        Edit(path="vehicle/hand_of_drive", value=hand), Edit(path="parts/bass/position/y_m", value=y_m),
    ])  # fmt: skip
    results = evaluate(design).results
    steps = {s.id: s for s in generated(results)}
    off, back = steps[f"off-seat-{seat}"], steps[f"back-seat-{seat}"]
    assert [n for n in steps if n.startswith("off-seat")] == [off.id]
    assert "battery-off" in off.needs
    assert off.id in steps["fix-bass"].needs
    assert off.id in back.needs
    assert "maker's torque" in off.cautions[1]
    out = apply_edits(design, take_off(design, results.work_plan, off.id, {"fasteners": 4}, "2026-11-30"))
    assert [f.title for f in evaluate(out).findings if f.rule == "seat-bolt-torque"] == [
        f"{off.takes_off}: the maker's torque is not known"
    ]
    middle = apply_edits(design, [Edit(path="parts/bass/position/y_m", value=0.0)])
    behind = apply_edits(design, [Edit(path="parts/bass/position/x_m", value=2.4)])
    for moved in (middle, behind):
        assert not [s.id for s in generated(evaluate(moved).results) if s.id.startswith("off-seat")]


def test_a_bulkhead_that_is_drilled_is_looked_behind_first(estate: Design) -> None:
    drilled = apply_edits(estate, [measured("vehicle/passages/bulkhead/needs_drilling", True)])
    steps = {s.id: s for s in generated(evaluate(drilled).results)}
    assert steps["drill-bulkhead"].one_shot
    assert "look-bulkhead" in steps["drill-bulkhead"].needs
    assert "drill-bulkhead" in steps["lay-power-amp"].needs
    assert "through-bulkhead" in {s.id for s in generated(evaluate(estate).results)}


def test_nothing_is_closed_while_a_reading_says_no(estate: Design) -> None:
    """Tried, everything counted out; the drop test at the ground reads three times what was planned."""
    design = all_until(estate, "off-radio")
    design = apply_edits(design, take_off(design, evaluate(design).results.work_plan, "off-radio", {"clips": 2}, "d"))
    assert "Not before step" in evaluate(design).results.closing_gate
    design = all_until(design, "back-radio")
    assert "Not before Prove says so: battery off is open" in evaluate(design).results.closing_gate
    design = proved(design)
    results = evaluate(design).results
    assert results.closing_gate == ""
    (item,) = [t for t in design.work.taken if t.step == "off-radio"]
    test = results.drop_tests[0]
    section = next(s for s in test.sections if s.section is Section.GROUND)
    amperes = test.current_a
    volts = {"value": 3 * section.planned_ohm * amperes + 0.01, "basis": "measured"}
    reading = {"id": "r", "consumer_id": test.supply.part.id, "section": section.section.value, "current_a": amperes,
               "voltage_v": volts}  # fmt: skip
    bad = apply_edits(design, [Edit(op="add", path="drop_readings", value=reading)])
    gate = evaluate(bad).results.closing_gate
    assert "the drop test says no" in gate
    plan = evaluate(bad).results.work_plan
    for act in (
        lambda: put_back(bad, plan, item.id, 0, 2, 0, "d", gate),
        lambda: mark_done(bad, plan, "back-radio", True, None, "d", gate),
    ):
        with pytest.raises(NotPossible, match="drop test says no"):
            act()
    good = apply_edits(bad, [Edit(path="drop_readings/r/voltage_v/value", value=section.planned_ohm * amperes)])
    assert evaluate(good).results.closing_gate == ""


@pytest.mark.parametrize("number", [0, 13, 14])
def test_steps_are_where_their_work_is(number: int) -> None:
    """Panels by what they are of, sills on the side the runs lie, cables on their own way."""
    results = evaluate(demo_design(number)).results
    steps = {s.id: s for s in generated(results)}
    for speaker in results.design.vehicle.speakers:
        if (step := steps.get(f"off-{speaker.id}")) is not None:
            door = speaker.place is SpeakerPlace.DOOR
            assert (step.kind, step.takes_off.endswith("panel")) == ("off-door" if door else "off-trim", door)
            assert step.where == speaker.position.point
    for side, sign in (("left", -1), ("right", 1)):
        if (step := steps.get(f"off-sill-{side}")) is not None:
            assert step.where[1] * sign > 0, "left is the smaller y"
    for link in results.design.links:
        if (step := steps.get(f"lay-{link.id}")) is not None and results.runs[link.id].points:
            assert step.where in results.runs[link.id].points
            long = (results.runs[link.id].length.value or 0) > 1.0
            assert any("pedals" in words for words in step.cautions) == long, "a short lead comes near none"


def test_orange_cables_are_named_where_there_are_any() -> None:
    """In a car that drives by a high voltage; neither in one that burns, nor on a cart whose pack is its supply."""
    said = {}
    for number in (0, 27, 28):
        steps = {s.id: s for s in generated(evaluate(demo_design(number)).results)}
        said[number] = any("Orange" in words for words in steps["battery-off"].cautions)
    assert said == {0: False, 27: True, 28: False}


def test_an_entry_without_a_step_goes_back_first(estate: Design) -> None:
    design = all_until(estate, "off-radio")
    for name, values in (("off-radio", {"clips": 2}), ("", {"name": "Cup holder", "clips": 1})):
        design = apply_edits(design, take_off(design, evaluate(design).results.work_plan, name, values, "d"))
    assert [i.name for i in evaluate(design).results.teardown.reverse] == ["Cup holder", "Factory radio"]


def test_where_a_run_came_through_and_was_grounded_before_nothing_is_drilled() -> None:
    """A cable in an old one's place takes its grommet and its stud; the first one drills for both. A hole is drilled
    once: fact of the trade.
    """
    drill = [Edit(path="vehicle/passages/bulkhead/needs_drilling", value={"value": True, "basis": "measured"}),
             Edit(path="vehicle/ground_points/ground-rear/kind", value={"value": "bare-metal stud",
                                                                        "basis": "measured"})]  # fmt: skip
    there = apply_edits(small_kit(), drill)
    stronger = apply_edits(there, taken(there, named("Tessel M500"), "amp"))
    none_yet = [Edit(path=f"links/{name}-amp/{field}", value=False)
                for name in ("power", "ground") for field in ("in_car", "old_out")]  # fmt: skip
    first = apply_edits(stronger, none_yet)
    for design, drills in ((stronger, False), (first, True)):
        steps = {step.id: step for step in generated(evaluate(design).results)}
        assert ("drill-bulkhead" in steps) is drills
        assert ("through-bulkhead" in steps) is not drills
        assert ("drilled" in steps["ground-ground-rear"].what) is drills
        assert steps["ground-ground-rear"].one_shot is drills
        assert any(f.rule == "caution-drilling" for f in evaluate(design).findings) is drills
        original = apply_edits(design, [Edit(path="intake/reversible", value=True)])
        said = {f.rule for f in evaluate(original).findings}
        assert ("drilled-on-reversible" in said) is drills
        assert ("stud-on-reversible" in said) is drills
