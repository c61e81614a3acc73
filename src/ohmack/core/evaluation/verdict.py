"""The one sentence on the plate: ready to order, or what stands in the way."""

from __future__ import annotations

from ohmack.core.document.part import Phase
from ohmack.core.evaluation.answer import Evaluation, Verdict
from ohmack.core.figures.finding import Severity
from ohmack.core.wording import count


def judge(evaluation: Evaluation) -> Verdict:
    """Ready to order: no Stop, and no assumed fact whose range would flip a Stop or a part; ready to build: every
    part is here too.
    """
    design = evaluation.results.design  # what is fitted now
    stops, watches = evaluation.count(Severity.STOP), evaluation.count(Severity.WATCH)
    tail = f"{count(watches, 'watch', 'watches')}" if watches else "nothing to watch"
    if not design.parts:
        if evaluation.design.parts:
            return Verdict("nothing", "Nothing is fitted now", "every part of the plan comes later")
        return Verdict("nothing", "Nothing planned yet", "survey first, then pick parts in Plan")
    if stops:
        open_facts = _open(evaluation)
        more = f"; {count(open_facts, 'fact')} to measure first" if open_facts else ""
        return Verdict("stopped", "Not ready to order", f"{count(stops, 'stop')}, {tail}{more}")
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
    if not waiting:
        return Verdict("ready", "Ready to build", f"every part is here; {tail}")
    return Verdict("ready", "Ready to order", tail)


def _open(evaluation: Evaluation) -> int:
    return sum(bool(m.stops or m.parts) for m in evaluation.measure_first or ())
