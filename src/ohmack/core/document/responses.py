"""Responses: level over frequency, at a tap or at the seat, before or after."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated, Self

from pydantic import Field, model_validator

from ohmack.core.document.facts import Identifier, Model, Name
from ohmack.core.document.registry import Ref


class MeasuredAt(StrEnum):
    """Where a response was taken."""

    TAP = "at the tap"
    SEAT = "at the driver's head"


class Taken(StrEnum):
    """When."""

    BEFORE = "before the work"
    AFTER = "after it"


Frequency = Annotated[float, Field(ge=1, le=48000)]
LevelDb = Annotated[float, Field(ge=-200, le=200)]


class Response(Model):
    """One response as it was read in: columns of frequency and level."""

    id: Identifier
    name: Name = Field(title="What it is")
    measured_at: MeasuredAt = Field(MeasuredAt.TAP, title="Taken")
    taken: Taken = Field(Taken.BEFORE, title="When")
    step: Name = Field("", title="Volume step")
    through_id: Annotated[Identifier | None, Ref("link", empty="no output of the plan")] = Field(
        None, title="Heard through"
    )
    hz: tuple[Frequency, ...] = Field(min_length=3, max_length=600)
    level_db: tuple[LevelDb, ...] = Field(min_length=3, max_length=600)

    @model_validator(mode="after")
    def _columns_go_together(self) -> Self:
        if len(self.hz) != len(self.level_db):
            raise ValueError(f"{len(self.hz)} frequencies and {len(self.level_db)} levels")
        if any(b <= a for a, b in zip(self.hz, self.hz[1:], strict=False)):
            raise ValueError("the frequencies do not rise")
        return self
