"""Parts that come over from a car that is sold: the same plan as bought ones make, theirs and not paid for."""

from __future__ import annotations

import pytest

from core.test_any_order import laid
from core.test_three_ways import saloon
from ohmack.core.document import Design
from ohmack.core.document.boxes import Box
from ohmack.core.document.design import Intake
from ohmack.core.document.edits import apply_edits
from ohmack.core.document.part import Phase, Stands
from ohmack.core.document.parts import Driver, Subwoofer
from ohmack.core.document.policy import Policy
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.evaluation.door import evaluate
from ohmack.core.factory.advice import advise
from ohmack.core.planning.coming_over import came_over, come_over, may_come
from ohmack.core.planning.copying import onto_another_car
from ohmack.core.planning.part_added import added
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.core.planning.strategy import priced
from ohmack.demo.building import catalogue
from ohmack.demo.jobs import demo_design, demo_jobs


def job(title: str) -> Design:
    return demo_design(next(n for n, one in enumerate(demo_jobs()) if one.title == title))


@pytest.mark.parametrize("number", range(len(demo_jobs())))
def test_every_job_moves_into_another_car(number: int) -> None:
    """Placed and wired as the same parts from the shelf are, whatever they were to the other car; nothing of it is
    bought or waited for by the shop, and what is cut to a car or made for it stays behind.
    """
    other = demo_design(number)
    usual = [part for part, comes in may_come(other) if comes]
    new = apply_edits(saloon(), come_over(saloon(), other, [part.id for part in usual]))
    assert sorted(p.kind for p in new.parts) == sorted(p.kind for p in usual)
    assert not {p.kind for p in usual} & {"wire", "fuse", "line cable", "mounting ring", "accessory"}
    assert not [p for p in other.parts if p.phase is Phase.LATER and p.id in {u.id for u in usual}]
    assert all(p.by_customer and p.stands is Stands.WANTED for p in new.parts)
    assert all(came_over(new, part) for part in usual if not part.name.endswith("second"))
    evaluation = evaluate(new)
    rows = [row for row in evaluation.results.order if row.part_id]
    assert len(rows) == len(usual)
    assert all(row.brought and row.price is None for row in rows)
    way = next(c for c in advise(new).ranked if "amplifier" in c.needs)
    known = {row.part: row.price for row in priced(new, way, catalogue()) if row.here}
    assert set(known.values()) <= {0.0}, "a way with what is theirs already"
    if usual:
        (own,) = [f for f in evaluation.findings if f.rule == "customer-part"]
        assert usual[0].name in own.title or f"× {usual[0].name}" in own.title


def test_they_are_wired_as_bought_ones_are() -> None:
    """Radio, five channels, four doors and a subwoofer: the same links as of the catalogue's, part by part."""
    other = job("Five channels, four doors and a box")
    usual = [part for part, comes in may_come(other) if comes]
    bought = saloon()
    trees = {tree["name"]: tree for tree in catalogue()}
    for part in usual:
        bought = apply_edits(bought, added(bought, trees[part.name]))
    moved = apply_edits(saloon(), come_over(saloon(), other, [part.id for part in usual]))
    assert laid(moved) == laid(bought)
    assert {d.at_ids for d in moved.parts_of(Driver)} == {d.at_ids for d in bought.parts_of(Driver)}
    costs = [evaluate(design).results.cost.value for design in (moved, bought)]
    paid = sum(p.price for p in bought.parts)
    assert costs[1] - costs[0] == pytest.approx(paid), "cable and fuses are paid for, the parts are not"


def test_a_plan_for_another_body_is_placed_and_wired_anew() -> None:
    """Of the same parts, bought: where they fit a hatch, not where the saloon had them; nothing read there is kept."""
    other = job("Five channels, four doors and a box")
    plan = onto_another_car(other, "J-0001", "Ollery", "Quill", 2019, body=Body.HATCH)
    fresh = new_design("t", new_vehicle("Ollery", "Quill", 2019, Body.HATCH, Hand.LEFT), Intake(), Policy())
    trees = {tree["name"]: tree for tree in catalogue()}
    for part in sorted(other.parts, key=lambda part: part.kind != "amplifier"):
        fresh = apply_edits(fresh, added(fresh, trees[part.name]))
    assert laid(plan) == laid(fresh)
    assert plan.vehicle.body is Body.HATCH
    assert plan.vehicle.length_m.value == fresh.vehicle.length_m.value < other.vehicle.length_m.value
    assert all(not p.by_customer and p.position.x_m < plan.vehicle.length_m.value for p in plan.parts if p.position)
    assert evaluate(plan, sweep_facts=True).verdict.headline == "Not ready to order"


def test_what_is_planned_for_later_stays_later_on_another_body() -> None:
    """Now the driver alone, later the amplifier: so on the saloon it is copied to; today's work is the same parts."""
    other = job("One driver now, an amplifier next year")
    plan = onto_another_car(other, "J-0001", "Ollery", "Quill", 2019, body=Body.SALOON)
    phases = {part.name: part.phase for part in plan.parts}
    assert phases == {part.name: part.phase for part in other.parts}
    assert Phase.LATER in phases.values()
    today = {part.name for part in evaluate(plan).results.design.parts}
    assert today == {name for name, phase in phases.items() if phase is Phase.NOW}
    moved = apply_edits(saloon(), come_over(saloon(), other, [part.id for part in other.parts]))
    assert all(part.phase is Phase.NOW for part in moved.parts), "what was never fitted does not move along"


def test_a_box_the_shop_built_is_the_box_it_is() -> None:
    """Too large for the other car's space it stays as large, and its boards are not cut again; its opening is the one
    its driver sat in.
    """
    other = job("A box across the back wall")
    (was,) = other.parts_of(Box)
    (sub,) = other.parts_of(Subwoofer)
    tree = saloon().model_dump(mode="json")
    small = {"value": 0.25, "basis": "measured"}
    for space in tree["vehicle"]["spaces"]:
        for edge in ("length_m", "width_m", "height_m", "opening_width_m", "opening_height_m"):
            space[edge] = small
    car = Design.model_validate(tree)
    moved = apply_edits(car, come_over(car, other, [was.id, sub.id]))
    (box,) = moved.parts_of(Box)
    assert (box.length_m, box.width_m, box.height_m) == (was.length_m, was.width_m, was.height_m)
    assert box.net_volume_l == was.net_volume_l
    assert box.boards.thickness_mm is None
    assert box.cut_out_mm == sub.cut_out_mm
    boards = next(tree for tree in catalogue() if tree["name"] == "Box built in the shop")
    assert next(apply_edits(car, added(car, boards)).parts_of(Box)).length_m < 0.25, "a new one is made to the space"
