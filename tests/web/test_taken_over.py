"""A complaint about what somebody else fitted, by plain forms: entered as it lies there, and named first."""

from __future__ import annotations

import re

from starlette.testclient import TestClient

from core.test_taken_over import entered, found, pressed
from ohmack.core.evaluation.door import evaluate
from ohmack.demo.jobs import demo_design
from ohmack.store.database import Database
from web.test_pages import HX
from web.test_survey import Bench, car


def done(page: str, stage: str) -> bool:
    """Whether a stage's dot on the track is filled."""
    item = re.search(r'<li class="([^"]*)">\s*<a href="/jobs/[^"]*/' + stage + '"', page)
    assert item is not None
    return "done" in item[1].split()


def test_no_dot_is_filled_while_nothing_of_its_stage_has_a_value(client: TestClient, database: Database) -> None:
    page = Bench(client, database, found()).page("plan")
    assert not [stage for stage in ("loads", "signal", "supply") if done(page, stage)]
    page = Bench(client, database, pressed(entered(found(), 3.5), "coils-unread")).page("supply")
    assert "Not clear yet" not in page
    assert [stage for stage in ("loads", "signal", "supply") if done(page, stage)] == ["loads", "signal", "supply"]


def test_what_is_typed_in_for_a_complaint_lies_in_the_car(client: TestClient, database: Database) -> None:
    bench = Bench(client, database, car())
    assert f"/jobs/{bench.job}/fault" in bench.page("plan"), "an empty job says where a complaint is looked into"
    bench.post("proof-symptom", stage="fault", symptom="cuts out when loud", said="yes")
    link = re.search(r'href="(/jobs/[^"]*/parts/new[^"]*)">Type a part in', bench.page("fault"))
    assert link is not None
    form = client.get(link[1]).text
    assert re.search(r'name="in_car"\s+value="yes"\s+checked', form)
    assert "kind=box&amp;in_car=yes" in form, "the other kinds keep it"
    assert not re.search(r'name="in_car"\s+value="yes"\s+checked', client.get(link[1].partition("?")[0]).text)


def test_what_is_on_file_heads_the_search(client: TestClient, database: Database) -> None:
    bench = Bench(client, database, pressed(entered(found(), 0.95), "coils-unread"))
    before = bench.page("fault")
    assert "What would do it without a fault" not in before
    assert bench.post("proof-symptom", stage="fault", symptom="cuts out when loud", said="yes").status_code == 303
    page = bench.page("fault")
    head, _, rest = page.partition("What would do it without a fault")
    assert "that alone would bring it about" in head
    assert rest.index("is below the 2 Ω") < rest.index("by itself: cuts out when loud") < rest.index("What else it")


def test_a_meter_is_told_what_each_wiring_would_show(client: TestClient, database: Database) -> None:
    page = Bench(client, database, entered(found())).page("loads")
    now = page[page.index("meter-now") : page.index("reads_ohm", page.index("meter-now"))]
    assert "both coils in parallel" in now
    assert "both coils in series" in now
    assert "What other readings mean" not in page


def test_the_survey_is_done_once_it_was_swept_and_nothing_is_left(client: TestClient, database: Database) -> None:
    bench = Bench(client, database, demo_design(0))
    said = bench.post("fact", stage="plan", hx=True, path="vehicle/supply/post_running_v", value="14.1")
    assert said.status_code == 200
    part = client.get(f"/jobs/{bench.job}/plan", headers=HX).text
    assert not done(part, "survey"), "nobody asked yet"
    swept = client.get(f"/jobs/{bench.job}/open-questions", params={"stage": "plan"}, headers=HX).text
    assert 'id="stages" hx-swap-oob="true"' in swept
    asked = evaluate(bench.design, sweep_facts=True).measure_first
    assert done(swept, "survey") is (asked == ())
