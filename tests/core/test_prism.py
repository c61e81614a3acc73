"""Boxes whose side is any polygon, and a board in free air: against geometry worked by other means."""

from __future__ import annotations

from math import hypot, pi

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ohmack.core.box.cutting import CutSheet, cut_sheet
from ohmack.core.document.boxes import Box
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.errors import OutOfRange
from ohmack.core.evaluation.door import evaluate
from ohmack.core.physics.box_panels import BoxShape, made_of
from ohmack.core.physics.prism import PrismShape, area_m2, bevels_deg, checked, inner_corners, prism_made
from ohmack.demo.jobs import demo_design

T = 0.018
STEPPED = ((0.0, 0.0), (0.5, 0.0), (0.5, 0.2), (0.3, 0.2), (0.3, 0.45), (0.0, 0.45))  # over a wheel arch


def prism(*corners: tuple[float, float], fronts: int = 1, braces: int = 0) -> PrismShape:
    return PrismShape(corners, 0.8, T, fronts, braces)


@given(st.floats(0.2, 0.8), st.floats(0.15, 0.6), st.floats(0.2, 0.8), st.floats(0.3, 1.2), st.integers(1, 2))
def test_a_block_and_a_wedge_are_prisms(low: float, share: float, tall: float, wide: float, fronts: int) -> None:
    """As four corners they enclose what the block and wedge of their own do; all else is wood: outside less inside."""
    top = max(0.12, low * share) if share < 0.5 else low
    shape = PrismShape(((0, 0), (low, 0), (min(top, low), tall), (0, tall)), wide, T, fronts)
    own = BoxShape(low, min(top, low), wide, tall, T, fronts)
    try:
        plain = made_of(own)
    except OutOfRange:
        return
    made = prism_made(shape)
    assert made.gross_m3 == pytest.approx(plain.gross_m3, rel=1e-6)
    assert made.wood_m3 == pytest.approx(area_m2(shape.corners) * wide - made.gross_m3, rel=1e-9)
    assert shape.depth_at_m(tall / 2) == pytest.approx(own.depth_at_m(tall / 2), rel=1e-6)
    if top >= low:
        assert made.wood_m3 == pytest.approx(plain.wood_m3, rel=1e-9)
        assert made.centre_height_m == pytest.approx(plain.centre_height_m, rel=1e-9)
        assert made.centre_from_front_m == pytest.approx(plain.centre_from_front_m, rel=1e-9)


def test_a_stepped_box_by_hand() -> None:
    """Two rectangles: inside 464 × 164 and above it 264 × 250, by the inner width of 764 mm (18 mm boards)."""
    made = prism_made(prism(*STEPPED))
    assert made.gross_m3 == pytest.approx((0.464 * 0.164 + 0.264 * 0.250) * 0.764)
    assert area_m2(STEPPED) == pytest.approx(0.5 * 0.2 + 0.3 * 0.25)
    names = [panel.name for panel in made.panels]
    assert names.count("front") == names.count("bottom") == names.count("top") == 1
    assert sum(panel.name.startswith("board") for panel in made.panels) == 3
    around = sum(panel.width_m for panel in made.panels if not panel.name.startswith("side"))
    assert around == pytest.approx(sum(hypot(b[0] - a[0], b[1] - a[1]) for a, b in zip(
        STEPPED, (*STEPPED[1:], STEPPED[0]), strict=True)))  # fmt: skip
    assert prism(*STEPPED).depth_at_m(0.1) == pytest.approx(0.464)
    assert prism(*STEPPED).depth_at_m(0.3) == pytest.approx(0.264)
    assert bevels_deg(prism(*STEPPED)) == pytest.approx([45.0] * 6)
    assert prism(*STEPPED, fronts=2).depth_at_m(0.1) == pytest.approx(0.446)
    braced = prism_made(prism(*STEPPED, braces=1))
    assert braced.braces_m3 == pytest.approx(0.764 * (0.45 - 2 * T) * T / 2)


def test_corners_either_way_round_are_one_box() -> None:
    """And a regular polygon has the area and the mitre its handbook gives: n/2 R² sin(2π/n), 180°/n."""
    there, back = prism_made(prism(*STEPPED)), prism_made(prism(*reversed(STEPPED)))
    assert there.gross_m3 == pytest.approx(back.gross_m3)
    assert there.centre_from_front_m == pytest.approx(back.centre_from_front_m)
    ring = [(0.3 * _cos(k), 0.3 * _sin(k)) for k in range(6)]
    assert area_m2(ring) == pytest.approx(3 * 0.3**2 * 3**0.5 / 2)
    assert bevels_deg(PrismShape(tuple(ring), 0.8, T)) == pytest.approx([30.0] * 6)
    apothem = 0.3 * 3**0.5 / 2
    assert area_m2(inner_corners(PrismShape(tuple(ring), 0.8, T))) == pytest.approx(2 * 3**0.5 * (apothem - T) ** 2)


def _cos(k: int) -> float:
    return (1.0, 0.5, -0.5, -1.0, -0.5, 0.5)[k]


def _sin(k: int) -> float:
    return (0.0, 1.0, 1.0, 0.0, -1.0, -1.0)[k] * 3**0.5 / 2


@pytest.mark.parametrize(
    "corners",
    [
        ((0, 0), (0.4, 0)),
        ((0, 0), (0.4, 0.4), (0.4, 0), (0, 0.4)),
        ((0, 0), (0.2, 0), (0.4, 0), (0.4, 0.4)),
        ((0, 0), (0.4, 0), (0.4, 0), (0, 0.4)),
        ((0, 0), (0.4, 0), (0.4, 0.3), (0.2, 0.4)),
        ((0, 0), (0.03, 0), (0.03, 0.4), (0, 0.4)),
    ],
)
def test_what_is_no_box_is_refused(corners: tuple[tuple[float, float], ...]) -> None:
    """Too few corners, crossing edges, a corner on an edge, one twice, no upright front, boards that leave nothing."""
    with pytest.raises(OutOfRange):
        prism_made(prism(*corners))


def test_the_cut_sheet_of_a_stepped_box_and_its_volume_in_the_plan() -> None:
    """Typed in millimetres, judged in litres: the plan says what its boards leave, and the sides' corners."""
    design = demo_design(0)
    box = next(design.parts_of(Box))
    corners = [{"behind_mm": 1000 * x, "up_mm": 1000 * z} for x, z in STEPPED]
    edits = [("boards/thickness_mm", 18.0), ("boards/corners", corners), ("width_m", 0.8), ("height_m", 0.45),
             ("length_m", 0.5)]  # fmt: skip
    stepped = apply_edits(design, [Edit(path=f"parts/{box.id}/{name}", value=value) for name, value in edits])
    found = evaluate(stepped)
    gross = found.figures[f"{box.id}/gross_l"]
    assert gross.value == pytest.approx((464 * 164 + 264 * 250) * 764 / 1e6)
    (one,) = found.results.boxes
    sheet = cut_sheet(one.box, one.subs)
    assert isinstance(sheet, CutSheet)
    assert set(sheet.side_mm) == {(0, 0), (464, 0), (464, 164), (264, 164), (264, 414), (0, 414)}
    assert not any(f.rule == "box-corners" for f in found.findings)
    off = apply_edits(stepped, [Edit(path=f"parts/{box.id}/length_m", value=0.6)])
    (said,) = [f for f in evaluate(off).findings if f.rule == "box-corners"]
    box = next(off.parts_of(Box))
    sides = [{"x": c.behind_mm, "z": c.up_mm} for c in box.boards.corners]
    deep, high = (max(c[k] for c in sides) - min(c[k] for c in sides) for k in ("x", "z"))
    on_file = f"{1000 * box.length_m:.0f} × {1000 * (box.height_m or 0):.0f}"
    assert said.title == f"{box.name}: its corners span {deep:.0f} × {high:.0f} mm, its size on file is {on_file}"


def test_a_driver_in_free_air_is_a_closed_box_of_the_boot() -> None:
    """Qtc = Qts √(1 + Vas / V), Small 1972 from memory; one board of width by height with a hole in it."""
    design = demo_design(0)
    box = next(design.parts_of(Box))
    edits = [("box_type", "free air"), ("net_volume_l", 400.0), ("boards/thickness_mm", 18.0), ("width_m", 0.9),
             ("height_m", 0.5)]  # fmt: skip
    free = apply_edits(design, [Edit(path=f"parts/{box.id}/{name}", value=value) for name, value in edits])
    found = evaluate(free)
    (one,) = found.results.boxes
    sub = one.subs[0]
    assert sub.qms is not None
    assert sub.qes is not None
    assert sub.vas_l is not None
    qts = sub.qms * sub.qes / (sub.qms + sub.qes)
    assert found.figures[f"{box.id}/q"].value == pytest.approx(qts * (1 + sub.vas_l / 400.0) ** 0.5, rel=0.02)
    assert f"{box.id}/gross_l" not in found.figures
    sheet = cut_sheet(one.box, one.subs)
    assert isinstance(sheet, CutSheet)
    assert [panel.name for panel in sheet.panels] == ["board"]
    hole = pi * ((sub.cut_out_mm or 0.0) / 2000) ** 2
    assert sheet.made.wood_m3 == pytest.approx(0.9 * 0.5 * 0.018)
    assert sheet.made.centre_height_m == pytest.approx(0.25)
    assert sheet.made.centre_from_front_m == pytest.approx(0.009)
    assert hole > 0
    assert sheet.boards_kg == pytest.approx((0.9 * 0.5 - hole) * 0.018 * 750.0)  # MDF, common practice
    assert sheet.side_mm == ()
    assert sheet.mitres_deg == ()
    weak = apply_edits(free, [Edit(path=f"parts/{sub.id}/qes", value=0.3)])
    severities = {f.severity.value for f in evaluate(weak).findings if f.rule == "free-air"}
    assert severities == {"note", "watch"}
    assert checked(STEPPED) == STEPPED
