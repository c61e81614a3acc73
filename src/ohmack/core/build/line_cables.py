"""Line cables bought ready made: which line run each of them is laid in, and what none is left for."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from ohmack.core.build.lists import SCREENED, WireRow
from ohmack.core.document.parts import LineCable
from ohmack.core.record import record

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


@record
class LaidIn:
    """Line cables against the line runs of a plan."""

    laid: tuple[tuple[LineCable, WireRow], ...]
    spare: tuple[LineCable, ...]  # a piece each, laid in no run
    open_rows: tuple[WireRow, ...]  # new line runs of known length no cable is left for


def lay_in(cables: Sequence[LineCable], rows: Sequence[WireRow]) -> LaidIn:
    """Give as many line runs as can be a cable that reaches.

    Parameters:
        cables: what was bought, each with its length [m] and its pieces; a cable with plugs is not cut.
        rows: line runs of known length [m].

    Returns:
        the longest run first, each the shortest cable that reaches: since a cable that reaches a long run reaches every
        shorter one, no other way serves more runs.
    """
    left = sorted((c for c in cables for _ in range(c.pieces)), key=lambda c: c.length_m)
    laid, missed = [], []
    for row in sorted(rows, key=lambda row: -(row.length_m or 0.0)):
        n = next((n for n, cable in enumerate(left) if cable.length_m >= (row.length_m or 0.0)), None)
        if n is None:
            missed.append(row)
        else:
            laid.append((left.pop(n), row))
    return LaidIn(tuple(laid), tuple(left), tuple(missed))


def lines_laid(results: Results) -> LaidIn:
    """The line cables of a plan against its new line runs.

    Parameters:
        results: the evaluated plan.

    Returns:
        what is laid where; runs whose length is not known are in none of it.
    """
    rows = [row for row in results.wire_rows if row.size == SCREENED and row.length_m is not None and not row.in_car]
    return lay_in([cable for cable in results.design.parts_of(LineCable) if not cable.in_car], rows)
