"""Links between named ports: power, ground, speaker, tap, line, remote, feed; each with its run, wire and fuse."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated, Literal

from pydantic import Field

from ohmack.core.document.facts import Fact, Hertz, Identifier, MeterOhms, Model, Name, Position, RunMetres, SizeText
from ohmack.core.document.part import LineVolts, Phase
from ohmack.core.document.registry import Gone, Ref


class Wire(Model):
    """The wire of a link; `size` None lets Ohmack choose."""

    size: SizeText | None = Field(None, title="Size")
    material: Literal["copper", "tinned_copper", "copper_clad_aluminium"] = Field("copper", title="Material")
    strand_count: Annotated[int, Field(gt=0, le=20000)] | None = Field(None, title="Counted strands")
    strand_diameter_mm: Annotated[float, Field(gt=0, le=5)] | None = Field(None, title="Strand diameter")
    colour: Name = Field("", title="Insulation")
    leads: Annotated[int, Field(ge=1, le=4)] = Field(1, title="Leads in parallel")
    insulation_c: Annotated[float, Field(ge=60, le=200)] = Field(105.0, title="Insulation bears")
    beside: Annotated[int, Field(ge=0, le=8)] = Field(0, title="Other loaded wires in its loom")

    @property
    def named(self) -> bool:
        """Whether somebody said which size it is, by its label or by its strands."""
        counted = self.strand_count is not None and self.strand_diameter_mm is not None
        return self.size is not None or counted


class Fuse(Model):
    """A fuse in a link; `rating_a` None lets Ohmack choose."""

    holder_id: Annotated[Identifier | None, Ref("fuse holder", offered=False)] = None
    rating_a: Annotated[float, Field(gt=0, le=500)] | None = Field(None, title="Fuse")
    from_source_m: Fact[RunMetres] = Field(default_factory=Fact, title="Fuse from the source")


Port = Annotated[str, Field(pattern=r"^[a-z][a-z0-9-]{0,19}$")]


SlopeDb = Annotated[int, Field(ge=6, le=48, multiple_of=6)]
Family = Literal["Butterworth", "Linkwitz-Riley", "Bessel"]


class Band(Model):
    """One band of an equaliser: a boost or cut round a frequency, or a shelf under or over it."""

    kind: Literal["band", "low shelf", "high shelf"] = "band"
    centre_hz: Hertz = Field(title="Frequency")
    gain_db: Annotated[float, Field(ge=-30, le=18)] = Field(title="Gain")
    q: Annotated[float, Field(gt=0.1, le=20)] = Field(1.0, title="Q")


class LinkBase(Model):
    """What joins a port of one thing to a port of another; the current or the signal runs from the first to the
    second.
    """

    id: Identifier
    from_port: Port
    to_port: Port
    phase: Phase = Phase.NOW
    in_car: bool = Field(False, title="Lies in the car already")
    old_out: bool = Field(False, title="In place of a cable that comes out")
    way_points: tuple[Position, ...] = Field((), max_length=40)
    by_hand: bool = False  # whether a person set the way points; else they follow what moves
    tape_length_m: Fact[RunMetres] = Field(default_factory=Fact, title="Length by tape measure")
    wire: Wire = Field(default_factory=Wire)

    @property
    def unread(self) -> bool:
        """Whether it lies in the car and nobody said of which size."""
        return self.in_car and not self.wire.named


class PowerLink(LinkBase):
    """Positive, from a battery or a distribution block to what it feeds; another block may be between."""

    kind: Literal["power"] = "power"
    from_id: Annotated[Identifier, Ref("power source", Gone.GOES_TOO)] = Field(title="Fed from")
    from_port: Port = "positive"
    to_id: Annotated[Identifier, Ref("powered", Gone.GOES_TOO, offered=False)] = Field(title="Feeds")
    to_port: Port = "power"
    fuse: Fuse | None = Field(default_factory=Fuse)
    fuse_each: bool = Field(False, title="Each of its leads has a fuse of its own")
    engine_space: bool = Field(True, title="Part of it in the engine space")

    @property
    def fuse_count(self) -> int:
        """How many fuses it has: one, one a lead, or none."""
        if self.fuse is None:
            return 0
        return self.wire.leads if self.fuse_each else 1


class GroundLink(LinkBase):
    """Negative, from what draws the current to a ground point or a distribution block."""

    kind: Literal["ground"] = "ground"
    from_id: Annotated[Identifier, Ref("powered", Gone.GOES_TOO, offered=False)] = Field(title="Grounds")
    from_port: Port = "ground"
    to_id: Annotated[Identifier, Ref("ground", Gone.GOES_TOO)] = Field(title="Grounded at")
    to_port: Port = "stud"


class SpeakerLink(LinkBase):
    """An amplifier's output to a subwoofer or to a speaker position, with the wiring of the coils ("" lets Ohmack
    choose).
    """

    kind: Literal["speaker"] = "speaker"
    from_id: Annotated[Identifier, Ref("amplifier", Gone.GOES_TOO)] = Field(title="Driven by")
    from_port: Port = "channel"
    to_id: Annotated[Identifier, Ref("driven", Gone.GOES_TOO)] = Field(title="Drives")
    to_port: Port = "coils"
    channel: Annotated[int, Field(ge=1, le=8)] = Field(1, title="Channel")
    bridged: bool = Field(False, title="Bridged with the next channel")
    factory_wire: bool = Field(False, title="Over the factory wires")
    coils: tuple[Annotated[int, Field(ge=1, le=4)], ...] = Field((), max_length=4, title="Coils (empty: all)")
    wiring: Annotated[str, Field(max_length=600)] = Field("", title="Coil wiring")
    reads_ohm: Fact[MeterOhms] = Field(default_factory=Fact, title="Pair read at the amplifier, leads off")
    high_pass_hz: Hertz | None = Field(None, title="High-pass (empty: the usual)")
    low_pass_hz: Hertz | None = Field(None, title="Low-pass (empty: the usual)")
    filter_slope_db: SlopeDb | None = Field(None, title="Slope of its filters, an octave (empty: the amplifier's)")
    filter_family: Family = Field("Butterworth", title="Filters are")
    sensitivity_kept_v: LineVolts | None = Field(None, title="Sensitivity kept at (empty: as it should be)")
    delay_ms: Annotated[float, Field(ge=0, le=50)] = Field(0.0, title="Delayed by")
    turned_down_db: Annotated[float, Field(ge=0, le=40)] = Field(0.0, title="Turned down by")
    bands: tuple[Band, ...] = Field((), max_length=12, title="Equaliser and boosts")

    @property
    def takes(self) -> tuple[int, ...]:
        """The channels of the amplifier it takes: a bridged one the next too."""
        return (self.channel, self.channel + 1) if self.bridged else (self.channel,)


class Pickup(StrEnum):
    PLUG_ADAPTER = "plug adapter"
    SPLICE = "splice"


class TapPlace(StrEnum):
    PLUG = "plug of the radio or amplifier"
    LEADS = "leads at the speakers"


# of a pair led into twice as many inputs, for bridged outputs that play one side each
BySides = Field(False, title="Left into the first half of its inputs, right into the other half")


class TapLink(LinkBase):
    """Output pairs of the radio or of a module to speaker-level inputs: a converter's, a powered subwoofer's or an
    amplifier's.
    """

    kind: Literal["tap"] = "tap"
    from_ids: Annotated[tuple[Identifier, ...], Ref("channel", Gone.GOES_TOO, offered=False)] = Field(
        min_length=1, max_length=8, title="Takes its signal from"
    )
    from_port: Port = "pair"
    to_id: Annotated[Identifier, Ref("speaker-level input", Gone.GOES_TOO, offered=False)] = Field(title="Feeds")
    to_port: Port = "speaker-level"
    method: Pickup = Field(Pickup.PLUG_ADAPTER, title="Picked up by")
    place: TapPlace = Field(TapPlace.PLUG, title="Picked up at")
    negative_to_body: bool = Field(False, title="Negative inputs tied to body")
    by_sides: bool = BySides


class LineLink(LinkBase):
    """One line pair of a converter or a radio to the input of an amplifier, a powered subwoofer or a processor."""

    kind: Literal["line"] = "line"
    from_id: Annotated[Identifier, Ref("line source", Gone.GOES_TOO)] = Field(title="Signal from")
    from_port: Port = "line-out"
    to_id: Annotated[Identifier, Ref("line input", Gone.GOES_TOO)] = Field(title="Feeds")
    to_port: Port = "line-in"
    pair: Annotated[int, Field(ge=1, le=8)] = Field(1, title="RCA pair of the source")
    channels: tuple[Annotated[int, Field(ge=1, le=8)], ...] = Field(
        (), max_length=8, title="Into channels (empty: all no other pair feeds)"
    )
    by_sides: bool = BySides
    input_ids: Annotated[tuple[Identifier, ...], Ref("channel")] = Field(
        (), max_length=8, title="Plays these inputs of a processor (empty: all it picks up)"
    )
    level_db: Annotated[float, Field(ge=-40, le=0)] = Field(0.0, title="Level set in the source for this pair")
    high_pass_hz: Hertz | None = Field(None, title="High-pass set in the source for this pair")
    low_pass_hz: Hertz | None = Field(None, title="Low-pass set in the source for this pair")
    filter_slope_db: SlopeDb | None = Field(None, title="Slope of the source's filters, an octave")
    filter_family: Family = Field("Butterworth", title="The source's filters are")


class RemoteLink(LinkBase):
    """Switch-on: a feed, the remote lead of a new radio or of a converter, to what is switched."""

    kind: Literal["remote"] = "remote"
    from_id: Annotated[Identifier, Ref("switch-on source", Gone.GOES_TOO)] = Field(title="Switched on by")
    from_port: Port = "remote-out"
    to_id: Annotated[Identifier, Ref("switched", Gone.GOES_TOO, offered=False)] = Field(title="Switches")
    to_port: Port = "remote"
    relay: bool = Field(False, title="Through a relay")


class FeedLink(LinkBase):
    """Feed, fuse and ground of a converter, a powered subwoofer or a plug-in amplifier."""

    kind: Literal["feed"] = "feed"
    from_id: Annotated[Identifier, Ref("feed", Gone.GOES_TOO)] = Field(title="Fed from")
    from_port: Port = "positive"
    to_id: Annotated[Identifier, Ref("fed", Gone.GOES_TOO, offered=False)] = Field(title="Feeds")
    to_port: Port = "power"
    ground_point_id: Annotated[Identifier | None, Ref("ground point", empty="not grounded yet")] = Field(
        None, title="Grounded at"
    )
    fuse: Fuse | None = Field(default_factory=Fuse)


class ChargeLink(LinkBase):
    """Positive between two batteries, through what parts them, fused at either end; and the second one's ground."""

    kind: Literal["charge"] = "charge"
    from_id: Annotated[Identifier, Ref("battery", Gone.GOES_TOO)] = Field(title="Charged from")
    from_port: Port = "positive"
    to_id: Annotated[Identifier, Ref("battery", Gone.GOES_TOO)] = Field(title="Charges")
    to_port: Port = "positive"
    through_id: Annotated[Identifier | None, Ref("charging relay", empty="nothing yet")] = Field(None, title="Through")
    ground_point_id: Annotated[Identifier | None, Ref("ground point", empty="not grounded yet")] = Field(
        None, title="Second battery grounded at"
    )
    fuse: Fuse | None = Field(default_factory=Fuse)
    far_fuse: bool = Field(True, title="A fuse at the second battery too")
    engine_space: bool = Field(True, title="Part of it in the engine space")


class CapacitorLink(LinkBase):
    """Both leads of a capacitor, from the terminals of what it steadies; as thick as that one's own run."""

    kind: Literal["capacitor"] = "capacitor"
    from_id: Annotated[Identifier, Ref("consumer", Gone.GOES_TOO)] = Field(title="Across the supply of")
    from_port: Port = "power"
    to_id: Annotated[Identifier, Ref("capacitor", Gone.GOES_TOO, offered=False)] = Field(title="Capacitor")
    to_port: Port = "positive"


Link = Annotated[
    PowerLink | GroundLink | SpeakerLink | TapLink | LineLink | RemoteLink | FeedLink | ChargeLink | CapacitorLink,
    Field(discriminator="kind"),
]
# What each end was called before links went from port to port; files and addresses of then stay readable.
ENDS_BEFORE: dict[str, dict[str, str]] = {
    "power": {"battery_id": "from_id", "amplifier_id": "to_id"},
    "ground": {"amplifier_id": "from_id", "ground_point_id": "to_id"},
    "speaker": {"amplifier_id": "from_id", "driver_id": "to_id"},
    "tap": {"channel_ids": "from_ids", "converter_id": "to_id"},
    "line": {"converter_id": "from_id", "amplifier_id": "to_id"},
    "remote": {"source_id": "from_id", "amplifier_id": "to_id"},
    "feed": {"feed_id": "from_id", "converter_id": "to_id"},
}
