"""Charts of supply and signal: what is drawn stands where its numbers are, inside its picture, labels apart."""

from __future__ import annotations

import re
import xml.etree.ElementTree as ET
from collections.abc import Iterator
from itertools import combinations

import numpy as np
import pytest

from ohmack.core.document import Design
from ohmack.core.document.edits import apply_edits
from ohmack.core.evaluation.door import evaluate
from ohmack.core.physics.responses import grid_hz
from ohmack.core.physics.time_current import LONGEST_S, band_of, damage_current_a, opening_s
from ohmack.core.planning.responses import take_in
from ohmack.core.supply.dip_study import DipStudy
from ohmack.demo.jobs import demo_design, demo_jobs
from ohmack.drawing.dip_trace import draw_dip
from ohmack.drawing.frequency_chart import _shown
from ohmack.drawing.levels import draw_levels
from ohmack.drawing.levels_upright import draw_levels_upright
from ohmack.drawing.picture import begin
from ohmack.drawing.response_curves import draw_responses
from ohmack.drawing.steps import draw_steps
from ohmack.drawing.svg import text_width
from ohmack.drawing.time_current import draw_time_current


def job(words: str) -> Design:
    return demo_design(next(n for n, one in enumerate(demo_jobs()) if words in one.title))


TWO, OLD, PREMIUM = "Two amplifiers", "The wasp", "Two bands"


def points(d: str) -> list[tuple[float, float]]:
    return [(float(x), float(y)) for x, y in re.findall(r"[ML]?\s*(-?[\d.]+)[ ,](-?[\d.]+)", d)]


def texts(svg: str) -> Iterator[tuple[str, float, float, float, float]]:
    """(text, left, right, top, bottom) of every label."""
    for node in ET.fromstring(svg).iter():
        if node.tag.split("}")[-1] != "text" or not (node.text or "").strip():
            continue
        words, x, y = node.text or "", float(node.get("x", "0")), float(node.get("y", "0"))
        style = (node.get("class") or "dim").split()[0]
        wide = text_width(words, style if style in ("lab", "dim") else "dim")
        anchor = node.get("text-anchor") or ("end" if "end" in (node.get("class") or "").split() else "start")
        left = x - {"middle": wide / 2, "end": wide}.get(anchor, 0.0)
        yield words, left, left + wide, y - 9.0, y + 2.0


def inside(svg: str) -> None:
    """Every label lies in the picture, and none over another."""
    _, _, width, height = (float(v) for v in ET.fromstring(svg).get("viewBox", "").split())
    found = list(texts(svg))
    assert found
    for words, left, right, top, bottom in found:
        assert left >= -1, (words, left)
        assert right <= width + 1, (words, right)
        assert top >= -1, (words, top)
        assert bottom <= height + 1, (words, bottom)
    for one, other in combinations(found, 2):
        across = min(one[2], other[2]) - max(one[1], other[1])
        down = min(one[4], other[4]) - max(one[3], other[3])
        assert across <= 1 or down <= 1, (one[0], other[0])


# seconds against amperes ----------------------------------------------------------------------------------------------


@pytest.mark.parametrize("run", range(3))
def test_the_band_stands_where_its_seconds_are(run: int) -> None:
    """Read back off both logarithmic axes: the band's corners are the family's times, the wire begins at what it
    carries for ever, load and shorts stand at their amperes.
    """
    one = evaluate(job(TWO)).results.protection[run]
    load_a = float(one.supply.figures["current"].value)
    wide, narrow = draw_time_current(one, load_a)
    for svg in (str(wide), str(narrow)):
        inside(svg)
        root = ET.fromstring(svg)
        paths = {node.get("class"): node.get("d", "") for node in root.iter() if node.get("d")}
        grid = [node for node in root.iter() if node.get("class") == "grid" and "V" in node.get("d", "")]
        first = points(grid[0].get("d", ""))[0][0]
        hundred = points(grid[3].get("d", ""))[0][0]  # 10, 20, 50, 100 A
        decade = hundred - first

        def amps(x: float, first: float = first, decade: float = decade) -> float:
            return float(10 ** (1 + (x - first) / decade))

        corners = points(paths["band"])
        from_a = band_of(one.family).multiples[0] * one.rating_a
        assert amps(corners[0][0]) == pytest.approx(from_a, rel=0.02)
        slowest, fastest = corners[0][1], corners[-1][1]
        seconds = opening_s(one.family, one.rating_a, from_a)
        rows = [node for node in root.iter() if node.get("class") == "grid" and "H" in node.get("d", "")]
        ten_ms, tenth = (points(node.get("d", ""))[0][1] for node in rows[:2])
        for y, wanted in ((slowest, seconds[1]), (fastest, seconds[0])):
            read = 10 ** (-2 + (ten_ms - y) / (ten_ms - tenth))
            assert read == pytest.approx(wanted, rel=0.04)
        wire = points(paths["stands long"])
        assert amps(wire[0][0]) == pytest.approx(damage_current_a(one.wire, one.engine_space), rel=0.02)
        assert 10 ** (-2 + (ten_ms - wire[0][1]) / (ten_ms - tenth)) == pytest.approx(LONGEST_S, rel=0.05)
        marks = [points(n.get("d", ""))[0][0] for n in root.iter() if n.get("class") == "mark-line"]
        wanted_a = (float(one.far.value), float(one.near.value), load_a)
        assert [amps(x) for x in marks] == pytest.approx(wanted_a, rel=0.02)
    assert ("band-before" in str(wide)) is (one.before is not None)


# the dip --------------------------------------------------------------------------------------------------------------


def test_the_trace_falls_to_the_lowest_volts() -> None:
    study = evaluate(job(TWO)).results.dip
    assert isinstance(study, DipStudy)
    for svg in map(str, draw_dip(study, study.mended[2])):
        inside(svg)
        root = ET.fromstring(svg)
        traces = {
            node.get("class"): points(node.get("d", "")) for node in root.iter() if "trace" in (node.get("class") or "")
        }
        ticks = sorted((y, float(w)) for w, _, _, _, y in texts(svg) if re.fullmatch(r"1\d\.\d", w))
        (top_y, top_v), (bottom_y, bottom_v) = ticks[0], ticks[-1]

        def volts(y: float) -> float:
            return top_v - (y - top_y + 6.0) / (bottom_y - top_y) * (top_v - bottom_v)  # noqa: B023

        lowest = {
            "trace post": study.now.dip.lowest_post_v,
            "trace amp-v": study.now.dip.lowest_amplifier_v,
            "trace post mended": study.mended[2].dip.lowest_post_v,
        }
        for style, wanted in lowest.items():
            assert volts(max(y for _, y in traces[style])) == pytest.approx(wanted, abs=0.06), style


# responses and steps --------------------------------------------------------------------------------------------------


def test_curves_end_where_they_were_measured(estate: Design) -> None:
    """A response from 100 Hz to 1 kHz is drawn between them, and nowhere falls to the foot of its chart."""
    hz = grid_hz(100.0, 1000.0, 12)
    design = apply_edits(
        estate, take_in(estate, "Short", "at the tap", "before the work", "", list(hz), [0.0] * len(hz))
    )
    wide, narrow = draw_responses(evaluate(design).results.responses)
    for svg in map(str, (wide, narrow)):
        inside(svg)
        (curve,) = [n.get("d", "") for n in ET.fromstring(svg).iter() if "curve" in (n.get("class") or "").split()]
        xs, ys = zip(*points(curve), strict=True)
        lines = [points(n.get("d", ""))[0][0] for n in ET.fromstring(svg).iter() if n.get("class") == "grid"]
        assert max(ys) - min(ys) < 1
        assert min(xs) > min(lines)
        assert max(xs) < max(lines)
    assert _shown(np.array([np.nan, 0.0, 1.0, np.nan, -99.0, 0.0]), -30.0) == [range(1, 3), range(4, 6)]
    both = evaluate(job(PREMIUM)).results.responses
    assert str(draw_responses(both)[0]).count("curve predicted") == 2  # the curve, and its piece in the key


def test_a_misread_step_is_marked_and_left_out_of_its_line() -> None:
    baseline = evaluate(job(OLD)).results.baseline
    svg = str(draw_steps(baseline))
    inside(svg)
    root = ET.fromstring(svg)
    out = [(float(n.get("cx", "0")), float(n.get("cy", "0"))) for n in root.iter() if n.get("class") == "left-out"]
    assert len(out) == sum(len(s.outliers) for s in baseline.sweeps) == 1
    for node in root.iter():
        if (node.get("class") or "").startswith("trace-"):
            assert out[0] not in [(round(x, 1), round(y, 1)) for x, y in points(node.get("d", ""))]


# the ladder -----------------------------------------------------------------------------------------------------------


def test_gains_have_handles_and_other_ways_are_faint() -> None:
    """A handle a gain, its decibels a pixel those of the axis; every other way behind it; none on the phone."""
    result = evaluate(job(PREMIUM))
    first, *others = result.results.signals
    picture = begin(result, lambda path: f"?show={path}")
    svg = f"<svg>{draw_levels(picture, first, 300.0, others)}</svg>"
    root = ET.fromstring(svg)
    handles = {n.get("data-gain"): n for n in root.iter() if n.get("data-gain")}
    assert set(handles) == {"processor", first.outputs[0].load.link.id}
    assert all(n.get("role") == "slider" and n.get("aria-label") for n in handles.values())
    assert svg.count("level-line faint") == len([o for o in others if len(o.stages) > 1])
    levels = {s.name: s.level_dbv for s in first.stages}
    dots = {name: float(next(c for c in n if c.get("r") == "4.5").get("cy", "0")) for name, n in handles.items()}
    apart_px = dots["processor"] - dots[first.outputs[0].load.link.id]
    apart_db = levels["amplifier output"] - levels["converter output"]
    scale = float(handles["processor"].get("data-db", "0"))
    assert apart_px * scale == pytest.approx(apart_db, rel=0.02)
    assert "data-gain" not in str(draw_levels_upright(first))
