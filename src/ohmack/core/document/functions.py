"""What the car's modules do for the driver, and what a plan does to the modules."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated

from pydantic import Field

from ohmack.core.document.facts import Fact, Identifier, Model, Name
from ohmack.core.document.registry import Gone, Ref


class FunctionKind(StrEnum):
    """A thing the factory system does besides playing music."""

    CHIMES = "chimes"
    INDICATOR = "indicator sounds"
    PARKING = "parking sensor sounds"
    HANDS_FREE = "hands-free"
    WHEEL_BUTTONS = "steering-wheel buttons"
    CAMERA = "reversing camera"
    CLOCK = "clock"
    RECEPTION = "radio reception"
    DIGITAL_RECEPTION = "digital radio reception"
    START = "start interlock"
    WARNINGS = "warning display"
    AIRBAG_LAMP = "airbag lamp"
    FADE = "fade and balance"
    CHANGER = "changer"


class CameraPicture(StrEnum):
    """What a car's camera sends, and is fed with."""

    V12 = "analogue, fed with 12 V"
    V6 = "analogue, fed with 6 V"
    DIGITAL = "digital"


class CarFunction(Model):
    """One function: where it is made, where it is heard or seen, and what else it cannot do without."""

    id: Identifier
    name: Name = ""
    kind: FunctionKind = Field(FunctionKind.CHIMES, title="Function")
    made_by_id: Annotated[Identifier, Ref("maker", Gone.GOES_TOO)] = Field(title="Made by")
    heard_at_id: Annotated[Identifier | None, Ref("heard at", empty="itself")] = Field(None, title="Heard or seen at")
    needs_ids: Annotated[tuple[Identifier, ...], Ref("maker")] = Field((), max_length=8, title="Also needs")
    has_it: Fact[bool] = Field(default_factory=Fact, title="This car has it")
    picture: Fact[CameraPicture] = Field(default_factory=Fact, title="What the camera sends")

    @property
    def title(self) -> str:
        """Its own name, or what it is."""
        return self.name or self.kind.value


class Act(StrEnum):
    """What a plan does to a module."""

    REMOVED = "taken out"
    REPLACED = "replaced"
    BYPASSED = "bypassed"


class KeepAlive(StrEnum):
    """What keeps a module's functions alive."""

    STAYS = "stays powered and connected, out of sight"
    BOARD = "its board moved and hidden"
    LOOPED = "ring looped past it"
    CENTRE = "one factory speaker left on it"
    PLUG = "shorting plug"
    INTERFACE = "interface"


class Intervention(Model):
    """What happens to the radio or a module; its id is that of the module."""

    id: Annotated[Identifier, Ref("radio or module", Gone.GOES_TOO, offered=False)]
    act: Act = Field(Act.REMOVED, title="What happens to it")
    keep_alive: tuple[KeepAlive, ...] = Field((), max_length=4, title="Kept alive by")
