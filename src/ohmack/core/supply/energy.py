"""What the usual drive does to the battery, in a winter night and on a summer day."""

from __future__ import annotations

from collections.abc import Sequence

from ohmack.core.document.handles import at_the
from ohmack.core.document.use import Use
from ohmack.core.document.vehicle import SupplyKind, SystemVoltage
from ohmack.core.errors import OutOfRange
from ohmack.core.figures.figure import Book, Figure, Formula, Reading, Term, fixed, reference
from ohmack.core.physics.energy import Cell, Driven, Leg, alternator_a, bursts_of, driven, even_percent
from ohmack.core.record import record
from ohmack.core.reference import PRACTICE, table
from ohmack.core.supply.alternator import at_idle, rated
from ohmack.core.supply.battery_side import at_batteries, follows_level, idle_at_batteries
from ohmack.core.supply.results import SupplyResult
from ohmack.core.supply.second_battery import batteries_behind

GIVEN = Formula("Given", "a", "the alternator's curve over speed", alternator_a, PRACTICE)
GIVEN_HARD = Formula("Given", "a", "as its limit", float)
CHANGE = Reading(
    "The drive leaves the battery", "percent", "100 × (Q_end − Q_start) / C, minute by minute",
    lambda run: run.change_percent, PRACTICE,
)  # fmt: skip
EVEN = Reading(
    "Music the drive just carries", "percent", "the programme at which the drive leaves the battery as it found it",
    lambda drive: drive.even_percent(), PRACTICE,
)  # fmt: skip


@record
class Season:
    """The usual drive in one season."""

    key: str
    title: str
    given: tuple[Figure, ...]  # leg by leg
    run: Driven
    change: Figure


@record
class Energy:
    """The usual drive in both seasons."""

    seasons: tuple[Season, ...]
    lacks: str = ""  # why it is not reckoned; then nothing of it is filed

    def season(self, key: str) -> Season | None:
        """One season, where the drive is reckoned."""
        return next((s for s in self.seasons if s.key == key), None)


@record
class _Drive:
    """Everything a drive in one season is reckoned from."""

    minutes: tuple[float, ...]
    given: tuple[Figure, ...]
    car: Term
    share: Term  # of everything on
    players: tuple[tuple[Term, Term, Term], ...]  # (full, idle, follows its level)
    capacities: tuple[Term, ...]
    battery: tuple[Term, ...]  # (holds, takes, begins at, stays, exponent)

    @property
    def terms(self) -> tuple[Term, ...]:
        """What its figures rest on."""
        players = tuple(term for player in self.players for term in player)
        return (self.car, self.share, *players, *self.capacities, *self.battery, *(g.term for g in self.given))

    def run(self, share: float) -> Driven:
        """The charge over it with music of some average power."""
        holds, takes, start, stored, exponent = (float(term.value) for term in self.battery)
        players = [(float(full.value), float(idle.value), bool(f.value)) for full, idle, f in self.players]
        drawn = bursts_of(share, float(self.car.value) * float(self.share.value), players)
        legs = [Leg(m, float(g.value or 0.0), drawn) for m, g in zip(self.minutes, self.given, strict=True)]
        whole_ah = holds * sum(float(term.value) for term in self.capacities)
        return driven(legs, Cell(whole_ah, start, takes, stored, exponent))

    def even_percent(self) -> float:
        """The loudest programme it carries [percent]."""
        return even_percent(lambda percent: self.run(percent / 100).change_percent)


def programme_of(book: Book) -> Term:
    """How loud the music is on average."""
    percent = book.design.use.programme_percent
    return fixed("music on average", percent, "percent", at_the(Use, lambda it: it.programme_percent))


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
    lacks = _lacks(book, fed)
    return Energy(() if lacks else tuple(_season(book, key, fed) for key in ("winter", "summer")), lacks)


def even_programmes(book: Book, supplies: Sequence[SupplyResult], energy: Energy) -> dict[str, Figure]:
    """By season, the loudest programme the usual drive still carries."""
    fed = [s for s in supplies if not s.is_main]
    found = {}
    for season in energy.seasons:
        drive = _drive(book, season.key, fed, season.given)
        name = f"Music the drive just carries, {season.title.lower()}"
        found[season.key] = book.reading(f"energy/{season.key}/even_percent", EVEN, drive, *drive.terms, name=name)
    return found


def _charging(book: Book) -> tuple[Term, ...]:
    """(limit) of a converter, or (rating, output at idle) of an alternator."""
    supply = book.design.vehicle.supply
    if supply.kind is SupplyKind.DC_DC:
        return (book.fact(supply, lambda it: it.dc_dc_limit_a, "DC-DC converter limit", "a"),)
    return rated(book), at_idle(book)


def _car(book: Book) -> Term:
    return book.fact(book.design.vehicle.supply, lambda it: it.car_draw_a, "the car's own draw, everything on", "a")


def _capacities(book: Book) -> tuple[Term, ...]:
    return tuple(
        book.fact(b, lambda it: it.capacity_ah, f"{b.name}: capacity", "ah") for b in batteries_behind(book.design)
    )


def _lacks(book: Book, fed: Sequence[SupplyResult]) -> str:
    """What the drive cannot be reckoned without, in words; empty where nothing is missing."""
    charging = _charging(book)
    terms = (_car(book), *charging, *_capacities(book), *(at_batteries(book, s.figures["current"]).term for s in fed))
    gap = next((gap.name for term in terms for gap in term.missing), "")
    gap = gap or next((term.name for term in terms if term.value is None), "")
    if gap or len(charging) == 1:
        return gap
    engine = table("supply", "engine")
    try:  # whether a curve goes through what is known
        alternator_a(*(t.value for t in charging), *(float(engine[n]) for n in ("idle_rpm", "idle_rpm", "rated_rpm")))
    except OutOfRange as error:
        return str(error)
    return ""


def _season(book: Book, key: str, fed: Sequence[SupplyResult]) -> Season:
    title = table("supply.seasons", key)["title"]
    given = tuple(
        _given(book, f"energy/{key}/{n}/given_a", f"{_when(book, n, float(rpm))}, {title.lower()}", float(rpm))
        for n, (_, rpm) in enumerate(table("supply", "trips")[book.design.use.trip.value])
    )
    drive, programme = _drive(book, key, fed, given), programme_of(book)
    trip = fixed("usual drive", book.design.use.trip.value, path=at_the(Use, lambda it: it.trip))
    run, name = drive.run(float(programme.value) / 100), f"The drive leaves the battery, {title.lower()}"
    change = book.reading(f"energy/{key}/change_percent", CHANGE, run, trip, programme, *drive.terms, name=name)
    return Season(key, title, given, run, change)


def _when(book: Book, leg: int, rpm: float) -> str:
    hard = book.design.vehicle.supply.kind is SupplyKind.DC_DC
    return f"Given in part {leg + 1} of the drive" if hard else f"Given at {rpm:g} turns"


def _given(book: Book, figure_id: str, name: str, rpm: float) -> Figure:
    charging = _charging(book)
    if len(charging) == 1:
        return book.figure(figure_id, GIVEN_HARD, *charging, name=name)
    row = table("supply", "engine")
    speeds = (
        reference("engine, in the usual drive", rpm, "rpm", table("supply", "trips")["source"]),
        reference("idling", float(row["idle_rpm"]), "rpm", row["source"]),
        reference("rated from", float(row["rated_rpm"]), "rpm", row["source"]),
    )
    return book.figure(figure_id, GIVEN, *charging, *speeds, name=name)


def _drive(book: Book, key: str, fed: Sequence[SupplyResult], given: tuple[Figure, ...]) -> _Drive:
    """The usual drive in one season."""
    row, charging, peukert = table("supply.seasons", key), table("supply", "charging"), table("supply", "bridging")
    players = tuple(
        (
            at_batteries(book, s.figures["current"]).term, idle_at_batteries(book, s.part),
            fixed("current follows the level", follows_level(s.part)),
        )
        for s in fed
    )  # fmt: skip
    battery = (
        reference("of its capacity it holds", float(row["capacity_share"]), "", row["source"]),
        reference("takes, over its capacity", float(row["takes_a_per_ah"]), "", row["source"]),
        reference("begins at a charge of", float(charging["start_share"]), "", charging["source"]),
        reference("of what goes in stays", float(charging["stored"]), "", charging["source"]),
        reference("exponent", float(peukert["exponent"]), "", peukert["source"]),
    )
    share = reference("share of everything on", float(row["draw_share"]), "", row["source"])
    minutes = tuple(float(m) for m, _ in table("supply", "trips")[book.design.use.trip.value])
    return _Drive(minutes, given, _car(book), share, players, _capacities(book), battery)
