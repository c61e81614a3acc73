"""What the hand-over draws: fuses by number, the soak by day, settings, a signature; over all demo cars both ways."""

from __future__ import annotations

import re
from itertools import combinations
from math import hypot, log10
from xml.etree import ElementTree as ET

import pytest

from core.test_hand_over import tried
from ohmack.core.document.handover import Signature
from ohmack.core.evaluation.door import evaluate
from ohmack.core.handover.settings import Ceiling, Played, ceilings, played
from ohmack.demo.jobs import demo_design, demo_jobs
from ohmack.drawing.car import HEIGHT, WIDTH
from ohmack.drawing.fuse_marks import RADIUS, draw_fuse_marks
from ohmack.drawing.picture import begin
from ohmack.drawing.plan import draw_plan
from ohmack.drawing.settings_picture import LEFT, RIGHT, draw_settings
from ohmack.drawing.signature import draw_signature
from ohmack.drawing.soak_calendar import draw_soak
from ohmack.web.leaflet import FUSES, pictures
from ohmack.web.papers.picture_style import on_paper
from proving import proved

SVG = "{http://www.w3.org/2000/svg}"


def parsed(svg: str) -> ET.Element:
    return ET.fromstring(svg)


def of(tree: ET.Element, style: str) -> list[ET.Element]:
    return [e for e in tree.iter() if style in (e.get("class") or "").split()]


def number(element: ET.Element, name: str) -> float:
    return float(element.get(name) or "nan")


def words(tree: ET.Element) -> list[str]:
    return ["".join(e.itertext()) for e in tree.iter() if e.tag.endswith("text")]


@pytest.mark.parametrize("standing", [False, True])
@pytest.mark.parametrize("job", range(len(demo_jobs())))
def test_every_fuse_has_its_number_and_no_two_lie_on_each_other(job: int, standing: bool) -> None:
    evaluation = evaluate(demo_design(job))
    spots = [s for s in evaluation.results.fuse_map if s.point is not None]
    drawn = pictures(evaluation, standing).fuses
    if not evaluation.results.fuse_map:
        assert drawn == ""
        return
    tree = parsed(drawn)
    marks = [(number(m, "cx"), number(m, "cy")) for m in of(tree, "fuse-mark")]
    assert len(marks) == len(spots)
    assert [w for e in of(tree, "on-fuse") for w in e.itertext()] == [str(s.number) for s in spots]
    for a, b in combinations(marks, 2):
        assert hypot(a[0] - b[0], a[1] - b[1]) >= 2 * RADIUS, (a, b)
    _, _, wide, high = (float(v) for v in (tree.get("viewBox") or "").split())
    for x, y in marks:
        assert RADIUS <= x <= wide - RADIUS, (x, y)
        assert RADIUS <= y <= high - RADIUS, (x, y)


@pytest.mark.parametrize("job", range(0, len(demo_jobs()), 3))
def test_the_line_to_a_number_begins_at_the_edge_of_its_thing(job: int) -> None:
    """It crosses no word that stands in an amplifier or on a fuse's tag."""
    evaluation = evaluate(demo_design(job))
    picture = begin(evaluation, lambda _: "")
    draw_plan(picture, FUSES)
    things = {name: box for name, box in picture.things.items() if not name.startswith("run-")}
    tree = parsed(f"<svg>{draw_fuse_marks(picture, evaluation.results.fuse_map)}</svg>")
    for dot in of(tree, "fuse-dot"):
        x, y = number(dot, "cx"), number(dot, "cy")
        inside = [n for n, b in things.items() if b.left + 1 < x < b.right - 1 and b.top + 1 < y < b.bottom - 1]
        assert len(inside) <= 1, "inside one thing at most: where two lie on each other"
        assert 0 <= x <= WIDTH
        assert 0 <= y <= HEIGHT


@pytest.mark.parametrize("job", [0, 15, 16])
def test_the_customers_pictures_link_nowhere_and_print_their_captions(job: int) -> None:
    made = pictures(evaluate(demo_design(job)), standing=True)
    for svg in (made.where, made.fuses, made.settings):
        tree = parsed(svg)
        assert not [e for e in tree.iter() if e.get("href")]
        assert tree.get("aria-label")
    printed = str(on_paper(str(made.where)))
    assert "Radio" in printed
    assert "paint-order" not in printed, "what sets papers would paint the halo over its word"
    under, over = re.findall(r"<text\b[^>]*>Radio</text>", printed)
    assert "stroke-width:5px" in under
    assert "stroke" not in over, "the halo is a text of its own under the word"


def scale(svg: str, style: str) -> float:
    (bar,) = of(parsed(svg), style)
    return number(bar, "width") / (RIGHT - LEFT)


@pytest.mark.parametrize(("step", "last"), [(27.0, 40.0), (40.0, 40.0), (1.0, 63.0)])
def test_the_clean_part_of_a_scale_is_its_share(step: float, last: float) -> None:
    svg = str(draw_settings([Ceiling("r", "Radio", step, last, f"step {step:g} of {last:g}", True)], []))
    assert scale(svg, "vol-clean") == pytest.approx(step / last, abs=0.01)
    assert f"clean to step {step:g} of {last:g}" in words(parsed(svg))


def test_what_nobody_read_is_not_drawn_as_clean() -> None:
    unknown = parsed(draw_settings([Ceiling("r", "Radio", None, None, "", False)], []))
    assert not of(unknown, "vol-clean")
    assert len(of(unknown, "vol-unknown")) == 1
    assert "nobody read how far it is clean" in words(unknown)
    papers = parsed(draw_settings([Ceiling("r", "Radio", 27.0, 40.0, "step 27 of 40", False)], []))
    assert "clean to step 27 of 40, by its papers" in words(papers)
    assert draw_settings([], []) == ""


@pytest.mark.parametrize(("low", "high"), [(20.0, 80.0), (80.0, 20_000.0), (3000.0, 20_000.0)])
def test_what_an_output_plays_lies_on_a_logarithmic_axis(low: float, high: float) -> None:
    (bar,) = of(parsed(draw_settings([], [Played("Doors", low, high, "high-pass 80 Hz")])), "plays")
    octaves = log10(high / low) / log10(1000)  # of the three decades from 20 Hz to 20 kHz
    assert number(bar, "width") / (RIGHT - LEFT) == pytest.approx(octaves, abs=0.005)
    begins = (number(bar, "x") - LEFT) / (RIGHT - LEFT)
    assert begins == pytest.approx(log10(low / 20) / 3, abs=0.005)


@pytest.mark.parametrize("job", range(0, len(demo_jobs()), 2))
def test_no_word_of_the_settings_leaves_the_picture(job: int) -> None:
    results = evaluate(demo_design(job)).results
    svg = draw_settings(ceilings(results), played(results))
    if not svg:
        return
    tree = parsed(svg)
    for line in played(results):
        assert any(w.startswith(line.name[:8]) for w in words(tree))
        assert line.from_hz < line.to_hz
    for label in (e for e in tree.iter() if e.tag.endswith("text")):
        assert 0 <= number(label, "x") <= 358


def test_the_soak_by_day() -> None:
    """A mark a try in its day's column, a pill that says how it stands, a link to where it is tried."""
    design = proved(demo_design(0))
    design = tried(design, "soak/drive", "2026-11-20T12:00", passed=True)
    design = tried(design, "soak/rattle", "2026-11-20T13:00", passed=True)
    design = tried(design, "soak/rattle", "2026-11-21T13:00", passed=False)
    design = tried(design, "soak/sleep", "2026-11-21T07:00", 12.0)
    checks = evaluate(design).results.soak.checks
    days = ["2026-11-20", "2026-11-21"]
    tree = parsed(draw_soak(checks, days, 780.0, 380.0, lambda show: f"/at?{show}"))
    heads = {w: number(e, "x") for e in tree.iter() if e.tag.endswith("text") for w in e.itertext() if w.endswith(".")}
    columns = [heads["20.11."], heads["21.11."]]
    rows = {r.get("href"): r for r in of(tree, "soak-row")}
    assert len(rows) == len(checks)
    for name, column, style in (
        ("drive", [0], ["good"]), ("rattle", [0, 1], ["good", "off"]), ("sleep", [1], ["good"]), ("warm", [], []),
    ):  # fmt: skip
        marks = of(rows[f"/at?check:soak/{name}"], "soak-try")
        assert [number(m, "cx") for m in marks] == pytest.approx([columns[n] for n in column], abs=0.1), name
        assert [(m.get("class") or "").split()[-1] for m in marks] == style
    said = {name: words(row)[-1] for name, row in rows.items()}
    assert said["/at?check:soak/drive"] == "✓"
    assert said["/at?check:soak/rattle"] == "!"
    assert said["/at?check:soak/sleep"] == "1/3"
    assert said["/at?check:soak/warm"] == "0/1"
    wide, narrow = words(tree), words(parsed(draw_soak(checks, days, 358.0, 190.0, lambda show: show)))
    limits = [c.check.expects for c in checks if c.check.is_read]
    assert all(limit in wide for limit in limits), "what must show stands beside it where there is room"
    assert not any(limit in narrow for limit in limits)


def test_three_tries_of_one_day_stand_beside_each_other() -> None:
    design = proved(demo_design(0))
    for hour in (7, 12, 19):
        design = tried(design, "soak/sleep", f"2026-11-20T{hour:02d}:00", 12.0)
    checks = evaluate(design).results.soak.checks
    row = next(r for r in of(parsed(draw_soak(checks, ["2026-11-20"], 780.0, 380.0, str)), "soak-row")
               if (r.get("href") or "").endswith("sleep"))  # fmt: skip
    places = [number(m, "cx") for m in of(row, "soak-try")]
    assert len(places) == 3
    assert min(b - a for a, b in zip(places, places[1:], strict=False)) >= 11


def test_a_hand_is_drawn_as_it_was_written() -> None:
    signature = Signature.model_validate(
        {"id": "s", "by": "Ada <Lark>", "revision": 1, "digest": "0" * 64,
         "drawn": [{"points": [[1, 2], [30, 40]]}, {"points": [[900, 299]]}]}
    )  # fmt: skip
    svg = draw_signature(signature)
    (pen,) = of(parsed(svg), "pen")
    assert pen.get("d") == "M1 2L30 40M900 299L900 299", "a dot is a stroke of no length"
    assert "Ada &lt;Lark&gt;" in svg
    assert draw_signature(signature.model_copy(update={"drawn": ()})) == ""
    assert not re.search(r"<script", svg)
