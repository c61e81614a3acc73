"""The wire chooser: every size judged with its fuse and its voltage, settled together."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any

from ohmack.core.conductors import (
    Conductor,
    ampacity_a,
    cable_price,
    conductor,
    in_other_material,
    measured_conductor,
    resistance_factor,
    sizes,
)
from ohmack.core.document.links import Wire
from ohmack.core.errors import NoOperatingPoint
from ohmack.core.protection import best_fuse, best_rating_a, fuse_resistance_ohm
from ohmack.core.reference import Source, table
from ohmack.core.supply import Load, load_voltage_v

JOINT: dict[str, Any] = {name: table("joints", name) for name in ("ring", "set_screw")}
CONTACTS_OHM: float = 2 * JOINT["ring"]["resistance_ohm"] + 2 * JOINT["set_screw"]["resistance_ohm"]


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
    too_thick: str = ""  # the terminal or holder it does not fit, in words
    chosen: bool = False
    best: bool = False


@dataclass(frozen=True, slots=True)
class Situation:
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

    @property
    def wanted_w(self) -> float:
        """What is to be drawn, at the source's own voltage."""
        return max(self.load.current_at(self.source_v), self.fuses_a) * self.source_v


def wire_of(wire: Wire, fallback: Conductor | None = None) -> Conductor | None:
    """The conductor a link's wire names; counted strands win over the label."""
    if wire.strand_count and wire.strand_diameter_mm:
        return measured_conductor(wire.strand_count, wire.strand_diameter_mm, wire.material)
    return conductor(wire.size, wire.material) if wire.size else fallback


def ground_wire_of(wire: Wire | None, power: Conductor) -> Conductor:
    """The ground lead's conductor: as named, else the size of the power wire in its own material."""
    if wire is None:
        return power
    return wire_of(wire) or in_other_material(power, wire.material)


def segments_of(
    s: Situation, wire: Conductor, fuse_a: float, factor: float
) -> list[tuple[str, str, float, Source | None]]:
    """The pieces of the loop for one wire and fuse: (name, place, resistance in ohm, source or None for a fact).

    `factor` is the hot conductor's resistance over that at 20 °C.
    """
    ground = ground_wire_of(s.ground_size, wire)
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


def _loop_ohm(s: Situation, wire: Conductor, fuse_a: float, factor: float) -> float:
    """The sum of `segments_of`, for the chooser's inner loop."""
    ground = ground_wire_of(s.ground_size, wire)
    cable = wire.resistance_ohm_per_m * s.length_m + ground.resistance_ohm_per_m * s.ground_m
    return CONTACTS_OHM + fuse_resistance_ohm(fuse_a) + cable * factor + s.body_ohm + s.strap_ohm


def operating_point(s: Situation, resistance_ohm: float, source_v: float) -> tuple[float, float]:
    """(voltage at the amplifier, design current) for a loop resistance.

    Raises:
        NoOperatingPoint: the loop cannot pass what is asked for.
    """
    stiff_v = source_v - s.others_a * (s.body_ohm + s.strap_ohm)
    if stiff_v <= 0:
        raise NoOperatingPoint("load", s.wanted_w, source_v)
    voltage_v = load_voltage_v(stiff_v, resistance_ohm, s.load)
    current_a = s.load.current_at(voltage_v)
    if s.fuses_a > current_a:
        current_a = s.fuses_a
        voltage_v = stiff_v - current_a * resistance_ohm
        if voltage_v <= 0:
            raise NoOperatingPoint("load", s.wanted_w, source_v)
    return voltage_v, current_a


def _size(s: Situation, wire: Conductor, headroom: float, hot_c: float, policy_limit_v: float) -> WireCandidate:
    """One wire size: fuse and drop settle together."""
    carries_a = ampacity_a(wire, s.engine_space)
    price = cable_price(wire, s.length_m)
    current_a = max(s.load.current_at(s.source_v), s.fuses_a)
    rating_a = best_rating_a(s.family, current_a, carries_a, headroom)
    try:
        for _ in range(6):
            fuse_a = s.fixed_fuse_a or rating_a
            voltage_v, current_a = operating_point(s, _loop_ohm(s, wire, fuse_a, 1.0), s.source_v)
            again_a = best_rating_a(s.family, current_a, carries_a, headroom)
            if again_a <= rating_a:
                break
            rating_a = again_a
    except NoOperatingPoint as error:
        choice = best_fuse(s.family, current_a, carries_a, headroom)
        return WireCandidate(
            wire, s.fixed_fuse_a or choice.rating_a, choice.fits, choice.reason, carries_a, None, None, None, None, False, str(error), price
        )  # fmt: skip
    hot_drop_v: float | None = None
    try:
        hot_v, _ = operating_point(s, _loop_ohm(s, wire, fuse_a, resistance_factor(hot_c)), s.source_v)
        hot_drop_v = s.source_v - hot_v
    except NoOperatingPoint:
        pass
    choice = best_fuse(s.family, current_a, carries_a, headroom)
    drop_v = s.source_v - voltage_v
    reasons = []
    if drop_v > policy_limit_v + 1e-9:
        wire_v = current_a * wire.resistance_ohm_per_m * s.length_m
        left_v = policy_limit_v - (drop_v - wire_v)
        fine = f"; fine if the run were under {s.length_m * left_v / wire_v:.1f} m" if left_v > 0 else ""
        reasons.append(f"over the shop's {policy_limit_v:.2f} V{fine}")
    elif hot_drop_v is None:
        reasons.append(f"collapses with the wire at {hot_c:g} °C")
    elif hot_drop_v > policy_limit_v + 1e-9:
        reasons.append(f"holds the shop's {policy_limit_v:.2f} V only while cool: {hot_drop_v:.2f} V at {hot_c:g} °C")
    if fuse_a > carries_a:
        reasons.append(f"may carry {carries_a:.0f} A, too little for a {fuse_a:g} A fuse")
    elif not choice.fits and s.fixed_fuse_a is None:
        reasons.append(f"no fuse fits: {choice.reason}")
    too_thick = [
        f"does not fit {where} ({_fits_up_to(limit_mm2, wire)} at most)"
        for where, limit_mm2 in (("the amplifier's terminal", s.terminal_mm2), ("the fuse holder", s.holder_mm2))
        if wire.area_mm2 > limit_mm2 * 1.005
    ]
    reasons += too_thick
    return WireCandidate(
        wire,
        fuse_a,
        choice.fits,
        choice.reason,
        carries_a,
        current_a,
        drop_v,
        hot_drop_v,
        voltage_v,
        not reasons,
        "; ".join(reasons),
        price,
        "; ".join(too_thick),
    )


def _fits_up_to(area_mm2: float, like: Conductor) -> str:
    fitting = [c for c in sizes(like.system) if c.area_mm2 <= area_mm2 * 1.005]
    return fitting[-1].label if fitting else f"{area_mm2:g} mm²"


@lru_cache(maxsize=512)  # most facts a sweep varies leave the supply as it is
def choose_wire(
    situation: Situation, wire: Wire, system: str, headroom: float, hot_c: float, limit_v: float
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
        mountable = [c for c in judged if c.drop_v is not None and not c.too_thick]
        fallback = mountable[-1] if mountable else judged[-1]
        limit = fallback.reason
    chosen = next((c for c in judged if own and c.wire.label == own.label), fallback)
    result = []
    for candidate in judged:
        reason = candidate.reason
        if not reason:
            reason = (
                "smallest that meets drop, cool and hot, fuse and terminal"
                if candidate is best
                else "works, but more than is needed"
            )
        result.append(replace(candidate, reason=reason, chosen=candidate is chosen, best=candidate is best))
    return tuple(result), limit
