"""What is left open as the car goes: written down, accepted, passed over, left out, lost, or to come later."""

from __future__ import annotations

from collections.abc import Iterator
from enum import StrEnum
from typing import TYPE_CHECKING

from ohmack.core.document.part import Phase
from ohmack.core.factory.functions import Fate
from ohmack.core.handover.soak import SoakState
from ohmack.core.record import record
from ohmack.core.wording import count

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


class Kind(StrEnum):
    """Why something is open, gravest first."""

    FAULT = "found and not mended"
    WRITTEN = "written down"
    ACCEPTED = "accepted by name"
    PASSED_OVER = "passed over by name"
    LEFT_OUT = "left out"
    LOST = "works no longer"
    LATER = "planned next"
    PREPARED = "prepared today"


@record
class LeftOpen:
    """One open point."""

    kind: Kind
    what: str
    why: str = ""
    whose: str = ""


def left_open(results: Results) -> tuple[LeftOpen, ...]:
    """Everything that is left open, gravest first.

    Parameters:
        results: the evaluated plan.

    Returns:
        the points; none where everything was made, proved and is still there.
    """
    return (*_in_somebodys_name(results), *_of_the_work(results), *_lost(results), *_later(results))


def _in_somebodys_name(results: Results) -> Iterator[LeftOpen]:
    design, proof = results.design, results.proof
    for fault in design.proof.faults:
        yield LeftOpen(Kind.FAULT, fault.kind.value)
    for point in design.handover.open_points:
        yield LeftOpen(Kind.WRITTEN, point.what, whose=point.whose)
    for judged in proof.accepted:
        if judged.deviation is not None:
            read = judged.read_words or "not made"
            yield LeftOpen(Kind.ACCEPTED, f"{judged.check.title}: {read}", judged.deviation.reason, judged.deviation.by)
    for soaked in results.soak.checks:
        if soaked.deviation is not None and soaked.state is SoakState.ACCEPTED:
            read = soaked.read_words or "not tried"
            yield LeftOpen(Kind.ACCEPTED, f"{soaked.check.title}: {read}", soaked.deviation.reason, soaked.deviation.by)
    for gate in proof.gates:
        if gate.jump is not None and gate.left:
            what = f"“{gate.title}” with {count(len(gate.left), 'check')} open"
            yield LeftOpen(Kind.PASSED_OVER, what, gate.jump.reason, gate.jump.by)


def _of_the_work(results: Results) -> Iterator[LeftOpen]:
    for step, reason in results.work_plan.left_out:
        yield LeftOpen(Kind.LEFT_OUT, step.what, reason)
    for missing in results.teardown.left_over:
        yield LeftOpen(Kind.LEFT_OUT, f"{missing.item.name}: {missing.words} not in")


def _lost(results: Results) -> Iterator[LeftOpen]:
    for verdict in results.ledger:
        if verdict.fate is Fate.LOST:
            title = verdict.function.title
            yield LeftOpen(Kind.LOST, title[:1].upper() + title[1:], verdict.why)


def _later(results: Results) -> Iterator[LeftOpen]:
    for part in results.whole_design.parts:
        if part.phase is Phase.LATER:
            yield LeftOpen(Kind.LATER, part.name)
    if results.design.intake.later_note:
        yield LeftOpen(Kind.LATER, results.design.intake.later_note)
    for prepared in results.prepare:
        yield LeftOpen(Kind.PREPARED, prepared.title, prepared.text)
