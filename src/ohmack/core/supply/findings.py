"""Rules on wire, fuse, drop and ground."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document.edits import Edit
from ohmack.core.document.handles import at, at_the
from ohmack.core.document.links import GroundLink, PowerLink
from ohmack.core.document.parts import DistributionBlock
from ohmack.core.document.rewired import laid_anew, new_wire
from ohmack.core.document.vehicle import GroundKind, Supply, SupplyKind
from ohmack.core.figures.finding import Draft, Remedy, note, rule, set_to, stop, watch
from ohmack.core.network.build import ways
from ohmack.core.network.model import Place
from ohmack.core.physics.conductors import goes_in
from ohmack.core.reference import PHYSICS, PRACTICE, Grade, Source
from ohmack.core.supply.parallel_leads import further_leads, own_leads
from ohmack.core.supply.results import Segment, SupplyResult
from ohmack.core.supply.study import terminals_of
from ohmack.core.supply.system_findings import audio_a
from ohmack.core.supply.whose import whose
from ohmack.core.supply.wire_choice import AS_GOOD
from ohmack.core.wording import amount, lowered, trimmed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


def let_choose(link: PowerLink, supply: SupplyResult) -> Remedy | None:
    """The remedy that lets the chooser take its best size, or more leads where no size does and there are terminals
    for them; None where the best is taken, or there is none. What lies in the car already is laid anew, with wire and
    fuse of the chooser's.
    """
    if link.in_car:
        return Remedy("Lay it anew", laid_anew(link))
    best = next((c for c in supply.candidates if c.best), None)
    if best is None:
        return further_leads(link, supply.part)
    if best.chosen:
        return None
    return Remedy(f"Take {best.wire.label}", new_wire(link, at(link, lambda it: it.wire.size), None))


@rule("supply-unreached", "supply", PHYSICS)
def supply_unreached(results: Results) -> Iterator[Draft]:
    """A power wire is laid, and no battery is at the end of it."""
    design = results.design
    reached = {way.part.id for way in ways(design)}
    for link in design.links_of(PowerLink):
        part = design.part(link.to_id)
        if isinstance(part, DistributionBlock) or part is None or part.id in reached:
            continue
        battery = design.vehicle.supply.batteries[0]
        yield stop(
            part.id,
            f"{part.name} is fed by nothing",
            "Its power wire starts at a block that no battery feeds, so there is no wire, no fuse and no voltage to"
            " name.",
            Remedy(f"Feed it from {battery.name}", (set_to(at(link, lambda it: it.from_id), battery.id),)),
        )


@rule("supply-twice", "supply", PRACTICE)
def supply_twice(results: Results) -> Iterator[Draft]:
    """Two power wires go to one thing, or two ground leads leave it: only the first of them is sized."""
    first: dict[tuple[str, str], PowerLink | GroundLink] = {}
    laid: list[PowerLink | GroundLink] = [*results.design.links_of(PowerLink), *results.design.links_of(GroundLink)]
    for link in laid:
        end = link.to_id if isinstance(link, PowerLink) else link.from_id
        before = first.setdefault((link.kind, end), link)
        if before is link:
            continue
        part = results.design.part(end)
        what = "power wire to" if isinstance(link, PowerLink) else "ground lead from"
        yield stop(
            link.id,
            f"A second {what} {part.name if part else end}",
            "Two in parallel share the current by their lengths and joints, and Ohmack sizes one. Two that are alike"
            " are one run of two leads; else take one of the size needed.",
            _as_one(before, link),
        )


def _as_one(before: PowerLink | GroundLink, link: PowerLink | GroundLink) -> Remedy:
    """The remedy that makes two cables beside each other one run of two leads; two that do not lie between the same
    ends, or lie in the car, are no such run, and the second comes out.
    """
    out = Edit(op="remove", path=at(link))
    alike = (before.from_id, before.to_id) == (link.from_id, link.to_id)
    if not alike or before.in_car or link.in_car or before.wire.leads > 1:
        return Remedy("Take it out", (out,))
    if isinstance(before, PowerLink) and before.fuse is not None:
        return Remedy("Lay one run of two leads, each fused", (*own_leads(before, 2), out))
    return Remedy("Lay one run of two leads", (set_to(at(before, lambda it: it.wire.leads), 2), out))


@rule("supply-collapses", "supply", PHYSICS)
def supply_collapses(results: Results) -> Iterator[Draft]:
    """The loop cannot pass what is asked for: no wire, no fuse and no voltage can be named."""
    for supply in results.supplies:
        if not supply.collapse:
            continue
        if supply.is_main:
            continue  # said of what hangs behind it
        worst = max(supply.pieces, key=lambda piece: piece.resistance_ohm)
        loop_ohm = sum(piece.resistance_ohm for piece in supply.pieces)
        source_v = supply.source_v or 0.0
        yield stop(
            supply.link.id,
            f"The supply of {supply.part.name} collapses",
            f"{supply.collapse} The loop has {amount(loop_ohm, 'ohm')}, so {amount(source_v**2 / 4 / loop_ohm, 'w')} is"
            f" the most it passes at all; {lowered(worst.name)} alone has"
            f" {amount(worst.resistance_ohm, 'ohm')}. Until that is mended there is no wire, no fuse and no voltage to"
            " name.",
            _mend(supply, worst),
        )


def _mend(supply: SupplyResult, worst: Segment) -> Remedy:
    """Where the piece that binds is looked at: the body's own facts, or the run with its wire."""
    if worst.place in (Place.BODY, Place.STRAP):
        return Remedy("Measure it again", path=worst.term.path or at_the(Supply, lambda it: it.body_return_ohm))
    if worst.place is Place.LEAD and supply.ground is not None:
        return Remedy("Look at the ground lead", path=at(supply.ground))
    return let_choose(supply.link, supply) or Remedy("Look at the run", path=at(supply.link))


@rule("drop-over-policy", "supply", PHYSICS)
def drop_over_policy(results: Results) -> Iterator[Draft]:
    """More voltage is lost than the shop allows, cold or hot."""
    limit_v = results.design.policy.drop_limit_v
    for supply in results.supplies:
        drop_v, hot_v = supply.figures["drop"].value, supply.figures["hot"].value
        if drop_v is None or not supply.chosen:
            continue  # a collapsed supply has a finding of its own
        label = supply.chosen.wire.label
        remedy = let_choose(supply.link, supply)
        why = f" Nothing fits: {supply.limit}." if supply.limit else ""
        most = sorted(supply.segments, key=lambda piece: -piece.drop_v)[:2]
        where = " and ".join(f"{lowered(piece.name)} ({amount(piece.drop_v, 'v')})" for piece in most)
        if drop_v > limit_v + 1e-9:
            yield stop(
                supply.link.id,
                whose(results, supply, f"{amount(drop_v, 'v')} lost of {amount(limit_v, 'v')} allowed"),
                f"{label} is too thin or the loop too long; most goes in {where}.{why}",
                remedy or Remedy("See what helps", sheet="loss"),
            )
        elif hot_v is not None and hot_v > limit_v + 1e-9:
            yield watch(
                supply.link.id,
                whose(results, supply, f"Hot, the loss passes the limit: {amount(hot_v, 'v')}"),
                f"{label} with the wire at {results.design.policy.hot_conductor_c:g} °C; inside {amount(limit_v, 'v')}"
                f" only when cool.{why}",
                remedy or Remedy("See what helps", sheet="loss"),
            )


@rule("ground-lead", "supply", PRACTICE)
def ground_lead(results: Results) -> Iterator[Draft]:
    """The ground lead is too small or too long."""
    policy = results.design.policy
    points = {g.id: g for g in results.design.vehicle.ground_points}
    for supply in results.supplies:
        ground, chosen = supply.ground, supply.chosen
        if ground is None:
            continue
        point = points.get(ground.to_id)
        kind = point.kind.value if point is not None else None
        wire = supply.ground_wire
        if chosen and wire and wire.area_mm2 < chosen.wire.area_mm2 * 0.995:
            yield stop(
                ground.id,
                whose(results, supply, f"Ground lead {wire.label} is smaller than the {chosen.wire.label} power wire"),
                "The same current flows back. At least the size of the power wire.",
                Remedy("Same size as power", new_wire(ground, at(ground, lambda it: it.wire.size), None)),
            )
        elif chosen and wire and wire.resistance_ohm_per_m > chosen.wire.resistance_ohm_per_m * AS_GOOD:
            yield watch(
                ground.id,
                whose(
                    results,
                    supply,
                    f"Ground lead {wire.label} in copper-clad aluminium conducts less than the power wire",
                ),
                "Clad aluminium conducts about 63 % of copper: go up about two sizes, or take copper.",
                Remedy("Take copper", new_wire(ground, at(ground, lambda it: it.wire.material), "copper")),
            )
        most_mm2 = float(getattr(supply.part, "terminal_area_max_mm2", 120.0))
        follows = chosen is not None and bool(chosen.too_thick) and ground.wire.size is None  # told of the power wire
        if wire and not follows and not goes_in(wire, most_mm2, terminals_of(supply.part)):
            yield stop(
                ground.id,
                f"Ground lead {wire.label} does not go into {supply.part.name}",
                f"Its terminal takes {trimmed(most_mm2)} mm². Never trim strands to make it fit.",
                Remedy("Same size as power", new_wire(ground, at(ground, lambda it: it.wire.size), None)),
            )
        length_m = results.runs[ground.id].length.value
        if length_m is not None and length_m > policy.ground_lead_max_m + 1e-9 and kind is not GroundKind.BATTERY:
            yield watch(
                ground.id,
                whose(results, supply, f"Ground lead {results.say(length_m, 'm')} long"),
                f"The shop keeps it under {results.say(policy.ground_lead_max_m, 'm')}: find a nearer point or"
                " measure it.",
                Remedy("Enter the measured length", path=at(ground, lambda it: it.tape_length_m)),
            )


@rule("terminal-too-small", "supply", Source("the parts' data sheets", Grade.PRACTICE))
def terminal_too_small(results: Results) -> Iterator[Draft]:
    """The wire does not fit a terminal or the fuse holder."""
    for supply in results.supplies:
        chosen = supply.chosen
        if chosen and chosen.too_thick:
            yield stop(
                supply.link.id,
                f"{chosen.wire.label} to {supply.part.name} {chosen.too_thick}",
                "Never trim strands to make it fit; use a reducing ferrule made for it, or another size.",
                let_choose(supply.link, supply) or Remedy("See the sizes", sheet="supply"),
            )


@rule("smart-alternator", "supply", PRACTICE)
def smart_alternator(results: Results) -> Iterator[Draft]:
    """The post voltage falls in traffic, and a sensor on the negative post counts the current."""
    vehicle = results.design.vehicle
    if vehicle.supply.kind is not SupplyKind.SMART:
        return
    points = {g.id: g.kind.value for g in vehicle.ground_points}
    for supply in results.supplies:
        if supply.is_main:
            continue
        low_v = supply.figures["traffic"].value if "traffic" in supply.figures else None
        if low_v is not None:
            yield note(
                supply.link.id,
                f"In traffic {amount(low_v, 'v')} at {supply.part.name}",
                "The alternator is held back while the battery is full. A regulated amplifier draws more then, an "
                "unregulated one gives less.",
            )
        if supply.ground and points.get(supply.ground.to_id) is GroundKind.BATTERY:
            yield watch(
                supply.ground.id,
                whose(results, supply, "Ground past the battery sensor"),
                "The sensor on the negative post counts the current: ground to the body, not to the post's side of it,"
                " or the car loses track of its battery.",
                Remedy("Choose another point", path=at(supply.ground)),
            )


@rule("dc-dc-limit", "supply", PRACTICE)
def dc_dc_limit(results: Results) -> Iterator[Draft]:
    """A DC-DC converter cannot give the current."""
    supply = results.design.vehicle.supply
    limit_a = supply.dc_dc_limit_a.value
    if supply.kind is not SupplyKind.DC_DC or limit_a is None:
        return
    total_a = audio_a(results)
    if total_a > 0.5 * limit_a:
        draft = stop if total_a > limit_a else watch
        yield draft(
            at_the(Supply, lambda it: it.dc_dc_limit_a),
            f"{total_a:.0f} A of audio on a DC-DC converter of {limit_a:.0f} A",
            "The car itself needs roughly 35 to 60 A with everything on, and the limit is hard: the rest comes from a "
            "small battery. Choose a smaller amplifier or a wiring that draws less.",
            Remedy("See the wirings", sheet="loads"),
        )
