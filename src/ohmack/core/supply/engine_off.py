"""Without the engine: how long one may listen."""

from __future__ import annotations

from collections.abc import Sequence

from ohmack.core.document.handles import at_the
from ohmack.core.document.use import Use
from ohmack.core.document.vehicle import Battery, CrankingStandard
from ohmack.core.figures.figure import Book, Figure, Formula, Reading, Term, fixed, reference
from ohmack.core.network.states import State, battery_resistance_ohm, held_v, inner_terms
from ohmack.core.physics.energy import bursts_of, listening_h
from ohmack.core.record import record
from ohmack.core.reference import PHYSICS, PRACTICE, table
from ohmack.core.supply.battery_side import at_batteries, follows_level, idle_at_batteries
from ohmack.core.supply.energy import programme_of
from ohmack.core.supply.results import SupplyResult
from ohmack.core.supply.second_battery import one_with_first
from ohmack.core.supply.study import Study
from ohmack.core.wording import listed


def _listens_h(
    capacity_ah: float, percent: float, keep_percent: float, exponent: float, beside_a: float, *players: float
) -> float:
    """`physics.energy.listening_h` with three values a player, one after another."""
    each = [(players[n], players[n + 1], bool(players[n + 2])) for n in range(0, len(players), 3)]
    return listening_h(capacity_ah, bursts_of(percent / 100, beside_a, each), keep_percent / 100, exponent)


def _fallen_v(rests_v: float, cca_a: float, standard: str, *amps: float) -> float:
    """What a battery's post falls to."""
    return rests_v - battery_resistance_ohm(cca_a, CrankingStandard(standard)) * sum(amps)


LISTENING = Formula(
    "Listening with the engine off", "h", "(1 − kept) C / Σ share of the time × I_rated (I / I_rated)^k", _listens_h,
    PRACTICE,
)  # fmt: skip
POST_IN_NOTE = Formula(
    "Post in a bass note, engine off", "v", "E_rest − R_battery × Σ I at full level",
    _fallen_v, PHYSICS,
)  # fmt: skip
TOGETHER = Formula("Capacity together", "ah", "sum of what is joined for good", lambda *held: sum(held), PHYSICS)
DRAWN = Reading("Full level, engine off", "a", "all consumers solved together", lambda got: got.amps(), PHYSICS)


@record
class Drawn:
    """A consumer in the solved network, engine off; it draws nothing where that is not solved."""

    study: Study
    name: str

    def amps(self) -> float | None:
        """What it draws at full level [a]."""
        solution = self.study.solutions.get(State.ENGINE_OFF)
        return solution.current_a[self.name] if solution and self.name in solution.voltage_v else None


@record
class Listening:
    """How long one battery plays with the engine off."""

    battery: Battery
    hours: Figure
    plays: bool  # whether it feeds an amplifier, not the radio alone
    post: Figure | None = None  # what it falls to in a bass note; None where that is not known


@record
class EngineOff:
    """Listening without the engine."""

    listening: tuple[Listening, ...]


def compute_engine_off(book: Book, study: Study, supplies: Sequence[SupplyResult]) -> EngineOff | None:
    """How long one may listen.

    Parameters:
        book: the book of the design.
        study: the solved network.
        supplies: every run with what it feeds.

    Returns:
        battery by battery, how long it plays; None where nothing is fed.
        The first one is listed too where all amplifiers hang on another: it feeds the radio.

    Source: see `physics.energy`.
    """
    fed = [s for s in supplies if not s.is_main]
    if not fed:
        return None
    found = []
    first, together = book.design.vehicle.supply.batteries[0], one_with_first(book.design)
    for battery in book.design.vehicle.supply.batteries:
        if battery in together[1:]:
            continue  # it is one with the first
        here = together if battery is first else (battery,)
        mine = [s for one in here for s in _on(one, fed)]
        if mine or battery is first:
            hours, post = _hours(book, study, here, mine), _post(book, study, battery, _on(battery, fed))
            found.append(Listening(battery, hours, bool(mine), post))
    return EngineOff(tuple(found))


def kept_charge(book: Book) -> Term:
    percent = book.design.use.reserve_percent
    return fixed("charge kept", percent, "percent", at_the(Use, lambda it: it.reserve_percent))


def fallen_v(book: Book, study: Study, battery: Battery, supplies: Sequence[SupplyResult]) -> float | None:
    """What a battery's post falls to, engine off and everything on it at full level.

    Parameters:
        book: the book of the design; nothing is filed in it, so that rules may ask.
        study: the solved network.
        battery: the battery.
        supplies: every run with what it feeds.

    Returns:
        volts [v]; None where its label or its volts were not read, or a converter stands between.

    Source: Ohm's law over the battery's own resistance.
    """
    terms, drawn = _post_terms(book, battery), [Drawn(study, s.part.id).amps() for s in _on(battery, supplies)]
    known = [amps for amps in drawn if amps is not None]
    if not terms or len(known) < len(drawn):
        return None
    return _fallen_v(*(term.value for term in terms), *known)


def _on(battery: Battery, supplies: Sequence[SupplyResult]) -> list[SupplyResult]:
    return [s for s in supplies if not s.is_main and s.battery_id == battery.id]


def _post_terms(book: Book, battery: Battery) -> tuple[Term, ...]:
    """(volts at rest, cranking amps, by which standard) of a battery; nothing where one is not known."""
    inner, rests = inner_terms(book, battery, State.ENGINE_OFF), held_v(book, battery, State.ENGINE_OFF)
    return (*rests, *inner) if inner and all(term.value is not None for term in (*inner, *rests)) else ()


def _post(book: Book, study: Study, battery: Battery, fed: Sequence[SupplyResult]) -> Figure | None:
    terms = _post_terms(book, battery)
    if not fed or not terms:
        return None
    return book.figure(
        f"energy/{battery.id}/note_v", POST_IN_NOTE, *terms, *(_full(book, study, s) for s in fed),
        name=f"{battery.name} in a bass note, engine off",
    )  # fmt: skip


def _full(book: Book, study: Study, supply: SupplyResult) -> Figure:
    part = supply.part
    return book.reading(
        f"{part.id}/engine_off_a", DRAWN, Drawn(study, part.id), supply.figures["resting"],
        name=f"{part.name}, full level, engine off",
    )  # fmt: skip


def capacity_of(book: Book, batteries: Sequence[Battery]) -> Term:
    """What batteries hold that are one."""
    held = [book.fact(b, lambda it: it.capacity_ah, f"{b.name}: capacity", "ah") for b in batteries]
    if len(held) == 1:
        return held[0]
    return book.figure("energy/together_ah", TOGETHER, *held, name="Capacity of the batteries joined for good").term


def _awake(book: Book, first: bool) -> Term:
    """What the car itself draws while somebody listens: as read, else the usual; nothing from another battery."""
    supply, on = book.design.vehicle.supply, table("supply", "key_on")
    if first and supply.key_on_a.value is not None:
        return book.fact(supply, lambda it: it.key_on_a, "radio and bus awake", "a")
    return reference("radio and bus awake", float(on["draw_a"]) if first else 0.0, "a", on["source"])


def _hours(book: Book, study: Study, batteries: Sequence[Battery], fed: Sequence[SupplyResult]) -> Figure:
    battery = batteries[0]
    players: list[Term] = []
    for s in fed:
        follows = fixed("current follows the level", follows_level(s.part))
        players += [
            at_batteries(book, _full(book, study, s), resting=True).term,
            idle_at_batteries(book, s.part, resting=True),
            follows,
        ]
    peukert = table("supply", "bridging")
    first = battery is book.design.vehicle.supply.batteries[0]
    capacity = capacity_of(book, batteries)
    exponent = reference("exponent", float(peukert["exponent"]), "", peukert["source"])
    return book.figure(
        f"energy/{battery.id}/listening_h", LISTENING, capacity, programme_of(book), kept_charge(book), exponent,
        _awake(book, first), *players,
        name=f"{'Listening' if fed else 'Radio alone'} on {listed([b.name for b in batteries])}, engine off",
    )  # fmt: skip
