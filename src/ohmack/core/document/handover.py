"""Handing over: what was tried after the proof, who holds the car, what was heard and agreed, who signed for what."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated, Self

from pydantic import Field, model_validator

from ohmack.core.document.facts import Identifier, Model, Name, Note
from ohmack.core.document.proof import CheckId, Deviation, Reads
from ohmack.core.document.registry import Many

Across = Annotated[int, Field(ge=0, le=1000)]  # thousandths of the field's width, across and down
MOST_POINTS = 3000  # of one signature; more is a drawing


class SoakReading(Model):
    """One try of a soak check: a value, or whether it was good, and when; a later one never overwrites it."""

    id: Identifier
    check: CheckId
    value: Reads | None = Field(None, title="Reads")
    passed: bool | None = Field(None, title="Good")
    when: Annotated[str, Field(pattern=r"^\d{4}-\d{2}-\d{2}T\d{2}:\d{2}$")] = Field(title="When")
    who: Name = Field("", title="By")
    note: Note = Field("", title="Note")

    @model_validator(mode="after")
    def _says_something(self) -> Self:
        if self.value is None and self.passed is None:
            raise ValueError("a reading says a value, or whether it is good")
        return self


class Hold(Model):
    """Somebody keeps the car here: who, and why."""

    id: Identifier
    by: Name = Field(min_length=1, title="Held by")
    reason: Note = Field(min_length=3, title="Because")
    when: Name = ""


class Met(StrEnum):
    """What the customer says of a wish, having heard the result."""

    YES = "as wished"
    PARTLY = "in part"
    NO = "not as wished"


class Heard(Model):
    """What the customer said of one wish."""

    id: Identifier
    wish: CheckId
    met: Met = Field(title="The customer says")
    words: Note = Field("", title="In the customer's words")
    when: Name = ""


class OpenPoint(Model):
    """Something that is left to do, as somebody wrote it down."""

    id: Identifier
    what: Name = Field(min_length=3, title="What is left")
    whose: Name = Field("", title="Whose it is")


class Stroke(Model):
    """One line of the pen: points across and down, in thousandths of the field's width."""

    points: tuple[tuple[Across, Across], ...] = Field(min_length=1, max_length=MOST_POINTS)


class Signature(Model):
    """The customer took the car: name, perhaps the hand, and the very revision it holds for."""

    id: Identifier
    by: Name = Field(min_length=2, title="Name")
    revision: Annotated[int, Field(ge=1, le=1_000_000)]
    digest: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]  # of the design as signed, SHA-256
    drawn: tuple[Stroke, ...] = Field((), max_length=300)
    when: Name = ""

    @model_validator(mode="after")
    def _is_no_drawing(self) -> Self:
        if sum(len(stroke.points) for stroke in self.drawn) > MOST_POINTS:
            raise ValueError(f"a signature has at most {MOST_POINTS} points")
        return self


class HandOver(Model):
    """The hand-over of one job."""

    soak: Annotated[tuple[SoakReading, ...], Many("soak reading", "soak readings", shared=False)] = Field(
        (), max_length=400
    )
    accepted: Annotated[tuple[Deviation, ...], Many("accepted soak check", "accepted soak checks", shared=False)] = (
        Field((), max_length=60)
    )
    holds: Annotated[tuple[Hold, ...], Many("hold", "holds", shared=False)] = Field((), max_length=20)
    heard: Annotated[tuple[Heard, ...], Many("thing heard", "things heard", shared=False)] = Field((), max_length=100)
    open_points: Annotated[tuple[OpenPoint, ...], Many("open point", "open points", shared=False)] = Field(
        (), max_length=60
    )
    signatures: Annotated[tuple[Signature, ...], Many("signature", "signatures", shared=False)] = Field(
        (), max_length=20
    )
    come_back: Name = Field("", title="Comes back")
    call: Name = Field("", title="Whom to call when it stops")
