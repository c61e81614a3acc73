"""Cables find their way: round every zone, through the bulkhead only at a way, and after whatever moves."""

from __future__ import annotations

from itertools import pairwise

import networkx as nx
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ohmack.core.document import Design
from ohmack.core.document.boxed import boxed
from ohmack.core.document.boxes import Box
from ohmack.core.document.cabin import ZoneKind
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.facts import Position
from ohmack.core.document.links import PowerLink, SpeakerLink
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.errors import NotPossible
from ohmack.core.evaluation.door import evaluate
from ohmack.core.fit.zones import TOUCHES_M
from ohmack.core.physics.geometry import Point, crossing_y_m, length_inside_m, plan_length_m
from ohmack.core.planning import routing
from ohmack.core.planning.laying import follow, lay_anew
from ohmack.core.planning.moving import insert_way_point, move_to, put_in, spots
from ohmack.core.planning.part_added import added
from ohmack.core.planning.remedies import edits_of
from ohmack.core.planning.routing import TURN_M, Lane, floor_of, route
from ohmack.core.planning.starting_points import new_vehicle
from ohmack.demo.building import catalogue
from ohmack.demo.jobs import demo_design, demo_jobs

FLOORS = {body: floor_of(Design(vehicle=new_vehicle("A", "B", 2015, body, Hand.RIGHT))) for body in Body}


def bends_of(start: Point, ways: tuple[Point, ...], end: Point) -> int:
    points = [start, *ways, end]
    flat = [abs(a[1] - b[1]) < abs(a[0] - b[0]) for a, b in pairwise(points) if a != b]
    return sum(a != b for a, b in pairwise(flat))


def outside(floor: routing.Floor, point: Point) -> bool:
    return not any(x0 <= point[0] <= x1 and y0 <= point[1] <= y1 for x0, x1, y0, y1 in floor.hard)


@given(
    st.sampled_from(list(Body)),
    st.floats(0.05, 0.95), st.floats(-0.85, 0.85), st.floats(0.05, 0.95), st.floats(-0.85, 0.85),
    st.sampled_from([-1, 0, 1]),
)  # fmt: skip
@settings(max_examples=150, deadline=None)
def test_a_way_keeps_clear_of_every_zone_and_goes_through_a_way(
    body: Body, x1: float, y1: float, x2: float, y2: float, side: int
) -> None:
    floor = FLOORS[body]
    start = (round(x1 * floor.length_m, 2), round(y1 * floor.half_m, 2))
    end = (round(x2 * floor.length_m, 2), round(y2 * floor.half_m, 2))
    ways = route(floor, start, end, Lane(0.13), side)
    points = (start, *ways, end)
    assert plan_length_m(points) >= abs(start[0] - end[0]) + abs(start[1] - end[1]) - 0.03
    for a, b in pairwise(points):
        assert min(abs(a[0] - b[0]), abs(a[1] - b[1])) < 0.011, "along or across, never aslant"
    for x, y in ways:
        assert 0 <= x <= floor.length_m
        assert abs(y) <= floor.half_m + 0.01
    if outside(floor, start) and outside(floor, end):
        for x0, x_end, y0, y_end in floor.hard:
            middle, size = ((x0 + x_end) / 2, (y0 + y_end) / 2), (x_end - x0 - 0.06, y_end - y0 - 0.06)
            assert length_inside_m(points, middle, *size) < TOUCHES_M
    wall = floor.bulkhead_m
    if (start[0] - wall) * (end[0] - wall) < -0.01 and floor.ways_y_m:
        y_m = crossing_y_m(points, wall)
        assert y_m is not None
        assert min(abs(y_m - way) for way in floor.ways_y_m) <= routing.WAY_M + 0.01


@pytest.mark.parametrize("body", [Body.ESTATE, Body.PICKUP, Body.TWO_SEATER])
def test_no_way_is_cheaper_than_the_one_that_is_taken(body: Body) -> None:
    """networkx finds the same least price over the same lines, bends counted."""
    floor = FLOORS[body]
    ends = (round(0.2 * floor.length_m, 3), 0.4), (round(0.8 * floor.length_m, 3), -0.1)
    grid = routing._grid(floor, ends, Lane(0.13), 1, ())
    graph = nx.DiGraph()
    for column in range(len(grid.xs)):
        for row in range(len(grid.ys)):
            for to, price in _pieces(grid, column, row):
                step = 0 if to[1] == row else 1
                for heading in (0, 1):
                    bend = TURN_M if heading != step else 0.0
                    graph.add_edge((column, row, heading), (*to, step), weight=price + bend)
    start, goal = ((grid.xs.index(x), grid.ys.index(y)) for x, y in ends)
    least = min(nx.dijkstra_path_length(graph, (*start, first), (*goal, last)) for first in (0, 1) for last in (0, 1))
    taken = [ends[0], *route(floor, *ends, Lane(0.13), 1), ends[1]]
    price = TURN_M * bends_of(taken[0], tuple(taken[1:-1]), taken[-1])
    for a, b in pairwise(taken):
        here, goal_here = _near(grid, a), _near(grid, b)
        while here != goal_here:
            dx = (goal_here[0] > here[0]) - (goal_here[0] < here[0])
            dy = 0 if dx else (goal_here[1] > here[1]) - (goal_here[1] < here[1])
            there = (here[0] + dx, here[1] + dy)
            price += dict(_pieces(grid, *here))[there]
            here = there
    assert price == pytest.approx(least)


def _pieces(grid: routing.Grid, column: int, row: int) -> list[tuple[tuple[int, int], float]]:
    found = []
    if column + 1 < len(grid.xs):
        found.append(((column + 1, row), grid.along[column][row]))
    if column:
        found.append(((column - 1, row), grid.along[column - 1][row]))
    if row + 1 < len(grid.ys):
        found.append(((column, row + 1), grid.across[column][row]))
    if row:
        found.append(((column, row - 1), grid.across[column][row - 1]))
    return found


def _near(grid: routing.Grid, point: Point) -> tuple[int, int]:
    def near(values: tuple[float, ...], wanted: float) -> int:
        return min(range(len(values)), key=lambda i: abs(values[i] - wanted))

    return near(grid.xs, point[0]), near(grid.ys, point[1])


def test_a_metre_costs_what_lies_there() -> None:
    """Along the sill a metre costs one; through a rail, a seat, the tunnel or the wall what their tables say."""
    floor = FLOORS[Body.ESTATE]
    sill = floor.half_m - 0.13
    grid = routing._grid(floor, ((2.0, sill), (4.0, sill)), Lane(0.13), 1, ())
    row = grid.ys.index(round(sill, 3))
    along = sum(grid.along[c][row] for c in range(grid.xs.index(2.0), grid.xs.index(4.0)))
    assert along == pytest.approx(2.0), "on the lane, on its side"
    other = grid.ys.index(round(-sill, 3))
    wrong = sum(grid.along[c][other] for c in range(grid.xs.index(2.0), grid.xs.index(4.0)))
    assert wrong == pytest.approx(2.0 * (1.0 + routing.OTHER_SIDE))
    x0, x1, y0, y1 = floor.hard[0]
    inside = next(n for n, x in enumerate(grid.xs[:-1]) if x0 - 1e-6 <= x and grid.xs[n + 1] <= x1 + 1e-6)
    rows = [n for n, y in enumerate(grid.ys) if y0 + 0.005 < y < y1 - 0.005]
    for n in rows:
        metre = grid.along[inside][n] / (grid.xs[inside + 1] - grid.xs[inside])
        assert metre >= routing.HARD
    wall = grid.xs.index(round(floor.bulkhead_m, 3))
    closed = [n for n, y in enumerate(grid.ys) if all(abs(y - way) > routing.WAY_M for way in floor.ways_y_m)]
    assert all(grid.along[wall - 1][n] >= routing.WALL for n in closed)
    passing = [n for n in range(len(grid.ys)) if n not in closed]
    assert passing
    assert all(grid.along[wall - 1][n] < routing.WALL for n in passing)


def test_runs_follow_what_moves_until_a_person_sets_them(estate: Design) -> None:
    before = next(k for k in estate.links_of(PowerLink))
    moved = apply_edits(estate, follow(estate, move_to("parts/amp", 3.0, -0.4)))
    after = next(k for k in moved.links_of(PowerLink))
    assert after.way_points != before.way_points
    assert after.way_points[-1].x_m == pytest.approx(3.0)
    assert not after.by_hand
    own = apply_edits(estate, follow(estate, insert_way_point(estate, "power-amp")))
    by_hand = next(k for k in own.links_of(PowerLink))
    assert by_hand.by_hand
    near = apply_edits(own, follow(own, move_to("parts/amp", 3.7, 0.1)))
    assert next(k for k in near.links_of(PowerLink)).way_points == by_hand.way_points, (
        "a small step bends the last piece"
    )
    far = apply_edits(own, follow(own, move_to("parts/amp", 2.4, -0.5)))
    anew = next(k for k in far.links_of(PowerLink))
    assert anew.way_points != by_hand.way_points
    assert not anew.by_hand


def test_a_driver_goes_with_its_box_and_takes_it_along() -> None:
    """In whatever order two drivers and two boxes are added; each driver's cable ends where its box is."""
    trees = {tree["kind"]: tree for tree in catalogue() if tree["name"] in ("Morrowick 12 D2", "Cooperage 28 closed")}
    mono = next(tree for tree in catalogue() if tree["name"] == "Tessel M1200")
    for order in (("box", "box", "subwoofer", "subwoofer"), ("subwoofer", "subwoofer", "box", "box")):
        design = Design(vehicle=new_vehicle("Amber", "Kestrel", 2015, Body.ESTATE, Hand.LEFT))
        for tree in (mono, *(trees[kind] for kind in order)):
            design = apply_edits(design, added(design, tree))
        _in_their_boxes(design)
        first, second = design.parts_of(Box)
        assert first.position != second.position
        assert second.name == "Cooperage 28 closed, second"
        moved = apply_edits(design, follow(design, move_to(f"parts/{second.id}", 2.9, 0.31)))
        _in_their_boxes(moved)
        assert [box.position for box in moved.parts_of(Box)] == [first.position, Position(x_m=2.9, y_m=0.31)]
        dragged = apply_edits(moved, follow(moved, move_to("parts/sub", 3.1, -0.2)))
        _in_their_boxes(dragged)
        assert next(dragged.parts_of(Box)).position == Position(x_m=3.1, y_m=-0.2)
        names = [run.end_name for run in evaluate(dragged).results.runs.values() if isinstance(run.link, SpeakerLink)]
        assert names == ["Morrowick 12 D2 A", "Morrowick 12 D2 B"], "two of one name are told apart as in Loads"


def _in_their_boxes(design: Design) -> None:
    runs = evaluate(design).results.runs
    for box, subs in boxed(design):
        (sub,) = subs
        assert sub.position == box.position
        (cable,) = (link for link in design.links_of(SpeakerLink) if link.to_id == sub.id)
        points = runs[cable.id].points
        assert box.position is not None
        assert points is not None
        assert points[-1] == box.position.point


def test_feeding_from_another_battery_lays_the_run_from_there(estate: Design) -> None:
    """Fed from the boot the cable is short, and does not go to the front wing and back."""
    second = {"id": "second", "name": "Boot battery", "position": {"x_m": 4.0, "y_m": -0.5}}
    design = apply_edits(estate, [Edit(op="add", path="vehicle/supply/batteries", value=second)])
    tied = apply_edits(design, follow(design, [Edit(path="links/power-amp/from_id", value="second")]))
    length_m = evaluate(tied).results.runs["power-amp"].points
    assert length_m is not None
    assert plan_length_m(length_m) < 1.5
    assert all(x > 3.0 for x, _ in length_m)


def test_every_demo_car_is_wired_clear_of_its_zones() -> None:
    for number in range(len(demo_jobs())):
        design = demo_design(number)
        anew = apply_edits(design, lay_anew(design, [k.id for k in design.links]))
        fixed = {zone.id for zone in design.vehicle.zones if zone.kind is ZoneKind.HEAT}
        ends = {p.position.point for p in design.parts if p.position}
        for crossing in evaluate(anew).results.crossings:
            run = evaluate(anew).results.runs.get(crossing.thing_id)
            if run is None or crossing.zone.id in fixed or run.link.kind == "ground":
                continue
            zone = crossing.zone
            inside = any(
                abs(x - zone.position.x_m) < zone.length_m and abs(y - zone.position.y_m) < zone.width_m
                for x, y in (*ends, *(run.points or ())[:1], *(run.points or ())[-1:])
            )
            assert inside, (number, crossing.name, zone.name)


def test_a_press_lays_a_run_round_the_zone_it_hits(estate: Design) -> None:
    rail = next(z for z in estate.vehicle.zones if z.kind is ZoneKind.SEAT_RAIL)
    x_m, y_m = rail.position.point
    across = [{"x_m": x_m - 0.2, "y_m": y_m}, {"x_m": x_m + 0.2, "y_m": y_m}]
    hit = apply_edits(estate, [Edit(path="links/power-amp/way_points", value=across)])
    finding = next(f for f in evaluate(hit).findings if f.rule == "zone" and f.about == "power-amp")
    mended = apply_edits(hit, edits_of(hit, finding.remedy))
    assert not [f for f in evaluate(mended).findings if f.rule == "zone" and f.about == "power-amp"]
    with pytest.raises(NotPossible, match="No way round it is known"):
        edits_of(mended, finding.remedy)


def test_put_in_a_space_by_name(estate: Design) -> None:
    known = spots(estate)
    assert known["space-rear"][0] == "Load space"
    placed = apply_edits(estate, put_in(estate, "parts/amp", "seat-passenger"))
    assert placed.part("amp").position == known["seat-passenger"][1]
    changer = {"id": "changer", "name": "disc changer", "kind": "disc changer", "position": {"x_m": 4.2, "y_m": -0.6}}
    boxed = apply_edits(estate, [Edit(op="add", path="vehicle/modules", value=changer)])
    assert spots(boxed)["changer"][0] == "Where disc changer is"
    there = apply_edits(boxed, put_in(boxed, "parts/amp", "changer"))
    assert there.part("amp").position.point == (4.2, -0.6)  # type: ignore[union-attr]
    driver_side = 1 if estate.vehicle.hand_of_drive is Hand.RIGHT else -1
    assert known["seat-driver"][1].y_m * driver_side > 0
    assert known["seat-passenger"][1].y_m * driver_side < 0


def test_a_ground_lead_back_to_the_battery_is_laid_beside_the_power_and_a_short_one_straight() -> None:
    """A long one comes down the sill on the side of the power and never across seats: within half a metre as long."""
    design = demo_design(0)
    runs = evaluate(design).results.runs
    assert len(runs["ground-amp"].points) == 2
    post = design.vehicle.supply.batteries[0].position
    point = {"id": "post", "name": "Post", "position": post.model_dump(), "kind": {"value": "battery negative"}}
    back = follow(design, [Edit(op="add", path="vehicle/ground_points", value=point),
                           Edit(path="links/ground-amp/to_id", value="post"),
                           Edit(path="links/ground-amp/tape_length_m", value={"value": None})])  # fmt: skip
    now = evaluate(apply_edits(design, back)).results.runs
    ground, power = now["ground-amp"].points, now["power-amp"].points
    (y_m,) = {y for _, y in ground[1:-1]} & {y for (_, y), (_, after) in pairwise(ground) if y == after}
    assert y_m * power[1][1] > 0
    assert abs(y_m) < abs(power[1][1]), "inside of the power lane"
    assert plan_length_m(ground) == pytest.approx(plan_length_m(power), abs=0.5)
