"""Rules on runs from a battery that lie side by side."""

from __future__ import annotations

from collections.abc import Iterator
from math import dist
from typing import TYPE_CHECKING

from ohmack.core.document.links import PowerLink
from ohmack.core.document.parts import DistributionBlock
from ohmack.core.figures.finding import Draft, find_part, note, rule
from ohmack.core.fit.runs import Run
from ohmack.core.reference import PRACTICE
from ohmack.core.wording import count, listed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

LONG_M = 2.0  # a shorter run is no trouble to lay twice; common practice
BESIDE_M = 1.5  # what a block feeds stands so near to each other; common practice


@rule("runs-side-by-side", "supply", PRACTICE)
def runs_side_by_side(results: Results) -> Iterator[Draft]:
    """Several long runs go from one battery to parts that stand beside each other, and no block parts one run."""
    design = results.design
    if any(design.parts_of(DistributionBlock)):
        return
    long: dict[str, list[Run]] = {}
    for link in design.links_of(PowerLink):
        run = results.runs[link.id]
        if not link.in_car and run.points and (run.length.value or 0.0) >= LONG_M:
            long.setdefault(link.from_id, []).append(run)
    for battery_id, runs in long.items():
        beside = [run for run in runs if _apart_m(runs[0], run) <= BESIDE_M]
        if len(beside) < 2:
            continue
        metres = listed([results.say(run.length.value or 0.0, "m") for run in beside])
        yield note(
            battery_id,
            f"{count(len(beside), 'run')} side by side, to {listed([run.end_name for run in beside])}",
            f"{metres}, each with its own way through the bulkhead and its own fuse. One main run to a fused block"
            " beside them is one cable and one fuse at the battery, and most often less copper; the block fuses the"
            " branches. Runs of their own keep one playing when the other's fuse is blown. Both are done.",
            find_part("Find a block", "distribution block"),
        )


def _apart_m(one: Run, other: Run) -> float:
    """How far apart two runs end [m]."""
    (*_, here), (*_, there) = one.points or (), other.points or ()
    return dist(here, there)
