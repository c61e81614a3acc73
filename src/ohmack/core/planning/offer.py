"""What a customer is told of an option: what it costs with the work, what was asked for and comes of it, what goes on
working, and what is still open.
"""

from __future__ import annotations

from ohmack.core.document.design import Wish
from ohmack.core.evaluation.answer import Evaluation
from ohmack.core.factory.earlier_work import work_range_min
from ohmack.core.factory.function_edits import KEPT
from ohmack.core.factory.functions import Fate
from ohmack.core.figures.finding import Severity
from ohmack.core.planning.options import chosen_way, plain_words
from ohmack.core.record import record
from ohmack.core.wording import count

Span = tuple[float, float]
MADE_BY = {
    Wish.BASS: ("subwoofer", "powered subwoofer"),
    Wish.SCREEN: ("radio",),
}
"""Parts without which a wish is not met, whatever the way is called."""


@record
class Asked:
    """One thing the customer asked for: whether this option does it, None where nobody judged, and in words."""

    words: str
    met: bool | None
    why: str


@record
class Offer:
    """One option in the customer's words."""

    words: str
    parts: float | None  # with cable, in the shop's currency; None while nothing is planned
    hours: Span | None  # None where no way is chosen, so that nobody estimated the work
    labour: Span | None
    total: Span | None
    budget: str
    asked: tuple[Asked, ...]
    kept: tuple[str, ...]
    adapted: tuple[str, ...]
    lost: tuple[str, ...]
    still_open: str  # why this is no promise yet; "" where it is settled


def offer(evaluation: Evaluation) -> Offer:
    """What a customer is told of an option.

    Parameters:
        evaluation: the option's evaluation.

    Returns:
        sums in the shop's currency, hours, wishes with whether they are met, functions, and what is open. Labour is
        the chosen way's time with the extra work of earlier damage, at the shop's rate. Source: common practice.
    """
    design, results = evaluation.design, evaluation.results
    way, rate = chosen_way(design), design.policy.labour_rate
    parts = results.cost.value if results.cost is not None and design.parts else None
    extra = work_range_min(design.vehicle) or (0.0, 0.0)
    hours = ((way.minutes[0] + extra[0]) / 60, (way.minutes[1] + extra[1]) / 60) if way is not None else None
    labour = (hours[0] * rate, hours[1] * rate) if hours is not None else None
    total = (parts + labour[0], parts + labour[1]) if parts is not None and labour is not None else None
    by_fate = {
        fate: tuple(v.function.title for v in results.ledger if v.fate is fate)
        for fate in (Fate.KEPT, Fate.ADAPTED, Fate.LOST)
    }
    return Offer(
        plain_words(design), parts, hours, labour, total, _budget(evaluation, total), _asked(evaluation),
        by_fate[Fate.KEPT], by_fate[Fate.ADAPTED], by_fate[Fate.LOST], _open(evaluation, total),
    )  # fmt: skip


def _budget(evaluation: Evaluation, total: Span | None) -> str:
    budget, currency = evaluation.design.intake.budget, evaluation.design.policy.currency
    if budget is None or total is None:
        return ""
    low, high = total
    if high <= budget:
        return f"within your {budget:.0f} {currency}"
    if low > budget:
        return f"{low - budget:.0f} {currency} or more above your {budget:.0f} {currency}"
    return f"may pass your {budget:.0f} {currency} by up to {high - budget:.0f} {currency}"


def _asked(evaluation: Evaluation) -> tuple[Asked, ...]:
    design = evaluation.design
    way, kinds = chosen_way(design), {part.kind for part in design.parts}
    found = []
    for wish in design.intake.wishes:
        lacking = MADE_BY.get(wish)
        if not design.parts:
            found.append(Asked(wish.value, None, "nothing is planned yet"))
        elif lacking is not None and not kinds & set(lacking):
            found.append(Asked(wish.value, False, "nothing in this option brings it"))
        elif way is not None and wish.value in way.short_of:
            found.append(Asked(wish.value, False, "this way does little for it"))
        elif way is None and lacking is None:
            found.append(Asked(wish.value, None, "no way is chosen, so nobody judged it"))
        else:
            found.append(Asked(wish.value, True, ""))
    stopped = {f.about.removeprefix("intake/must_keep/") for f in evaluation.findings if f.rule == "promise-unjudged"}
    lost = {KEPT.get(v.function.kind) for v in evaluation.results.ledger if v.fate is Fate.LOST}
    for keep in design.intake.must_keep:
        if keep.value in stopped:
            found.append(Asked(f"keep {keep.value}", None, "nobody looked at it yet"))
        else:
            gone = keep in lost
            found.append(Asked(f"keep {keep.value}", not gone, "this option would lose it" if gone else ""))
    if design.intake.reversible:
        cuts = sum(j.cuts for j in evaluation.results.joints.joints)
        words = f"{count(cuts, 'factory wire')} would be cut" if cuts else ""
        found.append(Asked("goes back to original", not cuts, words))
    return tuple(found)


def _open(evaluation: Evaluation, total: Span | None) -> str:
    stops = sum(f.severity is Severity.STOP for f in evaluation.findings)
    if not evaluation.design.parts:
        return "Nothing is planned in this option yet."
    if stops:
        return f"{count(stops, 'thing')} must be settled before this can be promised."
    if total is None:
        return "The work is not estimated: no way is chosen."
    return ""
