"""Readings of a drop test: volts between two points of a consumer's loop while a stated current flows."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated

from pydantic import Field

from ohmack.core.document.facts import Amperes, Fact, Identifier, Model, SmallVolts
from ohmack.core.document.registry import Gone, Ref


class Section(StrEnum):
    """Where the probes sit."""

    FUSE = "battery + to behind the fuse"
    RUN = "behind the fuse to its + terminal"
    GROUND = "its − terminal to the body beside its stud"
    BODY = "body there to body at the battery"
    STRAP = "body at the battery to battery −"


class DropReading(Model):
    """One reading; a second one between the same points takes its place."""

    id: Identifier
    consumer_id: Annotated[Identifier, Ref("consumer", Gone.GOES_TOO, offered=False)] = Field(title="Loop of")
    section: Section = Field(title="Probes at")
    voltage_v: Fact[SmallVolts] = Field(default_factory=Fact, title="Meter reads")
    current_a: Amperes = Field(title="While so much flows")
