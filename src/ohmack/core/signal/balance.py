"""How loud the bands of one corner are against each other, with every gain at what its speaker takes."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from math import log10

from ohmack.core.document.handles import at
from ohmack.core.figures.figure import Book, Figure, Formula, fixed
from ohmack.core.loads.driven import new_driver
from ohmack.core.loads.wirings import LoadResult
from ohmack.core.record import record
from ohmack.core.reference import PHYSICS
from ohmack.core.signal.crossovers import next_above
from ohmack.core.signal.levels import SignalResult
from ohmack.core.wording import amount

LOUD = Formula(
    "Level at 1 m, at its target", "db", "sensitivity + 10 log₁₀(V² / Z)",
    lambda sensitivity, volts, ohm: sensitivity + 10 * log10(volts**2 / ohm), PHYSICS,
)  # fmt: skip
KEPT = Formula(
    "Level at 1 m, turned down",
    "db",
    "level at its target − what it was turned down by",
    lambda own, by: own - by,
    PHYSICS,
)
DOWN = Formula(
    "Turned down by, to begin with", "db", "own level − the least of its corner", lambda own, *all_: own - min(all_),
    PHYSICS,
)  # fmt: skip


@record
class Balanced:
    """One band of a corner: how loud it is at its target, or turned down since, and what it is still louder by than the
    rest.
    """

    load: LoadResult
    loud: Figure
    down: Figure


def compute_balance(book: Book, loads: Sequence[LoadResult], signals: Sequence[SignalResult]) -> list[Balanced]:
    """The bands of every corner whose woofers, midranges and tweeters have outputs of their own.

    Parameters:
        book: the book of the design.
        loads: every output with what it drives.
        signals: the ways of the signal, with what every output is set to.

    Returns:
        one entry a band, the lowest of a corner first; none where one speaker plays all of it. In the open, at 1 m:
        the cabin and the place of each change it.
    """
    full = {output.load.scope: output.figures["full"] for signal in signals for output in signal.outputs}
    above = {load.scope: next_above(book.design, load, loads) for load in loads}
    uppers = {one.scope for one in above.values() if one is not None}
    found: list[Balanced] = []
    for load in loads:
        bands = [load]
        while (upper := above[bands[-1].scope]) is not None:
            bands.append(upper)
        if load.scope not in uppers and len(bands) > 1 and all(one.scope in full for one in bands):
            found += _against_each_other(book, bands, full)
    return found


def _against_each_other(book: Book, bands: Sequence[LoadResult], full: dict[str, Figure]) -> list[Balanced]:
    louds = []
    for load in bands:
        part = new_driver(book.design, load.link.to_id)
        if part is None or len(load.driven) > 1:  # together they are louder, by where they sit
            return []
        behind = load.driver.sensitivity_db
        sensitivity = book.part(part, lambda it: it.sensitivity_db, "sensitivity", "db")
        if behind is not None and behind != part.sensitivity_db:
            sensitivity = fixed("sensitivity, behind its pad", behind, "db", at(part, lambda it: it.sensitivity_db))
        title = f"Level at 1 m, at its target, {load.driven_name}"
        loud = book.figure(f"{load.scope}/loud_db", LOUD, sensitivity, full[load.scope], load.load, name=title)
        if load.link.turned_down_db:
            path = at(load.link, lambda it: it.turned_down_db)
            by = fixed("turned down by", load.link.turned_down_db, "db", path)
            title = f"Level at 1 m, turned down, {load.driven_name}"
            loud = book.figure(f"{load.scope}/turned_down_db", KEPT, loud, by, name=title)
        louds.append(loud)
    return [
        Balanced(
            load,
            loud,
            book.figure(f"{load.scope}/down_db", DOWN, loud, *louds, name=f"Turned down by, {load.driven_name}"),
        )
        for load, loud in zip(bands, louds, strict=True)
    ]


def balance_words(balance: Sequence[Balanced]) -> list[str]:
    """Which speakers are turned down, and by how much; those that stay left out."""
    down = ((one.load.driver.part, one.down.value) for one in balance)
    said = [f"{name} by {amount(value, 'db')}" for name, value in down if value is not None and value >= STEP_DB]
    return list(dict.fromkeys(said))


def kept_words(loads: Iterable[LoadResult]) -> list[str]:
    """Which outputs are kept as turned down, and by how much."""
    kept = ((load.driven_name, load.link.turned_down_db) for load in loads)
    return [f"{name} by {amount(by_db, 'db')}" for name, by_db in kept if by_db]


STEP_DB = 0.5  # less is not set, and not heard; common practice
