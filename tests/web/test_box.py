"""The sheet of boxes: curves, proposals, panels one to one, and what cannot be judged."""

from __future__ import annotations

import csv
import re
from io import StringIO
from math import sqrt

import pytest
from starlette.testclient import TestClient

from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.evaluation.door import evaluate
from ohmack.demo.jobs import demo_design, demo_jobs
from ohmack.store.database import Database
from web.test_survey import Bench

WEDGE = next(n for n, job in enumerate(demo_jobs()) if job.title == "A box across the back wall")


def test_a_box_is_shown_taken_and_sawn(client: TestClient, database: Database) -> None:
    bench = Bench(client, database, demo_design(WEDGE))
    page = bench.page("box")
    assert re.search(r"Reaches \d\d Hz, \d{3} dB at 40 Hz", page)
    words = re.findall(r'name="words" value="([^"]+)"', page)
    assert len(words) >= 4
    closed = next(w for w in words if "flat as low" in w)
    assert bench.post("box-take", stage="box", box="box", words="a tub").status_code == 422
    assert bench.post("box-take", stage="box", box="ghost", words=closed).status_code == 422
    assert bench.post("box-take", stage="box", box="box", words=closed).status_code == 303
    taken = bench.design.part("box")
    assert taken is not None
    assert taken.box_type == "closed"  # type: ignore[attr-defined]
    assert "Q 0.7" in bench.page("box")


def test_curves_go_out_as_columns_and_panels_one_to_one(client: TestClient, database: Database) -> None:
    bench = Bench(client, database, demo_design(WEDGE))
    answer = client.get(f"/jobs/{bench.job}/box/box/curves.csv")
    rows = list(csv.DictReader(StringIO(answer.content.decode("utf-8-sig"))))
    solved = evaluate(demo_design(WEDGE)).results.boxes[0].solved
    assert solved is not None
    assert len(rows) == len(solved.curves.frequency_hz)
    furthest = max(rows, key=lambda row: float(row["travel_mm"]) if float(row["frequency_hz"]) > 25 else 0.0)
    assert float(furthest["travel_mm"]) == pytest.approx(solved.travel_mm, abs=0.01)
    assert min(float(row["most_power_w"]) for row in rows) > 0
    drawn = client.get(f"/jobs/{bench.job}/box/box/panels.svg").text
    assert 'width="2500mm"' in drawn
    assert 'viewBox="0 0 2500' in drawn
    lean = 1000 * (0.44 - 0.036) * sqrt(0.08**2 + 0.44**2) / 0.44  # the leaning back, cut longer
    assert f'"{lean:.3f}"' in drawn
    for wrong in ("box/ghost/curves.csv", "box/ghost/panels.svg"):
        assert client.get(f"/jobs/{bench.job}/{wrong}").status_code == 404


def test_without_the_papers_nothing_is_claimed(client: TestClient, database: Database) -> None:
    bench = Bench(client, database, apply_edits(demo_design(WEDGE), [Edit(path="parts/sub/vas_l", value=None)]))
    page = bench.page("box")
    assert "What this box does is not judged" in page
    assert "equivalent volume (Vas)" in page
    assert 'class="curve' not in page
    assert "suits a driver with Vas" in page
    assert client.get(f"/jobs/{bench.job}/box/box/curves.csv").status_code == 404
    assert bench.post("box-take", stage="box", box="box", words="x").status_code == 422
    wrong = bench.post("edit", stage="box", hx=True, path="parts/sub/qms", value="-3")
    assert wrong.status_code == 422
    assert 'value="-3"' in wrong.text
