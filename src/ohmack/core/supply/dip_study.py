"""The dip of this car: what a bass note does to the amplifier and to the lights, and what each remedy brings."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache

from ohmack.core.document.vehicle import SupplyKind
from ohmack.core.errors import NoOperatingPoint, OutOfRange
from ohmack.core.figures.figure import Book, Figure, Formula, Reading, Term, reference
from ohmack.core.network.states import State, held_v, inner_ohm, inner_terms, twelve_volt_side
from ohmack.core.physics.dip import Circuit, Dip, burst, dipped, remedied
from ohmack.core.record import record
from ohmack.core.reference import PHYSICS, PRACTICE, table
from ohmack.core.supply.results import SupplyResult

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


@record(eq=False)
class DipWith:
    """The dip as it is, or with one remedy."""

    name: str
    dip: Dip
    amplifier: Figure
    post: Figure
    light: Figure

    @property
    def seen(self) -> bool:
        """Whether the lights are seen to dip."""
        return self.dip.light_lost > SEEN


@record(eq=False)
class DipStudy:
    """The dip of the consumer that draws most, all others playing the same note."""

    supply: SupplyResult
    circuit: Circuit
    now: DipWith
    mended: tuple[DipWith, ...]


def compute_dip(book: Book, supplies: Sequence[SupplyResult]) -> DipStudy | str:
    """The dip in a bass note, engine idling, and with each remedy.

    Parameters:
        book: the book of the design.
        supplies: every run with what it feeds.

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
        return _study(book, worst, terms, beside)
    except (NoOperatingPoint, OutOfRange) as error:
        return str(error)


def _terms(book: Book, worst: SupplyResult) -> tuple[Term, ...]:
    """(rest, cca, standard, loop, car, regulated, rating, share at idle, power, idle) of the circuit."""
    supply, first = book.design.vehicle.supply, book.design.vehicle.supply.batteries[0]
    idle = book.part(worst.part, lambda it: getattr(it, "idle_current_a", None), "idle current", "a")
    power = book.figure(f"{worst.part.id}/note_w", LOADED, worst.figures["voltage"], worst.figures["current"], idle)
    row = table("supply", "alternator_idle")
    inner = inner_terms(book, first, State.ENGINE_OFF)
    return (
        *held_v(book, first, State.ENGINE_OFF), *inner, worst.figures["loop"].term,
        book.fact(supply, lambda it: it.car_draw_a, "the car's own draw, everything on", "a"),
        *held_v(book, first, State.RUNNING),
        book.fact(supply, lambda it: it.alternator_rating_a, "alternator rating", "a"),
        reference("share at idle", float(row["share"]), "", row["source"]), power.term, idle,
        reference("while it is charged", TAKING_OHM, "ohm", PRACTICE),
        reference("the field lags", LAG_S, "s", PRACTICE),
    )  # fmt: skip


def _study(book: Book, worst: SupplyResult, terms: tuple[Term, ...], beside: tuple[Term, ...]) -> DipStudy:
    rest, cca, standard, loop, car, regulated, rating, share, power, idle, _, _ = terms
    circuit = Circuit(
        rest.value, inner_ohm((cca, standard)), TAKING_OHM, loop.value, car.value, idle.value, regulated.value,
        rating.value * share.value, LAG_S,
    )  # fmt: skip
    rests_on = (*terms, *beside)
    ways = {"as it is": circuit, **remedied(circuit)}
    made = []
    for n, (name, way) in enumerate(ways.items()):
        dip = _dipped(way, float(power.value), sum(term.value for term in beside))
        scope = f"dip/{n}"
        made.append(
            DipWith(
                name, dip,
                book.reading(f"{scope}/amplifier_v", LOWEST, dip, *rests_on, name=f"Lowest at the amplifier, {name}"),
                book.reading(f"{scope}/post_v", LOWEST_POST, dip, *rests_on, name=f"Lowest at the post, {name}"),
                book.reading(f"{scope}/light_percent", LIGHT, dip, *rests_on, name=f"Light the lamps lose, {name}"),
            )
        )  # fmt: skip
    return DipStudy(worst, circuit, made[0], tuple(made[1:]))


@lru_cache(maxsize=64)
def _dipped(circuit: Circuit, power_w: float, beside_a: float) -> Dip:
    beat = burst(1.0, 0.25, NOTE_S, REST_S, WHOLE_S)
    return dipped(circuit, power_w * beat, beside_a * beat)
