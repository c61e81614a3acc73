"""The teardown for its page: what may come off, what is off, what goes back next."""

from __future__ import annotations

from ohmack.core.build.teardown import Teardown, counted, lacking
from ohmack.core.build.work_plan import PlannedStep, WorkPlan
from ohmack.core.document.work import TakenOff
from ohmack.core.wording import count
from ohmack.web.page import Page

COUNTS = ("fasteners", "clips", "clips_in_body", "plugs")


def said(name: str) -> str:
    """A field of what came off, as it is asked for."""
    return str(TakenOff.model_fields[name].title)


class TeardownView:
    """Out and in."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self.plan: WorkPlan = page.evaluation.results.work_plan
        self.state: Teardown = page.evaluation.results.teardown

    @property
    def to_take(self) -> list[PlannedStep]:
        """What is still to come off."""
        return [p for p in self.plan.steps if p.step.takes_off and p.step.id.startswith("off-") and not p.done]

    def may_begin(self, planned: PlannedStep) -> bool:
        """Whether everything it needs is done."""
        return planned in self.plan.ready

    def waits_for(self, planned: PlannedStep) -> str:
        """The first step it waits for, in words."""
        named = {p.step.id: p for p in self.plan.steps}
        first = next((named[n] for n in planned.step.needs if n in named and not named[n].done), None)
        return "" if first is None else f"{first.number}. {first.step.what}"

    @property
    def off(self) -> list[TakenOff]:
        """What is off, in the order it goes back."""
        return [item for item in self.state.reverse if not item.back]

    @property
    def back(self) -> list[TakenOff]:
        """What is back on."""
        return [item for item in self.state.items if item.back]

    counts = tuple((name, said(name)) for name in COUNTS)
    counts_in = staticmethod(counted)

    @staticmethod
    def held_by(item: TakenOff) -> str:
        """What held it, where that lies, and what was noted."""
        words = []
        if item.fasteners:
            tray = f", tray {item.tray}" if item.tray else ""
            held = f"{item.fasteners} × {item.kind}" if item.kind else count(item.fasteners, "screw")
            words.append(f"{held}{tray}.")
        if item.clips_in_body:
            words.append(f"{count(item.clips_in_body, 'clip')} in the body: pull them, put them on the panel.")
        words += [item.note[:1].upper() + item.note[1:], f"Maker's torque: {item.torque}." if item.torque else ""]
        return " ".join(w for w in words if w)

    @staticmethod
    def lacks(item: TakenOff) -> str:
        """What of it is still out."""
        return lacking(item)

    @property
    def may_not_go_back(self) -> str:
        """Why nothing is put back yet: what was not tried is not closed."""
        return self.page.evaluation.results.closing_gate
