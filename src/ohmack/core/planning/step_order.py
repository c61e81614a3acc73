"""The edits of the order of the work: steps moved, split, and planned with the minutes they took here."""

from __future__ import annotations

from collections.abc import Iterable

from ohmack.core.build.learned_times import Learned
from ohmack.core.build.work_plan import PlannedStep, WorkPlan, may_come_before
from ohmack.core.document import Design
from ohmack.core.document.edits import Edit
from ohmack.core.document.handles import at_the
from ohmack.core.document.ids import free_id
from ohmack.core.document.work import Work
from ohmack.core.errors import NotPossible

MOVED = at_the(Work, lambda it: it.moved)
SPLITS = at_the(Work, lambda it: it.splits)
TIMES = at_the(Work, lambda it: it.times)


def move_step(design: Design, plan: WorkPlan, step_id: str, before_id: str) -> tuple[Edit, ...]:
    """Do a step before another.

    Parameters:
        design: the design.
        plan: its work.
        step_id: what is done first.
        before_id: what it is put before.

    Returns:
        the edits; an earlier move of the step goes.

    Raises:
        NotPossible: one of them is not on the list, or the step needs what it would be put before.
    """
    here, later = plan.named(step_id), plan.named(before_id)
    if here is None:
        raise NotPossible("step", "That step is not on the list any more: the plan has changed.")
    if later is None or here is later:
        raise NotPossible("before", "Say the number of the step it is to come before.")
    if later.done:
        raise NotPossible("before", f"Step {later.number} is done already.")
    if not may_come_before([p.step for p in plan.steps], step_id, before_id):
        raise NotPossible("before", f"It needs step {later.number}: {later.step.what}. It cannot come before it.")
    tree = {"id": free_id("moved", {m.id for m in design.work.moved}), "step": step_id, "before": before_id}
    return (*moved_back(design, step_id), Edit(op="add", path=MOVED, value=tree))


def moved_back(design: Design, step_id: str) -> tuple[Edit, ...]:
    """A step is where the plan puts it."""
    return tuple(Edit(op="remove", path=f"{MOVED}/{m.id}") for m in design.work.moved if m.step == step_id)


def split_step(design: Design, plan: WorkPlan, step_id: str, first: str, second: str) -> tuple[Edit, ...]:
    """Do a step in two halves.

    Parameters:
        design: the design.
        plan: its work.
        step_id: which step.
        first: what is done first, in words.
        second: what is done then.

    Returns:
        the edit.

    Raises:
        NotPossible: no such step, one that is done or is one act (taken off, drilled, put back), words missing.
    """
    here = plan.named(step_id)
    if here is None:
        raise NotPossible("step", "That step is not on the list any more: the plan has changed.")
    if not may_be_split(design, here):
        raise NotPossible("step", "It is done, or it is one act: it cannot be split.")
    if not first.strip() or not second.strip():
        raise NotPossible("first", "Say what is done first, and what then.")
    tree = {"id": free_id("split", {s.id for s in design.work.splits}), "step": step_id, "first": first.strip()[:110],
            "second": second.strip()[:110]}  # fmt: skip
    return (Edit(op="add", path=SPLITS, value=tree),)


def may_be_split(design: Design, planned: PlannedStep) -> bool:
    """Whether a step can be done in two halves: not what is one act, is counted, is done, or is split already."""
    step = planned.step
    one_act = (
        step.one_shot or step.takes_off or step.own or step.id in ONE_ACT or step.id.startswith(("back-", "look-"))
    )
    return not one_act and not planned.done and all(step.id.rstrip("+") != s.step for s in design.work.splits)


ONE_ACT = frozenset({"battery-off", "battery-on", "main-fuse", "dead-checks", "first-power", "join-post"})


def made_whole(design: Design, step_id: str) -> tuple[Edit, ...]:
    """A split step is one again."""
    return tuple(Edit(op="remove", path=f"{SPLITS}/{s.id}") for s in design.work.splits if s.step == step_id)


def plan_with(design: Design, learned: Iterable[Learned]) -> tuple[Edit, ...]:
    """Plan with the minutes that kinds of steps took here, from quartile to quartile.

    Parameters:
        design: the design.
        learned: what was learned; kinds of too few jobs are left at common practice.

    Returns:
        the edits; what was learned before goes.

    Raises:
        NotPossible: nothing rests on enough jobs yet.
    """
    enough = [one for one in learned if one.enough]
    if not enough:
        raise NotPossible("learned", "No kind of step has been timed in enough jobs yet.")
    added = [
        {"id": f"time-{n}", "kind": one.kind, "low_min": one.low_min, "high_min": one.high_min, "jobs": one.jobs}
        for n, one in enumerate(enough, 1)
    ]
    return (*plan_by_practice(design), *(Edit(op="add", path=TIMES, value=tree) for tree in added))


def plan_by_practice(design: Design) -> tuple[Edit, ...]:
    """Plan with common practice again."""
    return tuple(Edit(op="remove", path=f"{TIMES}/{t.id}") for t in design.work.times)
