"""Without the engine: how long one may listen."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.handles import at_the
from ohmack.core.document.parts import Accessory, PoweredSubwoofer
from ohmack.core.document.use import Use
from ohmack.core.document.vehicle import Battery, CrankingStandard
from ohmack.core.figures.figure import Book, Figure, Formula, Reading, Term, fixed, reference
from ohmack.core.network.states import State, battery_resistance_ohm, held_v, inner_terms
from ohmack.core.physics.energy import bursts_of, enough_ah, listening_h
from ohmack.core.record import record
from ohmack.core.reference import PHYSICS, PRACTICE, table
from ohmack.core.supply.battery_side import at_batteries, follows_level, idle_at_batteries
from ohmack.core.supply.energy import programme_of
from ohmack.core.supply.own_runs import SelfFed
from ohmack.core.supply.post_feeds import battery_of, radio_battery
from ohmack.core.supply.results import SupplyResult
from ohmack.core.supply.second_battery import one_with_first
from ohmack.core.supply.study import Study
from ohmack.core.wording import listed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


def _listens_h(
    capacity_ah: float, percent: float, keep_percent: float, exponent: float, beside_a: float, *players: float
) -> float:
    """`physics.energy.listening_h` with three values a player, one after another."""
    each = [(players[n], players[n + 1], bool(players[n + 2])) for n in range(0, len(players), 3)]
    return listening_h(capacity_ah, bursts_of(percent / 100, beside_a, each), keep_percent / 100, exponent)


def _fallen_v(rests_v: float, cca_a: float, standard: str, *amps: float) -> float:
    """What a battery's post falls to."""
    return rests_v - battery_resistance_ohm(cca_a, CrankingStandard(standard)) * sum(amps)


def _enough_ah(
    hours: float, percent: float, keep_percent: float, exponent: float, beside_a: float, *players: float
) -> float:
    """`physics.energy.enough_ah` with three values a player, one after another."""
    each = [(players[n], players[n + 1], bool(players[n + 2])) for n in range(0, len(players), 3)]
    return enough_ah(hours, bursts_of(percent / 100, beside_a, each), keep_percent / 100, exponent)


ENOUGH = Formula(
    "Capacity that would do", "ah", "C for which (1 − kept) C / Σ share of the time × I_rated (I / I_rated)^k is what"
    " is wanted", _enough_ah, PRACTICE,
)  # fmt: skip
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
    enough: Figure | None = None  # the capacity for as long as is wanted; None where nobody wants to listen


@record
class EngineOff:
    """Listening without the engine."""

    listening: tuple[Listening, ...]


def compute_engine_off(
    book: Book, study: Study, supplies: Sequence[SupplyResult], self_fed: Sequence[SelfFed]
) -> EngineOff | None:
    """How long one may listen.

    Parameters:
        book: the book of the design.
        study: the solved network.
        supplies: every run with what it feeds.
        self_fed: parts with their own amplifier; those on a feed of the car draw from its battery.

    Returns:
        battery by battery, how long it plays; None where nothing is fed and nobody wants to listen.
        That of the radio is listed too where all amplifiers hang on another.

    Source: see `physics.energy`.
    """
    design = book.design
    fed = [s for s in supplies if not s.is_main]
    hung = [
        (one.part, one.current, battery_of(design, tap.feed))
        for one in self_fed for tap in one.taps
        if tap.taken and not isinstance(one.part, Accessory)
    ]  # fmt: skip
    if not fed and not hung and design.use.listens_h is None:
        return None
    found = []
    first, together, radio = design.vehicle.supply.batteries[0], one_with_first(design), radio_battery(design)
    for battery in design.vehicle.supply.batteries:
        if battery in together[1:]:
            continue  # it is one with the first
        here = together if battery is first else (battery,)
        mine = [s for one in here for s in _on(one, fed)]
        players = [_player(book, study, s) for s in mine]
        players += [_hung_player(book, part, current) for part, current, on in hung if on in here]
        if players or radio in here:
            hours, enough = _hours(book, here, radio in here, players)
            post = _post(book, study, battery, _on(battery, fed))
            found.append(Listening(battery, hours, bool(players), post, enough))
    return EngineOff(tuple(found))


def _player(book: Book, study: Study, supply: SupplyResult) -> tuple[Term, Term, Term]:
    """(full level, idle, whether its current follows its level) of what has a power run."""
    full = at_batteries(book, _full(book, study, supply), resting=True).term
    idle = idle_at_batteries(book, supply.part, resting=True)
    return full, idle, fixed("current follows the level", follows_level(supply.part))


def _hung_player(book: Book, part: Amplifier | PoweredSubwoofer, current: Figure) -> tuple[Term, Term, Term]:
    """The same of what hangs on a feed of the car."""
    full, idle = at_batteries(book, current, resting=True).term, idle_at_batteries(book, part, resting=True)
    return full, idle, fixed("current follows the level", follows_level(part))


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


def _awake(book: Book, radio: bool, first: bool) -> Term:
    """What is drawn whatever plays: radio and car from the first battery, as read, else the usual; the radio alone from
    another; nothing from one that feeds no radio.
    """
    supply, on = book.design.vehicle.supply, table("supply", "key_on" if first else "radio_on")
    if not first:
        return reference("radio awake", float(on["draw_a"]) if radio else 0.0, "a", on["source"])
    if radio and supply.key_on_a.value is not None:
        return book.fact(supply, lambda it: it.key_on_a, "radio and bus awake", "a")
    return reference("radio and bus awake", float(on["draw_a"]) if radio else 0.0, "a", on["source"])


def _hours(
    book: Book, batteries: Sequence[Battery], radio: bool, players: Sequence[tuple[Term, Term, Term]]
) -> tuple[Figure, Figure | None]:
    """(how long they play, the capacity that would do for as long as is wanted)."""
    battery, peukert, wanted_h = batteries[0], table("supply", "bridging"), book.design.use.listens_h
    capacity = capacity_of(book, batteries)
    exponent = reference("exponent", float(peukert["exponent"]), "", peukert["source"])
    first = battery is book.design.vehicle.supply.batteries[0]
    drawn = (_awake(book, radio, first), *(term for player in players for term in player))
    on = listed([b.name for b in batteries])
    hours = book.figure(
        f"energy/{battery.id}/listening_h", LISTENING, capacity, programme_of(book), kept_charge(book), exponent,
        *drawn, name=f"{'Listening' if players else 'Radio alone'} on {on}, engine off",
    )  # fmt: skip
    if wanted_h is None:
        return hours, None
    wanted = fixed("wants to listen", wanted_h, "h", at_the(Use, lambda it: it.listens_h))
    enough = book.figure(
        f"energy/{battery.id}/enough_ah", ENOUGH, wanted, programme_of(book), kept_charge(book), exponent, *drawn,
        name=f"Capacity of {on} that would do",
    )  # fmt: skip
    return hours, enough


def listening(results: Results) -> EngineOff | None:
    """How long one may listen, in a book of its own: a rule or a promise files nothing."""
    return compute_engine_off(Book(results.design), results.power, results.supplies, results.self_fed)
