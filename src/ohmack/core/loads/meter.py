"""What an ohmmeter shows at every point of a wired output, and what each wrong reading would mean."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from itertools import count as numbers

from ohmack.core.loads.driven import DC_HIGH, DC_LOW, Driven
from ohmack.core.loads.wiring_judge import WiringOption
from ohmack.core.loads.wirings import LoadResult
from ohmack.core.physics.bench_wiring import BenchWiring
from ohmack.core.physics.nodal import OPEN_OHM, SHORT_OHM, Part, resistance_ohm
from ohmack.core.physics.speaker_loads import Wiring
from ohmack.core.record import record

PLUS, MINUS = "amplifier +", "amplifier −"
LEAST_OHM = 0.03  # what a meter with its leads zeroed tells apart; common practice
NEAR = 0.04  # readings nearer than this are one for a meter with its leads zeroed; common practice
OPENS_FROM_OHM = 1000.0  # a pair that reads more is said to be open; common practice


@record
class Point:
    """A place for the two probes: where, what is expected, and the window it should fall in."""

    words: str
    ohm: float
    low_ohm: float
    high_ohm: float


@record
class Wrong:
    """A reading that is not the expected one, and what would show it."""

    ohm: float  # OPEN_OHM where the meter shows nothing
    causes: tuple[str, ...]

    @property
    def opens(self) -> bool:
        """Whether the meter shows no connection."""
        return self.ohm >= OPENS_FROM_OHM


def parts_of(
    wiring: Wiring | BenchWiring, coil_ohm: dict[str, float] | None = None, lead_ohm: float = 0.0
) -> list[Part]:
    """A wiring as a network of resistances between the amplifier's terminals.

    Parameters:
        wiring: of the coils.
        coil_ohm: DC resistance by coil [ohm]; None takes the coils' own.
        lead_ohm: of the speaker cable, there and back [ohm].

    Returns:
        a part a coil, by its name, and the lead where it has any resistance.

    Source: textbook circuit theory.
    """
    if isinstance(wiring, BenchWiring):
        return _laid_parts(wiring, coil_ohm or {}, lead_ohm)
    fresh = (f"joint {n}" for n in numbers(1))
    start = "end of the lead" if lead_ohm else PLUS

    def lay(piece: Wiring, a: str, b: str) -> Iterator[Part]:
        if piece.coil is not None:
            ohm = (coil_ohm or {}).get(piece.coil.name, piece.coil.dc_resistance_ohm)
            yield Part(piece.coil.name, a, b, ohm)
            return
        here = a
        for n, part in enumerate(piece.parts):
            if piece.kind == "parallel":
                yield from lay(part, a, b)
                continue
            there = b if n == len(piece.parts) - 1 else next(fresh)
            yield from lay(part, here, there)
            here = there

    lead = [Part("lead", PLUS, start, lead_ohm)] if lead_ohm else []
    return [*lead, *lay(wiring, start, MINUS)]


def _laid_parts(wiring: BenchWiring, coil_ohm: dict[str, float], lead_ohm: float) -> list[Part]:
    """The same of leads laid by hand: its nets by number, those of the output by their names."""
    start = "end of the lead" if lead_ohm else PLUS
    named = {str(wiring.net_of("-")): MINUS, str(wiring.net_of("+")): start}
    laid = [
        Part(p.name, named.get(p.a, p.a), named.get(p.b, p.b), coil_ohm.get(p.name, p.impedance_ohm))
        for p in wiring.network(dc=True)
    ]
    if wiring.shorted:
        laid.append(Part("short", start, MINUS, SHORT_OHM))
    return [*([Part("lead", PLUS, start, lead_ohm)] if lead_ohm else []), *laid]


def points(load: LoadResult, lead_ohm: float = 0.0) -> tuple[Point, ...]:
    """What to expect at every accessible point of an output, everything wired.

    Parameters:
        load: the output.
        lead_ohm: of its speaker cable, there and back [ohm].

    Returns:
        at the amplifier's end of the pair, its leads off; then across the terminals of each driver, where the rest of
        the network lies beside it. Windows by the spread of coil readings.

    Source: nodal analysis of the DC resistances: textbook; spread common practice.
    """
    network = parts_of(load.chosen.wiring, None, lead_ohm)
    whole = resistance_ohm(network, PLUS, MINUS)
    found = [_point("at the amplifier, its leads off", whole, load)]
    if len(load.driven) > 1:
        ends = {part.name: (part.a, part.b) for part in network}
        for driven in load.driven:
            for coil in driven.coils:
                ohm = resistance_ohm(network, *ends[coil.name])
                many = f", coil {coil.name}" if len(driven.coils) > 1 else ""
                found.append(_point(f"at {driven.name}{many}, wired", ohm, load))
    return tuple(found)


def _point(words: str, ohm: float, load: LoadResult) -> Point:
    """The expected reading and its window: where coils were measured, what meters differ by; else the usual spread."""
    coils = load.chosen.wiring.coils()
    nominal = sum(coil.impedance_ohm for coil in coils)
    expected = sum(coil.dc_resistance_ohm for coil in coils) / nominal
    return Point(words, ohm, ohm * DC_LOW / expected, ohm * DC_HIGH / expected)


def ways_shown(load: LoadResult, lead_ohm: float = 0.0) -> tuple[tuple[WiringOption, Point], ...]:
    """What each wiring of the same coils would show at the amplifier.

    Parameters:
        load: the output.
        lead_ohm: of its speaker cable, there and back [ohm].

    Returns:
        each wiring with its reading and window, lowest first.

    Source: as `points`.
    """
    return tuple((option, _point(option.words, option.meter_ohm + lead_ohm, load)) for option in load.options)


def wired_as(load: LoadResult, ohm: float, lead_ohm: float = 0.0) -> tuple[WiringOption, ...]:
    """The wirings that a reading at the amplifier [ohm], leads zeroed, speaks for: none where it falls in no window."""
    return tuple(o for o, point in ways_shown(load, lead_ohm) if point.low_ohm <= ohm <= point.high_ohm)


def wired_now(load: LoadResult, lead_ohm: float = 0.0) -> WiringOption | None:
    """The wiring that coils in the car still have, where their pair was read and the plan has them wired another way.

    Parameters:
        load: the output.
        lead_ohm: of its speaker cable, there and back [ohm].

    Returns:
        the one other wiring the reading speaks for; None where it fits the plan, or no single other one.
    """
    ohm = load.link.reads_ohm.value
    if ohm is None or load.unread or not load.chosen.stays or not all(link.in_car for link in load.links):
        return None
    fit = wired_as(load, ohm, lead_ohm)
    return fit[0] if len(fit) == 1 and not fit[0].chosen else None


def wrong_readings(load: LoadResult, lead_ohm: float = 0.0) -> tuple[Wrong, ...]:
    """Readings at the amplifier that say what is wrong.

    Parameters:
        load: the output.
        lead_ohm: of its speaker cable, there and back [ohm].

    Returns:
        every single fault, an open or a shorted coil, a driver left out, the pair open or touching, and every other
        wiring of the same coils, by what the meter shows, lowest first; what shows the expected reading is left out.

    Source: nodal analysis of each fault: textbook circuit theory.
    """
    expected = points(load, lead_ohm)[0].ohm
    touching, opened = (lead_ohm, "the pair touches, or a jumper shorts it"), (OPEN_OHM, "the pair is open")
    shown: list[tuple[float, str]] = [touching, opened]
    for driven in load.driven:
        shown += _faults_of(driven, load, lead_ohm)
    for option in load.options:
        if not option.chosen:
            shown.append((option.meter_ohm + lead_ohm, f"wired {option.words}"))
    rows: list[Wrong] = []
    for ohm, cause in sorted(shown):
        if abs(ohm - expected) <= NEAR * expected:
            continue
        if rows and (
            ohm - rows[-1].ohm <= max(NEAR * rows[-1].ohm, LEAST_OHM) or (rows[-1].opens and ohm >= OPENS_FROM_OHM)
        ):
            rows[-1] = replace(rows[-1], causes=tuple(dict.fromkeys((*rows[-1].causes, cause))))
        else:
            rows.append(Wrong(ohm, (cause,)))
    return tuple(rows)


def _faults_of(driven: Driven, load: LoadResult, lead_ohm: float) -> Iterator[tuple[float, str]]:
    def reads(ohm: float, *names: str) -> float:
        return resistance_ohm(parts_of(load.chosen.wiring, dict.fromkeys(names, ohm), lead_ohm), PLUS, MINUS)

    names = [coil.name for coil in driven.coils]
    if len(names) == 1:
        yield reads(OPEN_OHM, *names), f"{driven.name} open, or off"
        yield reads(SHORT_OHM, *names), f"{driven.name} shorted"
        return
    for name in names:
        yield reads(OPEN_OHM, name), f"a coil of {driven.name} open, or its jumper off"
        yield reads(SHORT_OHM, name), f"a coil of {driven.name} shorted"
    if len(load.driven) > 1:
        yield reads(OPEN_OHM, *names), f"{driven.name} off"


def meaning_of(load: LoadResult, ohm: float, lead_ohm: float = 0.0) -> str:
    """What a reading at the amplifier says.

    Parameters:
        load: the output.
        ohm: what was read, leads zeroed [ohm].
        lead_ohm: of its speaker cable, there and back [ohm].

    Returns:
        "" where it falls in the window; else the causes that would show the nearest reading.

    Source: the nearest by ratio: common practice.
    """
    whole = points(load, lead_ohm)[0]
    if whole.low_ohm <= ohm <= whole.high_ohm:
        return ""
    if ohm >= OPENS_FROM_OHM:
        return "the pair is open"
    rows = [row for row in wrong_readings(load, lead_ohm) if not row.opens]
    nearest = min(rows, key=lambda row: max((row.ohm + 0.05) / (ohm + 0.05), (ohm + 0.05) / (row.ohm + 0.05)))
    return ", or ".join(nearest.causes[:3])
