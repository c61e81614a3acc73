"""Strategies: scale-free ranking, monotone marks, what each car allows, and parts laid in that hold together."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ohmack.core.document import Design
from ohmack.core.document.design import Keep, Wish
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.factory import Tier
from ohmack.core.document.functions import KeepAlive
from ohmack.core.document.strategy import StrategyKey, Weights
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.errors import UnknownName
from ohmack.core.evaluation.door import evaluate
from ohmack.core.factory.function_edits import functions_for
from ohmack.core.factory.functions import Fate, judge_functions
from ohmack.core.factory.strategies import CRITERIA, advise, weigh
from ohmack.core.figures.finding import Severity
from ohmack.core.planning.factory import modules_for
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.core.planning.strategy import ROLE_KINDS, filled, lay_strategy
from ohmack.core.reference import read_toml
from ohmack.demo.building import catalogue
from ohmack.demo.jobs import demo_design, demo_jobs

MARKS = st.fixed_dictionaries({name: st.floats(0, 1) for name in CRITERIA})
WEIGHTS = st.fixed_dictionaries({name: st.floats(0.05, 2.5) for name in CRITERIA})


def car(tier: Tier, *wishes: Wish, **intake: object) -> Design:
    front = demo_design(1).intake.model_copy(update={"wishes": wishes, "budget": None, "must_keep": (), **intake})
    design = new_design(
        "t", new_vehicle("Brindle", "Otter", 2014, Body.SALOON, Hand.LEFT), front, demo_design(1).policy
    )
    design = apply_edits(design, [Edit(path="vehicle/radio/tier/value", value=tier.value)])
    design = apply_edits(design, modules_for(design, tier))
    return apply_edits(design, functions_for(design))


@given(MARKS, WEIGHTS, st.floats(0.2, 2))
def test_only_the_ratios_of_weights_matter(marks: dict[str, float], given_: dict[str, float], factor: float) -> None:
    scaled = Weights(**{n: v * factor for n, v in given_.items()})
    assert weigh(marks, Weights(**given_)) == pytest.approx(weigh(marks, scaled))
    assert min(marks.values()) - 1e-9 <= weigh(marks, scaled) <= max(marks.values()) + 1e-9
    assert weigh(marks, Weights(**dict.fromkeys(CRITERIA, 0.0))) == pytest.approx(sum(marks.values()) / len(marks))


@settings(max_examples=15)
@given(WEIGHTS, st.floats(0.2, 2), st.integers(0, len(demo_jobs()) - 1))
def test_the_ranking_is_stable_under_scaling(weights: dict[str, float], factor: float, number: int) -> None:
    def order(scale: float) -> list[StrategyKey]:
        scaled = Weights(**{n: v * scale for n, v in weights.items()})
        return [c.key for c in advise(demo_design(number).model_copy(update={"weights": scaled})).ranked]

    assert order(1.0) == order(factor)


@given(st.sampled_from(CRITERIA), st.integers(0, len(demo_jobs()) - 1))
@settings(max_examples=20)
def test_weighing_one_thing_alone_puts_its_best_first(criterion: str, number: int) -> None:
    only = Weights(**(dict.fromkeys(CRITERIA, 0.0) | {criterion: 5.0}))
    ranked = [c for c in advise(demo_design(number).model_copy(update={"weights": only})).ranked if c.possible]
    for same in {(c.over_budget, len(c.short_of)) for c in ranked}:
        marks = [c.marks[criterion] for c in ranked if (c.over_budget, len(c.short_of)) == same]
        assert marks == sorted(marks, reverse=True)


def test_what_each_kind_of_system_allows() -> None:
    """Common practice, no source: no signal at the radio of a ring; nothing to keep or bypass without an amplifier."""

    def possible(tier: Tier) -> set[StrategyKey]:
        return {c.key for c in advise(car(tier)).ranked if c.possible}

    amplifier_only = {
        StrategyKey.AFTER_AMPLIFIER,
        StrategyKey.RADIO_KEEP_AMPLIFIER,
        StrategyKey.RADIO_BYPASS,
        StrategyKey.REPLACE_AMPLIFIER,
    }
    assert not possible(Tier.PLAIN) & amplifier_only
    assert amplifier_only < possible(Tier.AMPLIFIED)
    assert StrategyKey.RADIO_PICKUP not in possible(Tier.RING)
    assert StrategyKey.REPLACE_AMPLIFIER in possible(Tier.RING)
    assert StrategyKey.NEW_RADIO not in possible(Tier.RING)
    assert possible(Tier.NONE) == {StrategyKey.NEW_RADIO}
    for tier in Tier:
        for c in advise(car(tier)).ranked:
            assert c.possible != bool(c.why_not)


def test_the_demo_shop_recommends_every_strategy_once() -> None:
    best = {n: advise(demo_design(n)).best for n in range(len(demo_jobs()))}
    assert {c.key for c in best.values() if c} == set(StrategyKey)
    assert all(c.reasons for c in (advise(demo_design(n)) for n in best))
    chosen = {n: demo_design(n).strategy for n in best}
    for number, key in chosen.items():
        recommended = best[number]
        assert key is None or (recommended and recommended.key is key), number
    assert StrategyKey.RADIO_KEEP_AMPLIFIER in chosen.values()
    assert StrategyKey.RADIO_BYPASS in chosen.values()


def test_wishes_budget_and_functions_steer_the_advice() -> None:
    bass, clear = advise(car(Tier.PLAIN, Wish.BASS)).best, advise(car(Tier.PLAIN, Wish.CLARITY)).best
    assert bass is not None
    assert clear is not None
    assert bass.key is StrategyKey.RADIO_PICKUP
    assert clear.key is StrategyKey.DRIVER_SWAP  # no amplifier needed is a valid answer
    poor = advise(car(Tier.PLAIN, Wish.BASS, budget=200.0)).best
    assert poor is not None
    assert poor.key is StrategyKey.POWERED_SUB
    asked = car(Tier.AMPLIFIED, Wish.SCREEN, Wish.CLARITY, Wish.BASS, must_keep=(Keep.CHIMES,))
    asked = apply_edits(asked, functions_for(asked))
    way = next(c for c in advise(asked).ranked if c.key is StrategyKey.RADIO_BYPASS)
    applied = asked.model_copy(update={"interventions": way.interventions})
    assert {v.function.kind.value: v.fate for v in judge_functions(applied)} == {
        v.function.kind.value: v.fate for v in way.ledger
    }


@pytest.mark.parametrize("tier", list(Tier))
def test_every_way_lays_parts_that_hold_together(tier: Tier) -> None:
    """The needed roles are filled, links laid, functions as promised, and no Stop but for facts not known yet."""
    design = apply_edits(
        car(tier, Wish.BASS),
        [
            Edit(path=f"vehicle/radio/opening_{n}_mm", value={"value": mm, "basis": "measured"})
            for n, mm in (("width", 183), ("height", 115), ("depth", 180))
        ],
    )
    for candidate in advise(design).ranked:
        if not candidate.possible:
            with pytest.raises(UnknownName):
                lay_strategy(design, candidate.key.value, catalogue())
            continue
        laid = apply_edits(design, lay_strategy(design, candidate.key.value, catalogue()).edits)
        assert laid.strategy is candidate.key
        assert laid.interventions == candidate.interventions
        assert all(filled(laid, role) for role in candidate.needs if role in ROLE_KINDS), candidate.key
        assert {"amplifier" in candidate.needs or "powered subwoofer" in candidate.needs} == {
            any(k.kind == "power" for k in laid.links)
        }
        stops = [f for f in evaluate(laid).findings if f.severity is Severity.STOP]
        unknown = [f for f in stops if f.remedy and f.remedy.label == "Enter it"]
        assert not [f for f in stops if f.rule != "function-lost" and f not in unknown], (
            candidate.key,
            [f.title for f in stops],
        )
        assert (
            apply_edits(laid, lay_strategy(laid, candidate.key.value, catalogue()).edits) == laid
        )  # a second time changes nothing


def test_the_tables_obey_their_own_laws() -> None:
    ways, prices = read_toml("strategies")["ways"], read_toml("strategies")["roles"]["price"]
    assert {k.value for k in StrategyKey} == {name for name, row in ways.items() if isinstance(row, dict)}
    for row in (r for r in ways.values() if isinstance(r, dict)):
        assert set(row["serves"]) == {w.value for w in Wish}
        assert all(0 <= x <= 1 for x in (*row["serves"].values(), row["whole"], row["robust"]))
        assert row["minutes"][0] < row["minutes"][1]
        assert set(row["needs"]) <= set(prices)
        assert set(row["needs"]) <= set(ROLE_KINDS)
    assert all(low < high for low, high in prices.values())


def test_a_vital_function_is_never_sold_for_a_mark() -> None:
    """Whatever is recommended in the demo shop leaves nothing vital and nothing asked for lost that a measure could
    keep.
    """
    for number in range(len(demo_jobs())):
        best = advise(demo_design(number)).best
        assert best is not None
        assert not [v for v in best.ledger if v.fate is Fate.LOST and v.measures], number


def test_another_way_takes_its_own_parts_out_and_keeps_what_a_person_chose() -> None:
    """A car with a ring: measures and parts of a person stay through a change of the way, those of the way before
    go.
    """
    design = car(Tier.RING, Wish.BASS)
    possible = [c.key for c in advise(design).ranked if c.possible]
    first, second = StrategyKey.AFTER_AMPLIFIER, StrategyKey.POWERED_SUB
    assert {first, second} <= set(possible)
    one = apply_edits(design, lay_strategy(design, first.value, catalogue()).edits)
    assert {p.laid_by for p in one.parts} == {first}
    mine, ordered = one.parts[0], one.parts[1]
    one = apply_edits(
        one,
        [
            Edit(path=f"parts/{mine.id}/laid_by", value=None),
            Edit(path=f"parts/{ordered.id}/stands", value="ordered"),
        ],
    )
    done = lay_strategy(one, second.value, catalogue())
    two = apply_edits(one, done.edits)
    fresh = apply_edits(design, lay_strategy(design, second.value, catalogue()).edits)
    assert {p.name for p in two.parts} == {p.name for p in fresh.parts} | {mine.name, ordered.name}
    assert set(done.idle) == {mine.name, ordered.name} - {p.name for p in fresh.parts}
    assert set(done.taken_out) == {p.name for p in one.parts} - {p.name for p in two.parts}
    assert done.taken_out
    for name in (*done.put_in, *done.taken_out, *done.idle):
        assert name in done.sentence


def test_a_measure_a_person_chose_stays_when_the_way_changes() -> None:
    design = car(Tier.RING, Wish.BASS)
    radio = design.vehicle.radio.id
    board = [{"id": radio, "act": "replaced", "keep_alive": [KeepAlive.BOARD.value]}]
    chosen = apply_edits(design, [Edit(path="interventions", value=board)])
    ways = [c for c in advise(design).ranked if c.possible and any(i.id == radio for i in c.interventions)]
    assert ways
    for way in ways:
        done = lay_strategy(chosen, way.key.value, catalogue())
        laid = apply_edits(chosen, done.edits)
        there = next(i for i in laid.interventions if i.id == radio)
        assert KeepAlive.BOARD in there.keep_alive, way.key
        assert KeepAlive.BOARD.value in done.sentence
        untouched = apply_edits(design, lay_strategy(design, way.key.value, catalogue()).edits)
        again = apply_edits(untouched, lay_strategy(untouched, way.key.value, catalogue()).edits)
        assert again == untouched
