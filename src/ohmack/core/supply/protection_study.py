"""The protection study: what flows in a short near the fuse and at the end of the run, how fast each fuse opens there,
how long its wire stands it, and whether the branch opens before the main.
"""

from __future__ import annotations

from collections.abc import Sequence
from math import isinf

from ohmack.core.document.handles import at
from ohmack.core.document.links import PowerLink
from ohmack.core.figures.figure import Book, Figure, Reading, Term, reference
from ohmack.core.network.model import Place
from ohmack.core.network.states import OPEN_V, State, inner_ohm, inner_terms, twelve_volt_side
from ohmack.core.physics.conductors import Conductor
from ohmack.core.physics.time_current import (
    LONGEST_S,
    band_of,
    opening_s,
    selective_up_to_a,
    standing_s,
    unprotected_a,
)
from ohmack.core.record import record
from ohmack.core.reference import PHYSICS, PRACTICE
from ohmack.core.supply.charging import Charging
from ohmack.core.supply.results import Segment, SupplyResult
from ohmack.core.supply.second_battery import helped_ohm, helping

NEAR = Reading(
    "Short just behind the fuse, at most",
    "a",
    "12.6 V / (battery warm, with one that is joined + post + fuse)",
    lambda s: s.current_a,
    PHYSICS,
)
FAR = Reading(
    "Short at its terminals, at least", "a", "12.6 V / (battery warm + the whole loop)", lambda s: s.current_a, PHYSICS
)
FAR_EACH = Reading(
    "Short at its terminals, at least, through each of its fuses", "a",
    "12.6 V / (battery warm + the whole loop), shared by its fuses", lambda s: s.current_a, PHYSICS,
)  # fmt: skip
OPENS = Reading(
    "The fuse opens there within", "s", "the slowest of its family's band at that multiple of its rating",
    lambda both: opening_s(both[0], both[1], both[2])[1], PRACTICE,
)  # fmt: skip
STANDS = Reading(
    "The wire stands that for", "s", "−τ ln(1 − (I_for ever / I)²), τ = k² S² / I_for ever²",
    lambda of: min(standing_s(of[0], of[1], of[2]), LONGEST_S), PHYSICS,
)  # fmt: skip
SELECTIVE = Reading(
    "It opens before the one before it up to", "a", "its slowest under the other's fastest, over all currents up to the"
    " short", lambda of: selective_up_to_a(of[0], of[1], of[2]), PRACTICE,
)  # fmt: skip


@record
class Short:
    """A short circuit: what drives it, what is in its way, and how many fuses beside each other share it."""

    emf_v: float
    ohm: float
    fuses: int = 1

    @property
    def current_a(self) -> float:
        """What flows through a fuse [a]."""
        return self.emf_v / self.ohm / self.fuses


@record
class Protected:
    """One fused run: its shorts, its fuse and the wire behind that against each other, and the fuse before it; of
    several fuses beside each other, one with its lead.
    """

    supply: SupplyResult
    link: PowerLink
    family: str
    rating_a: float
    wire: Conductor
    engine_space: bool
    near: Figure
    far: Figure
    opens: Figure
    stands: Figure
    bare_from_a: float | None  # the lowest current at which the wire may be damaged first
    breaks_a: tuple[float, float]  # what fuses of the family break, by type
    before: Protected | None = None  # the fuse before it
    selective: Figure | None = None

    @property
    def name(self) -> str:
        """What the run feeds."""
        return self.supply.part.name

    @property
    def full_load_a(self) -> float | None:
        """What flows through it at full level [a]."""
        return self.supply.chosen.through_one_a if self.supply.chosen is not None else None

    @property
    def rated_a(self) -> float:
        """What its fuses are rated at together [a]."""
        return self.rating_a * self.link.fuse_count

    @property
    def far_a(self) -> float | None:
        """What a short at the end of its run drives through all of them [a]."""
        return None if self.far.value is None else float(self.far.value) * self.link.fuse_count

    @property
    def always_selective(self) -> bool:
        """Whether it opens before the fuse before it at every current that can flow."""
        if self.selective is None or self.far_a is None:
            return self.selective is None
        return bool((self.selective.value or 0.0) >= self.far_a * 0.999)


def compute_protection(
    book: Book, supplies: Sequence[SupplyResult], charging: Sequence[Charging]
) -> list[Protected]:  # fmt: skip
    """Every fused run of the power network, main runs first.

    Parameters:
        book: the book of the design.
        supplies: the runs with their pieces and choices.
        charging: every charge cable of the plan.

    Returns:
        one entry a fuse; none behind a converter, which limits the current by itself, and none of a run that is not
        solved yet or whose battery's cold cranking amps are not known: the figures of the loop say so.

    Source: Ohm's law; bands and limits see `physics.time_current`.
    """
    if twelve_volt_side(book) is not None:
        return []
    leaves = [s for s in supplies if not s.is_main and s.pieces]
    found: dict[str, Protected] = {}
    for supply in supplies:
        loop = supply.pieces if not supply.is_main else _through(supply, leaves)
        made = _protected(book, supply, loop, charging, found) if loop else None
        if made is not None:
            found[supply.link.id] = made
    return list(found.values())


def _through(main: SupplyResult, leaves: Sequence[SupplyResult]) -> tuple[Segment, ...]:
    """The loop of the first consumer behind a main run."""
    return next((leaf.pieces for leaf in leaves if main.link in leaf.way), ())


def _protected(
    book: Book, supply: SupplyResult, loop: tuple[Segment, ...], charging: Sequence[Charging],
    before: dict[str, Protected],
) -> Protected | None:  # fmt: skip
    link, rating = supply.link, supply.figures["fuse"].value
    battery = next((b for b in book.design.vehicle.supply.batteries if b.id == supply.battery_id), None)
    if link.fuse is None or rating is None or supply.chosen is None or battery is None:
        return None
    inner = inner_terms(book, battery, State.RESTING)
    if any(term.value is None for term in inner):
        return None
    to_fuse = _up_to_fuse(loop, link)
    helper = helping(book, battery, charging)
    wire = supply.chosen.wire if link.fuse_count == 1 else supply.chosen.wire.one_lead
    return _study(book, supply, wire, (inner, helper), (to_fuse, loop), before)


def _up_to_fuse(loop: tuple[Segment, ...], link: PowerLink) -> tuple[Segment, ...]:
    """The pieces from the post up to the run's own fuse, it included."""
    last = next((n for n, s in enumerate(loop) if s.place is Place.FUSE and s.link_id == link.id), 0)
    return loop[: last + 1]


def _study(
    book: Book,
    supply: SupplyResult,
    wire: Conductor,
    batteries: tuple[tuple[Term, ...], tuple[Term, ...]],  # (its own terms, those of one that gives into a short too)
    pieces: tuple[tuple[Segment, ...], tuple[Segment, ...]],
    before: dict[str, Protected],
) -> Protected:
    scope, link = supply.part.id, supply.link
    rating_a, engine = float(supply.figures["fuse"].value), link.engine_space
    inner, helper = batteries
    own_ohm, emf = inner_ohm(inner), reference("a charged battery at rest", OPEN_V, "v", PRACTICE)
    shorts = []
    far_reading = FAR if link.fuse_count == 1 else FAR_EACH
    # what its fuse has to break is the most that can flow, how fast it opens goes by the least
    for reading, key, way, others, share in (
        (NEAR, "short_near_a", pieces[0], helper, 1), (far_reading, "short_far_a", pieces[1], (), link.fuse_count)
    ):  # fmt: skip
        short = Short(OPEN_V, helped_ohm(own_ohm, others) + sum(piece.resistance_ohm for piece in way), share)
        terms = (emf, *inner, *others, *(piece.term for piece in way))
        shorts.append(book.reading(f"{scope}/{key}", reading, short, *terms))
    near, far = shorts
    fuse, size = supply.figures["fuse"], supply.figures["wire"]
    opens = book.reading(f"{scope}/opens_s", OPENS, (supply.family, rating_a, far.value), fuse, far)
    stands = book.reading(f"{scope}/stands_s", STANDS, (wire, far.value, engine), size, far)
    band = band_of(supply.family)
    bare_a = unprotected_a(supply.family, rating_a, wire, engine, float(near.value))
    upstream = next((before[k.id] for k in reversed(supply.way) if k is not link and k.id in before), None)
    selective = None
    if upstream is not None:
        together_a, flows_a = rating_a * link.fuse_count, float(far.value) * link.fuse_count
        ends = ((supply.family, together_a), (upstream.family, upstream.rated_a), flows_a)
        main_fuse = upstream.supply.figures["fuse"]
        selective = book.reading(f"{scope}/selective_a", SELECTIVE, ends, fuse, main_fuse, far)
    return Protected(
        supply, link, supply.family, rating_a, wire, engine, near, far, opens, stands, bare_a,
        (band.breaks_low_a, band.breaks_high_a), upstream, selective,
    )  # fmt: skip


def not_judged(book: Book, supplies: Sequence[SupplyResult], found: Sequence[Protected]) -> str:
    """Why fuses are not set against shorts, in words; empty where all are."""
    if twelve_volt_side(book) is not None:
        return "A converter feeds the 12 V side and limits the current: its papers say what opens in a short."
    judged = {one.link.id for one in found}
    fused = [s for s in supplies if s.link.fuse is not None and s.link.id not in judged]
    if not fused:
        return ""
    battery = book.design.vehicle.supply.batteries[0]
    if battery.cca_a.value is None:
        return "The battery's cold cranking amps are not known, so no short-circuit current is."
    return f"{fused[0].part.name}: its run is not solved yet."


def slow(one: Protected) -> bool:
    """Whether a short at the end of the run may last longer than the wire stands."""
    opens, stands = one.opens.value, one.stands.value
    return opens is None or stands is None or isinf(opens) or opens > stands


def path_of(one: Protected) -> str:
    """The path of its link."""
    return at(one.link)
