"""What a customer is told of an option: what it costs with the work, what was asked for and comes of it, what goes on
working, and what is still open.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from ohmack.core.build.quote import against_budget
from ohmack.core.document import Design
from ohmack.core.document.design import Keep, Wish
from ohmack.core.document.part import PartBase, Phase
from ohmack.core.document.parts import HeadUnit, PoweredSubwoofer, Subwoofer
from ohmack.core.evaluation.answer import Evaluation
from ohmack.core.factory.beside import ENOUGH
from ohmack.core.factory.earlier_work import work_range_min
from ohmack.core.factory.function_edits import KEPT, promised_absent
from ohmack.core.factory.functions import Fate
from ohmack.core.figures.figure import Book, Figure, Formula, reference
from ohmack.core.figures.finding import Severity
from ohmack.core.planning.options import chosen_way, plain_words
from ohmack.core.record import record
from ohmack.core.reference import PRACTICE
from ohmack.core.wording import count

Span = tuple[Figure, Figure]  # on an easy car and on a difficult one
HOURS = Formula(
    "Hours of work",
    "h",
    "(usual time of the way + earlier damage) / 60",
    lambda way, extra: (way + extra) / 60,
    PRACTICE,
)
WORK = Formula("Work", "", "hours × the shop's rate", lambda hours, rate: hours * rate)
TOGETHER = Formula(
    "Together", "", "(parts and cable + work) × (1 + tax / 100)",
    lambda parts, work, tax: (parts + work) * (1 + tax / 100),
)  # fmt: skip

BROUGHT_BY: dict[Wish, Callable[[PartBase], bool]] = {
    Wish.BASS: lambda part: isinstance(part, (Subwoofer, PoweredSubwoofer)),
    Wish.SCREEN: lambda part: isinstance(part, HeadUnit) and part.screen,
}
"""Wishes no way meets without a part of some kind."""
AGAINST_REVERSIBLE = ("splice-on-reversible", "drilled-on-reversible")


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
    parts: Figure | None  # with cable; None while nothing is planned
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
    cost = results.cost if design.parts else None
    hours, labour, total = _sums(design, cost)
    by_fate = {
        fate: tuple(v.function.title for v in results.ledger if v.fate is fate)
        for fate in (Fate.KEPT, Fate.ADAPTED, Fate.LOST)
    }
    return Offer(
        plain_words(design), cost, hours, labour, total, _budget(evaluation, total), _asked(evaluation),
        by_fate[Fate.KEPT], by_fate[Fate.ADAPTED], by_fate[Fate.LOST], _open(evaluation, total),
    )  # fmt: skip


def _sums(design: Design, cost: Figure | None) -> tuple[Span | None, Span | None, Span | None]:
    """(hours, work, together) on an easy and on a difficult car, as far as they are known."""
    way, book, currency = chosen_way(design), Book(design), design.policy.currency
    if way is None:
        return None, None, None
    extra = work_range_min(design.vehicle) or (0.0, 0.0)
    rate = book.policy(lambda it: it.labour_rate, "labour an hour", currency)
    tax = book.policy(lambda it: it.tax_percent, "tax", "percent")
    hours, labour, total = [], [], []
    for k, end in enumerate(("easy", "difficult")):
        usual = reference(f"usual time, {end} car", way.minutes[k], "min", PRACTICE)
        damage = reference("earlier damage", extra[k], "min", PRACTICE)
        hours.append(book.figure(f"offer/{end}/hours_h", HOURS, usual, damage))
        labour.append(book.figure(f"offer/{end}/work", replace(WORK, unit=currency), hours[-1], rate))
        if cost is not None:
            total.append(book.figure(f"offer/{end}/together", replace(TOGETHER, unit=currency), cost, labour[-1], tax))
    return (hours[0], hours[1]), (labour[0], labour[1]), (total[0], total[1]) if total else None


def _budget(evaluation: Evaluation, total: Span | None) -> str:
    budget, currency = evaluation.design.intake.budget, evaluation.design.policy.currency
    if budget is None or total is None:
        return ""
    low, high = (figure.value for figure in total)
    return against_budget(budget, low, high, currency, "your")


def _asked(evaluation: Evaluation) -> tuple[Asked, ...]:
    """What was asked for and whether this option does it; what nobody judged is said so."""
    design = evaluation.design
    found = [_wish(design, wish) for wish in design.intake.wishes]
    fates: dict[Keep | None, set[Fate]] = {}
    for verdict in evaluation.results.ledger:
        fates.setdefault(KEPT.get(verdict.function.kind), set()).add(verdict.fate)
    absent = promised_absent(design)
    for keep in design.intake.must_keep:
        if keep in absent:
            found.append(Asked(f"keep {keep.value}", True, "this car has none: nothing to lose"))
            continue
        known = fates.get(keep, set())
        met = None if not known or Fate.UNCLEAR in known else Fate.LOST not in known
        why = {None: "nobody traced it yet", False: "this option would lose it", True: ""}[met]
        found.append(Asked(f"keep {keep.value}", met, why))
    if design.intake.reversible:
        found.append(_reversible(evaluation))
    return tuple(found)


def _wish(design: Design, wish: Wish) -> Asked:
    now = [part for part in design.parts if part.phase is Phase.NOW]
    way = chosen_way(design)
    if not now:
        return Asked(wish.value, None, "nothing is planned yet")
    if wish in BROUGHT_BY and not any(BROUGHT_BY[wish](part) for part in now):
        return Asked(wish.value, False, "nothing in this option brings it")
    if way is None:
        return Asked(wish.value, None, "no way is chosen, so nobody judged it")
    met = way.served[wish.value] >= ENOUGH
    return Asked(wish.value, met, "" if met else "this way does little for it")


def _reversible(evaluation: Evaluation) -> Asked:
    words, joints = "goes back to original", evaluation.results.joints
    cuts = sum(joint.cuts for joint in joints.joints)
    against = [f.title for f in evaluation.findings if f.rule in AGAINST_REVERSIBLE]
    if against or cuts:
        return Asked(words, False, against[0] if against else f"{count(cuts, 'factory wire')} would be cut")
    if joints.no_map:
        return Asked(words, None, "the plug is not mapped yet, so nobody knows what is cut")
    return Asked(words, True, "")


def _open(evaluation: Evaluation, total: Span | None) -> str:
    stops = sum(f.severity is Severity.STOP for f in evaluation.findings)
    if not evaluation.design.parts:
        return "Nothing is planned in this option yet."
    if stops:
        return f"{count(stops, 'thing')} must be settled before this can be promised."
    if total is None:
        return "The work is not estimated: no way is chosen."
    return ""
