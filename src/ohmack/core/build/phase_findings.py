"""Rules on now and later, and on where parts stand: what would be cut, rerun or bought again, what to wait for."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.handles import at
from ohmack.core.document.part import Phase
from ohmack.core.figures.finding import Draft, Remedy, note, rule, set_to
from ohmack.core.reference import PRACTICE
from ohmack.core.wording import count, counted, listed

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


@rule("phase-rework", "plan", PRACTICE)
def phase_rework(results: Results) -> Iterator[Draft]:
    """What is done now would have to be cut, rerun or bought again later."""
    for item in results.prepare:
        if item.rework:
            yield note(item.path, item.title, item.text, Remedy("See what to prepare now", sheet="plan"))


@rule("stage-due", "plan", PRACTICE)
def stage_due(results: Results) -> Iterator[Draft]:
    """A job on a car in which everything of today is, while parts of it were planned for later."""
    if results.later is None or not results.design.all_in_car:
        return
    design, runs = results.later.design, results.later.runs
    parts = [part for part in design.parts if part.phase is Phase.LATER]
    wires = [link for link in design.links if link.phase is Phase.LATER]
    names = [part.name for part in parts]
    names += [f"{runs[link.id].start_name} to {runs[link.id].end_name}" for link in wires]
    edits = [set_to(at(part, lambda it: it.phase), Phase.NOW.value) for part in parts]
    edits += [set_to(at(link, lambda it: it.phase), Phase.NOW.value) for link in wires]
    yield note(
        (parts[0] if parts else wires[0]).id,
        f"Planned for later: {listed(names)}",
        "What was planned for today is in the car. If this job is the next stage, it is fitted now.",
        Remedy("Fit it now", tuple(edits)),
    )


@rule("parts-waiting", "plan", PRACTICE)
def parts_waiting(results: Results) -> Iterator[Draft]:
    """The job waits for parts, not the bay."""
    missing = [p for p in results.design.parts if p.phase is Phase.NOW and not p.at_hand]
    slow = max((p for p in missing if p.lead_days), key=lambda p: p.lead_days or 0, default=None)
    if slow is not None and (slow.lead_days or 0) >= 3:
        yield note(
            slow.id,
            f"Order {slow.name} first: {slow.lead_days} days",
            f"{count(len(missing), 'part')} not here yet. Book the bay when the last one is:"
            f" {listed([p.name for p in missing][:4])}.",
            Remedy("Look at the part", path=at(slow)),
        )


@rule("customer-part", "plan", PRACTICE)
def customer_part(results: Results) -> Iterator[Draft]:
    """A part is the customer's own: say in writing who answers for it."""
    own = [p for p in results.design.parts if p.by_customer]
    if own:
        yield note(
            own[0].id,
            f"The customer's own: {counted([p.name for p in own])}",
            "Check it on the bench before the car is opened, and have it signed: the shop answers for the work, not for"
            " the part. "
            + (
                "Its rating is the customer's word until measured."
                if any(isinstance(p, Amplifier) for p in own)
                else ""
            ),
        )
