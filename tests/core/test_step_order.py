"""The order of the work changed by hand, and minutes learned: against networkx, numpy and sums by hand."""

from __future__ import annotations

from statistics import mean

import networkx as nx
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ohmack.core.build.learned_times import LEAST_JOBS, Took, learned_times
from ohmack.core.build.step_book import StepBook
from ohmack.core.build.steps import Phase, Step
from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.work import TakenOff
from ohmack.core.errors import NotPossible
from ohmack.core.evaluation.door import evaluate
from ohmack.core.figures.finding import Severity
from ohmack.core.physics.schedule import Task, all_before, graph_of
from ohmack.core.planning.step_order import (
    made_whole,
    may_be_split,
    move_step,
    moved_back,
    plan_by_practice,
    plan_with,
    split_step,
)
from ohmack.core.planning.work import mark_done, take_off
from ohmack.demo.building import measured
from ohmack.demo.jobs import demo_design


def plan_of(design: Design):
    return evaluate(design).results.work_plan


@pytest.mark.parametrize("number", [0, 12, 15, 17])
def test_a_step_is_moved_before_what_it_does_not_need_and_before_nothing_else(number: int) -> None:
    """Allowed are exactly the steps that are no ancestors of it, as networkx counts them; the new order keeps every
    need, old and new.
    """
    design = demo_design(number)
    plan = plan_of(design)
    steps = [p.step for p in plan.steps]
    graph = graph_of([Task(s.id, s.needs) for s in steps])
    tried = 0
    for here in plan.steps[:: max(1, len(steps) // 6)]:
        needed = nx.ancestors(graph, here.step.id)
        for later in plan.steps[:: max(1, len(steps) // 7)]:
            if later is here or later.done:
                continue
            if later.step.id in needed:
                with pytest.raises(NotPossible, match=f"step {later.number}: "):
                    move_step(design, plan, here.step.id, later.step.id)
                continue
            after = plan_of(apply_edits(design, move_step(design, plan, here.step.id, later.step.id)))
            places = {p.step.id: p.number for p in after.steps}
            assert places[here.step.id] < places[later.step.id]
            assert all(places[n] < p.number for p in after.steps for n in p.step.needs)
            assert {p.step.id for p in after.steps} == {s.id for s in steps}
            tried += 1
    assert tried > 3


def test_a_move_is_taken_back_kept_once_and_named_when_it_cannot_hold(estate: Design) -> None:
    plan = plan_of(estate)
    moved = apply_edits(estate, move_step(estate, plan, "lay-line-amp", "lay-power-amp"))
    again = apply_edits(moved, move_step(moved, plan_of(moved), "lay-line-amp", "lay-speaker-sub"))
    assert [(m.step, m.before) for m in again.work.moved] == [("lay-line-amp", "lay-speaker-sub")]
    assert plan_of(apply_edits(moved, moved_back(moved, "lay-line-amp"))) == plan
    vain = apply_edits(
        estate, [Edit(op="add", path="work/moved", value={"id": "m", "step": "main-fuse", "before": "dead-checks"})]
    )
    assert [p.step.id for p in plan_of(vain).steps] == [p.step.id for p in plan.steps]
    (said,) = [f for f in evaluate(vain).findings if f.rule == "step-moved-in-vain"]
    assert said.severity is Severity.WATCH
    assert "main fuse in" in said.title
    done = apply_edits(estate, mark_done(estate, plan, "try-all", True, 6.0, "d"))
    with pytest.raises(NotPossible, match="done already"):
        move_step(done, plan_of(done), "lay-power-amp", "try-all")


def test_a_step_in_two_halves_takes_as_long_and_holds_what_needed_it(estate: Design) -> None:
    plan = plan_of(estate)
    split = apply_edits(estate, split_step(estate, plan, "lay-power-amp", "To the bulkhead", "To the boot"))
    after = plan_of(split)
    steps: dict[str, Step] = {p.step.id: p.step for p in after.steps}
    whole = plan.named("lay-power-amp").step
    halves = [steps["lay-power-amp"], steps["lay-power-amp+"]]
    assert [h.what for h in halves] == ["To the bulkhead", "To the boot"]
    assert sum(h.low_min for h in halves) == whole.low_min
    assert sum(h.high_min for h in halves) == whole.high_min
    assert after.low_min == pytest.approx(plan.low_min)
    before = all_before([Task(s.id, s.needs) for s in steps.values()])
    needed_it = [p.step.id for p in plan.steps if "lay-power-amp" in p.step.needs]
    assert needed_it
    assert all({"lay-power-amp", "lay-power-amp+"} <= before[name] for name in needed_it)
    for name in needed_it:  # what else it needed stands
        others = set(plan.named(name).step.needs) - {"lay-power-amp"}
        assert set(steps[name].needs) == others | {"lay-power-amp+"}
    assert plan_of(apply_edits(split, made_whole(split, "lay-power-amp"))) == plan
    assert not may_be_split(split, after.named("lay-power-amp"))
    assert not may_be_split(split, after.named("lay-power-amp+"))
    for act in ("battery-off", "off-radio", "ground-ground-rear", "back-off-radio"):
        if plan.named(act) is not None:
            with pytest.raises(NotPossible, match="one act"):
                split_step(estate, plan, act, "a", "b")
    with pytest.raises(NotPossible, match="what is done first"):
        split_step(estate, plan, "lay-power-amp", "a", " ")


TIMES = st.lists(
    st.builds(
        Took, st.sampled_from(["lay", "gains"]), st.integers(1, 6), st.just("Brindle"),
        st.sampled_from(["Otter", "Vole"]), st.floats(1, 200),
    ),
    min_size=1, max_size=24,
)  # fmt: skip


@given(TIMES)
def test_what_steps_took_against_numpy(took: list[Took]) -> None:
    """Median and quartiles as numpy finds them, of this car's jobs alone once there are three."""
    for row in learned_times(took, "Brindle", "Otter"):
        mine = [t for t in took if t.kind == row.kind]
        same = [t for t in mine if t.model == "Otter"]
        own = len({t.job for t in same}) >= LEAST_JOBS
        counted = same if own else mine
        low, middle, high = np.percentile([t.minutes for t in counted], [25, 50, 75])
        assert (row.low_min, row.median_min, row.high_min) == pytest.approx((low, middle, high))
        assert (row.this_car, row.jobs) == (own, len({t.job for t in counted}))
        assert row.enough == (row.jobs >= LEAST_JOBS)


def test_the_work_is_planned_with_what_it_took(estate: Design) -> None:
    plan = plan_of(estate)
    took = [Took("lay-thick", n, "Other", "Car", m) for n, m in enumerate((30.0, 40.0, 60.0))]
    learned = learned_times([*took, Took("gains", 1, "Other", "Car", 99.0)], "Brindle", "Otter")
    design = apply_edits(estate, plan_with(estate, learned))
    steps = [p.step for p in plan_of(design).steps]
    thick = [s for s in steps if s.kind == "lay-thick"]
    assert [s.once_min for s in thick] == [pytest.approx((35.0, 50.0))], "of a run of five metres"
    assert next(s for s in steps if s.kind == "gains").high_min == plan.named("gains").step.high_min, "one job only"
    (times,) = [s.times for s in thick]
    grown = times * mean((35, 50)) - plan.named("lay-power-amp").step.minutes
    assert sum(s.minutes for s in steps) == pytest.approx(sum(p.step.minutes for p in plan.steps) + grown)
    assert evaluate(design).results.quote.sum_of("Labour")[0] > evaluate(estate).results.quote.sum_of("Labour")[0]
    assert plan_of(apply_edits(design, plan_by_practice(design))) == plan
    with pytest.raises(NotPossible, match="enough jobs"):
        plan_with(estate, [row for row in learned if not row.enough])
    done = apply_edits(estate, mark_done(estate, plan, "try-all", True, 7.0, "d"))
    assert [(m.kind, m.minutes) for m in done.work.marks] == [("try-all", 7.0)]


def test_a_part_that_is_not_here_is_named_at_its_step(estate: Design) -> None:
    for step in (p.step for p in plan_of(estate).steps if p.step.kind in ("fix-part", "fix-box", "box")):
        assert step.part_ids, step.id
        assert all(estate.part(name) is not None for name in step.part_ids)


def test_who_sits_on_it_is_asked_and_older_entries_go_by_their_name(estate: Design) -> None:
    """Entries from before it was asked had only a name."""
    assert TakenOff.model_validate({"id": "t", "name": "Rear seat back"}).holds_a_person
    assert not TakenOff.model_validate({"id": "t", "name": "Rear seat back", "holds_a_person": False}).holds_a_person
    values = {"name": "Bench, left bolt cover", "fasteners": 2, "holds_a_person": True}
    design = apply_edits(estate, take_off(estate, plan_of(estate), "", values, "d"))
    assert [f.severity for f in evaluate(design).findings if f.rule == "seat-bolt-torque"] == [Severity.STOP]


def test_what_is_learned_is_what_its_kind_takes_once(estate: Design) -> None:
    """Six joints took an hour: ten minutes a joint; half a step took ten: twenty the whole; putting back teaches
    nothing of taking off. By hand.
    """
    five_m = measured("links/power-amp/tape_length_m", 5.0)  # as long as the minutes of its kind are for
    estate = apply_edits(estate, [five_m])
    book, many = StepBook(evaluate(estate).results), 6.0
    book.add("join-wires", Phase.JOIN, "6 joints", "join-wires", times=many)
    joints, plan = book.steps["join-wires"], plan_of(estate)
    split = apply_edits(estate, split_step(estate, plan_of(estate), "lay-power-amp", "a", "b"))
    halves = [s.step for s in plan_of(split).steps if s.step.id.startswith("lay-power-amp")]
    back = plan_of(estate).named("back-radio").step
    marks = [
        {"id": f"m{n}", "step": step.id, "done": True, "minutes": minutes, **step.timed_as}
        for n, (step, minutes) in enumerate([(joints, 10.0 * many), (halves[0], 10.0), (halves[1], 10.0), (back, 5.0)])
    ]
    design = apply_edits(estate, [Edit(op="add", path="work/marks", value=m) for m in marks])
    assert [(m.kind, m.once_min) for m in design.work.marks] == [
        ("join-wires", 10.0), ("lay-thick", 20.0), ("lay-thick", 20.0), ("", None),
    ]  # fmt: skip
    for step in (p.step for p in plan.steps if p.step.phase is not Phase.CLOSE):
        same = [s.step.once_min for s in plan.steps if s.step.kind == step.kind and s.step.phase is not Phase.CLOSE]
        assert all(once == pytest.approx(step.once_min) for once in same), "one kind, one time"
    took = [Took("join-wires", n, "Other", "Car", 10.0) for n in range(3)]
    taught = apply_edits(estate, plan_with(estate, learned_times(took, "x", "y")))
    again = StepBook(evaluate(taught).results)
    again.add("join-wires", Phase.JOIN, "6 joints", "join-wires", times=many)
    assert (again.steps["join-wires"].low_min, again.steps["join-wires"].high_min) == (60.0, 60.0)
