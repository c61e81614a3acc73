"""Supply: design current, the wire with its neighbours, the fuse, and the voltage around the loop."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from ohmack.core.conductors import (
    Conductor,
)
from ohmack.core.document.links import GroundLink, PowerLink
from ohmack.core.document.parts import Amplifier, AmplifierClass, FuseHolder
from ohmack.core.document.vehicle import Battery, GroundKind, SupplyKind
from ohmack.core.errors import NoOperatingPoint
from ohmack.core.protection import family
from ohmack.core.reference import PHYSICS, PRACTICE, Grade, Source
from ohmack.core.sections.figures import Book, Figure, Term, reference
from ohmack.core.sections.loads import AmplifierLoad
from ohmack.core.sections.runs import Run
from ohmack.core.sections.wire_choice import (
    Situation,
    WireCandidate,
    choose_wire,
    operating_point,
    segments_of,
    wire_of,
)
from ohmack.core.supply import amplifier_load, network_voltages_v, output_power_at_w
from ohmack.core.wording import amount


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


def battery_of(book: Book, battery_id: str) -> Battery:
    """A battery of the car; the first one where the id is unknown."""
    batteries = book.design.vehicle.supply.batteries
    return next((b for b in batteries if b.id == battery_id), batteries[0])


def running_post(book: Book, battery_id: str) -> Term:
    """The post voltage of a battery with the engine running: the supply's for the first, a second one's own."""
    supply = book.design.vehicle.supply
    battery = battery_of(book, battery_id)
    if battery is supply.batteries[0]:
        return book.fact("vehicle/supply/post_running_v", "battery post, engine running", supply.post_running_v, "v")
    path = f"vehicle/supply/batteries/{battery.id}/own_running_v"
    return book.fact(path, f"{battery.name}: own post, engine running", battery.own_running_v, "v")


def resting_post(book: Book, battery_id: str) -> Term:
    """The post voltage of a battery at rest: the supply's for the first, a second one's own."""
    supply = book.design.vehicle.supply
    battery = battery_of(book, battery_id)
    if battery is supply.batteries[0]:
        return book.fact("vehicle/supply/post_resting_v", "battery post, resting", supply.post_resting_v, "v")
    path = f"vehicle/supply/batteries/{battery.id}/own_resting_v"
    return book.fact(path, f"{battery.name}: own post, resting", battery.own_resting_v, "v")


def efficiency_of(book: Book, amplifier: Amplifier) -> Term:
    """The efficiency at full power: the maker's, or the shop's for the class."""
    if amplifier.efficiency is not None:
        return book.part(amplifier, "efficiency", "efficiency at full power")
    field = "efficiency_class_d" if amplifier.amplifier_class is AmplifierClass.D else "efficiency_class_ab"
    return book.policy(field, f"class {amplifier.amplifier_class} efficiency at full power")


def _terms(
    book: Book, link: PowerLink, ground: GroundLink | None, runs: dict[str, Run], load: AmplifierLoad
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
        "efficiency": efficiency_of(book, amplifier),
        "idle": book.part(amplifier, "idle_current_a", "idle current", "a"),
        "regulated": book.part(amplifier, "regulated", "regulated supply"),
        "source": running_post(book, link.battery_id),
        "length": runs[link.id].length.term,
        "ground": runs[ground.id].length.term
        if ground
        else book.policy("ground_lead_max_m", "ground lead, none laid yet", "m"),
        "body": no_return
        if to_battery
        else book.fact(f"{base}/body_return_ohm", "body return", supply.body_return_ohm, "ohm"),
        "strap": no_return
        if to_battery
        else book.fact(f"{base}/battery_strap_ohm", "battery strap", supply.battery_strap_ohm, "ohm"),
    }


def _rough_current_a(book: Book, result: AmplifierLoad, battery_id: str) -> float:
    source_v, power_w = running_post(book, battery_id).value, result.power.value
    if not source_v or not power_w:
        return 0.0
    efficiency = efficiency_of(book, result.amplifier).value
    amplifier = result.amplifier
    return amplifier_load(power_w, efficiency, amplifier.idle_current_a, amplifier.regulated).current_at(source_v)


def compute_supplies(book: Book, runs: dict[str, Run], loads: Sequence[AmplifierLoad]) -> list[SupplyResult]:
    """Supply of every amplifier that has a power link and a load; shared return solved together."""
    by_amplifier = {result.amplifier.id: result for result in loads}
    fed = {link.amplifier_id: link.battery_id for link in book.design.links_of(PowerLink)}
    rough = {name: _rough_current_a(book, by_amplifier[name], b) for name, b in fed.items() if name in by_amplifier}
    results = []
    for link in book.design.links_of(PowerLink):
        if link.amplifier_id in by_amplifier:
            others_a = sum(a for name, a in rough.items() if name != link.amplifier_id)
            results.append(_one(book, link, runs, by_amplifier[link.amplifier_id], others_a))
    batteries = dict.fromkeys(result.link.battery_id for result in results)
    for battery_id in batteries:
        shared = [result for result in results if result.link.battery_id == battery_id]
        if len(shared) > 1:
            _together(book, shared, battery_id)
    return results


def _one(book: Book, link: PowerLink, runs: dict[str, Run], load: AmplifierLoad, others_a: float) -> SupplyResult:
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
        situation = Situation(
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
    figures = _figures(book, link, amplifier, terms, situation, chosen, segments, ground_wire)
    return SupplyResult(amplifier, link, ground, family_name, candidates, chosen, ground_wire, segments, figures, limit)


def _drops(s: Situation, chosen: WireCandidate, body_assumed: bool) -> tuple[Segment, ...]:
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
        for name, place, ohm, source in segments_of(s, chosen.wire, chosen.fuse_a, 1.0)
    )


def _figures(
    book: Book,
    link: PowerLink,
    amplifier: Amplifier,
    terms: dict[str, Term],
    s: Situation | None,
    chosen: WireCandidate | None,
    segments: tuple[Segment, ...],
    ground_wire: Conductor | None,
) -> dict[str, Figure]:
    policy, scope, battery = book.design.policy, amplifier.id, battery_of(book, link.battery_id)
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
        resting_post(book, link.battery_id),
        book.fact(f"vehicle/supply/batteries/{battery.id}/cca_a", "cold cranking amps", battery.cca_a, "a"),
        *everything, source=Source("SAE J537 cranking test, halved when warm", PRACTICE.grade),
    )  # fmt: skip
    traffic = _traffic(book, scope, s, loop_ohm, everything)
    output = book.derive(
        f"{scope}/output_w", "Output at that voltage", "w",
        "rated power; × (V/14.4)² without a regulated supply",
        output_power_at_w, terms["power"], terms["regulated"], voltage, source=PRACTICE,
    )  # fmt: skip
    return {
        "loop": loop, "current": current, "voltage": voltage, "drop": drop, "hot": hot, "fuse": fuse, "wire": wire,
        "ground": ground, "resting": resting, "output": output,
        **({"traffic": traffic} if traffic else {}),
    }  # fmt: skip


def _traffic(book: Book, scope: str, s: Situation | None, loop_ohm: float, terms: tuple[Term, ...]) -> Figure | None:
    """The low state of a smart alternator; None for every other supply."""
    supply = book.design.vehicle.supply
    if supply.kind is not SupplyKind.SMART:
        return None
    return book.derive(
        f"{scope}/traffic_v", "Voltage at the amplifier, in traffic", "v", "as running, from the post held low in traffic",
        lambda low_v, *_: operating_point(s, loop_ohm, low_v)[0] if s and loop_ohm else None,
        book.fact("vehicle/supply/post_traffic_v", "battery post, in traffic", supply.post_traffic_v, "v"),
        *terms, source=PRACTICE,
    )  # fmt: skip


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


def _resting_v(s: Situation | None, loop_ohm: float, rest_v: float, cca_a: float) -> float | None:
    if s is None or not loop_ohm:
        return None
    internal_ohm = battery_resistance_ohm(cca_a)
    return operating_point(s, loop_ohm + internal_ohm, rest_v)[0]


def _together(book: Book, results: list[SupplyResult], battery_id: str) -> None:
    """Voltages of several amplifiers on one battery with the shared body return and strap solved at once."""
    ready = [r for r in results if r.chosen and r.chosen.current_a is not None]
    supply = book.design.vehicle.supply
    source_v = running_post(book, battery_id).value
    if len(ready) < 2 or source_v is None:
        return
    shared_ohm = (supply.body_return_ohm.value or 0) + (supply.battery_strap_ohm.value or 0)
    matrix = np.full((len(ready), len(ready)), shared_ohm)
    loads = []
    for k, result in enumerate(ready):
        matrix[k, k] = sum(segment.resistance_ohm for segment in result.segments)
        amplifier, power = result.amplifier, book.figures[f"{result.amplifier.id}/power_w"].value
        efficiency = efficiency_of(book, amplifier).value
        loads.append(amplifier_load(power, efficiency, amplifier.idle_current_a, amplifier.regulated))
    try:
        volts = network_voltages_v(source_v, matrix, loads)
    except NoOperatingPoint:
        return
    for result, voltage_v in zip(ready, volts, strict=True):
        scope = result.amplifier.id
        for key, value in (("at_amplifier_v", voltage_v), ("drop_v", source_v - voltage_v)):
            figure = replace(book.figures[f"{scope}/{key}"], value=value)
            book.figures[f"{scope}/{key}"] = figure
            result.figures["voltage" if key == "at_amplifier_v" else "drop"] = figure


def fuse_words(result: SupplyResult) -> str:
    """The fuse and where it sits, in words."""
    fuse = result.link.fuse
    rating = result.figures["fuse"].value
    if fuse is None or rating is None:
        return "no main fuse"
    distance = fuse.from_source_m.value
    where = f", {amount(distance, 'm')} from the post" if distance is not None else ""
    return f"{rating:g} A {family(result.family).title.lower()}{where}"
