"""A car that turns out to be of another kind: what was only usual follows, what somebody found stays."""

from __future__ import annotations

from itertools import product
from typing import Any

import pytest

from ohmack.core.document import Design
from ohmack.core.document.design import Intake
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.parts import Driver
from ohmack.core.document.policy import Policy
from ohmack.core.document.vehicle import Body, Hand, Powertrain, Vehicle
from ohmack.core.evaluation.door import evaluate
from ohmack.core.planning.brought_along import brought_along
from ohmack.core.planning.laying import follow
from ohmack.core.planning.options import with_survey
from ohmack.core.planning.part_added import added
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.demo.building import catalogue

TREES = {tree["name"]: tree for tree in catalogue()}


def empty(body: Body) -> Design:
    return new_design("t", new_vehicle("Ollery", "Finch", 2013, body, Hand.LEFT), Intake(), Policy())


def called(design: Design, **kind: Any) -> Design:
    """As a form does it: what follows is asked for again when it is saved, and changes nothing then."""
    edits = follow(design, [Edit(path=f"vehicle/{name}", value=value) for name, value in kind.items()])
    after = apply_edits(design, edits)
    assert apply_edits(after, brought_along(design, after, edits)) == after
    return after


def with_parts(design: Design, *names: str) -> Design:
    for name in names:
        design = apply_edits(design, added(design, TREES[name]))
    return design


def by_id(vehicle: Vehicle) -> dict[str, Any]:
    tree = vehicle.model_dump(mode="json")
    return tree | {"zones": {zone["id"]: zone for zone in tree["zones"]}}


@pytest.mark.parametrize("body", Body)
def test_an_untouched_car_becomes_what_it_would_have_been(body: Body) -> None:
    """Every body into every other, by turns hand of drive and powertrain with it: as if it had been opened so."""
    turns = list(product(Hand, (Powertrain.COMBUSTION, Powertrain.ELECTRIC)))
    for n, other in enumerate(Body, list(Body).index(body)):
        hand, powertrain = turns[n % len(turns)]
        found = called(empty(body), body=other, hand_of_drive=hand, powertrain=powertrain, year=1985)
        meant = new_vehicle("Ollery", "Finch", 1985, other, hand, powertrain)
        assert by_id(found.vehicle) == by_id(meant), (other, hand, powertrain)


def test_what_somebody_found_stays_and_parts_keep_their_place() -> None:
    """An estate that is a hatch: read and moved things stay, the rest is the hatch's; nothing planned is behind it."""
    design = empty(Body.ESTATE)
    names = ("Tessel Four 70", "Tessel M500", "Morrowick 10 D4", "Cooperage 28 closed", "Pell & Fenn Coax 65, pair")
    design = with_parts(design, *names)
    read = {"value": 3.4, "basis": "measured"}
    moved = {"x_m": 1.1, "y_m": -0.5}
    design = apply_edits(
        design,
        [
            Edit(path="vehicle/speakers/spk-fl/dc_resistance_ohm", value=read),
            Edit(path="vehicle/supply/batteries/battery/position", value=moved),
        ],
    )
    hatch = called(design, body="hatch")
    usual = new_vehicle("Ollery", "Finch", 2013, Body.HATCH, Hand.LEFT)
    assert hatch.vehicle.length_m == usual.length_m
    assert hatch.vehicle.spaces == usual.spaces
    (left,) = [s for s in hatch.vehicle.speakers if s.id == "spk-fl"]
    assert left.dc_resistance_ohm.value == 3.4
    assert left.position == usual.speakers[0].position
    assert hatch.vehicle.supply.batteries[0].position.x_m == 1.1
    share = usual.length_m.value / design.vehicle.length_m.value
    for part in design.parts:
        if part.position is not None and not isinstance(part, Driver):
            assert hatch.part(part.id).position.x_m == pytest.approx(part.position.x_m * share, abs=0.01)
    runs, before = evaluate(hatch).results.runs, evaluate(design).results.runs
    assert runs["power-amp"].length.value < before["power-amp"].length.value, "laid anew, for a shorter car"


def test_the_other_options_of_a_job_follow() -> None:
    """Of an option with another subwoofer: its parts stand in the hatch as if it had been drawn there."""
    first = with_parts(empty(Body.ESTATE), "Tessel M500", "Morrowick 10 D4", "Cooperage 28 closed")
    second = with_parts(
        empty(Body.ESTATE), "Cooperage Underseat 8", "Tessel M500", "Morrowick 12 D2", "Cooperage 15 closed"
    )
    found = with_survey(second, called(first, body="hatch"))
    drawn = with_parts(
        empty(Body.HATCH), "Cooperage Underseat 8", "Tessel M500", "Morrowick 12 D2", "Cooperage 15 closed"
    )
    assert [p.position for p in found.parts] == [p.position for p in drawn.parts] != [p.position for p in second.parts]
    length = [evaluate(design).results.runs["power-amp"].length.value for design in (found, drawn)]
    assert length[0] == pytest.approx(length[1], abs=0.02)
    assert with_survey(second, second) == second


def test_what_something_hangs_on_stays_in_a_car_that_has_none() -> None:
    """Rear doors become panels of none in a truck's cab; one with a new driver in it is kept, to be said anew."""
    design = empty(Body.SALOON)
    design = with_parts(design, "Pell & Fenn Coax 65, pair", "Pell & Fenn Coax 65, pair")
    rear = {name for driver in design.parts_of(Driver) for name in driver.at_ids if name.startswith("spk-r")}
    assert rear == {"spk-rl", "spk-rr"}
    truck = called(design, body="single-cab truck")
    assert rear <= {s.id for s in truck.vehicle.speakers}
    assert not {"spk-rl", "spk-rr"} & {
        s.id for s in called(empty(Body.SALOON), body="single-cab truck").vehicle.speakers
    }
