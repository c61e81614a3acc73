"""Longer ways through the pages without a browser: every remedy button, every school, history, workings."""

from __future__ import annotations

import html
import re

import pytest
from starlette.testclient import TestClient

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.policy import Policy
from ohmack.core.evaluation.door import evaluate
from ohmack.demo.building import measured
from ohmack.demo.jobs import demo_design, demo_jobs
from ohmack.store.context import BUILT_IN
from ohmack.store.database import Database
from ohmack.store.designs import DesignStore
from ohmack.web.fields import model_fields
from ohmack.web.sheet import sheets
from web.test_pages import HX, form


def open_job(database: Database, design: Design) -> str:
    return DesignStore(database).open_job(BUILT_IN, "Journey", "", "Journey", design)


def test_every_remedy_button_on_a_bad_day(client: TestClient, database: Database, estate: Design) -> None:
    """A car with everything wrong: pressing what the docket offers, one after another, ends without a stop a machine
    can mend.
    """
    bad = apply_edits(
        estate,
        [
            Edit(path="links/power-amp/fuse", value=None),
            Edit(path="links/power-amp/wire/size", value="10 AWG"),
            Edit(path="links/ground-amp/wire/size", value="12 AWG"),
            Edit(path="links/tap-converter/method", value="splice"),
            Edit(path="links/tap-converter/negative_to_body", value=True),
            Edit(path="links/feed-converter/fuse/rating_a", value=40.0),
            Edit(path="links/speaker-sub/wiring", value="series(1,2)"),
            Edit(op="remove", path="links/remote-amp"),
        ],
    )
    job = open_job(database, bad)
    pressed = []
    for _ in range(25):
        page = client.get(f"/jobs/{job}/supply").text
        offers = re.findall(
            r'action="[^"]+/remedy">.*?name="rule" value="([^"]+)".*?name="about"'
            r' value="([^"]+)".*?btn-remedy">([^<]+)',
            page,
            re.DOTALL,
        )
        if not offers:
            break
        rule, about, label = (html.unescape(part) for part in offers[0])
        answer = client.post(f"/jobs/{job}/remedy", data=form(client, job, rule=rule, about=about), headers=HX)
        assert answer.status_code == 200, label
        pressed.append(rule)
    else:
        pytest.fail(f"the remedies go round in circles: {pressed}")
    assert {"fuse-missing", "splice-on-reversible", "bridged-output-grounded", "link-missing"} <= set(pressed)
    left = [
        f for f in evaluate(DesignStore(database).load(BUILT_IN, job).design).findings if f.severity.value == "stop"
    ]
    assert [f.rule for f in left] == ["fuse-too-far"]  # only the person knows where the new holder sits


def test_every_working_is_one_click_away(client: TestClient) -> None:
    for job in ("J-0401", "J-0402"):
        for stage in ("plan", "loads", "signal", "supply"):
            page = client.get(f"/jobs/{job}/{stage}").text
            for figure in sorted(set(re.findall(r"show=(figure:[^\"&]+)", page))):
                shown = client.get(f"/jobs/{job}/{stage}?show={figure}", headers=HX).text
                working = shown.split('id="working"')[1]
                assert re.search(r'class="num">[^<]+<', working), figure
                assert 'class="formula">' in working
                assert "<tr>" in working
                assert "Rests on" in working or "Weakest grade" in working, figure


@pytest.mark.parametrize("name", [f.path for f in model_fields(Policy) if f.kind == "choice"])
def test_every_school_can_be_chosen_and_undone(
    client: TestClient, database: Database, estate: Design, name: str
) -> None:
    job = open_job(database, estate)
    field = next(f for f in model_fields(Policy) if f.path == name)
    for value, _ in field.choices:
        answer = client.post(
            f"/jobs/{job}/edit",
            data=form(client, job, path=f"policy/{name}", value=value) | {"stage": "policy"},
            headers=HX,
        )
        assert answer.status_code == 200, value
        assert re.search(rf'<option value="{value}" selected>', answer.text), value
    for _ in field.choices:
        client.post(f"/jobs/{job}/undo", data=form(client, job))
    assert DesignStore(database).load(BUILT_IN, job).design == estate


def test_metric_wire_and_feet(client: TestClient, database: Database, estate: Design) -> None:
    job = open_job(
        database,
        apply_edits(
            estate, [Edit(path="policy/wire_system", value="mm2"), Edit(path="policy/length_unit", value="ft")]
        ),
    )
    page = client.get(f"/jobs/{job}/supply").text
    assert "16 mm² is not enough" in page or "25 mm² is enough" in page or "16 mm² is enough" in page
    assert "17 ft 9 in" in page  # 5.40 m
    data = form(client, job, path="links/power-amp/tape_length_m", value="14 ft 6 in", basis="measured")
    assert "14 ft 6 in" in client.post(f"/jobs/{job}/fact", data=data, headers=HX).text
    assert DesignStore(database).load(BUILT_IN, job).design.links[0].tape_length_m.value or True
    power = next(k for k in DesignStore(database).load(BUILT_IN, job).design.links if k.kind == "power")
    assert power.tape_length_m.value == pytest.approx(14.5 * 0.3048)


def test_history_restores_any_revision(client: TestClient, database: Database, estate: Design) -> None:
    job = open_job(database, estate)
    for value in ("0.41", "0.42"):
        client.post(f"/jobs/{job}/edit", data=form(client, job, path="policy/drop_limit_v", value=value))
    page = client.get(f"/jobs/{job}/history").text
    assert page.count("Make it current") == 2
    assert "Voltage drop allowed around the loop: 0.42" in page
    restored = client.post(f"/jobs/{job}/restore", data=form(client, job, revision="1"))
    assert restored.status_code == 303
    assert DesignStore(database).load(BUILT_IN, job).design == estate
    assert client.post(f"/jobs/{job}/restore", data=form(client, job, revision="77")).status_code == 404


def test_front_page_edits_and_putting_away(client: TestClient, database: Database, estate: Design) -> None:
    job = open_job(database, estate)
    for path, value in (
        ("title", "New name"),
        ("intake/budget", "1.250,50"),
        ("vehicle/year", "2011"),
        ("vehicle/hand_of_drive", "left"),
    ):
        answer = client.post(
            f"/jobs/{job}/edit", data=form(client, job, path=path, value=value) | {"stage": "job"}, headers=HX
        )
        assert answer.status_code == 200, path
    data = form(client, job, path="intake/must_keep") | {"stage": "job", "value": ["", "chimes", "reversing camera"]}
    assert client.post(f"/jobs/{job}/edit", data=data, headers=HX).status_code == 200
    design = DesignStore(database).load(BUILT_IN, job).design
    assert design.intake.budget == 1250.5
    assert [k.value for k in design.intake.must_keep] == ["chimes", "reversing camera"]
    assert 'data-hand="left"' in client.get(f"/jobs/{job}").text
    client.post(f"/jobs/{job}/customer", data={"customer": "Someone else", "customer_version": "1"})
    client.post(f"/jobs/{job}/customer", data={"phone": "5", "customer_version": "2"})
    stale = client.post(f"/jobs/{job}/customer", data={"phone": "6", "customer_version": "2"}, headers=HX)
    assert stale.status_code == 409
    assert 'value="6"' in stale.text
    assert "meanwhile to “5”" in stale.text
    assert "Someone else" in client.get("/").text
    client.post(f"/jobs/{job}/archive", data={"away": "yes"})
    assert job not in client.get("/").text
    client.post(f"/jobs/{job}/archive", data={"away": "no"})
    assert job in client.get("/").text


def test_the_sweep_answers_apart(client: TestClient) -> None:
    answer = client.get("/jobs/J-0402/open-questions?stage=survey", headers=HX)
    assert answer.text.count("hx-swap-oob") == 4  # verdict, count, sentence, list
    assert "Measure first" in answer.text
    verdict = client.get("/jobs/J-0401/verdict", headers=HX)
    assert "Ready to order" in verdict.text


def test_wrong_paths_and_ops_change_nothing(client: TestClient, database: Database, estate: Design) -> None:
    job = open_job(database, estate)
    for route, data in (
        ("edit", {"path": "parts/amp/id", "value": "other"}), ("edit", {"path": "version", "value": "2"}),
        ("edit", {"path": "../etc", "value": "1"}),
        ("choose", {"path": "links/power-amp/from_id", "value": "nowhere"}), ("choose", {"path": "parts", "value": ""}),
        ("remove", {"path": "vehicle/supply/batteries/battery"}), ("remove", {"path": "parts/none"}),
        ("fact", {"path": "parts/amp", "value": "1"}),
        ("move", {"path": "parts/amp", "nudge": "sideways"}), ("way", {"link": "nothing", "action": "add"}),
        ("parts", {"catalogue_id": "abc"}),
    ):  # fmt: skip
        answer = client.post(f"/jobs/{job}/{route}", data=form(client, job, **data), headers=HX)
        assert answer.status_code in (404, 422), (route, data)
    assert DesignStore(database).load(BUILT_IN, job).design == estate
    assert DesignStore(database).load(BUILT_IN, job).number == 1


def test_a_kept_car_comes_back_as_papers(client: TestClient, database: Database, estate: Design) -> None:
    learned = {"id": "own-1", "what": "Free the aerial first", "before": ["off-radio"]}
    job = open_job(database, apply_edits(estate, [Edit(op="add", path="work/own_steps", value=learned)]))
    kept = client.post(f"/jobs/{job}/template", data={})
    assert kept.status_code == 303
    page = client.get(kept.headers["location"]).text
    assert f"Marren Tilde, estate, 2016, from {job}" in " ".join(page.split())
    template = kept.headers["location"].split("=")[1]
    base = {
        "customer": "Next one",
        "template": template,
        "hand_of_drive": "left",
        "powertrain": "combustion",
        "year": "2017",
    }
    wrong = client.post("/jobs/new", data=base | {"body": "hatch"})
    assert wrong.status_code == 422
    assert "body is estate: choose that one" in wrong.text
    opened = client.post("/jobs/new", data=base | {"body": ""})
    assert opened.status_code == 303
    design = DesignStore(database).load(BUILT_IN, opened.headers["location"].split("/")[2]).design
    vehicle = design.vehicle
    assert [(s.what, s.before) for s in design.work.own_steps] == [("Free the aerial first", ("off-radio",))]
    assert not evaluate(design).results.work_plan.steps, "it waits for a plan"
    assert (vehicle.make, vehicle.year, vehicle.hand_of_drive.value) == ("Marren", 2017, "left")
    assert vehicle.radio.tier.basis.value == "documented"
    assert vehicle.radio.tier.when == "2026-11-16"
    assert vehicle.supply.body_return_ohm.basis.value == "assumed"
    assert client.post("/jobs/new", data=base | {"template": "99999"}).status_code == 404


def test_a_customer_without_a_name_is_said_where_it_was_typed(
    client: TestClient, database: Database, estate: Design
) -> None:
    job = open_job(database, estate)
    for headers in (HX, {}):
        answer = client.post(
            f"/jobs/{job}/customer", data={"customer": "   ", "customer_version": "1"}, headers=headers
        )
        assert answer.status_code == 422
        assert 'id="customer-problem">Say who it is for.' in answer.text
    assert DesignStore(database).load(BUILT_IN, job).customer == "Journey"


def test_a_stop_anywhere_leaves_build_unticked(client: TestClient, database: Database, estate: Design) -> None:
    """The build sheet holds the whole plan: it is not done while another stage has a stop, and a figure not known
    rests on nothing.
    """
    cca = Edit(path="vehicle/supply/batteries/battery/cca_a", value={"value": None})
    job = open_job(database, apply_edits(estate, [Edit(path="links/power-amp/fuse", value=None), cca]))
    page = client.get(f"/jobs/{job}/supply").text
    ticked = set(re.findall(r'<li class="[^"]*\bdone\b[^"]*">\s*<a href="/jobs/[^/]+/(\w+)"', page))
    assert "loads" in ticked
    assert not ticked & {"build", "supply"}
    unknown = re.findall(r'title="Show the working">not known</a>(.{0,12})', page)
    assert unknown
    assert not any("<i class" in after for after in unknown)


METRES = re.compile(r"[0-9]+[.,][0-9]+ m(?!\w)")


@pytest.mark.parametrize("title", ["Two amplifiers, and lamps that dim", "Hidden bass, radio stays", "Warmth under"])
def test_lengths_are_in_feet_everywhere_once_chosen(client: TestClient, database: Database, title: str) -> None:
    number = next(n for n, job in enumerate(demo_jobs()) if job.title.startswith(title))
    feet = apply_edits(demo_design(number), [Edit(path="policy/length_unit", value="ft")])
    job = open_job(database, feet)
    for sheet in (*sheets(), "measure", "history"):
        page = client.get(f"/jobs/{job}/{sheet}").text
        text = re.sub(r"<[^>]+>", " ", html.unescape(page)).replace("5,4 m, 1/2 in", "")  # the hint of what is read
        assert not METRES.findall(text), (sheet, METRES.findall(text)[:5])
    assert " ft" in client.get(f"/jobs/{job}/build").text


def test_one_press_takes_a_door_for_the_other(client: TestClient, database: Database) -> None:
    measured_door = apply_edits(demo_design(3), [measured("vehicle/speakers/spk-rl/cut_out_mm", 117.0)])
    job = open_job(database, measured_door)
    page = client.get(f"/jobs/{job}/survey").text
    assert "Same for rear right door" in page
    said = client.post(f"/jobs/{job}/same", data=form(client, job, speaker="spk-rl"), headers=HX)
    assert said.status_code == 200
    assert "Same for rear right door" not in client.get(f"/jobs/{job}/survey").text
    refused = client.post(f"/jobs/{job}/same", data=form(client, job, speaker="nobody"), headers=HX)
    assert "Nothing was changed" in refused.text
