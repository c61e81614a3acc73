"""Drawings: hand of drive, shared axis, labels apart, escaping, every demo job."""

from __future__ import annotations

import re
import xml.etree.ElementTree as ET
from itertools import combinations, pairwise
from math import dist

import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import isotonic_regression

from core.test_one_press import ADAPTER, ring_car
from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.vehicle import Body
from ohmack.core.evaluation.door import evaluate
from ohmack.demo.building import measured
from ohmack.demo.jobs import demo_design, demo_jobs
from ohmack.drawing.car import draw_car, frame_of, upright_frame_of
from ohmack.drawing.coils import draw_wiring
from ohmack.drawing.labels import Box, LabelField, around
from ohmack.drawing.levels import apart, draw_levels, stage_places
from ohmack.drawing.picture import Layer, Picture, begin, picture_svg
from ohmack.drawing.plan import draw_plan
from ohmack.drawing.svg import cut_to, text_width
from ohmack.drawing.volts import draw_volts, trace
from ohmack.web.places import marks_of, places_of

ALL = ("power", "ground", "speaker", "tap", "line", "remote", "feed")


def plan_of(design: Design, layer: Layer | None = None) -> tuple[Picture, str]:
    picture = begin(evaluate(design), lambda path: f"?show={path}")
    return picture, str(
        picture_svg([draw_plan(picture, layer or Layer(links=ALL, speakers=True, feeds=True))], 296, "car", "plan")
    )


@pytest.mark.parametrize("body", list(Body))
@pytest.mark.parametrize(("hand", "upper"), [("right", True), ("left", False)])
def test_nose_left_and_the_wheel_on_its_side(body: Body, hand: str, upper: bool, estate: Design) -> None:
    design = apply_edits(
        estate, [Edit(path="vehicle/body", value=body.value), Edit(path="vehicle/hand_of_drive", value=hand)]
    )
    frame = frame_of(design.vehicle)
    svg = str(draw_car(design.vehicle, frame))
    wheel = re.search(r'<ellipse cx="([\d.]+)" cy="([\d.]+)"', svg)
    assert wheel
    # the car's right side is the upper half of the picture when the nose points left
    assert (float(wheel[2]) < frame.middle_px) == upper
    assert frame.at(0, 0)[0] < frame.at(4, 0)[0]
    assert frame.at(1, 0.5)[1] < frame.at(1, -0.5)[1]


@given(st.floats(0, 4.66), st.floats(-0.9, 0.9))
def test_the_picture_maps_back_to_the_car(x_m: float, y_m: float) -> None:
    frame = frame_of(demo_design(0).vehicle)
    assert frame.back(*frame.at(x_m, y_m)) == pytest.approx((x_m, y_m), abs=0.006)


def test_true_proportions(estate: Design) -> None:
    frame = frame_of(estate.vehicle)
    (x0, y0), (x1, y1) = frame.at(0, 0.9), frame.at(4.66, -0.9)
    assert (x1 - x0) / (y1 - y0) == pytest.approx(4.66 / 1.80)


LAYERS = {
    "plan": Layer(links=ALL),
    "supply": Layer(links=("power", "ground", "charge", "capacitor"), quiet_links=("line", "tap"), way_points=True),
    "loads": Layer(speakers=True, grounds=False, links=("speaker",)),
}


@pytest.mark.parametrize("layer", LAYERS.values(), ids=LAYERS)
@pytest.mark.parametrize("number", range(len(demo_jobs())))
def test_labels_cover_neither_things_nor_each_other(number: int, layer: Layer) -> None:
    """Over every demo job, the everyday jobs among them; nor does a part or a fuse's tag cover another."""
    picture, svg = plan_of(demo_design(number), layer)
    ET.fromstring(svg)
    _apart(picture)
    big = {name: box for name, box in picture.things.items() if not name.startswith(("run-", "ground-", "sub", "box"))}
    for (one, box), (two, other) in combinations(big.items(), 2):
        assert box.overlap(other) < 40, (one, two)


def _apart(picture: Picture) -> None:
    placed = picture.labels.placed
    for i, one in enumerate(placed):
        for other in placed[i + 1 :]:
            assert one.box.overlap(other.box) == 0, (one.text, other.text)
        for name, thing in picture.things.items():
            assert one.box.overlap(thing) < 12 or name.startswith("run-"), (one.text, name)


@pytest.mark.parametrize("number", range(2, len(demo_jobs()), 3))
def test_no_number_of_the_survey_covers_another(number: int) -> None:
    """Also where a works amplifier stands under the one that takes its place."""
    design = demo_design(number)
    shown = {"speakers": True, "feeds": True, "modules": True, "spaces": True, "zones": True, "damage": True}
    layer = Layer(quiet_links=("power", "line"), marks=marks_of(places_of(design)), **shown)
    found = [e for e in ET.fromstring(plan_of(design, layer)[1]).iter() if (e.get("class") or "").startswith("mark ")]
    middles = [(float(e.get("cx", "")), float(e.get("cy", ""))) for e in found]
    assert len(middles) > 8
    for one, other in combinations(middles, 2):
        assert dist(one, other) >= 2 * 11 - 3  # their radii, but for a line's breadth


@pytest.mark.parametrize("layer", LAYERS.values(), ids=LAYERS)
@pytest.mark.parametrize("number", range(len(demo_jobs())))
def test_a_car_that_stands_keeps_its_labels_apart_too(number: int, layer: Layer) -> None:
    """Nose up, as on a phone: the same car at another scale; its right side is on the right, its nose above."""
    design = demo_design(number)
    frame = upright_frame_of(design.vehicle, 200.0, 179.0)
    picture = begin(evaluate(design), lambda path: f"?show={path}", frame=frame)
    ET.fromstring(str(picture_svg([draw_plan(picture, layer)], frame.height_px, "car", "plan", frame.width_px)))
    _apart(picture)
    nose, right = frame.at(0.0, 0.0), frame.at(1.0, 0.5)
    assert nose[1] < right[1]
    assert right[0] - nose[0] == pytest.approx(0.5 * 200.0 / frame.width_m)
    assert right[1] - nose[1] == pytest.approx(1.0 * 200.0 / frame.width_m)


@pytest.mark.parametrize("number", range(len(demo_jobs())))
def test_the_way_of_a_function_is_drawn_over_what_it_goes_through(number: int) -> None:
    """For every function of every demo car: the way starts and ends at its things, and the break stands on what
    breaks it.
    """
    design = demo_design(number)
    for verdict in evaluate(design).results.ledger:
        layer = Layer(speakers=True, modules=True, parts=False, way=verdict.way, broken_at=verdict.broken_at)
        picture, svg = plan_of(design, layer)
        ET.fromstring(svg)
        assert svg.count('class="f-way"') == (1 if verdict.way else 0)
        assert svg.count('class="f-broken"') == (1 if verdict.broken_at else 0)
        if len(verdict.way) > 1:
            drawn = re.search(r'd="M([\d.]+) ([\d.]+)[^"]*?([\d.]+) ([\d.]+)" class="f-way"', svg)
            assert drawn is not None
            for (x, y), node in zip(
                ((drawn[1], drawn[2]), (drawn[3], drawn[4])), (verdict.way[0], verdict.way[-1]), strict=True
            ):
                box = picture.things[node]
                assert box.left - 12 <= float(x) <= box.right + 12, (node, x)
                assert box.top - 12 <= float(y) <= box.bottom + 12, (node, y)


def test_what_happens_to_a_module_stands_under_it() -> None:
    design = demo_design(11)
    acts = tuple((i.id, i.act.value) for i in design.interventions)
    picture, svg = plan_of(design, Layer(speakers=True, modules=True, parts=False, acts=acts))
    for thing_id, words in acts:
        assert f">{words}</text>" in svg
        assert thing_id in picture.things
    relayed = apply_edits(demo_design(0), [Edit(path="links/remote-amp/relay", value=True)])
    _, with_relay = plan_of(relayed, Layer(links=ALL))
    assert "through a relay" in with_relay
    assert "through a relay" not in plan_of(demo_design(0), Layer(links=ALL))[1]


@given(st.lists(st.tuples(st.floats(30, 700), st.floats(30, 250)), min_size=1, max_size=12, unique=True))
def test_label_field_prefers_free_spots(points: list[tuple[float, float]]) -> None:
    field = LabelField(Box(0, 0, 780, 296))
    boxes = [Box(x - 6, y - 6, x + 6, y + 6) for x, y in points]
    for box in boxes:
        field.block(box)
    for box in boxes:
        spots = around(box)
        before = [p.box for p in field.placed]
        placed = field.place("label", "dim", spots)
        covered = sum(placed.box.overlap(b) for b in boxes) + sum(placed.box.overlap(b) for b in before)
        if covered > len(spots) / 100:  # more than a sliver only when no spot inside the frame was free
            width = text_width("label", "dim")
            for x, y, anchor in spots:
                left = x - {"start": 0.0, "middle": width / 2, "end": width}[anchor]
                other = Box(left, y - 9.6, left + width, y + 3)
                assert (
                    sum(other.overlap(b) for b in [*boxes, *(b.grown(2) for b in before)]) > 0
                    or other.outside(field.frame) > 0
                )


@given(st.text("AMgilm ,-9", max_size=60), st.floats(20, 300), st.sampled_from(["dim", "lab"]))
def test_a_name_is_cut_to_its_room_and_says_so(text: str, room_px: float, style: str) -> None:
    """As much of it as there is room for: one sign more would not go in."""
    shown = cut_to(room_px, text, style)
    if text_width(text, style) <= room_px:
        assert shown == text
        return
    assert text_width(shown, style) <= room_px
    assert shown.endswith("…")
    kept = shown.removesuffix("…")
    assert text.startswith(kept)
    longer = text[: len(text) - len(text[len(kept) :].lstrip(" ,")) + 1]
    assert text_width(f"{longer}…", style) > room_px


@given(st.lists(st.tuples(st.floats(-20, 760), st.floats(-20, 300)), min_size=2, max_size=14))
def test_a_label_takes_the_cheapest_of_all_its_spots(points: list[tuple[float, float]]) -> None:
    """Against trying every one of them to its end; one that cannot win any more is not summed."""
    field = LabelField(Box(0, 0, 780, 296))
    field.line(points, 6.0)
    for x, y in points:
        field.block(Box(x - 20, y - 8, x + 20, y + 8))
    for x, y in points:
        spots = around(Box(x - 6, y - 6, x + 6, y + 6))
        width, costs = text_width("label", "dim"), {}
        for order, (sx, sy, anchor) in enumerate(spots):
            left = sx - {"start": 0.0, "middle": width / 2, "end": width}[anchor]
            costs[left, sy] = field.cost(Box(left, sy - 9.6, left + width, sy + 3)) + order
        placed = field.place("label", "dim", spots)
        assert costs[placed.x, placed.y] == pytest.approx(min(costs.values()))


def test_the_volts_stand_under_their_run(estate: Design) -> None:
    picture, _ = plan_of(estate)
    supply = picture.evaluation.results.supplies[0]
    found = trace(picture, supply)
    assert found is not None
    assert found.shared_axis
    battery, amplifier = (picture.frame.at(x, 0)[0] for x in (0.74, 3.62))
    assert found.positive[0][0] == pytest.approx(battery)
    assert found.positive[-1][0] == pytest.approx(amplifier)
    volts = [v for _, v in found.positive]
    assert volts == sorted(volts, reverse=True)
    assert volts[0] - volts[-1] + found.negative[0][1] == pytest.approx(supply.figures["drop"].value)
    ET.fromstring(f"<g>{draw_volts(picture, supply, 300)}</g>")


def test_a_run_that_cannot_share_the_axis_unrolls_and_says_so(estate: Design) -> None:
    beside = apply_edits(
        estate,
        [
            Edit(path="parts/amp/position", value={"x_m": 1.2, "y_m": -0.3}),
            Edit(path="links/power-amp/way_points", value=[]),
        ],
    )
    picture, _ = plan_of(beside)
    supply = picture.evaluation.results.supplies[0]
    found = trace(picture, supply)
    assert found is not None
    assert not found.shared_axis
    assert "by length along the run" in str(draw_volts(picture, supply, 300))


def test_the_ladder_runs_in_signal_order(estate: Design) -> None:
    picture, _ = plan_of(estate)
    signal = picture.evaluation.results.signals[0]
    xs = stage_places(picture, signal)
    assert xs == sorted(xs)
    assert min(b - a for a, b in zip(xs, xs[1:], strict=False)) >= 51.9
    assert [s.margin_db >= -0.01 for s in signal.stages] == [True] * 6
    ET.fromstring(f"<g>{draw_levels(picture, signal, 300)}</g>")


def test_every_rung_stands_under_its_thing() -> None:
    """Five channels: the radio's line output under the radio, the amplifier's two rungs about its middle, the cone
    under the door it sits in, although that is before the amplifier.
    """
    design = demo_design(next(n for n, job in enumerate(demo_jobs()) if job.title.startswith("Five channels")))
    picture, _ = plan_of(design)
    signal = picture.evaluation.results.signals[0]
    xs = dict(zip((s.name for s in signal.stages), stage_places(picture, signal), strict=True))
    middle = {name: (box.left + box.right) / 2 for name, box in picture.things.items()}
    assert (xs["amplifier input"] + xs["amplifier output"]) / 2 == pytest.approx(middle["amp"], abs=1)
    assert xs["amplifier input"] < xs["amplifier output"]
    assert abs(xs["radio line output"] - middle["radio"]) < 30
    assert abs(xs["driver"] - middle["spk-fl"]) < 30
    assert xs["driver"] < xs["amplifier input"]


def test_a_converter_beside_its_amplifier_keeps_the_order_of_the_signal(estate: Design) -> None:
    amp = estate.part("amp").position  # type: ignore[union-attr]
    assert amp is not None
    for off_m in (-0.05, 0.0, 0.05, 0.15):
        edits = [Edit(path="parts/converter/position", value={"x_m": round(amp.x_m + off_m, 2), "y_m": 0.5})]
        picture, _ = plan_of(apply_edits(estate, edits))
        signal = picture.evaluation.results.signals[0]
        names = [s.name for s in signal.stages]
        xs = stage_places(picture, signal)
        chain = [xs[names.index(n)] for n in names if n.startswith(("converter", "amplifier"))]
        assert chain == sorted(chain), off_m


def test_an_adapter_of_a_ring_stands_under_the_radio_it_hears() -> None:
    picture, _ = plan_of(ring_car(ADAPTER, "Tessel Four 70", "Pell & Fenn Coax 65, pair"))
    signal = picture.evaluation.results.signals[0]
    xs = dict(zip((s.name for s in signal.stages), stage_places(picture, signal), strict=True))
    radio = picture.things["radio"]
    assert abs(xs["adapter line output"] - (radio.left + radio.right) / 2) < 30
    assert "adapter line" in draw_levels(picture, signal, 300)


@given(st.lists(st.floats(100, 700), min_size=1, max_size=7))
def test_rungs_are_pushed_apart_as_little_as_can_be(wanted: list[float]) -> None:
    """Least squares under an order: scipy's isotonic regression of what is wanted less n times the distance."""
    wanted = sorted(wanted)
    least = 52.0
    placed = apart(wanted, least, -1e9, 1e9)
    levelled = isotonic_regression([x - n * least for n, x in enumerate(wanted)]).x
    assert placed == pytest.approx([x + n * least for n, x in enumerate(levelled)])
    inside = apart(wanted, least, 96.0, 726.0)
    assert min([b - a for a, b in pairwise(inside)], default=least) >= least - 1e-6
    assert inside[0] >= 96.0 - 1e-6


def test_every_wiring_draws_each_coil_once(estate: Design) -> None:
    four = apply_edits(estate, [Edit(path="parts/sub/coils", value=[{"impedance_ohm": 2.0 + i} for i in range(4)])])
    load = evaluate(four).results.loads[0]
    assert len(load.options) == 52  # labelled series-parallel networks of 4 edges, OEIS A006351
    for option in load.options:
        svg = str(draw_wiring(load, option))
        ET.fromstring(svg)
        assert [svg.count(f"coil {n},") for n in (1, 2, 3, 4)] == [1, 1, 1, 1]


def test_markup_in_names_is_text(estate: Design) -> None:
    evil = '"><script>alert(1)</script><text x="'
    design = apply_edits(
        estate,
        [
            Edit(path="parts/amp/name", value=evil),
            Edit(path="vehicle/supply/batteries/battery/name", value=evil),
            Edit(path="links/power-amp/wire/colour", value=evil),
            Edit(path="parts/sub/name", value=evil),
        ],
    )
    _, svg = plan_of(design)
    assert "<script" not in svg
    ET.fromstring(svg)
    assert "<script" not in str(
        draw_wiring(evaluate(design).results.loads[0], evaluate(design).results.loads[0].chosen)
    )


def test_an_unplaced_part_and_a_missing_fuse_still_draw(estate: Design) -> None:
    bare = apply_edits(
        estate,
        [
            Edit(path="parts/amp/position", value=None),
            Edit(path="links/power-amp/fuse", value=None),
            measured("vehicle/length_m", 4.2),
        ],
    )
    _, svg = plan_of(bare)
    ET.fromstring(svg)
    assert "wire-power-amp" not in svg
