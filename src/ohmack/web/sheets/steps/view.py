"""The steps for their page, phase by phase."""

from __future__ import annotations

from ohmack.core.build.learned_times import Learned
from ohmack.core.build.steps import Phase, Step
from ohmack.core.build.work_plan import PlannedStep, WorkPlan
from ohmack.core.document.part import Stands
from ohmack.core.planning.step_order import may_be_split
from ohmack.core.reference import table
from ohmack.core.wording import count, listed, numbered, time_span
from ohmack.web.page import Page

WAITS = {Stands.WANTED: "not ordered yet", Stands.ORDERED: "ordered, not here"}


class StepsView:
    """What is to be done, in order."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self.plan: WorkPlan = page.evaluation.results.work_plan

    @property
    def phases(self) -> list[tuple[str, list[PlannedStep]]]:
        """(heading, steps) of every phase, in the order of the steps."""
        found: list[tuple[Phase, list[PlannedStep]]] = []
        for planned in self.plan.steps:
            if not found or found[-1][0] is not planned.step.phase:
                found.append((planned.step.phase, []))
            found[-1][1].append(planned)
        return [(phase.words, steps) for phase, steps in found]

    @property
    def next_one(self) -> PlannedStep | None:
        """The first step that may be begun."""
        return next(iter(self.plan.ready), None)

    def may_begin(self, planned: PlannedStep) -> bool:
        """Whether everything it needs is done."""
        return planned in self.plan.ready

    def counted_out(self, planned: PlannedStep) -> bool:
        """Whether a step puts back what was counted out, so that it is counted in."""
        off = planned.step.id.replace("back-", "off-", 1) if planned.step.id.startswith("back-") else ""
        return bool(off) and any(t.step == off for t in self.page.design.work.taken)

    def waits_for(self, step: Step) -> str:
        """The parts it needs that are not here, in words."""
        parts = [p for name in step.part_ids if (p := self.page.design.part(name)) is not None and not p.at_hand]
        waits: dict[str, list[str]] = {}
        for part in parts:
            waits.setdefault(WAITS[part.stands], []).append(part.name)
        return listed([f"{listed(names)} {'is' if len(names) == 1 else 'are'} {how}" for how, names in waits.items()])

    def moved(self, step: Step) -> str:
        """The step it was put before, by number; empty where it was not."""
        before = next((m.before for m in self.page.design.work.moved if m.step == step.id), "")
        found = self.plan.named(before)
        return "" if found is None else str(found.number)

    def split(self, step: Step) -> bool:
        """Whether it is the first half of a step in two."""
        return any(s.step == step.id for s in self.page.design.work.splits)

    def may_be_split(self, planned: PlannedStep) -> bool:
        """Whether it can be done in two halves."""
        return may_be_split(self.page.design, planned)

    @property
    def learned(self) -> list[tuple[Learned, str]]:
        """(what a kind of step took here, what is planned) of the kinds this job has steps of."""
        kinds = {p.step.kind: p.step for p in self.plan.steps if p.step.timed_as["kind"]}
        rows = self.page.extra.get("learned", [])
        return [(row, time_span(*kinds[row.kind].once_min)) for row in rows if row.kind in kinds]

    @staticmethod
    def kind_words(kind: str) -> str:
        """A kind of step, in words."""
        return str(table("steps", "names")[kind])

    @staticmethod
    def minutes(step: Step) -> str:
        """Its range, in words."""
        return time_span(step.low_min, step.high_min)

    def after(self, step: Step) -> str:
        """What it needs, by number."""
        named = {p.step.id: p.number for p in self.plan.steps}
        return numbered(named[name] for name in step.needs if name in named)

    @property
    def hands_on(self) -> str:
        """All of it, in words."""
        return time_span(self.plan.low_min, self.plan.high_min)

    @property
    def stands_for(self) -> str:
        """How long the car stands in the bay, in words."""
        booking = self.page.design.work.booking
        minutes = self.plan.bay_min(booking.people if booking is not None else 1)
        return time_span(minutes, minutes)

    @property
    def done_words(self) -> str:
        """How many are done."""
        done = sum(p.done for p in self.plan.steps)
        return f"{done} of {count(len(self.plan.steps), 'step')} done"

    @property
    def choices(self) -> list[tuple[str, str]]:
        """(id, words) of every step, for a step of one's own to come after or before."""
        return [(p.step.id, f"{p.number}. {p.step.what[:60]}") for p in self.plan.steps]
