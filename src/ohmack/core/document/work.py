"""The work in the bay: what was taken off and put back, steps of our own, steps done or left out."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from ohmack.core.document.facts import Identifier, Model, Name, Note
from ohmack.core.document.registry import Many

Few = Annotated[int, Field(ge=0, le=99)]
StepMinutes = Annotated[float, Field(ge=0, le=2000)]


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
    when: Name = ""
    back: bool = Field(False, title="Back on")
    fasteners_back: Few = Field(0, title="Screws back in")
    clips_back: Few = Field(0, title="Clips back in")
    plugs_back: Few = Field(0, title="Plugs back on")

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
    step: Annotated[str, Field(min_length=1, max_length=90)]
    done: bool = Field(False, title="Done")
    minutes: StepMinutes | None = Field(None, title="It took")
    left_out: Note = Field("", title="Left out, because")
    when: Name = ""


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
