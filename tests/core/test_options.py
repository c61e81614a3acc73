"""Options of a job: the survey is handed on whole, what hung on lost things goes, what differs comes first."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ohmack.core.document import Design
from ohmack.core.document.design import Intake
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.policy import Policy
from ohmack.core.document.strategy import StrategyKey
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.evaluation.door import evaluate
from ohmack.core.factory.strategies import ENOUGH
from ohmack.core.figures.finding import Severity
from ohmack.core.planning.offer import offer
from ohmack.core.planning.options import ROWS, chosen_way, compare_options, plain_words, with_survey
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.core.reference import read_toml
from ohmack.demo.jobs import demo_design, demo_jobs, other_option

REMOVABLE = [
    "speakers",
    "feeds",
    "ground_points",
    "passages",
    "modules",
    "factory_links",
    "zones",
    "spaces",
    "functions",
]


@settings(max_examples=40)
@given(
    st.integers(0, len(demo_jobs()) - 1),
    st.lists(st.tuples(st.sampled_from(REMOVABLE), st.integers(0, 40)), max_size=5),
)
def test_whatever_the_survey_loses_the_other_option_takes_over(number: int, losses: list[tuple[str, int]]) -> None:
    """The same survey afterwards, no dangling name (the document would refuse it), the parts all there."""
    design = source = demo_design(number)
    for name, index in losses:
        items = getattr(source.vehicle, name)
        if items:
            source = apply_edits(source, [Edit(op="remove", path=f"vehicle/{name}/{items[index % len(items)].id}")])
    source = apply_edits(source, [Edit(path="use/listens_h", value=3.0)])
    taken = with_survey(design, source)
    assert (taken.vehicle, taken.use) == (source.vehicle, source.use)
    assert taken.intake == source.intake
    assert [p.id for p in taken.parts] == [p.id for p in design.parts]
    assert Design.model_validate(taken.model_dump(mode="json")) == taken
    assert {k.id for k in taken.links} <= {k.id for k in design.links}
    assert (taken.policy, taken.strategy) == (design.policy, design.strategy)
    evaluate(taken)


def test_a_new_fact_and_a_new_thing_reach_the_other_option() -> None:
    first = demo_design(0)
    second = other_option(first, "Underseat", StrategyKey.POWERED_SUB)
    place = {"x_m": 1.0, "y_m": 0.3}
    found = apply_edits(
        first,
        [
            Edit(
                op="add",
                path="vehicle/modules",
                value={"id": "alarm", "name": "Alarm", "kind": "alarm", "position": place},
            ),
            Edit(path="vehicle/supply/post_running_v", value={"value": 13.9, "basis": "measured"}),
            Edit(path="intake/budget", value=900),
        ],
    )
    taken = with_survey(second, found)
    assert taken.vehicle.modules[-1].id == "alarm"
    assert taken.vehicle.supply.post_running_v.value == 13.9
    assert taken.intake.budget == 900
    assert taken.parts == second.parts
    assert taken.option_name == "Underseat"


def test_differences_come_first_and_every_option_has_its_value() -> None:
    first = demo_design(0)
    evaluations = [
        evaluate(first, sweep_facts=True),
        evaluate(other_option(first, "B", StrategyKey.POWERED_SUB), sweep_facts=True),
    ]
    rows = compare_options(evaluations)
    assert sorted(r.name for r in rows) == sorted(name for name, _ in ROWS)
    assert all(len(r.values) == 2 for r in rows)
    differing = [r.differs for r in rows]
    assert differing == sorted(differing, reverse=True)
    by_name = {r.name: r.values for r in rows}
    assert by_name["Way"] == ("pick up at the radio", "powered subwoofer")
    assert by_name["Power wire"] == ("4 AWG", "16 AWG")  # the powered subwoofer on a run of its own
    assert by_name["Main fuse"][0].startswith("60")
    assert not any(r.differs for r in compare_options([evaluations[0]] * 3))


@pytest.mark.parametrize("number", range(len(demo_jobs())))
def test_a_plain_line_for_the_customer(number: int) -> None:
    """No trade word a customer would have to ask about; the person's own line goes first."""
    design = demo_design(number)
    words = plain_words(design)
    assert words
    for term in ("RMS", "dB", "ohm", "Ω", "AWG", "high-pass", "line level", "sensitivity", "summed", "tap "):
        assert term not in words, (term, words)
    own = apply_edits(design, [Edit(path="option_note", value="Like the demo car, only quieter.")])
    assert plain_words(own) == "Like the demo car, only quieter."


def test_every_way_has_a_plain_line_of_its_own() -> None:
    lines = [row["plain"] for row in read_toml("strategies")["ways"].values() if isinstance(row, dict)]
    assert len(set(lines)) == len(list(StrategyKey))


def test_the_customers_page_adds_up_and_promises_nothing_that_is_open() -> None:
    """Sums by hand: parts and cable as the plan costs them, the way's hours at the shop's rate, the tax on both, which
    the customer pays out of the budget.
    """
    for number in range(len(demo_jobs())):
        design = demo_design(number)
        evaluation = evaluate(design)
        said = offer(evaluation)
        stops = [f for f in evaluation.findings if f.severity is Severity.STOP]
        assert bool(said.still_open) == bool(stops or not design.parts or said.total is None)
        if said.total is None or said.hours is None:
            continue
        assert evaluation.results.cost is not None
        way = read_toml("strategies")["ways"][design.strategy.value if design.strategy else ""]
        assert said.hours[0].value >= way["minutes"][0] / 60
        for figure in (*said.hours, *(said.labour or ()), *said.total):
            assert figure.value == pytest.approx(figure.again()), "its working gives it again"
            assert figure.grade is not None
        rate = design.policy.labour_rate
        for k in (0, 1):
            net = evaluation.results.cost.value + said.hours[k].value * rate
            together = net + net * design.policy.tax_percent / 100
            assert said.total[k].value == pytest.approx(together)
        budget = design.intake.budget
        if budget is not None:
            assert said.budget.startswith("within") == (said.total[1].value <= budget)
        assert len(said.asked) >= len(design.intake.wishes)


def test_a_wish_without_its_part_is_not_met_and_a_loss_is_said() -> None:
    base = demo_design(0)
    told = {a.words: a.met for a in offer(evaluate(base)).asked}
    assert told["more bass"] is True
    bare = apply_edits(base, [Edit(op="remove", path=f"parts/{p.id}") for p in base.parts if p.kind == "subwoofer"])
    assert {a.words: a.met for a in offer(evaluate(bare)).asked}["more bass"] is False
    nothing = base.model_copy(update={"parts": (), "links": ()})
    empty = offer(evaluate(nothing))
    assert (empty.parts, empty.total) == (None, None)
    assert {a.met for a in empty.asked if a.words in ("more bass", "hidden")} == {None}
    taken = apply_edits(base, [
        Edit(op="add", path="interventions", value={"id": "radio", "act": "taken out"}),
        Edit(path="intake/must_keep", value=["chimes"]),
    ])  # fmt: skip
    lost = offer(evaluate(taken))
    if lost.lost:
        assert {a.words: a.met for a in lost.asked}["keep chimes"] is False


def test_nothing_is_ticked_that_nobody_judged() -> None:
    """A plain radio brings no screen; a promise nobody traced, a plug nobody mapped and a wish without a way are open,
    not met.
    """

    def told(design: Design) -> dict[str, bool | None]:
        return {a.words: a.met for a in offer(evaluate(design)).asked}

    car = new_design("Plain", new_vehicle("Oxbow", "Plover", 2011, Body.HATCH, Hand.LEFT), Intake(), Policy())
    asked = [
        Edit(path="intake/wishes", value=["a modern screen", "hidden"]),
        Edit(path="intake/must_keep", value=["chimes"]),
        Edit(path="intake/reversible", value=True),
    ]
    for screen in (False, True):
        radio = {"kind": "radio", "id": "unit", "name": "Radio", "depth_mm": 120.0, "screen": screen}
        said = told(apply_edits(car, [*asked, Edit(op="add", path="parts", value=radio)]))
        assert said["a modern screen"] is (None if screen else False)
        assert (said["hidden"], said["keep chimes"], said["goes back to original"]) == (None, None, None)
    later = {"kind": "radio", "id": "unit", "name": "Radio", "depth_mm": 120.0, "screen": True, "phase": "later"}
    assert told(apply_edits(car, [*asked, Edit(op="add", path="parts", value=later)]))["a modern screen"] is None
    chosen = demo_design(0)
    way = chosen_way(chosen)
    assert way is not None
    for wish in chosen.intake.wishes:
        assert told(chosen)[wish.value] == (way.served[wish.value] >= ENOUGH)
