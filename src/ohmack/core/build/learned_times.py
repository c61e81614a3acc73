"""What kinds of steps took in the shop's own jobs: median and spread, and how many jobs they rest on."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from statistics import median, quantiles

from ohmack.core.record import record

LEAST_JOBS = 3  # below it a spread says nothing


@record
class Took:
    """A step that was timed: of which kind, in which job, on which car, how long."""

    kind: str
    job: int
    make: str
    model: str
    minutes: float


@record
class Learned:
    """What a kind of step took."""

    kind: str
    jobs: int
    this_car: bool  # whether only cars of this kind were counted
    low_min: float  # a quarter took less
    median_min: float
    high_min: float  # a quarter took more

    @property
    def enough(self) -> bool:
        """Whether it rests on enough jobs to plan with."""
        return self.jobs >= LEAST_JOBS


def learned_times(took: Iterable[Took], make: str, model: str) -> list[Learned]:
    """What kinds of steps took, those of this kind of car alone where they are enough.

    Parameters:
        took: every step that was timed in the shop's other jobs.
        make: of the car.
        model: of the car.

    Returns:
        a row a kind, by its name. Quartiles by straight interpolation with the ends counted in (type 7 of Hyndman and
        Fan, 1996).
    """
    kinds: dict[str, list[Took]] = {}
    for one in took:
        if one.kind:
            kinds.setdefault(one.kind, []).append(one)
    return [_learned(kind, rows, make, model) for kind, rows in sorted(kinds.items())]


def _learned(kind: str, rows: Sequence[Took], make: str, model: str) -> Learned:
    same = [r for r in rows if (r.make, r.model) == (make, model)]
    this_car = len({r.job for r in same}) >= LEAST_JOBS
    counted = same if this_car else rows
    minutes = sorted(r.minutes for r in counted)
    low, _, high = quantiles(minutes, n=4, method="inclusive") if len(minutes) > 1 else minutes * 3
    return Learned(kind, len({r.job for r in counted}), this_car, low, median(minutes), high)
