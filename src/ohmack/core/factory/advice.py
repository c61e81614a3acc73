"""Which way suits this customer best: all ways in their order, the reasons for the first, the case for the next."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from ohmack.core.document import Design
from ohmack.core.document.strategy import StrategyKey, Weights
from ohmack.core.factory.beside import for_what
from ohmack.core.factory.evidence import evidence
from ohmack.core.factory.functions import Fate
from ohmack.core.factory.pickup_places import pickups
from ohmack.core.factory.strategies import CRITERIA, Candidate, judged_way, usual_weights
from ohmack.core.factory.way_acts import kept_by_choice, way_of
from ohmack.core.record import record


@record
class Advice:
    """All candidates, best first, with the reasons for the first and the fair case for the second."""

    ranked: tuple[Candidate, ...]
    weights: Weights
    reasons: tuple[str, ...]
    runner_up: str

    @property
    def best(self) -> Candidate | None:
        """The recommendation; None where the car allows nothing on the list."""
        return next((c for c in self.ranked if c.possible), None)


def _place(c: Candidate, weights: Weights) -> tuple[bool, bool, int, float, str]:
    """Where a candidate comes, the best first: money and wishes go before the mark while they weigh anything."""
    over = c.over_budget and weights.cost > 0
    short = len(c.short_of) if weights.sound > 0 else 0
    return (not c.possible, over, short, -c.score, c.key.value)


def _why_below(ranked: list[Candidate], weights: Weights) -> Iterator[Candidate]:
    """The candidates in their order, each that stands below a lower mark with the reason."""
    for number, c in enumerate(ranked):
        passed = [o for o in ranked[:number] if o.possible and round(o.score, 2) < round(c.score, 2)]
        if not c.possible or not passed:
            yield c
            continue
        reasons = []
        if c.over_budget and weights.cost > 0 and not all(o.over_budget for o in passed):
            reasons.append("over the budget")
        if weights.sound > 0 and any(len(o.short_of) < len(c.short_of) for o in passed):
            reasons.append(f"little for {' and '.join(c.short_of)}")
        yield replace(c, below=f"below lower marks: {', '.join(reasons)}" if reasons else "")


def best_way(design: Design) -> StrategyKey | None:
    """The strategy that is recommended, without the words and questions of `advise`; None where the car allows none."""
    taps, kept, of_car = pickups(design), kept_by_choice(design), evidence(design)
    weights = design.weights or usual_weights(design.intake)
    ways = (judged_way(design, key, taps, kept, of_car, ask=False) for key in StrategyKey)
    first = min(ways, key=lambda c: _place(c, weights))
    return first.key if first.possible else None


def advise(design: Design) -> Advice:
    """Every strategy judged for this car and this customer, the best first.

    Parameters:
        design: the design.

    Returns:
        the ranked candidates; those the car does not allow come last with the reason.

    Source: common practice.
    """
    weights = design.weights or usual_weights(design.intake)
    taps = pickups(design)
    kept, of_car = kept_by_choice(design), evidence(design)
    ways = [judged_way(design, key, taps, kept, of_car) for key in StrategyKey]
    ranked = list(_why_below(sorted(ways, key=lambda c: _place(c, weights)), weights))
    possible = [c for c in ranked if c.possible]
    if not possible:
        return Advice(tuple(ranked), weights, (), "")
    best, others = possible[0], possible[1:]
    rival = _rival(others, design)
    return Advice(
        tuple(ranked),
        weights,
        _reasons(best, others, rival, weights),
        _runner_up(best, rival, weights) if rival else "",
    )


def _rival(others: list[Candidate], design: Design) -> Candidate | None:
    """The next way that does something for what was asked; None where no other does."""
    asked = len(design.intake.goals)
    return next((c for c in others if not asked or len(c.short_of) < asked), None)


def _reasons(
    best: Candidate, others: list[Candidate], rival: Candidate | None, weights: Weights
) -> tuple[str, ...]:  # fmt: skip
    found = [*(one.words for one in best.known if one.change > 0), best.case]
    for other in best.beside:
        words = way_of(other)["beside"]
        found.append(f"{words[0].upper()}{words[1:]} with it: by itself it does little for {for_what(other)}.")
    lost, adapted = best.fate(Fate.LOST), best.fate(Fate.ADAPTED)
    if best.ledger and not lost:
        found.append(
            "Nothing the car does is lost" + (f"; {', '.join(adapted)} through an adapter." if adapted else ".")
        )
    elif lost:
        found.append(f"It costs {', '.join(lost)}.")
    if best.short_of:
        whole = [c for c in others if not c.short_of]
        nothing = "; nothing on the list does all that was asked"
        dear = "; what does all that was asked is over the budget"
        rest = nothing if not whole else dear if all(c.over_budget for c in whole) else ""
        found.append(f"It does little for {' and '.join(best.short_of)}{rest}.")
    if rival is not None:
        against = [one.words for one in rival.known if one.change < 0]
        found += [f"Against {rival.title}: {words}" for words in against[:2]]
        ahead = _lead(best, rival, weights)
        if ahead:
            found.append(f"Ahead of the next on {' and '.join(ahead)}.")
    elif others:
        found.append("No other way this car allows does anything for what was asked.")
    return tuple(found)


def _lead(one: Candidate, other: Candidate, weights: Weights) -> list[str]:
    judged = [name for name in CRITERIA if name in one.marks and name in other.marks]
    gain = {name: (one.marks[name] - other.marks[name]) * getattr(weights, name) for name in judged}
    strong = sorted((n for n in gain if gain[n] > 0.05), key=lambda n: -gain[n])
    return [(Weights.model_fields[n].title or n).lower() for n in strong[:2]]


def _runner_up(best: Candidate, second: Candidate, weights: Weights) -> str:
    better = _lead(second, best, weights)
    tail = f" It is better on {' and '.join(better)}." if better else ""
    tail += " It is over the budget." if second.over_budget and not best.over_budget and weights.cost > 0 else ""
    speaks = "".join(f" {one.words}" for one in second.known if one.change > 0)
    return f"{second.title[0].upper()}{second.title[1:]}: {second.case}{speaks}{tail}"
