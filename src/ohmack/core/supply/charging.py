"""The charge cable of a second battery: its current, its wire and the fuses at both ends."""

from __future__ import annotations

from ohmack.core.document.links import ChargeLink
from ohmack.core.document.parts import ChargingRelay
from ohmack.core.document.vehicle import Battery, CrankingStandard
from ohmack.core.figures.figure import Book, Figure, Formula, Reading
from ohmack.core.fit.runs import Run
from ohmack.core.network.states import State, battery_resistance_ohm, held_v, inner_terms
from ohmack.core.physics.conductors import Conductor, ampacity_a, goes_in
from ohmack.core.physics.protection import best_rating_a
from ohmack.core.record import record
from ohmack.core.reference import PHYSICS, PRACTICE
from ohmack.core.supply.wire_choice import PER_METRE, pool_of, wire_of

CHARGE = Formula("Charge current", "a", "as its maker states", float)
CHARGE_FUSE = Reading(
    "Fuse at either end", "a", "next standard size at or above current / head-room, at most the wire's ampacity",
    lambda chosen: chosen[1], PRACTICE,
)  # fmt: skip
CHARGE_WIRE = Reading(
    "Charge cable", "", "smallest that carries its fuse, loses little enough and fits the terminal",
    lambda chosen: chosen[0].label, PRACTICE,
)  # fmt: skip
CHARGE_DROP = Formula("Lost in the charge cable", "v", "I × R × L, positive lead", lambda i, r, m: i * r * m, PHYSICS)
JOINED = Formula(
    "Between the batteries as they are joined", "a", "|E₁ − E₂| / (R₁ + R₂ + R_cable)",
    lambda one_v, other_v, cca_a, by, other_cca_a, other_by, lost_v, charge_a: abs(one_v - other_v) / (
        battery_resistance_ohm(cca_a, CrankingStandard(by))
        + battery_resistance_ohm(other_cca_a, CrankingStandard(other_by))
        + lost_v / charge_a
    ), PHYSICS,
)  # fmt: skip
FAMILY = "strip"
Chosen = tuple[Conductor, float]


@record
class Charging:
    """One charge cable; figures are empty while something it rests on is not known."""

    link: ChargeLink
    battery: Battery
    relay: ChargingRelay | None
    wire: Conductor | None
    figures: dict[str, Figure]


def _chosen(book: Book, link: ChargeLink, relay: ChargingRelay, length_m: float | None) -> Chosen | None:
    """The smallest wire with its fuse; the thickest there is where none does, None while the length is not known."""
    if length_m is None:
        return None
    policy = book.design.policy
    named = link.fuse.rating_a if link.fuse else None
    pool = pool_of(policy.wire_system, link.wire)
    found: Chosen | None = None
    for wire in [own] if (own := wire_of(link.wire)) else pool:
        carries_a = ampacity_a(wire, engine_space=link.engine_space)
        fuse_a = named or best_rating_a(FAMILY, relay.current_a, carries_a, policy.fuse_headroom)
        if found is not None and not goes_in(wire, relay.terminal_area_max_mm2):
            break  # nothing thicker goes into its terminal
        found = wire, fuse_a
        held = relay.current_a / policy.fuse_headroom <= fuse_a <= carries_a
        drop_v = relay.current_a * wire.resistance_ohm_per_m * length_m
        if held and drop_v <= policy.drop_limit_v:
            break
    return found


def compute_charging(book: Book, runs: dict[str, Run]) -> list[Charging]:
    """Every charge cable of the plan.

    Parameters:
        book: the book of the design.
        runs: every link laid out.

    Returns:
        one charging a link: current [a], fuse for both ends [a], wire, what is lost [v]. Source: fuse at or above
        current / 0.8 and at most the ampacity, a fuse at either end of a cable between two batteries, common practice.
    """
    design = book.design
    found = []
    for link in design.links_of(ChargeLink):
        battery = next(b for b in design.vehicle.supply.batteries if b.id == link.to_id)
        relay = next((r for r in design.parts_of(ChargingRelay) if r.id == link.through_id), None)
        if relay is None:
            found.append(Charging(link, battery, None, None, {}))
            continue
        length, scope = runs[link.id].length, link.id
        current = book.figure(
            f"{scope}/charge_a", CHARGE, book.part(relay, lambda it: it.current_a, f"{relay.name} carries", "a"),
            name=f"Charge current of {battery.name}",
        )  # fmt: skip
        chosen = _chosen(book, link, relay, length.value)
        headroom = book.policy(lambda it: it.fuse_headroom, "head-room")
        limit = book.policy(lambda it: it.drop_limit_v, "drop allowed", "v")
        fuse = book.reading(
            f"{scope}/charge_fuse_a", CHARGE_FUSE, chosen, current, headroom, length, limit,
            name=f"Fuse at either end, charge cable of {battery.name}",
        )  # fmt: skip
        wire = book.reading(
            f"{scope}/charge_wire", CHARGE_WIRE, chosen, fuse, length, limit, name=f"Charge cable of {battery.name}"
        )
        figures = {"current": current, "fuse": fuse, "wire": wire}
        if chosen is not None:
            from_table = book.reading(
                f"{scope}/charge_ohm_per_m", PER_METRE, chosen[0], wire, name=f"Resistance of {chosen[0].label} a metre"
            )
            figures["drop"] = book.figure(
                f"{scope}/charge_drop_v", CHARGE_DROP, current, from_table, length,
                name=f"Lost in the charge cable of {battery.name}",
            )  # fmt: skip
            figures |= _joined(book, battery, relay, figures)
        found.append(Charging(link, battery, relay, chosen[0] if chosen else None, figures))
    return found


def _joined(book: Book, battery: Battery, relay: ChargingRelay, figures: dict[str, Figure]) -> dict[str, Figure]:
    """What flows when a relay joins batteries that rest apart, where both are known; only a relay lets it flow."""
    first = book.design.vehicle.supply.batteries[0]
    if relay.how != "relay":
        return {}
    terms = (
        *held_v(book, first, State.RESTING), *held_v(book, battery, State.RESTING),
        *inner_terms(book, first, State.RESTING), *inner_terms(book, battery, State.RESTING),
    )  # fmt: skip
    if len(terms) < 6 or any(term.value is None for term in terms):
        return {}
    name = f"{first.name} and {battery.name}, as they are joined"
    figure_id = f"{battery.id}/joined_a"
    return {"joined": book.figure(figure_id, JOINED, *terms, figures["drop"], figures["current"], name=name)}
