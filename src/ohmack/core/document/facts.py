"""Facts: a surveyed value with its basis, its plausible range or alternatives, and how it was verified."""

from __future__ import annotations

from collections.abc import Callable
from enum import StrEnum
from typing import Annotated, Any, ClassVar, Generic, Self, TypeVar, cast

from pydantic import BaseModel, ConfigDict, Field, StringConstraints, model_validator

T = TypeVar("T")


class Model(BaseModel):
    """Base of every document model: immutable, no unknown fields, no NaN or infinity."""

    ports: ClassVar[frozenset[str]] = frozenset()  # where links may begin and end at a thing of this kind

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False, validate_default=True)

    def kept(self, name: str, rests_on: Any, make: Callable[[], T]) -> T:
        """What is made of a field of this model, kept beside it; a copy with another field finds it is not its own."""
        held = self.__dict__.get(name)
        if held is None or held[0] is not rests_on:
            held = self.__dict__[name] = (rests_on, make())
        return cast(T, held[1])


class Basis(StrEnum):
    """What a value rests on, weakest first."""

    ASSUMED = "assumed"
    DOCUMENTED = "documented"
    MEASURED = "measured"

    @property
    def rank(self) -> int:
        """0 for the weakest; a figure shows the weakest it rests on."""
        return _RANK[self]

    @property
    def word(self) -> str:
        """The word on the screen."""
        return _WORD[self]


_RANK = {Basis.ASSUMED: 0, Basis.DOCUMENTED: 1, Basis.MEASURED: 2}
_WORD = {Basis.ASSUMED: "Assumed", Basis.DOCUMENTED: "From papers", Basis.MEASURED: "Measured"}


class Verified(StrEnum):
    """How a fact was verified."""

    NOT_CHECKED = "not checked"
    PAPERS = "papers"
    EYE = "by eye"
    EAR = "by ear"
    METER = "by meter"


Name = Annotated[str, StringConstraints(strip_whitespace=True, max_length=120)]
Note = Annotated[str, StringConstraints(strip_whitespace=True, max_length=2000)]
Identifier = Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9-]{0,39}$")]

Volts = Annotated[float, Field(gt=0, le=100)]
Amperes = Annotated[float, Field(gt=0, le=2000)]
Ohms = Annotated[float, Field(gt=0, le=1000)]
MeterOhms = Annotated[float, Field(ge=0, le=100_000_000)]  # zero where the probes meet, many where nothing does
BodyOhms = Annotated[float, Field(ge=0, le=1)]
BodyMetres = Annotated[float, Field(gt=0.3, le=15)]
RunMetres = Annotated[float, Field(gt=0, le=30)]
Hertz = Annotated[float, Field(gt=0, le=40000)]
SmallVolts = Annotated[float, Field(ge=0, le=100)]
SmallAmperes = Annotated[float, Field(ge=0, le=100)]
AmpereHours = Annotated[float, Field(gt=0, le=1000)]
Millimetres = Annotated[float, Field(ge=0, le=3000)]
SpaceMetres = Annotated[float, Field(gt=0, le=6)]
SizeText = Annotated[str, Field(max_length=20, pattern=r"^(\d/0|\d{1,2}) AWG$|^\d+(\.\d+)? mm2$")]
SpeakerWatts = Annotated[float, Field(gt=0, le=5000)]
Minutes = Annotated[float, Field(ge=0, le=6000)]


class Fact(Model, Generic[T]):
    """One surveyed value. `value` is None while it is not known."""

    value: T | None = None
    basis: Basis = Basis.ASSUMED
    low: T | None = None
    high: T | None = None
    alternatives: tuple[T, ...] = Field((), max_length=12)
    who: Name = ""
    when: Annotated[str, StringConstraints(pattern=r"^(\d{4}-\d{2}-\d{2})?$")] = ""
    how: Verified = Verified.NOT_CHECKED
    note: Note = ""

    @model_validator(mode="after")
    def _range_holds_value(self) -> Self:
        low, high, value = self.low, self.high, self.value
        if (low is None) != (high is None):
            raise ValueError("a range needs both ends")
        if isinstance(low, (int, float)) and isinstance(high, (int, float)):
            if low > high:
                raise ValueError(f"the range runs backwards: {low:g} to {high:g}")
            if isinstance(value, (int, float)) and not low <= value <= high:
                raise ValueError(
                    f"{value:g} lies outside its own range of {low:g} to {high:g}; change the range too, or say that it"
                    " was measured"
                )
        return self


class Position(Model):
    """A place on the car's plan: x rearwards from the nose, y from the centre line to the car's right."""

    x_m: float = Field(ge=-0.5, le=15, title="From the nose")
    y_m: float = Field(ge=-2, le=2, title="To the right of the centre line")

    @property
    def point(self) -> tuple[float, float]:
        """(x, y) in metres."""
        return (self.x_m, self.y_m)
