"""Rules on what was read in the car: what is not as predicted, what is known to be wrong, what somebody stands for."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document.handles import at
from ohmack.core.document.part import Stands
from ohmack.core.figures.finding import Draft, Remedy, note, rule, set_to, stop, watch
from ohmack.core.prove.judged import Judged, State
from ohmack.core.prove.probes import Quantity
from ohmack.core.reference import PRACTICE, table
from ohmack.core.wording import amount, count, lowered, sentence

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


@rule("reading-off", "prove", PRACTICE)
def reading_off(results: Results) -> Iterator[Draft]:
    """A reading is not as predicted."""
    if not results.design.proof.readings:
        return
    for judged in results.proof.off:
        check = judged.check
        expects = f", expected {judged.expects}" if judged.expects else ""
        draft = stop if check.closing else watch
        yield draft(
            f"check:{check.id}", f"{check.title}: {judged.read_words}{expects}",
            "Read again with the leads zeroed; if it stays, look for the fault, or plan with what was read.",
            Remedy("Look for the fault", sheet="fault"),
        )  # fmt: skip


@rule("reading-unjudged", "prove", PRACTICE)
def reading_unjudged(results: Results) -> Iterator[Draft]:
    """A reading was taken, and nothing is known to hold it against; a ground drop, and not at which current."""
    if not results.design.proof.readings:
        return
    for judged in results.proof.checks:
        if judged.state is State.UNJUDGED:
            yield watch(
                f"check:{judged.check.id}", f"{judged.check.title}: {judged.read_words}, judged by nobody",
                _why_unjudged(judged),
                Remedy("See the check", sheet="prove", query=f"show=check:{judged.check.id}"),
            )  # fmt: skip


def _why_unjudged(judged: Judged) -> str:
    if judged.check.ways:
        return "It says how the coils are wired that lie there. Plan with it: then it is known, and judged."
    if judged.lacks_current:
        planned = judged.window.value if judged.window is not None else 0.0
        return f"The plan's {amount(planned, 'mv')} are at full current: clamp it, read again and enter both."
    if judged.check.probe.quantity is Quantity.STEP:
        return "Nobody knew it before: plan with it at the check, which sets the gains by it, or accept it by name."
    return "Something its prediction rests on is not known: enter it in the survey, or accept it by name."


@rule("proved-not-here", "prove", PRACTICE)
def proved_not_here(results: Results) -> Iterator[Draft]:
    """A part is read at in the car while the list still waits for it."""
    design = results.design
    if not design.proof.readings or design.proof.practice is not None:
        return
    waited = [part for part in design.parts if not part.at_hand]
    if waited:
        here = tuple(set_to(at(part, lambda it: it.stands), Stands.HERE.value) for part in waited)
        more = f" and {len(waited) - 1} more" if len(waited) > 1 else ""
        yield note(
            waited[0].id, f"{waited[0].name}{more}: proved in the car, and not here by the list",
            "The order list and the calendar still wait for it. What is built in has come.",
            Remedy("It is here" if len(waited) == 1 else "They are here", here),
        )  # fmt: skip


@rule("fault-left-in", "prove", PRACTICE)
def fault_left_in(results: Results) -> Iterator[Draft]:
    """A fault that was found is still in the car."""
    for fault in results.design.proof.faults:
        yield stop(
            f"fault:{fault.id}", f"Found and not mended: {fault.kind.value}",
            str(table("proof", "remedies")[fault.kind.name]), Remedy("See what was found", sheet="fault"),
        )  # fmt: skip


@rule("gate-passed-open", "prove", PRACTICE)
def gate_passed_open(results: Results) -> Iterator[Draft]:
    """A gate was passed with checks open."""
    proof = results.design.proof
    if not proof.jumps:
        return
    for gate in results.proof.gates:
        if gate.jump is None or gate.passed:
            continue
        left = [j for j in gate.left if j.check.id in gate.jump.open]
        if left:
            yield watch(
                f"gate:{gate.number}", f"“{gate.title}” was passed with {count(len(left), 'check')} open",
                f"{gate.jump.by}: {sentence(gate.jump.reason)} Not made: {lowered(left[0].check.title)}"
                + (f" and {len(left) - 1} more." if len(left) > 1 else "."),
                Remedy("See them", sheet="prove"),
            )  # fmt: skip


@rule("accepted-as-it-is", "prove", PRACTICE)
def accepted_as_it_is(results: Results) -> Iterator[Draft]:
    """Something stands because somebody said so."""
    if not results.design.proof.deviations:
        return
    for judged in results.proof.accepted:
        if judged.deviation is not None:
            was = judged.read_words or "not made"
            yield note(
                f"check:{judged.check.id}", f"Accepted: {lowered(judged.check.title)}, {was}",
                f"{judged.deviation.by}: {sentence(judged.deviation.reason)}",
            )  # fmt: skip
