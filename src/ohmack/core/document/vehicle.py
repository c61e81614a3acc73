"""The vehicle: body, supply, factory radio, speakers, feeds, ground points, ways through the bulkhead."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from ohmack.core.document.cabin import Alteration, Space, Zone
from ohmack.core.document.factory import (
    Answer,
    FactoryLink,
    Module,
    Radio,
    RadioChannel,
    StepReading,
    Tell,
    Tier,
    Variant,
)
from ohmack.core.document.facts import (
    AmpereHours,
    Amperes,
    BodyMetres,
    BodyOhms,
    Fact,
    Identifier,
    Millimetres,
    Model,
    Name,
    Ohms,
    Position,
    RunMetres,
    SizeText,
    SmallAmperes,
    SpeakerWatts,
    Volts,
)
from ohmack.core.document.functions import CarFunction
from ohmack.core.document.harness import Connector, Hunt
from ohmack.core.document.registry import Gone, Many, One, Ref, Survey
from ohmack.core.document.responses import Response
from ohmack.core.wording import without_engine


class Body(StrEnum):
    HATCH = "hatch"
    SALOON = "saloon"
    ESTATE = "estate"
    COUPE = "coupé"
    PICKUP = "pickup"
    EXTENDED_CAB = "extended-cab pickup"
    TRUCK = "single-cab truck"
    VAN = "van"
    TWO_SEATER = "two-seater"
    ROADSTER = "roadster"
    BUS = "minibus"
    CART = "cart"
    SUV = "SUV"
    PEOPLE_CARRIER = "people carrier"
    CONVERTIBLE = "convertible"

    @classmethod
    def _missing_(cls, value: object) -> Body | None:
        """Designs of before say "bus" for a minibus."""
        return cls.BUS if value == "bus" else None


class Hand(StrEnum):
    LEFT = "left"
    RIGHT = "right"


class Powertrain(StrEnum):
    COMBUSTION = "combustion"
    HYBRID = "hybrid"
    ELECTRIC = "electric"


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


class BatteryRole(StrEnum):
    STARTER = "starter"
    LEISURE = "leisure"


class SplitCharging(StrEnum):
    """How a second battery is charged."""

    NONE = "not at all"
    RELAY = "relay"
    DIODE = "diode isolator"
    CHARGER = "DC-DC charger"
    FOR_GOOD = "joined for good"


class CrankingStandard(StrEnum):
    """By which standard a battery's cold cranking amps are printed on it."""

    SAE = "SAE"
    EN = "EN"
    DIN = "DIN"


class Battery(Model):
    """A battery. The first one's post voltages are the supply's; a second battery has its own."""

    ports = frozenset({"positive", "negative"})
    id: Identifier
    name: Name = "Battery"
    position: Position
    role: BatteryRole = Field(BatteryRole.STARTER, title="What it is for")
    cca_a: Fact[Amperes] = Field(default_factory=Fact, title="Cold cranking amps")
    cranking_standard: CrankingStandard = Field(CrankingStandard.SAE, title="Cranking amps stated by")
    capacity_ah: Fact[AmpereHours] = Field(default_factory=Fact, title="Capacity, 20 h rate")
    own_running_v: Fact[Volts] = Field(default_factory=Fact, title="Its own post, engine running")
    own_resting_v: Fact[Volts] = Field(default_factory=Fact, title="Its own post, resting")
    cut_off_v: Fact[Volts] = Field(default_factory=Fact, title="Low-voltage cut-off opens at")


class Supply(Model):
    kind: SupplyKind = Field(SupplyKind.ALTERNATOR, title="Charging by")
    batteries: Annotated[tuple[Battery, ...], Many("battery", "batteries")] = Field(min_length=1, max_length=4)
    system: Fact[SystemVoltage] = Field(default_factory=Fact, title="System voltage")
    positive_ground: Fact[bool] = Field(default_factory=Fact, title="Positive pole on the body")
    post_running_v: Fact[Volts] = Field(default_factory=Fact, title="Battery post, engine running")
    post_traffic_v: Fact[Volts] = Field(default_factory=Fact, title="Battery post, in traffic")
    post_resting_v: Fact[Volts] = Field(default_factory=Fact, title="Battery post, resting")
    post_cranking_v: Fact[Volts] = Field(default_factory=Fact, title="Battery post, cranking")
    post_loaded_v: Fact[Volts] = Field(default_factory=Fact, title="Battery post, idling with everything on")
    standby_current_a: Fact[SmallAmperes] = Field(default_factory=Fact, title="Standby current, all asleep")
    split_charging: Fact[SplitCharging] = Field(default_factory=Fact, title="Second battery charged by")
    alternator_rating_a: Fact[Amperes] = Field(default_factory=Fact, title="Alternator rating")
    alternator_idle_a: Fact[Amperes] = Field(default_factory=Fact, title="Alternator at idle")
    dc_dc_limit_a: Fact[Amperes] = Field(default_factory=Fact, title="DC-DC converter limit")
    car_draw_a: Fact[Amperes] = Field(default_factory=Fact, title="Car's own draw, everything on")
    key_on_a: Fact[Amperes] = Field(default_factory=Fact, title="Car's own draw, radio on, engine off")
    body_return_ohm: Fact[BodyOhms] = Field(default_factory=Fact, title="Body return, ground point to battery")
    battery_strap_ohm: Fact[BodyOhms] = Field(default_factory=Fact, title="Battery strap to the body")


class SpeakerPlace(StrEnum):
    DOOR = "door"
    DASH = "dash"
    PILLAR = "pillar or mirror corner"
    SIDE = "side panel"
    SHELF = "rear shelf"
    BOOT = "boot"
    HEADREST = "headrest"
    CEILING = "ceiling"
    BOX = "box of its own"


SMALL_PLACES = (SpeakerPlace.DASH, SpeakerPlace.PILLAR)  # what is made for them carries no bass, common practice
PLUGS_FROM = 1985  # model years from which radios have plugs that adapters are sold for, common practice
MIDDLE_M = 0.15  # so near to the centre line a speaker belongs to neither side


class Speaker(Model):
    ports = frozenset({"coils"})
    id: Identifier
    name: Name
    position: Position
    channel_id: Annotated[Identifier | None, Ref("channel", empty="nothing known")] = Field(None, title="Driven by")
    paired_with_id: Annotated[Identifier | None, Ref("speaker", empty="none")] = Field(None, title="Paired with")
    pairing: Literal["parallel", "series"] = Field("parallel", title="Wired to its pair in")
    place: SpeakerPlace = Field(SpeakerPlace.DOOR, title="Sits in")
    size: Name = Field("", title="Size")
    new_place: bool = Field(False, title="New place, the car had no speaker here")
    tweeter: bool = Field(False, title="The car's own there is a tweeter")
    left_silent: bool = Field(False, title="Left silent on purpose")
    impedance_ohm: Fact[Ohms] = Field(default_factory=Fact, title="Nominal impedance")
    takes_w: Fact[SpeakerWatts] = Field(default_factory=Fact, title="RMS power it takes")
    dc_resistance_ohm: Fact[Ohms] = Field(default_factory=Fact, title="DC resistance read")
    own_capacitor: Fact[bool] = Field(default_factory=Fact, title="Own capacitor in line")
    cut_out_mm: Fact[Millimetres] = Field(default_factory=Fact, title="Cut-out")
    depth_mm: Fact[Millimetres] = Field(default_factory=Fact, title="Clear depth behind the mounting face")
    window_depth_mm: Fact[Millimetres] = Field(default_factory=Fact, title="Clear depth, window fully down")
    trim_clearance_mm: Fact[Millimetres] = Field(default_factory=Fact, title="Mounting face to trim or grille")
    adapter_ring_mm: Fact[Millimetres] = Field(default_factory=Fact, title="Adapter ring, thickness")

    @property
    def side(self) -> str:
        """Left or right of the centre line; empty for what sits about the middle."""
        if abs(self.position.y_m) < MIDDLE_M:
            return ""
        return "left" if self.position.y_m < 0 else "right"

    @property
    def in_door(self) -> bool:
        """Whether a window comes down behind it."""
        return self.place is SpeakerPlace.DOOR

    @property
    def in_new_box(self) -> bool:
        """Whether it is a box that the car had not: no trim hides it and no hole is cut."""
        return self.new_place and self.place is SpeakerPlace.BOX


class FeedRole(StrEnum):
    """What a factory feed is."""

    REMOTE = "radio's remote lead"
    AERIAL = "aerial motor lead"
    SWITCHED = "accessory or ignition feed"
    CONSTANT = "constant feed"
    ILLUMINATION = "illumination feed"
    OTHER = "other feed"


class Feed(Model):
    """A factory feed with its table over the key states."""

    ports = frozenset({"positive", "remote-out"})
    id: Identifier
    name: Name
    position: Position
    role: FeedRole = Field(FeedRole.OTHER, title="What it is")
    behind_id: Annotated[Identifier | None, Ref("voltage converter", Gone.GOES_TOO, offered=False)] = None
    relay_on_id: Annotated[Identifier | None, Ref("feed", Gone.GOES_TOO, offered=False)] = None  # what works its relay
    battery_id: Annotated[Identifier | None, Ref("battery", empty="the first battery", least=2)] = Field(
        None, title="Hangs on"
    )
    live: Fact[LiveStates] = Field(default_factory=Fact, title="Live in which key states")
    reads_v: Fact[Volts] = Field(default_factory=Fact, title="Reads, to the body")
    limit_a: Fact[Amperes] = Field(default_factory=Fact, title="Can give")
    old_load_a: Fact[SmallAmperes] = Field(default_factory=Fact, title="Already drawn from it")
    fuse_a: Fact[Amperes] = Field(default_factory=Fact, title="Factory fuse")
    wire_size: Fact[SizeText] = Field(default_factory=Fact, title="Factory wire")
    wire_length_m: Fact[RunMetres] = Field(default_factory=Fact, title="Factory wire, battery to here")


class GroundPoint(Model):
    ports = frozenset({"stud"})
    id: Identifier
    name: Name
    position: Position
    kind: Fact[GroundKind] = Field(default_factory=Fact, title="Kind of ground point")
    body_return_ohm: Fact[BodyOhms] = Field(default_factory=Fact, title="Its own body return, where it was measured")

    @model_validator(mode="before")
    @classmethod
    def _never_asked_here(cls, tree: Any) -> Any:
        """For a time the car's draw stood here too, by mistake; nothing ever read it."""
        return {k: v for k, v in tree.items() if k != "key_on_a"} if isinstance(tree, dict) else tree


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
    radio: Annotated[Radio, One("radio")]
    speakers: Annotated[tuple[Speaker, ...], Many("speaker", "speakers", survey=Survey.SPEAKERS)] = Field(
        (), max_length=40
    )
    feeds: Annotated[tuple[Feed, ...], Many("feed", "feeds", survey=Survey.WAYS)] = Field((), max_length=40)
    ground_points: Annotated[tuple[GroundPoint, ...], Many("ground point", "ground points", survey=Survey.WAYS)] = (
        Field((), max_length=40)
    )
    passages: Annotated[tuple[Passage, ...], Many("passage", "passages", survey=Survey.WAYS)] = Field((), max_length=20)
    modules: Annotated[tuple[Module, ...], Many("module", "modules", survey=Survey.SYSTEM)] = Field((), max_length=40)
    factory_links: Annotated[tuple[FactoryLink, ...], Many("factory link", "factory links")] = Field((), max_length=80)
    variants: Annotated[tuple[Variant, ...], Many("variant", "variants", shared=False)] = Field((), max_length=12)
    tells: Annotated[tuple[Tell, ...], Many("tell-tale", "tell-tales", shared=False)] = Field((), max_length=30)
    answers: Annotated[tuple[Answer, ...], Many("answer", "answers", shared=False)] = Field((), max_length=60)
    volume_steps: Annotated[tuple[StepReading, ...], Many("volume reading", "volume readings", shared=False)] = Field(
        (), max_length=60
    )
    responses: Annotated[tuple[Response, ...], Many("response", "responses", shared=False)] = Field((), max_length=12)
    zones: Annotated[tuple[Zone, ...], Many("zone", "zones")] = Field((), max_length=60)
    spaces: Annotated[tuple[Space, ...], Many("space", "spaces", survey=Survey.BODY)] = Field((), max_length=20)
    alterations: Annotated[tuple[Alteration, ...], Many("alteration", "alterations", survey=Survey.EARLIER)] = Field(
        (), max_length=40
    )
    functions: Annotated[tuple[CarFunction, ...], Many("function", "functions")] = Field((), max_length=40)
    connectors: Annotated[tuple[Connector, ...], Many("connector", "connectors")] = Field((), max_length=20)
    hunt: Hunt | None = None

    @property
    def above_12_v(self) -> bool:
        """Whether its batteries hold more than a 12 V part bears."""
        return self.supply.system.value in (SystemVoltage.V24, SystemVoltage.PACK)

    def as_said(self, text: str) -> str:
        """A text as it is said of this car: of an electric one, nothing about an engine."""
        return text if self.starts else without_engine(text)

    @property
    def starts(self) -> bool:
        """Whether a starter pulls at its battery: of an electric car nothing is read or promised while cranking."""
        return self.powertrain is not Powertrain.ELECTRIC

    @property
    def constant_feed(self) -> Feed | None:
        """The first feed that is live whatever the key does: what the radio's plug brings."""
        return next((feed for feed in self.feeds if feed.role is FeedRole.CONSTANT), None)

    @property
    def switched_feed(self) -> Feed | None:
        """The first feed that goes with the key."""
        return next((feed for feed in self.feeds if feed.role is FeedRole.SWITCHED), None)

    @property
    def has_known_plug(self) -> bool:
        """Whether the radio's plug is one adapters are sold for: there is a radio, and it is no veteran."""
        return self.radio.tier.value is not Tier.NONE and (self.year is None or self.year >= PLUGS_FROM)

    @property
    def works_amplified(self) -> bool:
        """Whether the works put an amplifier in, as far as anybody found."""
        tiers = (Tier.AMPLIFIED, Tier.RING, Tier.SUB_AMPLIFIER)
        return self.radio.tier.value in tiers or any(module.amplifies for module in self.modules)

    @property
    def sources(self) -> tuple[Radio | Module, ...]:
        """Everything that has speaker outputs, the radio first."""
        own = self.kept("_sources", self.modules, lambda: tuple(m for m in self.modules if m.channels))
        return (self.radio, *own)

    @property
    def channels(self) -> tuple[RadioChannel, ...]:
        """Every output pair of the car."""
        own = self.kept("_channels", self.modules, lambda: tuple(c for m in self.modules for c in m.channels))
        return (*self.radio.channels, *own)

    def source_of(self, channel_id: str) -> Radio | Module:
        """The radio or module a channel belongs to; the radio where nothing has it."""
        found = (s for s in self.sources if any(c.id == channel_id for c in s.channels))
        return next(found, self.radio)

    @property
    def title(self) -> str:
        """Make, model, body and year on one line."""
        year = f", {self.year}" if self.year else ""
        return f"{self.make} {self.model}, {self.body.value}{year}"
