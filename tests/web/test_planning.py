"""The plan's sheets by plain forms: functions, what happens to modules, keep-alive, weights, choosing a strategy."""

from __future__ import annotations

import re

import pytest
from starlette.testclient import TestClient

from core.test_new_places import SEATS, in_the_doors
from core.test_outputs_anew import FIVE, planned
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.factory import Tier
from ohmack.core.document.functions import Act, KeepAlive
from ohmack.core.document.links import LineLink
from ohmack.core.document.parts import Converter, Driver
from ohmack.core.document.strategy import StrategyKey
from ohmack.core.planning.survey import HEADRESTS
from ohmack.demo.jobs import demo_design
from ohmack.store.context import BUILT_IN
from ohmack.store.database import Database
from ohmack.store.designs import DesignStore
from web.test_survey import Bench, car


@pytest.fixture
def bench(client: TestClient, database: Database) -> Bench:
    made = Bench(client, database, car())
    made.post("fact", path="vehicle/radio/tier", value=Tier.RING.value, basis="measured")
    made.post("modules")
    return made


def test_functions_acts_and_measures(bench: Bench) -> None:
    assert "No function is on file yet" in bench.page("functions")
    assert bench.post("functions", stage="functions").status_code == 303
    again = bench.post("functions", stage="functions")
    assert again.status_code == 422
    assert "on file already" in again.text
    assert bench.post("act", stage="functions", thing="glove-box", act="taken out").status_code == 422
    assert bench.post("act", stage="functions", thing="display", act="painted blue").status_code == 422
    refused = bench.post("keep-alive", stage="functions", thing="display", measure=KeepAlive.BOARD.value)
    assert refused.status_code == 422
    assert "Nothing happens to that module" in refused.text
    assert bench.post("act", stage="functions", thing="display", act=Act.REMOVED.value).status_code == 303
    page = bench.page("functions", "vehicle/functions/fn-chimes")
    assert "Would fall silent" in page
    assert 'class="f-broken"' in page
    assert bench.post("keep-alive", stage="functions", thing="display", measure="good luck").status_code == 422
    assert (
        bench.post("keep-alive", stage="functions", thing="display", measure=KeepAlive.BOARD.value).status_code == 303
    )
    assert "Nothing the car does is lost" in bench.page("functions")
    assert bench.design.interventions[0].keep_alive == (KeepAlive.BOARD,)
    bench.post("keep-alive", stage="functions", thing="display", measure=KeepAlive.BOARD.value, back="yes")
    assert bench.design.interventions[0].keep_alive == ()
    assert bench.post("act", stage="functions", thing="display", act="").status_code == 303
    assert not bench.design.interventions
    assert "Lock, wait until the car sleeps" in bench.page("functions")


def test_weights_move_the_ranking_and_bad_ones_are_refused(bench: Bench) -> None:
    def order() -> list[str]:
        return re.findall(r'id="way-\d+">([^<]+)<', bench.page("strategies"))

    before = order()
    names = ("sound", "functions", "reversible", "cost", "time", "robust")
    bad = bench.post("weights", stage="strategies", **(dict.fromkeys(names, "1") | {"cost": "a lot"}))
    assert bad.status_code == 422
    assert "Cost:" in bad.text
    assert bench.post("weights", stage="strategies", **(dict.fromkeys(names, "1") | {"cost": "9"})).status_code == 422
    assert bench.design.weights is None
    assert bench.post("weights", stage="strategies", **(dict.fromkeys(names, "0") | {"sound": "5"})).status_code == 303
    assert order() != before
    assert sorted(order()) == sorted(before)
    assert bench.post("weights", stage="strategies", usual="yes").status_code == 303
    assert order() == before
    by_cost = re.findall(r'id="way-\d+">([^<]+)<', bench.page("strategies", "sort:cost"))
    assert sorted(by_cost) == sorted(before)


def test_choosing_a_strategy_lays_it_in_and_undo_takes_it_out(bench: Bench) -> None:
    before = bench.design
    for key in ("ring a bell", StrategyKey.RADIO_PICKUP.value):
        refused = bench.post("strategy", stage="strategies", strategy=key)
        assert refused.status_code == 422, key
    assert bench.design == before
    assert bench.post("strategy", stage="strategies", strategy=StrategyKey.AFTER_AMPLIFIER.value).status_code == 303
    design = bench.design
    assert design.strategy is StrategyKey.AFTER_AMPLIFIER
    assert {p.kind for p in design.parts} >= {"amplifier", "subwoofer", "box", "converter", "fuse holder"}
    assert {k.kind for k in design.links} >= {"power", "ground", "tap", "line", "remote", "speaker"}
    tap = next(k for k in design.links if k.kind == "tap")
    assert all(c.startswith("amp-ch") for c in tap.from_ids)  # after the amplifier, as said
    assert "chosen" in bench.page("strategies")
    ordered = next(p for p in design.parts if p.kind == "converter")
    bench.post("choose", path=f"parts/{ordered.id}/stands", value="ordered")
    done = bench.post("strategy", stage="strategies", strategy=StrategyKey.REPLACE_AMPLIFIER.value, hx=True)
    assert "Taken out, put in by the way before:" in done.text
    assert f"Left in the plan though this way has no use for it: {ordered.name}." in done.text
    page = bench.page("strategies")
    assert "Not needed by it" in page
    assert 'class="act-pill"' in page
    for _ in range(3):
        bench.post("undo", stage="strategies")
    assert bench.design == before


def test_nothing_to_advise_before_the_system_is_known(client: TestClient, database: Database) -> None:
    bench = Bench(client, database, car())
    assert "Say first which factory system" not in bench.page("strategies")
    record = bench.store.load(BUILT_IN, bench.job)
    unknown = apply_edits(record.design, [Edit(path="vehicle/radio/tier", value={"value": None})])
    bench.store.save(BUILT_IN, record.design_id, record.version, unknown, "not known")
    page = bench.page("strategies")
    assert "Say first which factory system" in page
    assert "the factory system is not known yet" in page
    assert "Go this way" not in page


def test_options_share_the_survey_and_nothing_else(bench: Bench, client: TestClient) -> None:
    store, job = bench.store, bench.job
    bench.post("strategy", stage="strategies", strategy=StrategyKey.AFTER_AMPLIFIER.value)
    assert "One option so far" in bench.page("options")
    made = bench.post("options", stage="options")
    assert made.headers["location"] == f"/jobs/{job}-B/options"
    assert store.load(BUILT_IN, f"{job}-B").design.parts == bench.design.parts
    other = Bench.__new__(Bench)
    other.client, other.store, other.job = client, store, f"{job}-B"
    assert other.post("strategy", stage="strategies", strategy=StrategyKey.REPLACE_AMPLIFIER.value).status_code == 303
    assert bench.design.strategy is StrategyKey.AFTER_AMPLIFIER
    # Measured in B, held in A; undone in B, undone in A.
    path = "vehicle/supply/body_return_ohm"
    assert other.post("fact", path=path, value="0,9 mΩ", basis="measured").status_code == 303
    assert bench.design.vehicle.supply.body_return_ohm.value == pytest.approx(0.0009)
    assert bench.design.vehicle == other.design.vehicle
    assert other.post("undo").status_code == 303
    assert bench.design.vehicle.supply.body_return_ohm.basis.value == "assumed"
    # What A's plan hangs on goes from B's survey: A's tap goes with it, A keeps the rest.
    assert any(k.kind == "tap" for k in bench.design.links)
    assert other.post("remove", path="vehicle/modules/factory-amp").status_code == 303
    assert bench.design.vehicle == other.design.vehicle
    assert not any(k.kind == "tap" for k in bench.design.links)
    assert {p.kind for p in bench.design.parts} >= {"amplifier", "converter"}
    page = bench.page("options")
    rows = re.findall(r'<tr class="(differs|same)"><th scope="row">([^<]+)', page)
    assert [kind for kind, _ in rows] == sorted((kind for kind, _ in rows), key=lambda kind: kind != "differs")
    assert "Way" in [name for kind, name in rows if kind == "differs"]
    assert other.post("edit", stage="options", path="option_name", value="Plug and play").status_code == 303
    assert "Plug and play" in bench.page("options")
    assert "Plug and play" not in bench.page("plan")
    for _ in range(4):
        assert bench.post("options", stage="options").status_code == 303
    full = bench.post("options", stage="options")
    assert full.status_code == 422
    assert "at most 6 options" in full.text
    assert client.get(f"/jobs/{job}-Q/plan").status_code == 404
    assert client.get(f"/jobs/{job}-C/export").headers["content-disposition"].endswith(f'{job}-C.ohmack.json"')


def test_finding_a_part_and_taking_it_instead(client: TestClient, database: Database) -> None:
    bench = Bench(client, database, demo_design(6))  # the screen radio is 2 mm too high for the dash
    page = client.get(f"/jobs/{bench.job}/find", params={"kind": "radio", "words": "plain"}).text
    assert "Quillon Q1 plain radio" in page
    assert '<th scope="row">Quillon S2' not in page
    assert "solves:" in page
    number = re.search(r'name="catalogue_id" value="(\d+)"', page)[1]  # type: ignore[index]
    assert bench.post("parts", stage="find", catalogue_id=number, swap="yes").status_code == 303
    assert [p.name for p in bench.design.parts] == ["Quillon Q1 plain radio"]
    assert [p.id for p in bench.design.parts] == ["unit"]
    beside = client.get(f"/jobs/{bench.job}/find", params={"kind": "radio", "words": "plain", "instead": "-"}).text
    assert "Take it instead" not in beside
    assert beside.count('name="instead" value="-"') == 2, "of the search, and of the one row"
    assert bench.post("parts", stage="find", catalogue_id=number, swap="yes", instead="-").status_code == 303
    assert [p.name for p in bench.design.parts] == 2 * ["Quillon Q1 plain radio"]
    nothing = client.get(f"/jobs/{bench.job}/find", params={"kind": "box", "words": "<b>zz%"}).text
    assert "Nothing of this kind with these words" in nothing
    assert "<b>zz" not in nothing
    assert client.get(f"/jobs/{bench.job}/find", params={"kind": "anchor"}).status_code == 200


def test_phase_standing_and_whose_it_is(client: TestClient, database: Database) -> None:
    bench = Bench(client, database, demo_design(0))
    for field, value in (("phase", "later"), ("stands", "ordered"), ("by_customer", "true")):
        assert bench.post("choose", stage="plan", path=f"parts/amp/{field}", value=value).status_code == 303
    amplifier = bench.design.part("amp")
    assert amplifier is not None
    assert (amplifier.phase.value, amplifier.stands.value, amplifier.by_customer) == ("later", "ordered", True)
    page = bench.page("plan", "parts/amp")
    for words in ("later, ordered, the customer&#39;s own", "Prepare now", "for Tessel M500"):
        assert words in page, words
    assert bench.post("choose", stage="plan", path="parts/amp/stands", value="lost in the post").status_code == 422
    bench.post("choose", stage="plan", path="parts/amp/phase", value="now")
    for part in bench.design.parts:
        bench.post("choose", stage="plan", path=f"parts/{part.id}/stands", value="here")
    assert "Ready to build" in bench.page("plan")


def test_a_speaker_goes_into_new_places_from_its_entry(client: TestClient, database: Database) -> None:
    bench = Bench(client, database, in_the_doors(SEATS))
    path = f"parts/{bench.design.parts[0].id}"
    entry = bench.page("plan", path)
    assert 'action="/jobs/' in entry
    assert "<option>headrest speakers</option>" in entry
    refused = bench.post("new-places", stage="plan", show=path, path=f"{path}/new-places", what="")
    assert refused.status_code == 422
    assert refused.text.count("Choose what kind of place it gets.") == 2, "above the sheet, and at its place"
    assert bench.post("new-places", stage="plan", path=f"{path}/new-places", what=HEADRESTS).status_code == 303
    assert [len(part.at_ids) for part in bench.design.parts_of(Driver)] == [4]
    assert "<option>headrest speakers</option>" not in bench.page("plan", path)
    assert bench.post("new-places", path="vehicle/radio", what=HEADRESTS).status_code == 422


def test_where_no_converter_goes_a_processor_is_tried_in_its_place(client: TestClient, database: Database) -> None:
    """One pair wanted twice: the search names the other kind, and what is taken there takes the converter's place."""
    bench = Bench(client, database, planned("Sprig LC2 active", FIVE))
    page = client.get(f"/jobs/{bench.job}/find", params={"kind": "converter", "instead": "converter"}).text
    assert "No converter goes there." in page
    link = re.search(r'href="(/jobs/[^"]+kind=processor[^"]+)"', page)
    assert link is not None
    there = client.get(link[1].replace("&amp;", "&")).text
    assert "No processor goes there" not in there
    assert re.search(r"of\s+Sprig LC2 active", there)
    number = re.search(r'name="catalogue_id" value="(\d+)"', there)
    assert number is not None
    bench.post("parts", stage="find", catalogue_id=number[1], swap="yes", instead="converter")
    (converter,) = bench.design.parts_of(Converter)
    assert (converter.kind, converter.id) == ("processor", "converter")
    assert sorted((link.pair, link.channels) for link in bench.design.links_of(LineLink)) == [(1, (1, 2)), (3, (5,))]


def test_parts_come_over_from_the_car_that_is_sold(client: TestClient, database: Database) -> None:
    """The customer's only other job is shown at once, somebody else's by its number; nothing ticked, and a job that is
    not there, are said with the list still standing.
    """
    store = DesignStore(database)
    other = store.open_job(BUILT_IN, "Hester Vale", "", "Bass in the old one", demo_design(0))
    bench = Bench(client, database, car())
    assert "There is no other job J-99" in bench.page("over", "J-99")
    assert "There is no other job" not in bench.page("over", "vehicle/radio/tier"), "chosen on the picture"
    asked = bench.page("over", other)
    ticked = re.findall(r'value="([\w-]+)"\s+checked', asked)
    kinds = {part.id: part.kind for part in demo_design(0).parts}
    assert set(ticked) == {name for name, kind in kinds.items() if kind not in ("wire", "accessory")} < set(kinds)
    none = bench.post("over", stage="over", show=other, path="over", other=other)
    assert none.status_code == 422
    assert "Choose at least one part" in none.text
    assert f'value="{ticked[0]}"' in none.text
    gone = bench.post("over", stage="over", show=other, path="over", other="J-99", part=["amp"])
    assert "There is no such job" in gone.text
    done = bench.post("over", stage="over", show=other, path="over", other=other, part=ticked)
    assert done.status_code == 303
    assert sorted(p.kind for p in bench.design.parts) == sorted(kinds[name] for name in ticked)
    assert all(part.by_customer for part in bench.design.parts)
    assert "in this plan already" in bench.page("over", other)
    again = store.open_job(BUILT_IN, "Hester Vale", "07 555", "The new car", car())
    assert "Bass in the old one" in client.get(f"/jobs/{again}/over").text
