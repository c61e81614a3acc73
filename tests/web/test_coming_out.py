"""What is in a car and comes out again, by plain forms."""

from __future__ import annotations

import re
from html import unescape

from starlette.testclient import TestClient

from ohmack.core.document.part import Stands
from ohmack.core.planning.copying import as_it_was_built
from ohmack.demo.jobs import demo_design
from ohmack.store.context import BUILT_IN
from ohmack.store.database import Database
from web.test_pages import form
from web.test_survey import Bench

BASS = 0  # an amplifier, a subwoofer in a box and a converter


def test_everything_comes_out_as_a_job_of_its_own(client: TestClient, database: Database) -> None:
    bench = Bench(client, database, demo_design(BASS))
    assert "Everything comes out again" in bench.page("car")
    opened = bench.post("all-out", stage="car")
    assert opened.status_code == 303
    number = opened.headers["location"].split("/")[2]
    plan = unescape(client.get(f"/jobs/{number}/plan").text)
    assert "Comes out of the car" in plan
    assert "No new part goes in" in plan
    assert "broken line, crossed through: comes out" in plan
    assert "Tessel M500: comes out" in plan, "it is drawn where it is"
    for sheet, words in (
        ("steps", "4 AWG cable from Battery to Tessel M500 out"), ("build", "Comes out of the car"),
        ("prove", "What came out left nothing open"), ("quote", "Labour"), ("supply", "Nothing to feed in this job"),
        ("order", "Butt splice with adhesive sleeve"), ("handover", "Cold start"), ("holes", "holes"),
    ):  # fmt: skip
        answer = client.get(f"/jobs/{number}/{sheet}")
        assert answer.status_code == 200
        assert words in unescape(answer.text), sheet
    for paper in ("build", "steps", "proof", "quote", "pack", "customer", "next"):
        assert client.get(f"/jobs/{number}/papers/{paper}.pdf").status_code == 200, paper
    empty = bench.store.load(BUILT_IN, number)
    again = client.post(f"/jobs/{number}/all-out", data=form(client, number) | {"stage": "car"})
    assert again.status_code == 422
    assert "Nothing of ours is in this car." in again.text
    assert bench.store.load(BUILT_IN, number).version == empty.version


def test_one_part_comes_out_and_another_takes_the_place_of_one(client: TestClient, database: Database) -> None:
    """Its editor offers it for what is in the car alone; undo brings it back; a swap leaves the cables to the new."""
    bench = Bench(client, database, as_it_was_built(demo_design(BASS), "More"))
    assert "It comes out of the car" in bench.page("plan", "parts/converter")
    assert bench.post("take-out", stage="plan", path="parts/converter").status_code == 303
    assert bench.design.part("converter") is None
    goes = {one.id for one in bench.design.coming_out}
    assert {"converter", "tap-converter", "feed-converter", "line-amp", "remote-amp"} <= goes
    assert bench.post("undo", stage="plan").status_code == 303
    assert bench.design.part("converter") is not None
    assert bench.design.coming_out == ()
    row = re.search(r'<option value="(\d+)">\s*Tessel M300', bench.page("plan"))
    assert row is not None
    assert bench.post("parts", stage="find", catalogue_id=row[1], swap="yes").status_code == 303
    amplifier = bench.design.part("amp")
    assert amplifier is not None
    assert (amplifier.name, amplifier.stands) == ("Tessel M300", Stands.WANTED)
    assert [one.name for one in bench.design.coming_out] == ["Tessel M500"]
    assert "It comes out of the car" not in bench.page("plan", "parts/amp")
    refused = bench.post("take-out", stage="plan", path="parts/amp")
    assert refused.status_code == 422
    assert "It is not in the car" in refused.text
    assert bench.post("take-out", stage="plan", path="vehicle/radio").status_code == 422
    assert "It comes out of the car" in bench.page("plan", "links/remote-amp")
    assert bench.post("take-out", stage="plan", path="links/remote-amp").status_code == 303
    assert [one.name for one in bench.design.coming_out][1:] == ["18 AWG cable from Sprig LC2 active to Tessel M300"]
    assert not [link for link in bench.design.links if link.id == "remote-amp"]
    assert bench.post("undo", stage="plan").status_code == 303
    assert "Everything that is in the car comes out" in bench.page("plan")
    assert bench.post("take-out", stage="plan", path="parts").status_code == 303
    assert [part.name for part in bench.design.parts] == ["Tessel M300"], "what is planned stays in the plan"
    assert not [link for link in bench.design.links if link.in_car]
    assert bench.post("take-out", stage="plan", path="parts").status_code == 422
    assert bench.post("undo", stage="plan").status_code == 303
    assert "Stays, both its ends" in bench.page("plan", "coming_out/amp")
    assert bench.post("remove", stage="plan", path="coming_out/amp").status_code == 303
    assert bench.design.coming_out == ()
