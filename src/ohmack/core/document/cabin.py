"""What is inside the body besides the audio: zones to keep clear of, spaces to fill, what an earlier owner did."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated

from pydantic import Field

from ohmack.core.document.facts import Fact, Identifier, Minutes, Model, Name, Note, Position, SpaceMetres
from ohmack.core.document.registry import Ref

ZoneMetres = Annotated[float, Field(gt=0, le=6)]


class ZoneKind(StrEnum):
    PEDALS = "pedals"
    STEERING = "steering column"
    AIRBAG = "airbag"
    SEAT_RAIL = "seat rail"
    HINGE = "folding hinge"
    ANCHOR = "child-seat anchor"
    HEAT = "exhaust and heat"
    ROOF = "folding roof"


class Zone(Model):
    """A place no cable or box may be in the way of: a rectangle on the plan."""

    id: Identifier
    kind: ZoneKind = Field(ZoneKind.AIRBAG, title="Kind of zone")
    name: Name
    position: Position
    length_m: ZoneMetres = Field(0.3, title="Length along the car")
    width_m: ZoneMetres = Field(0.3, title="Width across the car")
    present: Fact[bool] = Field(default_factory=Fact, title="Really there")

    @property
    def folds_away(self) -> bool:
        """Whether a roof that folds lies there."""
        return self.kind is ZoneKind.ROOF and self.present.value is not False


class Space(Model):
    """A space a box or an amplifier may take: a block on the plan with its height, and the way in."""

    id: Identifier
    name: Name
    position: Position
    length_m: Fact[SpaceMetres] = Field(default_factory=Fact, title="Space along the car")
    width_m: Fact[SpaceMetres] = Field(default_factory=Fact, title="Space across the car")
    height_m: Fact[SpaceMetres] = Field(default_factory=Fact, title="Space in height")
    opening_width_m: Fact[SpaceMetres] = Field(default_factory=Fact, title="Way in, width")
    opening_height_m: Fact[SpaceMetres] = Field(default_factory=Fact, title="Way in, height")


class AlterationKind(StrEnum):
    CUT = "cut wire"
    SPLICE = "old splice"
    DEAD_END = "dead end"
    ADDED = "added module"
    FAILED_ADAPTER = "adapter that failed"
    MISSING = "missing plug"
    MIXED_COLOURS = "mixed colours"


class FailureCause(StrEnum):
    """Why an adapter failed."""

    SUPPLY = "its feed or ground"
    WAKE = "its switch-on"
    BUS = "the data bus"
    WET = "heat or damp"
    ITSELF = "the adapter itself"


class Alteration(Model):
    """What an earlier owner did, and the extra work it makes."""

    id: Identifier
    name: Name
    kind: AlterationKind = Field(AlterationKind.CUT, title="What was done")
    position: Position
    about_id: Annotated[Identifier | None, Ref("thing", empty="nothing in the plan")] = Field(None, title="Concerns")
    work_min: Fact[Minutes] = Field(default_factory=Fact, title="Extra work")
    cause: Fact[FailureCause] = Field(default_factory=Fact, title="Why it failed")
    note: Note = Field("", title="What was found")
