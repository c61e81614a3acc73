"""Cables find their way: round every zone, through the bulkhead only at a way, and after whatever moves."""

from __future__ import annotations

from itertools import pairwise

import networkx as nx
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ohmack.core.document import Design
from ohmack.core.document.cabin import ZoneKind
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.links import PowerLink
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.evaluation.door import evaluate
from ohmack.core.fit.zones import TOUCHES_M
from ohmack.core.physics.geometry import Point, crossing_y_m, length_inside_m, plan_length_m
from ohmack.core.planning import routing
from ohmack.core.planning.laying import follow, lay_anew
from ohmack.core.planning.moving import insert_way_point, move_to, put_in, spots
from ohmack.core.planning.routing import DASH, DASH_M, ENGINE, HEAT, SKIN, STEPS, TURN_M, WALL, floor_of, route
from ohmack.core.planning.starting_points import new_vehicle
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
    ways = route(floor, start, end, 0.13, side)
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
    grid = routing._grid(floor, ends, 0.13, 1, ())
    wall = grid.xs.index(round(floor.bulkhead_m, 3))
    graph = nx.DiGraph()
    for column in range(len(grid.xs)):
        for row in range(len(grid.ys)):
            for step, (dx, dy) in enumerate(STEPS):
                to = (column + dx, row + dy)
                if not (0 <= to[0] < len(grid.xs) and 0 <= to[1] < len(grid.ys)):
                    continue
                metre = grid.metre(column, row, step)
                x_m = (grid.xs[column] + grid.xs[to[0]]) / 2
                if metre < SKIN and x_m < floor.bulkhead_m + DASH_M:
                    metre = ENGINE if x_m < floor.bulkhead_m else max(DASH, metre if metre >= HEAT else 0.0)
                price = metre * (abs(grid.xs[column] - grid.xs[to[0]]) + abs(grid.ys[row] - grid.ys[to[1]]))
                if (dx and max(column, to[0]) == wall and row in grid.walls) or (dy and column == wall):
                    price += WALL
                for heading in (-1, *range(4)):
                    bend = TURN_M if heading not in (-1, step) else 0.0
                    graph.add_edge((column, row, heading), (*to, step), weight=price + bend)
    start, goal = ((grid.xs.index(x), grid.ys.index(y)) for x, y in ends)
    least = min(
        nx.dijkstra_path_length(graph, (*start, -1), (*goal, heading))
        for heading in range(4)
        if (*goal, heading) in graph and nx.has_path(graph, (*start, -1), (*goal, heading))
    )
    taken = [ends[0], *route(floor, *ends, 0.13, 1), ends[1]]
    price = TURN_M * bends_of(taken[0], tuple(taken[1:-1]), taken[-1])
    for a, b in pairwise(taken):
        cells = _cells(grid, a, b)
        for here, there, step in cells:
            metre = grid.metre(*here, step)
            x_m = (grid.xs[here[0]] + grid.xs[there[0]]) / 2
            if metre < SKIN and x_m < floor.bulkhead_m + DASH_M:
                metre = ENGINE if x_m < floor.bulkhead_m else max(DASH, metre if metre >= HEAT else 0.0)
            price += metre * (abs(grid.xs[here[0]] - grid.xs[there[0]]) + abs(grid.ys[here[1]] - grid.ys[there[1]]))
    assert price == pytest.approx(least, rel=0.02)  # way points are rounded to the centimetre


def _cells(grid: routing.Grid, a: Point, b: Point) -> list[tuple[tuple[int, int], tuple[int, int], int]]:
    def near(values: tuple[float, ...], wanted: float) -> int:
        return min(range(len(values)), key=lambda i: abs(values[i] - wanted))

    here, goal = (near(grid.xs, a[0]), near(grid.ys, a[1])), (near(grid.xs, b[0]), near(grid.ys, b[1]))
    found = []
    while here != goal:
        dx = (goal[0] > here[0]) - (goal[0] < here[0])
        dy = 0 if dx else (goal[1] > here[1]) - (goal[1] < here[1])
        there = (here[0] + dx, here[1] + dy)
        found.append((here, there, STEPS.index((dx, dy))))
        here = there
    return found


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


def test_put_in_a_space_by_name(estate: Design) -> None:
    known = spots(estate)
    assert known["space-rear"][0] == "Load space"
    placed = apply_edits(estate, put_in(estate, "parts/amp", "seat-passenger"))
    assert placed.part("amp").position == known["seat-passenger"][1]
    driver_side = 1 if estate.vehicle.hand_of_drive is Hand.RIGHT else -1
    assert known["seat-driver"][1].y_m * driver_side > 0
    assert known["seat-passenger"][1].y_m * driver_side < 0
