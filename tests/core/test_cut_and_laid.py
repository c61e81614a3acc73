"""What is cut and laid: outlines, openings and way points against shapely, DXF by its own reader, ties by hand."""

from __future__ import annotations

import re
from io import BytesIO
from math import ceil, dist, pi
from xml.etree import ElementTree as ET

import numpy as np
import pytest
from ezdxf import bbox
from ezdxf.recover import read as read_dxf
from hypothesis import given
from hypothesis import strategies as st
from shapely import LineString, Point, box, unary_union
from shapely.ops import polygonize

from ohmack.core.build.full_size import FullSize, unknown_places
from ohmack.core.build.laid_ways import new_ways, stretches
from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.links import ChargeLink
from ohmack.core.document.work import OpeningKind
from ohmack.core.errors import BadDocument, NotPossible, OutOfRange
from ohmack.core.evaluation.door import evaluate
from ohmack.core.physics.outlines import Arc, Circle, Line, bracket_holes, ring, round_opening, rounded_rectangle
from ohmack.core.planning.cutting import draw_opening, note_hole
from ohmack.core.planning.work import mark_done
from ohmack.demo.building import measured
from ohmack.demo.jobs import demo_design, demo_jobs
from ohmack.drawing.full_size import BAR_MM, full_size_svg, tiles
from ohmack.formats.dxf import write_dxf

JOBS = range(len(demo_jobs()))
SIDE = st.floats(20, 900)


@given(SIDE, SIDE, st.floats(0, 1))
def test_a_rounded_opening_is_as_long_as_shapely_finds_it(width: float, height: float, share: float) -> None:
    corner = share * min(width, height) / 2
    outline = rounded_rectangle(width, height, corner)
    drawn = box(-width / 2 + corner, -height / 2 + corner, width / 2 - corner, height / 2 - corner)
    around = drawn.buffer(corner, quad_segs=400).length if corner > 1e-3 else 2 * (width + height)
    assert outline.cut_mm == pytest.approx(around, rel=1e-4)
    assert (outline.width_mm, outline.height_mm) == (width, height)


@given(SIDE, SIDE, st.floats(0, 1))
def test_the_cuts_of_an_opening_meet_and_enclose_it(width: float, height: float, share: float) -> None:
    """Against shapely: the cuts polygonize to one face, the rectangle less what its corners lack."""
    corner = share * min(width, height) / 2
    corner = corner if corner > 0.5 else 0.0
    cuts = []
    for shape in (shape for shape in rounded_rectangle(width, height, corner).shapes if shape.cut):
        if isinstance(shape, Line):
            ends = [(shape.x1_mm, shape.y1_mm), (shape.x2_mm, shape.y2_mm)]
        else:
            assert isinstance(shape, Arc)
            turns = np.radians(np.linspace(shape.start_deg, shape.end_deg, 181))
            ends = [(shape.x_mm + shape.radius_mm * np.cos(a), shape.y_mm + shape.radius_mm * np.sin(a)) for a in turns]
        cuts.append(LineString([(round(a, 6), round(b, 6)) for a, b in ends]))
    faces = list(polygonize(cuts))
    assert len(faces) == 1
    assert faces[0].area == pytest.approx(width * height - (4 - pi) * corner**2, rel=1e-4)
    assert faces[0].bounds == pytest.approx((-width / 2, -height / 2, width / 2, height / 2), abs=1e-5)


@given(st.floats(30, 400), st.floats(0.2, 0.9))
def test_rings_and_circles(outer: float, share: float) -> None:
    inner = outer * share
    discs = [Point(0, 0).buffer(d / 2, quad_segs=600).length for d in (outer, inner)]
    assert ring(outer, inner).cut_mm == pytest.approx(sum(discs), rel=1e-4)
    assert all((s.x_mm, s.y_mm) == (0, 0) for s in round_opening(outer, inner).shapes if isinstance(s, Circle))
    assert round_opening(outer, inner).cut_mm == pytest.approx(discs[0], rel=1e-4), "what is there is not cut"
    for wrong in (lambda: ring(inner, outer), lambda: round_opening(inner, outer), lambda: bracket_holes(10, 40, 12)):
        with pytest.raises(OutOfRange):
            wrong()


OUTLINES = (rounded_rectangle(180, 60, 8), rounded_rectangle(182, 53), ring(165, 128), bracket_holes(210, 140, 5))


@pytest.mark.parametrize("outline", OUTLINES)
def test_files_hold_the_outline_at_full_size(outline) -> None:
    """DXF by its own reader, in millimetres; SVG with a millimetre a unit, its bar 100 of them."""
    drawing, audit = read_dxf(BytesIO(write_dxf(outline).encode()))
    assert not audit.has_errors
    assert drawing.header["$INSUNITS"] == 4
    cut = [e for e in drawing.modelspace() if e.dxf.layer == "CUT"]
    size = bbox.extents(cut).size
    assert (size.x, size.y) == pytest.approx((outline.width_mm, outline.height_mm), abs=1e-6)
    assert len(cut) == sum(s.cut for s in outline.shapes)
    svg = ET.fromstring(str(full_size_svg(FullSize("k", "Opening <&>", "s", outline, ()))))
    _, _, width, height = map(float, svg.get("viewBox").split())
    assert (svg.get("width"), svg.get("height")) == (f"{width:.2f}mm", f"{height:.2f}mm")
    assert width >= outline.width_mm
    bars = re.findall(r"M(-?[\d.]+) (-?[\d.]+)H(-?[\d.]+)M", ET.tostring(svg, "unicode"))
    assert {float(b) - float(a) for a, _, b in bars} >= {BAR_MM}


@given(st.floats(40, 700), st.floats(40, 700))
def test_sheets_cover_a_template_and_fit_the_paper(width: float, height: float) -> None:
    one = FullSize("k", "n", "s", rounded_rectangle(width, height), ())
    sheets = [t for t, _ in tiles(one, 186.0, 213.0)]
    boxes = [box(t.x_mm, t.y_mm, t.x_mm + t.width_mm, t.y_mm + t.height_mm) for t in sheets]
    assert unary_union(boxes).buffer(1e-6).contains(box(-width / 2, -height / 2, width / 2, height / 2))
    assert all(t.width_mm <= 186.0 and t.height_mm + 18 <= 213.0 + 1e-9 for t in sheets)
    assert len({t.name for t in sheets}) == len(sheets)


def made(design: Design) -> dict[str, FullSize]:
    return {t.key: t for t in evaluate(design).results.full_size}


def test_templates_follow_from_holes_and_drivers() -> None:
    """Five channels: doors of 142 mm, drivers of 128: a ring for both; a wider one widens the hole; unknown is said."""
    five = demo_design(13)
    (one,) = [t for t in made(five).values() if t.key.startswith("ring-")]
    assert one.pieces == 2
    assert "Front left door and Front right door" in one.name
    radii = sorted(s.radius_mm for s in one.outline.shapes if isinstance(s, Circle) and s.cut)
    assert radii == [64.0, 83.0]
    driver = next(p for p in five.parts if p.kind == "driver" and p.cut_out_mm == 128)
    wider = made(apply_edits(five, [Edit(path=f"parts/{driver.id}/cut_out_mm", value=150.0)]))
    (hole,) = [t for t in wider.values() if t.key.startswith("hole-")]
    assert sorted((s.radius_mm, s.cut) for s in hole.outline.shapes if isinstance(s, Circle)) == [
        (71.0, False),
        (75.0, True),
    ]
    drives = [d for d in evaluate(five).results.drives if d.driver is not None]
    fits = apply_edits(
        five, [measured(f"vehicle/speakers/{d.speaker.id}/cut_out_mm", d.driver.cut_out_mm + 2.0) for d in drives]
    )
    assert not [t for t in made(fits) if t.startswith(("ring", "hole"))]
    bare = apply_edits(
        five, [Edit(path=f"vehicle/speakers/{s.id}/cut_out_mm/value", value=None) for s in five.vehicle.speakers]
    )
    assert len(unknown_places(evaluate(bare).results)) == 4
    assert not made(bare)


def test_own_templates_leave_their_gap_and_refuse_what_cannot_be(estate: Design) -> None:
    design = apply_edits(estate, draw_opening(estate, "Screen", OpeningKind.RECTANGLE, 178.0, 100.0, None, 0.5, 3.0))
    (one,) = made(design).values()
    assert (one.outline.width_mm, one.outline.height_mm) == (179.0, 101.0)
    assert "0.5 mm left on each side" in one.says
    assert one.order[0].startswith("the four corner holes")
    for wrong, words in (
        ({"width_mm": None}, "size"), ({"kind": OpeningKind.RING, "inner_mm": 200.0}, "smaller"),
        ({"name": " "}, "what it is for"),
        ({"corner_mm": 90.0}, "rounder"), ({"gap_mm": 60.0}, "at most"), ({"kind": OpeningKind.RING}, "inner diameter"),
    ):  # fmt: skip
        usual = {"name": "n", "kind": OpeningKind.RECTANGLE, "width_mm": 178.0, "height_mm": 100.0, "inner_mm": None,
                 "gap_mm": 0.0, "corner_mm": 0.0}  # fmt: skip
        with pytest.raises(NotPossible, match=words):
            draw_opening(estate, **{**usual, **wrong})
    bad = {"id": "o", "name": "n", "kind": "ring", "width_mm": 100.0, "inner_mm": 120.0}
    with pytest.raises(BadDocument):
        apply_edits(estate, [Edit(op="add", path="work/openings", value=bad)])


def test_every_hole_is_asked_for_once_it_is_there(estate: Design) -> None:
    """Nothing is asked of a hole nobody drilled; once it is, each thing is named until it is noted."""
    drilled = apply_edits(estate, [measured("vehicle/passages/bulkhead/needs_drilling", True)])
    rows = evaluate(drilled).results.holes
    assert [r.planned.step.id for r in rows][:1] == ["drill-bulkhead"]
    assert not any(r.lacks for r in rows)
    design = drilled
    for planned in evaluate(drilled).results.work_plan.steps:
        plan = evaluate(design).results.work_plan
        design = apply_edits(design, mark_done(design, plan, planned.step.id, True, None, "d"))
        if planned.step.id == "drill-bulkhead":
            break
    (said,) = [f for f in evaluate(design).findings if f.rule == "hole-not-noted"]
    assert "how wide, what was looked for behind it and how it is sealed" in said.text
    plan = evaluate(design).results.work_plan
    values = {"diameter_mm": 22.0, "sealed": "primer"}
    noted = apply_edits(design, note_hole(design, plan, "drill-bulkhead", values, "d"))
    (said,) = [f for f in evaluate(noted).findings if f.rule == "hole-not-noted"]
    assert "Not noted: what was looked for behind it." in said.text
    full = apply_edits(noted, note_hole(noted, plan, "drill-bulkhead", {**values, "looked_for": "pipes"}, "d"))
    assert not [f for f in evaluate(full).findings if f.rule == "hole-not-noted"]
    assert len(full.work.holes) == 1, "a second note of one hole takes the place of the first"
    gone = apply_edits(full, [measured("vehicle/passages/bulkhead/needs_drilling", False)])
    kept = [r.noted.diameter_mm for r in evaluate(gone).results.holes if r.planned is None]
    assert kept == [22.0], "it stays in the car"
    with pytest.raises(NotPossible, match="where the hole is"):
        note_hole(design, plan, "", {}, "d")


@pytest.mark.parametrize("number", JOBS)
def test_route_cards_follow_the_run(number: int) -> None:
    """Marks rise to the whole length; what a run comes through is as long as shapely finds it, and nowhere else."""
    results = evaluate(demo_design(number)).results
    for card in results.route_cards:
        (way,) = (one for one in new_ways(results) if one.id == card.id)
        line = LineString(way.points)
        if line.length == 0:
            continue
        share = (card.length_m or line.length) / line.length
        places = [m.at_m for m in card.marks]
        assert places == sorted(places)
        assert (places[0], places[-1]) == pytest.approx((0, line.length * share))
        for mark in card.marks:
            assert dist(line.interpolate(mark.at_m / share).coords[0], mark.point) < 1e-6
        for zone in results.design.vehicle.zones:
            if zone.present.value is False:
                continue
            (x, y), half_x, half_y = zone.position.point, zone.length_m / 2, zone.width_m / 2
            inside = line.intersection(box(x - half_x, y - half_y, x + half_x, y + half_y))
            mine = [p for p in card.pinches if p.zone is zone]
            assert sum(p.to_m - p.from_m for p in mine) == pytest.approx(inside.length * share, abs=1e-6)
            for p in mine:
                middle = line.interpolate((p.from_m + p.to_m) / 2 / share)
                assert inside.distance(middle) < 1e-6
        ways = [c for c in results.bulkhead if c.link_id == card.id and c.passage_id]
        named = {p.id: p.name for p in results.design.vehicle.passages}
        assert all(named[c.passage_id] in [m.name for m in card.marks] for c in ways)


@pytest.mark.parametrize("number", [0, 15, 16])
def test_ties_loom_and_tape_by_the_way(number: int) -> None:
    """Ways counted once, however many cables lie in them, against the union shapely makes of the runs; a tie every
    0.3 m and at both ends (common practice), loom before the bulkhead only.
    """
    results = evaluate(demo_design(number)).results
    ways = stretches(results)
    runs = {one.id: one for one in new_ways(results)}
    for power in (True, False):
        mine = [w for w in ways if w.power is power]
        lines = [LineString(runs[name].points) for name in dict.fromkeys(n for w in mine for n in w.link_ids)]
        plan_m = sum(dist(w.start, w.end) for w in mine)
        assert plan_m >= unary_union(lines).length - 0.05
    rows = {r.what.partition(",")[0]: r for r in results.sundries}
    cables = len(results.route_cards)
    ties = sum(max(0, ceil(w.length_m / 0.3 - 1e-9) - 1) for w in ways) + 2 * cables
    assert rows["Cable ties"].used == ties
    assert rows["Cable ties"].packs == ceil(ties / 100)
    front = min((p.position.x_m for p in results.design.vehicle.passages), default=None)
    loom = sum(
        w.length_m * LineString([w.start, w.end]).intersection(box(-9, -9, front, 9)).length / dist(w.start, w.end)
        for w in ways if w.power and front is not None
    )  # fmt: skip
    assert (rows["Split loom"].used if "Split loom" in rows else 0.0) == pytest.approx(loom)
    line = next(n for n in results.quote.lines if n.key == "ties")
    assert float(line.low) == pytest.approx(sum(float(r.price) for r in results.sundries), abs=0.005)
    small = next(n for n in results.quote.lines if n.key == "small")
    priced = [r for r in results.order if r.group not in ("Parts", "Ties and loom")]
    assert float(small.low) == pytest.approx(sum(r.price for r in priced if r.price is not None), abs=0.005)
    bought = [r for r in priced if r.group in ("Fuses", "Rings", "Adapters")]
    assert all(r.price is not None for r in bought if not r.unknown), "what can be bought has a price"


def test_a_card_says_which_side_and_which_part_of_the_car(estate: Design) -> None:
    """The estate's power run lies along the left sill, the subwoofer's cable crosses to the right, the line cable runs
    down the middle; what was taped holds its rise, what the plan gives says it.
    """
    cards = {c.id: c for c in evaluate(estate).results.route_cards}
    assert {n: cards[n].side for n in ("power-amp", "speaker-sub", "line-amp")} == {
        "power-amp": "left", "speaker-sub": "right", "line-amp": "middle",
    }  # fmt: skip
    names = [m.name for m in cards["power-amp"].marks]
    bulkhead = next(n for n, name in enumerate(names) if name == estate.vehicle.passages[0].name)
    assert all(name == "engine bay, left" for name in names[1:bulkhead])
    assert names[-2] == "load space, left"
    taped = measured("links/line-amp/tape_length_m", 3.0)
    after = {c.id: c for c in evaluate(apply_edits(estate, [taped])).results.route_cards}
    assert (cards["line-amp"].rise_m, after["line-amp"].rise_m) == (estate.policy.rise_m, 0.0)
    assert after["line-amp"].ties == 11, "every 0.3 m of three metres, and both ends"


def test_corner_holes_and_crosses_stand_where_a_drill_goes() -> None:
    """Holes a blade turns in lie inside the line and touch both sides; a bracket's crosses reach past its bores."""
    square = rounded_rectangle(180, 60)
    holes = [s for s in square.shapes if isinstance(s, Circle)]
    assert {(round(abs(h.x_mm) + h.radius_mm, 9), round(abs(h.y_mm) + h.radius_mm, 9)) for h in holes} == {(90.0, 30.0)}
    assert len({(h.x_mm, h.y_mm) for h in holes}) == 4
    assert not any(h.cut for h in holes)
    bracket = bracket_holes(210, 140, 6)
    bores = {(s.x_mm, s.y_mm) for s in bracket.shapes if isinstance(s, Circle)}
    assert bores == {(a * 105.0, b * 70.0) for a in (-1, 1) for b in (-1, 1)}
    crosses = [s for s in bracket.shapes if not isinstance(s, Circle)]
    middles = [((c.x1_mm + c.x2_mm) / 2, (c.y1_mm + c.y2_mm) / 2) for c in crosses]
    assert all(middles.count(bore) == 2 for bore in bores)
    assert {dist((c.x1_mm, c.y1_mm), (c.x2_mm, c.y2_mm)) for c in crosses} == {2 * (3 + 4.0)}
    bare = {"id": "o", "name": "Spacer", "kind": "ring", "width_mm": 120.0}
    design = apply_edits(demo_design(0), [Edit(op="add", path="work/openings", value=bare)])
    (one,) = made(design).values()
    assert one.says == "120 mm outside, 60 mm inside"


@pytest.mark.parametrize("number", JOBS)
def test_every_metre_that_is_paid_for_has_its_working(number: int) -> None:
    """A lead no link stands for goes straight from place to place, with rise and slack of the policy."""
    evaluation = evaluate(demo_design(number))
    design, policy = evaluation.design, evaluation.design.policy
    things = {t.id: t for t in (*design.vehicle.ground_points, *design.vehicle.supply.batteries, *design.links)}
    for figure in evaluation.figures.values():
        if figure.id.startswith("cable/"):
            for term in figure.inputs[1:]:
                assert term.value == evaluation.figures[term.path.removeprefix("figure:")].value, (figure.id, term.name)
        link = things.get(figure.id.removesuffix("/ground_m"))
        if isinstance(link, ChargeLink) and link.ground_point_id and figure.id.endswith("/ground_m"):
            a, b = things[link.to_id].position, things[link.ground_point_id].position
            straight_m = dist(a.point, b.point)
            assert figure.value == pytest.approx(straight_m * (1 + policy.slack_fraction))
        if figure.id.endswith("/cable_m"):
            rises = sum(2 * term.value for term in figure.inputs if term.name == "rise at each end")
            (start, end), slack = figure.inputs[0].value, policy.slack_fraction
            assert figure.value == pytest.approx((dist(start, end) + rises) * (1 + slack))
