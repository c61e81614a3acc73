"""The work in the bay: what was taken off and put back, steps of our own, steps done or left out."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated, Any, Self

from pydantic import Field, model_validator

from ohmack.core.document.facts import Identifier, Model, Name, Note
from ohmack.core.document.part import Stands
from ohmack.core.document.registry import Many

Few = Annotated[int, Field(ge=0, le=99)]
StepMinutes = Annotated[float, Field(ge=0, le=2000)]
StepId = Annotated[str, Field(min_length=1, max_length=90)]
WorkMm = Annotated[float, Field(gt=0, le=2000)]


class TakenOff(Model):
    """One thing that came off the car: what held it, and what of that is back in."""

    id: Identifier
    step: Annotated[str, Field(max_length=90)] = ""  # the step it belongs to; empty for what nobody planned
    name: Name = Field(title="What came off")
    fasteners: Few = Field(0, title="Screws, bolts, nuts")
    kind: Name = Field("", title="Size and kind")
    tray: Name = Field("", title="Tray")
    clips: Few = Field(0, title="Clips on the panel")
    clips_in_body: Few = Field(0, title="Clips left in the body")
    plugs: Few = Field(0, title="Plugs pulled")
    note: Note = Field("", title="Note")
    torque: Name = Field("", title="Maker's torque")
    holds_a_person: bool = Field(False, title="A seat or a belt")
    when: Name = ""
    back: bool = Field(False, title="Back on")
    fasteners_back: Few = Field(0, title="Screws back in")
    clips_back: Few = Field(0, title="Clips back in")
    plugs_back: Few = Field(0, title="Plugs back on")

    @model_validator(mode="before")
    @classmethod
    def _asked_since(cls, tree: Any) -> Any:
        """Entries from before it was asked go by their name."""
        if isinstance(tree, dict) and "holds_a_person" not in tree:
            name = str(tree.get("name", "")).lower()
            return {**tree, "holds_a_person": "seat" in name or "belt" in name}
        return tree

    @property
    def clips_out(self) -> int:
        """All its clips, wherever they stayed."""
        return self.clips + self.clips_in_body


class OwnStep(Model):
    """A step the shop put in."""

    id: Identifier
    what: Name = Field(title="What is to be done")
    after: tuple[Annotated[str, Field(max_length=90)], ...] = Field((), max_length=20, title="After")
    before: tuple[Annotated[str, Field(max_length=90)], ...] = Field((), max_length=20, title="Before")
    minutes_low: StepMinutes = Field(5.0, title="Minutes, at least")
    minutes_high: StepMinutes = Field(15.0, title="Minutes, at most")
    one_shot: bool = Field(False, title="Cannot be undone")


class StepMark(Model):
    """What happened to a step: done in so many minutes, or left out for a reason."""

    id: Identifier
    step: StepId
    kind: Name = ""  # of the step as it was done, whose minutes the shop learns from
    times: Annotated[float, Field(gt=0, le=500)] = 1.0  # how many times over what its kind takes
    done: bool = Field(False, title="Done")
    minutes: StepMinutes | None = Field(None, title="It took")
    left_out: Note = Field("", title="Left out, because")
    when: Name = ""

    @property
    def once_min(self) -> float | None:
        """What its kind took once; None where nothing is learned from it [min]."""
        return self.minutes / self.times if self.done and self.kind and self.minutes is not None else None


class MovedStep(Model):
    """A step that is done before another it was listed behind."""

    id: Identifier
    step: StepId
    before: StepId


class SplitStep(Model):
    """A step done in two halves."""

    id: Identifier
    step: StepId
    first: Name = Field(title="First")
    second: Name = Field(title="Then")


class KindMinutes(Model):
    """What a kind of step takes here, as the shop's own jobs have shown it."""

    id: Identifier
    kind: Name
    low_min: StepMinutes
    high_min: StepMinutes
    jobs: Annotated[int, Field(ge=1, le=100_000)]


class Hole(Model):
    """A hole that was made in the car."""

    id: Identifier
    step: Annotated[str, Field(max_length=90)] = ""  # empty for one that nobody planned
    name: Name = Field(title="Where")
    diameter_mm: WorkMm | None = Field(None, title="How wide")
    looked_for: Note = Field("", title="Looked for behind it")
    sealed: Note = Field("", title="Sealed with")
    undone_by: Note = Field("", title="Could be undone by")
    when: Name = ""


class OpeningKind(StrEnum):
    """What is cut, at full size."""

    RECTANGLE = "rectangular opening in a trim"
    ROUND = "round opening"
    RING = "ring"
    HOLES = "four holes of a bracket"


class Opening(Model):
    """Something the shop cuts by a template of its own."""

    id: Identifier
    name: Name = Field(title="What for")
    kind: OpeningKind = Field(OpeningKind.RECTANGLE, title="Shape")
    width_mm: WorkMm = Field(title="Width, diameter or spacing")
    height_mm: WorkMm | None = Field(None, title="Height or spacing the other way")
    inner_mm: WorkMm | None = Field(None, title="Inner diameter of a ring, or of the holes")
    gap_mm: Annotated[float, Field(ge=0, le=50)] = Field(0.0, title="Gap left on each side")
    corner_mm: Annotated[float, Field(ge=0, le=200)] = Field(0.0, title="Corner radius")

    @property
    def trouble(self) -> str:
        """Why it cannot be drawn; empty where it can."""
        least_mm = min(self.width_mm, self.height_mm or self.width_mm)
        if self.kind in (OpeningKind.RING, OpeningKind.HOLES) and (self.inner_mm or 0.0) >= least_mm:
            return "What is inside must be smaller than what is around it."
        if self.kind is OpeningKind.RECTANGLE and self.corner_mm > least_mm / 2 + self.gap_mm:
            return "The corners are rounder than the sides are long."
        return ""

    @model_validator(mode="after")
    def _can_be_drawn(self) -> Self:
        if self.trouble:
            raise ValueError(self.trouble)
        return self


class Booking(Model):
    """When the car comes, into which bay, and when it must be ready."""

    bay: Annotated[int, Field(ge=1, le=12)] = Field(1, title="Bay")
    starts: Annotated[str, Field(pattern=r"^$|^\d{4}-\d{2}-\d{2}T\d{2}:\d{2}$")] = Field("", title="Comes in")
    due: Annotated[str, Field(pattern=r"^$|^\d{4}-\d{2}-\d{2}$")] = Field("", title="Ready by")
    people: Annotated[int, Field(ge=1, le=2)] = Field(1, title="At work on it")


Cents = Annotated[int, Field(ge=-10_000_000_00, le=10_000_000_00)]


class QuotedLine(Model):
    """A line of a quote as it was accepted, in cents."""

    key: Annotated[str, Field(min_length=1, max_length=90)]
    what: Name
    low_cents: Cents
    high_cents: Cents


class Accepted(Model):
    """The quote somebody said yes to."""

    by: Name = Field("", title="Accepted by")
    when: Name = ""
    reason: Note = Field("", title="Changed, because")
    lines: tuple[QuotedLine, ...] = Field((), max_length=400)


class Work(Model):
    """The work of one job."""

    taken: Annotated[tuple[TakenOff, ...], Many("thing taken off", "things taken off", shared=False)] = Field(
        (), max_length=120
    )
    own_steps: Annotated[tuple[OwnStep, ...], Many("own step", "own steps", shared=False)] = Field((), max_length=60)
    marks: Annotated[tuple[StepMark, ...], Many("step mark", "step marks", shared=False)] = Field((), max_length=500)
    accepted: Accepted | None = None
    moved: Annotated[tuple[MovedStep, ...], Many("moved step", "moved steps", shared=False)] = Field((), max_length=100)
    splits: Annotated[tuple[SplitStep, ...], Many("split step", "split steps", shared=False)] = Field((), max_length=60)
    times: Annotated[tuple[KindMinutes, ...], Many("learned time", "learned times", shared=False)] = Field(
        (), max_length=80
    )
    holes: Annotated[tuple[Hole, ...], Many("hole", "holes", shared=False)] = Field((), max_length=100)
    openings: Annotated[tuple[Opening, ...], Many("opening", "openings", shared=False)] = Field((), max_length=60)
    booking: Booking | None = None
    materials: Stands = Field(Stands.WANTED, title="Wire, fuses and small parts")
