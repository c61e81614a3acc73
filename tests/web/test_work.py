"""The work by plain forms: what is refused is said at its form, and nothing that was typed is lost."""

from __future__ import annotations

import re

import pytest
from starlette.testclient import TestClient

from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.evaluation.door import evaluate
from ohmack.core.figures.finding import Severity
from ohmack.core.planning.standing import Standing, standing
from ohmack.demo.jobs import demo_design
from ohmack.store.context import BUILT_IN
from ohmack.store.database import Database
from web.test_survey import Bench


@pytest.fixture
def bench(client: TestClient, database: Database) -> Bench:
    return Bench(client, database, demo_design(0))


def form_of(page: str, action: str, *own: str) -> str:
    """The one form of an address that holds all of some text."""
    forms = re.findall(rf'<form[^>]*action="[^"]*/{action}".*?</form>', page, re.S)
    (found,) = [form for form in forms if all(words in form for words in own)]
    return str(found)


def kept(form: str, name: str) -> str:
    """What a field of a form holds."""
    (tag,) = re.findall(rf'<input[^>]*name="{name}"[^>]*>', form)
    value = re.search(r'value="([^"]*)"', tag)
    return value[1] if value else ""


def refused(bench: Bench, where: str, stage: str, path: str, **fields: str) -> str:
    answer = bench.post(where, stage=stage, path=path, **fields)
    assert answer.status_code == 422
    return str(answer.text)


def test_minutes_and_reasons_of_a_step_stay(bench: Bench) -> None:
    page = refused(bench, "step", "steps", "step", step="try-all", done="yes", minutes="a while")
    mine = form_of(page, "step", 'value="try-all"')
    assert kept(mine, "minutes") == "a while"
    assert page.count('value="a while"') == 1, "at its own step only"
    assert re.search(r'</form>\s*<p class="problem wide">Minutes: ', page)
    page = refused(bench, "step-out", "steps", "step-out", step="gains", reason="  ")
    assert "Say why it is left out" in page
    assert re.search(r'<details class="step-change" open>\s*<summary>change', page), "the form that was sent is open"
    page = refused(
        bench, "own-step", "steps", "own-step", what="Deaden the floor", after="fix-box", before="off-rear", low="20",
        high="40", one_shot="yes",
    )  # fmt: skip
    mine = form_of(page, "own-step")
    assert "It cannot come before what it comes after" in mine
    assert [kept(mine, name) for name in ("what", "low", "high")] == ["Deaden the floor", "20", "40"]
    assert re.findall(r'value="([\w-]+)"\s+selected', mine) == ["fix-box", "off-rear"]
    assert re.search(r'name="one_shot"[^>]*checked', mine)


def test_a_count_that_was_refused_stays_at_its_own_panel(bench: Bench) -> None:
    for step in ("try-all", "note", "battery-off"):
        assert bench.post("step", stage="steps", step=step, done="yes").status_code == 303
    counts = {"fasteners": "four", "clips": "3", "plugs": "2", "kind": "T20", "tray": "A", "note": "left one bent"}
    page = refused(bench, "take-off", "teardown", "take-off", step="off-radio", **counts)
    mine = form_of(page, "take-off", 'value="off-radio"')
    assert {name: kept(mine, name) for name in counts} == counts
    assert "How many screws, bolts, nuts? A whole number up to 99" in mine
    assert not kept(form_of(page, "take-off", 'value="off-rear"'), "kind")
    page = refused(bench, "take-off", "teardown", "take-off", step="", name="Seat back", plugs="one", clips="2")
    other = form_of(page, "take-off", 'name="name"')
    assert [kept(other, name) for name in ("name", "plugs", "clips")] == ["Seat back", "one", "2"]
    assert '<details class="unplanned" open>' in page
    assert not bench.design.work.taken


def test_what_came_off_uncounted_is_asked_for(bench: Bench) -> None:
    """Ticked on the list of steps, a panel is off all the same: the count waits for it."""
    assert "3 things to come off" in bench.page("teardown")
    for step in ("try-all", "note", "battery-off", "off-radio"):
        assert bench.post("step", stage="steps", step=step, done="yes").status_code == 303
    page = bench.page("teardown")
    assert "1 thing came off uncounted" in page
    assert form_of(page, "take-off", 'value="off-radio"')
    assert bench.post("take-off", stage="teardown", step="off-radio", fasteners="4", plugs="3").status_code == 303
    assert "Off the car: 1 thing" in bench.page("teardown")
    assert "still out: 4 screws or bolts and 3 plugs" in bench.page("teardown")


def test_who_agreed_and_why_stay(bench: Bench) -> None:
    page = refused(bench, "accept-quote", "quote", "quote", by=" ")
    assert "Whose yes is it?" in form_of(page, "accept-quote")
    assert bench.post("accept-quote", stage="quote", by="Ms Fenn").status_code == 303
    bench.post("step-out", stage="steps", step="gains", reason="the customer's own")
    page = refused(bench, "accept-quote", "quote", "quote", by="Mr Fenn", reason=" ")
    assert kept(form_of(page, "accept-quote"), "by") == "Mr Fenn"
    assert "Ties, loom, tape, grommets" in page


def test_a_car_on_factory_feeds_says_that_nothing_was_reckoned(client: TestClient, database: Database) -> None:
    """A powered subwoofer on a factory feed draws; the drive does not count it, and does not say that nothing draws."""
    bench = Bench(client, database, demo_design(9))
    assert "What hangs on factory feeds is not reckoned" in bench.page("charging")
    assert bench.store.load(BUILT_IN, bench.job).design.parts


def test_work_that_is_done_says_what_still_stands(client: TestClient, database: Database) -> None:
    """Every step done of a plan with a stop in it: the sentence over the steps says so."""
    cold = apply_edits(demo_design(0), [Edit(path="links/power-amp/fuse/rating_a", value=150.0)])
    marks = [
        Edit(op="add", path="work/marks", value={"id": f"m{n}", "step": p.step.id, "done": True})
        for n, p in enumerate(evaluate(cold).results.work_plan.steps)
    ]
    stops = evaluate(cold).count(Severity.STOP)
    assert stops
    for design, words in ((apply_edits(cold, marks), f"Everything is done, {stops} stop"),
                          (apply_edits(demo_design(0), marks), "Everything is done")):  # fmt: skip
        title = re.search(r"<h1>([^<]*)</h1>", Bench(client, database, design).page("steps"))
        assert title[1].startswith(words)
        assert ("stop" in title[1]) == ("stop" in words)


@pytest.mark.parametrize(
    ("budget", "words"),
    [(5000, "within the customer"), (100, "EUR or more above the customer"), (1200, "may pass")],
)
def test_a_quote_is_held_against_the_budget_where_it_is_given(bench: Bench, budget: int, words: str) -> None:
    """The labour is in it, so that no rule has to plan the steps to say so."""
    assert bench.post("edit", stage="job", path="intake/budget", value=str(budget)).status_code == 303
    said = re.search(r"tax in it, ([^;<]*)", bench.page("quote"))
    assert said is not None
    assert words in said[1]


def test_an_order_is_said_once_and_line_by_line(bench: Bench) -> None:
    """Ordered, then one part here, then all: the plate, the job's standing and every line follow; what comes later, and
    what the customer brings, is nobody's order.
    """
    later = {"id": "next", "kind": "accessory", "name": "Trim kit", "category": "consumables", "phase": "later"}
    own = [Edit(path="parts/sub/by_customer", value=True), Edit(op="add", path="parts", value=later)]
    record = bench.store.load(BUILT_IN, bench.job)
    bench.store.save(BUILT_IN, record.design_id, record.version, apply_edits(record.design, own), "t")
    assert "Nothing was changed" in refused(bench, "arrivals", "order", "", stands="lost")
    assert bench.post("arrivals", stage="order", stands="ordered").status_code == 303
    stands = {part.id: part.stands.value for part in bench.design.parts}
    assert (stands["amp"], stands["sub"], stands["next"]) == ("ordered", "wanted", "wanted")
    assert bench.design.work.materials.value == "ordered"
    plate = evaluate(bench.design, sweep_facts=True).verdict
    count = sum(part.stands.value != "here" for part in bench.design.parts if part.id != "next")
    assert (plate.headline, plate.detail.partition(";")[0]) == ("Ordered", f"{count} parts to come")
    cable = apply_edits(bench.design, [Edit(path="work/materials", value="wanted")])
    assert evaluate(cable, sweep_facts=True).verdict.headline == "Ready to order", "wire is still to be ordered"
    assert standing(bench.design) is Standing.WAITING
    page = bench.page("order")
    assert "to come, nothing to order" in page
    assert ">Everything is ordered<" not in page, "it is said already"
    assert bench.post("choose", stage="order", path="parts/amp/stands", value="here").status_code == 303
    assert bench.post("arrivals", stage="order", stands="ordered").status_code == 303
    assert {p.stands.value for p in bench.design.parts if p.id == "amp"} == {"here"}, "nothing goes back a step"
    assert bench.post("arrivals", stage="order", stands="here").status_code == 303
    assert {p.stands.value for p in bench.design.parts if p.id != "next"} == {"here"}
    assert "<h1>Everything is here</h1>" in bench.page("order")
    verdict = evaluate(bench.design, sweep_facts=True).verdict
    assert verdict.detail.startswith("everything is here") or verdict.headline == "Not ready to order"
    assert bench.post("choose", stage="order", path="work/materials", value="wanted").status_code == 303
    assert re.search(r"<h1>\d+ lines to order</h1>", bench.page("order"))
