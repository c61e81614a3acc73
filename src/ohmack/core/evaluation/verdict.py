"""The one sentence on the plate: ready to order, or what stands in the way."""

from __future__ import annotations

from ohmack.core.document.part import Phase, Stands
from ohmack.core.evaluation.answer import Evaluation, Verdict
from ohmack.core.figures.finding import HANDOVER, OF_THE_CAR, PROVE, Severity
from ohmack.core.handover.soak import SoakState
from ohmack.core.wording import count


def judge(evaluation: Evaluation) -> Verdict:
    """Ready to order: no Stop, and no assumed fact whose range would flip a Stop or a part; ready to build: every
    part is here too. Once readings are taken in the car, they decide: being proved, ready to close, done;
    once the car is soaked, held or signed for, the hand-over does.
    """
    design = evaluation.results.design  # what is fitted now
    of_plan = [f for f in evaluation.findings if f.stage not in OF_THE_CAR]
    stops, watches = (sum(f.severity is s for f in of_plan) for s in (Severity.STOP, Severity.WATCH))
    tail = f"{count(watches, 'watch', 'watches')}" if watches else "nothing to watch"
    if not design.changes_something:
        if evaluation.design.parts:
            return Verdict("nothing", "Nothing is fitted now", "every part of the plan comes later")
        return Verdict("nothing", "Nothing planned yet", "survey first, then pick parts in Plan")
    if design.proof.faults:
        return Verdict("stopped", "Not proved", "a fault that was found is still in the car")
    if stops:
        open_facts = _open(evaluation)
        more = f"; {count(open_facts, 'fact')} to measure first" if open_facts else ""
        headline = "Not clear yet" if design.all_in_car else "Not ready to order"
        return Verdict("stopped", headline, f"{count(stops, 'stop')}, {tail}{more}")
    hand = design.handover
    if hand.soak or hand.holds or hand.signatures:
        return _handed_over(evaluation, tail)
    if design.proof.readings:
        return _proved(evaluation, tail)
    if evaluation.results.design.all_in_car:
        return Verdict("open", "Everything is in the car", f"nothing read in this job yet; {tail}", PROVE)
    if evaluation.measure_first is None:
        return Verdict("unchecked", "No stops", f"{tail}; checking what is only assumed")
    open_facts = _open(evaluation)
    if open_facts:
        return Verdict(
            "open",
            "Not ready to order",
            f"{count(open_facts, 'assumed fact')} could still change a part or stop it; {tail}",
        )
    waiting = [p for p in design.parts if p.phase is Phase.NOW and not p.at_hand]
    if not waiting and design.work.materials is Stands.HERE:
        return Verdict("ready", "Ready to build", f"everything is here; {tail}")
    if not waiting:
        return Verdict("ready", "Ready to build", f"every part is here, wire and fuses {design.work.materials}; {tail}")
    to_order = design.work.materials is Stands.WANTED or any(
        p.stands is Stands.WANTED and not p.by_customer for p in waiting
    )
    if not to_order:
        return Verdict("ready", "Ordered", f"{count(len(waiting), 'part')} to come; {tail}")
    return Verdict("ready", "Ready to order", tail)


def _proved(evaluation: Evaluation, tail: str) -> Verdict:
    """How far a car is proved that is wired and being read."""
    proof = evaluation.results.proof
    left = sum(not j.state.stands for j in proof.checks)
    if proof.done:
        said = f"{count(len(proof.accepted), 'deviation')} accepted" if proof.accepted else "nothing accepted unproved"
        return Verdict("ready", "Done", f"all {len(proof.checks)} checks stand, {said}; {tail}", PROVE)
    if proof.off:
        return Verdict("stopped", "Not proved", f"{count(len(proof.off), 'reading')} not as predicted; {tail}", PROVE)
    if proof.may_close and proof.passed_over:
        over = count(len(proof.passed_over), "check")
        return Verdict("open", "May be closed, not proved", f"{over} passed over by name; {tail}", PROVE)
    if proof.may_close:
        return Verdict("ready", "Ready to close the trim", f"{count(left, 'check')} left after that; {tail}", PROVE)
    return Verdict("open", "Being proved", f"{count(left, 'check')} of {len(proof.checks)} to make; {tail}", PROVE)


def _handed_over(evaluation: Evaluation, tail: str) -> Verdict:
    """Whether the car may go."""
    state = evaluation.results.hand_over
    stand = sum(j.state.stands for j in state.soak.checks)
    tried = f"{stand} of {count(len(state.soak.checks), 'soak check')} stand"
    if not state.against:
        signed = state.signature if state.signed_stands else None
        head = f"Handed over to {signed.by}" if signed is not None else "May go"
        return Verdict("ready", head, f"proved and soaked; {tail}", HANDOVER)
    held = any(a.by_name for a in state.against) or any(j.state is SoakState.OFF for j in state.soak.checks)
    waits = "Soaked" if state.only_to_hear else "Soaking"
    head = "Hold" if held or evaluation.results.proof.off else waits
    return Verdict("stopped" if head == "Hold" else "open", head, f"{state.against[0].words}; {tried}", HANDOVER)


def _open(evaluation: Evaluation) -> int:
    return sum(bool(m.stops or m.parts) for m in evaluation.measure_first or ())
