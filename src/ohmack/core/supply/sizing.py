"""Every power run sized together: main runs first, then what hangs behind them, until nothing changes any more."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import replace
from typing import Any

import numpy as np

from ohmack.core.document import Design
from ohmack.core.document.links import PowerLink
from ohmack.core.figures.figure import Book
from ohmack.core.network.build import Sized, Way, build, unlaid
from ohmack.core.network.faulted import with_known
from ohmack.core.network.model import PowerNetwork
from ohmack.core.network.states import State
from ohmack.core.physics.conductors import Conductor, resistance_factor
from ohmack.core.supply.joint_sizes import Drawn, joint_sizes, met, worst_currents
from ohmack.core.supply.study import Demand, Study, grounds_of, limits_of, main_lead, ohm_of, solved
from ohmack.core.supply.wire_choice import Leg, Situation, WireCandidate, choose_wire, pool_of, wire_of

PASSES = 8
JOINT_PASSES = 4
SETTLED_A = 1e-9


# -- the sizes settle together --------------------------------------------------------------------------------------


def study(book: Book, demands: Iterable[Demand], lengths_m: dict[str, float]) -> Study:
    """Wires, fuses and solutions of all consumers together.

    Parameters:
        book: the design and its terms.
        demands: the consumers.
        lengths_m: by link, how much wire [m].

    Returns:
        the study. Every run is chosen with the currents the others really draw; passes go on until no size and no
        current changes, at most eight. Where runs share a main run, the least copper of the whole tree that does is
        taken, where there is one.
    """
    found = Study(tuple(demands), lengths_m)
    if not found.demands:
        return found
    current_a = {d.way.part.id: d.load.current_at(d.source_v) for d in found.demands}
    order = _root_first(found.demands)
    sized: dict[str, Sized] = {
        link.id: Sized(_first_guess(book.design, link), 1.0 if link.fuse else None, link.fuse_count) for link in order
    }
    alone = len(found.demands) == 1 and len(order) == 1
    built: tuple[dict[str, Sized], PowerNetwork] | None = None

    def made() -> PowerNetwork:
        """The network of the sizes as they are now; once they have settled it stays."""
        nonlocal built
        if built is None or built[0] != sized:
            found.grounds = grounds_of(book.design, found.demands, sized)
            network = build(book, [d.way for d in found.demands], sized, found.grounds, lengths_m)
            built = (dict(sized), network)
        return built[1]

    def solved_now() -> None:
        """The network of the sizes as they are, cool."""
        found.network = made()
        emf = {d.way.battery.id: d.source_v for d in found.demands}
        found.solutions[State.RUNNING] = solved(found, State.RUNNING, emf, {})

    def settle() -> None:
        """Run by run until no size and no current changes."""
        for _ in range(PASSES):
            before = (dict(sized), dict(current_a))
            for link in order:
                situation = _situation(book.design, found, link, made(), sized, current_a)
                found.choices[link.id] = choose_wire(situation, link.wire, book.design.policy.wire_system)
                taken = found.chosen(link.id)
                assert taken is not None  # a chooser always takes one, for better or worse
                sized[link.id] = Sized(taken.wire, taken.fuse_a if link.fuse else None, link.fuse_count)
            solved_now()
            drawn = found.solutions[State.RUNNING].current_a
            current_a.update({name: drawn[name] or amps for name, amps in current_a.items()})
            same = all(abs(current_a[n] - before[1][n]) < SETTLED_A * max(1.0, current_a[n]) for n in current_a)
            if alone or (before[0] == sized and same):
                break

    if any(len(d.way.power) > 1 for d in found.demands):
        solved_now()
        found.joint = _jointly(book, found, order, sized, solved_now)
        current_a.update({n: a for n, a in found.solutions[State.RUNNING].current_a.items() if a and found.joint})
    settle()
    warm = resistance_factor(book.design.policy.hot_conductor_c)
    emf = {d.way.battery.id: d.source_v for d in found.demands}
    if (faults := book.design.proof.faults) and found.network is not None:  # the wires stay as they were laid
        found.network = with_known(book, found.network, faults)
        found.solutions[State.RUNNING] = solved(found, State.RUNNING, emf, {})
    found.solutions[State.HOT] = solved(found, State.HOT, emf, {}, warm)
    for link in order:
        found.choices[link.id] = _as_solved(found, link)
    return found


def _jointly(
    book: Book, found: Study, order: list[PowerLink], sized: dict[str, Sized], solved_now: Callable[[], None]
) -> bool:
    """Put the least copper of the whole tree into `sized`; False where no sizes do, and `sized` stays."""
    kept, design = dict(sized), book.design
    warm = resistance_factor(design.policy.hot_conductor_c)
    emf = {d.way.battery.id: d.source_v for d in found.demands}
    drawn = worst_currents(design, found)
    best: dict[str, Sized] | None = None
    for _ in range(JOINT_PASSES):
        tried = joint_sizes(design, found, order, drawn)
        if tried is None or tried == best:
            break
        sized.update(tried)
        solved_now()
        found.solutions[State.HOT] = solved(found, State.HOT, emf, {}, warm)
        if not met(design, found, order, tried):
            break
        best = tried
        drawn = Drawn(found.solutions[State.RUNNING].current_a, found.solutions[State.HOT].current_a)
    sized.update(best or kept)
    solved_now()
    return best is not None


def _root_first(demands: Iterable[Demand]) -> list[PowerLink]:
    """Every power link in use, those nearest the battery first."""
    depth = {link.id: (i, link) for d in demands for i, link in enumerate(d.way.power)}
    return [link for _, link in sorted(depth.values(), key=lambda pair: pair[0])]


def _first_guess(design: Design, link: PowerLink) -> Conductor:
    pool = pool_of(design.policy.wire_system, link.wire)
    return wire_of(link.wire) or pool[len(pool) // 2]


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
    follow = {d.way.part.id: _followers(d, link, leaf, found.joint) for d in behind}
    back = None if leaf else main_lead(behind, found)
    if back is not None:
        own.add(f"{back.id}/run")

    def total(ids: Iterable[str], factor: float) -> float:
        return sum(ohm_of(branches[i], factor) for i in ids)

    signs = {
        c.id: {i: -1.0 if i in c.against else 1.0 for i in c.way} for c in network.consumers
    }  # of every branch of a way
    mine = {d.way.part.id for d in behind}
    others_a: dict[str, float] = {}  # by branch, what everyone who is not behind this run sends through it
    for other, way in signs.items():
        if other not in mine:
            for i, sign in way.items():
                others_a[i] = others_a.get(i, 0.0) + sign * current_a[other]

    def lost_v(name: str, factor: float) -> float:
        """What everyone who is not behind this run takes from a consumer's voltage."""
        way = signs[name].items()
        return sum(sign * others_a[i] * ohm_of(branches[i], factor) for i, sign in way if i in others_a)

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
        """What a current of one leg takes from another's voltage besides this run."""
        ohm = {i: ohm_of(branches[i], factor) for name in names for i in signs[name] if i not in own}
        passes = np.array([[signs[name].get(i, 0.0) for i in ohm] for name in names])
        return tuple(map(tuple, ((passes * list(ohm.values())) @ passes.T).tolist()))

    return Situation(
        behind[0].source_v,
        found.lengths_m[link.id],
        found.lengths_m[back.id] if back else 0.0,
        back.wire if back else None,
        tuple(legs),
        shared(1.0) if len(legs) > 1 else (),
        shared(warm) if len(legs) > 1 else (),
        limits_of(design, link, _upstream_a(behind[0].way, link, sized)),
        found.joint,
    )


def _followers(demand: Demand, link: PowerLink, leaf: bool, joint: bool) -> set[str]:
    """The branches whose wire takes the size asked about: a ground lead nobody named, and runs behind a main run
    nobody named, unless all were sized together.
    """
    way, found = demand.way, set()
    lead = way.own_ground.id if way.own_ground else unlaid(way)
    named = way.own_ground is not None and wire_of(way.own_ground.wire) is not None
    after = () if joint else way.power[way.power.index(link) + 1 :]
    free = [k for k in after if wire_of(k.wire) is None]
    if not named and (leaf or way.own in free):
        found.add(f"{lead}/run")
    return found | {f"{k.id}/run" for k in free}


def _upstream_a(way: Way, link: PowerLink, sized: Mapping[str, Sized]) -> float | None:
    """The fuse that protects a link without one of its own; None where it has one, or where nothing does."""
    if link.fuse is not None:
        return None
    before = way.power[: way.power.index(link)]
    return next((a for k in reversed(before) if (a := sized[k.id].fused_a) is not None), None)
