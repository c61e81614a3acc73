"""How two wires are joined: what suits their sizes, what sleeve and what ferrule it takes."""

from __future__ import annotations

from enum import StrEnum
from functools import lru_cache
from math import pi, sqrt
from typing import NamedTuple

from ohmack.core.document.harness import JointMethod
from ohmack.core.errors import OutOfRange
from ohmack.core.reference import table

SCHOOL = {
    "plug adapter first": (
        JointMethod.ADAPTER,
        JointMethod.SCREW_LOCK,
        JointMethod.SEALED_CRIMP,
        JointMethod.CRIMP,
        JointMethod.SOLDER,
    ),
    "crimp": (
        JointMethod.CRIMP,
        JointMethod.SEALED_CRIMP,
        JointMethod.SOLDER_SLEEVE,
        JointMethod.SOLDER,
        JointMethod.ADAPTER,
    ),
    "solder": (
        JointMethod.SOLDER,
        JointMethod.SOLDER_SLEEVE,
        JointMethod.SEALED_CRIMP,
        JointMethod.CRIMP,
        JointMethod.ADAPTER,
    ),
}


def insulated_mm(area_mm2: float) -> float:
    """The outer diameter of an insulated wire.

    Parameters:
        area_mm2: copper area [mm2].

    Returns:
        diameter [mm]: stranded copper with its insulation.

    Raises:
        OutOfRange: no area.

    Source: geometry; stranding and insulation common practice.
    """
    if not 0 < area_mm2 < float("inf"):
        raise OutOfRange("area_mm2", area_mm2, "mm²", "above 0")
    rows = table("harness", "heat_shrink")
    return 2 * sqrt(area_mm2 / pi) * float(rows["stranding"]) + 2 * float(rows["insulation_mm"])


def shrink_for_mm(one_mm2: float, other_mm2: float) -> float | None:
    """The heat-shrink over a joint of two wires.

    Parameters:
        one_mm2: one wire's area [mm2].
        other_mm2: the other's [mm2].

    Returns:
        supplied inner diameter [mm] of the smallest tube that slides over the thicker wire and closes on the thinner;
        None where no size does both.

    Raises:
        OutOfRange: no area.
    """
    rows = table("harness", "heat_shrink")
    thick, thin = insulated_mm(max(one_mm2, other_mm2)), insulated_mm(min(one_mm2, other_mm2))
    fits = (mm for mm in rows["supplied_mm"] if mm >= rows["clearance"] * thick and mm / rows["ratio"] <= thin)
    return next(fits, None)


def ferrule_for_mm2(area_mm2: float) -> float | None:
    """The ferrule for a stranded end: the smallest rated area that takes it; None beyond the largest."""
    return next((a for a in table("harness", "ferrules")["area_mm2"] if a >= area_mm2 * 0.999), None)


class Against(StrEnum):
    """What speaks against a way to join two wires."""

    SIZE = "size"
    RATIO = "ratio"
    NOT_WHOLE = "not whole again"
    CUTS_STRANDS = "cuts strands"

    @property
    def fails(self) -> bool:
        """Whether it does not hold at all."""
        return self in (Against.SIZE, Against.RATIO)


class Judged(NamedTuple):
    """A way to join two wires, why or why not, and what speaks against it."""

    method: JointMethod
    reason: str
    against: Against | None


@lru_cache(maxsize=1024)  # most leads of a car are of a few sizes
def rank_methods(school: str, car_mm2: float, lead_mm2: float, *, tap: bool, reversible: bool) -> tuple[Judged, ...]:
    """Every way to join two wires, the shop's best first, each with why or why not.

    Parameters:
        school: the shop's school.
        car_mm2: the factory wire [mm2].
        lead_mm2: the aftermarket lead [mm2].
        tap: True where the factory wire goes on working behind the joint.
        reversible: True where the car must go back to original.

    Returns:
        the ways; those that do not suit come last and say so. Source: common practice.
    """
    order = SCHOOL[school]
    rows = table("harness", "joints")
    ratio = max(car_mm2, lead_mm2) / min(car_mm2, lead_mm2)
    found: list[tuple[tuple[bool, int], Judged]] = []
    for method in JointMethod:
        row = rows[method.value]
        against: Against | None = None
        bad = ""
        if not row["low_mm2"] <= min(car_mm2, lead_mm2) or not max(car_mm2, lead_mm2) <= row["high_mm2"]:
            against, bad = Against.SIZE, f"made for {row['low_mm2']:g} to {row['high_mm2']:g} mm²"
        elif ratio > row["ratio"] * 1.0001:
            against = Against.RATIO
            bad = f"holds two wires up to {row['ratio']:g} times apart, these are {ratio:.1f}"
        elif reversible and not row["whole"]:
            against, bad = Against.NOT_WHOLE, "does not come off again whole, and the car must go back to original"
        elif method is JointMethod.TAP:
            against, bad = Against.CUTS_STRANDS, "cuts strands and loosens with the years; refused by most shops"
        place = order.index(method) if method in order else len(order)
        good = "the shop's way" if place == 0 else "reversible" if row["whole"] else "permanent"
        if tap and row["cut"] and not against:
            good += "; the factory wire is opened and goes on behind it"
        found.append(((against is not None, place), Judged(method, bad or good, against)))
    return tuple(judged for _, judged in sorted(found, key=lambda f: f[0]))
