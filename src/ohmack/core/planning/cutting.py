"""The edits of what is cut into the car: holes noted, openings drawn."""

from __future__ import annotations

from collections.abc import Mapping

from ohmack.core.build.work_plan import WorkPlan
from ohmack.core.document import Design
from ohmack.core.document.edits import Edit
from ohmack.core.document.handles import at_the
from ohmack.core.document.ids import free_id
from ohmack.core.document.work import Opening, OpeningKind, Work
from ohmack.core.errors import NotPossible

HOLES = at_the(Work, lambda it: it.holes)
OPENINGS = at_the(Work, lambda it: it.openings)


def note_hole(
    design: Design, plan: WorkPlan, step_id: str, values: Mapping[str, object], when: str
) -> tuple[Edit, ...]:
    """Note a hole that was made.

    Parameters:
        design: the design.
        plan: its work.
        step_id: the step that makes it; empty for one that nobody planned.
        values: fields of `Hole`.
        when: date.

    Returns:
        the edits; an earlier note of the same step goes.

    Raises:
        NotPossible: a hole nobody planned without a place.
    """
    here = plan.named(step_id) if step_id else None
    name = str(values.get("name") or (here.step.what if here is not None else "")).strip()
    if not name:
        raise NotPossible("name", "Say where the hole is.")
    old = [h for h in design.work.holes if step_id and h.step == step_id]
    tree = {**values, "id": free_id("hole", {h.id for h in design.work.holes}), "step": step_id, "name": name[:110],
            "when": when}  # fmt: skip
    return (*(Edit(op="remove", path=f"{HOLES}/{h.id}") for h in old), Edit(op="add", path=HOLES, value=tree))


def draw_opening(
    design: Design, name: str, kind: OpeningKind, width_mm: float | None, height_mm: float | None,
    inner_mm: float | None, gap_mm: float, corner_mm: float,
) -> tuple[Edit, ...]:  # fmt: skip
    """Draw something the shop cuts by a template.

    Parameters:
        design: the design.
        name: what for.
        kind: its shape.
        width_mm: width, diameter, or spacing of holes [mm].
        height_mm: height, or the spacing the other way; None for the same [mm].
        inner_mm: inner diameter of a ring, or of holes [mm].
        gap_mm: left free on each side [mm].
        corner_mm: radius of the corners [mm].

    Returns:
        the edit.

    Raises:
        NotPossible: no name, no size, or sizes that do not go together.
    """
    if not name.strip():
        raise NotPossible("name", "Say what it is for.")
    if width_mm is None or not 0 < width_mm <= 2000 or not 0 < (height_mm or width_mm) <= 2000:
        raise NotPossible("width_mm", "Its size is wanted: up to 2000 mm.")
    if kind in (OpeningKind.RING, OpeningKind.HOLES) and inner_mm is None:
        raise NotPossible("inner_mm", "The inner diameter is wanted.")
    for value, words, most in ((gap_mm, "The gap", 50), (corner_mm, "The corner", 200), (inner_mm or 1, "It", 2000)):
        if not 0 <= value <= most:
            raise NotPossible("gap_mm", f"{words} is at most {most} mm.")
    drawn = Opening.model_construct(
        id=free_id("opening", {o.id for o in design.work.openings}), name=name.strip()[:110], kind=kind,
        width_mm=width_mm, height_mm=height_mm, inner_mm=inner_mm, gap_mm=gap_mm, corner_mm=corner_mm,
    )  # fmt: skip
    if drawn.trouble:
        raise NotPossible("width_mm", drawn.trouble)
    return (Edit(op="add", path=OPENINGS, value=drawn.model_dump(mode="json")),)
