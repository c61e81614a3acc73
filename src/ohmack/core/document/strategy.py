"""Which way a job goes about it, and what weighs how much for this customer."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated

from pydantic import Field

from ohmack.core.document.facts import Model


class StrategyKey(StrEnum):
    """The ways of adding sound to a factory system."""

    RADIO_PICKUP = "pick up at the radio"
    AFTER_AMPLIFIER = "pick up after the factory amplifier"
    RADIO_KEEP_AMPLIFIER = "new radio on the factory amplifier"
    RADIO_BYPASS = "new radio, factory amplifier bypassed"
    REPLACE_AMPLIFIER = "plug-in amplifier in place of the factory one"
    POWERED_SUB = "powered subwoofer"
    DRIVER_SWAP = "new speakers on factory power"
    DOORS_AMPLIFIED = "new speakers on an amplifier of their own"
    ALL_AMPLIFIED = "new speakers and a subwoofer on one amplifier"
    ALL_NEW = "new radio, speakers and a subwoofer on one amplifier"
    NEW_RADIO = "new radio alone"
    SCREEN_ON_TOP = "factory radio hidden, a screen on its input"


Weight = Annotated[float, Field(ge=0, le=5)]


class Weights(Model):
    """What the customer cares about, 0 not at all to 5 most."""

    sound: Weight = Field(3.0, title="What it does for the wishes")
    functions: Weight = Field(3.0, title="Functions kept")
    reversible: Weight = Field(1.0, title="Goes back to original")
    cost: Weight = Field(2.0, title="Cost")
    time: Weight = Field(1.0, title="Time in the bay")
    robust: Weight = Field(2.0, title="Robust for years")
