"""Proving a car: one reading judged, the whole proof of a car with two amplifiers, the next check of a search."""

from __future__ import annotations

from collections.abc import Callable

from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.proof import ProofReading, Symptom
from ohmack.core.evaluation.door import evaluate
from ohmack.core.prove.finder import Finder
from ohmack.core.prove.judged import judge
from ohmack.core.prove.windows import Windows
from ohmack.demo.jobs import demo_design, demo_jobs

TITLES = [job.title for job in demo_jobs()]
MANY = "Two bands, one front"  # about sixty causes


def prove_cases() -> list[tuple[str, Callable[[], object], int, str]]:
    """(name, work, times, aim)."""
    design = demo_design(TITLES.index("Two amplifiers, and lamps that dim"))
    read = apply_edits(
        design, [Edit(op="add", path="proof/readings", value={"id": "r", "check": "level/volts/amp", "value": 13.5})]
    )
    results = evaluate(read).results
    judged = results.proof.named("level/volts/amp")
    assert judged is not None
    reading = read.proof.readings[0]

    def one() -> object:
        return judge(results, judged.check, Windows(results.car), [(0, reading)], 0)

    searched = evaluate(demo_design(TITLES.index(MANY))).results
    said = ProofReading(id="a", check="live/post/battery/running", value=14.1)
    causes = len(Finder(searched).causes)
    return [
        ("a reading judged, its window worked out, two amplifiers, ms", one, 20, "under 40"),
        ("a proof of 89 checks, evaluation and all windows, ms", lambda: evaluate(read).results.proof.next_one, 10, ""),
        (f"the next check, {causes} causes and the likely pairs, anew, ms",
         lambda: Finder(searched).search([said], [Symptom.CUTS_OUT]), 5, "under 300"),
    ]  # fmt: skip
