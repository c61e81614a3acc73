"""A block made for its drivers: nothing smaller does, and everything it is said to hold goes in."""

from __future__ import annotations

from itertools import product

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ohmack.core.box.cabin import built_as, proposed_for
from ohmack.core.document.boxes import Box
from ohmack.core.document.design import Intake
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.policy import Policy
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.evaluation.door import evaluate
from ohmack.core.physics.box_panels import BoxShape, made_of
from ohmack.core.physics.built_block import Inside, Wood, block_for_drivers
from ohmack.core.planning.placing import place_part
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.demo.building import catalogue, measured
from ohmack.demo.jobs import demo_design, demo_jobs

OF_THE_BOX = {"box-driver-fits", "box-openings", "box-volume", "fit"}


@settings(max_examples=60, deadline=None)
@given(
    st.floats(150.0, 380.0), st.integers(1, 2), st.floats(0.1, 0.3), st.floats(15.0, 160.0), st.integers(1, 2),
    st.integers(0, 1),
)  # fmt: skip
def test_it_holds_what_it_was_made_for(
    hole_mm: float, holes: int, deep_m: float, net_l: float, fronts: int, braces: int
) -> None:
    """By the panels of another module, and by Pythagoras for two holes: their middles stand far enough apart."""
    board_m = 0.018
    inside = Inside((hole_mm,) * holes, 0.1 * hole_mm, deep_m, net_l, 3.0)
    block = block_for_drivers(inside, Wood(board_m, fronts, braces), None, None)
    assert block is not None
    shape = BoxShape(block.length_m, block.length_m, block.width_m, block.height_m, board_m, fronts, braces)
    made = made_of(shape)
    leaves_l = 1000 * (made.gross_m3 - made.braces_m3) - 3.0
    assert leaves_l == pytest.approx(block.net_l)
    assert leaves_l >= net_l - 1e-6
    assert shape.depth_at_m(block.height_m / 2) >= deep_m - 1e-9
    wide_mm, high_mm = (1000 * (side - 2 * board_m) for side in (block.width_m, block.height_m))
    assert min(wide_mm, high_mm) >= hole_mm - 1e-6
    if holes == 2:
        apart_mm = ((wide_mm - hole_mm) ** 2 + (high_mm - hole_mm) ** 2) ** 0.5
        assert apart_mm >= 1.1 * hole_mm - 1e-6
    assert block.width_m >= block.height_m


def test_no_block_of_less_board_does() -> None:
    """Every block of whole centimetres inside 0.5 × 0.6 × 0.45 m, one after another."""
    room, board_m, hole_m = (0.5, 0.6, 0.45), 0.018, 0.233
    block = block_for_drivers(Inside((233.0,), 23.3, 0.143, 38.0, 1.9), Wood(board_m), room, (0.58, 0.44))
    assert block is not None

    def area_m2(sides: tuple[float, float, float]) -> float:
        one, two, three = sides
        return one * two + two * three + three * one

    best = min(
        area_m2(sides)
        for sides in product(*([n / 100 for n in range(20, 61)],) * 3)
        if (inner := [s - 2 * board_m for s in sides])
        and 1000 * inner[0] * inner[1] * inner[2] - 1.9 >= 38.0
        and min(inner[1], inner[2]) >= hole_m
        and inner[0] >= 0.143
        and sides[1] >= sides[2]
        and sides[2] <= 0.45
        and (max(sides[:2]) <= 0.6 and min(sides[:2]) <= 0.5)
    )
    assert area_m2((block.length_m, block.width_m, block.height_m)) == pytest.approx(best, rel=1e-9)
    assert block_for_drivers(Inside((233.0,), 23.3, 0.143, 138.0, 1.9), Wood(board_m), room, (0.58, 0.44)) is None


@pytest.mark.parametrize("subs", [1, 2])
def test_a_box_the_shop_builds_comes_as_large_as_its_drivers_want(subs: int) -> None:
    design = new_design("A box", new_vehicle("Orrin", "Tern", 2015, Body.SUV, Hand.LEFT), Intake(), Policy())
    trees = {tree["name"]: tree for tree in catalogue()}
    for name in ("Morrowick 15 D4",) * subs + ("Box built in the shop",):
        design = apply_edits(design, place_part(design, trees[name]))
    assert not {f.rule for f in evaluate(design).findings} & OF_THE_BOX
    small = apply_edits(design, [Edit(path=f"parts/box/{name}", value=0.3) for name in ("width_m", "height_m")])
    found = [f for f in evaluate(small).findings if f.rule == "box-driver-fits"]
    assert found
    assert found[-1].remedy is not None
    assert found[-1].remedy.label.startswith("Build it ")
    again = apply_edits(small, list(found[-1].remedy.edits))
    assert not {f.rule for f in evaluate(again).findings} & OF_THE_BOX


def test_a_box_that_is_proposed_gets_the_outside_that_leaves_its_air() -> None:
    """Closed and vented; in a space that has no room for it the outside stays."""
    number = next(n for n, job in enumerate(demo_jobs()) if job.title.startswith("Two fifteens"))
    design = demo_design(number)
    results = evaluate(design).results
    (one,) = results.boxes
    tried = 0
    for proposal in proposed_for(design, one):
        made = apply_edits(design, list(built_as(design, one, proposal)))
        found = evaluate(made)
        if "box-driver-fits" in {f.rule for f in found.findings}:
            continue
        (box,) = made.parts_of(Box)
        net = found.results.book.figures["box/net_l"].value
        assert box.box_type == proposal.box_type
        assert box.net_volume_l == pytest.approx(proposal.net_l, abs=0.06)
        assert box.net_volume_l - 0.1 <= net <= 1.05 * box.net_volume_l
        assert "box-vents" not in {f.rule for f in found.findings}
        tried += proposal.pipe is not None
    assert tried
    room = [
        measured(f"vehicle/spaces/space-rear/{name}", value)
        for name, value in (("length_m", 0.6), ("width_m", 1.0), ("height_m", 0.46))
    ]
    tight = apply_edits(design, room)
    largest = max(proposed_for(tight, one), key=lambda each: each.net_l)
    paths = {edit.path for edit in built_as(tight, one, largest)}
    assert "parts/box/width_m" not in paths
    assert "parts/box/net_volume_l" in paths
