"""Wirings of many coils: drivers of a kind wired alike first, then kind with kind, so that a dozen coils stay few."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import product

from ohmack.core.errors import OutOfRange
from ohmack.core.physics.speaker_loads import Coil, Wiring, wirings
from ohmack.core.record import record

MOST_COILS = 16
MOST_ALIKE = 6  # drivers of a kind whose every network is tried; more of them stand in equal rows


@record
class _Seat:
    """A network of numbered seats, of which each is taken by a driver."""

    kind: str
    parts: tuple[_Seat, ...] = ()
    number: int = 0


def grouped_wirings(drivers: Sequence[Sequence[Coil]]) -> tuple[Wiring, ...]:
    """Networks in which the coils of every driver stay together and drivers of a kind are wired alike.

    Parameters:
        drivers: the coils of each driver; drivers of equal coils are of a kind.

    Returns:
        networks, lowest load first, each once.

    Raises:
        OutOfRange: no coil, or more than MOST_COILS.

    Source: enumeration; series-parallel networks of equal drivers are OEIS A000084.
    """
    coils = sum(len(driver) for driver in drivers)
    if not 1 <= coils <= MOST_COILS:
        raise OutOfRange("coils", coils, "coils", f"1 to {MOST_COILS}")
    kinds: dict[str, list[Sequence[Coil]]] = {}
    for driver in drivers:
        kinds.setdefault(_kind(driver), []).append(driver)
    groups = [list(_of_a_kind(alike)) for alike in kinds.values()]
    found: dict[str, Wiring] = {}
    for seats in _networks(len(groups), distinct=True):
        for chosen in product(*groups):
            wiring = flat(_seated(seats, chosen))
            found.setdefault(wiring.key(), wiring)
    return tuple(sorted(found.values(), key=lambda w: (w.resistance_ohm(), w.key())))


def flat(wiring: Wiring) -> Wiring:
    """A network without a series within a series or a parallel within a parallel; the same electrically."""
    if wiring.coil is not None:
        return wiring
    parts: list[Wiring] = []
    for part in map(flat, wiring.parts):
        parts += part.parts if part.kind == wiring.kind else (part,)
    return Wiring(wiring.kind, tuple(parts))


def _kind(driver: Sequence[Coil]) -> str:
    return repr([(coil.impedance_ohm, coil.dc_resistance_ohm, coil.power_w) for coil in driver])


def _of_a_kind(drivers: Sequence[Sequence[Coil]]) -> Iterator[Wiring]:
    """Every network of equal drivers with the coils of each wired alike."""
    inner = [wirings(list(driver), most=len(driver)) for driver in drivers]
    for seats in _networks(len(drivers), distinct=False):
        for alike in zip(*inner, strict=True):  # the same wiring of each driver's own coils
            yield _seated(seats, alike)


def _networks(count: int, *, distinct: bool) -> list[_Seat]:
    """Networks of so many seats: every one, or, of many alike, rows of equal length."""
    if count == 1:
        return [_Seat("coil")]
    if count <= MOST_ALIKE:
        places = [Coil(str(n), 1.0 + n * distinct) for n in range(count)]
        return [_as_seats(wiring) for wiring in wirings(places)]
    found = []
    for rows in (n for n in range(1, count + 1) if count % n == 0):
        for outer, within in (("parallel", "series"), ("series", "parallel")):
            length = count // rows
            strings = tuple(
                _Seat(within, tuple(_Seat("coil", number=row * length + n) for n in range(length)))
                if length > 1
                else _Seat("coil", number=row)
                for row in range(rows)
            )
            found.append(_Seat(outer, strings) if rows > 1 else strings[0])
    return found


def _as_seats(wiring: Wiring) -> _Seat:
    if wiring.coil is not None:
        return _Seat("coil", number=int(wiring.coil.name))
    return _Seat(wiring.kind, tuple(_as_seats(part) for part in wiring.parts))


def _seated(seats: _Seat, drivers: Sequence[Wiring]) -> Wiring:
    if not seats.parts:
        return drivers[seats.number]
    return Wiring(seats.kind, tuple(_seated(part, drivers) for part in seats.parts))
