"""How warm each power run gets at full load, and its ampacity computed beside the table's, which is the one used."""

from __future__ import annotations

from collections.abc import Sequence

from ohmack.core.figures.figure import Book, Figure, Reading, reference
from ohmack.core.physics.conductor_heat import holds_a, runs_at_c
from ohmack.core.physics.conductors import ENGINE_C, ampacity_a
from ohmack.core.record import record
from ohmack.core.reference import PHYSICS, PRACTICE, table
from ohmack.core.supply.results import SupplyResult

TABLED = Reading("Ampacity by the table, which is used", "a", "listed, × 0.85 in the engine space",
                 lambda of: ampacity_a(of[0], of[1]), PRACTICE)  # fmt: skip
COMPUTED = Reading(
    "Ampacity computed beside it", "a",
    "I² R(t) = convection by Churchill and Chu + radiation of a grey skin, insulation between",
    lambda of: of[0].leads * holds_a(of[0].one_lead, of[2], of[3]), PHYSICS,
)  # fmt: skip
RUNS_AT = Reading(
    "Wire at full load, hour after hour",
    "c",
    "the same, solved for the temperature",
    lambda of: runs_at_c(*of),
    PHYSICS,
)


@record
class WireHeat:
    """One run's wire: both ampacities, and how warm it gets."""

    supply: SupplyResult
    tabled: Figure
    computed: Figure
    runs_at: Figure


def compute_wire_heat(book: Book, supplies: Sequence[SupplyResult]) -> tuple[WireHeat, ...]:
    """The heat of every run whose wire and current are known.

    Parameters:
        book: the book of the design.
        supplies: the runs.

    Returns:
        one entry a run.

    Source: see `physics.conductor_heat`; still air, one wire alone.
    """
    raw, found = table("fuses", "damage"), []
    for supply in supplies:
        current = supply.figures["current"].value
        if supply.chosen is None or current is None:
            continue
        wire, engine, scope = supply.chosen.wire, supply.link.engine_space, supply.part.id
        limit_c, ambient_c = wire.insulation_c, ENGINE_C if engine else float(raw["ambient_c"])
        size = supply.figures["wire"]
        terms = (
            size, reference("insulation", limit_c, "c", raw["source"]), reference("air", ambient_c, "c", PRACTICE)
        )  # fmt: skip
        of = (wire, engine, limit_c, ambient_c)
        found.append(
            WireHeat(
                supply,
                book.reading(f"{scope}/tabled_a", TABLED, of, size),
                book.reading(f"{scope}/computed_a", COMPUTED, of, *terms),
                book.reading(
                    f"{scope}/runs_at_c", RUNS_AT, (wire.one_lead, float(current) / wire.leads, ambient_c), *terms,
                    supply.figures["current"],
                ),
            )
        )  # fmt: skip
    return tuple(found)
