"""Supply: design current, the wire with its neighbours, the fuse, and the voltage around the loop."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from ohmack.core.conductors import (
    Conductor,
    ampacity_a,
    cable_price,
    conductor,
    measured_conductor,
    resistance_factor,
    sizes,
)
from ohmack.core.document.links import GroundLink, PowerLink, Wire
from ohmack.core.document.parts import Amplifier, AmplifierClass, FuseHolder
from ohmack.core.document.vehicle import GroundKind
from ohmack.core.errors import NoOperatingPoint
from ohmack.core.protection import best_fuse, best_rating_a, family, fuse_resistance_ohm
from ohmack.core.reference import PHYSICS, PRACTICE, Grade, Source, table
from ohmack.core.sections.figures import Book, Figure, Term, reference
from ohmack.core.sections.loads import LoadResult
from ohmack.core.sections.runs import Run
from ohmack.core.supply import Load, amplifier_load, load_voltage_v, network_voltages_v, output_power_at_w
from ohmack.core.wording import amount

JOINT: dict[str, Any] = {name: table("joints", name) for name in ("ring", "set_screw")}
CONTACTS_OHM: float = 2 * JOINT["ring"]["resistance_ohm"] + 2 * JOINT["set_screw"]["resistance_ohm"]


@dataclass(frozen=True, slots=True)
class Segment:
    """One piece of the loop: where it is (battery, run, amplifier, ground, body), its resistance and drop."""

    name: str
    place: str
    resistance_ohm: float
    drop_v: float
    source: Source | None
    assumed: bool = False


@dataclass(frozen=True, slots=True)
class WireCandidate:
    """One wire size judged for the power run."""

    wire: Conductor
    fuse_a: float
    fuse_fits: bool
    fuse_reason: str
    ampacity_a: float
    current_a: float | None
    drop_v: float | None
    hot_drop_v: float | None
    at_amplifier_v: float | None
    fits: bool
    reason: str
    price: float
    chosen: bool = False
    best: bool = False


@dataclass(frozen=True, slots=True)
class SupplyResult:
    """Supply of one amplifier; `chosen` is None while something needed is missing."""

    amplifier: Amplifier
    link: PowerLink
    ground: GroundLink | None
    family: str
    candidates: tuple[WireCandidate, ...]
    chosen: WireCandidate | None
    ground_wire: Conductor | None
    segments: tuple[Segment, ...]
    figures: dict[str, Figure]
    limit: str = ""  # why nothing fits


@dataclass(frozen=True, slots=True)
class _Situation:
    """Everything the chooser needs for one amplifier, all present."""

    source_v: float
    length_m: float
    ground_m: float
    body_ohm: float
    strap_ohm: float
    load: Load
    fuses_a: float
    others_a: float
    family: str
    terminal_mm2: float
    holder_mm2: float
    engine_space: bool
    ground_size: Wire | None
    fixed_fuse_a: float | None


def wire_of(wire: Wire, fallback: Conductor | None = None) -> Conductor | None:
    """The conductor a link's wire names; counted strands win over the label."""
    if wire.strand_count and wire.strand_diameter_mm:
        return measured_conductor(wire.strand_count, wire.strand_diameter_mm, wire.material)
    return conductor(wire.size, wire.material) if wire.size else fallback


def _segments(
    s: _Situation, wire: Conductor, fuse_a: float, factor: float
) -> list[tuple[str, str, float, Source | None]]:
    ground = wire_of(s.ground_size, wire) if s.ground_size else wire
    ground = ground or wire
    ring, screw = JOINT["ring"], JOINT["set_screw"]
    fuse_source: Source = table("fuses", "voltage_drop")["source"]
    pieces: list[tuple[str, str, float, Source | None]] = [
        ("Post and ring", "battery", ring["resistance_ohm"], ring["source"]),
        (f"Fuse {fuse_a:g} A with holder", "fuse", fuse_resistance_ohm(fuse_a), fuse_source),
        (
            f"{wire.label}, {s.length_m:.2f} m",
            "run",
            wire.resistance_ohm_per_m * s.length_m * factor,
            wire.resistance_source,
        ),
        ("Amplifier terminals", "amplifier", 2 * screw["resistance_ohm"], screw["source"]),
        (
            f"Ground lead {ground.label}, {s.ground_m:.2f} m",
            "ground",
            ground.resistance_ohm_per_m * s.ground_m * factor,
            ground.resistance_source,
        ),
        ("Ground ring", "ground point", ring["resistance_ohm"], ring["source"]),
    ]
    if s.body_ohm or s.strap_ohm:
        pieces.append(("Body return", "body", s.body_ohm, None))
        pieces.append(("Battery strap", "strap", s.strap_ohm, None))
    return pieces


def _loop_ohm(s: _Situation, wire: Conductor, fuse_a: float, factor: float) -> float:
    """The sum of `_segments`, for the chooser's inner loop."""
    ground = (wire_of(s.ground_size, wire) if s.ground_size else wire) or wire
    cable = wire.resistance_ohm_per_m * s.length_m + ground.resistance_ohm_per_m * s.ground_m
    return CONTACTS_OHM + fuse_resistance_ohm(fuse_a) + cable * factor + s.body_ohm + s.strap_ohm


def _operating_point(s: _Situation, resistance_ohm: float, source_v: float) -> tuple[float, float]:
    """(voltage at the amplifier, design current) for a loop resistance."""
    stiff_v = source_v - s.others_a * (s.body_ohm + s.strap_ohm)
    voltage_v = load_voltage_v(stiff_v, resistance_ohm, s.load)
    current_a = s.load.current_at(voltage_v)
    if s.fuses_a > current_a:
        current_a = s.fuses_a
        voltage_v = stiff_v - current_a * resistance_ohm
    return voltage_v, current_a


def _size(s: _Situation, wire: Conductor, headroom: float, hot_c: float, policy_limit_v: float) -> WireCandidate:
    """One wire size: fuse and drop settle together."""
    carries_a = ampacity_a(wire, s.engine_space)
    price = cable_price(wire, s.length_m)
    current_a = max(s.load.current_at(s.source_v), s.fuses_a)
    rating_a = best_rating_a(s.family, current_a, carries_a, headroom)
    try:
        for _ in range(6):
            fuse_a = s.fixed_fuse_a or rating_a
            voltage_v, current_a = _operating_point(s, _loop_ohm(s, wire, fuse_a, 1.0), s.source_v)
            again_a = best_rating_a(s.family, current_a, carries_a, headroom)
            if again_a <= rating_a:
                break
            rating_a = again_a
        hot_v, _ = _operating_point(s, _loop_ohm(s, wire, fuse_a, resistance_factor(hot_c)), s.source_v)
    except NoOperatingPoint as error:
        choice = best_fuse(s.family, current_a, carries_a, headroom)
        return WireCandidate(
            wire, choice.rating_a, choice.fits, choice.reason, carries_a, None, None, None, None, False, str(error), price
        )  # fmt: skip
    choice = best_fuse(s.family, current_a, carries_a, headroom)
    drop_v = s.source_v - voltage_v
    reasons = []
    if drop_v > policy_limit_v + 1e-9:
        wire_v = current_a * wire.resistance_ohm_per_m * s.length_m
        left_v = policy_limit_v - (drop_v - wire_v)
        fine = f"; fine if the run were under {s.length_m * left_v / wire_v:.1f} m" if left_v > 0 else ""
        reasons.append(f"over the shop's {policy_limit_v:.2f} V{fine}")
    if fuse_a > carries_a:
        reasons.append(f"may carry {carries_a:.0f} A, too little for a {fuse_a:g} A fuse")
    elif not choice.fits and s.fixed_fuse_a is None:
        reasons.append(f"no fuse fits: {choice.reason}")
    if wire.area_mm2 > s.terminal_mm2 * 1.005:
        reasons.append(f"does not fit the amplifier's terminal ({_fits_up_to(s.terminal_mm2, wire)} at most)")
    if wire.area_mm2 > s.holder_mm2 * 1.005:
        reasons.append(f"does not fit the fuse holder ({_fits_up_to(s.holder_mm2, wire)} at most)")
    return WireCandidate(
        wire,
        fuse_a,
        choice.fits,
        choice.reason,
        carries_a,
        current_a,
        drop_v,
        s.source_v - hot_v,
        voltage_v,
        not reasons,
        "; ".join(reasons),
        price,
    )


def _fits_up_to(area_mm2: float, like: Conductor) -> str:
    fitting = [c for c in sizes(like.system) if c.area_mm2 <= area_mm2 * 1.005]
    return fitting[-1].label if fitting else f"{area_mm2:g} mm²"


def choose_wire(
    situation: _Situation, wire: Wire, system: str, headroom: float, hot_c: float, limit_v: float
) -> tuple[tuple[WireCandidate, ...], str]:
    """Every size judged, the chosen and the best marked, each with the reason it was taken or not.

    Parameters:
        situation: source, lengths, load and fits of one amplifier.
        wire: what the design asks for; its size None means choose.
        system: "AWG" or "mm2".
        headroom: design current over fuse rating.
        hot_c: hot conductor temperature [c].
        limit_v: drop allowed around the loop [v].

    Returns:
        candidates from thin to thick, and the binding limit where none fits ("" otherwise).
    """
    own = wire_of(wire)
    pool = list(sizes(own.system if own else system, wire.material))
    if own and all(own.label != c.label for c in pool):
        pool = sorted([*pool, own], key=lambda c: c.area_mm2)
    judged = [_size(situation, c, headroom, hot_c, limit_v) for c in pool]
    best = next((c for c in judged if c.fits), None)
    limit = ""
    fallback = best
    if best is None:
        mountable = [c for c in judged if c.drop_v is not None and "does not fit" not in c.reason]
        fallback = mountable[-1] if mountable else judged[-1]
        limit = fallback.reason
    chosen = next((c for c in judged if own and c.wire.label == own.label), fallback)
    result = []
    for candidate in judged:
        reason = candidate.reason
        if not reason:
            reason = (
                "smallest that meets drop, fuse and terminal" if candidate is best else "works, but more than is needed"
            )
        result.append(replace(candidate, reason=reason, chosen=candidate is chosen, best=candidate is best))
    return tuple(result), limit


def _efficiency(book: Book, amplifier: Amplifier) -> Term:
    if amplifier.efficiency is not None:
        return book.part(amplifier, "efficiency", "efficiency at full power")
    field = "efficiency_class_d" if amplifier.amplifier_class is AmplifierClass.D else "efficiency_class_ab"
    return book.policy(field, f"class {amplifier.amplifier_class} efficiency at full power")


def _terms(
    book: Book, link: PowerLink, ground: GroundLink | None, runs: dict[str, Run], load: LoadResult
) -> dict[str, Term]:
    supply = book.design.vehicle.supply
    amplifier = load.amplifier
    to_battery = ground is not None and any(
        g.id == ground.ground_point_id and g.kind.value is GroundKind.BATTERY for g in book.design.vehicle.ground_points
    )
    no_return = reference("ground lead straight to the battery", 0.0, "ohm", PHYSICS)
    base = "vehicle/supply"
    return {
        "power": load.power.term,
        "efficiency": _efficiency(book, amplifier),
        "idle": book.part(amplifier, "idle_current_a", "idle current", "a"),
        "regulated": book.part(amplifier, "regulated", "regulated supply"),
        "source": book.fact(f"{base}/post_running_v", "battery post, engine running", supply.post_running_v, "v"),
        "length": runs[link.id].length.term,
        "ground": runs[ground.id].length.term if ground else Term("ground lead", 0.5, "m", None, None, "policy"),
        "body": no_return
        if to_battery
        else book.fact(f"{base}/body_return_ohm", "body return", supply.body_return_ohm, "ohm"),
        "strap": no_return
        if to_battery
        else book.fact(f"{base}/battery_strap_ohm", "battery strap", supply.battery_strap_ohm, "ohm"),
    }


def _rough_current_a(book: Book, result: LoadResult) -> float:
    source_v, power_w = book.design.vehicle.supply.post_running_v.value, result.power.value
    if not source_v or not power_w:
        return 0.0
    efficiency = _efficiency(book, result.amplifier).value
    amplifier = result.amplifier
    return amplifier_load(power_w, efficiency, amplifier.idle_current_a, amplifier.regulated).current_at(source_v)


def compute_supplies(book: Book, runs: dict[str, Run], loads: Sequence[LoadResult]) -> list[SupplyResult]:
    """Supply of every amplifier that has a power link and a load; shared return solved together."""
    by_amplifier = {result.amplifier.id: result for result in loads}
    rough = {name: _rough_current_a(book, result) for name, result in by_amplifier.items()}
    results = []
    for link in book.design.links_of(PowerLink):
        if link.amplifier_id in by_amplifier:
            others_a = sum(a for name, a in rough.items() if name != link.amplifier_id)
            results.append(_one(book, link, runs, by_amplifier[link.amplifier_id], others_a))
    return _together(book, results) if len(results) > 1 else results


def _one(book: Book, link: PowerLink, runs: dict[str, Run], load: LoadResult, others_a: float) -> SupplyResult:
    design, policy, amplifier = book.design, book.design.policy, load.amplifier
    ground = next((g for g in design.links_of(GroundLink) if g.amplifier_id == amplifier.id), None)
    holder = next((h for h in design.parts_of(FuseHolder) if link.fuse and h.id == link.fuse.holder_id), None)
    family_name = holder.family if holder else "strip"
    terms = _terms(book, link, ground, runs, load)
    blocked = any(term.missing or term.value is None for term in terms.values())
    candidates: tuple[WireCandidate, ...] = ()
    segments: tuple[Segment, ...] = ()
    chosen, limit, ground_wire, situation = None, "", None, None
    if not blocked:
        values = {name: term.value for name, term in terms.items()}
        situation = _Situation(
            values["source"],
            values["length"],
            values["ground"],
            values["body"],
            values["strap"],
            amplifier_load(values["power"], values["efficiency"], values["idle"], values["regulated"]),
            sum(amplifier.fuses_a) if policy.current_school == "amplifier fuses" else 0.0,
            others_a,
            family_name,
            amplifier.terminal_area_max_mm2,
            holder.terminal_area_max_mm2 if holder else family(family_name).largest_area_mm2,
            link.engine_space,
            ground.wire if ground else None,
            link.fuse.rating_a if link.fuse else None,
        )
        candidates, limit = choose_wire(
            situation, link.wire, policy.wire_system, policy.fuse_headroom, policy.hot_conductor_c, policy.drop_limit_v
        )
        chosen = next(c for c in candidates if c.chosen)
        ground_wire = wire_of(ground.wire, chosen.wire) if ground else None
        if chosen.current_a is not None:
            segments = _drops(situation, chosen, design.vehicle.supply.body_return_ohm.basis == "assumed")
    figures = _figures(book, amplifier, terms, situation, chosen, segments, ground_wire)
    return SupplyResult(amplifier, link, ground, family_name, candidates, chosen, ground_wire, segments, figures, limit)


def _drops(s: _Situation, chosen: WireCandidate, body_assumed: bool) -> tuple[Segment, ...]:
    current_a = chosen.current_a or 0.0
    return tuple(
        Segment(
            name,
            place,
            ohm,
            ohm * (current_a + (s.others_a if place in ("body", "strap") else 0.0)),
            source,
            source is None and body_assumed,
        )
        for name, place, ohm, source in _segments(s, chosen.wire, chosen.fuse_a, 1.0)
    )


def _figures(
    book: Book,
    amplifier: Amplifier,
    terms: dict[str, Term],
    s: _Situation | None,
    chosen: WireCandidate | None,
    segments: tuple[Segment, ...],
    ground_wire: Conductor | None,
) -> dict[str, Figure]:
    policy, scope, supply = book.design.policy, amplifier.id, book.design.vehicle.supply
    everything = tuple(terms.values())

    def taken(attribute: str) -> Any:
        return getattr(chosen, attribute) if chosen else None

    loop_ohm = sum(segment.resistance_ohm for segment in segments)
    pieces = tuple(
        Term(
            g.name,
            g.resistance_ohm,
            "ohm",
            None if g.source else terms["body" if g.place == "body" else "strap"].basis,
            g.source.grade if g.source else None,
            _short(g.source) if g.source else (terms["body" if g.place == "body" else "strap"].source),
            "" if g.source else terms["body" if g.place == "body" else "strap"].path,
        )
        for g in segments
    )
    loop = book.derive(
        f"{scope}/loop_ohm", "Resistance of the whole loop", "ohm", "sum of the pieces", lambda *_: loop_ohm or None,
        *(pieces or everything), source=PHYSICS,
    )  # fmt: skip
    current = book.derive(
        f"{scope}/current_a", "Peak design current", "a",
        "I = P / (η × V) + I_idle, V at the amplifier, solved"
        if policy.current_school == "calculated"
        else "the larger of P / (η × V) + I_idle and the amplifier's own fuses",
        lambda *_: taken("current_a"), *everything, source=PRACTICE,
    )  # fmt: skip
    voltage = book.derive(
        f"{scope}/at_amplifier_v", "Voltage at the amplifier, full level", "v",
        "(1 + R·G)·V² − (E − R·I)·V + R·P = 0, upper root",
        lambda *_: taken("at_amplifier_v"), terms["source"], loop, current, source=PHYSICS,
    )  # fmt: skip
    drop = book.derive(
        f"{scope}/drop_v", "Lost around the loop", "v", "E − V at the amplifier",
        lambda *_: taken("drop_v"), terms["source"], *(pieces or everything), current, source=PHYSICS,
    )  # fmt: skip
    hot = book.derive(
        f"{scope}/hot_drop_v", f"Lost with the wire at {policy.hot_conductor_c:g} °C", "v",
        "wire resistance × (1 + 0.00393 × (t − 20)), solved again",
        lambda *_: taken("hot_drop_v"), *everything, book.policy("hot_conductor_c", "hot conductor", "c"), source=PHYSICS,
    )  # fmt: skip
    fuse = book.derive(
        f"{scope}/fuse_a", "Main fuse", "a",
        "next standard size at or above design current / head-room, at most the wire's ampacity",
        lambda *_: taken("fuse_a"), current, book.policy("fuse_headroom", "design current over fuse"), source=PRACTICE,
    )  # fmt: skip
    wire = book.derive(
        f"{scope}/wire", "Power wire", "", "smallest that meets drop, ampacity ≥ fuse, terminal and holder",
        lambda *_: chosen.wire.label if chosen else None, drop, fuse, source=PRACTICE,
    )  # fmt: skip
    ground = book.derive(
        f"{scope}/ground_wire", "Ground lead", "", "at least the size of the power wire",
        lambda *_: ground_wire.label if ground_wire else None, wire, source=PRACTICE,
    )  # fmt: skip
    resting = book.derive(
        f"{scope}/resting_v", "Voltage at the amplifier, engine off", "v",
        "as running, from the resting post less the battery's own resistance",
        lambda rest_v, cca_a, *_: _resting_v(s, loop_ohm, rest_v, cca_a),
        book.fact("vehicle/supply/post_resting_v", "battery post, resting", supply.post_resting_v, "v"),
        book.fact(f"vehicle/supply/batteries/{supply.batteries[0].id}/cca_a", "cold cranking amps", supply.batteries[0].cca_a, "a"),
        *everything, source=Source("SAE J537 cranking test, halved when warm", PRACTICE.grade),
    )  # fmt: skip
    output = book.derive(
        f"{scope}/output_w", "Output at that voltage", "w",
        "rated power; × (V/14.4)² without a regulated supply",
        output_power_at_w, terms["power"], terms["regulated"], voltage, source=PRACTICE,
    )  # fmt: skip
    return {
        "loop": loop, "current": current, "voltage": voltage, "drop": drop, "hot": hot, "fuse": fuse, "wire": wire,
        "ground": ground, "resting": resting, "output": output,
    }  # fmt: skip


def _short(source: Source) -> str:
    """A source in the narrow column of a working: its name where it is a standard, else its grade."""
    return source.text if source.grade is Grade.STANDARD else source.grade.value


def battery_resistance_ohm(cca_a: float) -> float:
    """Internal resistance of a warm lead-acid battery.

    Parameters:
        cca_a: cold cranking amps [a].

    Returns:
        resistance [ohm].

    Formula: half of (12.6 - 7.2) / CCA. Source: SAE J537 (from memory); the half is common practice.
    """
    return (12.6 - 7.2) / cca_a / 2


def _resting_v(s: _Situation | None, loop_ohm: float, rest_v: float, cca_a: float) -> float | None:
    if s is None or not loop_ohm:
        return None
    internal_ohm = battery_resistance_ohm(cca_a)
    return _operating_point(s, loop_ohm + internal_ohm, rest_v)[0]


def _together(book: Book, results: list[SupplyResult]) -> list[SupplyResult]:
    """Voltages of several amplifiers with the shared body return and strap solved at once."""
    ready = [r for r in results if r.chosen and r.chosen.current_a is not None]
    supply = book.design.vehicle.supply
    if len(ready) < 2 or supply.post_running_v.value is None:
        return results
    shared_ohm = (supply.body_return_ohm.value or 0) + (supply.battery_strap_ohm.value or 0)
    matrix = np.full((len(ready), len(ready)), shared_ohm)
    loads = []
    for k, result in enumerate(ready):
        matrix[k, k] = sum(segment.resistance_ohm for segment in result.segments)
        amplifier, power = result.amplifier, book.figures[f"{result.amplifier.id}/power_w"].value
        efficiency = _efficiency(book, amplifier).value
        loads.append(amplifier_load(power, efficiency, amplifier.idle_current_a, amplifier.regulated))
    try:
        volts = network_voltages_v(supply.post_running_v.value, matrix, loads)
    except NoOperatingPoint:
        return results
    for result, voltage_v in zip(ready, volts, strict=True):
        scope = result.amplifier.id
        for key, value in (("at_amplifier_v", voltage_v), ("drop_v", supply.post_running_v.value - voltage_v)):
            figure = replace(book.figures[f"{scope}/{key}"], value=value)
            book.figures[f"{scope}/{key}"] = figure
            result.figures["voltage" if key == "at_amplifier_v" else "drop"] = figure
    return results


def fuse_words(result: SupplyResult) -> str:
    """The fuse and where it sits, in words."""
    fuse = result.link.fuse
    rating = result.figures["fuse"].value
    if fuse is None or rating is None:
        return "no main fuse"
    distance = fuse.from_source_m.value
    where = f", {amount(distance, 'm')} from the post" if distance is not None else ""
    return f"{rating:g} A {family(result.family).title.lower()}{where}"
