"""No edit locks a job, no bad job takes the list down, no error is anything but a page with a way back."""

from __future__ import annotations

import json
import re
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import pytest
from starlette.testclient import TestClient

from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.wording import amount
from ohmack.demo.jobs import demo_design
from ohmack.store.context import BUILT_IN
from ohmack.store.database import Database, DatabaseSettings
from web.test_pages import HX, client_on, form
from web.test_survey import Bench

RETURN = "vehicle/supply/body_return_ohm"


@pytest.fixture
def bench(client: TestClient, database: Database) -> Bench:
    return Bench(client, database, demo_design(0))


def spoil(database: Database, bench: Bench, change: dict[str, Any]) -> None:
    """What an older version may have stored: a document that reads well or badly and cannot be judged."""
    record = bench.store.load(BUILT_IN, bench.job)
    text = json.dumps(
        apply_edits(record.design, [Edit(path="title", value="Spoiled")]).model_dump(mode="json") | change
    )

    def write(connection: Any) -> None:
        with connection.cursor() as cursor:
            cursor.execute(
                "UPDATE revisions SET document = %s WHERE design_id = %s AND number = %s",
                (text, record.design_id, record.number),
            )

    database.run(write)


@pytest.mark.parametrize("size", ["3 AWG", "20 AWG", "0.75 mm2", "95 mm2", "7 mm2", "0 AWG", "4/0", "150 mm²", "9 AWG"])
def test_any_wire_size_typed_leaves_every_page_standing(bench: Bench, size: str) -> None:
    """Sizes on file and not: taken or refused in words, and the job and the list of jobs answer all the same."""
    ground = next(k for k in bench.design.links if k.kind == "ground")
    answer = bench.post("edit", stage="supply", path=f"links/{ground.id}/wire/size", value=size)
    assert answer.status_code in (303, 422)
    for page in ("supply", "plan", "build", "order", "loads"):
        assert "Supply" in bench.page(page)
    assert bench.job in bench.client.get("/", params={"q": bench.job}).text


def test_a_stored_design_that_cannot_be_judged_offers_undo(
    bench: Bench, database: Database, settings: DatabaseSettings
) -> None:
    before = bench.design
    bench.post("fact", path=RETURN, value="1.1 mΩ", basis="measured")
    spoil(database, bench, {"parts": [{"id": "amp", "kind": "flux capacitor"}]})
    client = client_on(settings)  # a server that never saw it whole
    for stage in ("supply", "plan", "build", "survey"):
        answer = client.get(f"/jobs/{bench.job}/{stage}")
        assert answer.status_code < 500
        assert "cannot be judged as it stands" in answer.text
        assert "Undo the last change" in answer.text
        assert "All jobs" in answer.text
    assert client.get("/", params={"q": bench.job}).status_code == 200
    version = re.search(r'name="version" value="(\d+)"', answer.text)
    assert version
    undone = client.post(f"/jobs/{bench.job}/undo", data={"version": version[1], "base": "0", "stage": "supply"})
    assert undone.status_code == 303
    assert "Supply" in client.get(f"/jobs/{bench.job}/supply").text
    assert bench.design == before


def test_people_who_change_different_things_do_not_stop_each_other(bench: Bench, client: TestClient) -> None:
    """Ten forms of one stale page, all about other things: every one is kept; one about the same thing is asked."""
    stale = form(client, bench.job)
    parts = bench.design.parts
    names = [f"Renamed {n}" for n in range(len(parts))]

    def rename(n: int) -> int:
        data = stale | {"path": f"parts/{parts[n].id}/name", "value": names[n]}
        return client.post(f"/jobs/{bench.job}/edit", data=data, headers=HX).status_code

    with ThreadPoolExecutor(4) as many:
        assert set(many.map(rename, range(len(parts)))) == {200}
    assert [p.name for p in bench.design.parts] == names
    again = client.post(
        f"/jobs/{bench.job}/edit", data=stale | {"path": f"parts/{parts[0].id}/name", "value": "Mine"}, headers=HX
    )
    assert again.status_code == 409
    assert "Someone else changed this very thing first" in again.text
    assert "Mine" in again.text


def test_what_a_meter_shows_is_measured_in_one_act_whatever_was_assumed(bench: Bench) -> None:
    before = bench.store.load(BUILT_IN, bench.job)
    bench.post("fact", path=RETURN, value="1 mΩ", basis="assumed", low="0.5 mΩ", high="2 mΩ")
    between = bench.store.load(BUILT_IN, bench.job)
    assert between.number == before.number + 1
    answer = bench.post("fact", path=RETURN, value="78 mΩ", basis="assumed")
    fact = bench.design.vehicle.supply.body_return_ohm
    assert answer.status_code == 303
    assert (fact.value, fact.basis.value, fact.low, fact.high) == (0.078, "measured", None, None)
    assert bench.store.load(BUILT_IN, bench.job).number == between.number + 1  # value and basis are one revision
    assert "Ready to order" not in bench.page("supply")


def test_a_part_typed_in_in_option_b_is_in_b(bench: Bench, client: TestClient) -> None:
    bench.post("options", stage="options")
    page = client.get(f"/jobs/{bench.job}-B/parts/new", params={"kind": "accessory"}).text
    where = re.search(r'<form[^>]* action="(/jobs/[^"]+/parts/new)"', page)
    assert where
    assert where[1] == f"/jobs/{bench.job}-B/parts/new"
    before = len(bench.design.parts)
    data = form(client, f"{bench.job}-B") | {
        "kind": "accessory",
        "name": "Only here",
        "category": "consumables",
        "price": "€4",
    }
    assert client.post(where[1], data=data).status_code == 303
    assert len(bench.design.parts) == before
    assert [p.name for p in bench.store.load(BUILT_IN, f"{bench.job}-B").design.parts][-1] == "Only here"


def test_money_that_can_be_read_two_ways_is_asked_back(bench: Bench) -> None:
    for typed, amount_ in (
        ("2.500", None),
        ("€450", 450.0),
        ("1,200", 1200.0),
        ("1.200,50", 1200.5),
        ("2500 EUR", 2500.0),
    ):
        answer = bench.post("edit", stage="job", path="intake/budget", value=typed)
        if amount_ is None:
            assert answer.status_code == 422, typed
            assert typed in answer.text  # what was typed is kept
            assert "or" in answer.text
        else:
            assert bench.design.intake.budget == amount_, typed


@pytest.mark.parametrize(
    ("address", "status"),
    [
        ("/nowhere", 404), ("/jobs/J-99999/plan", 404), ("/jobs/²/plan", 404), (f"/jobs/{'9' * 5000}/plan", 404),
        ("/jobs/{job}/plan?since=abc", 200),
        ("/jobs/{job}/supply?since=²", 200), ("/?page=abc", 200), ("/catalogue?away=maybe", 200),
        ("/catalogue/²", 404), (f"/catalogue/{'9' * 400}", 404),
        ("/jobs/{job}/nowhere", 404), (f"/jobs/{{job}}/options?against={'x' * 3000}", 200),
    ],
)  # fmt: skip
def test_every_address_answers_with_a_page_and_a_way_back(
    bench: Bench, client: TestClient, address: str, status: int
) -> None:
    answer = client.get(address.format(job=bench.job))
    assert answer.status_code in (status, 422), answer.text[:300]
    assert answer.headers["content-type"].startswith("text/html")
    assert 'href="/"' in answer.text
    assert '"detail"' not in answer.text


@pytest.mark.parametrize("version", ["abc", "0", "-1", "²", "9" * 5000, ""])
def test_a_version_that_is_none_conflicts_or_is_refused(bench: Bench, client: TestClient, version: str) -> None:
    before = bench.store.load(BUILT_IN, bench.job)
    for where, data in (
        (f"/jobs/{bench.job}/edit", {"path": "policy/drop_limit_v", "value": "0.4"}),
        (f"/jobs/{bench.job}/undo", {}), ("/policy", {"drop_limit_v": "0.4"}),
    ):  # fmt: skip
        answer = client.post(where, data={"version": version, "base": version, "stage": "supply"} | data)
        assert answer.status_code in (404, 409, 422), (where, answer.status_code)
        assert answer.headers["content-type"].startswith("text/html")
    assert bench.store.load(BUILT_IN, bench.job) == before


def test_a_phone_number_does_not_vanish_when_another_field_saves(bench: Bench, client: TestClient) -> None:
    page = client.get(f"/jobs/{bench.job}").text
    version = re.search(r'name="customer_version" value="(\d+)"', page)
    assert version
    data = form(client, bench.job) | {
        "stage": "job",
        "customer_version": version[1],
        "name": "Ann Lark",
        "phone": "0170 1",
    }
    assert client.post(f"/jobs/{bench.job}/customer", data=data).status_code == 303
    bench.post("edit", stage="job", path="intake/budget", value="700")
    assert "0170 1" in client.get(f"/jobs/{bench.job}").text
    assert amount(700.0, "money")[:3] in client.get(f"/jobs/{bench.job}").text


def test_two_clicks_on_open_a_job_open_one(client: TestClient) -> None:
    once = re.search(r'name="once" value="([^"]+)"', client.get("/jobs/new").text)
    assert once
    data = {
        "once": once[1],
        "customer": "Click Twice",
        "title": "Once",
        "make": "Brindle",
        "model": "Otter",
        "body": "saloon",
        "hand_of_drive": "left",
        "powertrain": "combustion",
    }
    first, second = (client.post("/jobs/new", data=data) for _ in range(2))
    assert first.status_code == second.status_code == 303
    assert first.headers["location"] == second.headers["location"]
    assert client.get("/", params={"q": "Click Twice"}).text.count("Click Twice") >= 1
