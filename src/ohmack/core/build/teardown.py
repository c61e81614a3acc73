"""What came off the car and is to go back: counted out, counted in, in reverse."""

from __future__ import annotations

from ohmack.core.build.work_plan import PlannedStep, WorkPlan
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
    uncounted: tuple[PlannedStep, ...]  # done, took something off, and have no entry

    @property
    def counted(self) -> tuple[Counted, ...]:
        """What was counted, over everything."""
        return counted(*self.items)

    @property
    def may_close(self) -> bool:
        """Whether everything that came off was counted, and is in."""
        return not self.still_out and not self.left_over and not self.uncounted


@record
class Counted:
    """Screws, clips or plugs: how many came out, how many went back in."""

    name: str  # the field of a form they are counted into
    one: str
    many: str
    asks: str  # as they are asked for on the way in
    out: int
    back: int

    @property
    def lacks(self) -> str:
        """How many are still out, in words; empty where none is."""
        return count(self.out - self.back, self.one, self.many) if self.out > self.back else ""


def counted(*items: TakenOff) -> tuple[Counted, ...]:
    """What held things, kind by kind, over all of them."""
    screws, clips = sum(i.fasteners for i in items), sum(i.clips_out for i in items)
    plugs = sum(i.plugs for i in items)
    return (
        Counted(
            "fasteners", "screw or bolt", "screws or bolts", f"Screws in, of {screws}", screws,
            sum(i.fasteners_back for i in items),
        ),
        Counted("clips", "clip", "clips", f"Clips in, of {clips}", clips, sum(i.clips_back for i in items)),
        Counted("plugs", "plug", "plugs", f"Plugs on, of {plugs}", plugs, sum(i.plugs_back for i in items)),
    )  # fmt: skip


def lacking(*items: TakenOff) -> str:
    """What has not been counted back in, in words; empty where everything is."""
    return listed([c.lacks for c in counted(*items) if c.lacks])


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
    uncounted = tuple(p for p in plan.steps if p.done and p.step.takes_off and p.step.id not in noted)
    return Teardown(items, reverse, out, over, uncounted)
