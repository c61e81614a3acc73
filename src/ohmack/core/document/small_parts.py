"""Small parts that go into a line, onto a place or between two things: capacitors and coils in line, crossover nets,
pads, load resistors, isolators, rings, relays.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ohmack.core.document.facts import Hertz, Identifier, SmallAmperes
from ohmack.core.document.part import Impedance, LineVolts, PartBase, Pieces, SizeMm, Watts
from ohmack.core.document.registry import Ref


class SeriesCapacitor(PartBase):
    """A capacitor in line with what an output pair drives, or with single speakers of it: a first-order high-pass."""

    kind: Literal["series capacitor"] = "series capacitor"
    at_ids: Annotated[tuple[Identifier, ...], Ref("in line")] = Field((), max_length=8, title="In line with")
    pieces: Pieces | None = Field(None, title="Pieces in the pack")
    capacitance_uf: Annotated[float, Field(gt=0, le=5000)] = Field(title="Capacitance")
    rated_v: Annotated[float, Field(gt=0, le=1000)] = Field(50.0, title="Rated voltage")


class SeriesCoil(PartBase):
    """A coil in line with an output pair or a speaker: a first-order low-pass."""

    kind: Literal["series coil"] = "series coil"
    at_ids: Annotated[tuple[Identifier, ...], Ref("in line")] = Field((), max_length=8, title="In line with")
    pieces: Pieces | None = Field(None, title="Pieces in the pack")
    inductance_mh: Annotated[float, Field(gt=0, le=100)] = Field(title="Inductance")
    dc_resistance_ohm: Annotated[float, Field(ge=0, le=10)] = Field(0.3, title="Its own resistance")
    rated_w: Watts = Field(100.0, title="RMS power it carries")


class CrossoverNet(PartBase):
    """Coils and capacitors that part one channel between woofer and tweeter; one for every channel it serves."""

    kind: Literal["crossover net"] = "crossover net"
    at_ids: Annotated[tuple[Identifier, ...], Ref("speaker")] = Field((), max_length=8, title="Parts these speakers")
    pieces: Pieces | None = Field(None, title="Pieces in the pack")
    crossover_hz: Hertz = Field(3000.0, title="Crosses over at")
    made_for_ohm: Impedance = Field(4.0, title="Made for speakers of")
    rated_w: Watts = Field(80.0, title="RMS power it takes, a channel")
    tweeter_pad_db: Annotated[float, Field(ge=0, le=20)] = Field(0.0, title="Takes off the tweeter")


class LoadResistor(PartBase):
    """A resistor across an output pair, in the place of a speaker that was taken off it."""

    kind: Literal["load resistor"] = "load resistor"
    at_ids: Annotated[tuple[Identifier, ...], Ref("channel")] = Field((), max_length=8, title="Across")
    pieces: Pieces | None = Field(None, title="Pieces in the pack")
    resistance_ohm: Impedance = Field(title="Resistance")
    rated_w: Watts = Field(title="Power it takes")


class LineIsolator(PartBase):
    """A transformer in a line pair: no ground comes through it."""

    kind: Literal["line isolator"] = "line isolator"
    in_line_id: Annotated[Identifier | None, Ref("link", empty="nothing yet")] = Field(None, title="In line with")
    limit_v: LineVolts = Field(title="Takes up to")
    low_hz: Hertz = Field(20.0, title="Down to (−3 dB)")


class SpeakerPad(PartBase):
    """Two resistors before a speaker that take some of its level off and leave the load as it was: an L-pad."""

    kind: Literal["speaker pad"] = "speaker pad"
    at_ids: Annotated[tuple[Identifier, ...], Ref("speaker")] = Field((), max_length=8, title="Before these speakers")
    pieces: Pieces | None = Field(None, title="Pieces in the pack")
    takes_off_db: Annotated[float, Field(gt=0, le=20)] = Field(title="Takes off")
    made_for_ohm: Impedance = Field(4.0, title="Made for speakers of")
    rated_w: Watts = Field(title="Power its resistors take, each")


class MountingRing(PartBase):
    """A ring or plate a speaker is screwed to, over a hole of another size or to bring it forward; one a place."""

    kind: Literal["mounting ring"] = "mounting ring"
    at_ids: Annotated[tuple[Identifier, ...], Ref("speaker")] = Field((), max_length=8, title="Goes under")
    pieces: Pieces | None = Field(None, title="Pieces in the pack")
    thickness_mm: Annotated[float, Field(gt=0, le=200)] = Field(title="Thickness")
    opening_mm: SizeMm = Field(title="Its opening")
    outer_mm: SizeMm = Field(title="Outer diameter")

    @property
    def is_hollow(self) -> bool:
        """Whether nothing of it is left between its opening and its rim."""
        return self.opening_mm >= self.outer_mm


class SwitchingRelay(PartBase):
    """A small relay: a weak switch-on works its coil, its contact carries what hangs behind it."""

    kind: Literal["switching relay"] = "switching relay"
    coil_a: SmallAmperes = Field(0.15, title="Its coil draws")
    coil_v: Annotated[float, Field(ge=5, le=100)] = Field(12.0, title="Its coil is made for")
    contact_a: Annotated[float, Field(gt=0, le=200)] = Field(30.0, title="Its contact carries")
