"""How a customer uses the car: what the battery has to live with."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated

from pydantic import Field

from ohmack.core.document.facts import Model, Name


class Trip(StrEnum):
    """The drive most days have."""

    TOWN = "town, 20 minutes"
    MIXED = "town and road, 45 minutes"
    MOTORWAY = "motorway, one hour"


Thousandth = Annotated[int, Field(ge=0, le=2000)]  # of full sine power; a square wave has twice that
MUSIC_STEP_S = 0.05


class Music(Model):
    """How loud a piece of music is, every twentieth of a second: all of it, and what of it is bass."""

    name: Name = Field("Music", title="Name")
    whole: tuple[Thousandth, ...] = Field(min_length=1, max_length=1200)
    bass: tuple[Thousandth, ...] = Field(min_length=1, max_length=1200)


class Use(Model):
    """The usual drive, how loud it is, and what charge is kept; the defaults are ordinary use."""

    trip: Trip = Field(Trip.MIXED, title="Usual drive")
    programme_percent: Annotated[float, Field(ge=0, le=100)] = Field(12.5, title="Music on average, of full power")
    reserve_percent: Annotated[float, Field(ge=20, le=95)] = Field(50.0, title="Charge kept, to start and to last, %")
    listens_h: Annotated[float, Field(gt=0, le=200)] | None = Field(None, title="Wants to listen, engine off, hours")
    music: Music | None = None
