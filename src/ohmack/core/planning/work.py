"""The edits of the work: steps done, left out and put in; things taken off and put back."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from ohmack.core.build.quote import Quote, accepted_lines
from ohmack.core.build.steps import SEAT_OFF
from ohmack.core.build.teardown import counted, lacking
from ohmack.core.build.work_plan import WorkPlan
from ohmack.core.document import Design
from ohmack.core.document.edits import Edit
from ohmack.core.document.handles import at_the
from ohmack.core.document.ids import free_id
from ohmack.core.document.work import TakenOff, Work
from ohmack.core.errors import NotPossible
from ohmack.core.wording import listed

MARKS = at_the(Work, lambda it: it.marks)
TAKEN = at_the(Work, lambda it: it.taken)
OWN = at_the(Work, lambda it: it.own_steps)
MOST_MIN = 2000.0


def _marked(design: Design, step_id: str, values: Mapping[str, object]) -> tuple[Edit, ...]:
    """A step's mark with some of it changed; the old one goes."""
    old = next((m for m in design.work.marks if m.step == step_id), None)
    kept = old.model_dump(mode="json") if old is not None else {}
    tree = {**kept, "id": free_id("mark", {m.id for m in design.work.marks}), "step": step_id, **values}
    gone = (Edit(op="remove", path=f"{MARKS}/{old.id}"),) if old is not None else ()
    return (*gone, Edit(op="add", path=MARKS, value=tree))


def mark_done(
    design: Design, plan: WorkPlan, step_id: str, done: bool, minutes: float | None, when: str, held: str = ""
) -> tuple[Edit, ...]:
    """Note that a step is done, or is not after all.

    Parameters:
        design: the design.
        plan: its work.
        step_id: which step.
        done: whether it is done.
        minutes: how long it took; None for not noted [min].
        when: date.
        held: why the step waits for something else; empty where it does not.

    Returns:
        the edits.

    Raises:
        NotPossible: no such step, minutes below nothing, something it needs is not done, or it waits.
    """
    here = plan.named(step_id)
    if here is None:
        raise NotPossible("step", "That step is not on the list any more: the plan has changed.")
    if minutes is not None and not 0 <= minutes <= MOST_MIN:
        raise NotPossible("minutes", f"It cannot have taken {minutes:g} minutes.")
    if done:
        named = {p.step.id: p for p in plan.steps}
        lacks = [named[n] for n in here.step.needs if n in named and not named[n].done]
        if lacks:
            first = lacks[0]
            raise NotPossible("step", f"Not before step {first.number}: {first.step.what}.")
        if held:
            raise NotPossible("step", held)
        off = step_id.replace("back-", "off-", 1) if step_id.startswith("back-") else ""
        out = next((t for t in design.work.taken if off and t.step == off and not complete(t)), None)
        if out is not None:
            raise NotPossible("step", f"{out.name} is not counted in: {lacking(out) or 'it is still off'}.")
    timed = here.step.timed_as if done else {}
    return _marked(
        design, step_id, {**timed, "done": done, "minutes": minutes if done else None, "when": when, "left_out": ""}
    )


def leave_out(design: Design, plan: WorkPlan, step_id: str, reason: str) -> tuple[Edit, ...]:
    """Leave a step out, for a reason that is kept.

    Raises:
        NotPossible: no such step, or no reason.
    """
    if plan.named(step_id) is None:
        raise NotPossible("step", "That step is not on the list any more: the plan has changed.")
    if not reason.strip():
        raise NotPossible("reason", "Say why it is left out: whoever comes next asks.")
    return _marked(design, step_id, {"left_out": reason.strip()[:500], "done": False})


def put_in_again(design: Design, step_id: str) -> tuple[Edit, ...]:
    """A step that was left out is on the list again."""
    return tuple(Edit(op="remove", path=f"{MARKS}/{m.id}") for m in design.work.marks if m.step == step_id)


def own_step(
    design: Design, plan: WorkPlan, what: str, after: Iterable[str], before: Iterable[str], low_min: float,
    high_min: float, one_shot: bool,
) -> tuple[Edit, ...]:  # fmt: skip
    """Put a step of the shop's own between others.

    Raises:
        NotPossible: nothing is to be done, the minutes make no range, or it would come before what it comes after.
    """
    if not what.strip():
        raise NotPossible("what", "Say what is to be done.")
    if not 0 <= low_min <= high_min <= MOST_MIN:
        raise NotPossible("minutes", "The minutes make no range: at least so many, at most so many.")
    places = {p.step.id: p.number for p in plan.steps}
    behind, ahead = [n for n in after if n in places], [n for n in before if n in places]
    if behind and ahead and max(places[n] for n in behind) >= min(places[n] for n in ahead):
        raise NotPossible("before", "It cannot come before what it comes after.")
    tree = {
        "id": free_id("own", {s.id for s in design.work.own_steps}), "what": what.strip()[:120], "after": behind,
        "before": ahead, "minutes_low": low_min, "minutes_high": high_min, "one_shot": one_shot,
    }  # fmt: skip
    return (Edit(op="add", path=OWN, value=tree),)


def take_off(design: Design, plan: WorkPlan, step_id: str, values: Mapping[str, object], when: str) -> tuple[Edit, ...]:
    """Note what came off the car, and that the step it belongs to is done.

    Parameters:
        design: the design.
        plan: its work.
        step_id: the step; empty for what nobody planned.
        values: fields of `TakenOff`.
        when: date.

    Returns:
        the edits; a second entry of a step stands beside the first, as for a second size of screw.

    Raises:
        NotPossible: it has no name.
    """
    here = plan.named(step_id) if step_id else None
    name = str(values.get("name") or (here.step.takes_off if here is not None else "")).strip()
    if not name:
        raise NotPossible("name", "Say what came off.")
    tree = {**values, "id": free_id("off", {t.id for t in design.work.taken}), "step": step_id, "name": name[:120],
            "when": when}  # fmt: skip
    if here is not None and here.step.kind == SEAT_OFF:
        tree["holds_a_person"] = True
    marked = (
        ()
        if here is None or here.done
        else _marked(design, step_id, {**here.step.timed_as, "done": True, "when": when, "left_out": ""})
    )
    return (Edit(op="add", path=TAKEN, value=tree), *marked)


def put_back(
    design: Design, plan: WorkPlan, item_id: str, fasteners: int, clips: int, plugs: int, when: str, held: str = ""
) -> tuple[Edit, ...]:
    """Count something back in.

    Parameters:
        design: the design.
        plan: its work.
        item_id: which thing.
        fasteners: screws, bolts and nuts that went back in.
        clips: clips.
        plugs: plugs.
        when: date.
        held: why the step waits for something else; empty where it does not.

    Returns:
        the edits; the step that puts it back is done once every entry of it is complete.

    Raises:
        NotPossible: nothing of that name is off, more goes in than came out, or nothing may be put back yet.
    """
    if held:
        raise NotPossible("item", held)
    item = next((t for t in design.work.taken if t.id == item_id), None)
    if item is None:
        raise NotPossible("item", "Nothing of that name is off the car.")
    for c, back in zip(counted(item), (fasteners, clips, plugs), strict=True):
        if not 0 <= back <= c.out:
            raise NotPossible("count", f"{back} {c.many} cannot go back in: {c.out} came out of {item.name}.")
    base = f"{TAKEN}/{item.id}"
    edits = [
        Edit(path=f"{base}/{name}", value=value)
        for name, value in (("fasteners_back", fasteners), ("clips_back", clips), ("plugs_back", plugs), ("back", True))
    ]
    whole = (fasteners, clips, plugs) == tuple(c.out for c in counted(item))
    others = [t for t in design.work.taken if t.step == item.step and t.id != item.id]
    closing = item.step.replace("off-", "back-", 1) if item.step else ""
    if whole and all(complete(t) for t in others) and closing and plan.named(closing) is not None:
        edits += _marked(design, closing, {"done": True, "when": when, "left_out": ""})
    return tuple(edits)


def complete(item: TakenOff) -> bool:
    """Whether a thing is back on and all that held it is back in."""
    return item.back and not lacking(item)


def accept_quote(design: Design, quote: Quote, by: str, reason: str, when: str) -> tuple[Edit, ...]:
    """Keep the quote as it is now as what was agreed.

    Parameters:
        design: the design.
        quote: its quote.
        by: who said yes.
        reason: why it differs from what was agreed before; empty the first time.
        when: date.

    Returns:
        the edit.

    Raises:
        NotPossible: nobody's name, nothing to agree to, parts without a price, or a change without a reason.
    """
    if not by.strip():
        raise NotPossible("by", "Whose yes is it? A name is kept with it.")
    if not quote.lines:
        raise NotPossible("quote", "There is nothing to agree to yet.")
    if quote.unpriced:
        raise NotPossible("quote", f"Without a price: {listed(list(quote.unpriced))}.")
    if design.work.accepted is not None and quote.changed and not reason.strip():
        raise NotPossible("reason", "Say why it changed: the customer agreed to something else.")
    value = {"by": by.strip()[:110], "when": when, "reason": reason.strip()[:500], "lines": accepted_lines(quote)}
    return (Edit(path=at_the(Work, lambda it: it.accepted), value=value),)
