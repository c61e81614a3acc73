"""Cars proved in a test: readings a sound car shows, exactly."""

from __future__ import annotations

from typing import Any

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.evaluation.door import evaluate
from ohmack.core.prove.car import Car
from ohmack.core.prove.checks import Check
from ohmack.core.prove.probes import Quantity, take


def reading(car: Car, check: Check, number: int = 0) -> Edit:
    """The edit that notes what a car shows at a check."""
    taken = take(car, check.probe)
    tree: dict[str, Any] = {"id": f"r-{number}", "check": check.id}
    if not check.is_read:
        tree["passed"] = taken is None or taken.passed
    elif taken is None:
        tree["value"] = check.planned if check.planned is not None else 30.0
    elif taken.over:
        tree["over"] = True
    else:
        tree["value"] = taken.value
    if check.probe.quantity is Quantity.DROP_MV:
        live = car.live(check.setting)
        tree["current_a"] = live.current_a.get(check.probe.subject) if live else None
    return Edit(op="add", path="proof/readings", value=tree)


def proved(design: Design, gates: tuple[int, ...] = (1, 2, 3), car: Car | None = None, but: str = "") -> Design:
    """A design with every check of some gates read, as this plan's sound car shows it or another car does."""
    results = evaluate(design).results
    checks = [j.check for g in results.proof.gates if g.number in gates for j in g.checks if j.check.id != but]
    begun = len(design.proof.readings)
    return apply_edits(design, [reading(car or results.car, check, n) for n, check in enumerate(checks, begun)])
