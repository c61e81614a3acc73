"""Rules on how loud the bands of a corner are against each other."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document.edits import Edit
from ohmack.core.document.handles import at
from ohmack.core.figures.finding import Draft, Remedy, note, rule, set_to
from ohmack.core.reference import PHYSICS
from ohmack.core.signal.balance import STEP_DB, balance_words
from ohmack.core.wording import amount, listed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

HEARD_DB = 3.0  # of difference between bands is plainly heard; common practice


def _turned_down(results: Results) -> Iterator[Edit]:
    """Edits that keep every band as it is turned down to be as loud as the least of its corner."""
    for one in results.balance:
        by_db = round(one.down.value or 0.0, 1)
        if by_db >= STEP_DB:
            path = at(one.load.link, lambda it: it.turned_down_db)
            yield set_to(path, round(one.load.link.turned_down_db + by_db, 1))


@rule("bands-unequal", "signal", PHYSICS)
def bands_unequal(results: Results) -> Iterator[Draft]:
    """With every gain at what its speaker takes, one band is plainly louder than the next."""
    loud = [one for one in results.balance if one.down.value is not None and one.down.value >= HEARD_DB]
    if loud:
        most = max(loud, key=lambda one: one.down.value or 0.0)
        yield note(
            at(most.load.link),
            f"{most.load.driver.part}: {amount(most.down.value, 'db')} louder than what plays beside it",
            "Every gain is set to what its speaker takes, and that does not sound even. To begin with turn down"
            f" {listed(balance_words(results.balance))} where the bands are split, in the processor or the amplifier,"
            " after the gains; the cabin changes it, so an analyser and the ear decide.",
            Remedy("Turn them down so", tuple(_turned_down(results))),
        )
