"""The least copper for a whole tree of power runs, wire and fuse together."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from math import inf

from ohmack.core.document import Design
from ohmack.core.document.links import PowerLink
from ohmack.core.network.build import Sized, unlaid
from ohmack.core.network.states import State
from ohmack.core.physics.conductors import Conductor, ampacity_a, cable_price, goes_in, resistance_factor
from ohmack.core.physics.protection import family, fuse_resistance_ohm
from ohmack.core.physics.tree_sizing import Choice, Run, cheapest
from ohmack.core.record import record
from ohmack.core.supply.study import Demand, Study, limits_of, main_lead, ohm_of
from ohmack.core.supply.wire_choice import ground_wire_of, pool_of, wire_of

NEAR_V = 1e-9


@record
class Drawn:
    """What every consumer draws, cool and hot."""

    cool_a: Mapping[str, float]
    hot_a: Mapping[str, float]


@record
class _Piece:
    """A run with what takes its size: the ground lead of the consumer at its end, a main ground lead beside it."""

    link: PowerLink
    after: str | None  # the run before it
    who: tuple[Demand, ...]  # everyone behind it
    last: bool  # whether it ends at a consumer
    branches: frozenset[str]  # that follow its size, and its fuse
    length_m: float
    lead_m: float
    back_m: float
    fuse_a: float | None  # its own, or the one before it
    sizes: tuple[Conductor, ...]

    def wires(self, wire: Conductor) -> tuple[tuple[Conductor, float], ...]:
        """Every wire that takes its size, with its length [m]."""
        own = self.who[0].way.own_ground
        lead = ground_wire_of(own.wire if own else None, wire)
        return (wire, self.length_m), (lead, self.lead_m), (wire, self.back_m)

    def choice(self, wire: Conductor, warm: float) -> Choice:
        """One size of it as the search takes it."""
        fuse_ohm = fuse_resistance_ohm(self.fuse_a) / self.link.fuse_count if self.link.fuse and self.fuse_a else 0.0
        copper_ohm = sum(one.resistance_ohm_per_m * length_m for one, length_m in self.wires(wire))
        price = sum(cable_price(one, length_m) for one, length_m in self.wires(wire))
        return Choice(fuse_ohm + copper_ohm, fuse_ohm + copper_ohm * warm, price)


def worst_currents(design: Design, found: Study) -> Drawn:
    """What every consumer draws at most while no more is lost than the shop allows: sizes that do with it do."""
    limit_v = design.policy.drop_limit_v
    most = {
        d.way.part.id: max(d.load.current_at(d.source_v), d.load.current_at(max(d.source_v - limit_v, 1.0)))
        for d in found.demands
    }
    return Drawn(most, most)


def joint_sizes(design: Design, found: Study, order: Sequence[PowerLink], drawn: Drawn) -> dict[str, Sized] | None:
    """The cheapest sizes of all runs with which every consumer keeps what the shop allows.

    Parameters:
        design: the design.
        found: the study, with a network built.
        order: its power links, each before those behind it.
        drawn: what its consumers draw.

    Returns:
        by power link its wire and fuse; None where no sizes do. The price of a metre is a base and a share of the
        copper, so the cheapest is the lightest too.

    Method: as `physics.tree_sizing`; what does not follow a run's size is lost before.
    """
    pieces = _pieces(design, found, order, drawn)
    if pieces is None:
        return None
    warm = resistance_factor(design.policy.hot_conductor_c)
    own = frozenset(name for p in pieces for name in p.branches)
    left = _left(design, found, drawn, own, warm)
    runs = []
    for p in pieces:
        cool_a, hot_a = (sum(amps[d.way.part.id] for d in p.who) for amps in (drawn.cool_a, drawn.hot_a))
        ends = left[p.who[0].way.part.id] if p.last else ()
        runs.append(Run(p.link.id, p.after, cool_a, hot_a, tuple(p.choice(w, warm) for w in p.sizes), *ends))
    taken = cheapest(runs)
    if taken is None:
        return None
    return {
        p.link.id: Sized(p.sizes[taken[p.link.id]], p.fuse_a if p.link.fuse else None, p.link.fuse_count)
        for p in pieces
    }


def met(design: Design, found: Study, order: Sequence[PowerLink], sized: Mapping[str, Sized]) -> bool:
    """Whether the solved network keeps what the shop allows, cool and hot, and every fuse its head-room."""
    policy = design.policy
    cool, hot = found.solutions[State.RUNNING], found.solutions[State.HOT]
    if cool.collapsed or hot.collapsed:
        return False
    for d in found.demands:
        name = d.way.part.id
        if d.source_v - min(cool.voltage_v[name], hot.voltage_v[name]) > policy.drop_limit_v + NEAR_V:
            return False
    for link in order:
        fuse_a = sized[link.id].fuse_a if limits_of(design, link, None).fixed_fuse_a is None else None
        drawn_a = sum(cool.current_a[d.way.part.id] for d in found.behind(link.id))
        if fuse_a is not None and drawn_a > policy.fuse_headroom * fuse_a * link.fuse_count * (1 + NEAR_V):
            return False
    return True


def _pieces(design: Design, found: Study, order: Sequence[PowerLink], drawn: Drawn) -> list[_Piece] | None:
    """Every run with the sizes it may have; None where one has none."""
    pieces: list[_Piece] = []
    fuses_a: dict[str, float | None] = {}
    for link in order:
        who = found.behind(link.id)
        way = who[0].way
        number = way.power.index(link)
        after, last = (way.power[number - 1].id if number else None), way.own is link
        fuse_a = _fuse_a(design, link, sum(drawn.cool_a[d.way.part.id] for d in who), fuses_a.get(after or ""))
        fuses_a[link.id] = fuse_a * max(link.fuse_count, 1) if fuse_a is not None else None
        lead_id = way.own_ground.id if way.own_ground else unlaid(way)
        follows = last and (way.own_ground is None or wire_of(way.own_ground.wire) is None)
        back = None if last else main_lead(who, found)
        branches = {f"{link.id}/fuse", f"{link.id}/run"}
        branches |= {f"{lead_id}/run"} if follows else set()
        branches |= {f"{back.id}/run"} if back else set()
        wires = _sizes(design, link, fuse_a)
        if not wires or fuse_a == inf:
            return None
        pieces.append(
            _Piece(
                link, after, who, last, frozenset(branches), found.lengths_m[link.id],
                found.lengths_m[lead_id] if follows else 0.0, found.lengths_m[back.id] if back else 0.0, fuse_a, wires,
            )
        )  # fmt: skip
    return pieces


def _fuse_a(design: Design, link: PowerLink, current_a: float, before_a: float | None) -> float | None:
    """The fuse a run's wire has to carry: its own as named or as the current wants it, else the one before it. Endless
    where no fuse of its family is large enough.
    """
    limits = limits_of(design, link, None)
    if not limits.fused:
        return before_a
    if limits.fixed_fuse_a is not None:
        return limits.fixed_fuse_a
    wanted_a = current_a / limits.fuses / limits.headroom
    return next((size for size in family(limits.family).ratings_a if size >= wanted_a), inf)


def _sizes(design: Design, link: PowerLink, fuse_a: float | None) -> tuple[Conductor, ...]:
    """The sizes that fit a run's ends and carry its fuse; one that was named whether it does or not."""
    if (named := wire_of(link.wire)) is not None:
        return (named,)
    limits = limits_of(design, link, None)
    return tuple(
        wire
        for wire in pool_of(design.policy.wire_system, link.wire)
        if goes_in(wire, limits.terminal_mm2, limits.terminals)
        and goes_in(wire, limits.holder_mm2, limits.fuses)
        and ampacity_a(wire, limits.engine_space) / limits.fuses >= (fuse_a or 0.0)
    )


def _left(
    design: Design, found: Study, drawn: Drawn, own: frozenset[str], warm: float
) -> dict[str, tuple[float, float]]:
    """By consumer, what may be lost in its runs, cool and hot: what the shop allows less what the rest of its loop
    loses.
    """
    assert found.network is not None
    ways = {c.id: {name: -1.0 if name in c.against else 1.0 for name in c.way} for c in found.network.consumers}
    fixed = [b for b in found.network.branches if b.id not in own]

    def left_v(amps: Mapping[str, float], factor: float) -> dict[str, float]:
        through: dict[str, float] = {}
        for name, way in ways.items():
            for branch, sign in way.items():
                through[branch] = through.get(branch, 0.0) + sign * amps[name]
        lost_v = {b.id: through[b.id] * ohm_of(b, factor) for b in fixed if b.id in through}
        limit_v = design.policy.drop_limit_v
        return {
            name: limit_v - sum(sign * lost_v[i] for i, sign in way.items() if i in lost_v)
            for name, way in ways.items()
        }

    cool_v, hot_v = left_v(drawn.cool_a, 1.0), left_v(drawn.hot_a, warm)
    return {name: (cool_v[name], hot_v[name]) for name in ways}
