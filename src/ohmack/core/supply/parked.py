"""The car left standing: what draws from its battery, and how long it still starts."""

from __future__ import annotations

from collections.abc import Container, Sequence

from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.links import FeedLink
from ohmack.core.document.parts import Converter, HeadUnit, PoweredSubwoofer
from ohmack.core.document.vehicle import FeedRole
from ohmack.core.figures.figure import Book, Figure, Formula, Term, reference
from ohmack.core.physics.energy import parked_days
from ohmack.core.record import record
from ohmack.core.reference import PRACTICE, table
from ohmack.core.supply.engine_off import capacity_of, kept_charge
from ohmack.core.supply.post_feeds import battery_of
from ohmack.core.supply.results import SupplyResult
from ohmack.core.supply.second_battery import one_with_first

PARKED = Formula(
    "Parked until the start is at risk", "days", "ln((C + I/s) / (keep × C + I/s)) / s, I all that draws asleep",
    lambda ah, per_day, keep, *amps: parked_days(ah, sum(amps), per_day, keep / 100), PRACTICE,
)  # fmt: skip


@record
class Parked:
    """How long the car may stand with what the plan adds, and how long without it."""

    days: Figure
    before: Figure  # with what the car itself draws
    asleep: tuple[Term, ...]  # what draws while it stands
    silent: tuple[str, ...]  # parts whose papers do not say what they draw switched off

    @property
    def added_a(self) -> float:
        """What the parts of the plan draw asleep, as far as their papers say [a]."""
        return float(sum(term.value for term in self.asleep[1:]))


def _hung_on_another(design: Design, here: Container[str]) -> set[str]:
    """What hangs on constant feeds of other batteries alone, by its id."""
    feeds = {feed.id: feed for feed in design.vehicle.feeds}
    links = [link for link in design.links_of(FeedLink) if feeds[link.from_id].role is FeedRole.CONSTANT]
    near = {link.to_id for link in links if battery_of(design, feeds[link.from_id]).id in here}
    return {link.to_id for link in links} - near


def compute_parked(book: Book, supplies: Sequence[SupplyResult]) -> Parked | None:
    """How long the first battery, and what is joined with it for good, still starts the engine.

    Parameters:
        book: the book of the design.
        supplies: every run with what it feeds; what hangs on another battery takes nothing from the first.

    Returns:
        days with the parts of the plan and without them; None where none of them draws anything.

    Source: see `physics.energy`.
    """
    design, row = book.design, table("supply.seasons", "summer")
    drawing = [p for p in design.parts if isinstance(p, Amplifier | Converter | PoweredSubwoofer | HeadUnit)]
    if not drawing:
        return None
    together = one_with_first(design)
    here = {battery.id for battery in together}
    elsewhere = {s.part.id for s in supplies if not s.is_main and s.battery_id not in here}
    elsewhere |= _hung_on_another(design, here)
    mine = [part for part in drawing if part.id not in elsewhere]
    car = book.fact(design.vehicle.supply, lambda it: it.standby_current_a, "the car, all asleep", "a")
    parts = [
        book.part(part, lambda it: it.standby_a, f"{part.name}, switched off", "a")
        for part in mine
        if part.standby_a is not None
    ]
    terms = (
        capacity_of(book, together),
        reference("lost a day by itself", float(row["loses_per_day"]), "", row["source"]),
        kept_charge(book),
    )
    return Parked(
        book.figure("supply/parked_days", PARKED, *terms, car, *parts),
        book.figure("supply/parked_before_days", PARKED, *terms, car, name="The same without what is new"),
        (car, *parts),
        tuple(part.name for part in mine if part.standby_a is None),
    )
