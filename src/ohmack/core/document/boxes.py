"""Boxes for subwoofers: what kind, what air, how they open, and the boards of one that is built."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated, Literal

from pydantic import Field

from ohmack.core.document.facts import Model
from ohmack.core.document.part import PartBase, SizeMm

Litres = Annotated[float, Field(gt=0, le=1000)]
BoardMetres = Annotated[float, Field(gt=0.1, le=6)]


class VentShape(StrEnum):
    ROUND = "round"
    SLOT = "slot"


class Vents(Model):
    """The vents of a box, all alike; a length that is not given is the one its tuning wants."""

    count: Annotated[int, Field(ge=1, le=6)] = Field(1, title="Vents")
    shape: VentShape = Field(VentShape.ROUND, title="Shape of a vent")
    diameter_mm: SizeMm | None = Field(None, title="Vent, inner diameter")
    width_mm: SizeMm | None = Field(None, title="Slot, width")
    height_mm: SizeMm | None = Field(None, title="Slot, height")
    length_mm: SizeMm | None = Field(None, title="Vent length (empty: as the tuning wants)")


class PassiveRadiators(Model):
    """The passive radiators of a box, all alike."""

    count: Annotated[int, Field(ge=1, le=4)] = Field(1, title="Passive radiators")
    area_cm2: Annotated[float, Field(gt=0, le=5000)] | None = Field(None, title="Radiator, cone area")
    mass_g: Annotated[float, Field(gt=0, le=5000)] | None = Field(None, title="Radiator, moving mass with added weight")
    air_l: Litres | None = Field(None, title="Radiator, equivalent volume (Vas)")
    travel_mm: SizeMm | None = Field(None, title="Radiator, travel one way")


class Board(StrEnum):
    MDF = "MDF"
    BIRCH = "birch plywood"


class Corner(Model):
    """A corner of a box's side, from outside: how far behind the front, how high over the floor."""

    behind_mm: Annotated[float, Field(ge=0, le=3000)] = Field(title="Behind the front")
    up_mm: Annotated[float, Field(ge=0, le=3000)] = Field(title="Over the floor")


class Boards(Model):
    """How a box is built; no thickness: it is bought ready-made."""

    thickness_mm: Annotated[float, Field(gt=2, le=60)] | None = Field(None, title="Board thickness (empty: bought)")
    material: Board = Field(Board.MDF, title="Board")
    top_length_m: Annotated[float, Field(gt=0, le=3)] | None = Field(
        None, title="Length at the top (empty: as at the bottom)"
    )
    corners: tuple[Corner, ...] = Field((), max_length=10, title="Corners of its side (empty: block or wedge)")
    fronts: Annotated[int, Field(ge=1, le=3)] = Field(1, title="Boards of the front")
    braces: Annotated[int, Field(ge=0, le=6)] = Field(0, title="Braces across")
    board_length_m: BoardMetres = Field(2.5, title="A board is long")
    board_width_m: BoardMetres = Field(1.25, title="A board is wide")


class Chambers(StrEnum):
    """How several drivers share a box."""

    COMMON = "one chamber"
    EACH = "a chamber each"
    ISOBARIC = "isobaric pairs"


class Stuffing(StrEnum):
    NONE = "none"
    LIGHT = "light"
    FULL = "full"


class Box(PartBase):
    ports = frozenset({"box"})
    kind: Literal["box"] = "box"
    box_type: Literal["closed", "vented", "passive radiator", "bandpass", "free air"] = Field("closed", title="Box")
    net_volume_l: Litres = Field(title="Net volume")
    front_volume_l: Litres | None = Field(None, title="Front chamber of a bandpass, net")
    tuning_hz: Annotated[float, Field(gt=5, le=200)] | None = Field(None, title="Tuned to")
    chambers: Chambers = Field(Chambers.COMMON, title="Several drivers share")
    stuffing: Stuffing = Field(Stuffing.NONE, title="Stuffing")
    vents: Vents = Field(default_factory=Vents, title="Vents")
    radiators: PassiveRadiators = Field(default_factory=PassiveRadiators, title="Passive radiators")
    boards: Boards = Field(default_factory=Boards, title="Boards")
    mass_kg: Annotated[float, Field(gt=0, le=300)] = Field(title="Mass with driver")
    length_m: Annotated[float, Field(gt=0, le=3)] = Field(0.4, title="Length along the car")
    width_m: Annotated[float, Field(gt=0, le=3)] = Field(0.5, title="Width across the car")
    height_m: Annotated[float, Field(gt=0, le=3)] | None = Field(None, title="Height")
    openings: Annotated[int, Field(ge=1, le=8)] = Field(1, title="Openings for drivers, where it is bought")
    cut_out_mm: SizeMm | None = Field(None, title="Opening for the driver")
    depth_mm: SizeMm | None = Field(None, title="Clear depth behind the opening")
