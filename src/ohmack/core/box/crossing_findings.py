"""Rules on where a subwoofer meets the speakers in front."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document.handles import at
from ohmack.core.figures.finding import Draft, Remedy, note, rule, set_to
from ohmack.core.loads.bench import coils_on, reversed_at
from ohmack.core.reference import PRACTICE
from ohmack.core.wording import amount

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

HOLE_DB = -4.0  # a sum lower than this round the crossing is heard as a hole
WORTH_DB = 3.0  # reversing has to bring this much to be proposed; both common practice


@rule("crossing-hole", "signal", PRACTICE)
def crossing_hole(results: Results) -> Iterator[Draft]:
    """Subwoofer and front take from each other where they meet, and would not with polarity reversed."""
    for met in results.meetings:
        dip, other = met.dip.value, met.reversed_dip.value
        if dip is None or other is None or met.crossing.value is None or dip >= HOLE_DB or other < dip + WORTH_DB:
            continue
        names = [coil.name for coil in coils_on(met.load)]
        yield note(
            f"{met.load.scope}/crossing_dip_db",
            f"{met.load.driven_name} and {met.front} would leave a hole of {amount(-dip, 'db')} near"
            f" {met.crossing.value:.0f} Hz",
            f"By filters, box{' and the plan' if met.later is not None else ''}; with its polarity reversed the lowest"
            f" is {amount(other, 'db')}. A cabin changes it: play both ways at the crossing, and keep the louder.",
            Remedy(
                "Reverse the subwoofer",
                (set_to(at(met.load.link, lambda it: it.wiring), reversed_at(met.load, names)),),
            ),
        )
