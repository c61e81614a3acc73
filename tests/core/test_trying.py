"""Trying parts: what the trial says is what happens when the part is taken."""

from __future__ import annotations

import pytest

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.evaluation.door import evaluate
from ohmack.core.figures.finding import Severity
from ohmack.core.planning.parts_tried import completed, in_place_of, taking, try_part, way_for
from ohmack.core.planning.starting_points import new_vehicle
from ohmack.demo.building import catalogue, measured
from ohmack.demo.jobs import demo_design

JOBS = [0, 3, 4, 6, 8]


TRIALS = [  # every part on every second job, another half of the jobs a part
    pytest.param(number, tree, id=f"{tree['name']}-{number}")
    for place, tree in enumerate(catalogue())
    for turn, number in enumerate(JOBS)
    if (place + turn) % 2 == 0
]


@pytest.mark.parametrize(("number", "tree"), TRIALS)
def test_a_trial_keeps_its_word(number: int, tree: dict[str, object]) -> None:
    design = demo_design(number)
    base = evaluate(design)
    trial = try_part(design, base, tree)
    assert not trial.refused, trial.refused
    taken = apply_edits(design, taking(design, tree))
    stops = {f.title for f in evaluate(taken).findings if f.severity is Severity.STOP}
    assert set(trial.new_stops) <= stops
    assert not set(trial.solved) & stops
    assert trial.fits == (not trial.new_stops)
    old = in_place_of(design, tree)
    assert len(taken.parts) == len(design.parts) + (old is None)
    assert any(p.name == tree["name"] for p in taken.parts)


@pytest.mark.parametrize("kind", ["amplifier", "subwoofer", "converter", "powered subwoofer"])
def test_in_an_empty_plan_a_part_is_tried_with_what_its_way_needs(kind: str) -> None:
    """No amplifier is refused because nobody has picked a subwoofer yet: it is judged in the way that would be laid."""
    car = new_vehicle("Dravel", "Minnow", 2009, Body.SALOON, Hand.RIGHT).model_dump()
    design = Design.model_validate({"vehicle": car, "intake": {"wishes": ["more bass"]}})
    base, way, trees = evaluate(design), way_for(design, kind), catalogue()
    assert way is not None
    for tree in (t for t in trees if t["kind"] == kind):
        alone, trial = try_part(design, base, tree), try_part(design, base, tree, way, trees)
        assert not alone.beside
        assert trial.beside or not alone.new_stops
        whole, beside = completed(design, tree, way, trees)
        if trial.beside:
            assert trial.beside == beside
            assert set(trial.new_stops) == {f.title for f in evaluate(whole).findings if f.severity is Severity.STOP}
        assert tree["name"] not in trial.beside
        assert len({part.kind for part in whole.parts} & {kind}) == 1
        assert "cost" not in [item.figure_id for item in trial.moved] or not trial.beside
    fitting = [t["name"] for t in trees if t["kind"] == kind and try_part(design, base, t, way, trees).fits]
    assert fitting, "the parts of the shelf go into an ordinary saloon"
    chosen = apply_edits(design, [Edit(path="strategy", value="powered subwoofer")])
    assert (way_for(chosen, "powered subwoofer") or way).key.value == "powered subwoofer"


def test_what_nobody_knows_is_no_verdict() -> None:
    car = new_vehicle("Dravel", "Minnow", 2009, Body.SALOON, Hand.RIGHT).model_dump()
    design = Design.model_validate({"vehicle": car})
    trial = try_part(design, evaluate(design), named("Quillon Q1 plain radio"), way_for(design, "radio"), catalogue())
    assert trial.only_asks
    assert not trial.fits
    assert all(words.startswith("Not known: dash opening") for words in trial.asks)
    known = apply_edits(design, [measured(f"vehicle/radio/opening_{side}_mm", size) for side, size in (
        ("width", 182.0), ("height", 102.0), ("depth", 165.0))])  # fmt: skip
    assert try_part(known, evaluate(known), named("Quillon Q1 plain radio"), way_for(known, "radio"), catalogue()).fits


def named(name: str) -> dict[str, object]:
    return next(t for t in catalogue() if t["name"] == name)


def test_what_an_installer_would_see_at_once(estate: Design) -> None:
    base = evaluate(estate)
    same = try_part(estate, base, named("Tessel M500"))
    assert same.fits
    assert not same.moved
    pocket = try_part(estate, base, named("Sprig LC1 pocket"))  # takes 12 V peak, the radio gives 9.2 V rms
    assert not pocket.fits
    assert any("into a converter that takes" in words for words in pocket.new_stops)
    small = try_part(estate, base, named("Tessel M300"))
    assert any("Power" in m.name or "power" in m.name for m in small.moved)
    saloon = demo_design(3)  # 52 mm behind the window: the slim pair solves what the deep one stops at
    slim = try_part(saloon, evaluate(saloon), named("Pell & Fenn Coax 52 slim, pair"))
    assert slim.replaces == ""
    screen = demo_design(6)  # 98 mm of opening: the plain radio solves what the screen stops at
    plain = try_part(screen, evaluate(screen), named("Quillon Q1 plain radio"))
    assert plain.replaces == "Quillon S2 screen radio"
    assert any("height" in words for words in plain.solved)
