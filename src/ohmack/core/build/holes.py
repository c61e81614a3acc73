"""The register of holes: every hole the work makes in the car, planned or not, with what is noted of it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ohmack.core.build.work_plan import PlannedStep
from ohmack.core.document import Design
from ohmack.core.document.work import Hole
from ohmack.core.record import record

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

LIVE = ("live/", "level/")  # checks with the fuse in
BORES = frozenset({"drill", "ground"})


@record
class HoleRow:
    """One hole: the step that makes it, what was noted of it; one of the two may be missing."""

    planned: PlannedStep | None
    noted: Hole | None
    under_power: bool = False  # whether the car has played as it was planned, which it does not without its grounds

    @property
    def key(self) -> str:
        """The step that makes it; its note's id where none does any more."""
        return self.planned.step.id if self.planned is not None else self.noted.id if self.noted is not None else ""

    @property
    def name(self) -> str:
        """Where it is, in words."""
        return self.planned.step.what if self.planned is not None else self.noted.name if self.noted is not None else ""

    @property
    def drilled(self) -> bool:
        """Whether it is in the car."""
        return self.noted is not None or (self.planned is not None and (self.planned.done or self.under_power))

    @property
    def lacks(self) -> tuple[str, ...]:
        """What nobody noted of a hole that is there."""
        if not self.drilled:
            return ()
        if self.noted is None:
            return ("how wide", "what was looked for behind it", "how it is sealed")
        told = (
            (self.noted.diameter_mm, "how wide"), (self.noted.looked_for, "what was looked for behind it"),
            (self.noted.sealed, "how it is sealed"),
        )  # fmt: skip
        return tuple(words for value, words in told if not value)


def under_power(design: Design) -> bool:
    """Whether anything was read live or tried on the road, whatever steps are ticked; practice is no car."""
    proof, hand = design.proof, design.handover
    live = any(reading.check.startswith(LIVE) for reading in proof.readings) and proof.practice is None
    return live or bool(hand.soak or hand.signatures)


def register(results: Results) -> list[HoleRow]:
    """Every hole of a job.

    Parameters:
        results: the evaluated plan.

    Returns:
        the steps that drill, in order, with the notes of each; then what was noted of holes no step makes any more.
    """
    notes = {hole.step: hole for hole in results.design.work.holes if hole.step}
    bored = [p for p in results.work_plan.steps if p.step.one_shot and p.step.kind in BORES]
    powered = under_power(results.design)
    planned = [HoleRow(p, notes.get(p.step.id), powered) for p in bored]
    known = {p.step.id for p in bored}
    return [*planned, *(HoleRow(None, hole) for hole in results.design.work.holes if hole.step not in known)]
