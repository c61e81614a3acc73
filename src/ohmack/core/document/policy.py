"""The shop's schools and limits. Every number here is a policy default, changeable on the policy page."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated, Literal

from pydantic import BeforeValidator, Field

from ohmack.core.document.facts import Model

Fraction = Annotated[float, Field(ge=0, le=1)]
GroundSchool = Annotated[
    Literal["bare-metal stud", "factory ground bolt", "self-tapping screw", "battery negative"],
    BeforeValidator(lambda value: "bare-metal stud" if value in ("seat bolt", "seat-belt bolt") else value),
]
"""Where a shop grounds; bolts that hold a person in a crash are no way to choose (once they could be)."""


class GainSchool(StrEnum):
    """How a shop sets gains."""

    METER = "meter: to a target voltage"
    SCOPE = "scope or distortion detector: to where it clips, and back"
    LIGHT = "clip light: until it comes on, and back"
    EAR = "by ear at 70 to 75 % of the volume"


class CrossoverSchool(StrEnum):
    """Where a shop lets large door speakers begin above a subwoofer."""

    POWER = "power handling: from about 80 Hz"
    FULL = "full sound: large doors from 45 Hz"


class Policy(Model):
    """Limits and schools; defaults are common practice."""

    drop_limit_v: Annotated[float, Field(gt=0, le=3)] = Field(0.50, title="Voltage drop allowed around the loop")
    fuse_distance_m: Annotated[float, Field(gt=0, le=2)] = Field(0.45, title="Main fuse from the post, at most")
    current_school: Literal["calculated", "amplifier fuses"] = Field("calculated", title="Design current")
    fuse_headroom: Annotated[float, Field(gt=0.3, le=1)] = Field(0.8, title="Design current over fuse rating")
    tone_dbfs: Annotated[float, Field(ge=-40, le=0)] = Field(0.0, title="Test tone level")
    gain_school: GainSchool = Field(GainSchool.METER, title="Gains are set")
    crossover_school: CrossoverSchool = Field(CrossoverSchool.POWER, title="Doors above a subwoofer play")
    tone_hz: Annotated[float, Field(ge=20, le=2000)] = Field(50.0, title="Test tone frequency")
    overlap_db: Annotated[float, Field(ge=0, le=15)] = Field(0.0, title="How far music may push past full power")
    ground_school: GroundSchool = Field("bare-metal stud", title="Ground at")
    ground_lead_max_m: Annotated[float, Field(gt=0, le=3)] = Field(0.5, title="Ground lead, at most")
    wire_system: Literal["AWG", "mm2"] = Field("AWG", title="Wire sizes")
    length_unit: Literal["m", "ft"] = Field("m", title="Lengths")
    currency: Annotated[str, Field(max_length=8)] = Field("EUR", title="Currency")
    rise_m: Annotated[float, Field(ge=0, le=2)] = Field(0.3, title="Rise at each end")
    slack_fraction: Fraction = Field(0.05, title="Slack")
    efficiency_class_d: Annotated[float, Field(gt=0.1, le=1)] = Field(0.80, title="Class D efficiency at full power")
    efficiency_class_ab: Annotated[float, Field(gt=0.1, le=1)] = Field(0.55, title="Class AB efficiency at full power")
    hot_conductor_c: Annotated[float, Field(ge=20, le=105)] = Field(60.0, title="Hot conductor")
    match_low: Annotated[float, Field(gt=0, le=1)] = Field(0.75, title="Least amplifier power over driver power")
    match_high: Annotated[float, Field(ge=1, le=4)] = Field(1.5, title="Most amplifier power over driver power")
    separation_m: Annotated[float, Field(ge=0, le=2)] = Field(0.3, title="Signal from power, at least")
    speaker_loss_db: Annotated[float, Field(gt=0, le=3)] = Field(0.2, title="Loss in speaker wire, at most")
    feed_fuse_distance_m: Annotated[float, Field(gt=0, le=2)] = Field(
        0.15, title="Converter fuse from its feed, at most"
    )
    fit_margin_mm: Annotated[float, Field(ge=0, le=50)] = Field(5.0, title="Spare to keep when fitting")
    joint_school: Literal["plug adapter first", "crimp", "solder"] = Field("plug adapter first", title="Joints")
    labour_rate: Annotated[float, Field(ge=0, le=1000)] = Field(60.0, title="Labour per hour")
    tax_percent: Annotated[float, Field(ge=0, le=40)] = Field(20.0, title="Tax on a quote")
    deposit_percent: Annotated[float, Field(ge=0, le=100)] = Field(0.0, title="Deposit asked")
    quote_round_to: Literal["0.01", "0.05", "1", "5"] = Field("0.01", title="Quotes are rounded to")
    quote_days: Annotated[int, Field(ge=1, le=365)] = Field(30, title="A quote holds, days")
    bays: Annotated[int, Field(ge=1, le=12)] = Field(2, title="Bays")
    opens_h: Annotated[float, Field(ge=0, le=23)] = Field(8.0, title="The shop opens at")
    closes_h: Annotated[float, Field(ge=1, le=24)] = Field(17.0, title="The shop closes at")
    saturday: Literal["closed", "open"] = Field("closed", title="Saturdays")


def with_tax(policy: Policy, net: float) -> float:
    """What a customer pays for a net price, which a budget is held against: the shop's tax comes on top.

    Parameters:
        policy: the shop's.
        net: the price without tax, in the shop's currency.

    Returns:
        the price with it.
    """
    return net * (1 + policy.tax_percent / 100)
