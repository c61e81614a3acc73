"""A capacitor across an amplifier's supply: its leads, what it takes off a sag, and what it is charged through."""

from __future__ import annotations

from collections.abc import Sequence

from ohmack.core.document.links import CapacitorLink
from ohmack.core.document.parts import StiffeningCapacitor
from ohmack.core.figures.figure import Book, Figure, Formula, Term, reference
from ohmack.core.fit.runs import Run
from ohmack.core.physics.charging import charging_resistor_ohm, sag_v
from ohmack.core.physics.conductors import Conductor
from ohmack.core.record import record
from ohmack.core.reference import PHYSICS, table
from ohmack.core.supply.results import SupplyResult
from ohmack.core.supply.wire_choice import PER_METRE, wire_of


def _without(full_a: float, idle_a: float, loop_ohm: float, seconds: float) -> float:
    return sag_v(full_a - idle_a, loop_ohm, seconds)


def _with(
    full_a: float,
    idle_a: float,
    loop_ohm: float,
    seconds: float,
    capacitance_f: float,
    own_ohm: float,
    leads_ohm: float,
) -> float:
    return sag_v(full_a - idle_a, loop_ohm, seconds, capacitance_f, own_ohm + leads_ohm)


BARE = Formula("Sag at the amplifier", "v", "(I − I_idle) × R", _without, PHYSICS)
STEADIED = Formula(
    "Sag at the amplifier, with the capacitor", "v", "(I − I_idle) × R × (1 − R/(R + r) × e^(−t/((R + r) C)))", _with,
    PHYSICS,
)  # fmt: skip
LEADS = Formula("Both leads of the capacitor", "ohm", "2 × R × L", lambda per_m, m: 2 * per_m * m, PHYSICS)
RESISTOR = Formula("Charged through", "ohm", "t / (5 C), nearest value sold", charging_resistor_ohm, PHYSICS)
RESISTOR_PEAK = Formula("Most it turns into heat", "w", "V² / R, falling at once", lambda v, r: v * v / r, PHYSICS)


@record
class Sags:
    """The sag at an amplifier by the edge of a kick and by a bass note, without a capacitor and with one."""

    edge_bare: Figure
    edge: Figure
    note_bare: Figure
    note: Figure

    @property
    def all(self) -> tuple[Figure, ...]:
        return (self.edge_bare, self.edge, self.note_bare, self.note)


@record
class Stiffening:
    """One capacitor of the plan; `sags` is None where nothing says what it steadies, or that has no supply yet."""

    part: StiffeningCapacitor
    link: CapacitorLink | None
    supply: SupplyResult | None
    wire: Conductor | None
    sags: Sags | None
    resistor: Figure
    resistor_peak: Figure


def sags_of(book: Book, scope: str, supply: SupplyResult, capacitor: tuple[Term, Term, Term]) -> Sags:
    """The sags at a consumer.

    Parameters:
        book: where the figures are filed.
        scope: under which id.
        supply: a consumer's own supply.
        capacitor: the terms of its capacitance [f], its own resistance [ohm] and that of its leads [ohm].

    Returns:
        four figures [v].
    """
    assert not supply.is_main  # a block draws nothing by itself
    row = table("supply", "burst")
    idle = book.part(supply.part, lambda it: getattr(it, "idle_current_a", None), "idle current", "a")
    draw = (supply.figures["current"].term, idle, supply.figures["loop"].term)
    found = {}
    for key, words in (("edge", "edge of a kick"), ("note", "bass note")):
        lasts = reference(f"{words} lasts", float(row[f"{key}_s"]), "s", row["source"])
        at_it = f"at the {words}" if key == "edge" else f"in a {words}"
        found[f"{key}_bare"] = book.figure(
            f"{scope}/sag_{key}_bare_v", BARE, *draw, lasts, name=f"Sag {at_it}, no capacitor"
        )
        found[key] = book.figure(
            f"{scope}/sag_{key}_v", STEADIED, *draw, lasts, *capacitor, name=f"Sag {at_it}, with the capacitor"
        )
    return Sags(**found)


def usual_capacitor() -> tuple[Term, Term, Term]:
    """The capacitor most shops would offer, right at the terminals."""
    row = table("supply", "usual_capacitor")
    return (
        reference("a usual capacitor", float(row["capacitance_f"]), "f", row["source"]),
        reference("its own resistance", float(row["own_ohm"]), "ohm", row["source"]),
        reference("its leads, right at the terminals", 0.0, "ohm", row["source"]),
    )


def compute_stiffening(book: Book, runs: dict[str, Run], supplies: Sequence[SupplyResult]) -> list[Stiffening]:
    """Every capacitor of the plan.

    Parameters:
        book: the book of the design.
        runs: every link laid out.
        supplies: every run with what it feeds.

    Returns:
        one entry a capacitor: sags [v], the resistor it is charged through [ohm] and its heat [w]. Source: textbook RC
        step response; that it is charged through a resistor, common practice.
    """
    design = book.design
    found = []
    for part in design.parts_of(StiffeningCapacitor):
        link = next((k for k in design.links_of(CapacitorLink) if k.to_id == part.id), None)
        supply = next((s for s in supplies if link and not s.is_main and s.part.id == link.from_id), None)
        holds = book.part(part, lambda it: it.capacitance_f, "capacitance", "f")
        row = table("supply", "burst")
        time = reference("charged within", float(row["charge_s"]), "s", row["source"])
        resistor = book.figure(f"{part.id}/resistor_ohm", RESISTOR, holds, time, name=f"{part.name}: charged through")
        post = book.fact(design.vehicle.supply, lambda it: it.post_running_v, "battery post, engine running", "v")
        peak = book.figure(
            f"{part.id}/resistor_w", RESISTOR_PEAK, post, resistor, name=f"{part.name}: heat in that resistor at first"
        )
        chosen = supply.chosen.wire if supply and supply.chosen else None
        wire = wire_of(link.wire, chosen) if link else None
        sags = None
        if link is not None and supply is not None and wire is not None:
            per_metre = book.reading(
                f"{part.id}/ohm_per_m",
                PER_METRE,
                wire,
                supply.figures["wire"],
                name=f"Resistance of {wire.label} a metre",
            )
            leads = book.figure(
                f"{part.id}/leads_ohm", LEADS, per_metre, runs[link.id].length, name=f"{part.name}: both leads"
            )
            own = book.part(part, lambda it: it.own_ohm, "its own resistance", "ohm")
            sags = sags_of(book, part.id, supply, (holds, own, leads.term))
        found.append(Stiffening(part, link, supply, wire, sags, resistor, peak))
    return found
