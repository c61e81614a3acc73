"""All power runs of a design as one thing: what is demanded, what limits a run, what was chosen, how it was solved."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field

from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.links import GroundLink, PowerLink
from ohmack.core.document.parts import DistributionBlock, FuseHolder, PoweredSubwoofer
from ohmack.core.network.build import Sized, Way, unlaid
from ohmack.core.network.model import Branch, PowerNetwork
from ohmack.core.network.solve import Solution, ports, solve
from ohmack.core.network.states import State
from ohmack.core.physics.conductors import Conductor, sizes
from ohmack.core.physics.protection import FAMILIES, family
from ohmack.core.physics.supply import Load
from ohmack.core.record import record
from ohmack.core.supply.wire_choice import Limits, WireCandidate, ground_wire_of, wire_of


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
    joint: bool = False  # whether the runs of a tree were sized as one; else each as if those behind it were its size

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


def named_fuse_a(design: Design, link: PowerLink) -> float | None:
    """The rating a link's fuse is to have: as chosen, else as the maker of what it feeds names it."""
    if link.fuse is None:
        return None
    part = design.part(link.to_id)
    return link.fuse.rating_a or (part.fuse_a if isinstance(part, PoweredSubwoofer) else None)


def fuse_family(design: Design, link: PowerLink) -> str:
    """The family a link's fuse is of: as its holder takes, else bolt-down strips, or the largest family that has the
    rating named.
    """
    holder = holder_of(design, link)
    if holder is not None:
        return holder.family
    named_a = named_fuse_a(design, link)
    return next((name for name in reversed(FAMILIES) if named_a in family(name).ratings_a), FAMILIES[-1])


def terminals_of(part: object) -> int:
    """How many power terminals a part has beside each other, plus and minus each."""
    return part.terminal_count if isinstance(part, Amplifier) else 1


def limits_of(design: Design, link: PowerLink, upstream_a: float | None) -> Limits:
    """What a power link's wire has to meet besides the current in it."""
    policy, part, holder = design.policy, design.part(link.to_id), holder_of(design, link)
    family_name = fuse_family(design, link)
    if isinstance(part, DistributionBlock):
        terminal_mm2, terminal = part.in_area_max_mm2, f"{part.name}'s way in"
    else:
        terminal_mm2 = float(getattr(part, "terminal_area_max_mm2", 120.0))
        terminal = "the amplifier's terminal" if terminals_of(part) == 1 else "the amplifier's terminals"
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
        named_fuse_a(design, link),
        link.fuse is not None,
        upstream_a,
        policy.length_unit,
        max(link.fuse_count, 1),
        terminals_of(part),
    )


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


def grounds_of(design: Design, demands: Iterable[Demand], sized: Mapping[str, Sized]) -> dict[str, Conductor]:
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


def main_lead(behind: tuple[Demand, ...], found: Study) -> GroundLink | None:
    """The main ground lead that carries what a main run carries, and no more; its size follows where nobody named
    one.
    """
    leads = {d.way.ground[1].id: d.way.ground[1] for d in behind if len(d.way.ground) > 1}
    if len(leads) != 1 or any(len(d.way.ground) < 2 for d in behind):
        return None
    lead = next(iter(leads.values()))
    through = [d for d in found.demands if lead in d.way.ground]
    return lead if len(through) == len(behind) and wire_of(lead.wire) is None else None


def ohm_of(branch: Branch, warm: float) -> float:
    return branch.resistance_ohm * (warm if branch.warms else 1.0)
