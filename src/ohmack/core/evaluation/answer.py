"""The shape of the answer: figures, findings, what to measure first, what moved, the verdict."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any

from ohmack.core.document import Design
from ohmack.core.evaluation.results import Results
from ohmack.core.figures.figure import Figure
from ohmack.core.figures.finding import OF_THE_CAR, Finding, Severity
from ohmack.core.record import record


@dataclass(frozen=True)
class Measure:
    """One fact worth measuring before ordering, and what it could change."""

    path: str
    name: str
    owner: str
    unit: str
    value: Any
    low: Any
    high: Any
    alternatives: tuple[Any, ...]
    stops: tuple[str, ...]
    watches: tuple[str, ...]
    parts: tuple[str, ...]
    flips_at: Callable[[], str] = field(compare=False, repr=False)
    how: str
    minutes: int
    where: str
    plans: tuple[str, ...] = ()  # the likely ways that would ask for it, while nothing is planned
    wish: str = ""  # why the customer's wishes or this car's past make it the first thing to know

    @cached_property
    def threshold(self) -> str:
        """Where the decision flips, in words; looked for when it is first asked for."""
        return self.flips_at()

    @property
    def consequence(self) -> tuple[int, int, int, int]:
        """Sort key, most consequential first; among equals the quickest to measure."""
        weight = -100 * bool(self.stops) - 10 * bool(self.parts) - 50 * bool(self.wish)
        return (weight, -len(self.stops) - len(self.parts), -len(self.plans), self.minutes)


@record
class Verdict:
    """Where the design stands, and why. `state` is one of nothing, stopped, open, ready, unchecked."""

    state: str = "unchecked"
    headline: str = ""
    detail: str = ""
    sheet: str = "order"  # where it is looked at

    @property
    def of_the_car(self) -> bool:
        """Whether it speaks of a car that is wired, and no longer of what is to be ordered."""
        return self.sheet in OF_THE_CAR


@record
class Moved:
    """One figure that is not what it was."""

    figure_id: str
    name: str
    before: str
    after: str


@dataclass(frozen=True)
class Evaluation:
    """Everything Ohmack says about one design."""

    design: Design
    figures: dict[str, Figure]
    findings: tuple[Finding, ...]
    results: Results
    measure_first: tuple[Measure, ...] | None = None
    moved: tuple[Moved, ...] = ()
    verdict: Verdict = field(default_factory=Verdict)
    later_ids: frozenset[str] = frozenset()  # parts and links of a later phase

    @property
    def whole(self) -> Evaluation:
        """The same with the parts of a later phase, for the picture of the plan; findings and verdict stay today's."""
        later = self.results.later
        return self if later is None else replace(self, results=later, figures=later.book.figures)

    def count(self, severity: Severity, stage: str | None = None) -> int:
        """How many findings of a severity, in one stage or in all."""
        return sum(f.severity is severity and (stage is None or f.stage == stage) for f in self.findings)

    def figure(self, figure_id: str) -> Figure | None:
        """A figure by id."""
        return self.figures.get(figure_id)
