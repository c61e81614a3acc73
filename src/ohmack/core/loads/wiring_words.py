"""A wiring as an installer says it: what is done with the coils of each driver, then with the drivers, by name."""

from __future__ import annotations

from collections.abc import Sequence

from ohmack.core.physics.speaker_loads import Wiring
from ohmack.core.record import record
from ohmack.core.wording import listed


@record
class NamedDriver:
    """A driver on a channel: what it is called there, and the names of its coils."""

    name: str
    coils: tuple[str, ...]


def words_of(wiring: Wiring, drivers: Sequence[NamedDriver]) -> str:
    """A wiring in words.

    Parameters:
        wiring: of the coils of some drivers.
        drivers: which coil belongs to which.

    Returns:
        "coils in series, drivers in parallel" where all are treated alike; else with the drivers by name.
    """
    if len(drivers) == 1 or wiring.coil is not None:
        return wiring.words()
    inner = {_inside(wiring.part_of(frozenset(driver.coils))) for driver in drivers}
    whole = [wiring.part_of(frozenset(driver.coils)) for driver in drivers]
    if None not in whole and len(inner) == 1 and _parts_are(wiring, whole):
        (own,) = inner
        if own == wiring.kind or own == "coil":
            return f"everything in {wiring.kind}" if own != "coil" else _count(len(drivers), wiring.kind)
        return f"coils in {own}, drivers in {wiring.kind}"
    if all(part.coil is not None for part in wiring.parts):
        return f"everything in {wiring.kind}"
    return _named(wiring, drivers)


def _count(drivers: int, kind: str) -> str:
    return f"{'both' if drivers == 2 else f'all {drivers}'} in {kind}"


def _inside(piece: Wiring | None) -> str:
    return "" if piece is None else piece.kind


def _parts_are(wiring: Wiring, whole: Sequence[Wiring | None]) -> bool:
    """Whether the topmost joint joins exactly the drivers."""
    keys = {piece.key() for piece in whole if piece is not None}
    return {part.key() for part in wiring.parts} == keys


def _named(wiring: Wiring, drivers: Sequence[NamedDriver]) -> str:
    """Piece by piece, with the drivers by name."""
    names = frozenset(coil.name for coil in wiring.coils())
    for driver in drivers:
        if names == frozenset(driver.coils):
            if len(driver.coils) == 1:
                return driver.name
            plain = all(part.coil is not None for part in wiring.parts)
            return f"{driver.name} (coils in {wiring.kind})" if plain else f"{driver.name} ({wiring.words()})"
    if wiring.coil is not None:
        driver = next(d for d in drivers if wiring.coil.name in d.coils)
        return f"coil {driver.coils.index(wiring.coil.name) + 1} of {driver.name}"
    said, loose = [], {part.coil.name for part in wiring.parts if part.coil is not None}
    for driver in drivers:
        if len(driver.coils) > 1 and loose.issuperset(driver.coils):  # its coils lie beside the others
            said.append(f"{driver.name} (coils in {wiring.kind})")
            loose -= set(driver.coils)
    said += [_bracketed(p, drivers) for p in wiring.parts if p.coil is None or p.coil.name in loose]
    return f"{listed(said)} in {wiring.kind}"


def _bracketed(part: Wiring, drivers: Sequence[NamedDriver]) -> str:
    words = _named(part, drivers)
    return f"({words})" if words.endswith((" in series", " in parallel")) else words
