"""After one changed fact only what looked at it is worked out anew: the answer must be the one of a whole
evaluation.
"""

from __future__ import annotations

from typing import Any

import pytest

from ohmack.core.document import Design
from ohmack.core.document.looking import Remembered, listing, look
from ohmack.core.document.paths import design_facts, replace
from ohmack.core.document.strategy import StrategyKey
from ohmack.core.evaluation.answer import Evaluation
from ohmack.core.evaluation.door import Retracing, _once, evaluate
from ohmack.core.evaluation.sensitivity import probes, sweep
from ohmack.core.factory.advice import best_way
from ohmack.demo.jobs import demo_design, demo_jobs

CARS = range(len(demo_jobs()))
WHOLE = 4  # cars of which every fact is tried


class Exhaustive:
    """Every fact, every time a whole evaluation."""

    def __init__(self, design: Design) -> None:
        self._design = design
        self.read = self.steers = frozenset(path for path, _, _, _ in design_facts(design))
        self.best_way: StrategyKey | None = best_way(design)

    def after(self, path: str, value: Any) -> Evaluation:
        return _once(replace(self._design, f"{path}/value", value))


@pytest.mark.parametrize("number", CARS)
def test_one_changed_fact_gives_what_a_whole_evaluation_gives(number: int) -> None:
    """Every figure with its working, in its order, and every finding, for every value a fact may turn out to have."""
    design = demo_design(number)
    base, quick, slow = _once(design), Retracing(design), Exhaustive(design)
    tried = 0
    for place, (path, fact, owner, field) in enumerate(design_facts(design)):
        if number >= WHOLE and (place + number) % 4:
            continue  # of the first cars every fact, of the others each fourth, another fourth a car
        values = probes(fact, field, owner, base)
        if not values and isinstance(fact.value, float):
            values = [fact.value * 1.1]  # a measured value may be read again too
        if number < 2 and isinstance(fact.value, float):
            values = [*values, None]  # and one that is not known any more leaves figures empty, which is said
        for value in values:
            ours, theirs = quick.after(path, value), slow.after(path, value)
            assert list(ours.figures.items()) == list(theirs.figures.items()), path
            assert ours.findings == theirs.findings, path
            tried += 1
    assert tried > 10


@pytest.mark.parametrize("number", CARS[::3])  # the next test asks every car
def test_a_sweep_is_the_exhaustive_one(number: int) -> None:
    design = demo_design(number)
    tracing = Retracing(design)
    assert tracing.read < Exhaustive(design).read
    assert tracing.steers <= tracing.read
    assert evaluate(design, sweep_facts=True).measure_first == sweep(design, _once(design), Exhaustive(design))


def test_tracing_leaves_the_design_alone() -> None:
    design = demo_design(0)
    before = design.model_dump_json()
    Retracing(design).after("vehicle/supply/post_running_v", 13.9)
    assert design.model_dump_json() == before


def test_what_is_remembered_says_again_what_it_rests_on() -> None:
    """The second asker rests on the same facts as the first, though nothing is looked at for him."""
    made = []

    def make() -> str:
        made.append(1)
        look("a/value")
        with listing(set()):
            look("not for this one")
        return "answer"

    kept: Remembered[str] = Remembered(2)
    thing = object()
    for _ in range(2):
        with listing(set()) as looked:
            assert kept.get((thing,), "x", make) == "answer"
        assert looked == {"a/value"}
    assert len(made) == 1


# Facts that no evaluation of a plan looks at, and who does.
READ_ELSEWHERE = {
    ("Answer", "answer"): "the questionnaire's odds",
    ("Cavity", "use"): "never varied, it has no range",
    ("Module", "clip_step"): "the gain procedure",
    ("Radio", "clip_step"): "the gain procedure",
    ("Supply", "post_traffic_v"): "only of a car whose alternator lets it fall",
}


def test_whatever_is_asked_is_looked_at() -> None:
    """A fact somebody can enter and nothing reads is a question asked for nothing."""
    asked: set[tuple[str, str]] = set()
    read: set[tuple[str, str]] = set()
    for number in CARS:
        design = demo_design(number)
        looked = Retracing(design).read
        for path, _, owner, field in design_facts(design):
            asked.add((type(owner).__name__, field))
            read |= {(type(owner).__name__, field)} if path in looked else set()
    assert asked - read == READ_ELSEWHERE.keys()


@pytest.mark.parametrize("number", range(len(demo_jobs())))
def test_what_is_dear_is_made_for_nobody_who_did_not_ask(number: int) -> None:
    """Steps, quote and order are half an evaluation: no rule makes them while nothing is begun and nobody agreed to a
    quote, and none that a sweep asks again, whatever was done.
    """
    design = demo_design(number)
    begun = ("work", "proof", "handover")
    untouched = design.model_copy(update={name: type(getattr(design, name))() for name in begun})
    dear = {"work_plan", "quote", "order", "holes", "cut_list", "route_cards"}
    assert set(evaluate(untouched).results.__dict__) & dear == set()
    assert set(Retracing(design).after("vehicle/length_m", 4.1).results.__dict__) & dear == set()
