"""A stranger with a car nobody has met: presses what is offered, reads what is asked, takes what goes in."""

from __future__ import annotations

from collections import Counter
from enum import Enum
from typing import Annotated, Any, get_args, get_origin
from urllib.parse import parse_qsl

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.facts import Fact
from ohmack.core.document.paths import get
from ohmack.core.errors import OhmackError
from ohmack.core.evaluation.answer import Evaluation
from ohmack.core.evaluation.door import evaluate
from ohmack.core.evaluation.sensitivity import fact_guide
from ohmack.core.figures.finding import Finding, Severity
from ohmack.core.planning.less_loss import edits_for, less_loss
from ohmack.core.planning.parts_tried import try_part, way_for
from ohmack.core.planning.remedies import edits_of

MOST_ACTS, MOST_READINGS, EACH = 40, 25, 5  # one finding may ask for four facts, one after another
# What such cars show, where the guide gives no range.
READS = {
    "opening_width_mm": 182.0, "opening_height_mm": 115.0, "opening_depth_mm": 200.0, "impedance_ohm": 4.0,
    "takes_w": 40.0, "reads_v": 12.6,
}  # fmt: skip


def reading(design: Design, path: str) -> Any:
    """What somebody reads where a fact is asked for: what was assumed, else the middle of what is usual."""
    fact, field = get(design, path), path.rsplit("/", 1)[-1]
    if not isinstance(fact, Fact):
        return None
    if field in READS:
        return READS[field]
    if fact.value is not None:
        return fact.value.value if isinstance(fact.value, Enum) else fact.value
    guide = fact_guide(field)
    if "low" in guide:
        return (guide["low"] + guide["high"]) / 2
    (kind, *_) = type(fact).__pydantic_generic_metadata__["args"] or (None,)
    if get_origin(kind) is Annotated:
        kind = get_args(kind)[0]
    if isinstance(kind, type) and issubclass(kind, Enum):
        return next(iter(kind)).value
    return {bool: True, float: 1.0, str: "2.5 mm2"}.get(kind)


def _read(design: Design, path: str) -> Design | None:
    value = reading(design, path)
    return (
        None if value is None else apply_edits(design, [Edit(path=path, value={"value": value, "basis": "measured"})])
    )


def _found(design: Design, answer: Evaluation, query: str, trees: list[dict[str, Any]]) -> Design | None:
    """The plan with the part of a kind that stops least."""
    asked = dict(parse_qsl(query))
    kind, instead = asked["kind"], asked.get("instead", "")
    way = way_for(design, kind)
    tries = [try_part(design, answer, tree, way, trees, instead) for tree in trees if tree["kind"] == kind]
    best = min((t for t in tries if t.after is not None), key=lambda t: t.rank, default=None)
    if best is None or best.after is None or best.same:
        return None
    if best.replaces and len(best.new_stops) > len(best.solved):  # no better than what is there
        return None
    return best.after.design


def _mended(design: Design, answer: Evaluation, found: Finding, trees: list[dict[str, Any]]) -> Design | None:
    """The plan after what one finding offers was done; None where it offers nothing a press or a reading does."""
    remedy = found.remedy
    if remedy is None:
        return None
    try:
        if remedy.applies:
            return apply_edits(design, edits_of(design, remedy))
        if remedy.path:
            return _read(design, remedy.path)
        if remedy.sheet == "find" and remedy.query.startswith("kind="):
            return _found(design, answer, remedy.query, trees)
        if remedy.sheet == "loss":
            cures = less_loss(answer, trees).cures
            first = next((c for c in cures if all(act.pressed for act in c.acts)), None)
            return None if first is None else apply_edits(design, edits_for(answer, first.key, trees))
    except OhmackError:
        return None
    return None


def without_a_stop(design: Design, trees: list[dict[str, Any]]) -> tuple[Design, int]:
    """The plan once everything that stops it was done, as far as somebody gets; how many acts that took."""
    tried = Counter[tuple[str, str, str]]()
    for acts in range(MOST_ACTS):
        answer = evaluate(design)
        for found in (f for f in answer.findings if f.severity is Severity.STOP):
            key = (found.rule, found.about, found.title)
            tried[key] += 1
            if tried[key] <= EACH and (after := _mended(design, answer, found, trees)) is not None:
                design = after
                break
        else:
            return design, acts
    return design, MOST_ACTS


def measured_first(design: Design) -> Design:
    """The plan once what is to be measured first was read, and showed what was assumed."""
    for _ in range(MOST_READINGS):
        first = evaluate(design, sweep_facts=True).measure_first or ()
        after = _read(design, first[0].path) if first else None
        if after is None:
            break
        design = after
    return design
