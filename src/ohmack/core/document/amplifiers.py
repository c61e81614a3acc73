"""Amplifiers: ratings by load, channels of one or two kinds, bridging, inputs and filters."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from ohmack.core.document.facts import Hertz, Model, SmallAmperes
from ohmack.core.document.part import Impedance, LineOhms, LineVolts, PartBase, Rejection, Watts
from ohmack.core.record import record


class Rating(Model):
    load_ohm: Impedance
    power_w: Watts


class AmplifierClass(StrEnum):
    D = "D"
    AB = "AB"


class GainKnobs(StrEnum):
    """Which channels of an amplifier one gain knob sets."""

    A_PAIR = "one a pair of channels"
    A_CHANNEL = "one a channel"
    ALIKE = "one for all channels that are alike"


@record
class ChannelGroup:
    """Channels of an amplifier that are alike, as their papers rate them."""

    first: int  # number of its first channel
    count: int
    ratings: tuple[Rating, ...]
    lowest_load_ohm: float
    bridged_ratings: tuple[Rating, ...]
    lowest_bridged_ohm: float | None
    sensitivity_low_v: float
    sensitivity_high_v: float
    second: bool = False  # whether they are the further channels

    @property
    def numbers(self) -> range:
        """The numbers of its channels."""
        return range(self.first, self.first + self.count)


OTHER_END_FIRST = ": change the other end first"


def refuse_backwards(what: str, low: float | None, high: float | None) -> None:
    """Refuse a range that runs backwards; one end alone is not a range yet."""
    if low is not None and high is not None and low > high:
        raise ValueError(f"the {what} range runs backwards: {low:g} to {high:g} Hz{OTHER_END_FIRST}")


class Amplifier(PartBase):
    """An amplifier; ratings are per channel. Further channels that are not like the first, as the fifth of a
    five-channel one, have ratings of their own. A plug-in one takes the factory amplifier's place on its plugs.
    """

    ports = frozenset({"power", "ground", "remote", "line-in", "speaker-level", "channel"})
    kind: Literal["amplifier", "plug-in amplifier"] = Field("amplifier", title="Kind")
    channel_count: Annotated[int, Field(ge=1, le=8)] = Field(1, title="Channels that are alike")
    amplifier_class: AmplifierClass = Field(AmplifierClass.D, title="Class")
    ratings: tuple[Rating, ...] = Field(min_length=1, max_length=8, title="RMS power at 14.4 V by load")
    lowest_load_ohm: Impedance = Field(title="Lowest permitted load")
    bridged_ratings: tuple[Rating, ...] = Field((), max_length=8, title="RMS power of two channels bridged, by load")
    lowest_bridged_ohm: Impedance | None = Field(None, title="Lowest permitted load, bridged")
    further_count: Annotated[int, Field(ge=0, le=7)] = Field(0, title="Further channels, rated otherwise")
    further_ratings: tuple[Rating, ...] = Field((), max_length=8, title="Further: RMS power at 14.4 V by load")
    further_lowest_ohm: Impedance | None = Field(None, title="Further: lowest permitted load")
    further_bridged_ratings: tuple[Rating, ...] = Field((), max_length=8, title="Further: RMS power bridged, by load")
    further_lowest_bridged_ohm: Impedance | None = Field(None, title="Further: lowest permitted load, bridged")
    regulated: bool = Field(True, title="Regulated supply")
    efficiency: Annotated[float, Field(gt=0.1, le=1)] | None = Field(None, title="Efficiency at full power")
    idle_current_a: SmallAmperes = Field(0.8, title="Idle current")
    standby_a: SmallAmperes | None = Field(None, title="Draws while switched off")
    fuses_a: tuple[Annotated[float, Field(gt=0, le=500)], ...] = Field((), max_length=6, title="Own fuses")
    terminal_area_max_mm2: Annotated[float, Field(gt=0, le=120)] = Field(title="Power terminal takes up to")
    terminal_count: Annotated[int, Field(ge=1, le=4)] = Field(1, title="Power terminals, plus and minus each")
    sensitivity_low_v: LineVolts = Field(title="Sensitivity, most sensitive")
    sensitivity_high_v: LineVolts = Field(title="Sensitivity, least sensitive")
    further_sensitivity_low_v: LineVolts | None = Field(None, title="Further: sensitivity, most sensitive")
    further_sensitivity_high_v: LineVolts | None = Field(None, title="Further: sensitivity, least sensitive")
    speaker_level_low_v: LineVolts | None = Field(None, title="Speaker-level input, most sensitive")
    speaker_level_high_v: LineVolts | None = Field(None, title="Speaker-level input takes up to")
    input_ohm: LineOhms | None = Field(None, title="Line input impedance")
    common_mode_db: Rejection | None = Field(None, title="Line input rejects common mode by (differential inputs)")
    damping_factor: Annotated[float, Field(gt=1, le=10000)] | None = Field(None, title="Damping factor, at 4 Ω")
    remote_current_a: SmallAmperes = Field(0.05, title="Remote turn-on draws")
    noise_dbv: Annotated[float, Field(ge=-140, le=0)] | None = Field(None, title="Input noise")
    gain_knobs: GainKnobs = Field(GainKnobs.A_PAIR, title="Gain knobs")
    bass_knob: bool = Field(False, title="Comes with a wired bass knob")
    processor: bool = Field(False, title="Has a processor inside")
    high_pass_low_hz: Hertz | None = Field(None, title="High-pass, from")
    high_pass_high_hz: Hertz | None = Field(None, title="High-pass, to")
    filter_slope_db: Annotated[int, Field(ge=6, le=48, multiple_of=6)] | None = Field(
        None, title="Slope of its filters, an octave"
    )
    low_pass_low_hz: Hertz | None = Field(None, title="Low-pass, from")
    low_pass_high_hz: Hertz | None = Field(None, title="Low-pass, to")

    @property
    def channels(self) -> int:
        """How many channels it has in all."""
        return self.channel_count + self.further_count

    @property
    def groups(self) -> tuple[ChannelGroup, ...]:
        """Its channels by kind; one group where all are alike."""
        low_v, high_v = self.sensitivity_low_v, self.sensitivity_high_v
        alike = ChannelGroup(
            1, self.channel_count, self.ratings, self.lowest_load_ohm, self.bridged_ratings, self.lowest_bridged_ohm,
            low_v, high_v,
        )  # fmt: skip
        if not self.further_count:
            return (alike,)
        further = ChannelGroup(
            self.channel_count + 1, self.further_count, self.further_ratings,
            self.further_lowest_ohm or self.lowest_load_ohm, self.further_bridged_ratings,
            self.further_lowest_bridged_ohm, self.further_sensitivity_low_v or low_v,
            self.further_sensitivity_high_v or high_v, True,
        )  # fmt: skip
        return alike, further

    def group_of(self, channel: int) -> ChannelGroup:
        """The group a channel belongs to; the last one for a channel it does not have."""
        return next((group for group in self.groups if channel in group.numbers), self.groups[-1])

    def knob_of(self, channel: int) -> tuple[int, ...]:
        """The channels one knob sets with this one, as its papers say; in a processor each by itself."""
        own = self.group_of(channel).numbers
        if self.processor or self.gain_knobs is GainKnobs.A_CHANNEL or channel not in own:
            return (channel,)
        return tuple(own) if self.gain_knobs is GainKnobs.ALIKE else self.pair_of(channel)

    def pair_of(self, channel: int) -> tuple[int, ...]:
        """The channels that share one filter with this one: a pair of alike ones, in a processor each by itself."""
        own = self.group_of(channel).numbers
        if self.processor or channel not in own:
            return (channel,)
        first = channel - (channel - own[0]) % 2
        return tuple(n for n in (first, first + 1) if n in own)

    @property
    def plugs_in(self) -> bool:
        """Whether it hangs on the factory amplifier's plugs."""
        return self.kind == "plug-in amplifier"

    @property
    def takes_speaker_level(self) -> bool:
        """Whether a pair of the radio may go straight into it."""
        return self.speaker_level_high_v is not None

    @model_validator(mode="after")
    def _sensitivity_runs_upwards(self) -> Self:
        if self.sensitivity_low_v > self.sensitivity_high_v:
            raise ValueError(f"the most sensitive setting must be the smaller voltage{OTHER_END_FIRST}")
        if (self.speaker_level_low_v or 0) > (self.speaker_level_high_v or 100):
            raise ValueError(f"the most sensitive speaker-level setting must be the smaller voltage{OTHER_END_FIRST}")
        for rows in (self.ratings, self.bridged_ratings, self.further_ratings, self.further_bridged_ratings):
            if len({rating.load_ohm for rating in rows}) != len(rows):
                raise ValueError("two ratings for one load")
        if bool(self.bridged_ratings) != (self.lowest_bridged_ohm is not None):
            raise ValueError("bridged ratings and the lowest bridged load go together")
        if self.bridged_ratings and self.channel_count < 2:
            raise ValueError("bridging takes two channels")
        return self

    @model_validator(mode="after")
    def _filters_run_up(self) -> Self:
        refuse_backwards("high-pass", self.high_pass_low_hz, self.high_pass_high_hz)
        refuse_backwards("low-pass", self.low_pass_low_hz, self.low_pass_high_hz)
        return self

    @model_validator(mode="after")
    def _further_channels_are_whole(self) -> Self:
        if self.channels > 8:
            raise ValueError("an amplifier has 8 channels at most, all kinds together")
        if not self.further_count:
            return self  # what is said of channels it does not have is of no matter
        if not self.further_ratings or self.further_lowest_ohm is None:
            raise ValueError("further channels need their RMS power by load and their lowest load first")
        if self.further_bridged_ratings and self.further_count < 2:
            raise ValueError("bridging takes two channels of a kind")
        low_v = self.further_sensitivity_low_v or self.sensitivity_low_v
        if low_v > (self.further_sensitivity_high_v or self.sensitivity_high_v):
            what = "the most sensitive setting of the further channels"
            raise ValueError(f"{what} must be the smaller voltage{OTHER_END_FIRST}")
        return self
