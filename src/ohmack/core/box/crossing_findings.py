"""Rules on where a subwoofer meets the speakers in front."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document.handles import at
from ohmack.core.figures.finding import Draft, Remedy, note, rule, set_to
from ohmack.core.loads.bench import coils_on, turned_round
from ohmack.core.reference import PRACTICE
from ohmack.core.wording import amount

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

HOLE_DB = -4.0  # a sum lower than this round the crossing is heard as a hole
WORTH_DB = 3.0  # turning round has to bring this much to be proposed; both common practice


@rule("crossing-hole", "signal", PRACTICE)
def crossing_hole(results: Results) -> Iterator[Draft]:
    """Subwoofer and front take from each other where they meet, and would not the other way round."""
    for met in results.meetings:
        dip, turned = met.dip.value, met.turned_dip.value
        if dip is None or turned is None or dip >= HOLE_DB or turned < dip + WORTH_DB:
            continue
        names = [coil.name for coil in coils_on(met.load)]
        yield note(
            f"{met.load.scope}/crossing_dip_db",
            f"{met.load.driven_name} and {met.front} would leave a hole of {amount(-dip, 'db')} near"
            f" {met.at_hz:.0f} Hz",
            f"By filters, box{' and the plan' if met.later_ms is not None else ''}; turned round the lowest is"
            f" {amount(turned, 'db')}. A cabin changes it: play both ways at the crossing, and keep the louder.",
            Remedy(
                "Turn the subwoofer round",
                (set_to(at(met.load.link, lambda it: it.wiring), turned_round(met.load, names)),),
            ),
        )
