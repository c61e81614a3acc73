"""The pin map: what the meter says a cavity is, where each cavity sits on the face, and what is found against what
is expected.
"""

from __future__ import annotations

from typing import Literal

from ohmack.core.document import Basis
from ohmack.core.document.harness import Cavity, CavityUse, Connector, Housing, Polarity
from ohmack.core.document.vehicle import Vehicle
from ohmack.core.errors import OutOfRange
from ohmack.core.record import record
from ohmack.core.reference import table

Side = Literal["mating side", "wire side"]
FEEDS = (CavityUse.CONSTANT, CavityUse.SWITCHED, CavityUse.ILLUMINATION, CavityUse.GROUND)


@record
class Spot:
    """Where a cavity sits on the face one looks at: row from the top, column from the left."""

    number: int
    row: int
    column: int


def spot_of(housing: Housing, number: int, side: Side) -> Spot:
    """Where a cavity is seen.

    Parameters:
        housing: the block of cavities.
        number: the cavity's number.
        side: the side one looks at; the other side is the mirror image, left for right.

    Returns:
        row and column, from 0 at the top left.

    Raises:
        OutOfRange: the housing has no such cavity.
    """
    if not 1 <= number <= housing.size:
        raise OutOfRange("cavity", number, "", f"1 to {housing.size}, {housing.rows} rows of {housing.columns}")
    index = number - 1
    if housing.numbered == "down the columns":
        column, row = divmod(index, housing.rows)
    else:
        row, column = divmod(index, housing.columns)
        if housing.numbered == "there and back" and row % 2:
            column = housing.columns - 1 - column
    return Spot(number, row, column if side == housing.numbers_from else housing.columns - 1 - column)


def keyway_of(housing: Housing, side: Side) -> str:
    """The edge the keyway is on, as seen from a side."""
    if side == housing.numbers_from:
        return housing.keyway
    return {"left": "right", "right": "left"}.get(housing.keyway, housing.keyway)


def read_by_meter(cavity: Cavity) -> CavityUse | None:
    """What the readings of a cavity say it is.

    Parameters:
        cavity: its volts with the key off, in accessory, with the lights on, and its ohms to body.

    Returns:
        constant, switched, illumination, ground, or None where the readings do not decide.

    Source: common practice; a dimmed illumination feed shows less than full voltage.
    """
    off, accessory, lights = cavity.off_v, cavity.accessory_v, cavity.lights_v
    if off is None and accessory is None and lights is None and cavity.body_ohm is None:
        return None
    limits = table("harness", "meter")
    if off is not None and off >= limits["live_v"]:
        return CavityUse.CONSTANT
    quiet = off is None or off < limits["dead_v"]
    if accessory is not None and accessory >= limits["live_v"] and off is not None and quiet:
        return CavityUse.SWITCHED
    dark = accessory is not None and accessory < limits["dead_v"]
    if lights is not None and lights >= limits["dim_v"] and dark and quiet:
        return CavityUse.ILLUMINATION
    silent = all(v is None or v < limits["dead_v"] for v in (off, accessory, lights))
    if cavity.body_ohm is not None and cavity.body_ohm <= limits["ground_ohm"] and silent:
        return CavityUse.GROUND
    return None


def meter_contradicts(cavity: Cavity) -> CavityUse | None:
    """What the meter says where it is not what the cavity is taken for; None where they agree or it says nothing."""
    found = read_by_meter(cavity)
    if found is None:
        taken = cavity.taken_for
        dead = (
            cavity.off_v is not None
            and cavity.accessory_v is not None
            and max(cavity.off_v, cavity.accessory_v) < table("harness", "meter")["dead_v"]
        )
        return CavityUse.OTHER if taken in (CavityUse.CONSTANT, CavityUse.SWITCHED) and dead else None
    return found if cavity.taken_for is not found else None


def basis_of(cavity: Cavity) -> Basis | None:
    """What the cavity's use rests on: a reading, papers, or nothing."""
    if cavity.use.value is not None:
        return cavity.use.basis
    return Basis.DOCUMENTED if cavity.expected is not None else None


def channel_pins(connector: Connector, channel_id: str) -> dict[Polarity, Cavity]:
    """The cavities of one speaker pair on a connector, by polarity."""
    return {c.polarity: c for c in connector.cavities if c.channel_id == channel_id and c.polarity is not None}


def use_words(vehicle: Vehicle, cavity: Cavity) -> str:
    """What a cavity is, as it is written on a label: `front left +`, `constant`, `empty`."""
    taken = cavity.taken_for
    if taken in (CavityUse.SPEAKER, CavityUse.LINE) and cavity.channel_id is not None:
        name = next((c.name for c in vehicle.channels if c.id == cavity.channel_id), cavity.channel_id)
        sign = {Polarity.PLUS: " +", Polarity.MINUS: " −"}.get(cavity.polarity, "") if cavity.polarity else ""
        return f"{name}{sign}"
    return taken.value if taken is not None else "not known"
