"""Rules on rating tables that cannot be true."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING

from ohmack.core.document.amplifiers import Amplifier, Rating
from ohmack.core.document.handles import at
from ohmack.core.figures.finding import Draft, Remedy, rule, watch
from ohmack.core.reference import PHYSICS
from ohmack.core.wording import amount

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

ROUNDED = 1.05  # papers round: a voltage falls by less than this is none; common practice


@rule("rating-table", "loads", PHYSICS)
def rating_table(results: Results) -> Iterator[Draft]:
    """More power into a higher load, or less voltage: one of two rows of a rating table is wrong."""
    for amplifier in results.design.parts_of(Amplifier):
        for where, rows in _tables(amplifier):
            for low, high in _wrong(rows):
                yield watch(
                    where,
                    f"{amplifier.name}: {amount(low.power_w, 'w')} into {amount(low.load_ohm, 'ohm')} and"
                    f" {amount(high.power_w, 'w')} into {amount(high.load_ohm, 'ohm')} do not go together",
                    _why(low, high),
                    Remedy("Look at the ratings", path=where),
                )
                break


def _tables(amplifier: Amplifier) -> Iterator[tuple[str, Sequence[Rating]]]:
    yield at(amplifier, lambda it: it.ratings), amplifier.ratings
    yield at(amplifier, lambda it: it.bridged_ratings), amplifier.bridged_ratings
    if amplifier.further_count:
        yield at(amplifier, lambda it: it.further_ratings), amplifier.further_ratings
        yield at(amplifier, lambda it: it.further_bridged_ratings), amplifier.further_bridged_ratings


def _wrong(rows: Sequence[Rating]) -> Iterator[tuple[Rating, Rating]]:
    ordered = sorted(rows, key=lambda row: row.load_ohm)
    for low, high in zip(ordered, ordered[1:], strict=False):
        if high.power_w > low.power_w * ROUNDED or _volts(low) > _volts(high) * ROUNDED:
            yield low, high


def _volts(row: Rating) -> float:
    return float((row.power_w * row.load_ohm) ** 0.5)


def _why(low: Rating, high: Rating) -> str:
    if high.power_w > low.power_w:
        return "An output gives no more into a higher load than into a lower one. Check both rows."
    return (
        f"That would be {amount(_volts(low), 'v')} into the lower load and only {amount(_volts(high), 'v')} into the"
        " higher one: voltage never falls as the load rises. Check both rows."
    )
