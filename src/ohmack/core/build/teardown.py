"""What came off the car and is to go back: counted out, counted in, in reverse."""

from __future__ import annotations

from collections.abc import Iterator

from ohmack.core.build.work_plan import WorkPlan
from ohmack.core.document.work import TakenOff, Work
from ohmack.core.record import record
from ohmack.core.wording import count, listed


@record
class Missing:
    """What of one thing is still out, in words."""

    item: TakenOff
    words: str


@record
class Teardown:
    """All that came off, and what is still out."""

    items: tuple[TakenOff, ...]  # as they came off
    reverse: tuple[TakenOff, ...]  # as they go back
    still_out: tuple[Missing, ...]
    left_over: tuple[Missing, ...]  # of what is back on, what was never counted in
    unlogged: tuple[str, ...]  # steps that took something off and have no entry

    @property
    def may_close(self) -> bool:
        """Whether everything that was counted out is in."""
        return not self.still_out and not self.left_over and not self.unlogged


PIECES = (("fasteners", "screw or bolt", "screws or bolts"), ("clips", "clip", "clips"), ("plugs", "plug", "plugs"))


def lacking(item: TakenOff) -> str:
    """What of a thing has not been counted back in, in words; empty where everything is."""
    out = {"fasteners": item.fasteners, "clips": item.clips_out, "plugs": item.plugs}
    back = {"fasteners": item.fasteners_back, "clips": item.clips_back, "plugs": item.plugs_back}
    words = [count(out[n] - back[n], one, many) for n, one, many in PIECES if out[n] > back[n]]
    return listed(words)


def holds_a_person(item: TakenOff) -> bool:
    """Whether a seat or a belt came off: its bolts have a torque of the maker's."""
    words = item.name.lower()
    return "seat" in words or "belt" in words


def teardown(work: Work, plan: WorkPlan) -> Teardown:
    """The state of a teardown.

    Parameters:
        work: what was noted.
        plan: the steps, for the order and for what should have an entry.

    Returns:
        what is off, in the order it came off and reversed as the steps allow, what lacks of it.
    """
    numbers = {p.step.id: p.number for p in plan.steps}
    back = {p.step.id.replace("back-", "off-", 1): p.number for p in plan.steps if p.step.id.startswith("back-")}
    items = work.taken
    place = {item.id: n for n, item in enumerate(items)}
    reverse = tuple(sorted(items, key=lambda i: (back.get(i.step, -1 if i.step not in numbers else 0), -place[i.id])))
    out = tuple(Missing(i, lacking(i) or "not back on") for i in items if not i.back)
    over = tuple(Missing(i, words) for i in items if i.back and (words := lacking(i)))
    noted = {i.step for i in items}
    unlogged = tuple(p.step.takes_off for p in plan.steps if p.done and p.step.takes_off and p.step.id not in noted)
    return Teardown(items, reverse, out, over, tuple(name for name in unlogged if name))


def counts(items: tuple[TakenOff, ...]) -> Iterator[tuple[str, int, int]]:
    """(what, counted out, counted in) over everything."""
    for _, (name, _, many) in zip(range(3), PIECES, strict=True):
        if name == "fasteners":
            yield many, sum(i.fasteners for i in items), sum(i.fasteners_back for i in items)
        elif name == "clips":
            yield many, sum(i.clips_out for i in items), sum(i.clips_back for i in items)
        else:
            yield many, sum(i.plugs for i in items), sum(i.plugs_back for i in items)
