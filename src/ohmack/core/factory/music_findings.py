"""The rule on factory amplifiers no music reaches any more."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.factory.functions import Fate
from ohmack.core.figures.finding import Draft, find_part, rule, stop
from ohmack.core.reference import PRACTICE
from ohmack.core.wording import count

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


@rule("amplifier-unfed", "signal", PRACTICE)
def amplifier_unfed(results: Results) -> Iterator[Draft]:
    """A factory amplifier stays, and no music reaches it any more."""
    for verdict in results.music:
        if verdict.fate is not Fate.LOST:
            continue
        module = verdict.amplifier
        yield stop(
            module.id,
            f"{module.name} stays, and nothing feeds it",
            f"{verdict.why[0].upper()}{verdict.why[1:]}; {count(len(module.channels), 'pair')} behind it fall silent. A"
            " new radio needs an adapter made for this amplifier.",
            find_part("Find one", "accessory"),
        )
