"""Whatever parts somebody picks, in whatever car: no press that a finding offers leads round in a circle."""

from __future__ import annotations

from hypothesis import example, given, settings
from hypothesis import strategies as st

from ohmack.core.document.design import Intake
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.policy import Policy
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.evaluation.door import evaluate
from ohmack.core.figures.finding import Severity
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.demo.everyday_jobs import picked
from ohmack.demo.jobs import catalogue

NAMES = [tree["name"] for tree in catalogue() if tree["kind"] not in ("wire", "fuse")]
MOST_PRESSES = 25
TWO_ALIKE = ["Cooperage Backrest 10", "Cooperage Backrest 10"]
REVERSED = ["Kettleworth boxed 130, pair", "Tessel Five 75+350", "Pell & Fenn Slim 8 D4"]
BY_HAND = ["Tessel Four 70", "Morrowick 12 D2", "Pell & Fenn Coax 65, pair"]


@given(
    st.lists(st.sampled_from(NAMES), min_size=1, max_size=5), st.sampled_from(Body), st.sampled_from(Hand),
    st.sampled_from([1975, 1998, 2008, 2016]), st.integers(0, 3),
)  # fmt: skip
@settings(max_examples=60)
@example(TWO_ALIKE, Body.SALOON, Hand.LEFT, 2008, 0)
@example(REVERSED, Body.SALOON, Hand.LEFT, 1975, 0)
@example(BY_HAND, Body.COUPE, Hand.RIGHT, 2016, 0)
@example(BY_HAND, Body.COUPE, Hand.RIGHT, 2016, 2)
def test_nothing_that_is_offered_leads_round_in_a_circle(
    names: list[str], body: Body, hand: Hand, year: int, stay: int
) -> None:
    """No press brings back what a press was to mend, two rules never undo each other, and nothing unready is ready; of
    what stays in the car nothing is bought.
    """
    _, design = picked(new_design("any", new_vehicle("Dravel", "Any", year, body, hand), Intake(), Policy()), names)
    there = [part.id for part in design.parts][:stay]
    design = apply_edits(design, [Edit(path=f"parts/{name}/stands", value="already in the car") for name in there])
    pressed: list[tuple[str, str, str]] = []
    while True:
        result = evaluate(design)
        offered = next((f for f in result.findings if f.remedy is not None and f.remedy.edits), None)
        if offered is None or offered.remedy is None:
            break
        press = (offered.about, offered.title, offered.remedy.label)
        assert press not in pressed, [*pressed, press]
        pressed.append(press)
        assert len(pressed) <= MOST_PRESSES, pressed
        design = apply_edits(design, offered.remedy.edits)
    stopped = [f for f in result.findings if f.severity is Severity.STOP]
    assert not (stopped and result.verdict.state == "ready")
    cut = {cable.row.link_id for cable in result.results.cut_list.cables}
    assert cut.isdisjoint(link.id for link in result.design.links if link.in_car)
    assert len([row for row in result.results.order if row.group == "Parts"]) <= len(
        [part for part in design.parts if not part.in_car]
    )
