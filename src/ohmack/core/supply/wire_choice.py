"""The wire chooser: every size judged with its fuse and its voltage, settled together."""

from __future__ import annotations

from contextlib import suppress
from dataclasses import replace
from functools import cache, lru_cache

import numpy as np

from ohmack.core.document.handles import at
from ohmack.core.document.links import LinkBase, Wire
from ohmack.core.errors import NoOperatingPoint
from ohmack.core.figures.figure import Missing, Reading, Term
from ohmack.core.fit.runs import Run
from ohmack.core.physics.conductors import (
    Conductor,
    ampacity_a,
    cable_price,
    conductor,
    goes_in,
    in_other_material,
    laid,
    measured_conductor,
    resistance_factor,
    sizes,
)
from ohmack.core.physics.protection import best_fuse, best_rating_a, fuse_resistance_ohm
from ohmack.core.physics.supply import Load, held_voltage_v, network_voltages_v
from ohmack.core.record import record
from ohmack.core.reference import PHYSICS
from ohmack.core.wording import amount

PER_METRE = Reading(
    "Resistance a metre", "ohm_per_m", "by size and material", lambda wire: wire.resistance_ohm_per_m, PHYSICS
)
NEAR_M = 0.1  # a shorter run is no advice
AS_GOOD = 1.05  # times the ohms of its power wire a ground lead may have, and still conducts as well; common practice


@record
class WireCandidate:
    """One wire size judged for the power run."""

    wire: Conductor
    fuse_a: float  # of each, where every lead has its own
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
    fuses: int = 1  # beside each other, one a lead
    chosen: bool = False
    best: bool = False

    @property
    def behind_one_a(self) -> float:
        """What the wire behind one fuse may carry [a]."""
        return self.ampacity_a / self.fuses

    @property
    def through_one_a(self) -> float | None:
        """What flows through one fuse [a]."""
        return None if self.current_a is None else self.current_a / self.fuses


@record
class Limits:
    """What the shop, the parts and the run itself demand of a wire, whatever flows in it."""

    headroom: float  # design current over fuse rating
    hot_c: float
    drop_limit_v: float
    family: str
    terminal_mm2: float
    terminal: str  # whose terminal that is
    holder_mm2: float
    engine_space: bool
    fixed_fuse_a: float | None  # a fuse the design or its maker names
    fused: bool  # whether the run has a fuse of its own
    upstream_a: float | None  # the fuse before it, where it has none
    length_unit: str = "m"  # how lengths are said
    fuses: int = 1  # beside each other, one a lead
    terminals: int = 1  # of that part, beside each other


@record
class Leg:
    """One consumer behind a run: what its loop has besides wires that follow the size asked about, and what it
    draws.
    """

    open_v: float  # at the consumer while it draws nothing, with all others drawing
    open_hot_v: float
    rest_ohm: float
    rest_hot_ohm: float
    follows_m: float  # of wire that takes the size asked about
    ground_m: float  # of ground lead that takes it too
    ground: Wire | None  # what the design says of that lead
    most_mm2: float  # what the terminals of the wires that follow take at most
    load: Load


@record
class Situation:
    """Everything the chooser needs for one run, all present: its legs and what they share besides it."""

    source_v: float
    length_m: float
    back_m: float  # of a main ground lead that takes its size and carries the same legs
    back: Wire | None
    legs: tuple[Leg, ...]
    shared_ohm: tuple[tuple[float, ...], ...]  # (n, n) between legs, besides this run
    shared_hot_ohm: tuple[tuple[float, ...], ...]
    limits: Limits
    joint: bool = False  # whether it was sized together with the runs before and behind it

    @property
    def wanted_w(self) -> float:
        """What is to be drawn, at the source's own voltage."""
        return sum(leg.load.current_at(self.source_v) for leg in self.legs) * self.source_v


def wire_of(wire: Wire, fallback: Conductor | None = None) -> Conductor | None:
    """The conductor a link's wire names; counted strands win over the label."""
    if wire.strand_count and wire.strand_diameter_mm:
        return as_laid(measured_conductor(wire.strand_count, wire.strand_diameter_mm, wire.material), wire)
    return as_laid(conductor(wire.size, wire.material), wire) if wire.size else fallback


def size_there(link: LinkBase, run: Run) -> Term:
    """The size of a cable that lies in the car, while nobody has read it: what rests on it is missing."""
    name = f"size of the cable from {run.start_name} to {run.end_name}, which lies in the car"
    path = at(link, lambda it: it.wire.size)
    return Term(name, None, path=path, missing=(Missing(path, name),))


def as_laid(one: Conductor, wire: Wire) -> Conductor:
    """A size as a link lays it: its leads, its insulation, what lies beside it."""
    return laid(one, wire.leads, wire.insulation_c, wire.beside)


def pool_of(system: str, wire: Wire) -> tuple[Conductor, ...]:
    """The sizes a chooser offers for a link, as it lays them, smallest first."""
    return _pool(system, wire.material, wire.leads, wire.insulation_c, wire.beside)


@cache
def _pool(system: str, material: str, leads: int, insulation_c: float, beside: int) -> tuple[Conductor, ...]:
    return tuple(laid(one, leads, insulation_c, beside) for one in sizes(system, material))


def ground_wire_of(wire: Wire | None, power: Conductor) -> Conductor:
    """The ground lead's conductor: as named, else the size of the power wire in its own material."""
    if wire is None:
        return power
    return wire_of(wire) or in_other_material(power, wire.material)


def _followed(wire: Conductor, most_mm2: float) -> Conductor:
    """The wire a branch would take behind a main run of some size: the same, or the thickest its terminals take."""
    if goes_in(wire, most_mm2):
        return wire
    fitting = [c for c in sizes(wire.system, wire.material) if goes_in(c, most_mm2)]
    return fitting[-1] if fitting else sizes(wire.system, wire.material)[0]


def operating_point(s: Situation, wire: Conductor, fuse_ohm: float, warm: float) -> tuple[float, float]:
    """(lowest voltage at a consumer behind the run, current in the run) with one wire and fuse.

    Parameters:
        s: the run's situation.
        wire: the conductor tried.
        fuse_ohm: its fuse with holder [ohm].
        warm: resistance of a run over that at 20 °C; 1 for the cold loop.

    Returns:
        voltage [v] and current [a].

    Raises:
        NoOperatingPoint: the loop cannot pass what is asked for.
    """
    cold = warm == 1.0
    back_ohm = ground_wire_of(s.back, wire).resistance_ohm_per_m * s.back_m if s.back_m else 0.0
    run_ohm = (wire.resistance_ohm_per_m * s.length_m + back_ohm) * warm + fuse_ohm
    own_ohm, open_v = [], []
    for leg in s.legs:
        behind = _followed(wire, leg.most_mm2)
        ground = ground_wire_of(leg.ground, behind)
        follows = behind.resistance_ohm_per_m * leg.follows_m + ground.resistance_ohm_per_m * leg.ground_m
        own_ohm.append((leg.rest_ohm if cold else leg.rest_hot_ohm) + follows * warm + run_ohm)
        open_v.append(leg.open_v if cold else leg.open_hot_v)
    if min(open_v) <= 0:
        raise NoOperatingPoint("load", s.wanted_w, s.source_v)
    try:
        if len(s.legs) == 1:
            volts = [held_voltage_v(open_v[0], own_ohm[0], s.legs[0].load)]
        else:
            matrix = np.array(s.shared_ohm if cold else s.shared_hot_ohm) + run_ohm
            np.fill_diagonal(matrix, own_ohm)
            volts = network_voltages_v(open_v, matrix, [leg.load for leg in s.legs])
    except NoOperatingPoint:
        raise NoOperatingPoint("load", s.wanted_w, s.source_v) from None
    return min(volts), sum(leg.load.current_at(v) for leg, v in zip(s.legs, volts, strict=True))


def length_allowed_m(s: Situation, wire: Conductor, fuse_ohm: float) -> float:
    """How long a run may be with one wire and fuse to lose just what the shop allows.

    Parameters:
        s: the run's situation.
        wire: the conductor.
        fuse_ohm: its fuse with holder [ohm].

    Returns:
        length [m]; below zero where the rest of the loop loses more already. With several legs, for the one that has
        least left.

    Formula: at the limit V = E - U_limit and I = I(V) are known, so the loop may have (V_open - V) / I. Source:
    textbook circuit theory.
    """
    volts_v = s.source_v - s.limits.drop_limit_v
    drawn_a = [leg.load.current_at(volts_v) for leg in s.legs]
    left_v = float("inf")
    for i, leg in enumerate(s.legs):
        ground = ground_wire_of(leg.ground, wire).resistance_ohm_per_m * leg.ground_m
        own_ohm = leg.rest_ohm + ground + wire.resistance_ohm_per_m * leg.follows_m
        others_v = sum(s.shared_ohm[i][j] * drawn_a[j] for j in range(len(s.legs)) if j != i)
        left_v = min(left_v, leg.open_v - volts_v - drawn_a[i] * own_ohm - others_v - sum(drawn_a) * fuse_ohm)
    return left_v / (sum(drawn_a) * wire.resistance_ohm_per_m)


def _size(s: Situation, wire: Conductor) -> WireCandidate:
    """One wire size: fuse and drop settle together."""
    lim = s.limits
    n = lim.fuses
    carries_a = ampacity_a(wire, lim.engine_space)
    price = cable_price(wire, s.length_m)
    current_a = sum(leg.load.current_at(s.source_v) for leg in s.legs)
    rating_a = best_rating_a(lim.family, current_a / n, carries_a / n, lim.headroom)
    try:
        for _ in range(6):
            fuse_a = lim.upstream_a or lim.fixed_fuse_a or rating_a
            fuse_ohm = fuse_resistance_ohm(fuse_a) / n if lim.fused else 0.0
            voltage_v, current_a = operating_point(s, wire, fuse_ohm, 1.0)
            again_a = best_rating_a(lim.family, current_a / n, carries_a / n, lim.headroom)
            if again_a <= rating_a:
                break
            rating_a = again_a
    except NoOperatingPoint as error:
        choice = best_fuse(lim.family, current_a / n, carries_a / n, lim.headroom)
        return WireCandidate(
            wire,
            lim.upstream_a or lim.fixed_fuse_a or choice.rating_a,
            choice.fits,
            choice.reason,
            carries_a,
            None,
            None,
            None,
            None,
            False,
            str(error),
            price,
            fuses=n,
        )
    hot_drop_v: float | None = None
    with suppress(NoOperatingPoint):
        hot_drop_v = s.source_v - operating_point(s, wire, fuse_ohm, resistance_factor(lim.hot_c))[0]
    choice = best_fuse(lim.family, current_a / n, carries_a / n, lim.headroom)
    drop_v = s.source_v - voltage_v
    reasons = []
    if drop_v > lim.drop_limit_v + 1e-9:
        short_m = length_allowed_m(s, wire, fuse_ohm)
        fine = f"; fine if the run were under {amount(short_m, 'm', lim.length_unit)}" if short_m >= NEAR_M else ""
        reasons.append(f"over the shop's {lim.drop_limit_v:.2f} V{fine}")
    elif hot_drop_v is None:
        reasons.append(f"collapses with the wire at {lim.hot_c:g} °C")
    elif hot_drop_v > lim.drop_limit_v + 1e-9:
        reasons.append(
            f"holds the shop's {lim.drop_limit_v:.2f} V only while cool: {hot_drop_v:.2f} V at {lim.hot_c:g} °C"
        )
    if fuse_a > carries_a / n:
        before, each = " before it" if lim.upstream_a else "", " each" if n > 1 else ""
        reasons.append(f"may carry {carries_a / n:.0f} A{each}, too little for a {fuse_a:g} A fuse{before}")
    elif not choice.fits and lim.fixed_fuse_a is None and lim.upstream_a is None:
        reasons.append(f"no fuse fits: {choice.reason}")
    too_thick = [
        f"does not fit {where} ({_fits_up_to(limit_mm2, wire)} at most)"
        for where, limit_mm2, holes in (
            (lim.terminal, lim.terminal_mm2, lim.terminals),
            ("the fuse holder", lim.holder_mm2, n),
        )
        if not goes_in(wire, limit_mm2, holes)
    ]
    reasons += too_thick
    return WireCandidate(
        wire,
        fuse_a,
        choice.fits or lim.upstream_a is not None,
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
        n,
    )


def _fits_up_to(area_mm2: float, like: Conductor) -> str:
    fitting = [c for c in sizes(like.system) if goes_in(c, area_mm2)]
    return fitting[-1].label if fitting else f"{area_mm2:g} mm²"


@lru_cache(maxsize=512)  # most facts a sweep varies leave the supply as it is
def choose_wire(situation: Situation, wire: Wire, system: str) -> tuple[tuple[WireCandidate, ...], str]:
    """Every size judged, the chosen and the best marked, each with the reason it was taken or not.

    Parameters:
        situation: the run, what hangs behind it, and its limits.
        wire: what the design asks for; its size None means choose.
        system: "AWG" or "mm2".

    Returns:
        candidates from thin to thick, and the binding limit where none fits ("" otherwise). A main run is judged as
        if the runs behind it were of its own size, so that the loss allowed is shared by length.
    """
    own = wire_of(wire)
    pool = list(pool_of(own.system if own else system, wire))
    if own and all(own.label != c.label for c in pool):
        pool = sorted([*pool, own], key=lambda c: c.area_mm2)
    judged = [_size(situation, c) for c in pool]
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
            least = "with the other runs the least copper" if situation.joint else "smallest"
            reason = (
                f"{least} that meets drop, cool and hot, fuse and terminal"
                if candidate is best
                else "works, but more than is needed"
            )
        result.append(replace(candidate, reason=reason, chosen=candidate is chosen, best=candidate is best))
    return tuple(result), limit
