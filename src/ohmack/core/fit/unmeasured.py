"""A part that does not go in by sizes nobody read in this car."""

from __future__ import annotations

from collections.abc import Sequence

from ohmack.core.document import Basis, Design, Fact
from ohmack.core.document.paths import get
from ohmack.core.figures.figure import Formula, Term
from ohmack.core.fit.clearances import FitCheck


def to_measure(design: Design, check: FitCheck) -> Term | None:
    """The size to read before another part is looked for.

    Parameters:
        design: the design.
        check: of a part in its place, too small or tight.

    Returns:
        of the assumed sizes of the car the one that gives most room by itself, were it as large as it may be; None
        where nothing is assumed, or with all of them that large the part would not go in.
    """
    by, terms = check.spare.made_by, check.spare.inputs
    most = {n: high for n, term in enumerate(terms) if (high := _at_most(design, term)) is not None}
    if not isinstance(by, Formula) or check.spare.value is None or not most:
        return None

    def spare(larger: Sequence[int]) -> float:
        return float(by.compute(*(most[n] if n in larger else term.value for n, term in enumerate(terms))))

    if spare(list(most)) < 0:
        return None
    return terms[max(most, key=lambda n: spare([n]))]


def _at_most(design: Design, term: Term) -> float | None:
    """How large an assumed size of the car may turn out; None of what was read, of a part, or of what is planned."""
    if term.basis is not Basis.ASSUMED or not term.path.startswith("vehicle/"):
        return None
    fact = get(design, term.path)
    if not isinstance(fact, Fact) or not isinstance(fact.high, float) or fact.high <= (fact.value or 0.0):
        return None
    return fact.high
