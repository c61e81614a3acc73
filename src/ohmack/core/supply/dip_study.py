"""The dip of this car: what music does to the amplifier and to the lights, and what each remedy brings."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from ohmack.core.document.use import MUSIC_STEP_S, Music
from ohmack.core.document.vehicle import SupplyKind
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
    burst,
    dipped,
    remedied,
)
from ohmack.core.record import record
from ohmack.core.reference import PHYSICS, PRACTICE, table
from ohmack.core.supply.alternator import idle_share
from ohmack.core.supply.battery_side import follows_level
from ohmack.core.supply.budget import plays_bass
from ohmack.core.supply.results import SupplyResult
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
class Playing:
    """What is played: how loud each plays at every millisecond, and what it draws of it."""

    power_w: float  # of the consumer looked at, drawn at full level besides its idle current
    bass: bool
    follows: bool  # whether its current follows its level rather than its power
    others: tuple[tuple[float, float, bool, bool, float], ...]  # (full a, idle a, bass, follows, shared ohm)


@record(eq=False)
class DipStudy:
    """The dip of the consumer that draws most, all others playing the same."""

    supply: SupplyResult
    circuit: Circuit
    playing: Playing
    now: DipWith
    mended: tuple[DipWith, ...]


def compute_dip(
    book: Book, study: Study, supplies: Sequence[SupplyResult], music: Music | None = None
) -> DipStudy | str:
    """The dip in a bass note, or in music, engine idling, and with each remedy.

    Parameters:
        book: the book of the design.
        study: the solved network, for the pieces the consumers share.
        supplies: every run with what it feeds.
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
    terms = _terms(book, worst)
    beside = tuple(one.figures["current"].term for one in fed if one is not worst)
    missing = [gap.name for term in (*terms, *beside) for gap in term.missing]
    if missing:
        return f"Not known yet: {missing[0]}."
    try:
        return _study(book, study, worst, fed, terms, beside, music)
    except (NoOperatingPoint, OutOfRange) as error:
        return str(error)


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
    beside: tuple[Term, ...], music: Music | None,
) -> DipStudy:  # fmt: skip
    rest, cca, standard, loop, car, regulated, rating, share, power, idle, _, _ = terms
    circuit = Circuit(
        rest.value, inner_ohm((cca, standard)), TAKING_OHM, loop.value, car.value, idle.value, regulated.value,
        rating.value * share.value, LAG_S,
    )  # fmt: skip
    playing = _playing(book, study, worst, fed, float(power.value))
    overlap_db = book.design.policy.overlap_db if music else 0.0
    rests_on = (*terms, *beside)
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


def _playing(book: Book, study: Study, worst: SupplyResult, fed: Sequence[SupplyResult], power_w: float) -> Playing:
    """Who plays what: with the resistance each shares with the one looked at."""
    shared: dict[str, float] = {}
    if study.network is not None and (condition := study.conditions.get(State.RUNNING)) is not None:
        folded = ports(study.network, condition.emf_v, {}, condition.warm)
        names = [c.id for c in study.network.consumers]
        shared = dict(zip(names, folded.resistance_ohm[names.index(worst.part.id)], strict=True))
    others = tuple(
        (
            float(one.figures["current"].value or 0.0), float(getattr(one.part, "idle_current_a", 0.0) or 0.0),
            plays_bass(book.design, one.part), follows_level(one.part), shared.get(one.part.id, 0.0),
        )
        for one in fed
        if one is not worst
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


def loads_of(playing: Playing, music: Music | None, overlap_db: float) -> tuple[Floats, Floats, Floats]:
    """What is played, millisecond by millisecond.

    Parameters:
        playing: who plays what.
        music: how loud it is over time; None for a bass note.
        overlap_db: how far the gains push music past full power [db].

    Returns:
        (power the one looked at draws besides its idle current [w], what the others draw [a], what they lose in the
        pieces shared with it [v]).
    """
    power_w = playing.power_w * levels(music, playing.bass, playing.follows, overlap_db)
    beside_a, beside_v = np.zeros(len(power_w)), np.zeros(len(power_w))
    for full_a, idle_a, bass, follows, shared_ohm in playing.others:
        amps = idle_a + levels(music, bass, follows, overlap_db) * (full_a - idle_a)
        beside_a += amps
        beside_v += shared_ohm * amps
    return power_w, beside_a, beside_v


@lru_cache(maxsize=64)
def _dipped(circuit: Circuit, playing: Playing, music: Music | None, overlap_db: float) -> Dip:
    return dipped(circuit, *loads_of(playing, music, overlap_db))
