"""What every part has: its papers' name and price, its phase, its status, its place."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated

from pydantic import Field

from ohmack.core.document.facts import Basis, Identifier, Model, Name, Position
from ohmack.core.document.strategy import StrategyKey

Watts = Annotated[float, Field(gt=0, le=20000)]
Impedance = Annotated[float, Field(gt=0, le=64)]
Money = Annotated[float, Field(ge=0, le=1_000_000)]
LineVolts = Annotated[float, Field(gt=0, le=100)]
LineOhms = Annotated[float, Field(gt=0, le=1_000_000)]
Rejection = Annotated[float, Field(ge=0, le=120)]
SizeMm = Annotated[float, Field(gt=0, le=1500)]
Pieces = Annotated[int, Field(ge=1, le=24)]


class Phase(StrEnum):
    NOW = "now"
    LATER = "later"


class Stands(StrEnum):
    """Where a part stands."""

    WANTED = "wanted"
    ORDERED = "ordered"
    HERE = "here"
    IN_THE_CAR = "already in the car"


class PartBase(Model):
    id: Identifier
    name: Name = Field(title="Name")
    maker: Name = Field("", title="Maker")
    price: Money | None = Field(None, title="Price")
    cost_price: Money | None = Field(None, title="What the shop pays for it")
    basis: Basis = Field(Basis.DOCUMENTED, title="Data are")
    lead_days: Annotated[int, Field(ge=0, le=365)] | None = Field(None, title="Lead time, days")
    phase: Phase = Phase.NOW
    stands: Stands = Stands.WANTED
    by_customer: bool = False
    position: Position | None = None
    catalogue_id: int | None = None
    taken_as_usual: Annotated[tuple[Name, ...], Field(max_length=24)] = ()  # fields nobody has read off it yet
    laid_by: StrategyKey | None = None  # the way that put it in; None where a person chose it

    @property
    def in_car(self) -> bool:
        """Whether it was in the car before this job."""
        return self.stands is Stands.IN_THE_CAR

    @property
    def at_hand(self) -> bool:
        """Whether nothing has to be waited for: it lies here, or it is in the car already."""
        return self.stands in (Stands.HERE, Stands.IN_THE_CAR)
