"""Trying parts: what the trial says is what happens when the part is taken."""

from __future__ import annotations

import pytest

from ohmack.core.document import Design
from ohmack.core.document.edits import apply_edits
from ohmack.core.evaluation.door import evaluate
from ohmack.core.figures.finding import Severity
from ohmack.core.planning.parts_tried import in_place_of, taking, try_part
from ohmack.demo.building import catalogue
from ohmack.demo.jobs import demo_design

JOBS = [0, 3, 4, 6, 8]


@pytest.mark.parametrize("number", JOBS)
@pytest.mark.parametrize("tree", catalogue(), ids=lambda t: t["name"])
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
