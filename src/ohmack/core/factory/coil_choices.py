"""How the coils of a driver could be wired in the car's own place, each wiring judged against what was there."""

from __future__ import annotations

from math import log10

from ohmack.core.document import Design
from ohmack.core.document.parts import Subwoofer
from ohmack.core.factory.outputs import ChannelLoad, coil_wirings
from ohmack.core.figures.figure import Book
from ohmack.core.physics.speaker_loads import Wiring
from ohmack.core.record import record
from ohmack.core.wording import amount, digits


@record
class CoilChoice:
    """One wiring: its load, what a meter reads, how loud it is against before, and whether its amplifier permits it."""

    wiring: Wiring
    words: str
    load_ohm: float
    meter_ohm: float
    change_db: float | None
    permitted: bool
    chosen: bool
    reason: str


@record
class OwnPlace:
    """A driver of several coils in a place of the car, with every way to wire it."""

    sub: Subwoofer
    place: str
    choices: tuple[CoilChoice, ...]

    @property
    def chosen(self) -> CoilChoice | None:
        """The wiring that is taken; None where its load is not known."""
        return next((choice for choice in self.choices if choice.chosen), None)


def own_places(design: Design, book: Book, rows: list[ChannelLoad]) -> tuple[OwnPlace, ...]:
    """Every driver of several coils that takes a place of the car.

    Parameters:
        design: the design.
        book: its figures, the wiring taken among them.
        rows: what each factory output drives.

    Returns:
        one entry a driver and place; loads [ohm], change of level at equal voltage 10 log10(Z before / Z now) [db].
        Source: textbook circuit theory.
    """
    found = []
    for sub in design.parts_of(Subwoofer):
        for speaker in (s for s in design.vehicle.speakers if s.id in sub.at_ids and len(sub.coils) > 1):
            row = next((r for r in rows if speaker.id in {s.id for s in r.speakers}), None)
            taken = book.figures.get(f"{sub.id}/{speaker.id}/coils_ohm")
            if row is not None and len(row.speakers) == 1:
                key = taken.read_from.key() if taken is not None and isinstance(taken.read_from, Wiring) else ""
                choices = tuple(_judged(wiring, row, key) for wiring in coil_wirings(sub))
                found.append(OwnPlace(sub, speaker.name, choices))
    return tuple(found)


def _judged(wiring: Wiring, row: ChannelLoad, key: str) -> CoilChoice:
    load_ohm, least_ohm = wiring.resistance_ohm(), row.lowest.value
    before_ohm = row.was.value if row.was is not None else None
    change_db = 10 * log10(before_ohm / load_ohm) if before_ohm else None
    permitted = least_ohm is None or load_ohm >= least_ohm * (1 - 1e-9)
    if not permitted:
        reason = f"under the {amount(least_ohm or 0.0, 'ohm')} its amplifier wants"
    elif change_db is None:
        reason = "its amplifier permits it"
    elif abs(change_db) < 0.5:
        reason = "as the old driver was"
    else:
        less = "quieter" if change_db < 0 else "louder"
        reason = f"{digits(abs(change_db), 2, 1)} dB {less} than the old driver, at equal voltage"
    return CoilChoice(
        wiring,
        wiring.words(),
        load_ohm,
        wiring.resistance_ohm(dc=True),
        change_db,
        permitted,
        wiring.key() == key,
        reason,
    )
