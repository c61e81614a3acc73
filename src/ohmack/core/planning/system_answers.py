"""What was answered about the factory system, and its verdict, entered into the car."""

from __future__ import annotations

from typing import Any

from ohmack.core.document import Basis, Design, Fact
from ohmack.core.document.edits import Edit
from ohmack.core.document.factory import Radio
from ohmack.core.document.handles import at, at_the
from ohmack.core.document.parts import Driver
from ohmack.core.document.vehicle import Speaker, Vehicle
from ohmack.core.factory.system import CERTAIN, Question, judge_tier
from ohmack.core.factory.usual_modules import modules_for


def answer_question(design: Design, question: Question, words: str, who: str, when: str) -> tuple[Edit, ...]:
    """Edits that note an answer of the questionnaire; an earlier answer to the question is replaced.

    Parameters:
        design: the design.
        question: the question.
        words: one of its answers, or that it cannot be told.
        who: who looked.
        when: the date.

    Returns:
        the edits.
    """
    fact = {"value": words, "basis": "measured", "how": "by eye", "who": who, "when": when}
    said = next((answer for answer in design.vehicle.answers if answer.id == question.id), None)
    more = _what_it_means(design, question, words, fact)
    if said is not None:
        return (Edit(path=at(said, lambda it: it.answer), value=fact), *more)
    new = {"id": question.id, "answer": fact}
    return (Edit(op="add", path=at_the(Vehicle, lambda it: it.answers), value=new), *more)


def _what_it_means(design: Design, question: Question, words: str, fact: dict[str, Any]) -> tuple[Edit, ...]:
    """What an answer says about the car beside its system: a box that was seen is fitted, and where no speaker is,
    none is on file that nobody looked at.
    """
    vehicle = design.vehicle
    if question.id == "box-found" and words != "none found":
        seen = [m for m in vehicle.modules if m.amplifies and m.fitted.basis is Basis.ASSUMED]
        return tuple(Edit(path=at(m, lambda it: it.fitted), value={**fact, "value": True}) for m in seen)
    if question.id == "speakers-count" and words == "none":
        planned = {name for part in design.parts_of(Driver) for name in part.at_ids}
        guessed = [s for s in vehicle.speakers if s.id not in planned and not s.new_place and _untouched(s)]
        return tuple(Edit(op="remove", path=at(s)) for s in guessed)
    return ()


def _untouched(speaker: Speaker) -> bool:
    """Whether nothing about a speaker was read or looked up yet."""
    facts = (value for value in (getattr(speaker, name) for name in Speaker.model_fields) if isinstance(value, Fact))
    return all(value.basis is Basis.ASSUMED or value.value is None for value in facts)


def take_verdict(design: Design, who: str, when: str) -> tuple[Edit, ...]:
    """Edits that enter the questionnaire's verdict as the fact it is: found where certain, else assumed with the rest
    open.

    Parameters:
        design: the design.
        who: who answered.
        when: the date.

    Returns:
        the edits: the fact, and the modules of that kind.
    """
    verdict = judge_tier(design.vehicle)
    tier, share = verdict.best
    note = f"questionnaire, {share:.0%} certain after {len(verdict.answered)} answers"
    fact: dict[str, Any] = {"value": tier.value, "who": who, "when": when, "note": note}
    if share >= CERTAIN:
        fact |= {"basis": "measured", "how": "by eye"}
    else:
        fact |= {"basis": "assumed", "how": "not checked",
                 "alternatives": [t.value for t, p in verdict.by_tier[1:] if p >= 1 - CERTAIN]}  # fmt: skip
    return (Edit(path=at_the(Radio, lambda it: it.tier), value=fact), *modules_for(design, tier))
