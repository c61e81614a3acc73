"""The measuring round: order, putting off, the end, and a picture with its mark."""

from __future__ import annotations

from datetime import UTC, datetime

import pytest
from starlette.testclient import TestClient

from ohmack.core.evaluation.door import evaluate
from ohmack.core.reference import read_toml
from ohmack.demo.jobs import demo_design
from ohmack.store.context import BUILT_IN
from ohmack.store.database import Database
from ohmack.store.design_rows import DesignRecord
from ohmack.store.designs import DesignStore
from ohmack.web.measuring import measuring_round
from ohmack.web.page import Page
from web.test_pages import HX, form


def page(show: str = "", number: int = 1) -> Page:
    design = demo_design(number)
    record = DesignRecord(1, "J-1", "A", "", "", "", 1, 1, 1, design, None, None, False)
    return Page(record, evaluate(design, sweep_facts=True), "measure", show)


def test_the_most_consequential_fact_comes_first() -> None:
    listed = page().evaluation.measure_first or ()
    first = measuring_round(page())
    assert first.item == listed[0]
    assert (first.left, first.skipped, first.total) == (len(listed), (), len(listed))
    assert "mark measured" in str(first.picture)
    assert "<a" not in str(first.picture)


def test_putting_off_walks_through_all_and_ends() -> None:
    seen, show = [], ""
    for _ in range(20):
        now = measuring_round(page(show))
        if now.item is None:
            break
        seen.append(now.item.path)
        show = "skip:" + "|".join(seen)
        assert now.skip_address.endswith(show)
    assert seen == [m.path for m in page().evaluation.measure_first or ()]
    assert len(measuring_round(page(show)).skipped) == len(seen)
    assert measuring_round(page("skip:vehicle/nothing|x")).skipped == ()
    assert measuring_round(page(number=0)).item is None


def test_the_round_in_pages(client: TestClient, database: Database) -> None:
    job = DesignStore(database).open_job(BUILT_IN, "Round", "", "Round", demo_design(1))
    start = client.get(f"/jobs/{job}/measure").text
    assert "Factory system" in start
    assert '<option value="">choose</option>' in start
    data = form(client, job, path="vehicle/radio/tier", basis="measured", reading="yes") | {"stage": "measure"}
    nothing = client.post(f"/jobs/{job}/fact", data=data | {"value": ""}, headers=HX)
    assert nothing.status_code == 422
    assert "Enter the reading first" in nothing.text
    taken = client.post(f"/jobs/{job}/fact", data=data | {"value": "plain radio"}, headers=HX)
    assert taken.status_code == 200
    assert "Body return" in taken.text
    fact = DesignStore(database).load(BUILT_IN, job).design.vehicle.radio.tier
    assert (fact.basis.value, fact.how.value, fact.alternatives) == ("measured", "by eye", ())
    assert fact.when in {datetime.now().date().isoformat(), datetime.now(UTC).date().isoformat()}
    drop = form(
        client, job, path="vehicle/supply/body_return_ohm", basis="measured", reading="yes", value="41 mV / 10 A"
    ) | {"stage": "measure"}
    assert client.post(f"/jobs/{job}/fact", data=drop, headers=HX).status_code == 200
    assert DesignStore(database).load(BUILT_IN, job).design.vehicle.supply.body_return_ohm.value == pytest.approx(
        0.0041
    )
    evil = client.get(f"/jobs/{job}/measure?show=skip:<script>alert(1)</script>").text
    assert "<script>alert" not in evil


def test_every_guide_is_whole() -> None:
    for name, guide in read_toml("facts").items():
        assert guide["how"].endswith((".", "?")), name
        assert 0 < guide["minutes"] <= 30
        if "low" in guide:
            assert guide["low"] < guide["high"]
        assert ("below" in guide) == ("above" in guide)
        assert "below" not in guide or "low" in guide, name
