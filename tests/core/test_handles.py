"""Typed handles: the path of a thing leads back to the thing, and of a picked field to the field."""

from __future__ import annotations

import pytest

from ohmack.core.document import Design
from ohmack.core.document.facts import Position
from ohmack.core.document.handles import at, at_id, at_the, cavity_at, field_of, sure, within
from ohmack.core.document.harness import Connector
from ohmack.core.document.links import PowerLink
from ohmack.core.document.paths import design_facts, get
from ohmack.core.document.registry import Each, scan, walk
from ohmack.core.document.vehicle import Supply
from ohmack.core.errors import UnknownName
from ohmack.demo.jobs import demo_design, demo_jobs


@pytest.mark.parametrize("number", range(len(demo_jobs())))
def test_the_path_of_a_thing_leads_to_it(number: int) -> None:
    """Every item of every collection that is not inside an item, and what there is one of."""
    design = demo_design(number)
    for collection in scan(Design).collections:
        if any(isinstance(step, Each) for step in collection.steps) or {"hunt", "radio"} & set(collection.steps):
            continue
        for found in walk(design, collection.steps):
            assert all(get(design, at(item)) is item for item in found.holder)
    for one in (design.vehicle, design.vehicle.supply, design.vehicle.radio, design.policy, design.intake):
        assert get(design, at(one)) is one
        assert at(one) == at_the(type(one))
    for connector in design.vehicle.connectors:
        for cavity in connector.cavities:
            assert get(design, cavity_at(connector, cavity)) is cavity
    for pair in design.vehicle.radio.channels:
        assert get(design, within(at(design.vehicle.radio, lambda it: it.channels), pair)) is pair
    for path, fact, owner, field in design_facts(design):
        if field == "post_running_v":
            assert isinstance(owner, Supply)
            assert path == at(owner, lambda it: it.post_running_v)
            assert get(design, path) is fact


def test_a_picked_field_is_the_way_to_it(estate: Design) -> None:
    run = next(estate.links_of(PowerLink))
    assert get(estate, at(run, lambda it: sure(it.fuse).from_source_m)) is sure(run.fuse).from_source_m
    assert at_id(PowerLink, run.id, lambda it: it.wire.size) == f"links/{run.id}/wire/size"
    assert at_the(Design, lambda it: it.parts) == "parts"
    assert at_the(Supply) == "vehicle/supply"
    with pytest.raises(UnknownName):
        field_of(lambda it: "parts/amp")
    for name in ("position", "name"):
        with pytest.raises(UnknownName):
            field_of(lambda it, name=name: name)
        with pytest.raises(UnknownName):
            field_of(lambda it: getattr(it, name))  # noqa: B023  (one lambda would mean two fields)
    with pytest.raises(UnknownName):
        at(run.way_points[0] if run.way_points else Position(x_m=1, y_m=0))


def test_what_stands_at_two_places_has_no_path_of_its_own() -> None:
    design = demo_design(6)
    with pytest.raises(UnknownName):
        at(design.vehicle.radio.channels[0])
    cavity = next(c for k in design.vehicle.connectors for c in k.cavities)
    with pytest.raises(UnknownName):
        at(cavity)
    assert at_the(Connector) == "vehicle/connectors"
