"""The work as it stands: generated steps with what the shop put in, left out and did; their order and their time."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from ohmack.core.build.step_making import generated
from ohmack.core.build.steps import Phase, Step
from ohmack.core.document.work import OwnStep, StepMark, Work
from ohmack.core.physics.schedule import Circle, Placed, Task, in_order, longest_chain, placed
from ohmack.core.record import record

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


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
    everything = _with_own(generated(results), work)
    left = {s.id: marks[s.id].left_out for s in everything if s.id in marks and marks[s.id].left_out}
    steps = _without(everything, set(left))
    tasks = [Task(s.id, s.needs, s.minutes, s.people) for s in steps]
    gone = tuple((s, left[s.id]) for s in everything if s.id in left)
    by_name = {s.id: s for s in steps}
    try:
        order, chain = in_order(tasks), set(longest_chain(tasks))
        alone, two = placed(tasks, 1), placed(tasks, 2)
    except Circle as error:
        shown = tuple(PlannedStep(n, s, False, marks.get(s.id)) for n, s in enumerate(steps, 1))
        return WorkPlan(shown, gone, (), (), str(error))
    shown = tuple(PlannedStep(n, by_name[name], name in chain, marks.get(name)) for n, name in enumerate(order, 1))
    return WorkPlan(shown, gone, alone, two)


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
    return found


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
