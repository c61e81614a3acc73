"""A battery beside the first: what charges it, and what lies between the two posts."""

from __future__ import annotations

from collections.abc import Sequence

from ohmack.core.document import Basis, Design
from ohmack.core.document.links import ChargeLink
from ohmack.core.document.parts import ChargingRelay
from ohmack.core.document.vehicle import Battery, SplitCharging
from ohmack.core.figures.figure import Book, Formula, Term, reference
from ohmack.core.network.states import State, inner_ohm, inner_terms
from ohmack.core.reference import PHYSICS, table
from ohmack.core.supply.charging import Charging
from ohmack.core.wording import listed

JOIN = Formula(
    "From post to post", "ohm", "lost / I + joints", lambda lost_v, amps, joints: lost_v / amps + joints, PHYSICS
)


def usual_posts(design: Design) -> dict[str, dict[str, object]]:
    """What a second battery's own post is taken to hold, by the names of its facts, until a meter was on it; nothing in
    a car above 12 V.
    """
    row = table("supply", "second_post")
    return {
        name: {"value": row[name][0], "basis": Basis.ASSUMED.value, "low": row[name][1], "high": row[name][2]}
        for name in (() if design.vehicle.above_12_v else ("own_running_v", "own_resting_v"))
    }


def charger_of(design: Design, battery_id: str) -> ChargingRelay | None:
    """What charges a battery besides the first, where the plan has it."""
    link = next((k for k in design.links_of(ChargeLink) if k.to_id == battery_id), None)
    return next((r for r in design.parts_of(ChargingRelay) if link and r.id == link.through_id), None)


def charged_by(design: Design, battery: Battery) -> SplitCharging | None:
    """How a battery besides the first is charged, by the plan or as surveyed; None where nobody knows."""
    planned = charger_of(design, battery.id)
    return SplitCharging(planned.how) if planned is not None else design.vehicle.supply.split_charging.value


JOINS = (SplitCharging.RELAY, SplitCharging.FOR_GOOD)  # both give into a short, and into a bass note


def joined_with_first(design: Design) -> Battery | None:
    """The battery that stands beside the first while the engine runs, through a relay or for good."""
    return next((b for b in design.vehicle.supply.batteries[1:] if charged_by(design, b) in JOINS), None)


def one_with_first(design: Design) -> tuple[Battery, ...]:
    """The first battery, and those joined with it for good: with the engine off they are one."""
    first, *others = design.vehicle.supply.batteries
    return (first, *(b for b in others if charged_by(design, b) is SplitCharging.FOR_GOOD))


def helping(book: Book, battery: Battery, charging: Sequence[Charging]) -> tuple[Term, ...]:
    """(cranking amps, by which standard, from post to post) of the battery that is joined with one; nothing where none
    is, or something of it is not known.
    """
    design = book.design
    first, joined = design.vehicle.supply.batteries[0], joined_with_first(design)
    if joined is None or battery not in (first, joined):
        return ()
    other = joined if battery is first else first
    terms = (*inner_terms(book, other, State.ENGINE_OFF), join_term(book, joined, charging))
    return terms if len(terms) == 3 and all(term.value is not None for term in terms) else ()


def helped_ohm(own_ohm: float, helper: Sequence[Term]) -> float:
    """The resistance of a battery with the one that is joined with it, at its own post [ohm]."""
    if not helper:
        return own_ohm
    cca, standard, join = helper
    other_ohm = inner_ohm((cca, standard)) + float(join.value)
    return own_ohm * other_ohm / (own_ohm + other_ohm)


def batteries_behind(design: Design) -> tuple[Battery, ...]:
    """The batteries a deficit comes out of: the first, and those charged with it while the engine runs."""
    first, *others = design.vehicle.supply.batteries
    linked = {link.to_id for link in design.links_of(ChargeLink)}
    lies_there = design.vehicle.supply.split_charging.value not in (None, SplitCharging.NONE)
    return (first, *(b for b in others if b.id in linked or lies_there))


def in_the_car(design: Design) -> list[str]:
    """The names of the batteries connected before this job begins: the first, those whose charge cable it does not lay,
    those that come out.
    """
    first, *others = design.vehicle.supply.batteries
    new = {link.to_id for link in design.new_links_of(ChargeLink)}
    there = [first.name, *(b.name for b in others if b.id not in new)]
    return [*there, *(one.name for one in design.coming_out if one.is_battery)]


def negatives(names: Sequence[str]) -> str:
    """What is taken off batteries first and put on last, in words."""
    several = f"s of {listed(list(names))}" if len(names) > 1 else ""
    return f"Negative terminal{several}"


def join_term(book: Book, battery: Battery, charging: Sequence[Charging]) -> Term:
    """The resistance from the first post to a battery's own, joined by a relay: of the planned cable, or usual."""
    row = table("supply", "joined")
    planned = next((one for one in charging if one.battery.id == battery.id and "drop" in one.figures), None)
    if planned is None and charged_by(book.design, battery) is SplitCharging.FOR_GOOD:
        return reference("the cable between them", float(row["for_good_ohm"]), "ohm", row["source"])
    if planned is None:
        return reference("charge cable as it lies there", float(row["lies_there_ohm"]), "ohm", row["source"])
    joints = reference("its relay, fuses and ways back", float(row["joints_ohm"]), "ohm", row["source"])
    figure = book.figure(
        f"{battery.id}/join_ohm", JOIN, planned.figures["drop"], planned.figures["current"], joints,
        name=f"From the first post to {battery.name}",
    )  # fmt: skip
    return figure.term
