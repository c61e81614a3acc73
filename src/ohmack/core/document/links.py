"""Links between named ports: power, ground, speaker, tap, line, remote, feed; each with its run, wire and fuse."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated, Literal

from pydantic import Field

from ohmack.core.document.facts import Fact, Identifier, Model, Name, Position, RunMetres, SizeText
from ohmack.core.document.parts import Phase


class Wire(Model):
    """The wire of a link; `size` None lets Ohmack choose."""

    size: SizeText | None = Field(None, title="Size")
    material: Literal["copper", "copper_clad_aluminium"] = Field("copper", title="Material")
    strand_count: Annotated[int, Field(gt=0, le=20000)] | None = Field(None, title="Counted strands")
    strand_diameter_mm: Annotated[float, Field(gt=0, le=5)] | None = Field(None, title="Strand diameter")
    colour: Name = Field("", title="Insulation")


class Fuse(Model):
    """A fuse in a link; `rating_a` None lets Ohmack choose."""

    holder_id: Identifier | None = None
    rating_a: Annotated[float, Field(gt=0, le=500)] | None = Field(None, title="Fuse")
    from_source_m: Fact[RunMetres] = Field(default_factory=Fact, title="Fuse from the source")


class LinkBase(Model):
    id: Identifier
    phase: Phase = Phase.NOW
    way_points: tuple[Position, ...] = Field((), max_length=40)
    tape_length_m: Fact[RunMetres] = Field(default_factory=Fact, title="Length by tape measure")
    wire: Wire = Field(default_factory=Wire)


class PowerLink(LinkBase):
    """Battery positive to an amplifier."""

    kind: Literal["power"] = "power"
    battery_id: Identifier
    amplifier_id: Identifier
    fuse: Fuse | None = Field(default_factory=Fuse)
    engine_space: bool = Field(True, title="Part of it in the engine space")


class GroundLink(LinkBase):
    """An amplifier's negative to a ground point."""

    kind: Literal["ground"] = "ground"
    amplifier_id: Identifier
    ground_point_id: Identifier


class SpeakerLink(LinkBase):
    """An amplifier's output to a subwoofer or to a speaker position, with the wiring of the coils ("" lets Ohmack choose)."""

    kind: Literal["speaker"] = "speaker"
    amplifier_id: Identifier
    driver_id: Identifier
    channel: Annotated[int, Field(ge=1, le=8)] = Field(1, title="Channel")
    bridged: bool = Field(False, title="Bridged with the next channel")
    factory_wire: bool = Field(False, title="Over the factory wires")
    wiring: Annotated[str, Field(max_length=200)] = Field("", title="Coil wiring")


class Pickup(StrEnum):
    PLUG_ADAPTER = "plug adapter"
    SPLICE = "splice"


class TapLink(LinkBase):
    """Radio channels to speaker-level inputs: a converter's, a powered subwoofer's or an amplifier's."""

    kind: Literal["tap"] = "tap"
    channel_ids: tuple[Identifier, ...] = Field(min_length=1, max_length=8)
    converter_id: Identifier
    method: Pickup = Field(Pickup.PLUG_ADAPTER, title="Picked up by")
    negative_to_body: bool = Field(False, title="Negative inputs tied to body")


class LineLink(LinkBase):
    """Line output of a converter or of a new radio to an amplifier's input."""

    kind: Literal["line"] = "line"
    converter_id: Identifier
    amplifier_id: Identifier


class RemoteLink(LinkBase):
    """Switch-on: a feed, or a converter's remote output, to an amplifier or a powered subwoofer."""

    kind: Literal["remote"] = "remote"
    source_id: Identifier
    amplifier_id: Identifier
    relay: bool = Field(False, title="Through a relay")


class FeedLink(LinkBase):
    """Feed, fuse and ground of a converter, a powered subwoofer or a plug-in amplifier."""

    kind: Literal["feed"] = "feed"
    feed_id: Identifier
    converter_id: Identifier
    ground_point_id: Identifier | None = None
    fuse: Fuse | None = Field(default_factory=Fuse)


Link = Annotated[
    PowerLink | GroundLink | SpeakerLink | TapLink | LineLink | RemoteLink | FeedLink,
    Field(discriminator="kind"),
]
