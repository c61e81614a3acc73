"""Parts placed in a design. Each is a snapshot of catalogue data, so that an old job never changes."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated, Literal, Self

from pydantic import Field, field_validator, model_validator

from ohmack.core.document.amplifiers import OTHER_END_FIRST, Amplifier, refuse_backwards
from ohmack.core.document.boxes import Box, Litres
from ohmack.core.document.factory import StatedAs
from ohmack.core.document.facts import Hertz, Identifier, Model, Name, SizeText, SmallAmperes
from ohmack.core.document.part import Impedance, LineOhms, LineVolts, PartBase, Pieces, Rejection, SizeMm, Watts
from ohmack.core.document.registry import Ref
from ohmack.core.document.small_parts import (
    CrossoverNet,
    LineIsolator,
    LoadResistor,
    MountingRing,
    SeriesCapacitor,
    SeriesCoil,
    SpeakerPad,
    SwitchingRelay,
)

Quality = Annotated[float, Field(gt=0, le=100)]


class VoiceCoil(Model):
    impedance_ohm: Impedance = Field(title="Coil impedance")
    dc_resistance_ohm: Impedance | None = Field(None, title="Coil DC resistance")


class Subwoofer(PartBase):
    ports = frozenset({"coils"})
    kind: Literal["subwoofer"] = "subwoofer"
    coils: tuple[VoiceCoil, ...] = Field(min_length=1, max_length=4, title="Voice coils")
    power_rms_w: Watts = Field(title="RMS power, whole driver")
    sensitivity_db: Annotated[float, Field(ge=60, le=120)] | None = Field(None, title="Sensitivity, 1 W at 1 m")
    size: Name = Field("", title="Size")
    mounting_depth_mm: SizeMm | None = Field(None, title="Mounting depth")
    cut_out_mm: SizeMm | None = Field(None, title="Cut-out it needs")
    at_ids: Annotated[tuple[Identifier, ...], Ref("speaker")] = Field(
        (), max_length=2, title="Goes into the car's own place (none: into a box)"
    )
    wiring: Annotated[str, Field(max_length=200)] = Field("", title="Coil wiring in the car's own place")
    fs_hz: Annotated[float, Field(gt=5, le=200)] | None = Field(None, title="Resonance in free air (fs)")
    qms: Quality | None = Field(None, title="Mechanical Q (Qms)")
    qes: Quality | None = Field(None, title="Electrical Q (Qes)")
    qts: Quality | None = Field(None, title="Total Q (Qts), to check the others")
    vas_l: Litres | None = Field(None, title="Equivalent volume (Vas)")
    sd_cm2: Annotated[float, Field(gt=0, le=5000)] | None = Field(None, title="Cone area (Sd)")
    xmax_mm: Annotated[float, Field(gt=0, le=100)] | None = Field(None, title="Travel one way (Xmax)")
    le_mh: Annotated[float, Field(ge=0, le=50)] | None = Field(None, title="Coil inductance, coils in series (Le)")
    mms_g: Annotated[float, Field(gt=0, le=5000)] | None = Field(None, title="Moving mass (Mms), to check the others")
    displaced_l: Annotated[float, Field(ge=0, le=50)] | None = Field(None, title="Air it takes in the box")


class Converter(PartBase):
    """A speaker-level to line-level converter, active or passive, or a processor that filters and delays besides."""

    ports = frozenset({"power", "ground", "remote", "remote-out", "line-in", "line-out", "speaker-level"})
    kind: Literal["converter", "processor"] = Field("converter", title="Kind")
    active: bool = Field(True, title="Active: draws current, has a ground and a switch-on")
    input_pairs: Annotated[int, Field(ge=1, le=8)] = Field(2, title="Input pairs")
    output_pairs: Annotated[int, Field(ge=1, le=8)] = Field(1, title="Line output pairs")
    input_limit_v: LineVolts = Field(title="Input takes up to")
    input_stated_as: StatedAs = Field(StatedAs.RMS, title="Input stated as")
    gain_low_db: Annotated[float, Field(ge=-80, le=40)] | None = Field(
        None, title="Lowest gain (empty: as full output over full input)"
    )
    gain_high_db: Annotated[float, Field(ge=-80, le=40)] | None = Field(
        None, title="Highest gain (empty: as full output over full input)"
    )
    output_limit_v: LineVolts = Field(title="Clean output up to")
    supply_current_a: SmallAmperes = Field(0.3, title="Draws")
    standby_a: SmallAmperes | None = Field(None, title="Draws while switched off")
    fuse_a: Annotated[float, Field(gt=0, le=30)] = Field(5, title="Feed fuse")
    remote_out_limit_a: SmallAmperes | None = Field(None, title="Remote output gives")
    senses_audio: bool = Field(False, title="Switches on by audio")
    remote_current_a: SmallAmperes = Field(0.02, title="Remote turn-on draws")
    noise_dbv: Annotated[float, Field(ge=-140, le=0)] | None = Field(None, title="Output noise")
    principle: Literal["electronics", "transformers", "resistors"] = Field("electronics", title="Works by")
    low_hz: Hertz | None = Field(None, title="Plays down to (−3 dB)")
    restores_bass: bool = Field(False, title="Restores bass the factory system takes off")
    input_ohm: LineOhms | None = Field(None, title="Input impedance")
    output_ohm: LineOhms | None = Field(None, title="Output impedance")
    common_mode_db: Rejection | None = Field(None, title="Input rejects common mode by (differential inputs)")
    sense_v: LineVolts | None = Field(None, title="Audio sensing wakes from")
    gain_kept_db: Annotated[float, Field(ge=-80, le=40)] | None = Field(None, title="Gain kept at (empty: the best)")

    @model_validator(mode="after")
    def _gain_runs_upwards(self) -> Self:
        if self.gain_low_db is not None and self.gain_high_db is not None and self.gain_low_db > self.gain_high_db:
            raise ValueError(f"the lowest gain must not be above the highest{OTHER_END_FIRST}")
        return self


class FuseHolder(PartBase):
    kind: Literal["fuse holder"] = "fuse holder"
    family: Literal["blade", "maxi", "strip"] = Field("strip", title="Takes fuses")
    terminal_area_max_mm2: Annotated[float, Field(gt=0, le=120)] = Field(title="Holder takes wire up to")
    circuits: Annotated[int, Field(ge=1, le=12)] = Field(1, title="Circuits it has room for")


class Driver(PartBase):
    """A speaker, or a set of equal ones, for positions the car has. Sizes as its maker states them."""

    kind: Literal["driver"] = "driver"
    role: Literal["coaxial", "woofer", "tweeter", "full range"] = Field("coaxial", title="What it is")
    at_ids: Annotated[tuple[Identifier, ...], Ref("speaker")] = Field((), max_length=8, title="Goes into")
    pieces: Pieces | None = Field(None, title="Pieces in the pack")
    own_high_pass: bool = Field(False, title="Comes with its own capacitor or crossover")
    impedance_ohm: Impedance = Field(4.0, title="Nominal impedance")
    dc_resistance_ohm: Impedance | None = Field(None, title="DC resistance")
    power_rms_w: Watts = Field(title="RMS power, each")
    sensitivity_db: Annotated[float, Field(ge=60, le=120)] | None = Field(None, title="Sensitivity, 1 W at 1 m")
    mounting_depth_mm: SizeMm = Field(title="Mounting depth")
    cut_out_mm: SizeMm = Field(title="Cut-out it needs")
    frame_mm: SizeMm = Field(title="Frame, outer diameter")
    front_height_mm: Annotated[float, Field(ge=0, le=300)] = Field(title="Stands proud of its flange")
    cup_height_mm: SizeMm | None = Field(None, title="Its surface cup stands out, of a tweeter")
    on_surface: bool = Field(False, title="In its cup on the surface, of a tweeter")
    own_box: bool = Field(False, title="Sold in a box, or one is there for it")
    fs_hz: Annotated[float, Field(gt=5, le=5000)] | None = Field(None, title="Resonance in free air (fs)")
    qms: Quality | None = Field(None, title="Mechanical Q (Qms)")
    qes: Quality | None = Field(None, title="Electrical Q (Qes)")
    le_mh: Annotated[float, Field(ge=0, le=50)] | None = Field(None, title="Coil inductance (Le)")

    @property
    def in_cup(self) -> bool:
        """Whether it sits in a cup on the surface: nothing behind it is needed but a hole for its leads."""
        return self.on_surface and self.role == "tweeter"


class ChargingRelay(PartBase):
    """What parts two batteries while the engine rests and joins them while it charges."""

    ports = frozenset({"positive"})
    kind: Literal["charging relay"] = "charging relay"
    how: Literal["relay", "diode isolator", "DC-DC charger"] = Field("relay", title="What it is")
    current_a: Annotated[float, Field(gt=0, le=500)] = Field(title="Carries, or charges with")
    terminal_area_max_mm2: Annotated[float, Field(gt=0, le=120)] = Field(35.0, title="Terminal takes up to")


class StiffeningCapacitor(PartBase):
    """A large capacitor across an amplifier's supply."""

    ports = frozenset({"positive", "ground"})
    kind: Literal["capacitor"] = "capacitor"
    capacitance_f: Annotated[float, Field(gt=0, le=1000)] = Field(1.0, title="Capacitance")
    own_ohm: Annotated[float, Field(ge=0, le=1)] = Field(0.002, title="Its own resistance (ESR)")
    rated_v: Annotated[float, Field(gt=0, le=1000)] = Field(16.0, title="Rated voltage")
    terminal_area_max_mm2: Annotated[float, Field(gt=0, le=120)] = Field(21.2, title="Terminal takes up to")


class Said(StrEnum):
    """Whether a part has something, as its papers say."""

    UNSAID = "its papers do not say"
    YES = "yes"
    NO = "no"


class HeadUnit(PartBase):
    """A radio to fit into the dash."""

    ports = frozenset({"power", "line-out", "remote", "remote-out"})
    kind: Literal["radio"] = "radio"
    width_mm: SizeMm = Field(178.0, title="Width")
    height_mm: SizeMm = Field(50.0, title="Height")
    depth_mm: SizeMm = Field(title="Depth with plugs")
    screen: bool = Field(False, title="Has a screen")
    camera_input: Said = Field(Said.UNSAID, title="Camera input")
    hands_free: Said = Field(Said.UNSAID, title="Hands-free of its own")
    wheel_input: Said = Field(Said.UNSAID, title="Input for steering-wheel buttons")
    digital_tuner: Said = Field(Said.UNSAID, title="Digital tuner")
    power_w: Watts = Field(18.0, title="RMS power per channel at 4 Ω")
    lowest_load_ohm: Impedance = Field(4.0, title="Lowest permitted load")
    line_v: LineVolts | None = Field(None, title="Line output")
    line_pairs: Annotated[int, Field(ge=0, le=5)] = Field(0, title="RCA line output pairs")
    line_output_ohm: LineOhms | None = Field(None, title="Line output impedance")
    clip_step: Name = Field("", title="Last clean volume step")
    remote_out_limit_a: SmallAmperes | None = Field(0.3, title="Remote lead gives")
    supply_current_a: Annotated[float, Field(gt=0, le=40)] = Field(5.0, title="Draws at full level")
    standby_a: SmallAmperes | None = Field(None, title="Draws while switched off")
    fuse_a: Annotated[float, Field(gt=0, le=40)] = Field(10.0, title="Fuse its maker names")


class VoltageConverter(PartBase):
    """What makes 12 V of a pack or of 24 V: both poles of the whole pack go in, never part of it."""

    ports = frozenset({"positive"})
    kind: Literal["voltage converter"] = "voltage converter"
    in_low_v: Annotated[float, Field(gt=0, le=1000)] = Field(title="Works from")
    in_high_v: Annotated[float, Field(gt=0, le=1000)] = Field(title="Works up to")
    out_v: Annotated[float, Field(gt=5, le=30)] = Field(13.8, title="Gives")
    current_a: Annotated[float, Field(gt=0, le=500)] = Field(title="Gives, all the time")
    efficiency: Annotated[float, Field(gt=0.3, le=1)] = Field(0.85, title="Efficiency")

    @model_validator(mode="after")
    def _runs_upwards(self) -> Self:
        if self.in_low_v > self.in_high_v:
            raise ValueError(f"the lowest input must not be above the highest{OTHER_END_FIRST}")
        return self


class PoweredSubwoofer(PartBase):
    """A flat bass box with its own amplifier, on a line pair or a speaker-level pair, and a fused feed."""

    ports = frozenset({"power", "ground", "remote", "line-in", "speaker-level"})
    kind: Literal["powered subwoofer"] = "powered subwoofer"
    power_rms_w: Watts = Field(title="RMS power")
    supply_current_a: Annotated[float, Field(gt=0, le=100)] = Field(title="Draws at full level")
    standby_a: SmallAmperes | None = Field(None, title="Draws while switched off")
    idle_current_a: SmallAmperes = Field(0.3, title="Idle current")
    fuse_a: Annotated[float, Field(gt=0, le=100)] = Field(15, title="Fuse its maker names")
    line_low_v: LineVolts = Field(0.2, title="Line input, most sensitive")
    line_high_v: LineVolts | None = Field(None, title="Line input, least sensitive")
    speaker_level_low_v: LineVolts | None = Field(1.0, title="Speaker-level input, most sensitive")
    speaker_level_high_v: LineVolts | None = Field(None, title="Speaker-level input takes up to")
    input_stated_as: StatedAs = Field(StatedAs.RMS, title="Input stated as")
    plays_down_to_hz: Annotated[float, Field(ge=10, le=200)] | None = Field(None, title="Plays down to")
    senses_audio: bool = Field(False, title="Switches on by audio")
    remote_current_a: SmallAmperes = Field(0.05, title="Remote turn-on draws")
    bass_knob: bool = Field(False, title="Comes with a wired bass knob")
    low_pass_low_hz: Hertz | None = Field(None, title="Low-pass, from")
    low_pass_high_hz: Hertz | None = Field(None, title="Low-pass, to")
    terminal_area_max_mm2: Annotated[float, Field(gt=0, le=120)] = Field(8.4, title="Power terminal takes up to")
    length_m: Annotated[float, Field(gt=0, le=3)] = Field(0.25, title="Length along the car")
    width_m: Annotated[float, Field(gt=0, le=3)] = Field(0.34, title="Width across the car")
    height_m: Annotated[float, Field(gt=0, le=3)] = Field(0.08, title="Height")
    mass_kg: Annotated[float, Field(gt=0, le=100)] | None = Field(None, title="Mass")

    @property
    def fuses_a(self) -> tuple[float, ...]:
        """None of its own count: its maker names the fuse of its run."""
        return ()

    @property
    def takes_line(self) -> bool:
        """Whether a line pair may go into it."""
        return self.line_high_v is not None

    @property
    def takes_speaker_level(self) -> bool:
        """Whether a pair of the radio may go straight into it."""
        return self.speaker_level_high_v is not None

    @model_validator(mode="after")
    def _has_an_input(self) -> Self:
        if not self.takes_line and not self.takes_speaker_level:
            raise ValueError("a powered subwoofer needs a line input or a speaker-level input")
        refuse_backwards("low-pass", self.low_pass_low_hz, self.low_pass_high_hz)
        if self.line_low_v > (self.line_high_v or 100):
            raise ValueError(f"the most sensitive line setting must be the smaller voltage{OTHER_END_FIRST}")
        if self.speaker_level_high_v is not None and (self.speaker_level_low_v or 0) > self.speaker_level_high_v:
            raise ValueError(f"the most sensitive speaker-level setting must be the smaller voltage{OTHER_END_FIRST}")
        return self


class CableReel(PartBase):
    """Wire to cut from."""

    kind: Literal["wire"] = "wire"
    wire_size: SizeText = Field(title="Size")
    material: Literal["copper", "tinned_copper", "copper_clad_aluminium"] = Field("copper", title="Material")
    on_reel_m: Annotated[float, Field(gt=0, le=1000)] = Field(title="Metres on it")
    colour: Name = Field("", title="Insulation")


class LineCable(PartBase):
    """A screened line cable with its plugs on, a pair in one jacket: it is laid as it is, and never cut."""

    kind: Literal["line cable"] = "line cable"
    length_m: Annotated[float, Field(gt=0, le=30)] = Field(title="Length")
    pieces: Annotated[int, Field(ge=1, le=50)] = Field(1, title="Pieces")


class FuseLink(PartBase):
    """Fuses of one rating."""

    kind: Literal["fuse"] = "fuse"
    family: Literal["blade", "maxi", "strip"] = Field("strip", title="Family")
    rating_a: Annotated[float, Field(gt=0, le=500)] = Field(title="Rating")
    pieces: Annotated[int, Field(ge=1, le=500)] = Field(1, title="Pieces")


class DistributionBlock(PartBase):
    """Splits one power or ground wire into several."""

    ports = frozenset({"power", "positive", "ground", "stud"})
    kind: Literal["distribution block"] = "distribution block"
    ways: Annotated[int, Field(ge=2, le=12)] = Field(2, title="Ways out")
    in_area_max_mm2: Annotated[float, Field(gt=0, le=120)] = Field(title="Wire in, up to")
    out_area_max_mm2: Annotated[float, Field(gt=0, le=120)] = Field(title="Wires out, up to")
    fused: bool = Field(False, title="A fuse on every way")
    family: Literal["blade", "maxi", "strip"] = Field("strip", title="Takes fuses, where it has them")


OWN_KIND_NOW = ("plug-in amplifier", "powered subwoofer", "processor", "wire", "fuse", "distribution block")


class Accessory(PartBase):
    """A small part with a name and a price; what joins a ring or a bus to amplifiers may have line outputs."""

    ports = frozenset({"power", "remote-out", "line-out"})
    kind: Literal["accessory"] = "accessory"
    category: Literal[
        "capacitor",
        "display",
        "bracket",
        "adapter",
        "amplifier adapter",
        "line adapter",
        "interface",
        "aerial adapter",
        "digital aerial",
        "ring coupler",
        "extension loom",
        "shorting plug",
        "camera",
        "camera adapter",
        "microphone",
        "aerial",
        "consumables",
        "other",
    ] = Field("consumables", title="What it is")
    current_a: SmallAmperes | None = Field(None, title="Draws at full level")
    remote_out_limit_a: SmallAmperes | None = Field(None, title="Switched output gives")
    line_v: LineVolts | None = Field(None, title="Line outputs give, of an amplifier adapter")
    line_pairs: Annotated[int, Field(ge=1, le=6)] | None = Field(None, title="Its line pairs")

    @property
    def is_amplifier_adapter(self) -> bool:
        """Whether it brings an amplifier what a ring or a bus carries."""
        return self.category == "amplifier adapter"

    @property
    def gives_lines(self) -> bool:
        """Whether lines may begin at it, as its papers say."""
        return self.is_amplifier_adapter and self.line_v is not None and self.line_pairs is not None

    @field_validator("category", mode="before")
    @classmethod
    def _kept_from_before(cls, value: object) -> object:
        """Designs of before these had kinds of their own stay readable."""
        return "other" if value in OWN_KIND_NOW else value


Part = Annotated[
    Amplifier | Subwoofer | Box | Converter | FuseHolder | Driver | SeriesCapacitor | HeadUnit | PoweredSubwoofer
    | SeriesCoil | CrossoverNet | SpeakerPad | LoadResistor | LineIsolator | MountingRing | SwitchingRelay | CableReel
    | LineCable | FuseLink | DistributionBlock | ChargingRelay | StiffeningCapacitor | VoltageConverter | Accessory,
    Field(discriminator="kind"),
]  # fmt: skip
PART_TYPES: dict[str, type[PartBase]] = {
    "amplifier": Amplifier,
    "subwoofer": Subwoofer,
    "box": Box,
    "converter": Converter,
    "processor": Converter,
    "powered subwoofer": PoweredSubwoofer,
    "plug-in amplifier": Amplifier,
    "driver": Driver,
    "series capacitor": SeriesCapacitor,
    "series coil": SeriesCoil,
    "crossover net": CrossoverNet,
    "speaker pad": SpeakerPad,
    "load resistor": LoadResistor,
    "line isolator": LineIsolator,
    "mounting ring": MountingRing,
    "switching relay": SwitchingRelay,
    "radio": HeadUnit,
    "fuse holder": FuseHolder,
    "wire": CableReel,
    "line cable": LineCable,
    "fuse": FuseLink,
    "distribution block": DistributionBlock,
    "charging relay": ChargingRelay,
    "capacitor": StiffeningCapacitor,
    "voltage converter": VoltageConverter,
    "accessory": Accessory,
}
