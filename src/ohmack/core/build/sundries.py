"""Ties, loom, tape and grommets by the way the cables take; what a fuse, a holder, a ring costs."""

from __future__ import annotations

from decimal import Decimal
from math import ceil
from typing import TYPE_CHECKING

from ohmack.core.build.laid_ways import Stretch, new_crossings, new_ways, stretches
from ohmack.core.document import Design
from ohmack.core.document.part import Phase
from ohmack.core.document.parts import Accessory
from ohmack.core.record import record
from ohmack.core.reference import table

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


@record
class Sundry:
    """One kind of small material: what is used up, how much is bought, what the used share costs."""

    what: str
    used: float
    unit: str  # piece or m
    packs: int
    packed: str  # bag, coil, roll; empty where it is sold singly
    pack: int  # how much is in one
    price: Decimal  # of what is used; nothing where a kit among the parts brings it
    kit: str = ""  # the name of that kit


def sundries(results: Results) -> tuple[Sundry, ...]:
    """What the ways of the new cables take.

    Parameters:
        results: the evaluated plan.

    Returns:
        a row a kind, none of which nothing is needed; bought by the pack, used by the piece. Source: common practice
        (`reference/sundries.toml`).
    """
    used, ways, ends = table("sundries", "used"), stretches(results), 2 * len(new_ways(results))
    ties = {id(way): _ties(way, float(used["tie_every_m"])) for way in ways}
    shared = sum(ties[id(way)] for way in ways if len(way.link_ids) > 1)
    loom_m = sum(way.engine_m for way in ways if way.power)
    passages = len({c.passage_id for c in new_crossings(results) if c.passage_id})
    wanted = {
        "ties": float(sum(ties.values()) + ends), "loom": loom_m, "tape": shared * float(used["tape_turn_m"]),
        "grommets": float(passages),
    }  # fmt: skip
    kit = kit_of(results.design)
    return tuple(_row(name, amount, kit if name in IN_A_KIT else "") for name, amount in wanted.items() if amount > 0)


IN_A_KIT = ("ties", "loom", "tape")  # beside rings and sleeves; common practice


def kit_of(design: Design) -> str:
    """The name of the kit of rings, sleeves, loom and ties among the new parts; empty where there is none."""
    packs = (part for part in design.new_parts_of(Accessory) if part.category == "consumables")
    return next((part.name for part in packs if part.phase is Phase.NOW), "")


def _ties(way: Stretch, every_m: float) -> int:
    return max(0, ceil(way.length_m / every_m - 1e-9) - 1)


def _row(name: str, amount: float, kit: str) -> Sundry:
    sold = table("sundries", name)
    price = (Decimal(str(round(amount, 3))) * Decimal(str(sold["price"]))).quantize(Decimal("0.01"))
    packs = ceil(amount / sold["pack"] - 1e-9)
    return Sundry(
        sold["what"], amount, sold["unit"], packs, sold["packed"], sold["pack"], Decimal(0) if kit else price, kit
    )


def piece_price(name: str) -> float:
    """What one of the small pieces costs that no catalogue lists: fuses, holders, rings, leads, joints.

    Parameters:
        name: of the piece, as in `reference/sundries.toml`: `blade`, `holder_strip`, `y_lead`.

    Raises:
        KeyError: no such piece. Source: common practice.
    """
    return float(table("sundries", "pieces")[name])
