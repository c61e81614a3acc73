"""What is drawn on a 12 V side, as the batteries behind its converter see it."""

from __future__ import annotations

from ohmack.core.document.amplifiers import Amplifier, AmplifierClass
from ohmack.core.document.parts import DistributionBlock, VoltageConverter
from ohmack.core.document.vehicle import SystemVoltage
from ohmack.core.figures.figure import Book, Figure, Formula, Term, reference
from ohmack.core.network.states import twelve_volt_side
from ohmack.core.reference import PHYSICS, table
from ohmack.core.supply.results import Consumer

AT_BATTERIES = Formula(
    "As the batteries see it", "a", "I × V_out / (efficiency × V_post)",
    lambda amps, out_v, share, post_v: amps * out_v / (share * post_v), PHYSICS,
)  # fmt: skip


def through_converter(book: Book, resting: bool = False) -> tuple[Term, Term, Term] | None:
    """(what the converter gives, its efficiency, what the batteries hold); None in a 12 V car."""
    out = twelve_volt_side(book)
    if out is None:
        return None
    part = next(book.design.parts_of(VoltageConverter), None)
    row = table("supply", "converter_12v")
    share = (
        book.part(part, lambda it: it.efficiency, "efficiency")
        if part is not None
        else reference("efficiency", float(row["efficiency"]), "", row["source"])
    )
    supply = book.design.vehicle.supply
    never_runs = supply.system.value is SystemVoltage.PACK
    holds = (
        book.fact(supply, lambda it: it.post_resting_v, "battery post, resting", "v")
        if resting or never_runs
        else book.fact(supply, lambda it: it.post_running_v, "battery post, engine running", "v")
    )
    return out, share, holds


def at_batteries(book: Book, figure: Figure, resting: bool = False) -> Figure:
    """A current of the 12 V side as the batteries see it, engine running or off: itself in a 12 V car."""
    terms = through_converter(book, resting)
    if terms is None:
        return figure
    return book.figure(
        f"{figure.id}_at_batteries", AT_BATTERIES, figure, *terms, name=f"{figure.name}, at the batteries"
    )


def idle_at_batteries(book: Book, part: Consumer | DistributionBlock, resting: bool = False) -> Term:
    """What a part draws without music, as the batteries see it."""
    idle = book.part(part, lambda it: getattr(it, "idle_current_a", None), "idle current", "a")
    terms = through_converter(book, resting)
    if terms is None:
        return idle
    figure_id = f"{part.id}/idle_{'off' if resting else 'on'}_a_at_batteries"
    return book.figure(figure_id, AT_BATTERIES, idle, *terms, name=f"{part.name} idling, at the batteries").term


def follows_level(part: object) -> bool:
    """Whether a part's current follows its level rather than its power."""
    return isinstance(part, Amplifier) and part.amplifier_class is AmplifierClass.AB
