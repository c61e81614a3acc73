"""Demo jobs in the bay: one half taken apart, some closed with their count, some booked, one whose quote was agreed."""

from __future__ import annotations

from datetime import date, timedelta

from ohmack.core.build.holes import BORES
from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.part import Stands
from ohmack.core.evaluation.door import evaluate
from ohmack.core.planning.arriving import brought_to
from ohmack.core.planning.booking import book
from ohmack.core.planning.work import accept_quote, mark_done, take_off

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


WORKED = {
    "The wasp in the old radio": 1.15, "Bass from the rear leads": 0.9, "Thirty years, one new radio": 1.05,
}  # fmt: skip  # finished jobs, and how long their steps took over the middle of the estimate
HERE = (
    "Bass behind the seat, out in winter", "Five channels, four doors and a box", "A box across the back wall",
)  # fmt: skip
LEAD_DAYS = {"Voices beside the ears": 5}  # what the supplier said of every part
BOOKED: dict[str, tuple[int, int, int, int]] = {
    "Bass behind the seat, out in winter": (1, 0, 8, 1), "Five channels, four doors and a box": (2, 1, 8, 3),
    "Voices beside the ears": (1, 2, 10, 4), "A box across the back wall": (1, 1, 13, 2),
}  # fmt: skip  # bay, working days from Monday, hour, due that many working days from Monday
DRILLED = {"looked_for": "inner wing, nothing behind", "sealed": "zinc primer, grommet, wax", "undone_by": "blind plug"}


def begun(design: Design, title: str, monday: date) -> tuple[tuple[str, tuple[Edit, ...]], ...]:
    """The rounds in which a demo job goes through the bay: parts come in, it is booked, it is worked on and closed.

    Parameters:
        design: the job as it was planned.
        title: which job.
        monday: of the week the demo shop is looked at.
    """
    rounds: list[tuple[str, tuple[Edit, ...]]] = []
    if title in WORKED or title in HERE:
        arrived = brought_to(design, Stands.HERE)
        rounds.append(("everything is here", arrived))
        design = apply_edits(design, arrived)
    if title in LEAD_DAYS:
        said = tuple(Edit(path=f"parts/{p.id}/lead_days", value=LEAD_DAYS[title]) for p in design.parts)
        rounds.append(("lead times asked for", said))
        design = apply_edits(design, said)
    if title == "Five channels, four doors and a box":
        paid = [Edit(path=f"parts/{p.id}/cost_price", value=round(p.price * 0.64, 2)) for p in design.parts if p.price]
        rounds.append(("what the parts cost the shop", tuple(paid)))
        rounds.append(("quote agreed", accept_quote(design, evaluate(design).results.quote, "Linnet Aske", "", WHEN)))
    if title in BOOKED:
        bay, day, hour, due = BOOKED[title]
        starts = f"{(monday + timedelta(days=day)).isoformat()}T{hour:02d}:00"
        rounds.append(("booked", book(design, bay, starts, (monday + timedelta(days=due)).isoformat())))
    if title in WORKED:
        rounds.append(("the work in the bay", _closed(design, WORKED[title])))
    return tuple(rounds)


def _closed(design: Design, over: float) -> tuple[Edit, ...]:
    """Every step done, everything that came off counted out and in, every hole noted."""
    edits: list[Edit] = []
    for n, planned in enumerate(evaluate(design).results.work_plan.steps):
        step = planned.step
        minutes = round(step.minutes * over * (1 + 0.06 * (n % 5 - 2)), 0)
        mark = {"id": f"mark-{n}", "step": step.id, "done": True, "minutes": minutes, "when": WHEN}
        edits.append(Edit(op="add", path="work/marks", value={**mark, **step.timed_as}))
        if step.takes_off:
            held = {"fasteners": 2 + n % 4, "clips": n % 6, "plugs": n % 3}
            back = {f"{name}_back": number for name, number in held.items()}
            tree = {
                "id": f"off-{n}",
                "step": step.id,
                "name": step.takes_off,
                "kind": "7 mm",
                "tray": "A",
                "when": WHEN,
            }
            edits.append(Edit(op="add", path="work/taken", value={**tree, **held, **back, "back": True}))
        if step.one_shot and step.kind in BORES:
            hole = {"id": f"hole-{n}", "step": step.id, "name": step.what[:100], "diameter_mm": 14.0, "when": WHEN}
            edits.append(Edit(op="add", path="work/holes", value={**hole, **DRILLED}))
    return tuple(edits)
