"""Which factory system is it? A short questionnaire: every answer shifts the odds, the next question decides most."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import cache
from math import log2

from ohmack.core.document.factory import Tier, Variant
from ohmack.core.document.vehicle import Vehicle
from ohmack.core.record import record
from ohmack.core.reference import read_toml

CERTAIN = 0.95  # from here on the verdict is taken as found
YES, NO = "yes", "no"
TELL_RIGHT = 0.97  # how often a car's own tell-tale holds, common practice
OUTSIDE_YEARS = 0.02  # how likely a variant is outside its model years, common practice
OTHER_KIND = 0.10  # weight left for a system that no known variant of the car has, common practice
DONT_KNOW = "cannot tell"


@record
class Hypothesis:
    """One thing the car may be: a general kind of system, or a variant it was sold in."""

    id: str
    name: str
    tier: Tier


@record
class Question:
    """One question with its answers and how likely each is on each hypothesis."""

    id: str
    text: str
    how: str
    minutes: int
    answers: tuple[str, ...]
    likelihood: tuple[tuple[float, ...], ...]  # (answers, hypotheses)


@record
class TierVerdict:
    """What the answers say so far."""

    ranked: tuple[tuple[Hypothesis, float], ...]
    answered: tuple[tuple[Question, str], ...]
    next_question: Question | None
    certain: bool
    by_tier: tuple[tuple[Tier, float], ...]

    @property
    def best(self) -> tuple[Tier, float]:
        """The likeliest kind of system and its certainty."""
        return self.by_tier[0]

    @property
    def contradicted(self) -> bool:
        """Whether the answers hardly go together on any hypothesis."""
        return len(self.answered) >= 2 and not self.certain and self.next_question is None


@cache
def _general() -> tuple[dict[Tier, float], tuple[dict[str, object], ...]]:
    raw = read_toml("tells")
    return dict(zip((Tier(t) for t in raw["tiers"]), raw["prior"], strict=True)), tuple(raw["question"])


def hypotheses(vehicle: Vehicle) -> tuple[tuple[Hypothesis, float], ...]:
    """What the car may be, with its weight before any answer.

    Parameters:
        vehicle: the car; its known variants take nine tenths of the weight where it has any.

    Returns:
        (hypothesis, prior), the priors summing to one.

    Source: common practice.
    """
    prior, _ = _general()
    general = [(Hypothesis(tier.value, tier.value, tier), weight) for tier, weight in prior.items()]
    if not vehicle.variants:
        return tuple(general)
    weights = [_in_years(variant, vehicle.year) for variant in vehicle.variants]
    total = sum(weights)
    known = [
        (Hypothesis(variant.id, variant.name, variant.tier), (1 - OTHER_KIND) * weight / total)
        for variant, weight in zip(vehicle.variants, weights, strict=True)
    ]
    return (*known, *((h, weight * OTHER_KIND) for h, weight in general))


def _in_years(variant: Variant, year: int | None) -> float:
    early = year is not None and variant.first_year is not None and year < variant.first_year
    late = year is not None and variant.last_year is not None and year > variant.last_year
    return OUTSIDE_YEARS if early or late else 1.0


def questions(vehicle: Vehicle) -> tuple[Question, ...]:
    """Every question that can be asked about a car, its own tell-tales first."""
    kinds = [h for h, _ in hypotheses(vehicle)]
    variants = {variant.id for variant in vehicle.variants}
    asked: list[Question] = []
    for tell in vehicle.tells:
        yes = tuple(
            0.5 if h.id not in variants else TELL_RIGHT if h.id in tell.shown_by else 1 - TELL_RIGHT for h in kinds
        )
        rows = (yes, tuple(1 - p for p in yes))
        asked.append(Question(f"tell-{tell.id}", tell.question, "Look at the car.", 2, (YES, NO), rows))
    prior, general = _general()
    column = {tier: number for number, tier in enumerate(prior)}
    for raw in general:
        answers: Mapping[str, Sequence[float]] = raw["answers"]  # type: ignore[assignment]
        table = tuple(tuple(shares[column[h.tier]] for h in kinds) for shares in answers.values())
        asked.append(
            Question(str(raw["id"]), str(raw["text"]), str(raw["how"]), int(str(raw["minutes"])), tuple(answers), table)
        )
    return tuple(asked)


def entropy_bits(shares: Sequence[float]) -> float:
    """How open a question is: 0 where one answer is sure.

    Parameters:
        shares: probabilities summing to one, shape (n,).

    Returns:
        entropy in bits.

    Source: Shannon 1948.
    """
    return -sum(p * log2(p) for p in shares if p > 0)


def _after(weights: Sequence[float], row: Sequence[float]) -> tuple[list[float], float]:
    joint = [w * p for w, p in zip(weights, row, strict=True)]
    total = sum(joint)
    return ([j / total for j in joint] if total > 0 else list(weights)), total


def expected_bits(question: Question, weights: Sequence[float]) -> float:
    """What a question is expected to tell.

    Parameters:
        question: the question.
        weights: probabilities of the hypotheses so far, shape (n,).

    Returns:
        expected fall of the entropy in bits.

    Source: Lindley 1956, expected information of an experiment.
    """
    rest = 0.0
    for row in question.likelihood:
        posterior, share = _after(weights, row)
        rest += share * entropy_bits(posterior)
    return entropy_bits(weights) - rest


def judge_tier(vehicle: Vehicle) -> TierVerdict:
    """The verdict on a car's factory system from the answers given so far.

    Parameters:
        vehicle: the car with its answers, variants and tell-tales.

    Returns:
        hypotheses by certainty, the answers that counted, and the question that would tell most for its time.

    Source: Bayes's rule with independent answers; shares of common practice.
    """
    kinds = hypotheses(vehicle)
    weights = [weight for _, weight in kinds]
    given = {answer.id: answer.answer.value for answer in vehicle.answers}
    answered: list[tuple[Question, str]] = []
    open_questions: list[Question] = []
    for question in questions(vehicle):
        words = given.get(question.id)
        if words in question.answers:
            weights, _ = _after(weights, question.likelihood[question.answers.index(words or "")])
            answered.append((question, words or ""))
        elif words is None:
            open_questions.append(question)
    ranked = tuple(
        sorted(((h, w) for (h, _), w in zip(kinds, weights, strict=True)), key=lambda pair: (-pair[1], pair[0].id))
    )
    totals = {tier: sum(w for h, w in ranked if h.tier is tier) for tier in Tier}
    by_tier = tuple(sorted(totals.items(), key=lambda pair: -pair[1]))
    certain = by_tier[0][1] >= CERTAIN and bool(answered)
    best = None
    if not certain and open_questions:
        best = max(open_questions, key=lambda q: expected_bits(q, weights) / (q.minutes + 4))
    return TierVerdict(ranked, tuple(answered), best, certain, by_tier)
