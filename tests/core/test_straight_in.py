"""Pairs of the radio straight into an amplifier that takes speaker level; a converter that comes later goes between.
Common practice, no source.
"""

from __future__ import annotations

import pytest

from ohmack.core.document import Design, Intake
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.factory import Tier
from ohmack.core.document.links import LineLink, TapLink
from ohmack.core.document.policy import Policy
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.evaluation.door import evaluate
from ohmack.core.planning.part_added import added
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.demo.building import catalogue

FOUR, MONO, DOORS = "Tessel Four 70", "Tessel M500", "Pell & Fenn Coax 65, pair"


def car(*names: str, tier: Tier = Tier.PLAIN) -> Design:
    vehicle = new_vehicle("Pallister", "Dunlin", 2012, Body.HATCH, Hand.LEFT)
    design = new_design("t", vehicle, Intake(), Policy())
    design = apply_edits(design, [Edit(path="vehicle/radio/tier/value", value=tier.value)])
    for name in names:
        design = apply_edits(design, added(design, next(t for t in catalogue() if t["name"] == name)))
    return design


def taps(design: Design) -> dict[str, tuple[str, ...]]:
    return {tap.to_id: tap.from_ids for tap in design.links_of(TapLink)}


def lacking(design: Design) -> list[tuple[str, str]]:
    found = (f for f in evaluate(design).findings if f.rule == "link-missing")
    return [(f.about, f.remedy.label if f.remedy else "") for f in found]


def test_straight_from_the_radio_by_what_it_drives() -> None:
    """Before speakers are picked all four pairs, after it those of their end; whichever comes first nothing lacks."""
    assert taps(car(FOUR, DOORS)) == {"amp": ("ch-fl", "ch-fr", "ch-rl", "ch-rr")}
    design = car(DOORS, FOUR)
    assert taps(design) == {"amp": ("ch-fl", "ch-fr")}
    assert not lacking(design)
    (signal,) = evaluate(design).results.signals
    assert signal.way.line is None
    assert signal.way.converter is None
    # a radio of 9 V peak into the doors' amplifier: its high-level input starts where the rms of that is reached
    assert signal.figures["sensitivity"].value is not None


def test_a_converter_that_comes_later_goes_between() -> None:
    between = car(DOORS, FOUR, "Sprig LC2 active")
    assert taps(between) == {"converter": ("ch-fl", "ch-fr")}
    assert [(line.from_id, line.to_id) for line in between.links_of(LineLink)] == [("converter", "amp")]
    waits = car(DOORS, FOUR, MONO, "Morrowick 10 D4", "Cooperage 28 closed")  # takes no speaker level
    assert lacking(waits) == [("amp-2", "Find a converter")]
    both = apply_edits(waits, added(waits, next(t for t in catalogue() if t["name"] == "Sprig LC2 active")))
    assert set(taps(both)) == {"converter"}
    assert {line.to_id for line in both.links_of(LineLink)} == {"amp", "amp-2"}, "as if it had been picked first"


def test_what_a_part_waits_for_is_there_or_is_looked_for() -> None:
    """A monoblock takes no speaker level: with a radio's line output in the plan it is wired up, without one a
    converter is looked for.
    """
    design = car("Quillon S2 screen radio", MONO, "Morrowick 10 D4", "Cooperage 28 closed")
    bare = apply_edits(design, [Edit(op="remove", path=f"links/{line.id}") for line in design.links_of(LineLink)])
    assert lacking(bare) == [("amp", "Wire it up")]
    assert lacking(car(MONO, "Morrowick 10 D4", "Cooperage 28 closed")) == [("amp", "Find a converter")]


@pytest.mark.parametrize("names", [(DOORS, FOUR), (FOUR, DOORS)], ids=["by two pairs", "by all of them"])
def test_a_new_radio_with_line_outputs_feeds_it_by_line(names: tuple[str, str]) -> None:
    design = car(*names, "Quillon S2 screen radio")
    assert not taps(design)
    assert {(line.from_id, line.to_id) for line in design.links_of(LineLink)} == {("radio-2", "amp")}
    assert not lacking(design)


def test_over_a_ring_there_is_nothing_to_take() -> None:
    design = car(DOORS, FOUR, tier=Tier.RING)
    assert not taps(design)
    assert lacking(design) == [("amp", "Find a converter")]
