"""Prove by plain forms: what is refused is said at its check and kept; two people; a meter; practice."""

from __future__ import annotations

import csv
import io
import re
from html import escape

import pytest
from starlette.testclient import TestClient

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.evaluation.door import evaluate
from ohmack.core.planning.part_added import added
from ohmack.demo.building import catalogue
from ohmack.demo.jobs import demo_design, demo_jobs
from ohmack.instruments.running import RunningBench
from ohmack.store.context import BUILT_IN, Context
from ohmack.store.database import Database
from ohmack.store.instruments import InstrumentKind, InstrumentRecord, InstrumentStore
from ohmack.store.shop import ShopStore
from proving import proved
from web.test_pages import HX, form
from web.test_survey import Bench, car


@pytest.fixture
def bench(client: TestClient, database: Database) -> Bench:
    return Bench(client, database, proved(demo_design(0), (1,)))


def now(page: str) -> str:
    return re.search(r'name="check" value="([^"]+)"', page)[1]  # type: ignore[index]


def read(bench: Bench, check: str, hx: bool = False, **said: str) -> int:
    answer = bench.post("proof-reading", stage="prove", hx=hx, path="proof", check=check, **said)
    return int(answer.status_code)


def test_one_check_after_the_other(bench: Bench) -> None:
    """What is read is kept and judged; the next one is shown at once."""
    page = bench.page("prove")
    assert now(page) == "live/smell"
    assert read(bench, "live/smell", passed="yes") == 303
    assert now(bench.page("prove")) == "live/lamps"
    assert read(bench, "live/amp/amp/running", value="14,1", who="Wen", instrument="Hobmeter") == 303
    kept = bench.design.proof.readings[-1]
    assert (kept.value, kept.who, kept.instrument) == (14.1, "Wen", "Hobmeter")
    assert re.fullmatch(r"\d{4}-\d\d-\d\dT\d\d:\d\d", kept.when)
    assert now(bench.page("prove")) == "live/lamps", "as predicted: on it goes"
    assert "✓" in bench.page("prove").split('class="just-read"')[1][:300]
    assert read(bench, "live/amp/amp/running", value="11.1") == 303
    page = bench.page("prove")
    assert now(page) == "live/amp/amp/running", "what is off is looked at first"
    assert "Look for the fault" in page
    assert "Go on: Warning lamps" in page
    assert read(bench, "live/amp/amp/running", value="14.2 V") == 303
    assert now(bench.page("prove")) == "live/lamps"
    assert [r.value for r in bench.design.proof.readings[-3:]] == [14.1, 11.1, 14.2]
    assert "before: 14.10 V" in bench.page("readings")


@pytest.mark.parametrize(
    ("check", "said", "words"),
    [
        ("live/amp/amp/running", {"value": "eleven"}, "The reading: "),
        ("live/amp/amp/running", {"value": "3 ohm"}, "a voltage"),
        ("live/amp/amp/running", {"value": "14200"}, "type 14.2"),
        ("live/amp/amp/running", {}, "Enter what the meter shows"),
        ("dead/pair/amp", {"value": "-2"}, "below nothing"),
        ("dead/pair/amp", {"value": "1.8", "zero": "a bit"}, "The leads: "),
        ("live/lamps", {}, "Say whether it is good"),
        ("level/volts/amp", {"value": "13.9"}, "Not before “First power” is through"),
        ("no/such/check", {"value": "1"}, "does not ask for this check any more"),
    ],
)
def test_what_is_refused_is_said_at_its_check_and_kept(
    check: str, said: dict[str, str], words: str, bench: Bench
) -> None:
    before = bench.design.proof
    answer = bench.post("proof-reading", stage="prove", path="proof", check=check, note="by the left wheel", **said)
    assert answer.status_code == 422
    assert words in answer.text
    assert bench.design.proof == before
    if check in ("live/amp/amp/running", "dead/pair/amp") and said.get("value"):
        assert f'value="{said["value"]}"' in answer.text
        assert 'value="by the left wheel"' in answer.text
        assert 'aria-invalid="true"' in answer.text


def test_two_people_read_at_once_and_nothing_is_lost(bench: Bench, client: TestClient) -> None:
    """Both have the same page open; each reading is another check, or even the same one."""
    stale = form(client, bench.job) | {"stage": "prove"}
    for check, value in (("live/amp/amp/on", "12.5"), ("live/amp/amp/running", "14.2"), ("live/amp/amp/on", "12.4")):
        data = stale | {"check": check, "value": value}
        assert client.post(f"/jobs/{bench.job}/proof-reading", data=data, headers=HX).status_code == 200
    assert [r.value for r in bench.design.proof.readings[-3:]] == [12.5, 14.2, 12.4]


def test_the_tracks_dot_fills_when_it_is_proved_and_not_before(client: TestClient, database: Database) -> None:
    def dot(design: Design) -> str:
        page = Bench(client, database, design).page("build")
        return re.search(r'<li class="([^"]*)"[^>]*>\s*<a[^>]*href="[^"]*/prove"', page)[1]  # type: ignore[index]

    assert "done" not in dot(demo_design(0))
    assert "done" not in dot(proved(demo_design(0), (1, 2)))
    assert "done" in dot(proved(demo_design(0)))


def test_names_and_reasons_are_asked_for(bench: Bench) -> None:
    answer = bench.post("proof-accept", stage="prove", path="accept", check="live/smell", by="", reason="no nose")
    assert answer.status_code == 422
    assert "who stands for it" in answer.text
    assert 'value="no nose"' in answer.text
    assert bench.post("proof-accept", stage="prove", check="live/smell", by="Wen", reason="a cold").status_code == 303
    assert "accepted by Wen: a cold" in re.sub(r"\s+", " ", bench.page("prove"))
    assert bench.post("proof-jump", stage="prove", path="jump", gate="2", by="Wen", reason="").status_code == 422
    assert bench.post("proof-jump", stage="prove", gate="2", by="Wen", reason="rain").status_code == 303
    page = re.sub(r"\s+", " ", bench.page("prove"))
    assert "passed by Wen with" in page
    assert "Watch" in page
    jump = bench.design.proof.jumps[0].id
    assert bench.post("proof-withdraw", stage="prove", what=jump).status_code == 303
    assert bench.post("proof-withdraw", stage="prove", what=jump).status_code == 422
    assert not bench.design.proof.jumps


def test_planned_with_as_read_says_what_moves(bench: Bench) -> None:
    read(bench, "live/post/battery/running", value="13.6")
    answer = bench.post("proof-take-over", stage="readings", hx=True, check="live/post/battery/running")
    assert answer.status_code == 200
    assert bench.design.vehicle.supply.post_running_v.value == 13.6
    assert "14.2" in answer.text, "before and after"
    assert bench.post("proof-take-over", stage="readings", path="take-over", check="live/lamps").status_code == 422


def test_the_readings_as_a_table(bench: Bench) -> None:
    read(bench, "live/amp/amp/running", value="11.2", note="=HYPERLINK(1)")
    read(bench, "live/amp/amp/running", value="14.2")
    text = bench.client.get(f"/jobs/{bench.job}/readings.csv").text
    rows = [row for row in csv.DictReader(io.StringIO(text.lstrip("\ufeff"))) if row["check"] == "live/amp/amp/running"]
    assert [(r["value"], r["stands"], r["corrected"]) for r in rows] == [
        ("11.2", "", "yes"),
        ("14.2", "as predicted", ""),
    ]
    assert not rows[0]["note"].startswith("=")
    assert float(rows[0]["low"]) < 14.2 < float(rows[0]["high"])


def test_what_was_read_while_a_fault_was_looked_for_stands_with_the_rest(bench: Bench) -> None:
    """Its answer decides nothing of a gate, and is nowhere lost: in the table, in the file, and of a part taken out."""
    said = {"stage": "fault", "path": "proof", "check": "find/asleep/amp"}
    assert bench.post("proof-reading", value="0.9", **said).status_code == 303
    page = bench.page("readings")
    assert "Current of Tessel M500, key off" in page
    assert "while a fault was looked for" in page

    def rows() -> list[tuple[str, str, str]]:
        text = bench.client.get(f"/jobs/{bench.job}/readings.csv").text.lstrip("\ufeff")
        return [(r["check"], r["value"], r["stands"]) for r in csv.DictReader(io.StringIO(text))]

    assert ("find/asleep/amp", "0.9", "not as predicted") in rows()
    read(bench, "live/amp/amp/running", value="14.2")
    assert bench.post("remove", path="parts/amp").status_code == 303
    kept = rows()
    assert ("live/amp/amp/running", "14.2", "no longer asked") in kept
    assert ("find/asleep/amp", "0.9", "no longer asked") in kept, "a reading of a search too"


def test_the_search_for_a_fault_to_its_mend(bench: Bench) -> None:
    """A blown fuse: ticked, asked, found, mended; what said it is asked again."""
    assert bench.post("proof-symptom", stage="fault", symptom="no power at all", said="yes").status_code == 303
    assert bench.post("proof-symptom", stage="fault", symptom="a smell", said="yes").status_code == 422
    for _ in range(10):
        page = bench.page("fault")
        if re.search(r"<h1>Found", page):
            break
        check = now(page)
        said = {"value": "12.6", "passed": "no", "over": ""} if "/remote/" in check else {"value": "0", "passed": "no"}
        if check.startswith("dead/clear"):
            said["over"] = "yes"
        assert bench.post("proof-reading", stage="fault", path="proof", check=check, **said).status_code == 303, check
    assert "Found a blown fuse: run to Tessel M500" in page
    assert "Look for what blew it" in page
    assert bench.post("proof-mended", stage="fault", words="", who="Wen", leave="yes").status_code == 303
    assert [f.kind.value for f in bench.design.proof.faults] == ["a blown fuse"]
    page = bench.page("fault")
    assert "Found and not mended" in page
    name = re.search(r'name="fault" value="([\w-]+)"', page)[1]  # type: ignore[index]
    done = {"fault": name, "words": "new fuse, run was pinched", "who": "Wen"}
    assert bench.post("proof-mended", stage="fault", **done).status_code == 303
    proof = bench.design.proof
    assert (proof.faults, proof.symptoms) == ((), ())
    assert [(m.kind.value, m.words, m.who) for m in proof.mends] == [
        ("a blown fuse", "new fuse, run was pinched", "Wen")
    ]
    answer = bench.post("proof-mended", stage="fault", path="mended", words="again", who="Wen")
    assert answer.status_code == 422
    assert "Nothing is found yet" in answer.text


def test_a_reading_taken_from_an_instrument(bench: Bench, database: Database) -> None:
    """Identified and kept, looked at, taken; gone, it says so and the page stands."""
    running = RunningBench(0)
    port = running.start()[0]
    try:
        answer = bench.post("instrument", stage="instruments", path="instrument", kind="multimeter", address="nowhere")
        assert answer.status_code == 422
        assert "host:port" in answer.text
        kept = bench.post("instrument", stage="instruments", kind="multimeter", address=f"127.0.0.1:{port}")
        assert kept.status_code == 303
        assert "Ohmack Bench multimeter" in bench.page("instruments")
        live = bench.client.get(f"/jobs/{bench.job}/live", params={"check": "live/post/battery/on"}, headers=HX)
        assert re.search(r"1[23]\.\d\d V", live.text)
        assert "<title>" not in live.text
        assert bench.post("proof-take", stage="prove", check="live/post/battery/on").status_code == 303
        taken = bench.design.proof.readings[-1]
        assert taken.instrument == "Ohmack Bench multimeter"
        assert taken.value == pytest.approx(12.6, abs=0.5)
        drop = Bench(bench.client, database, proved(demo_design(0), (1, 2)))
        assert 'id="take-current"' in drop.page("prove", "check:level/drop/amp")
        answer = drop.post("proof-take", stage="prove", path="take", check="level/drop/amp", current="much")
        assert answer.status_code == 422
        assert 'value="much"' in answer.text, "what was typed stays"
        assert drop.post("proof-take", stage="prove", check="level/drop/amp", current="44,5").status_code == 303
        assert drop.design.proof.readings[-1].current_a == 44.5
    finally:
        running.stop()
    answer = bench.post("proof-take", stage="prove", path="take", check="live/post/battery/running")
    assert answer.status_code == 422
    assert "Nothing answers at" in answer.text
    live = bench.client.get(f"/jobs/{bench.job}/live", params={"check": "live/post/battery/on"}, headers=HX)
    assert live.status_code == 200
    assert "Nothing answers at" in live.text
    assert bench.post("instrument", stage="instruments", kind="multimeter", forget="yes").status_code == 303
    answer = bench.post("proof-take", stage="prove", path="take", check="live/post/battery/running")
    assert "No multimeter is known yet" in answer.text


def test_what_nobody_can_judge_is_looked_at_first(client: TestClient, database: Database) -> None:
    """A small drop and no current: it stands first with what it lacks, and the way past it is there too."""
    bench = Bench(client, database, proved(demo_design(0), (1, 2)))
    assert read(bench, "level/drop/amp", value="20") == 303
    page = bench.page("prove")
    assert now(page) == "level/drop/amp"
    assert "At which current?" in page
    assert "? not judged" in page
    assert "Go on: " in page
    assert "Look for the fault" not in page, "nothing says there is one"
    assert read(bench, "level/drop/amp", value="20", current="46") == 303
    page = bench.page("prove")
    assert now(page) != "level/drop/amp"
    assert "At which current?" not in page


def test_a_gate_passed_by_name_is_never_called_proved(client: TestClient, database: Database) -> None:
    """All three passed, one answer given: the page, the plate and the paper say that nothing was proved."""
    bench = Bench(client, database, demo_design(0))
    for gate in ("1", "2", "3"):
        assert bench.post("proof-jump", stage="prove", gate=gate, by="Wen", reason="sold").status_code == 303
    assert read(bench, "dead/battery", passed="yes") == 303
    page = bench.page("prove")
    assert "May be closed, not proved" in page
    assert "Ready to close" not in page
    assert "Done" not in page.split('class="plate', 1)[1].split("</header>")[0]


def test_probes_are_put_at_any_two_points(bench: Bench) -> None:
    where = {"quantity": "DC_V", "setting": "RUNNING", "plus": "amp plus", "minus": "battery minus"}
    put = bench.post("probes", stage="instruments", **where)
    assert put.status_code == 303
    page = bench.client.get(put.headers["location"]).text
    assert "Tessel M500, + terminal to Battery, − post" in page
    assert len(re.findall(r'aria-label="Probe at ', page)) > 8, "and the car offers the others"
    for wrong in ({"minus": "amp plus"}, {"plus": "nowhere"}, {"setting": "DEAD"}, {"quantity": "HEAT"}):
        answer = bench.post("probes", stage="instruments", path="probes", **(where | wrong))
        assert answer.status_code == 422


def test_instruments_belong_to_their_shop(database: Database) -> None:
    store = InstrumentStore(database)
    other = Context(ShopStore(database).open_shop("Other") if hasattr(ShopStore, "open_shop") else 9999, 1)
    store.put(BUILT_IN, InstrumentRecord(InstrumentKind.ANALYSER, "127.0.0.1:5026", "A"))
    store.put(BUILT_IN, InstrumentRecord(InstrumentKind.ANALYSER, "127.0.0.1:5027", "B"))
    assert store.all(BUILT_IN)[InstrumentKind.ANALYSER].address == "127.0.0.1:5027"
    assert InstrumentKind.ANALYSER not in store.all(other)
    store.drop(BUILT_IN, InstrumentKind.ANALYSER)
    assert InstrumentKind.ANALYSER not in store.all(BUILT_IN)


def test_practice_is_a_job_of_its_own(bench: Bench) -> None:
    before = bench.design
    for level, seed, words in (("7", "", "Choose a level"), ("1", "-3", "whole number"), ("1", "many", "whole number")):
        answer = bench.post("practise", stage="practice", path="practise", level=level, seed=seed)
        assert answer.status_code == 422
        assert words in answer.text
    opened = bench.post("practise", stage="practice", level="1", seed="7")
    assert opened.status_code == 303
    job = re.search(r"/jobs/(J-\d+)/fault", opened.headers["location"])[1]  # type: ignore[index]
    assert bench.design == before
    practice = bench.store.load(BUILT_IN, job).design
    assert practice.proof.practice is not None
    assert practice.proof.symptoms, "what is heard is told"
    assert not practice.proof.readings
    mine = Bench.__new__(Bench)
    mine.client, mine.store, mine.job = bench.client, bench.store, job
    page = mine.page("practice")
    assert "show the answer" in page
    assert "What was wrong" not in page
    assert mine.post("practice-reveal", stage="practice").status_code == 303
    assert "What was wrong" in mine.page("practice")
    assert bench.post("practice-reveal", stage="practice").status_code == 422


def test_a_search_in_a_car_nobody_described_asks_what_was_fitted(client: TestClient, database: Database) -> None:
    """No odds over nothing: a symptom alone, with nothing on file, leads to where parts are entered."""
    bench = Bench(client, database, car())
    assert bench.post("proof-symptom", stage="fault", symptom="whine with engine speed", said="yes").status_code == 303
    page = bench.page("fault")
    assert "First what was fitted" in page
    assert "Mend the one that is quickest" not in page
    amplifier = next(tree for tree in catalogue() if tree["name"] == "Tessel M500")
    there = apply_edits(bench.design, added(bench.design, amplifier, in_car=True))
    bench = Bench(client, database, there)
    bench.post("proof-symptom", stage="fault", symptom="no treble", said="yes")
    page = bench.page("fault")
    assert "Nothing on file would do that" in page
    assert "Not in the search yet" in page
    assert "What may be wrong, the likeliest first" not in page
    bench.post("proof-symptom", stage="fault", symptom="drains overnight", said="yes")
    assert "Most likely switched and constant exchanged" in bench.page("fault")


def test_what_is_on_file_heads_a_search_that_has_nothing_else(client: TestClient, database: Database) -> None:
    """A watch brings the symptom about, and no fault does: it is said, and no odds are."""
    number = next(n for n, job in enumerate(demo_jobs()) if job.title == "A screen for the maps")
    bench = Bench(client, database, demo_design(number))
    (watch,) = [f for f in evaluate(bench.design).findings if f.rule == "kept-hum"]
    bench.post("proof-symptom", stage="fault", symptom="whine with engine speed", said="yes")
    page = bench.page("fault")
    assert f"<h1>{escape(watch.title, quote=False)}" in page.replace("\n", "").replace("  ", "")
    assert "Look there first" in page
    assert "Most likely" not in page


def test_the_main_fuse_waits_for_the_first_gate(client: TestClient, database: Database) -> None:
    fresh = demo_design(0)
    plan = evaluate(fresh).results.work_plan
    marks = []
    for n, planned in enumerate(plan.steps):
        if planned.step.id == "main-fuse":
            break
        marks.append(Edit(op="add", path="work/marks", value={"id": f"m-{n}", "step": planned.step.id, "done": True}))
    ready: Design = apply_edits(fresh, marks)
    bench = Bench(client, database, ready)
    answer = bench.post("step", stage="steps", path="step", step="main-fuse", done="yes")
    assert answer.status_code == 422
    assert "first gate is through" in answer.text.replace("&#39;", "’").replace("&#x27;", "’")
    allowed = Bench(client, database, proved(ready, (1,)))
    assert allowed.post("step", stage="steps", step="main-fuse", done="yes").status_code == 303
