"""The work as it stands: generated steps with what the shop put in, left out and did; their order and their time."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import TYPE_CHECKING

from ohmack.core.build.step_making import generated
from ohmack.core.build.steps import Phase, Step
from ohmack.core.document.work import OwnStep, SplitStep, StepMark, Work
from ohmack.core.physics.schedule import Circle, Placed, Task, all_needed, in_order, longest_chain, placed
from ohmack.core.record import record

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

SECOND = "+"  # ends the id of the second half of a step done in two


@record
class PlannedStep:
    """A step with its number in the order, and what happened to it."""

    number: int
    step: Step
    critical: bool  # whether no number of hands makes it wait for nothing
    mark: StepMark | None

    @property
    def done(self) -> bool:
        """Whether it is done."""
        return self.mark is not None and self.mark.done


@record
class WorkPlan:
    """All of it, in order."""

    steps: tuple[PlannedStep, ...]
    left_out: tuple[tuple[Step, str], ...]  # with the reason
    alone: tuple[Placed, ...]  # one after another
    by_two: tuple[Placed, ...]
    circle: str = ""  # why there is no order
    not_held: tuple[tuple[Step, Step], ...] = ()  # moved before what, by today's plan, it needs

    @property
    def low_min(self) -> float:
        """Hands-on time, at least [min]."""
        return sum(p.step.low_min * p.step.people for p in self.steps)

    @property
    def high_min(self) -> float:
        """Hands-on time, at most [min]."""
        return sum(p.step.high_min * p.step.people for p in self.steps)

    @property
    def two_min(self) -> float:
        """What two people need, at the middle of every range [min]."""
        return max((p.end_min for p in self.by_two), default=0.0)

    def bay_min(self, people: int) -> float:
        """How long the car stands in the bay, at the upper end of every range [min].

        Parameters:
            people: at work on it.
        """
        inside = [p.step for p in self.steps if p.step.phase is not Phase.TABLE]
        if self.circle or not inside:
            return sum(s.high_min for s in inside)
        return max(p.end_min for p in placed([Task(s.id, s.needs, s.high_min, s.people) for s in inside], people))

    @property
    def table_min(self) -> float:
        """Of it, what is done before the car comes, at the middle of the ranges [min]."""
        return sum(p.step.minutes for p in self.steps if p.step.phase is Phase.TABLE)

    @property
    def took_min(self) -> float:
        """What was logged so far [min]."""
        return sum(p.mark.minutes or 0.0 for p in self.steps if p.mark is not None)

    def named(self, step_id: str) -> PlannedStep | None:
        """A step by its id."""
        return next((p for p in self.steps if p.step.id == step_id), None)

    @property
    def ready(self) -> tuple[PlannedStep, ...]:
        """What may be begun now."""
        done = {p.step.id for p in self.steps if p.done}
        known = {p.step.id for p in self.steps}
        return tuple(p for p in self.steps if not p.done and all(n in done or n not in known for n in p.step.needs))


def work_plan(results: Results) -> WorkPlan:
    """The work of a job.

    Parameters:
        results: the evaluated plan.

    Returns:
        every step in an order in which nothing comes before what it needs; without an order, and why, where the
        shop's own steps need each other in a circle.
    """
    work = results.design.work
    marks = {mark.step: mark for mark in work.marks}
    made = generated(results)
    everything = _with_own(made, work) if made else []  # what a kind of car asks for waits for a plan
    left = {s.id: marks[s.id].left_out for s in everything if s.id in marks and marks[s.id].left_out}
    steps, not_held = _moved(_without(everything, set(left)), work)
    tasks = [Task(s.id, s.needs, s.minutes, s.people) for s in steps]
    gone = tuple((s, left[s.id]) for s in everything if s.id in left)
    by_name = {s.id: s for s in steps}
    try:
        order, chain = in_order(tasks), set(longest_chain(tasks))
        alone, two = placed(tasks, 1), placed(tasks, 2)
    except Circle as error:
        shown = tuple(PlannedStep(n, s, False, marks.get(s.id)) for n, s in enumerate(steps, 1))
        return WorkPlan(shown, gone, (), (), str(error), not_held)
    shown = tuple(PlannedStep(n, by_name[name], name in chain, marks.get(name)) for n, name in enumerate(order, 1))
    return WorkPlan(shown, gone, alone, two, not_held=not_held)


def _with_own(steps: tuple[Step, ...], work: Work) -> list[Step]:
    """The shop's own steps put in, each behind the last step it comes after."""
    found = list(steps)
    for own in work.own_steps:
        known = {s.id: n for n, s in enumerate(found)}
        last = max((known[name] for name in own.after if name in known), default=-1)
        found.insert(last + 1, _own(own, found[last].phase if last >= 0 else Phase.BEFORE))
        found = [
            replace(s, needs=(*s.needs, f"own-{own.id}")) if s.id in own.before and s.id != f"own-{own.id}" else s
            for s in found
        ]
    for split in work.splits:
        found = _split(found, split)
    return found


def _split(steps: list[Step], split: SplitStep) -> list[Step]:
    """The steps with one of them in two halves: what needed it needs the second."""
    at = next((n for n, s in enumerate(steps) if s.id == split.step), None)
    if at is None:
        return steps
    whole, then = steps[at], f"{split.step}{SECOND}"
    low, high = whole.low_min / 2, whole.high_min / 2
    half = replace(whole, what=split.first, low_min=low, high_min=high, times=whole.times / 2)
    others = [
        replace(s, needs=tuple(then if n == whole.id else n for n in s.needs)) if whole.id in s.needs else s
        for s in steps[at + 1 :]
    ]
    return [*steps[:at], half, replace(half, id=then, what=split.second, needs=(whole.id,)), *others]


def _moved(steps: list[Step], work: Work) -> tuple[list[Step], tuple[tuple[Step, Step], ...]]:
    """The steps with those moved needed by what they were put before; and the moves that cannot be held."""
    named, gone = {s.id: s for s in steps}, []
    for move in work.moved:
        step, later = named.get(move.step), named.get(move.before)
        if step is None or later is None:
            continue
        if may_come_before(list(named.values()), step.id, later.id):
            named[later.id] = replace(later, needs=(*later.needs, step.id))
        else:
            gone.append((step, later))
    return list(named.values()), tuple(gone)


def may_come_before(steps: Sequence[Step], first: str, then: str) -> bool:
    """Whether a step may be done before another: not where it needs it, by whatever way.

    Parameters:
        steps: all of them.
        first: the step to be done first.
        then: the one to be done after it.
    """
    tasks = [Task(s.id, s.needs) for s in steps]
    return first != then and then not in all_needed(tasks, first)


def _own(own: OwnStep, phase: Phase) -> Step:
    return Step(
        f"own-{own.id}", phase, own.what, "", own.after, one_shot=own.one_shot, low_min=own.minutes_low,
        high_min=max(own.minutes_low, own.minutes_high), own=True,
    )  # fmt: skip


def _without(steps: list[Step], gone: set[str]) -> list[Step]:
    """The steps but for some, whose needs go over to what needed them."""
    needs = {s.id: s.needs for s in steps}

    def reached(names: tuple[str, ...], met: frozenset[str] = frozenset()) -> list[str]:
        found: list[str] = []
        for name in names:
            if name in gone and name not in met:
                found += reached(needs.get(name, ()), met | {name})
            elif name not in gone:
                found.append(name)
        return list(dict.fromkeys(found))

    return [replace(s, needs=tuple(reached(s.needs))) for s in steps if s.id not in gone]
