"""A day with this car: what the usual drive does to the battery, how long one may listen, how long it may stand."""

from __future__ import annotations

from collections.abc import Sequence

from ohmack.core.document.amplifiers import Amplifier, AmplifierClass
from ohmack.core.document.handles import at_the
from ohmack.core.document.parts import Converter, HeadUnit, PoweredSubwoofer
from ohmack.core.document.use import Use
from ohmack.core.document.vehicle import Battery, SupplyKind, SystemVoltage
from ohmack.core.errors import OutOfRange
from ohmack.core.figures.figure import Book, Figure, Formula, Reading, Term, fixed, reference
from ohmack.core.network.solve import Solution
from ohmack.core.network.states import State
from ohmack.core.physics.charging import average_current_a
from ohmack.core.physics.energy import (
    Burst,
    Cell,
    Driven,
    Leg,
    alternator_a,
    driven,
    even_percent,
    listening_h,
    parked_days,
)
from ohmack.core.record import record
from ohmack.core.reference import PHYSICS, PRACTICE, table
from ohmack.core.supply.alternator import at_idle, rated
from ohmack.core.supply.battery_side import at_batteries, through_converter
from ohmack.core.supply.budget import batteries_behind
from ohmack.core.supply.results import SupplyResult
from ohmack.core.supply.study import Study

GIVEN = Formula("Given", "a", "the alternator's curve over speed", alternator_a, PRACTICE)
GIVEN_HARD = Formula("Given", "a", "as its limit", float)
CHANGE = Reading(
    "The drive leaves the battery", "percent", "100 × (Q_end − Q_start) / C, minute by minute",
    lambda run: run.change_percent, PRACTICE,
)  # fmt: skip
EVEN = Reading(
    "Even at music of", "percent", "the programme at which the drive leaves the battery as it found it",
    lambda percent: percent, PRACTICE,
)  # fmt: skip
LISTENING = Reading(
    "Listening with the engine off", "h", "(1 − kept) C / Σ share × I_rated (I / I_rated)^k", lambda hours: hours,
    PRACTICE,
)  # fmt: skip
PARKED = Formula(
    "Parked until the start is at risk", "days", "ln((C + I/s) / (keep × C + I/s)) / s, I all that draws asleep",
    lambda ah, per_day, keep, *amps: parked_days(ah, sum(amps), per_day, keep / 100), PRACTICE,
)  # fmt: skip
DRAWN = Reading("Full level, engine off", "a", "all consumers solved together", lambda got: got.amps(), PHYSICS)


@record
class Drawn:
    """A consumer in a solved state."""

    solution: Solution
    name: str

    def amps(self) -> float:
        """What it draws [a]."""
        return self.solution.current_a[self.name]


@record
class Season:
    """The usual drive in one season."""

    key: str
    title: str
    given: tuple[Figure, ...]  # leg by leg
    run: Driven
    change: Figure


@record
class Listening:
    """How long one battery plays with the engine off."""

    battery: Battery
    hours: Figure


@record
class EngineOff:
    """Listening and standing without the engine."""

    listening: tuple[Listening, ...]
    parked: Figure
    asleep: tuple[Term, ...]  # what draws while it stands
    silent: tuple[str, ...]  # parts whose papers do not say what they draw switched off


@record
class Energy:
    """The usual drive in both seasons."""

    seasons: tuple[Season, ...]
    lacks: str = ""  # why it is not reckoned; then nothing of it is filed

    def season(self, key: str) -> Season | None:
        """One season, where the drive is reckoned."""
        return next((s for s in self.seasons if s.key == key), None)


def _use(book: Book) -> tuple[Term, Term, Term]:
    """(drive, programme, charge kept) as inputs."""
    use = book.design.use
    return (
        fixed("usual drive", use.trip.value, path=at_the(Use, lambda it: it.trip)),
        fixed("music on average", use.programme_percent, "percent", at_the(Use, lambda it: it.programme_percent)),
        fixed("charge kept", use.reserve_percent, "percent", at_the(Use, lambda it: it.reserve_percent)),
    )


def _drawn(parts: Sequence[tuple[object, float, float]], share: float, beside_a: float) -> tuple[Burst, ...]:
    """What consumers draw over music of some average power, in bursts: (part, full, idle current) each."""
    if share <= 0:
        return (Burst(1.0, beside_a + sum(idle_a for _, _, idle_a in parts)),)
    loud_a = quiet_a = beside_a
    for part, full_a, idle_a in parts:
        if isinstance(part, Amplifier) and part.amplifier_class is AmplifierClass.AB:
            steady_a = average_current_a(max(full_a, idle_a), idle_a, share, True)
            loud_a, quiet_a = loud_a + steady_a, quiet_a + steady_a
        else:
            loud_a, quiet_a = loud_a + full_a, quiet_a + idle_a
    if share >= 1:
        return (Burst(1.0, loud_a),)
    return (Burst(share, loud_a), Burst(1 - share, quiet_a))


def _idle_a(part: object) -> float:
    return float(getattr(part, "idle_current_a", 0.0) or 0.0)


def compute_energy(book: Book, supplies: Sequence[SupplyResult]) -> Energy | None:
    """What the usual drive does to the battery.

    Parameters:
        book: the book of the design.
        supplies: every run with what it feeds.

    Returns:
        the drive in winter and in summer; None where nothing is fed. It is not reckoned while a fact is missing, and
        says which.

    Source: see `physics.energy`; drives, seasons, acceptance of a battery: common practice, no source.
    """
    fed = [s for s in supplies if not s.is_main]
    if not fed:
        return None
    if book.design.vehicle.supply.system.value is SystemVoltage.PACK:
        return Energy((), "a pack is charged at the wall, nothing charges it on the way")
    terms, lacks = _drive_terms(book, fed)
    seasons = () if lacks else tuple(_season(book, key, fed, terms) for key in ("winter", "summer"))
    return Energy(seasons, lacks)


def _drive_terms(book: Book, fed: Sequence[SupplyResult]) -> tuple[dict[str, Term], str]:
    """What the drive rests on, and what of it is not known, in words."""
    supply = book.design.vehicle.supply
    hard = supply.kind is SupplyKind.DC_DC
    terms = {"car": book.fact(supply, lambda it: it.car_draw_a, "the car's own draw, everything on", "a")}
    if hard:
        terms["limit"] = book.fact(supply, lambda it: it.dc_dc_limit_a, "DC-DC converter limit", "a")
    else:
        terms |= {"rated": rated(book), "idle": at_idle(book)}
    for battery in batteries_behind(book.design):
        terms[f"capacity {battery.id}"] = book.fact(
            battery, lambda it: it.capacity_ah, f"{battery.name}: capacity", "ah"
        )
    terms |= {f"drawn {s.part.id}": at_batteries(book, s.figures["current"]).term for s in fed}
    gap = next((gap.name for term in terms.values() for gap in term.missing), "")
    if not gap:
        refused = next((term for term in terms.values() if term.value is None), None)
        gap = refused.name if refused is not None else _curve_fault(terms)
    return terms, gap


def _curve_fault(terms: dict[str, Term]) -> str:
    """Why no curve goes through what is known of the alternator; empty where one does."""
    if "limit" in terms:
        return ""
    row = table("supply", "engine")
    speeds = float(row["idle_rpm"]), float(row["idle_rpm"]), float(row["rated_rpm"])
    try:
        alternator_a(terms["rated"].value, terms["idle"].value, *speeds)
    except OutOfRange as error:
        return str(error)
    return ""


def _season(book: Book, key: str, fed: Sequence[SupplyResult], terms: dict[str, Term]) -> Season:
    row, trip = table("supply.seasons", key), book.design.use.trip
    legs = table("supply", "trips")[trip.value]
    given = tuple(
        _given(book, f"energy/{key}/{n}/given_a", f"Given at {rpm:g} turns, {row['title'].lower()}", float(rpm), terms)
        for n, (_, rpm) in enumerate(legs)
    )
    share = reference("share of everything on", float(row["draw_share"]), "", row["source"])
    inputs: tuple[Term | Figure, ...] = (*_use(book)[:2], *terms.values(), share, *given)
    run = _run(book, key, fed, terms, given, book.design.use.programme_percent / 100)
    change = book.reading(
        f"energy/{key}/change_percent",
        CHANGE,
        run,
        *inputs,
        name=f"The drive leaves the battery, {row['title'].lower()}",
    )
    return Season(key, row["title"], given, run, change)


def _given(book: Book, figure_id: str, name: str, rpm: float, terms: dict[str, Term]) -> Figure:
    if "limit" in terms:
        return book.figure(figure_id, GIVEN_HARD, terms["limit"], name=name)
    row = table("supply", "engine")
    speeds = (
        fixed("engine", rpm, "rpm"),
        reference("idling", float(row["idle_rpm"]), "rpm", row["source"]),
        reference("rated from", float(row["rated_rpm"]), "rpm", row["source"]),
    )
    return book.figure(figure_id, GIVEN, terms["rated"], terms["idle"], *speeds, name=name)


def _run(
    book: Book, key: str, fed: Sequence[SupplyResult], terms: dict[str, Term], given: Sequence[Figure], share: float
) -> Driven:
    """The usual drive in one season, at one programme."""
    row, charging = table("supply.seasons", key), table("supply", "charging")
    sides = through_converter(book)
    seen = 1.0 if sides is None else sides[0].value / (sides[1].value * sides[2].value)
    parts = [(s.part, float(terms[f"drawn {s.part.id}"].value), seen * _idle_a(s.part)) for s in fed]
    drawn = _drawn(parts, share, float(terms["car"].value) * float(row["draw_share"]))
    legs = [
        Leg(float(minutes), float(figure.value or 0.0), drawn)
        for (minutes, _), figure in zip(table("supply", "trips")[book.design.use.trip.value], given, strict=True)
    ]
    whole_ah = sum(float(term.value) for name, term in terms.items() if name.startswith("capacity "))
    cell = Cell(
        whole_ah * float(row["capacity_share"]), float(charging["start_share"]), float(row["takes_a_per_ah"]),
        float(charging["stored"]), float(table("supply", "bridging")["exponent"]),
    )  # fmt: skip
    return driven(legs, cell)


def even_programmes(book: Book, supplies: Sequence[SupplyResult], energy: Energy) -> dict[str, Figure]:
    """By season, the loudest programme the usual drive still carries."""
    fed = [s for s in supplies if not s.is_main]
    terms, lacks = _drive_terms(book, fed)
    if lacks:
        return {}
    found = {}
    for season in energy.seasons:

        def change(percent: float, season: Season = season) -> float:
            return _run(book, season.key, fed, terms, season.given, percent / 100).change_percent

        name = f"Even at music of, {season.title.lower()}"
        figure_id = f"energy/{season.key}/even_percent"
        found[season.key] = book.reading(figure_id, EVEN, even_percent(change), *season.change.inputs, name=name)
    return found


# -- engine off -----------------------------------------------------------------------------------------------------


def compute_engine_off(book: Book, study: Study, supplies: Sequence[SupplyResult]) -> EngineOff | None:
    """How long one may listen and how long the car may stand.

    Parameters:
        book: the book of the design.
        study: the solved network.
        supplies: every run with what it feeds.

    Returns:
        battery by battery, how long it plays, and how long the first one starts the engine; None where nothing is fed.

    Source: see `physics.energy`.
    """
    fed = [s for s in supplies if not s.is_main]
    return EngineOff(_listening(book, study, fed), *_parked(book)) if fed else None


def _listening(book: Book, study: Study, fed: Sequence[SupplyResult]) -> tuple[Listening, ...]:
    """Battery by battery, how long it plays."""
    batteries = book.design.vehicle.supply.batteries
    found = []
    for battery in batteries:
        mine = [s for s in fed if s.battery_id == battery.id]
        if mine:
            found.append(Listening(battery, _hours(book, study, battery, mine, battery is batteries[0])))
    return tuple(found)


def _hours(book: Book, study: Study, battery: Battery, fed: Sequence[SupplyResult], first: bool) -> Figure:
    solution = study.solutions.get(State.ENGINE_OFF)
    drawn = [
        book.reading(
            f"{s.part.id}/engine_off_a", DRAWN,
            Drawn(solution, s.part.id) if solution and s.part.id in solution.voltage_v else None,
            s.figures["resting"], name=f"{s.part.name}, full level, engine off",
        )
        for s in fed
    ]  # fmt: skip
    drawn = [at_batteries(book, figure, resting=True) for figure in drawn]
    sides = through_converter(book, resting=True)
    known = sides is not None and all(term.value is not None for term in sides)
    seen = sides[0].value / (sides[1].value * sides[2].value) if sides is not None and known else 1.0
    capacity = book.fact(battery, lambda it: it.capacity_ah, f"{battery.name}: capacity", "ah")
    _, programme, keep = _use(book)
    peukert, on = table("supply", "bridging"), table("supply", "key_on")
    exponent = reference("exponent", float(peukert["exponent"]), "", peukert["source"])
    beside = reference("radio and bus awake", float(on["draw_a"]) if first else 0.0, "a", on["source"])
    inputs = (capacity, *(f.term for f in drawn), programme, keep, exponent, beside)
    hours: float | None = None
    if all(term.value is not None for term in inputs):
        parts = [(s.part, float(f.value or 0.0), seen * _idle_a(s.part)) for s, f in zip(fed, drawn, strict=True)]
        bursts = _drawn(parts, float(programme.value) / 100, float(beside.value))
        hours = listening_h(float(capacity.value), bursts, float(keep.value) / 100, float(exponent.value))
    return book.reading(
        f"energy/{battery.id}/listening_h", LISTENING, hours, *inputs, name=f"Listening on {battery.name}, engine off"
    )


def _parked(book: Book) -> tuple[Figure, tuple[Term, ...], tuple[str, ...]]:
    """(how long the car may stand, what draws meanwhile, the parts whose papers do not say)."""
    supply, row = book.design.vehicle.supply, table("supply.seasons", "summer")
    first = supply.batteries[0]
    asleep = [book.fact(supply, lambda it: it.standby_current_a, "the car, all asleep", "a")]
    silent = []
    for part in book.design.parts:
        if isinstance(part, Amplifier | Converter | PoweredSubwoofer | HeadUnit):
            if part.standby_a is None:
                silent.append(part.name)
            else:
                asleep.append(book.part(part, lambda it: it.standby_a, f"{part.name}, switched off", "a"))
    figure = book.figure(
        "energy/parked_days", PARKED,
        book.fact(first, lambda it: it.capacity_ah, f"{first.name}: capacity", "ah"),
        reference("lost a day by itself", float(row["loses_per_day"]), "", row["source"]), _use(book)[2], *asleep,
    )  # fmt: skip
    return figure, tuple(asleep), tuple(silent)
