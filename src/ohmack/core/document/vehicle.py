"""The vehicle: body, supply, factory radio, speakers, feeds, ground points, ways through the bulkhead."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated

from pydantic import Field

from ohmack.core.document.facts import (
    Amperes,
    BodyMetres,
    BodyOhms,
    Fact,
    Hertz,
    Identifier,
    Model,
    Name,
    Ohms,
    Position,
    Volts,
)


class Body(StrEnum):
    HATCH = "hatch"
    SALOON = "saloon"
    ESTATE = "estate"
    PICKUP = "pickup"
    VAN = "van"
    TWO_SEATER = "two-seater"
    BUS = "bus"
    CART = "cart"


class Hand(StrEnum):
    LEFT = "left"
    RIGHT = "right"


class Powertrain(StrEnum):
    COMBUSTION = "combustion"
    HYBRID = "hybrid"
    ELECTRIC = "electric"


class Tier(StrEnum):
    """What kind of factory system the car has."""

    PLAIN = "plain radio"
    AMPLIFIED = "radio with amplifier"
    RING = "digital or optical ring"


class SystemVoltage(StrEnum):
    V6 = "6 V"
    V12 = "12 V"
    V24 = "24 V"
    PACK = "36 or 48 V pack"


class SupplyKind(StrEnum):
    ALTERNATOR = "alternator"
    SMART = "smart alternator"
    DC_DC = "DC-DC converter"


class KeyState(StrEnum):
    ASLEEP = "asleep"
    DOOR_OPEN = "door open"
    BUS_AWAKE = "bus awake"
    ACCESSORY = "accessory"
    ON = "on"
    CRANKING = "cranking"


class StatedAs(StrEnum):
    RMS = "rms"
    PEAK = "peak"


class GroundKind(StrEnum):
    STUD = "bare-metal stud"
    FACTORY_BOLT = "factory ground bolt"
    SELF_TAPPING = "self-tapping screw"
    BATTERY = "battery negative"
    SEAT_BOLT = "seat bolt"
    BELT_BOLT = "seat-belt bolt"


LiveStates = tuple[KeyState, ...]
FEED_PATTERNS: dict[str, LiveStates] = {
    "constant": tuple(KeyState),
    "with the bus": (KeyState.DOOR_OPEN, KeyState.BUS_AWAKE, KeyState.ACCESSORY, KeyState.ON),
    "accessory": (KeyState.ACCESSORY, KeyState.ON),
    "ignition": (KeyState.ON, KeyState.CRANKING),
    "dead": (),
}


def feed_pattern(states: LiveStates) -> str:
    """The name of a feed's table over key states, or the states themselves where it has none."""
    for name, pattern in FEED_PATTERNS.items():
        if set(pattern) == set(states):
            return name
    return ", ".join(states)


class Battery(Model):
    id: Identifier
    name: Name = "Battery"
    position: Position
    cca_a: Fact[Amperes] = Field(default_factory=Fact, title="Cold cranking amps")


class Supply(Model):
    kind: SupplyKind = Field(SupplyKind.ALTERNATOR, title="Charging by")
    batteries: tuple[Battery, ...] = Field(min_length=1, max_length=4)
    system: Fact[SystemVoltage] = Field(default_factory=Fact, title="System voltage")
    positive_ground: Fact[bool] = Field(default_factory=Fact, title="Positive pole on the body")
    post_running_v: Fact[Volts] = Field(default_factory=Fact, title="Battery post, engine running")
    post_traffic_v: Fact[Volts] = Field(default_factory=Fact, title="Battery post, in traffic")
    post_resting_v: Fact[Volts] = Field(default_factory=Fact, title="Battery post, resting")
    alternator_rating_a: Fact[Amperes] = Field(default_factory=Fact, title="Alternator rating")
    dc_dc_limit_a: Fact[Amperes] = Field(default_factory=Fact, title="DC-DC converter limit")
    body_return_ohm: Fact[BodyOhms] = Field(default_factory=Fact, title="Body return, ground point to battery")
    battery_strap_ohm: Fact[BodyOhms] = Field(default_factory=Fact, title="Battery strap to the body")


class RadioChannel(Model):
    """One output pair: position + band + mix."""

    id: Identifier
    name: Name
    pair_colours: Name = Field("", title="Pair colours")


class Radio(Model):
    id: Identifier = "radio"
    name: Name = "Factory radio"
    position: Position
    tier: Fact[Tier] = Field(default_factory=Fact, title="Factory system")
    source_voltage_v: Fact[Volts] = Field(default_factory=Fact, title="Speaker output at the last clean step")
    source_stated_as: StatedAs = Field(StatedAs.RMS, title="Output stated as")
    clip_step: Fact[Name] = Field(default_factory=Fact, title="Last clean volume step")
    bridged: Fact[bool] = Field(default_factory=Fact, title="Outputs bridged (neither wire is ground)")
    tap_low_hz: Fact[Hertz] = Field(default_factory=Fact, title="Signal at the tap reaches down to")
    channels: tuple[RadioChannel, ...] = Field((), max_length=16)


class Speaker(Model):
    id: Identifier
    name: Name
    position: Position
    channel_id: Identifier | None = None
    size: Name = ""
    impedance_ohm: Fact[Ohms] = Field(default_factory=Fact, title="Nominal impedance")
    dc_resistance_ohm: Fact[Ohms] = Field(default_factory=Fact, title="DC resistance read")


class Feed(Model):
    """A factory feed with its table over the key states."""

    id: Identifier
    name: Name
    position: Position
    live: Fact[LiveStates] = Field(default_factory=Fact, title="Live in which key states")
    limit_a: Fact[Amperes] = Field(default_factory=Fact, title="Can give")


class GroundPoint(Model):
    id: Identifier
    name: Name
    position: Position
    kind: Fact[GroundKind] = Field(default_factory=Fact, title="Kind of ground point")


class Passage(Model):
    """A way through the bulkhead."""

    id: Identifier
    name: Name
    position: Position
    needs_drilling: Fact[bool] = Field(default_factory=Fact, title="Needs drilling")


class Vehicle(Model):
    make: Name
    model: Name
    year: Annotated[int, Field(ge=1930, le=2100)] | None = Field(None, title="Model year")
    body: Body = Field(Body.HATCH, title="Body")
    hand_of_drive: Hand = Field(Hand.RIGHT, title="Hand of drive")
    powertrain: Powertrain = Field(Powertrain.COMBUSTION, title="Powertrain")
    length_m: Fact[BodyMetres] = Field(default_factory=Fact, title="Length")
    width_m: Fact[BodyMetres] = Field(default_factory=Fact, title="Width")
    wheelbase_m: Fact[BodyMetres] = Field(default_factory=Fact, title="Wheelbase")
    seat_airbags: Fact[bool] = Field(default_factory=Fact, title="Airbags in the seats")
    supply: Supply
    radio: Radio
    speakers: tuple[Speaker, ...] = Field((), max_length=40)
    feeds: tuple[Feed, ...] = Field((), max_length=40)
    ground_points: tuple[GroundPoint, ...] = Field((), max_length=40)
    passages: tuple[Passage, ...] = Field((), max_length=20)

    @property
    def title(self) -> str:
        """Make, model, body and year on one line."""
        year = f", {self.year}" if self.year else ""
        return f"{self.make} {self.model}, {self.body.value}{year}"
