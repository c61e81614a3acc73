"""Figures and their workings: every number carries what it was computed from, its basis and its grade."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Any, TypeVar

from pydantic import BaseModel

from ohmack.core.document import Basis, Design, Fact
from ohmack.core.document.handles import at
from ohmack.core.document.part import PartBase
from ohmack.core.document.policy import Policy
from ohmack.core.errors import NoOperatingPoint, NotLaid, NotWired, OhmackError, OutOfRange
from ohmack.core.record import record
from ohmack.core.reference import Grade, Source
from ohmack.core.wording import without_engine

M = TypeVar("M", bound=BaseModel)
P = TypeVar("P", bound=PartBase)


@record
class Missing:
    """A fact or choice a figure needs and does not have."""

    path: str
    name: str


@record
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


_said: dict[int, tuple[Source, str]] = {}


def _shown(source: Source) -> str:
    known = _said.get(id(source))
    if known is None or known[0] is not source:
        known = _said[id(source)] = (source, str(source))
    return known[1]


@record
class Formula:
    """A formula on floats, declared once: what it gives, in which unit, how it is written, and where it is from."""

    name: str
    unit: str
    text: str
    compute: Callable[..., Any]
    source: Source | None = None

    @property
    def shown_source(self) -> str:
        """Where it is from, in words."""
        return _shown(self.source) if self.source else ""


@record
class Reading:
    """What is read off something solved or chosen as a whole, by name: a network's solution, a chooser's choice."""

    name: str
    unit: str
    text: str
    take: Callable[[Any], Any]
    source: Source | None = None
    tells: Callable[[Any], str] | None = None  # which of its choices what was solved is, said before the text

    def said_of(self, solved: Any) -> str:
        """How it is written, of what was solved."""
        if self.tells is None or solved is None or isinstance(solved, OhmackError):
            return self.text
        return f"{self.tells(solved)}: {self.text}"

    @property
    def shown_source(self) -> str:
        """Where it is from, in words."""
        return _shown(self.source) if self.source else ""


@record
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
    made_by: Formula | Reading | None = field(default=None, compare=False, repr=False)
    read_from: Any = field(default=None, compare=False, repr=False)  # what a reading was taken from

    def again(self) -> Any:
        """The value worked out anew from what is shown: a formula from its terms, a reading from what was solved."""
        if isinstance(self.made_by, Reading):
            return self.made_by.take(self.read_from)
        return self.made_by.compute(*(term.value for term in self.inputs)) if self.made_by else None

    @property
    def term(self) -> Term:
        """This figure as the input of another."""
        path = f"figure:{self.id}"
        return Term(
            self.name, self.value, self.unit, self.basis, self.grade, "computed", path, self.missing, self.refused
        )


def weakest_basis(terms: tuple[Term, ...]) -> Basis | None:
    """The weakest basis of some inputs."""
    found: Basis | None = None
    for term in terms:  # by identity: this runs for every figure, and hashing a word a thousand times is slow
        basis = term.basis
        if basis is Basis.ASSUMED:
            return basis
        if basis is not None and found is not Basis.DOCUMENTED:
            found = basis
    return found


def weakest_grade(terms: tuple[Term, ...], own: Source | None = None) -> Grade | None:
    """The weakest grade of some inputs and of the formula's own source."""
    found, worst = (own.grade, _WORSE[id(own.grade)]) if own is not None else (None, -1)
    for term in terms:
        grade = term.grade
        if grade is not None and grade is not found and _WORSE[id(grade)] > worst:
            found, worst = grade, _WORSE[id(grade)]
    return found


_WORSE = {id(grade): grade.rank for grade in Grade}  # members of an enumeration live as long as the program


@dataclass
class Book:
    """Collects the figures of one evaluation."""

    design: Design
    figures: dict[str, Figure] = field(default_factory=dict)

    def __post_init__(self) -> None:
        self._engine = self.design.vehicle.starts  # else nothing is said of one

    def fact(self, of: M, pick: Callable[[M], Fact[Any]], name: str, unit: str = "") -> Term:
        """A fact of a thing as an input; an unknown one makes what rests on it missing."""
        path, fact = at(of, pick), pick(of)
        name = name if self._engine else without_engine(name)
        gap = (Missing(path, name),) if fact.value is None else ()
        return Term(name, fact.value, unit, fact.basis, None, fact.basis.word.lower(), path, gap)

    def part(self, part: P, pick: Callable[[P], Any], name: str, unit: str = "") -> Term:
        """A value of a part's data sheet as an input."""
        path, value = at(part, pick), pick(part)
        gap = (Missing(path, f"{part.name}: {name}"),) if value is None else ()
        if part.taken_as_usual and path.rpartition("/")[2] in part.taken_as_usual:
            return Term(name, value, unit, Basis.ASSUMED, Grade.PRACTICE, "taken as usual", path, gap)
        return Term(name, value, unit, part.basis, None, part.name, path, gap)

    def policy(self, pick: Callable[[Policy], Any], name: str, unit: str = "") -> Term:
        """A policy value as an input."""
        value = pick(self.design.policy)
        return Term(name, value, unit, None, Grade.PRACTICE, "shop policy", at(self.design.policy, pick))

    def figure(self, figure_id: str, formula: Formula, *inputs: Term | Figure, name: str = "") -> Figure:
        """A figure by a formula; a missing input or a refused value is said, never guessed or left empty."""
        terms = tuple([item.term if isinstance(item, Figure) else item for item in inputs])
        return self._file(figure_id, formula, terms, formula.compute, [term.value for term in terms], None, name)

    def reading(self, figure_id: str, reading: Reading, solved: Any, *inputs: Term | Figure, name: str = "") -> Figure:
        """A figure read off something solved; an error in its place is why there is none. `inputs` are what it was
        solved from.
        """
        terms = tuple([item.term if isinstance(item, Figure) else item for item in inputs])
        return self._file(figure_id, reading, terms, _take, (reading, solved), solved, name)

    def _file(
        self,
        figure_id: str,
        by: Formula | Reading,
        terms: tuple[Term, ...],
        compute: Callable[..., Any],
        values: Sequence[Any],
        solved: Any,
        name: str,
    ) -> Figure:
        missing: dict[str, Missing] = {}
        cause: Term | None = None
        for term in terms:
            if term.missing:
                missing |= {gap.path: gap for gap in term.missing}
            elif term.value is None and cause is None:
                cause = term
        value, refused = None, ""
        if cause is not None and not missing:
            refused = cause.refused or f"{cause.name} has no value."
        elif not missing:
            try:
                value = compute(*values)
            except (OutOfRange, NoOperatingPoint, NotLaid, NotWired) as error:
                refused = str(error)
            if value is None and not refused:
                refused = f"{name or by.name} could not be worked out."
        called, text = name or by.name, by.said_of(solved) if isinstance(by, Reading) else by.text
        if not self._engine:
            called, text = without_engine(called), without_engine(text)
        figure = Figure(
            figure_id,
            called,
            value,
            by.unit,
            text,
            terms,
            by.shown_source,
            weakest_basis(terms),
            weakest_grade(terms, by.source),
            tuple(missing.values()),
            refused,
            cause is not None,
            made_by=by,
            read_from=solved,
        )
        self.figures[figure_id] = figure
        return figure


def _take(reading: Reading, solved: Any) -> Any:
    """What a reading says; the error it stands for where nothing was solved."""
    if isinstance(solved, OhmackError):
        raise solved
    return None if solved is None else reading.take(solved)


def fixed(name: str, value: Any, unit: str = "", path: str = "") -> Term:
    """A choice of the document as an input: no survey and no table stands behind it."""
    return Term(name, value, unit, None, None, "", path)


def reference(name: str, value: Any, unit: str, source: Source) -> Term:
    """A reference value as an input."""
    return Term(name, value, unit, None, source.grade, source.text)
