"""Connector faces and the hunt's picture: mirrored, complete, nothing cut off, colours in their order."""

from __future__ import annotations

import re
import xml.etree.ElementTree as ET

import pytest

from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.harness import Colour, Connector, Housing
from ohmack.core.harness.wire_finder import find
from ohmack.core.planning.harness import new_connector
from ohmack.demo.jobs import demo_design
from ohmack.drawing.connector_face import draw_face, short_words
from ohmack.drawing.hunt import draw_hunt
from ohmack.drawing.svg import text_width
from ohmack.drawing.wires import swatch, wire_strokes

SVG = "{http://www.w3.org/2000/svg}"


def faces(connector: Connector, number: int = 0) -> list[ET.Element]:
    """Every cavity drawn, mating side first."""
    markup = str(draw_face(demo_design(number).vehicle, connector, "", lambda path: f"/x?show={path}"))
    return list(ET.fromstring(markup.replace("<svg ", '<svg xmlns="http://www.w3.org/2000/svg" ', 1)).iter(f"{SVG}a"))


def middle(cavity: ET.Element) -> tuple[float, float]:
    box = next(cavity.iter(f"{SVG}rect"))
    return float(box.get("x", 0)) + float(box.get("width", 0)) / 2, float(box.get("y", 0)) + float(
        box.get("height", 0)
    ) / 2


@pytest.mark.parametrize(
    ("rows", "columns", "numbered"),
    [(2, 8, "along the rows"), (2, 5, "down the columns"), (1, 12, "there and back"), (3, 30, "there and back")],
)
def test_the_wire_side_is_the_mating_side_turned_over(rows: int, columns: int, numbered: str) -> None:
    estate = demo_design(0)
    made = apply_edits(estate, new_connector(estate, "Made", rows, columns, numbered=numbered)).vehicle.connectors[-1]
    drawn = faces(made)
    count = rows * columns
    assert len(drawn) == 2 * count
    front, back = {}, {}
    for number, (cavity, side) in enumerate(zip(drawn, [front] * count + [back] * count, strict=True)):
        side[cavity.get("href")] = middle(cavity)
        assert f"Cavity {number % count + 1}:" in (cavity.get("aria-label") or "")
    axis = [front[href][0] + back[href][0] for href in front]  # x mirrored: the sum is one constant
    assert axis == pytest.approx([axis[0]] * count, abs=0.2)
    drop = [back[href][1] - front[href][1] for href in front]  # y as it was, beside or below
    assert drop == pytest.approx([drop[0]] * count, abs=0.2)
    assert (
        len({(round(x, 1), round(y, 1)) for x, y in (*front.values(), *back.values())}) == 2 * count
    )  # none on another
    for x, _ in (*front.values(), *back.values()):
        assert 0 < x < 780


def test_words_stay_inside_their_cavity_and_foreign_text_is_escaped() -> None:
    for number in (0, 5, 6, 10):
        design = demo_design(number)
        for connector in design.vehicle.connectors:
            if connector.housing.columns <= 8:
                for cavity in connector.cavities:
                    assert text_width(short_words(design.vehicle, cavity), "dim") < 42, cavity.number
    plug = demo_design(0).vehicle.connectors[0].model_copy(update={"name": "<script>&"})
    markup = str(draw_face(demo_design(0).vehicle, plug, "", lambda path: path))
    assert "<script>" not in markup
    assert "&lt;script&gt;&amp;" in markup


def test_what_was_cut_and_what_the_meter_denies_is_ringed() -> None:
    van = faces(demo_design(5).vehicle.connectors[0], 5)
    rings = {
        c.get("aria-label", "").split(":")[0]: [
            r.get("class") for r in c.iter(f"{SVG}rect") if "ring" in (r.get("class") or "")
        ]
        for c in van
    }
    assert rings["Cavity 3"] == ["cavity-ring over"]  # cut
    assert rings["Cavity 1"] == ["cavity-ring"]  # spliced
    assert rings["Cavity 5"] == []
    saloon = faces(demo_design(10).vehicle.connectors[0], 10)
    denied = [
        c.get("aria-label") for c in saloon if any("over" in (r.get("class") or "") for r in c.iter(f"{SVG}rect"))
    ]
    assert denied == ["Cavity 2: constant, white/red"] * 2


def test_the_keyway_changes_sides_with_the_face() -> None:
    for keyway, moves in (("left", True), ("right", True), ("top", False), ("bottom", False)):
        plug = (
            demo_design(0)
            .vehicle.connectors[0]
            .model_copy(update={"housing": Housing(rows=2, columns=8, keyway=keyway)})
        )
        markup = str(draw_face(demo_design(0).vehicle, plug, "", lambda path: path))
        one, other = re.findall(r'<path d="([^"]+)" class="keyway"', markup)
        assert (one.split("h")[1][0] != other.split("h")[1][0]) == moves, keyway


def test_a_swatch_is_drawn_as_the_wire_looks() -> None:
    white_red, red_white = str(swatch(Colour.WHITE, Colour.RED)), str(swatch(Colour.RED, Colour.WHITE))
    assert white_red != red_white
    assert re.findall(r'class="(w-[a-z]+)[ "]', white_red) == [
        "w-out",
        "w-white",
        "w-red",
    ]  # broad first, stripe on top
    assert 'aria-label="white/red"' in white_red
    widths = [float(w) for w in re.findall(r'stroke-width="([\d.]+)"', white_red)]
    assert widths == sorted(widths, reverse=True)
    assert len(wire_strokes("M0 0H9", Colour.WHITE, Colour.WHITE)) == 2  # no stripe in its own colour
    assert swatch(None, None) == ""


def test_the_hunts_picture_says_what_is_known_and_no_more() -> None:
    design = demo_design(7)
    hunt = design.vehicle.hunt
    assert hunt is not None
    found = find(design.vehicle, hunt)
    markup = str(draw_hunt(design.vehicle, hunt, found, found.next_tests[0].wires))
    assert markup.count('class="hunt-sure"') == 2 * len(found.certain)
    assert markup.count('class="probe"') == 2
    assert markup.count('class="hunt-speaker sure"') == len(found.certain)
    assert f"{len(found.certain)} of 8 pairs are certain" in markup
    assert markup.count(">+</text>") == 1  # one pop test, one plus
    bare = hunt.model_copy(update={"readings": ()})
    assert "hunt-sure" not in str(draw_hunt(design.vehicle, bare, find(design.vehicle, bare)))


def test_a_selected_cavity_is_marked_on_both_faces() -> None:
    design = apply_edits(
        demo_design(0), [Edit(path="vehicle/connectors/radio-plug/cavities/c3/destination", value="left door")]
    )
    path = "vehicle/connectors/radio-plug/cavities/c3"
    markup = str(draw_face(design.vehicle, design.vehicle.connectors[0], path, lambda p: p))
    assert markup.count("cavity-link chosen") == 2
