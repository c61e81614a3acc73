"""What reaches the speakers that play beside others behind capacitors, against what they take."""

from __future__ import annotations

from collections.abc import Sequence

from ohmack.core.figures.figure import Book, Figure, Formula
from ohmack.core.loads.driven import Driven
from ohmack.core.loads.wirings import MATCH, LoadResult
from ohmack.core.record import record
from ohmack.core.reference import PHYSICS

REACHES = Formula("Power over its capacitor's corner", "w", "V² / Z", lambda volts, ohm: volts**2 / ohm, PHYSICS)


@record
class Beside:
    """One speaker behind a capacitor, on an output whose power is judged by the others."""

    load: LoadResult
    driven: Driven
    power: Figure
    match: Figure


def compute_beside(book: Book, loads: Sequence[LoadResult]) -> list[Beside]:
    """Every speaker behind a capacitor on an amplifier's output.

    Parameters:
        book: the book of the design.
        loads: its outputs.

    Returns:
        one entry a speaker: what reaches it over its corner at full level [w], and that over what it takes
        [percent].

    Source: in parallel every branch has the whole voltage: textbook.
    """
    found = []
    for load in loads:
        for driven in load.beside:
            scope = f"{load.scope}/{driven.id}"
            power = book.figure(
                f"{scope}/beside_w", REACHES, load.full_scale, driven.terms[0],
                name=f"Power over its capacitor's corner, {driven.name}",
            )  # fmt: skip
            name = f"{driven.name}: that power over what it takes"
            match = book.figure(f"{scope}/beside_percent", MATCH, power, driven.takes, name=name)
            found.append(Beside(load, driven, power, match))
    return found
