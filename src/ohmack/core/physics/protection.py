"""Fuses: families, standard sizes, and the choice that protects the wire and carries the load."""

from __future__ import annotations

from functools import cache

from ohmack.core.errors import UnknownName, require
from ohmack.core.record import record
from ohmack.core.reference import Source, table

FAMILIES = ("blade", "maxi", "strip")


@record
class FuseFamily:
    """One family of fuses: sizes in A, ascending."""

    name: str
    title: str
    ratings_a: tuple[float, ...]
    voltage_v: float
    largest_area_mm2: float
    source: Source


@record
class FuseChoice:
    """One standard size judged for one wire and one current."""

    rating_a: float
    fits: bool
    reason: str


@cache
def family(name: str) -> FuseFamily:
    """A fuse family by name.

    Raises:
        UnknownName: no such family.
    """
    if name not in FAMILIES:
        raise UnknownName("fuse family", name, ", ".join(FAMILIES))
    raw = table("fuses", name)
    return FuseFamily(
        name,
        raw["title"],
        tuple(map(float, raw["ratings_a"])),
        raw["voltage_v"],
        raw["largest_area_mm2"],
        raw["source"],
    )


def fuse_resistance_ohm(rating_a: float) -> float:
    """Resistance of a fuse in its holder.

    Parameters:
        rating_a: fuse rating [a].

    Returns:
        resistance [ohm].

    Raises:
        OutOfRange: the rating is not above zero.

    Formula: 0.07 V over the rating. Source: common practice.
    """
    require("rating_a", rating_a, "A")
    return float(table("fuses", "voltage_drop")["at_rating_v"] / rating_a)


def best_fuse(family_name: str, current_a: float, ampacity_a: float, headroom: float) -> FuseChoice:
    """The standard size to take: the smallest with head-room that the wire allows, else the nearest thing to it.

    Parameters:
        family_name: "blade", "maxi" or "strip".
        current_a: peak design current [a].
        ampacity_a: ampacity of the smallest conductor behind the fuse [a].
        headroom: design current over fuse rating, 0.8 by default policy.

    Returns:
        the choice; where it does not fit, its reason names the binding limit.

    Raises:
        OutOfRange: a current or head-room that is not above zero.
        UnknownName: no such family.

    Source: rating at or above current / 0.8 and at most the ampacity, common practice.
    """
    return _judged(best_rating_a(family_name, current_a, ampacity_a, headroom), current_a, ampacity_a, headroom)


def best_rating_a(family_name: str, current_a: float, ampacity_a: float, headroom: float) -> float:
    """The rating of `best_fuse` alone, without its reason.

    Parameters, errors and source as `best_fuse`.

    Returns:
        rating [a].

    Raises:
        OutOfRange: as `best_fuse`.
        UnknownName: as `best_fuse`.
    """
    require("current_a", current_a, "A")
    require("ampacity_a", ampacity_a, "A")
    require("headroom", headroom, "", up_to=1)
    ratings_a = family(family_name).ratings_a
    wanted_a = current_a / headroom
    below_a = ratings_a[0]
    for rating_a in ratings_a:
        if rating_a > ampacity_a:
            break
        if rating_a >= wanted_a:
            return rating_a
        below_a = rating_a
    return below_a


def _judged(rating_a: float, current_a: float, ampacity_a: float, headroom: float) -> FuseChoice:
    wanted_a = current_a / headroom
    if rating_a > ampacity_a:
        reason = f"over the {ampacity_a:.0f} A the wire may carry"
    elif rating_a < current_a:
        reason = f"blows: {current_a:.0f} A flow through it"
    elif rating_a < wanted_a:
        reason = f"carries {current_a:.0f} A with less head-room than wanted"
    else:
        reason = f"at or above {wanted_a:.0f} A and within the wire's {ampacity_a:.0f} A"
    return FuseChoice(rating_a, wanted_a <= rating_a <= ampacity_a, reason)


def choose_fuse(family_name: str, current_a: float, ampacity_a: float, headroom: float) -> tuple[FuseChoice, ...]:
    """Every standard size of a family, judged: the one to take first, then the rest by size.

    Parameters, errors and source as `best_fuse`.

    Returns:
        ranked choices, each with its reason.

    Raises:
        OutOfRange: as `best_fuse`.
        UnknownName: as `best_fuse`.
    """
    best = best_fuse(family_name, current_a, ampacity_a, headroom)
    rest = [
        _judged(rating_a, current_a, ampacity_a, headroom)
        for rating_a in family(family_name).ratings_a
        if rating_a != best.rating_a
    ]
    return (best, *sorted(rest, key=lambda choice: (not choice.fits, choice.rating_a)))
