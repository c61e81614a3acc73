"""The dip of this car: what music does to the amplifier and to the lights, and what each remedy brings."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from ohmack.core.document.use import MUSIC_STEP_S, Music
from ohmack.core.document.vehicle import Battery, SplitCharging, SupplyKind
from ohmack.core.errors import NoOperatingPoint, OutOfRange
from ohmack.core.figures.figure import Book, Figure, Formula, Reading, Term, reference
from ohmack.core.network.solve import ports
from ohmack.core.network.states import State, held_v, inner_ohm, inner_terms, twelve_volt_side
from ohmack.core.physics.conductors import cable_price
from ohmack.core.physics.dip import (
    ALTERNATOR,
    BATTERY,
    CABLES,
    CAPACITOR,
    RATE_HZ,
    Circuit,
    Dip,
    SecondBattery,
    burst,
    dipped,
    remedied,
)
from ohmack.core.record import record
from ohmack.core.reference import PHYSICS, PRACTICE, table
from ohmack.core.supply.alternator import idle_share
from ohmack.core.supply.battery_side import follows_level
from ohmack.core.supply.budget import plays_bass
from ohmack.core.supply.charging import Charging
from ohmack.core.supply.results import SupplyResult
from ohmack.core.supply.second_battery import JOINS, charged_by, join_term, joined_with_first
from ohmack.core.supply.study import Study

Floats = NDArray[np.float64]
NOTE_S, REST_S, WHOLE_S = 0.5, 0.5, 2.5  # a bass note, the rest behind it, and what is drawn; common practice
TAKING_OHM = 0.08  # a charged battery takes some 20 A at 14.2 V; common practice
LAG_S = 0.15  # of an alternator's field; common practice
SEEN = 0.05  # of their light: less is not seen; common practice

LOADED = Formula(
    "Power of the note, drawn", "w", "V × (I − I_idle) at full level", lambda v, i, idle: v * (i - idle), PHYSICS
)
LOWEST = Reading(
    "Lowest at the amplifier", "v", "nodes solved every millisecond", lambda d: d.lowest_amplifier_v, PHYSICS
)
LOWEST_POST = Reading(
    "Lowest at the post, where the lights hang",
    "v",
    "nodes solved every millisecond",
    lambda d: d.lowest_post_v,
    PHYSICS,
)
LIGHT = Reading(
    "Light the lamps lose", "percent", "100 × (1 − (V_lowest / V_before)^3.4)", lambda d: 100 * d.light_lost, PRACTICE
)
DIM = Reading(
    "Of the time the lights are seen to dip", "percent", "share of milliseconds with more than 5 % less light",
    lambda d: 100 * d.dim_for(SEEN), PRACTICE,
)  # fmt: skip
GAINS = Formula(
    "The post gains for a hundred of money", "mv", "100 × (V_then − V_now) / price",
    lambda then, now, price: 1000 * 100 * (then - now) / price, PRACTICE,
)  # fmt: skip


@record(eq=False)
class DipWith:
    """The dip as it is, or with one remedy."""

    name: str
    dip: Dip
    amplifier: Figure
    post: Figure
    light: Figure
    dim: Figure
    price: float | None = None  # about, in the shop's currency
    gains: Figure | None = None

    @property
    def seen(self) -> bool:
        """Whether the lights are seen to dip."""
        return self.dip.light_lost > SEEN


@record
class Other:
    """One that plays beside the consumer looked at."""

    full_a: float
    idle_a: float
    bass: bool
    follows: bool  # whether its current follows its level rather than its power
    shared_ohm: float  # of the pieces both draw through
    near: bool  # whether it hangs on the same battery


@record
class Playing:
    """What is played: how loud each plays at every millisecond, and what it draws of it."""

    power_w: float  # of the consumer looked at, drawn at full level besides its idle current
    bass: bool
    follows: bool  # whether its current follows its level rather than its power
    others: tuple[Other, ...] = ()


@record(eq=False)
class DipStudy:
    """The dip of the consumer that draws most, all others playing the same."""

    supply: SupplyResult
    circuit: Circuit
    playing: Playing
    now: DipWith
    mended: tuple[DipWith, ...]
    without: str = ""  # what of the car is left out, and why


def compute_dip(
    book: Book, study: Study, supplies: Sequence[SupplyResult], charging: Sequence[Charging],
    music: Music | None = None,
) -> DipStudy | str:  # fmt: skip
    """The dip in a bass note, or in music, engine idling, and with each remedy.

    Parameters:
        book: the book of the design.
        study: the solved network, for the pieces the consumers share.
        supplies: every run with what it feeds.
        charging: every charge cable of the plan.
        music: how loud it is over time; None for a bass note of half a second.

    Returns:
        the study of the consumer that draws most; a sentence where it cannot be made, with what is missing.

    Source: see `physics.dip`; the beat and what is taken for a battery and an alternator: common practice, no source.
    """
    fed = [s for s in supplies if not s.is_main and s.segments]
    if not fed:
        return "No amplifier's power run is solved yet."
    if twelve_volt_side(book) is not None or book.design.vehicle.supply.kind is SupplyKind.DC_DC:
        return "A converter feeds the 12 V side: its limit, not a battery and an alternator, decides what dips."
    worst = max(fed, key=lambda one: one.figures["current"].value or 0.0)
    second, why_not = _second(book, worst, charging)
    if second is None and worst.battery_id != book.design.vehicle.supply.batteries[0].id:
        return why_not
    terms = _terms(book, worst)
    beside = tuple(one.figures["current"].term for one in fed if one is not worst)
    missing = [gap.name for term in (*terms, *beside) for gap in term.missing]
    if missing:
        return f"Not known yet: {missing[0]}."
    try:
        return replace(_study(book, study, worst, fed, terms, beside, second, music), without=why_not)
    except (NoOperatingPoint, OutOfRange) as error:
        return str(error)


@record
class Second:
    """A battery a relay joins with the first, with the terms of its circuit."""

    battery: Battery
    terms: tuple[Term, ...]  # (rest, cca, standard, from post to post)
    feeds: bool

    @property
    def circuit(self) -> SecondBattery:
        """As it stands in the circuit."""
        rest, cca, standard, join = self.terms
        return SecondBattery(rest.value, inner_ohm((cca, standard)), TAKING_OHM, join.value, self.feeds)


PARTED: dict[SplitCharging | None, str] = {
    SplitCharging.CHARGER: "behind a DC-DC charger: a bass note pulls no more than that passes, and no lamp sees it",
    SplitCharging.DIODE: "behind a diode isolator: what a bass note pulls through it is not reckoned",
    SplitCharging.NONE: "by itself, charged by nothing: no lamp sees what it plays",
    None: "and nobody knows how that is charged: what a bass note pulls from the first one is not reckoned",
}


def _second(book: Book, worst: SupplyResult, charging: Sequence[Charging]) -> tuple[Second | None, str]:
    """(the battery a relay joins with the first: the one that feeds the consumer, or another that helps; why not)."""
    design = book.design
    others = design.vehicle.supply.batteries[1:]
    feeding = next((b for b in others if b.id == worst.battery_id), None)
    battery = feeding or joined_with_first(design)
    if battery is None:
        return None, ""
    how = charged_by(design, battery)
    if how not in JOINS:
        return None, f"{worst.part.name} hangs on {battery.name}, {PARTED[how]}."
    terms = (
        *held_v(book, battery, State.ENGINE_OFF), *inner_terms(book, battery, State.ENGINE_OFF),
        join_term(book, battery, charging),
    )  # fmt: skip
    if gap := next((gap.name for term in terms for gap in term.missing), None):
        return None, f"Not known yet: {gap}." if feeding else f"Reckoned without {battery.name}. Not known: {gap}."
    return Second(battery, terms, feeds=feeding is not None), ""


def _terms(book: Book, worst: SupplyResult) -> tuple[Term, ...]:
    """(rest, cca, standard, loop, car, regulated, rating, share at idle, power, idle) of the circuit."""
    supply, first = book.design.vehicle.supply, book.design.vehicle.supply.batteries[0]
    idle = book.part(worst.part, lambda it: getattr(it, "idle_current_a", None), "idle current", "a")
    power = book.figure(f"{worst.part.id}/note_w", LOADED, worst.figures["voltage"], worst.figures["current"], idle)
    inner = inner_terms(book, first, State.ENGINE_OFF)
    return (
        *held_v(book, first, State.ENGINE_OFF), *inner, worst.figures["loop"].term,
        book.fact(supply, lambda it: it.car_draw_a, "the car's own draw, everything on", "a"),
        *held_v(book, first, State.RUNNING),
        book.fact(supply, lambda it: it.alternator_rating_a, "alternator rating", "a"),
        idle_share(book), power.term, idle,
        reference("while it is charged", TAKING_OHM, "ohm", PRACTICE),
        reference("the field lags", LAG_S, "s", PRACTICE),
    )  # fmt: skip


def _study(
    book: Book, study: Study, worst: SupplyResult, fed: Sequence[SupplyResult], terms: tuple[Term, ...],
    beside: tuple[Term, ...], second: Second | None, music: Music | None,
) -> DipStudy:  # fmt: skip
    rest, cca, standard, loop, car, regulated, rating, share, power, idle, _, _ = terms
    circuit = Circuit(
        rest.value, inner_ohm((cca, standard)), TAKING_OHM, loop.value, car.value, idle.value, regulated.value,
        rating.value * share.value, LAG_S, second=second.circuit if second else None,
    )  # fmt: skip
    playing = _playing(book, study, worst, fed, float(power.value), second)
    overlap_db = book.design.policy.overlap_db if music else 0.0
    rests_on = (*terms, *beside, *(second.terms if second else ()))
    prices = _prices(study, worst)
    made: list[DipWith] = []
    for n, (name, way) in enumerate({"as it is": circuit, **remedied(circuit)}.items()):
        dip = _dipped(way, playing, music, overlap_db)
        scope = f"{'music' if music else 'dip'}/{n}"
        post = book.reading(f"{scope}/post_v", LOWEST_POST, dip, *rests_on, name=f"Lowest at the post, {name}")
        gains = None
        if made and prices[name] is not None:
            about = reference("about", prices[name], "", table("supply", "remedies")["source"])
            gains = book.figure(f"{scope}/gains_mv", GAINS, post, made[0].post, about, name=f"For a hundred, {name}")
        made.append(
            DipWith(
                name, dip,
                book.reading(f"{scope}/amplifier_v", LOWEST, dip, *rests_on, name=f"Lowest at the amplifier, {name}"),
                post,
                book.reading(f"{scope}/light_percent", LIGHT, dip, *rests_on, name=f"Light the lamps lose, {name}"),
                book.reading(f"{scope}/dim_percent", DIM, dip, *rests_on, name=f"Of the time seen to dip, {name}"),
                prices.get(name), gains,
            )
        )  # fmt: skip
    return DipStudy(worst, circuit, playing, made[0], tuple(made[1:]))


def _playing(
    book: Book, study: Study, worst: SupplyResult, fed: Sequence[SupplyResult], power_w: float, second: Second | None
) -> Playing:
    """Who plays what, on the two batteries of the circuit: with the resistance each shares with the one looked at."""
    shared: dict[str, float] = {}
    if study.network is not None and (condition := study.conditions.get(State.RUNNING)) is not None:
        folded = ports(study.network, condition.emf_v, {}, condition.warm)
        names = [c.id for c in study.network.consumers]
        shared = dict(zip(names, folded.resistance_ohm[names.index(worst.part.id)], strict=True))
    joined = {book.design.vehicle.supply.batteries[0].id, second.battery.id if second else ""}
    others = tuple(
        Other(
            float(one.figures["current"].value or 0.0), float(getattr(one.part, "idle_current_a", 0.0) or 0.0),
            plays_bass(book.design, one.part), follows_level(one.part), shared.get(one.part.id, 0.0),
            near=one.battery_id == worst.battery_id,
        )
        for one in fed
        if one is not worst and one.battery_id in joined
    )  # fmt: skip
    return Playing(power_w, plays_bass(book.design, worst.part), follows_level(worst.part), others)


def _prices(study: Study, worst: SupplyResult) -> dict[str, float | None]:
    """What each remedy costs, about: cables anew with twice the copper, the rest as shops ask."""
    row = table("supply", "remedies")
    runs = [(study.chosen(link.id), study.lengths_m.get(link.id)) for link in worst.way]
    copper = [(c.wire, length_m) for c, length_m in runs if c is not None and length_m is not None]
    if worst.ground_wire is not None and worst.ground is not None:
        copper.append((worst.ground_wire, study.lengths_m.get(worst.ground.id, 0.0)))
    cables = sum(2 * cable_price(wire, length_m) for wire, length_m in copper) or None
    found: dict[str, float | None] = {CABLES: cables, CAPACITOR: float(row["capacitor"])}
    return found | {BATTERY: float(row["battery"]), ALTERNATOR: float(row["alternator"])}


def levels(music: Music | None, bass: bool, follows: bool, overlap_db: float = 0.0) -> Floats:
    """How much of its full current a consumer draws, millisecond by millisecond.

    Parameters:
        music: how loud it is over time; None for a bass note of half a second.
        bass: whether it plays the bass alone.
        follows: whether its current follows its level rather than its power.
        overlap_db: how far the gains push music past full power [db].

    Returns:
        shares from 0 to 1.

    Source: an amplifier gives no more than its full power, common practice.
    """
    if music is None:
        return burst(1.0, 0.25, NOTE_S, REST_S, WHOLE_S)
    steps = np.array(music.bass if bass else music.whole, dtype=np.float64) / 1000 * 10 ** (overlap_db / 10)
    power = np.repeat(np.minimum(steps, 1.0), round(MUSIC_STEP_S * RATE_HZ))
    return np.sqrt(power) if follows else power


def loads_of(playing: Playing, music: Music | None, overlap_db: float) -> tuple[Floats, Floats, Floats, Floats]:
    """What is played, millisecond by millisecond.

    Parameters:
        playing: who plays what.
        music: how loud it is over time; None for a bass note.
        overlap_db: how far the gains push music past full power [db].

    Returns:
        (power the one looked at draws besides its idle current [w], what the others on its battery draw [a], what they
        lose in the pieces shared with it [v], what those on the other battery draw [a]).
    """
    power_w = playing.power_w * levels(music, playing.bass, playing.follows, overlap_db)
    near_a, near_v, far_a = (np.zeros(len(power_w)) for _ in range(3))
    for one in playing.others:
        amps = one.idle_a + levels(music, one.bass, one.follows, overlap_db) * (one.full_a - one.idle_a)
        if one.near:
            near_a += amps
        else:
            far_a += amps
        near_v += one.shared_ohm * amps
    return power_w, near_a, near_v, far_a


@lru_cache(maxsize=64)
def _dipped(circuit: Circuit, playing: Playing, music: Music | None, overlap_db: float) -> Dip:
    return dipped(circuit, *loads_of(playing, music, overlap_db))
