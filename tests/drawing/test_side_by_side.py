"""Cables on top of each other, drawn side by side: never two in one lane, no wider than a bundle may be."""

from __future__ import annotations

from itertools import combinations

import pytest

from core.test_in_its_place import car
from core.test_own_bands import driven
from ohmack.core.document.edits import apply_edits
from ohmack.core.evaluation.door import evaluate
from ohmack.core.planning.remedies import edits_of
from ohmack.core.planning.speaker_sets import OWN
from ohmack.drawing.picture import Layer, begin, picture_svg
from ohmack.drawing.plan import draw_plan, run_px
from ohmack.drawing.side_by_side import WIDEST_PX, shifts_px


def test_eight_leads_to_one_plug_are_a_ribbon_that_ends_where_they_end() -> None:
    design = driven(car(**{"tweeter": OWN, "boot-sub": OWN}))
    wires = next(f for f in evaluate(design).findings if f.rule == "fresh-through-doors")
    after = evaluate(apply_edits(design, edits_of(design, wires.remedy)))
    runs = [run for run in after.results.runs.values() if run.link.kind == "speaker"]
    assert len(runs) == 7
    shifts = [shifts_px(runs).get(run.link.id, (0.0, 0.0)) for run in runs]
    assert all(one != other for one, other in combinations(shifts, 2))
    for axis in (0, 1):
        lanes = [shift[axis] for shift in shifts]
        assert max(lanes) - min(lanes) <= WIDEST_PX + 1e-9
        assert max(lanes) + min(lanes) == pytest.approx(0.0, abs=WIDEST_PX / 6), "on both sides of their place"
    picture = begin(after, lambda path: f"?show={path}")
    drawn = str(picture_svg([draw_plan(picture, Layer(links=("speaker",)))], 296, "car", "plan"))
    assert ">AMP<" in drawn, "what they end at is drawn"
    assert ">AMP<" not in str(picture_svg([draw_plan(begin(after, str), Layer(links=("power",)))], 296, "car", "plan"))
    for run in runs:
        (x, y), (before_x, before_y) = run_px(picture, run)[-1], run_px(picture, run)[-2]
        there_x, there_y = picture.frame.at(*(run.points or ())[-1])
        along = abs(y - before_y) < abs(x - before_x)
        assert (x if along else y) == pytest.approx(there_x if along else there_y), "no lead is drawn past its end"
