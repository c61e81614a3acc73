"""Supply: design current, the wire with its neighbours, the fuse, and the voltage around the loop."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from math import hypot
from typing import Any

import numpy as np

from ohmack.core.conductors import Conductor
from ohmack.core.document.links import GroundLink, PowerLink
from ohmack.core.document.parts import Amplifier, AmplifierClass, FuseHolder, PoweredSubwoofer
from ohmack.core.document.vehicle import Battery, CrankingStandard, GroundKind, SupplyKind, SystemVoltage
from ohmack.core.errors import NoOperatingPoint
from ohmack.core.protection import family
from ohmack.core.reference import PHYSICS, PRACTICE, Grade, Source, source, table
from ohmack.core.sections.figures import Book, Figure, Term, reference
from ohmack.core.sections.loads import AmplifierLoad
from ohmack.core.sections.runs import Run
from ohmack.core.sections.wire_choice import (
    Situation,
    WireCandidate,
    choose_wire,
    ground_wire_of,
    operating_point,
    segments_of,
)
from ohmack.core.supply import Load, amplifier_load, network_voltages_v, output_power_at_w
from ohmack.core.wording import amount

Consumer = Amplifier | PoweredSubwoofer
OPEN_V = 12.6  # a charged battery at rest


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
    """Supply of one consumer; `chosen` is None while something needed is missing."""

    amplifier: Consumer
    link: PowerLink
    ground: GroundLink | None
    family: str
    candidates: tuple[WireCandidate, ...]
    chosen: WireCandidate | None
    ground_wire: Conductor | None
    segments: tuple[Segment, ...]  # empty while nothing is solved
    pieces: tuple[Segment, ...]  # the loop's resistances, solved or not
    figures: dict[str, Figure]
    limit: str = ""  # why nothing fits
    collapse: str = ""  # why there is no operating point
    source_v: float | None = None


# -- what feeds a consumer ------------------------------------------------------------------------------------------


def battery_of(book: Book, battery_id: str) -> Battery:
    """A battery of the car; the first one where the id is unknown."""
    batteries = book.design.vehicle.supply.batteries
    return next((b for b in batteries if b.id == battery_id), batteries[0])


def _twelve_volt_side(book: Book) -> Term | None:
    """What a 12 V consumer is fed with in a 24 V or pack vehicle: the 12 V side of its converter; None in a 12 V car."""
    if book.design.vehicle.supply.system.value not in (SystemVoltage.V24, SystemVoltage.PACK):
        return None
    row = table("supply", "converter_12v")
    return reference("12 V side of the converter", float(row["output_v"]), "v", row["source"])


def running_post(book: Book, battery_id: str) -> Term:
    """The voltage a consumer is fed from, engine running: the post's, or the 12 V side of a converter."""
    supply = book.design.vehicle.supply
    if (converter := _twelve_volt_side(book)) is not None:
        return converter
    battery = battery_of(book, battery_id)
    if battery is supply.batteries[0]:
        return book.fact("vehicle/supply/post_running_v", "battery post, engine running", supply.post_running_v, "v")
    path = f"vehicle/supply/batteries/{battery.id}/own_running_v"
    return book.fact(path, f"{battery.name}: own post, engine running", battery.own_running_v, "v")


def resting_post(book: Book, battery_id: str) -> Term:
    """The voltage a consumer is fed from at rest: the post's, or the 12 V side of a converter."""
    supply = book.design.vehicle.supply
    if (converter := _twelve_volt_side(book)) is not None:
        return converter
    battery = battery_of(book, battery_id)
    if battery is supply.batteries[0]:
        return book.fact("vehicle/supply/post_resting_v", "battery post, resting", supply.post_resting_v, "v")
    path = f"vehicle/supply/batteries/{battery.id}/own_resting_v"
    return book.fact(path, f"{battery.name}: own post, resting", battery.own_resting_v, "v")


def _return_path(book: Book, link: PowerLink, ground: GroundLink | None) -> tuple[Term, Term]:
    """(body, strap): what the current takes from the ground point back to the battery it came from."""
    supply, base = book.design.vehicle.supply, "vehicle/supply"
    point = next((g for g in book.design.vehicle.ground_points if ground and g.id == ground.to_id), None)
    if point is not None and point.kind.value is GroundKind.BATTERY:
        straight = reference("ground lead straight to the battery", 0.0, "ohm", PHYSICS)
        return straight, straight
    body = book.fact(f"{base}/body_return_ohm", "body return", supply.body_return_ohm, "ohm")
    battery = battery_of(book, link.from_id)
    if battery is supply.batteries[0]:
        return body, book.fact(f"{base}/battery_strap_ohm", "battery strap", supply.battery_strap_ohm, "ohm")
    second = table("supply", "second_battery")
    strap = reference(f"ground lead of {battery.name}", float(second["ground_lead_ohm"]), "ohm", second["source"])
    at = point.position.point if point else book.design.vehicle.ground_points[0].position.point if book.design.vehicle.ground_points else battery.position.point  # fmt: skip
    if hypot(at[0] - battery.position.x_m, at[1] - battery.position.y_m) <= second["beside_m"]:
        body = reference("no body between, the ground points lie beside each other", 0.0, "ohm", second["source"])
    return body, strap


# -- what a consumer draws ------------------------------------------------------------------------------------------


def efficiency_of(book: Book, amplifier: Amplifier) -> Term:
    """The efficiency at full power: the maker's, or the shop's for the class."""
    if amplifier.efficiency is not None:
        return book.part(amplifier, "efficiency", "efficiency at full power")
    field = "efficiency_class_d" if amplifier.amplifier_class is AmplifierClass.D else "efficiency_class_ab"
    return book.policy(field, f"class {amplifier.amplifier_class} efficiency at full power")


def _draw_terms(book: Book, part: Consumer, load: AmplifierLoad | None) -> dict[str, Term] | None:
    """The inputs of what a consumer draws; None for an amplifier without a load."""
    if isinstance(part, PoweredSubwoofer):
        return {"stated": book.part(part, "supply_current_a", f"{part.name} draws at full level", "a")}
    if load is None:
        return None
    return {
        "power": load.power.term,
        "efficiency": efficiency_of(book, part),
        "idle": book.part(part, "idle_current_a", "idle current", "a"),
        "regulated": book.part(part, "regulated", "regulated supply"),
    }


def _load_of(terms: dict[str, Term]) -> Load | None:
    """The load behind the terms of `_draw_terms`; None while one of them has no value."""
    if any(term.value is None for term in terms.values()):
        return None
    if "stated" in terms:
        return Load(current_a=terms["stated"].value)
    return amplifier_load(*(terms[name].value for name in ("power", "efficiency", "idle", "regulated")))


def _rough_current_a(book: Book, draw: dict[str, Term], battery_id: str) -> float:
    source_v, load = running_post(book, battery_id).value, _load_of(draw)
    return load.current_at(source_v) if load is not None and source_v else 0.0


# -- the chooser over every run -------------------------------------------------------------------------------------


def compute_supplies(book: Book, runs: dict[str, Run], loads: Sequence[AmplifierLoad]) -> list[SupplyResult]:
    """Supply of every consumer with a power run; what shares a way back to its battery is solved together."""
    design = book.design
    by_amplifier = {result.amplifier.id: result for result in loads}
    consumers = {part.id: part for part in design.parts if isinstance(part, Consumer)}
    jobs = []
    for link in design.links_of(PowerLink):
        part = consumers[link.to_id]
        draw = _draw_terms(book, part, by_amplifier.get(part.id))
        if draw is None:
            continue
        ground = next((g for g in design.links_of(GroundLink) if g.from_id == part.id), None)
        body, strap = _return_path(book, link, ground)
        jobs.append((link, part, ground, draw, {"body": body, "strap": strap}))
    shares = [bool(way["body"].value or way["strap"].value) for *_, way in jobs]
    rough = [_rough_current_a(book, draw, link.from_id) for link, _, _, draw, _ in jobs]
    results = []
    for i, (link, part, ground, draw, way) in enumerate(jobs):
        others_a = sum(
            rough[k] for k in range(len(jobs))
            if k != i and shares[i] and shares[k] and jobs[k][0].from_id == link.from_id
        )  # fmt: skip
        results.append(_one(book, link, runs, part, ground, draw | way, others_a))
    for battery_id in dict.fromkeys(link.from_id for link, *_ in jobs):
        at = [i for i in range(len(jobs)) if jobs[i][0].from_id == battery_id and shares[i]]
        if len(at) > 1:
            for i, result in zip(at, _together(book, [results[i] for i in at]), strict=True):
                results[i] = result
    return results


def _one(
    book: Book, link: PowerLink, runs: dict[str, Run], part: Consumer, ground: GroundLink | None, terms: dict[str, Term], others_a: float
) -> SupplyResult:  # fmt: skip
    design, policy = book.design, book.design.policy
    holder = next((h for h in design.parts_of(FuseHolder) if link.fuse and h.id == link.fuse.holder_id), None)
    family_name = holder.family if holder else "strip"
    terms = {
        **terms,
        "source": running_post(book, link.from_id),
        "length": runs[link.id].length.term,
        "ground": runs[ground.id].length.term
        if ground
        else book.policy("ground_lead_max_m", "ground lead, none laid yet", "m"),
    }
    if isinstance(part, PoweredSubwoofer):
        terms["maker's fuse"] = book.part(part, "fuse_a", "fuse its maker names", "a")
    candidates: tuple[WireCandidate, ...] = ()
    chosen, limit, ground_wire, situation = None, "", None, None
    load = None if any(term.value is None for term in terms.values()) else _load_of(_only_draw(terms))
    if load is not None:
        values = {name: term.value for name, term in terms.items()}
        situation = Situation(
            values["source"],
            values["length"],
            values["ground"],
            values["body"],
            values["strap"],
            load,
            sum(part.fuses_a) if policy.current_school == "amplifier fuses" else 0.0,
            others_a,
            family_name,
            part.terminal_area_max_mm2,
            holder.terminal_area_max_mm2 if holder else family(family_name).largest_area_mm2,
            link.engine_space,
            ground.wire if ground else None,
            (link.fuse.rating_a if link.fuse else None) or values.get("maker's fuse"),
        )
        candidates, limit = choose_wire(
            situation, link.wire, policy.wire_system, policy.fuse_headroom, policy.hot_conductor_c, policy.drop_limit_v
        )
        chosen = next(c for c in candidates if c.chosen)
        ground_wire = ground_wire_of(ground.wire, chosen.wire) if ground else None
    body_assumed = design.vehicle.supply.body_return_ohm.basis == "assumed"
    pieces = _pieces(situation, chosen, body_assumed)
    solved = chosen is not None and chosen.current_a is not None
    collapse = chosen.reason if chosen is not None and not solved else ""
    figures = _figures(book, link, part, terms, situation, chosen, pieces, ground_wire)
    return SupplyResult(
        part, link, ground, family_name, candidates, chosen, ground_wire, pieces if solved else (), pieces, figures, limit, collapse, terms["source"].value
    )  # fmt: skip


def _only_draw(terms: dict[str, Term]) -> dict[str, Term]:
    return {name: terms[name] for name in ("stated", "power", "efficiency", "idle", "regulated") if name in terms}


def _pieces(s: Situation | None, chosen: WireCandidate | None, body_assumed: bool) -> tuple[Segment, ...]:
    if s is None or chosen is None:
        return ()
    current_a = chosen.current_a or 0.0
    return tuple(
        Segment(
            name,
            place,
            ohm,
            ohm * (current_a + (s.others_a if place in ("body", "strap") else 0.0)),
            piece_source,
            piece_source is None and body_assumed,
        )
        for name, place, ohm, piece_source in segments_of(s, chosen.wire, chosen.fuse_a, 1.0)
    )


def _figures(
    book: Book,
    link: PowerLink,
    amplifier: Consumer,
    terms: dict[str, Term],
    s: Situation | None,
    chosen: WireCandidate | None,
    segments: tuple[Segment, ...],
    ground_wire: Conductor | None,
) -> dict[str, Figure]:
    policy, scope = book.design.policy, amplifier.id
    everything = tuple(terms.values())

    def taken(attribute: str) -> Any:
        """A solved value of the chosen wire; refused where the loop has no operating point."""
        if chosen is None or s is None:
            return None
        if chosen.current_a is None or getattr(chosen, attribute) is None:
            raise NoOperatingPoint("load", s.wanted_w, s.source_v)
        return getattr(chosen, attribute)

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
        f"{scope}/current_a", "Full-load current", "a",
        "as its maker states"
        if "stated" in terms
        else "I = P / (η × V) + I_idle, V at the amplifier, solved"
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
        "next standard size at or above design current / head-room, at most the wire's ampacity"
        if "maker's fuse" not in terms
        else "as its maker names",
        lambda *_: taken("fuse_a"), current, *([terms["maker's fuse"]] if "maker's fuse" in terms else [book.policy("fuse_headroom", "design current over fuse")]),
        source=PRACTICE,
    )  # fmt: skip
    wire = book.derive(
        f"{scope}/wire", "Power wire", "", "smallest that meets drop, cool and hot, ampacity ≥ fuse, terminal and holder",
        lambda *_: chosen.wire.label if chosen else None, drop, fuse, source=PRACTICE,
    )  # fmt: skip
    ground = book.derive(
        f"{scope}/ground_wire", "Ground lead", "", "at least the size of the power wire",
        lambda *_: ground_wire.label if ground_wire else None, wire, source=PRACTICE,
    )  # fmt: skip
    resting = _resting(book, link, scope, s, loop_ohm, everything)
    traffic = _traffic(book, scope, s, loop_ohm, everything)
    figures = {
        "loop": loop, "current": current, "voltage": voltage, "drop": drop, "hot": hot, "fuse": fuse, "wire": wire,
        "ground": ground, "resting": resting, **({"traffic": traffic} if traffic else {}),
    }  # fmt: skip
    if "power" in terms:
        figures["output"] = book.derive(
            f"{scope}/output_w", "Output at that voltage", "w",
            "rated power; × (V/14.4)² without a regulated supply",
            output_power_at_w, terms["power"], terms["regulated"], voltage, source=PRACTICE,
        )  # fmt: skip
    return figures


def _resting(book: Book, link: PowerLink, scope: str, s: Situation | None, loop_ohm: float, terms: tuple[Term, ...]) -> Figure:  # fmt: skip
    """The voltage with the engine off: the battery's own resistance joins the loop."""
    battery = battery_of(book, link.from_id)
    standard = battery.cranking_standard
    stated = Term(
        "stated by", standard.value, "", None, None, "", f"vehicle/supply/batteries/{battery.id}/cranking_standard"
    )
    return book.derive(
        f"{scope}/resting_v", "Voltage at the amplifier, engine off", "v",
        "as running, from the resting post less the battery's own resistance",
        lambda rest_v, cca_a, *_: _resting_v(s, loop_ohm, rest_v, battery_resistance_ohm(cca_a, standard)),
        resting_post(book, link.from_id),
        book.fact(f"vehicle/supply/batteries/{battery.id}/cca_a", "cold cranking amps", battery.cca_a, "a"),
        stated, *terms, source=source("supply.cranking", standard.value),
    )  # fmt: skip


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


def battery_resistance_ohm(cca_a: float, standard: CrankingStandard = CrankingStandard.SAE) -> float:
    """Internal resistance of a warm lead-acid battery.

    Parameters:
        cca_a: cold cranking amps [a].
        standard: by what they are stated: the voltage the battery still holds at that current.

    Returns:
        resistance [ohm].

    Formula: half of (12.6 - V_held) / CCA. Source: SAE J537, EN 50342-1, DIN 43539 (from memory); the half is common practice.

    >>> round(1000 * battery_resistance_ohm(600), 2), round(1000 * battery_resistance_ohm(600, CrankingStandard.EN), 2)
    (4.5, 4.25)
    """
    return float((OPEN_V - table("supply.cranking", standard.value)["holds_v"]) / cca_a / 2)


def _resting_v(s: Situation | None, loop_ohm: float, rest_v: float, internal_ohm: float) -> float | None:
    if s is None or not loop_ohm:
        return None
    return operating_point(s, loop_ohm + internal_ohm, rest_v)[0]


def _together(book: Book, results: list[SupplyResult]) -> list[SupplyResult]:
    """Several consumers whose current takes the same way back to one battery, solved at once; all refused where that collapses."""
    ready = [r for r in results if r.chosen and r.chosen.current_a is not None and r.source_v is not None]
    if len(ready) < 2:
        return results
    back = [sum(g.resistance_ohm for g in r.pieces if g.place in ("body", "strap")) for r in ready]
    matrix = np.minimum.outer(back, back)
    loads = []
    for k, result in enumerate(ready):
        matrix[k, k] = sum(segment.resistance_ohm for segment in result.pieces)
        loads.append(_drawn(book, result))
    source_v = ready[0].source_v or 0.0
    try:
        volts: list[float] | None = network_voltages_v(source_v, matrix, loads)
    except NoOperatingPoint as error:
        volts, refused = None, str(error)
    moved = {}
    for k, result in enumerate(ready):
        scope = result.amplifier.id
        for name, key in (("at_amplifier_v", "voltage"), ("drop_v", "drop")):
            figure = book.figures[f"{scope}/{name}"]
            if volts is None:
                figure = replace(figure, value=None, refused=refused)
            else:
                figure = replace(figure, value=volts[k] if key == "voltage" else source_v - volts[k])
            book.figures[figure.id] = result.figures[key] = figure
        moved[scope] = result if volts is not None else replace(result, collapse=refused, segments=())
    return [moved.get(result.amplifier.id, result) for result in results]


def _drawn(book: Book, result: SupplyResult) -> Load:
    """What a consumer puts on the network, from the figures already made."""
    part = result.amplifier
    if isinstance(part, PoweredSubwoofer):
        return Load(current_a=part.supply_current_a)
    power_w = book.figures[f"{part.id}/power_w"].value
    return amplifier_load(power_w, efficiency_of(book, part).value, part.idle_current_a, part.regulated)


def fuse_words(result: SupplyResult) -> str:
    """The fuse and where it sits, in words."""
    fuse = result.link.fuse
    rating = result.figures["fuse"].value
    if fuse is None or rating is None:
        return "no main fuse"
    distance = fuse.from_source_m.value
    where = f", {amount(distance, 'm')} from the post" if distance is not None else ""
    return f"{rating:g} A {family(result.family).title.lower()}{where}"
