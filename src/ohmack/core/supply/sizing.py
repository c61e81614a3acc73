"""Every power run sized together: main runs first, then what hangs behind them, until nothing changes any more."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from ohmack.core.document import Design
from ohmack.core.document.links import GroundLink, PowerLink
from ohmack.core.document.parts import DistributionBlock, FuseHolder, PoweredSubwoofer
from ohmack.core.figures.figure import Book
from ohmack.core.network.build import Sized, Way, build, unlaid
from ohmack.core.network.model import Branch, PowerNetwork
from ohmack.core.network.solve import Solution, ports, solve
from ohmack.core.network.states import State
from ohmack.core.physics.conductors import Conductor, resistance_factor, sizes
from ohmack.core.physics.protection import family
from ohmack.core.physics.supply import Load
from ohmack.core.record import record
from ohmack.core.supply.wire_choice import (
    Leg,
    Limits,
    Situation,
    WireCandidate,
    choose_wire,
    ground_wire_of,
    wire_of,
)

PASSES = 8
SETTLED_A = 1e-9


@record
class Demand:
    """One consumer whose every input is known: its way, what it draws, and from how many volts."""

    way: Way
    load: Load
    idle: Load
    source_v: float


@record
class Condition:
    """What a state was solved with: by battery its volts and its own resistance, the warmth of the runs, by consumer
    its load.
    """

    emf_v: Mapping[str, float]
    inner_ohm: Mapping[str, float]
    warm: float
    loads: Mapping[str, Load]


@dataclass
class Study:
    """All power runs of a design: what was chosen for each, the network that makes, and its solutions by state."""

    demands: tuple[Demand, ...] = ()
    lengths_m: dict[str, float] = field(default_factory=dict)
    choices: dict[str, tuple[tuple[WireCandidate, ...], str]] = field(default_factory=dict)  # by power link
    grounds: dict[str, Conductor] = field(default_factory=dict)  # by ground link, or what an unlaid one is called
    network: PowerNetwork | None = None
    solutions: dict[State, Solution] = field(default_factory=dict)
    conditions: dict[State, Condition] = field(default_factory=dict)

    def chosen(self, link_id: str) -> WireCandidate | None:
        """What was chosen for a power link."""
        return next((c for c in self.choices.get(link_id, ((), ""))[0] if c.chosen), None)

    def demand(self, part_id: str) -> Demand | None:
        """A consumer whose every input is known."""
        return next((d for d in self.demands if d.way.part.id == part_id), None)

    def behind(self, link_id: str) -> tuple[Demand, ...]:
        """The consumers whose current goes through a power link."""
        return tuple(d for d in self.demands if any(k.id == link_id for k in d.way.power))


def holder_of(design: Design, link: PowerLink) -> FuseHolder | DistributionBlock | None:
    """What a link's fuse sits in: its holder, or the fused block it starts at."""
    if link.fuse is None:
        return None
    holder = next((h for h in design.parts_of(FuseHolder) if h.id == link.fuse.holder_id), None)
    block = design.part(link.from_id)
    return holder or (block if isinstance(block, DistributionBlock) and block.fused else None)


def limits_of(design: Design, link: PowerLink, upstream_a: float | None) -> Limits:
    """What a power link's wire has to meet besides the current in it."""
    policy, part, holder = design.policy, design.part(link.to_id), holder_of(design, link)
    family_name = holder.family if holder else "strip"
    named_a = part.fuse_a if isinstance(part, PoweredSubwoofer) and link.fuse else None
    if isinstance(part, DistributionBlock):
        terminal_mm2, terminal = part.in_area_max_mm2, f"{part.name}'s way in"
    else:
        terminal_mm2, terminal = float(getattr(part, "terminal_area_max_mm2", 120.0)), "the amplifier's terminal"
    at_holder_mm2 = family(family_name).largest_area_mm2
    if isinstance(holder, FuseHolder):
        at_holder_mm2 = holder.terminal_area_max_mm2
    if isinstance(start := design.part(link.from_id), DistributionBlock):
        at_holder_mm2 = min(at_holder_mm2, start.out_area_max_mm2) if link.fuse else start.out_area_max_mm2
    return Limits(
        policy.fuse_headroom,
        policy.hot_conductor_c,
        policy.drop_limit_v,
        family_name,
        terminal_mm2,
        terminal,
        at_holder_mm2,
        link.engine_space,
        (link.fuse.rating_a if link.fuse else None) or named_a,
        link.fuse is not None,
        upstream_a,
        policy.length_unit,
    )


# -- the sizes settle together --------------------------------------------------------------------------------------


def study(book: Book, demands: Iterable[Demand], lengths_m: dict[str, float]) -> Study:
    """Wires, fuses and solutions of all consumers together.

    Parameters:
        book: the design and its terms.
        demands: the consumers.
        lengths_m: by link, how much wire [m].

    Returns:
        the study. Every run is chosen with the currents the others really draw; passes go on until no size and no
        current changes, at most eight.
    """
    found = Study(tuple(demands), lengths_m)
    if not found.demands:
        return found
    current_a = {d.way.part.id: d.load.current_at(d.source_v) for d in found.demands}
    order = _root_first(found.demands)
    sized: dict[str, Sized] = {
        link.id: Sized(_first_guess(book.design, link), 1.0 if link.fuse else None) for link in order
    }
    alone = len(found.demands) == 1 and len(order) == 1
    built: tuple[dict[str, Sized], PowerNetwork] | None = None

    def made() -> PowerNetwork:
        """The network of the sizes as they are now; once they have settled it stays."""
        nonlocal built
        if built is None or built[0] != sized:
            found.grounds = _grounds(book.design, found.demands, sized)
            network = build(book, [d.way for d in found.demands], sized, found.grounds, lengths_m)
            built = (dict(sized), network)
        return built[1]

    for _ in range(PASSES):
        before = (dict(sized), dict(current_a))
        for link in order:
            network = made()
            situation = _situation(book.design, found, link, network, sized, current_a)
            found.choices[link.id] = choose_wire(situation, link.wire, book.design.policy.wire_system)
            taken = found.chosen(link.id)
            assert taken is not None  # a chooser always takes one, for better or worse
            sized[link.id] = Sized(taken.wire, taken.fuse_a if link.fuse else None)
        found.network = made()
        found.solutions[State.RUNNING] = solved(
            found, State.RUNNING, {d.way.battery.id: d.source_v for d in found.demands}, {}
        )
        drawn = found.solutions[State.RUNNING].current_a
        current_a = {name: drawn[name] or amps for name, amps in current_a.items()}
        same = all(abs(current_a[n] - before[1][n]) < SETTLED_A * max(1.0, current_a[n]) for n in current_a)
        if alone or (before[0] == sized and same):
            break
    warm = resistance_factor(book.design.policy.hot_conductor_c)
    emf = {d.way.battery.id: d.source_v for d in found.demands}
    found.solutions[State.HOT] = solved(found, State.HOT, emf, {}, warm)
    for link in order:
        found.choices[link.id] = _as_solved(found, link)
    return found


def solved(
    found: Study, state: State, emf_v: Mapping[str, float], inner_ohm: Mapping[str, float], warm: float = 1.0
) -> Solution:
    """The network of a study in one state."""
    assert found.network is not None
    emf = {
        cell.id: emf_v.get(cell.id, 0.0) for cell in found.network.cells
    }  # a post nothing is fed from carries no current
    loads = {d.way.part.id: d.load if state.playing else d.idle for d in found.demands}
    found.conditions[state] = Condition(emf, inner_ohm, warm, loads)
    return solve(found.network, ports(found.network, emf, inner_ohm, warm), loads)


def _root_first(demands: Iterable[Demand]) -> list[PowerLink]:
    """Every power link in use, those nearest the battery first."""
    depth = {link.id: (i, link) for d in demands for i, link in enumerate(d.way.power)}
    return [link for _, link in sorted(depth.values(), key=lambda pair: pair[0])]


def _first_guess(design: Design, link: PowerLink) -> Conductor:
    pool = sizes(design.policy.wire_system, link.wire.material)
    return wire_of(link.wire) or pool[len(pool) // 2]


def _grounds(design: Design, demands: Iterable[Demand], sized: Mapping[str, Sized]) -> dict[str, Conductor]:
    """The wire of every ground lead: as named, else the size of the power wire whose current it carries; several
    together, their area.
    """
    feeding: dict[str, dict[str, Conductor]] = {}
    laid: dict[str, GroundLink | None] = {}
    for demand in demands:
        way = demand.way
        names: list[tuple[str, GroundLink | None]] = [(g.id, g) for g in way.ground]
        for depth, (name, link) in enumerate(names or [(unlaid(way), None)]):
            power = way.own if depth == 0 else way.power[0]
            feeding.setdefault(name, {})[power.id] = sized[power.id].wire
            laid[name] = link
    found = {}
    for name, wires in feeding.items():
        link = laid[name]
        thickest = max(wires.values(), key=lambda w: w.area_mm2)
        if len(wires) > 1:
            wanted_mm2 = sum(w.area_mm2 for w in wires.values())
            pool = sizes(thickest.system, thickest.material)
            thickest = next((w for w in pool if w.area_mm2 >= wanted_mm2 * 0.995), pool[-1])
        found[name] = ground_wire_of(link.wire if link else None, thickest)
    return found


def _as_solved(found: Study, link: PowerLink) -> tuple[tuple[WireCandidate, ...], str]:
    """The chosen row with what the whole network's solution says, which the choice came to."""
    rows, limit = found.choices[link.id]
    behind = found.behind(link.id)
    running, hot = found.solutions[State.RUNNING], found.solutions[State.HOT]
    names = [d.way.part.id for d in behind]
    source_v = behind[0].source_v
    stopped = next((running.collapsed[n] for n in names if n in running.collapsed), None)
    changed: dict[str, Any]
    if stopped is not None:
        changed = {
            "current_a": None,
            "drop_v": None,
            "hot_drop_v": None,
            "at_amplifier_v": None,
            "fits": False,
            "reason": str(stopped),
        }
    else:
        lowest_v = min(running.voltage_v[n] for n in names)
        hot_v = None if any(n in hot.collapsed for n in names) else min(hot.voltage_v[n] for n in names)
        changed = {
            "current_a": sum(running.current_a[n] for n in names),
            "at_amplifier_v": lowest_v,
            "drop_v": source_v - lowest_v,
            "hot_drop_v": None if hot_v is None else source_v - hot_v,
        }
    return tuple(replace(row, **changed) if row.chosen else row for row in rows), limit


# -- what a run sees of the network ---------------------------------------------------------------------------------


def _situation(
    design: Design, found: Study, link: PowerLink, network: PowerNetwork, sized: Mapping[str, Sized],
    current_a: Mapping[str, float]
) -> Situation:  # fmt: skip
    """A run with everything that hangs behind it, the other consumers drawing what they draw."""
    behind, warm = found.behind(link.id), resistance_factor(design.policy.hot_conductor_c)
    branches = {b.id: b for b in network.branches}
    consumers = {c.id: c for c in network.consumers}
    leaf = behind[0].way.own is link
    own = {f"{link.id}/fuse", f"{link.id}/run"}
    follow = {d.way.part.id: _followers(d, link, leaf) for d in behind}
    back = None if leaf else _main_lead(behind, found)
    if back is not None:
        own.add(f"{back.id}/run")

    def total(ids: Iterable[str], factor: float) -> float:
        return sum(_ohm(branches[i], factor) for i in ids)

    def common(a: str, b: str) -> Iterator[tuple[str, float]]:
        """Branches two consumers share, with 1 where they pass them alike and -1 where against each other."""
        for i in consumers[a].way:
            if i in consumers[b].way:
                yield i, 1.0 if (i in consumers[a].against) == (i in consumers[b].against) else -1.0

    def lost_v(name: str, factor: float) -> float:
        """What everyone who is not behind this run takes from a consumer's voltage."""
        others = [d.way.part.id for d in found.demands if d not in behind]
        return sum(current_a[o] * sign * _ohm(branches[i], factor) for o in others for i, sign in common(name, o))

    legs = []
    for demand in behind:
        name = demand.way.part.id
        rest = [i for i in consumers[name].way if i not in own and i not in follow[name]]
        metres_m = sum(found.lengths_m[k.id] for k in demand.way.power if f"{k.id}/run" in follow[name])
        lead = demand.way.own_ground.id if demand.way.own_ground else unlaid(demand.way)
        ground_m = found.lengths_m[lead] if f"{lead}/run" in follow[name] else 0.0
        legs.append(
            Leg(
                demand.source_v - lost_v(name, 1.0),
                demand.source_v - lost_v(name, warm),
                total(rest, 1.0),
                total(rest, warm),
                metres_m,
                ground_m,
                demand.way.own_ground.wire if demand.way.own_ground else None,
                float("inf") if leaf else float(getattr(demand.way.part, "terminal_area_max_mm2", 120.0)),
                demand.load,
            )
        )
    names = [d.way.part.id for d in behind]

    def shared(factor: float) -> tuple[tuple[float, ...], ...]:
        return tuple(
            tuple(sum(sign * _ohm(branches[i], factor) for i, sign in common(a, b) if i not in own) for b in names)
            for a in names
        )

    return Situation(
        behind[0].source_v,
        found.lengths_m[link.id],
        found.lengths_m[back.id] if back else 0.0,
        back.wire if back else None,
        tuple(legs),
        shared(1.0) if len(legs) > 1 else (),
        shared(warm) if len(legs) > 1 else (),
        limits_of(design, link, _upstream_a(behind[0].way, link, sized)),
    )


def _followers(demand: Demand, link: PowerLink, leaf: bool) -> set[str]:
    """The branches whose wire takes the size asked about: a ground lead nobody named, and runs behind a main run
    nobody named.
    """
    way, found = demand.way, set()
    lead = way.own_ground.id if way.own_ground else unlaid(way)
    named = way.own_ground is not None and wire_of(way.own_ground.wire) is not None
    after = way.power[way.power.index(link) + 1 :]
    free = [k for k in after if wire_of(k.wire) is None]
    if not named and (leaf or way.own in free):
        found.add(f"{lead}/run")
    return found | {f"{k.id}/run" for k in free}


def _main_lead(behind: tuple[Demand, ...], found: Study) -> GroundLink | None:
    """The main ground lead that carries what a main run carries, and no more; its size follows where nobody named
    one.
    """
    leads = {d.way.ground[1].id: d.way.ground[1] for d in behind if len(d.way.ground) > 1}
    if len(leads) != 1 or any(len(d.way.ground) < 2 for d in behind):
        return None
    lead = next(iter(leads.values()))
    through = [d for d in found.demands if lead in d.way.ground]
    return lead if len(through) == len(behind) and wire_of(lead.wire) is None else None


def _upstream_a(way: Way, link: PowerLink, sized: Mapping[str, Sized]) -> float | None:
    """The fuse that protects a link without one of its own; None where it has one, or where nothing does."""
    if link.fuse is not None:
        return None
    before = way.power[: way.power.index(link)]
    return next((a for k in reversed(before) if (a := sized[k.id].fuse_a) is not None), None)


def _ohm(branch: Branch, warm: float) -> float:
    return branch.resistance_ohm * (warm if branch.warms else 1.0)
