"""Figures and their workings: every number carries what it was computed from, its basis and its grade."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from ohmack.core.document import Basis, Design, Fact
from ohmack.core.document.parts import PartBase
from ohmack.core.errors import NoOperatingPoint, OutOfRange
from ohmack.core.reference import Grade, Source


@dataclass(frozen=True, slots=True)
class Missing:
    """A fact or choice a figure needs and does not have."""

    path: str
    name: str


@dataclass(frozen=True, slots=True)
class Term:
    """One input of a working."""

    name: str
    value: Any
    unit: str = ""
    basis: Basis | None = None
    grade: Grade | None = None
    source: str = ""
    path: str = ""
    missing: tuple[Missing, ...] = ()
    refused: str = ""  # why it has no value, where it is itself a figure that was refused


@dataclass(frozen=True, slots=True)
class Figure:
    """A computed value with its working."""

    id: str
    name: str
    value: Any
    unit: str
    formula: str
    inputs: tuple[Term, ...]
    source: str
    basis: Basis | None
    grade: Grade | None
    missing: tuple[Missing, ...] = ()
    refused: str = ""
    inherited: bool = False  # refused only because an input was
    low: float | None = None
    high: float | None = None

    @property
    def term(self) -> Term:
        """This figure as the input of another."""
        path = f"figure:{self.id}"
        return Term(
            self.name, self.value, self.unit, self.basis, self.grade, "computed", path, self.missing, self.refused
        )


def _weakest_basis(terms: tuple[Term, ...]) -> Basis | None:
    found = [term.basis for term in terms if term.basis is not None]
    return min(found, key=lambda basis: basis.rank) if found else None


def _weakest_grade(terms: tuple[Term, ...], own: Source | None) -> Grade | None:
    found = [term.grade for term in terms if term.grade is not None] + ([own.grade] if own else [])
    return max(found, key=lambda grade: grade.rank) if found else None


@dataclass
class Book:
    """Collects the figures of one evaluation."""

    design: Design
    figures: dict[str, Figure] = field(default_factory=dict)

    def fact(self, path: str, name: str, fact: Fact[Any], unit: str = "") -> Term:
        """A fact as an input; an unknown one makes what rests on it missing."""
        gap = (Missing(path, name),) if fact.value is None else ()
        return Term(name, fact.value, unit, fact.basis, None, fact.basis.word.lower(), path, gap)

    def part(self, part: PartBase, attribute: str, name: str, unit: str = "") -> Term:
        """A value of a part's data sheet as an input."""
        value = getattr(part, attribute)
        path = f"parts/{part.id}/{attribute}"
        gap = (Missing(path, f"{part.name}: {name}"),) if value is None else ()
        return Term(name, value, unit, part.basis, None, part.name, path, gap)

    def policy(self, attribute: str, name: str, unit: str = "") -> Term:
        """A policy value as an input."""
        value = getattr(self.design.policy, attribute)
        return Term(name, value, unit, None, Grade.PRACTICE, "shop policy", f"policy/{attribute}")

    def derive(
        self,
        figure_id: str,
        name: str,
        unit: str,
        formula: str,
        compute: Callable[..., Any],
        *inputs: Term | Figure,
        source: Source | None = None,
    ) -> Figure:
        """Compute a figure from its inputs; a missing input or a refused value is said, never guessed or left empty."""
        terms = tuple(item.term if isinstance(item, Figure) else item for item in inputs)
        missing: dict[str, Missing] = {gap.path: gap for term in terms for gap in term.missing}
        value, refused = None, ""
        cause = next((term for term in terms if term.value is None and not term.missing), None)
        if cause is not None and not missing:
            refused = cause.refused or f"{cause.name} has no value."
        elif not missing:
            try:
                value = compute(*(term.value for term in terms))
            except (OutOfRange, NoOperatingPoint) as error:
                refused = str(error)
            if value is None and not refused:
                refused = f"{name} could not be worked out."
        figure = Figure(
            figure_id,
            name,
            value,
            unit,
            formula,
            terms,
            str(source) if source else "",
            _weakest_basis(terms),
            _weakest_grade(terms, source),
            tuple(missing.values()),
            refused,
            cause is not None,
        )
        self.figures[figure_id] = figure
        return figure


def reference(name: str, value: Any, unit: str, source: Source) -> Term:
    """A reference value as an input."""
    return Term(name, value, unit, None, source.grade, source.text)
