"""A demo job half taken apart: steps done in so many minutes, panels off with their screws in trays."""

from __future__ import annotations

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.evaluation.door import evaluate
from ohmack.core.planning.work import mark_done, take_off

WHEN = "2026-11-26"
DONE = (("try-all", 8.0), ("note", 4.0), ("battery-off", 9.0))
OFF: dict[str, dict[str, object]] = {
    "off-radio": {"fasteners": 4, "kind": "7 mm, long", "tray": "A", "plugs": 3, "note": "aerial plug is stiff"},
    "off-sill-left": {"clips": 5, "clips_in_body": 2, "fasteners": 1, "kind": "T20", "tray": "B"},
}


def taken_apart(design: Design) -> tuple[tuple[str, tuple[Edit, ...]], ...]:
    """The rounds in which the work is begun, as far as the job has those steps."""
    rounds: list[tuple[str, tuple[Edit, ...]]] = []
    for name, minutes in DONE:
        plan = evaluate(design).results.work_plan
        edits = mark_done(design, plan, name, True, minutes, WHEN)
        design = apply_edits(design, edits)
        rounds.append((f"step done: {name}", edits))
    for name, values in OFF.items():
        plan = evaluate(design).results.work_plan
        if plan.named(name) is None:
            continue
        edits = take_off(design, plan, name, values, WHEN)
        design = apply_edits(design, edits)
        rounds.append((f"taken off: {edits[0].value['name']}", edits))
    return tuple(rounds)
