"""The factory system: radio, modules, channels, the links between them, and the kinds one car came in."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated

from pydantic import Field

from ohmack.core.document.facts import (
    Fact,
    Hertz,
    Identifier,
    Millimetres,
    Model,
    Name,
    Ohms,
    Position,
    SmallVolts,
    Volts,
)
from ohmack.core.document.registry import Gone, Many, Ref

LinePairs = Annotated[int, Field(ge=0, le=8)]
Step = Annotated[float, Field(ge=0, le=400)]
UnderDb = Annotated[float, Field(ge=0, le=60)]


class Tier(StrEnum):
    """What kind of factory system the car has."""

    PLAIN = "plain radio"
    AMPLIFIED = "radio with amplifier"
    RING = "digital or optical ring"
    SUB_AMPLIFIER = "radio plus subwoofer amplifier"
    AFTERMARKET = "aftermarket radio"
    NONE = "no radio"


class StatedAs(StrEnum):
    RMS = "rms"
    PEAK = "peak"


class ChannelPlace(StrEnum):
    FRONT_LEFT = "front left"
    FRONT_RIGHT = "front right"
    REAR_LEFT = "rear left"
    REAR_RIGHT = "rear right"
    CENTRE = "centre"
    REAR = "rear"
    SUB = "subwoofer"

    @property
    def axle(self) -> str:
        """Front or rear; empty for what is neither."""
        if self in (ChannelPlace.FRONT_LEFT, ChannelPlace.FRONT_RIGHT):
            return "front"
        return "rear" if self in (ChannelPlace.REAR_LEFT, ChannelPlace.REAR_RIGHT, ChannelPlace.REAR) else ""

    @property
    def side(self) -> str:
        """Left or right; empty for what is neither."""
        if self in (ChannelPlace.FRONT_LEFT, ChannelPlace.REAR_LEFT):
            return "left"
        return "right" if self in (ChannelPlace.FRONT_RIGHT, ChannelPlace.REAR_RIGHT) else ""


class Band(StrEnum):
    FULL = "full range"
    LOW = "low range"
    LOW_MID = "low and mid range"
    MID = "mid range"
    MID_HIGH = "mid and high range"
    HIGH = "high range"

    @property
    def has_bass(self) -> bool:
        """Whether a subwoofer finds anything in it."""
        return self in (Band.FULL, Band.LOW, Band.LOW_MID)

    @property
    def carries(self) -> frozenset[str]:
        """Which of bass, middle and treble are in it."""
        return _CARRIES[self]

    @property
    def has_treble(self) -> bool:
        """Whether a tweeter finds anything in it."""
        return self in (Band.FULL, Band.MID_HIGH, Band.HIGH)


_CARRIES = {
    Band.FULL: frozenset(("bass", "middle", "treble")),
    Band.LOW: frozenset(("bass",)),
    Band.LOW_MID: frozenset(("bass", "middle")),
    Band.MID: frozenset(("middle",)),
    Band.MID_HIGH: frozenset(("middle", "treble")),
    Band.HIGH: frozenset(("treble",)),
}


class Mix(StrEnum):
    OWN = "its own side"
    SUMMED = "left and right summed"


class RadioChannel(Model):
    """One output pair: position + band + mix."""

    ports = frozenset({"pair"})
    id: Identifier
    name: Name
    place: ChannelPlace | None = Field(None, title="Position")
    band: Fact[Band] = Field(default_factory=Fact, title="Band it carries")
    mix: Mix = Field(Mix.OWN, title="Mix")
    pair_colours: Name = Field("", title="Pair colours")
    reaches: Fact[bool] = Field(default_factory=Fact, title="Pair reaches its speaker")
    pair_resistance_ohm: Fact[Ohms] = Field(default_factory=Fact, title="Pair resistance at the plug")


class Output(Model):
    """What a radio or a factory amplifier gives at its speaker outputs."""

    source_voltage_v: Fact[Volts] = Field(default_factory=Fact, title="Output at the last clean step")
    source_stated_as: StatedAs = Field(StatedAs.RMS, title="Output stated as")
    clip_step: Fact[Name] = Field(default_factory=Fact, title="Last clean volume step")
    bridged: Fact[bool] = Field(default_factory=Fact, title="Outputs bridged (neither wire is ground)")
    tap_low_hz: Fact[Hertz] = Field(default_factory=Fact, title="Lowest bass at the tap")
    lowest_load_ohm: Fact[Ohms] = Field(default_factory=Fact, title="Lowest load its channels permit")
    channels: Annotated[tuple[RadioChannel, ...], Many("channel", "channels")] = Field((), max_length=16)


class Radio(Output):
    ports = frozenset({"line-out"})
    id: Identifier = "radio"
    name: Name = "Factory radio"
    position: Position
    tier: Fact[Tier] = Field(default_factory=Fact, title="Factory system")
    usual_step: Fact[Step] = Field(default_factory=Fact, title="Volume step it is usually listened at")
    player_under_db: Fact[UnderDb] = Field(default_factory=Fact, title="Phone or player set below its full by")
    spare_input: Fact[bool] = Field(default_factory=Fact, title="Has a free input that is on with the key")
    starts_without: Fact[bool] = Field(default_factory=Fact, title="Car starts with it unplugged")
    ring_master: Fact[bool] = Field(default_factory=Fact, title="Is the master of its ring")
    shared_return: Fact[bool] = Field(default_factory=Fact, title="Speakers share one return wire")
    line_pairs: Fact[LinePairs] = Field(default_factory=Fact, title="RCA line output pairs")
    line_v: Fact[Volts] = Field(default_factory=Fact, title="RCA line output at the last clean step")
    opening_width_mm: Fact[Millimetres] = Field(default_factory=Fact, title="Dash opening, width")
    opening_height_mm: Fact[Millimetres] = Field(default_factory=Fact, title="Dash opening, height")
    opening_depth_mm: Fact[Millimetres] = Field(default_factory=Fact, title="Dash opening, depth")


class ModuleKind(StrEnum):
    AMPLIFIER = "amplifier"
    SUB_AMPLIFIER = "subwoofer amplifier"
    DISPLAY = "display"
    TUNER = "tuner"
    CHANGER = "disc changer"
    HANDS_FREE = "hands-free unit"
    GATEWAY = "bus gateway"
    PARKING = "parking sensors"
    CAMERA = "camera"
    MICROPHONE = "microphone"
    AERIAL = "aerial"
    AERIAL_AMPLIFIER = "aerial amplifier"
    ALARM = "alarm"
    OTHER = "other module"


AMPLIFIERS = (ModuleKind.AMPLIFIER, ModuleKind.SUB_AMPLIFIER)


class Level(StrEnum):
    """How loud the radio's output to a factory amplifier is."""

    FIXED = "fixed"
    VARIABLE = "follows the volume"


class WokenBy(StrEnum):
    """What switches a factory amplifier on."""

    REMOTE = "a lead from the radio"
    BUS = "the data bus"
    KEY = "the key, by its own feed"
    SOUND = "the signal itself"


class Module(Output):
    """A box of the factory system besides the radio."""

    id: Identifier
    name: Name
    kind: ModuleKind = Field(ModuleKind.OTHER, title="Kind of module")
    position: Position
    by_owner: bool = Field(False, title="Added by an earlier owner")
    fitted: Fact[bool] = Field(default_factory=Fact, title="Really fitted")
    level: Fact[Level] = Field(default_factory=Fact, title="Level from the radio")
    band_split: Fact[bool] = Field(default_factory=Fact, title="Splits the bands over its channels")
    equalised: Fact[bool] = Field(default_factory=Fact, title="Equalises, bass falls as volume rises")
    load_sensing: Fact[bool] = Field(default_factory=Fact, title="Senses its load")
    sounds_right: Fact[bool] = Field(default_factory=Fact, title="Sounds right to the customer")
    input_limit_v: Fact[Volts] = Field(default_factory=Fact, title="Line input takes up to")
    balanced: Fact[bool] = Field(default_factory=Fact, title="Balanced inputs (neither wire is ground)")
    woken_by: Fact[WokenBy] = Field(default_factory=Fact, title="Switched on by")

    @property
    def amplifies(self) -> bool:
        """Whether it drives speakers."""
        return self.kind in AMPLIFIERS

    @property
    def pairs_split(self) -> bool:
        """Whether a pair on file has its bass taken off, whatever is noted of the whole module."""
        return any(channel.band.value is not None and not channel.band.value.has_bass for channel in self.channels)


class FactoryLinkKind(StrEnum):
    ANALOGUE = "analogue line"
    SPEAKER = "speaker level"
    RING = "optical ring"
    BUS = "data bus"
    FEED = "feed"
    AERIAL = "aerial lead"
    VIDEO = "video"
    MICROPHONE = "microphone lead"


class FactoryLink(Model):
    """What joins two modules of the factory system. A link that is there may carry nothing."""

    id: Identifier
    kind: FactoryLinkKind = Field(FactoryLinkKind.BUS, title="Kind of link")
    from_id: Annotated[Identifier, Ref("joined", Gone.GOES_TOO)] = Field(title="From")
    to_id: Annotated[Identifier, Ref("joined", Gone.GOES_TOO)] = Field(title="To")
    carries: Fact[bool] = Field(default_factory=Fact, title="Carries what it should")


Year = Annotated[int, Field(ge=1930, le=2100)]


class Variant(Model):
    """One kind this car was sold in: tier or facelift."""

    id: Identifier
    name: Name
    tier: Tier = Field(Tier.PLAIN, title="Factory system")
    first_year: Year | None = Field(None, title="From model year")
    last_year: Year | None = Field(None, title="To model year")


class Tell(Model):
    """A tell-tale of one car: the answer is yes on the variants it is shown by, and no on the others."""

    id: Identifier
    question: Name = Field(title="Tell-tale, as a question")
    shown_by: Annotated[tuple[Identifier, ...], Ref("variant")] = Field((), max_length=12, title="Yes on")


class Answer(Model):
    """What was answered to a question that tells the factory systems apart."""

    id: Identifier
    answer: Fact[Name] = Field(default_factory=Fact, title="Answer")


class StepReading(Model):
    """One reading of the signal at the tap: volume step, tone, volts. The source's own level is noted with it."""

    id: Identifier
    step: Step = Field(title="Volume step")
    tone_hz: Hertz = Field(1000.0, title="Tone")
    voltage_v: Fact[SmallVolts] = Field(default_factory=Fact, title="Volts rms at the tap")
    source_level: Name = Field("", title="Level of the phone or player")
    distortion_percent: Annotated[float, Field(ge=0, le=100)] | None = Field(None, title="Distortion, recorded")
