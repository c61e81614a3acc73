"""Rules on the order of the work: battery, tests before what cannot be undone, everything back in."""

from __future__ import annotations

from collections.abc import Iterator
from decimal import Decimal
from typing import TYPE_CHECKING

from ohmack.core.build.holes import under_power
from ohmack.core.build.steps import Step
from ohmack.core.document.policy import with_tax
from ohmack.core.figures.finding import Draft, Remedy, note, rule, stop, watch
from ohmack.core.reference import PRACTICE
from ohmack.core.wording import count, listed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

HARDLY = Decimal("0.02")  # of what was agreed: for less nobody is asked again, common practice, no source
NEVER = {
    "battery-off": "A slip with a spanner on a live post melts the spanner; airbags are live while the battery is on.",
    "dead-checks": "A short is found by a meter before the fuse goes in, or by smoke after.",
    "main-fuse": "Nothing plays without it, and put in earlier it feeds what is still open.",
    "battery-on": "Nothing is tried without it.",
    "first-power": "Nothing is closed that was not tried.",
}


@rule("step-left-out", "build", PRACTICE, varied=False)
def step_left_out(results: Results) -> Iterator[Draft]:
    """A step that keeps somebody or something from harm was left out."""
    if not results.design.work.marks:
        return
    for step, reason in results.work_plan.left_out:
        look = step.kind == "look-behind"
        if step.id in NEVER or look:
            why = NEVER.get(step.id, "What is behind is found by looking, or by drilling into it.")
            yield stop(
                f"step:{step.id}", f"Left out: {_short(step)}", f"{why} The reason given: {reason}.",
                Remedy("See the steps", sheet="steps"),
            )  # fmt: skip


@rule("steps-in-a-circle", "build", PRACTICE, varied=False)
def steps_in_a_circle(results: Results) -> Iterator[Draft]:
    """Steps of the shop's own need each other."""
    if results.design.work.own_steps and results.work_plan.circle:
        yield stop(
            "step:circle", "The steps have no order", results.work_plan.circle, Remedy("See the steps", sheet="steps")
        )


@rule("step-moved-in-vain", "build", PRACTICE, varied=False)
def step_moved_in_vain(results: Results) -> Iterator[Draft]:
    """A step was put before another that, by today's plan, it needs."""
    if not results.design.work.moved:
        return
    for step, later in results.work_plan.not_held:
        yield watch(
            f"step:{step.id}", f"Cannot come first any more: {_short(step)}",
            f"It was put before “{_short(later)}”, and needs it by today's plan. It stands where the plan puts it.",
            Remedy("See the steps", sheet="steps"),
        )  # fmt: skip


@rule("hole-not-noted", "build", PRACTICE, varied=False)
def hole_not_noted(results: Results) -> Iterator[Draft]:
    """A hole is in the car, and nobody noted what the next one must know of it."""
    work = results.design.work
    if not work.marks and not work.holes and not under_power(results.design):
        return  # nothing is in the car yet, and no plan of its steps is made to say so
    for row in results.holes:
        if row.lacks:
            yield watch(
                f"hole:{row.key}", f"Hole not in the register: {row.name.partition(',')[0]}",
                f"Not noted: {listed(list(row.lacks))}. Bare edges rust, and whoever comes next must know of it.",
                Remedy("Note it", sheet="holes"),
            )  # fmt: skip


@rule("closed-with-something-out", "build", PRACTICE, varied=False)
def closed_with_something_out(results: Results) -> Iterator[Draft]:
    """Something is back on, and what was counted out of it is not all in."""
    if not results.design.work.taken and not results.design.work.marks:
        return
    state = results.teardown
    for one in state.left_over:
        yield stop(
            f"taken:{one.item.id}", f"{one.item.name} is back on, {one.words} not",
            "What was counted out goes in, or lies somewhere in the car. Look before the next panel covers it.",
            Remedy("See the count", sheet="teardown"),
        )  # fmt: skip
    plan = results.work_plan
    closing = any(p.done for p in plan.steps if p.step.id == "settings-back")
    if closing and not state.may_close:
        things = count(len(state.still_out) + len(state.left_over) + len(state.uncounted), "thing")
        yield watch(
            "taken:all", f"Handed back with {things} not counted in",
            "Each thing that came off has an entry, and each entry is back.", Remedy("See the count", sheet="teardown"),
        )  # fmt: skip


@rule("seat-bolt-torque", "build", PRACTICE)
def seat_bolt_torque(results: Results) -> Iterator[Draft]:
    """A seat or a belt came out: its bolts have a torque of the maker's."""
    for item in results.design.work.taken:
        if item.holds_a_person and item.fasteners and not item.torque:
            yield stop(
                f"taken:{item.id}", f"{item.name}: the maker's torque is not known",
                "Seat and belt bolts hold a person in a crash. Look the torque up in the maker's guide and note it.",
                Remedy("Note it", sheet="teardown"),
            )  # fmt: skip


def _short(step: Step) -> str:
    return step.what.partition(";")[0].partition(":")[0].lower()


@rule("quote-over-budget", "build", PRACTICE, last=True)
def quote_over_budget(results: Results) -> Iterator[Draft]:
    """Parts alone are within the budget, and with the work on them the customer pays more."""
    design = results.design
    budget, currency = design.intake.budget, design.policy.currency
    if budget is None or design.work.accepted is not None or design.handover.signatures or design.all_in_car:
        return  # what somebody agreed to, or took the car for, is a promise of its own
    parts = results.cost.value if results.cost is not None else None
    if parts is None or with_tax(design.policy, parts) > budget:
        return  # said of the parts already
    low, high = float(results.quote.sums.low), float(results.quote.sums.high)
    if high <= budget:
        return
    over = round(low) - round(budget)  # as both are said
    spans = f"{low:.0f} to {high:.0f} {currency} with labour and tax, {budget:.0f} {currency} at most"
    yield (watch if over > 0 else note)(
        "intake/budget",
        f"{over} {currency} over the budget at least" if over > 0 else "The budget may not be enough",
        f"{spans}. Agree on it, or take something out.",
        Remedy("See the quote", sheet="quote"),
    )


@rule("quote-changed", "build", PRACTICE, varied=False)
def quote_changed(results: Results) -> Iterator[Draft]:
    """What the customer agreed to is not what the plan costs now."""
    accepted = results.design.work.accepted
    if accepted is None or not (changed := results.quote.changed):
        return  # where nobody agreed to anything, no quote is made to say so
    low, high = (sum((getattr(c, end) for c in changed), Decimal(0)) for end in ("by_low", "by_high"))
    by = high if abs(high) >= abs(low) else low
    much = f"{abs(by):.0f}" if abs(by) >= 1 else "less than 1"
    words = f"{much} {results.design.policy.currency} {'more' if by > 0 else 'less'}"
    who = accepted.by or "The customer"
    same = all(c.was is not None and c.now is not None for c in changed)
    agreed = Decimal(sum(line.high_cents for line in accepted.lines)) / 100
    small = same and abs(by) <= HARDLY * agreed
    yield (note if small else watch)(
        "quote",
        f"{count(len(changed), 'line')} of the quote changed: {words}",
        f"Within {100 * HARDLY:.0f} % of what {who} agreed to, and nothing came or went: usually nobody is asked again."
        if small
        else f"{who} agreed to something else. Show the difference before the work goes on.",
        Remedy("See the difference", sheet="quote"),
    )
