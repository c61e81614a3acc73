"""What comes out of the car in this job: parts and cables that were there, joints undone, holes closed."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated

from pydantic import Field

from ohmack.core.document.facts import Identifier, Model, Name, Position
from ohmack.core.document.registry import Ref


class Goes(StrEnum):
    """What is done with it."""

    PART = "part out"
    CABLE = "cable out"
    JOINT = "joint undone"
    HOLE = "hole closed"


class Whereabouts(StrEnum):
    """Where a thing of the car's own is that goes back in."""

    UNKNOWN = "nobody said"
    HERE = "here"
    GONE = "not there any more"


class Outgoing(Model):
    """One thing that comes out of the car, or is made as it was; no electrical part of the plan any more."""

    id: Identifier
    goes: Goes
    name: Name = Field(title="What")
    place: Name = Field("", title="Out of")
    speaker_id: Annotated[Identifier | None, Ref("speaker", offered=False)] = None  # whose place or leads it is about
    splices: Annotated[int, Field(ge=0, le=40)] = 0  # wires that are joined again
    is_battery: bool = False  # one that an earlier job put beside the first
    is_radio: bool = False  # a radio that took the place of the car's own
    live: bool = Field(False, title="Begins at a battery or a feed of the car")
    stays: bool = Field(False, title="Stays, both its ends cut back and insulated")
    position: Position | None = None
    way: tuple[Position, ...] = Field((), max_length=60)
    instead: Name = Field("", title="Goes back in its place")
    instead_is: Whereabouts = Field(Whereabouts.UNKNOWN, title="That is")

    @property
    def returns(self) -> str:
        """What goes back in its place, and where that is; empty where nothing does."""
        return f"{self.instead[:1].upper()}{self.instead[1:]}: {self.instead_is.value}" if self.instead else ""

    @property
    def called(self) -> str:
        """What it is and out of which place."""
        return f"{self.name}, {self.place}" if self.place else self.name
