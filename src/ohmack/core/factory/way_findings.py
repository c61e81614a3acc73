"""Rules on the way that was chosen: whether what it lives on is among the parts."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document.parts import Accessory
from ohmack.core.document.strategy import StrategyKey
from ohmack.core.factory.way_acts import needs_of
from ohmack.core.figures.finding import BESIDE, Draft, find_part, rule, stop
from ohmack.core.reference import PRACTICE

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

# What the music of a way comes through, or its moved radio hangs on; rings, aerials and buses are asked for by what
# they carry.
LIVES_ON = {
    "line adapter": "Nothing else joins the new radio's line outputs to what it is to play through.",
    "amplifier adapter": "Nothing else brings the new amplifier what the car plays.",
    "extension loom": "The radio that is moved and stays alive hangs on it.",
}


@rule("way-lacks", "plan", PRACTICE)
def way_lacks(results: Results) -> Iterator[Draft]:
    """The way that was chosen wants a part that nobody picked."""
    design = results.design
    if design.strategy is None or design.strategy is StrategyKey.NEW_RADIO:
        return  # what a new radio alone feeds is asked for by what it leaves silent
    there = {part.category for part in design.parts_of(Accessory)}
    for role in dict.fromkeys(needs_of(design, design.strategy, ())):
        if role in LIVES_ON and role not in there:
            yield stop(
                f"{design.strategy.value}/{role}",
                f"{design.strategy.value.capitalize()}: no {role} among the parts",
                LIVES_ON[role],
                find_part("Find one", "accessory", BESIDE),
            )
