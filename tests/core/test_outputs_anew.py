"""An amplifier taken in another's place drives what the old one did, from the channels it is best on."""

from __future__ import annotations

import pytest

from ohmack.core.document import Design
from ohmack.core.document.design import Intake
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.links import LineLink, SpeakerLink
from ohmack.core.document.policy import Policy
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.evaluation.door import evaluate
from ohmack.core.figures.finding import Severity
from ohmack.core.planning.part_added import added
from ohmack.core.planning.parts_tried import taking, try_part, way_for
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.demo.building import catalogue

TREES = {tree["name"]: tree for tree in catalogue()}
FIVE, FOUR, TWO = "Tessel Five 75+350", "Tessel Four 70", "Tessel Two 200"


def planned(source: str, amplifier: str = FOUR) -> Design:
    """Two front doors and a subwoofer with two coils of 4 Ω on one amplifier."""
    vehicle = new_vehicle("Hask", "Tern", 2010, Body.SALOON, Hand.RIGHT)
    design = new_design("t", vehicle, Intake(), Policy())
    for name in (amplifier, "Pell & Fenn Coax 65, pair", "Morrowick 10 D4", "Cooperage 28 closed", source):
        design = apply_edits(design, added(design, dict(TREES[name])))
    return design


def outputs(design: Design) -> dict[str, tuple[int, bool]]:
    return {link.to_id: (link.channel, link.bridged) for link in design.links_of(SpeakerLink)}


def lines(design: Design) -> list[tuple[int, tuple[int, ...]]]:
    return sorted((link.pair, link.channels) for link in design.links_of(LineLink))


def bass_w(design: Design) -> float:
    """What the subwoofer's output gives [w]."""
    evaluation = evaluate(design)
    (load,) = [load for load in evaluation.results.loads if load.link.to_id == "sub"]
    return float(evaluation.figures[f"{load.scope}/power_w"].value)


def test_a_subwoofer_goes_to_the_channel_made_for_it() -> None:
    """350 W at 2 Ω from the fifth channel instead of 140 W from two bridged ones at 8 Ω: the coils go parallel (data
    sheets, Ohm's law). What is set and laid at an output stays.
    """
    design = planned("Quillon S2 screen radio")
    assert outputs(design) == {"spk-fl": (1, False), "spk-fr": (2, False), "sub": (3, True)}
    assert [channels for _, channels in lines(design)] == [(1, 2), (3, 4)]
    name = {link.to_id: link.id for link in design.links_of(SpeakerLink)}
    kept = {f"links/{name['spk-fl']}/high_pass_hz": 95.0, f"links/{name['sub']}/delay_ms": 2.5}
    design = apply_edits(design, [Edit(path=path, value=value) for path, value in kept.items()])
    (sub_line,) = [line for line in design.links_of(LineLink) if line.channels == (3, 4)]
    taped = {f"links/{sub_line.id}/tape_length_m": {"value": 4.2, "basis": "measured"},
             f"links/{sub_line.id}/level_db": -3.0}  # fmt: skip
    design = apply_edits(design, [Edit(path=path, value=value) for path, value in taped.items()])
    swapped = apply_edits(design, taking(design, dict(TREES[FIVE])))
    (kept_line,) = [line for line in swapped.links_of(LineLink) if line.pair == sub_line.pair]
    assert (kept_line.level_db, kept_line.tape_length_m.value) == (-3.0, 4.2)
    assert outputs(swapped) == {"spk-fl": (1, False), "spk-fr": (2, False), "sub": (5, False)}
    assert [channels for _, channels in lines(swapped)] == [(1, 2), (5,)]
    (load,) = [load for load in evaluate(swapped).results.loads if load.link.to_id == "sub"]
    assert (load.chosen.net, load.link.id, load.link.delay_ms) == ("2.00 Ω", name["sub"], 2.5)
    assert next(k for k in swapped.links_of(SpeakerLink) if k.to_id == "spk-fl").high_pass_hz == 95.0
    assert [bass_w(design), bass_w(swapped)] == [pytest.approx(140.0), pytest.approx(350.0)]
    back = apply_edits(swapped, taking(swapped, dict(TREES[FOUR])))
    assert (outputs(back), lines(back)) == (outputs(design), lines(design))


def test_nothing_falls_silent_unsaid() -> None:
    """Two channels cannot drive three outputs: they stay as they were, and what stops it is said."""
    design = planned("Quillon S2 screen radio")
    swapped = apply_edits(design, taking(design, dict(TREES[TWO])))
    assert outputs(swapped) == outputs(design)
    trial = try_part(design, evaluate(design), dict(TREES[TWO]), None)
    assert any("the plan uses channel" in title for title in trial.new_stops)


def test_what_a_part_eases_is_said_and_nothing_else_is_bought_with_it() -> None:
    """Where the signal is picked up already no new radio is tried with it, best way or not."""
    design = planned("Sprig LC2 active")
    way, base = way_for(design, "amplifier"), evaluate(design)
    assert way is not None
    assert "radio" not in way.needs
    trials = {name: try_part(design, base, dict(TREES[name]), way, catalogue()) for name in (FIVE, FOUR)}
    assert trials[FIVE].eased == ("Morrowick 10 D4 gets 31 % of what it takes",)
    assert (trials[FOUR].eased, trials[FOUR].same) == ((), True)
    assert trials[FIVE].rank < trials[FOUR].rank
    assert not any("radio" in name for trial in trials.values() for name in trial.beside)
    empty = new_design("t", design.vehicle, Intake(), Policy())
    first = way_for(empty, "radio")
    assert first is not None
    assert "radio" in first.needs


def test_what_is_judged_of_the_whole_plan_alone_is_eased_by_no_part() -> None:
    """A quote is made of the plan that stands, of none that is tried: no part takes the customer's budget off."""
    design = planned("Sprig LC2 active")
    parts = evaluate(design).results.cost
    assert parts is not None
    dear = apply_edits(design, [Edit(path="intake/budget", value=1.25 * parts.value)])
    base = evaluate(dear, sweep_facts=True)
    assert "quote-over-budget" in {f.rule for f in base.findings if f.severity is Severity.WATCH}
    for name in (FIVE, FOUR):
        assert not any("budget" in title for title in try_part(dear, base, dict(TREES[name])).eased)


def test_a_processor_in_a_converters_place_has_a_pair_for_each() -> None:
    """Three pairs instead of one (data sheets): the doors hear the first, the subwoofer one of its own."""
    design = planned("Sprig LC2 active", FIVE)
    base = evaluate(design)
    (few,) = [f for f in base.findings if f.rule == "line-pairs"]
    assert few.remedy is not None
    assert few.remedy.query == "kind=converter&instead=converter"
    assert lines(design) == [(1, ())]
    trial = try_part(design, base, dict(TREES["Quillon six-way processor"]), None, (), "converter")
    assert trial.after is not None
    assert trial.replaces == "Sprig LC2 active"
    assert lines(trial.after.design) == [(1, (1, 2)), (3, (5,))]
    assert trial.eased == (few.title,)
    assert [part.kind for part in trial.after.design.parts].count("processor") == 1
    assert "converter" not in [part.kind for part in trial.after.design.parts]
    beside = try_part(design, base, dict(TREES["Quillon six-way processor"]), None)
    assert beside.replaces == "", "another kind takes no place it was not asked to"
    assert not try_part(design, base, dict(TREES["Tessel M300"]), None, (), "converter").replaces.startswith("Sprig")


def test_a_line_to_something_else_stays_when_a_converter_is_exchanged() -> None:
    """What is not fed anew is not taken away: a converter's line into a processor."""
    design = planned("Sprig LC2 active", FIVE)
    design = apply_edits(design, added(design, dict(TREES["Quillon six-way processor"])))
    line = {"kind": "line", "id": "line-on", "from_id": "converter", "to_id": "processor"}
    design = apply_edits(design, [Edit(op="add", path="links", value=line)])
    more = {**TREES["Sprig LC2 active"], "name": "Two pairs", "output_pairs": 2}
    after = apply_edits(design, taking(design, more, "converter"))
    assert "line-on" in {link.id for link in after.links_of(LineLink)}
