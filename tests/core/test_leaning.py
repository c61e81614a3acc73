"""A box that leans in its space: against Carver's theorem, and as the sheet says it."""

from __future__ import annotations

from math import sqrt

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.evaluation.door import evaluate
from ohmack.core.figures.finding import Severity
from ohmack.core.physics.fitting import block_spare_m, leaning
from ohmack.demo.building import measured
from ohmack.demo.jobs import demo_design, demo_jobs

EDGE = st.floats(0.1, 1.0)


def goes_in(p: float, q: float, a: float, b: float) -> bool:
    """Whether a rectangle p by q goes into one a by b: W. B. Carver, Solution to problem E 1225, Amer. Math. Monthly 64
    (1957) 114 to 116 (from memory).
    """
    p, q, a, b = max(p, q), min(p, q), max(a, b), min(a, b)
    if p <= a and q <= b:
        return True
    return p > a and q <= b and b >= (2 * p * q * a + (p * p - q * q) * sqrt(p * p + q * q - a * a)) / (p * p + q * q)


@given(EDGE, EDGE, EDGE, EDGE)
def test_a_box_leans_in_where_carvers_theorem_says_so(p: float, q: float, a: float, b: float) -> None:
    spare, _ = leaning((p, 0.1, q), (a, 0.1, b))
    assume(abs(spare) > 1e-3)
    upright = min(p, q) <= min(a, b) and max(p, q) <= max(a, b)
    assume(upright == (block_spare_m((p, 0.1, q), (a, 0.1, b)) >= 0))  # laid on its side is a box of other sizes
    assert (spare >= 0) == goes_in(p, q, a, b)


def test_what_stands_best_does_not_lean() -> None:
    assert leaning((0.3, 0.5, 0.3), (0.4, 0.6, 0.4)) == (pytest.approx(0.1), 0.0)
    spare, angle = leaning((1.05, 0.2, 0.05), (1.0, 0.3, 0.5))  # a board longer than the floor leans against the back
    assert spare > 0
    assert 0 < angle < 45


def test_the_sheet_says_by_how_much_it_leans() -> None:
    number = next(n for n, job in enumerate(demo_jobs()) if job.title.startswith("Bass behind the seat, out"))
    space = "vehicle/spaces/space-rear"
    design = apply_edits(
        demo_design(number),
        [
            Edit(path="parts/bass/height_m", value=0.56),
            measured(f"{space}/length_m", 0.55),
            measured(f"{space}/height_m", 0.5),
        ],
    )
    result = evaluate(design)
    fit = next(f for f in result.results.fits if f.part_id == "bass")
    assert fit.checks[0].name.startswith("In its space, leaning")
    assert fit.checks[0].state in ("good", "tight")
    assert not [f for f in result.findings if f.rule == "fit" and f.severity is Severity.STOP]
    narrow = evaluate(apply_edits(design, [measured(f"{space}/length_m", 0.17)]))
    assert [f for f in narrow.findings if f.rule == "fit" and f.severity is Severity.STOP]
    force = result.figures["bass/restraint_n"].value
    assert force == pytest.approx(11.5 * 9.80665 * 20), "mass × g × 20, common practice"
