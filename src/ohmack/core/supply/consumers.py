"""Supply: the figures of every consumer and the runs that feed it, all read off one network."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, fields, replace

from ohmack.core.document.handles import at, at_the
from ohmack.core.document.links import PowerLink
from ohmack.core.document.parts import DistributionBlock, PoweredSubwoofer
from ohmack.core.document.policy import Policy
from ohmack.core.document.vehicle import SupplyKind
from ohmack.core.errors import NoOperatingPoint
from ohmack.core.figures.figure import Book, Figure, Formula, Reading, Term, fixed
from ohmack.core.network.states import State, emf_v, held_v, inner_ohm, inner_terms
from ohmack.core.physics.conductors import Conductor
from ohmack.core.physics.supply import amplifier_current_a, output_power_at_w
from ohmack.core.reference import PHYSICS, PRACTICE, source
from ohmack.core.supply.draws import Planned, Wanted, demand_of
from ohmack.core.supply.results import At, Segment, SupplyResult
from ohmack.core.supply.sizing import study
from ohmack.core.supply.study import Demand, Study, fuse_family, solved
from ohmack.core.supply.wire_choice import WireCandidate


def _sum(*values: float) -> float:
    return float(sum(values))


def _largest(current_a: float, *fuses_a: float) -> float:
    return max(current_a, sum(fuses_a))


LOOP = Formula("Resistance of the whole loop", "ohm", "sum of the pieces", _sum, PHYSICS)
STATED = Formula("Full-load current", "a", "as its maker states", float)
CALCULATED = Formula(
    "Full-load current",
    "a",
    "I = P / (η × V) + I_idle; P × (V/14.4)² without a regulated supply",
    amplifier_current_a,
    PRACTICE,
)
BY_FUSES = Formula(
    "Full-load current", "a", "the larger of what is calculated and the amplifier's own fuses", _largest, PRACTICE
)
TOGETHER = Formula("Current of everything behind it", "a", "sum of what is behind it", _sum, PHYSICS)
VOLTAGE = Reading(
    "Voltage at the amplifier, full level",
    "v",
    "V = E − Σ R × I around the loop, all consumers solved together",
    lambda at: at.voltage_v,
    PHYSICS,
)
LOST = Formula("Lost around the loop", "v", "Σ R × I, piece by piece", _sum, PHYSICS)
MAIN_LOST = Formula("Lost in the main run", "v", "Σ R × I, piece by piece", _sum, PHYSICS)
OUTPUT = Formula(
    "Output at that voltage", "w", "rated power; × (V/14.4)² without a regulated supply", output_power_at_w, PRACTICE
)
FUSE = Reading(
    "Main fuse",
    "a",
    "next standard size at or above design current / head-room, at most the wire's ampacity",
    lambda c: c.fuse_a,
    PRACTICE,
)
FUSE_NAMED = Reading("Main fuse", "a", "as its maker names", lambda c: c.fuse_a, PRACTICE)
FUSE_BEFORE = Reading("Fuse before it", "a", "the nearest fuse towards the battery", lambda c: c.fuse_a, PRACTICE)
WIRE = Reading(
    "Power wire",
    "",
    "smallest that meets drop, cool and hot, ampacity ≥ fuse, terminal and holder",
    lambda c: c.wire.label,
    PRACTICE,
)
GROUND = Reading("Ground lead", "", "at least the size of the power wire", lambda wire: wire.label, PRACTICE)
STATES = {
    State.ENGINE_OFF: (
        "resting",
        "resting_v",
        Reading(
            "Voltage at the amplifier, engine off",
            "v",
            "as running, from the resting post less the battery's own resistance",
            lambda at: at.voltage_v,
            PHYSICS,
        ),
    ),
    State.TRAFFIC: (
        "traffic",
        "traffic_v",
        Reading(
            "Voltage at the amplifier, in traffic",
            "v",
            "as running, from the post held low in traffic",
            lambda at: at.voltage_v,
            PRACTICE,
        ),
    ),
    State.IDLING: (
        "idling",
        "idling_v",
        Reading(
            "Voltage at the amplifier, idling with everything on",
            "v",
            "as running, from the post while the engine idles",
            lambda at: at.voltage_v,
            PRACTICE,
        ),
    ),
}


@dataclass
class PowerStudy(Study):
    """The study of all power runs with what is shown of each."""

    supplies: list[SupplyResult] = field(default_factory=list)


def compute_power(book: Book, wanted: Wanted) -> PowerStudy:
    """Supply of every consumer, main runs first, and the study they are read off."""
    everyone = wanted.consumers
    demands = {p.way.part.id: d for p in everyone if (d := demand_of(book, p)) is not None}
    found = study(book, demands.values(), wanted.lengths_m)
    leaves = [_leaf(book, found, planned, everyone) for planned in everyone]
    mains: dict[str, SupplyResult] = {}
    for planned in everyone:
        for link in planned.way.power[:-1]:
            if link.id not in mains:
                mains[link.id] = _main(book, found, link, [p for p in everyone if link in p.way.power])
    shown = {f.name: getattr(found, f.name) for f in fields(Study)}
    return PowerStudy(**shown, supplies=[*mains.values(), *leaves])


def _pieces(found: Study, name: str, state: State = State.RUNNING) -> tuple[Segment, ...]:
    """The loop of a consumer, piece by piece from the post and back to it."""
    if found.network is None:
        return ()
    solution, warm = found.solutions[state], found.conditions[state].warm
    consumer = next(c for c in found.network.consumers if c.id == name)
    branches = {b.id: b for b in found.network.branches}
    signs = {i: -1.0 if i in consumer.against else 1.0 for i in consumer.way}
    return tuple(
        Segment(
            i,
            _capital(branches[i].term.name),
            branches[i].place,
            branches[i].resistance_ohm * (warm if branches[i].warms else 1.0),
            sign * solution.branch_a[i],
            branches[i].term,
        )
        for i, sign in signs.items()
    )


def _capital(words: str) -> str:
    return words[:1].upper() + words[1:]


def _at(
    found: Study, state: State, demand: Demand | None, source_v: float | None = None
) -> At | NoOperatingPoint | None:
    """A consumer in a solved state; the reason where it collapses, None where nothing is solved."""
    if demand is None or state not in found.solutions:
        return None
    solution, name = found.solutions[state], demand.way.part.id
    return solution.collapsed.get(name) or At(solution, name, demand.source_v if source_v is None else source_v)


def _leaf(book: Book, found: Study, planned: Planned, everyone: Sequence[Planned]) -> SupplyResult:
    """The supply of one consumer."""
    way, demand = planned.way, found.demand(planned.way.part.id)
    part, link = way.part, way.own
    candidates, limit = found.choices.get(link.id, ((), "")) if demand else ((), "")
    chosen = next((c for c in candidates if c.chosen), None)
    pieces = _pieces(found, part.id) if demand else ()
    at = _at(found, State.RUNNING, demand)
    lead = way.own_ground
    ground_wire = found.grounds.get(lead.id) if lead and demand else None
    figures = _figures(book, found, planned, demand, at, chosen, pieces, ground_wire, everyone)
    return SupplyResult(
        part,
        link,
        lead,
        fuse_family(book.design, link),
        candidates,
        chosen,
        ground_wire,
        pieces if isinstance(at, At) else (),
        pieces,
        figures,
        limit,
        str(at) if isinstance(at, NoOperatingPoint) else "",
        demand.source_v if demand else emf_v(planned.source),
        way.power,
        way.battery.id,
    )


def _figures(
    book: Book,
    found: Study,
    planned: Planned,
    demand: Demand | None,
    at: At | NoOperatingPoint | None,
    chosen: WireCandidate | None,
    pieces: tuple[Segment, ...],
    ground_wire: Conductor | None,
    everyone: Sequence[Planned],
) -> dict[str, Figure]:
    scope, shown = planned.way.part.id, _rests_on(found, planned, everyone, pieces)
    taken = at if isinstance(at, NoOperatingPoint) else chosen
    loop = book.figure(f"{scope}/loop_ohm", LOOP, *(tuple(piece.term for piece in pieces) or planned.terms))
    voltage = book.reading(f"{scope}/at_amplifier_v", VOLTAGE, at, *planned.source, *shown)
    current = _current(book, scope, planned, voltage)
    lost = tuple(piece.lost(voltage.term) for piece in pieces) if isinstance(at, At) else (voltage.term,)
    figures = {
        "loop": loop,
        "voltage": voltage,
        "current": current,
        "drop": book.figure(f"{scope}/drop_v", LOST, *lost),
    }
    figures["hot"] = book.reading(
        f"{scope}/hot_drop_v",
        HOT_LOST,
        _at(found, State.HOT, demand),
        *planned.source,
        *shown,
        book.policy(lambda it: it.hot_conductor_c, "hot conductor", "c"),
        name=f"Lost with the wire at {book.design.policy.hot_conductor_c:g} °C",
    )
    figures |= _chosen_figures(book, scope, planned.way.own, current, figures["drop"], taken, planned)
    figures["ground"] = book.reading(f"{scope}/ground_wire", GROUND, ground_wire, figures["wire"])
    for state in STATES:
        figures |= _in_state(book, found, planned, demand, state, shown, everyone)
    if "power" in planned.draw:
        figures["output"] = book.figure(
            f"{scope}/output_w", OUTPUT, planned.draw["power"], planned.draw["regulated"], voltage
        )
    return figures


def _rests_on(
    found: Study, planned: Planned, everyone: Sequence[Planned], pieces: tuple[Segment, ...]
) -> tuple[Term, ...]:
    """What the voltage at a consumer rests on besides its source: every piece of its loop, its draw, and the draw of
    who shares a piece.
    """
    if not pieces:
        return planned.terms
    mine = {piece.id for piece in pieces}
    ways = {c.id: set(c.way) for c in found.network.consumers} if found.network else {}
    sharing = [p for p in everyone if p is not planned and mine & ways.get(p.way.part.id, set())]
    policy = [term for term in planned.rest if term.path == at_the(Policy, lambda it: it.ground_lead_max_m)]
    others = [replace(t, name=f"{p.way.part.name}: {t.name}") for p in sharing for t in p.draw.values()]
    return (*(piece.term for piece in pieces), *planned.draw.values(), *policy, *others)


def _current(book: Book, scope: str, planned: Planned, voltage: Figure) -> Figure:
    """What a consumer draws at the voltage that is left, or what the shop designs for."""
    draw, part = planned.draw, planned.way.part
    if "stated" in draw:
        return book.figure(f"{scope}/current_a", STATED, draw["stated"])
    terms = (draw["power"], draw["efficiency"], draw["idle"], draw["regulated"], voltage.term)
    if book.design.policy.current_school == "calculated" or not part.fuses_a:
        return book.figure(f"{scope}/current_a", CALCULATED, *terms)
    calculated = book.figure(f"{scope}/calculated_a", CALCULATED, *terms, name="Calculated current")
    fuses = (
        fixed(f"own fuse {n}", amps, "a", at(part, lambda it: it.fuses_a)) for n, amps in enumerate(part.fuses_a, 1)
    )
    return book.figure(f"{scope}/current_a", BY_FUSES, calculated, *fuses)


def _chosen_figures(
    book: Book,
    scope: str,
    link: PowerLink,
    current: Figure,
    drop: Figure,
    taken: WireCandidate | NoOperatingPoint | None,
    planned: Planned | None,
) -> dict[str, Figure]:
    """The fuse and the wire of a run, as chosen."""
    headroom = book.policy(lambda it: it.fuse_headroom, "design current over fuse")
    if planned is not None and isinstance(planned.way.part, PoweredSubwoofer) and link.fuse is not None:
        named = book.part(planned.way.part, lambda it: it.fuse_a, "fuse its maker names", "a")
        lacks = (drop,) if taken is None else ()  # a wire of unknown size is no run yet, and its fuse says so
        fuse = book.reading(f"{scope}/fuse_a", FUSE_NAMED, taken, current, named, *lacks)
    elif link.fuse is None and planned is not None and link is not planned.way.power[0]:
        fuse = book.reading(f"{scope}/fuse_a", FUSE_BEFORE, taken, current)
    else:
        each = f"Each of {link.fuse_count} main fuses" if link.fuse_count > 1 else ""
        fuse = book.reading(f"{scope}/fuse_a", FUSE, taken, current, headroom, name=each)
    return {"fuse": fuse, "wire": book.reading(f"{scope}/wire", WIRE, taken, drop, fuse)}


HOT_LOST = Reading(
    "Lost with the wire hot",
    "v",
    "wire resistance × (1 + 0.00393 × (t − 20)), solved again",
    lambda at: at.drop_v,
    PHYSICS,
)


def _in_state(
    book: Book, found: Study, planned: Planned, demand: Demand | None, state: State, terms: tuple[Term, ...],
    everyone: Sequence[Planned]
) -> dict[str, Figure]:  # fmt: skip
    """The voltage at a consumer in another state, where this car has that state."""
    supply = book.design.vehicle.supply
    if state is State.TRAFFIC and supply.kind is not SupplyKind.SMART:
        return {}
    if state is State.IDLING and supply.post_loaded_v.value is None:
        return {}
    key, figure_id, reading = STATES[state]
    batteries = {p.way.battery.id: p.way.battery for p in everyone if found.demand(p.way.part.id)}
    batteries |= {planned.way.battery.id: planned.way.battery}
    held = {name: held_v(book, battery, state) for name, battery in batteries.items()}
    inner = {name: inner_terms(book, battery, state) for name, battery in batteries.items()}
    ends = tuple(dict.fromkeys(term for name in batteries for term in (*held[name], *inner[name])))
    known = all(term.value is not None for term in ends)
    if demand is not None and known and state not in found.solutions:
        emf = {name: emf_v(held[name]) or 0.0 for name in batteries}
        found.solutions[state] = solved(found, state, emf, {name: inner_ohm(t) for name, t in inner.items()})
    own = planned.way.battery
    if inner[own.id]:
        reading = replace(reading, source=source("supply.cranking", own.cranking_standard.value))
    at = _at(found, state, demand, emf_v(held[own.id])) if known else None
    return {key: book.reading(f"{planned.way.part.id}/{figure_id}", reading, at, *ends, *terms)}


def _main(book: Book, found: Study, link: PowerLink, behind: list[Planned]) -> SupplyResult:
    """A main run and what it feeds: the sum of their currents, and what is lost before the block."""
    block = book.design.part(link.to_id)
    assert isinstance(block, DistributionBlock)  # the document lets nothing else be fed and feed
    scope, way = block.id, behind[0].way
    demands = [found.demand(p.way.part.id) for p in behind]
    known = [d for d in demands if d is not None]
    candidates, limit = found.choices.get(link.id, ((), ""))
    chosen = next((c for c in candidates if c.chosen), None)

    def own(state: State) -> tuple[Segment, ...]:
        through = _pieces(found, known[0].way.part.id, state) if known else ()
        return tuple(piece for piece in through if piece.link_id == link.id)

    pieces = own(State.RUNNING)
    ats = [_at(found, State.RUNNING, d) for d in known]
    stopped = next((at for at in ats if isinstance(at, NoOperatingPoint)), None)
    current = book.figure(f"{scope}/current_a", TOGETHER, *(book.figures[f"{p.way.part.id}/current_a"] for p in behind))
    lost = tuple(piece.lost(current.term) for piece in pieces) if stopped is None and pieces else (current.term,)
    drop = book.figure(f"{scope}/drop_v", MAIN_LOST, *lost)
    taken = stopped or chosen
    warm = (
        tuple(piece.lost(current.term) for piece in own(State.HOT)) if stopped is None and pieces else (current.term,)
    )
    hot = book.figure(
        f"{scope}/hot_drop_v",
        MAIN_LOST,
        *warm,
        name=f"Lost in the main run at {book.design.policy.hot_conductor_c:g} °C",
    )
    figures = {"current": current, "drop": drop, "hot": hot} | _chosen_figures(
        book, scope, link, current, drop, taken, None
    )
    lead = next((g for p in behind for g in p.way.ground[1:2]), None)
    ground_wire = found.grounds.get(lead.id) if lead else None
    if lead is not None:
        figures["ground"] = book.reading(
            f"{scope}/ground_wire", GROUND, ground_wire, figures["wire"], name="Main ground lead"
        )
    return SupplyResult(
        block,
        link,
        lead,
        fuse_family(book.design, link),
        candidates,
        chosen,
        ground_wire,
        pieces if stopped is None else (),
        pieces,
        figures,
        limit,
        str(stopped) if stopped else "",
        known[0].source_v if known else None,
        way.power[: way.power.index(link) + 1],
        way.battery.id,
    )
