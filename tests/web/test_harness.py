"""The harness by plain forms: a plug mapped pin by pin, CSV in and out, joints, what a pair reaches, a hunt to the
end.
"""

from __future__ import annotations

from typing import Any

import pytest
from starlette.testclient import TestClient

from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.harness import CavityUse, Colour, JointMethod, Polarity
from ohmack.core.planning.harness import new_connector
from ohmack.demo.jobs import demo_design
from ohmack.store.context import BUILT_IN
from ohmack.store.database import Database
from web.test_survey import Bench, car


@pytest.fixture
def bench(client: TestClient, database: Database) -> Bench:
    return Bench(client, database, car())


def plug_of(bench: Bench) -> Any:
    return bench.design.vehicle.connectors[0]


def test_a_plug_is_added_and_read_pin_by_pin(bench: Bench) -> None:
    assert "No connector is mapped yet" in bench.page("harness")
    refused = bench.post("connector", stage="harness", path="connector", name=" ", rows="2", columns="4")
    assert refused.status_code == 422
    assert "Give the connector a name" in refused.text
    words = bench.post("connector", stage="harness", path="connector", name="Plug", rows="two", columns="4")
    assert words.status_code == 422
    assert "“two” is no whole number" in words.text
    assert 'value="two"' in words.text
    many = bench.post("connector", stage="harness", path="connector", name="Big", rows="30", columns="40")
    assert many.status_code == 422
    assert "1 to 500" in many.text
    assert (
        bench.post("connector", stage="harness", path="connector", name="Radio plug", rows="2", columns="4").status_code
        == 303
    )
    page = bench.page("harness")
    assert page.count('class="cavity-link') == 16  # eight cavities on both faces
    plug = plug_of(bench)
    pin = {"stage": "harness", "connector": plug.id, "path": f"vehicle/connectors/{plug.id}/cavities/c1"}
    assert (
        bench.post(
            "pin", **pin, cavity="c1", off_v="12,5", accessory_v="12.3 V", lights_v="", body_ohm="OL"
        ).status_code
        == 303
    )
    first = plug_of(bench).cavities[0]
    assert (first.use.value, first.use.basis.value, first.off_v) == (CavityUse.CONSTANT, "measured", 12.5)
    negative = bench.post("pin", **pin, cavity="c1", off_v="0", accessory_v="", lights_v="", body_ohm="-3")
    assert negative.status_code == 422
    assert "never negative" in negative.text
    assert 'value="-3"' in negative.text
    assert bench.post("pin", **pin, cavity="c99", off_v="1").status_code == 422
    assert (
        bench.post(
            "edit", stage="harness", path=f"vehicle/connectors/{plug.id}/cavities/c1/base", value="white"
        ).status_code
        == 303
    )
    assert (
        bench.post(
            "choose", stage="harness", path=f"vehicle/connectors/{plug.id}/cavities/c1/feed_id", value="radio-constant"
        ).status_code
        == 303
    )
    assert plug_of(bench).cavities[0].base is Colour.WHITE
    path = f"vehicle/connectors/{plug.id}"
    assert bench.post("edit", stage="harness", path=f"{path}/cavities/c1/area_mm2", value="18 AWG").status_code == 303
    assert plug_of(bench).cavities[0].area_mm2 == pytest.approx(0.823, abs=0.001)  # ASTM B258, from memory
    assert bench.post("edit", stage="harness", path=f"{path}/housing/wide", value="1, 4").status_code == 303
    assert plug_of(bench).housing.wide == (1, 4)
    odd = bench.post("edit", stage="harness", path=f"{path}/housing/wide", value="1; four")
    assert odd.status_code == 422
    assert "“four” is no whole number" in odd.text
    assert bench.post("remove", stage="harness", path=f"vehicle/connectors/{plug.id}/cavities/c8").status_code == 303
    assert len(plug_of(bench).cavities) == 7


def test_a_map_from_a_file_and_out_again(bench: Bench, client: TestClient) -> None:
    bench.post("connector", stage="harness", name="Radio plug", rows="2", columns="4")
    plug = plug_of(bench)

    def bring(data: bytes) -> Any:
        record = bench.store.load(BUILT_IN, bench.job)
        form = {"version": str(record.version), "base": str(record.number), "stage": "harness", "connector": plug.id}
        return client.post(
            f"/jobs/{bench.job}/pin-map", data=form, files={"file": ("map.csv", data)}, follow_redirects=True
        )

    assert "Choose a file first" in bring(b"").text
    before = bench.design
    nothing = bring(b"cavity;use\nx;constant\n")
    assert nothing.status_code == 422
    assert "No row could be taken" in nothing.text
    assert bench.design == before
    mixed = bring(
        "Pin;Function;Color\n1;constant;WH/RD\n2;front left +;red/white\n3;front left"
        " -;white/red\n2;ground;black\n4;teleport;blue\n".encode("utf-16")
    )
    assert "3 cavities taken" in mixed.text
    assert "2 rows not taken" in mixed.text
    assert "teleport" in mixed.text
    assert "mirrors 2" in mixed.text
    assert "UTF-16" in mixed.text
    out = client.get(f"/jobs/{bench.job}/pin-map/{plug.id}")
    assert out.headers["content-type"].startswith("text/csv")
    assert "white/red" in out.text
    assert client.get(f"/jobs/{bench.job}/pin-map/nowhere").status_code == 404
    assert bring(out.content).status_code == 200
    before = bench.design
    german = bring("Pin;Querschnitt;Bemerkung\n1;0,75;alt\n".encode("cp1252"))
    assert "1 cavity taken" in german.text  # said also where all went well
    assert "Columns not known here and left out: Bemerkung" in " ".join(german.text.split())
    assert "Before" in german.text
    after = bench.design
    strip = {"area_mm2": None}
    pairs = zip(before.vehicle.connectors[0].cavities, after.vehicle.connectors[0].cavities, strict=True)
    assert all(a.model_copy(update=strip) == b.model_copy(update=strip) for a, b in pairs)
    unknown = bring(b"Pin;Warp;Drive\n1;a;b\n")
    assert unknown.status_code == 422
    assert "Warp, Drive cannot be read here" in unknown.text
    assert bench.design == after
    names = [c.name for c in bench.design.vehicle.connectors]
    assert names == ["Radio plug"]


def test_joints_follow_the_map_and_their_method_is_chosen(client: TestClient, database: Database) -> None:
    bench = Bench(client, database, demo_design(6))
    page = bench.page("joints")
    assert "10 joints" in page
    path = "vehicle/connectors/plug-a/cavities/c1/joint"
    assert bench.post("choose", stage="joints", path=path, value="chewing gum").status_code == 422
    assert bench.post("choose", stage="joints", path=path, value=JointMethod.SOLDER.value).status_code == 303
    page = bench.page("joints")
    assert "heat-shrink" in page
    assert "1 factory wire cut" in page
    labels = client.get(f"/jobs/{bench.job}/labels")
    assert labels.text.count("<li>") == 22  # both ends of ten joints, and two wires joined to nothing
    assert "Radio plug A 1 · constant" in labels.text
    bench.post("choose", stage="joints", path=path, value="")
    assert bench.design.vehicle.connectors[0].cavities[0].joint is None
    bare = Bench(client, database, apply_edits(demo_design(6), [Edit(op="remove", path="vehicle/connectors/plug-a")]))
    assert "no plug is mapped yet" in bare.page("joints")
    assert "No joints yet" in client.get(f"/jobs/{bare.job}/labels").text


def test_large_maps_go_out_and_come_in_whole(client: TestClient, database: Database) -> None:
    design = car()
    for name in ("One", "Two", "Three"):
        design = apply_edits(design, new_connector(design, name, 10, 50))
    bench = Bench(client, database, design)
    out = client.get(f"/jobs/{bench.job}/export")
    assert len(out.content) > 1_000_000
    answer = client.post(
        "/import", data={"customer": "Map"}, files={"file": ("big.json", out.content)}, follow_redirects=False
    )
    assert answer.status_code == 303
    number = answer.headers["location"].rsplit("/", 1)[-1]
    assert bench.store.load(BUILT_IN, number).design == design
    assert client.get(f"/jobs/{number}/harness").status_code == 200


def test_what_a_pair_reaches_is_taken_into_loads(bench: Bench) -> None:
    for i in ("fl", "rl"):
        bench.post("fact", path=f"vehicle/speakers/spk-{i}/impedance_ohm", value="4", basis="measured")
    bench.post(
        "fact", stage="harness", path="vehicle/radio/channels/ch-fl/pair_resistance_ohm", value="1.8", basis="measured"
    )
    assert "in parallel" in bench.page("harness")
    assert bench.post("reach", stage="harness", channel="ch-fl", speaker="spk-fr").status_code == 422
    record = bench.store.load(BUILT_IN, bench.job)
    form = {
        "version": str(record.version),
        "base": str(record.number),
        "stage": "harness",
        "channel": "ch-fl",
        "speaker": ["spk-fl", "spk-rl"],
    }
    assert bench.client.post(f"/jobs/{bench.job}/reach", data=form, follow_redirects=False).status_code == 303
    assert {s.id for s in bench.design.vehicle.speakers if s.channel_id == "ch-fl"} == {"spk-fl", "spk-rl"}
    assert "2.00 Ω" in bench.page("loads")


def test_a_hunt_from_its_start_into_the_map(bench: Bench) -> None:
    bench.post("connector", stage="finder", name="Block", rows="1", columns="4")
    plug = plug_of(bench)
    start: dict[str, Any] = {
        "stage": "finder",
        "path": "hunt",
        "connector": plug.id,
        f"cavity-{plug.id}": ["c1", "c2", "c3", "c4"],
    }
    uneven = bench.post("hunt", **start, speaker=["spk-fl", "spk-fr", "spk-rl"], grounds="1")
    assert uneven.status_code == 422
    assert "an odd number is left" in uneven.text
    assert bench.post("hunt", **start, speaker=["spk-fl", "spk-fr"], grounds="0").status_code == 303
    assert "0 of 2 pairs certain" in bench.page("finder")
    reading = {"stage": "finder", "path": "reading"}
    for value, words in (("", "number|value|Write|ohm"), ("-2", "never negative"), ("banana", "banana")):
        bad = bench.post("hunt-reading", **reading, kind="resistance", wire=["w1", "w2"], value=value)
        assert bad.status_code == 422, value
        assert any(w in bad.text for w in words.split("|")), value
    assert (
        bench.post("hunt-reading", **reading, kind="resistance", wire=["w1", "w3"], outcome="open").status_code == 303
    )
    assert bench.post("hunt-reading", **reading, kind="resistance", wire=["w1", "w2"], value="3,6").status_code == 303
    assert bench.post("hunt-reading", **reading, kind="resistance", wire=["w2", "w3"], value="3.6").status_code == 303
    page = bench.page("finder")
    assert "cannot all be true" in page
    assert bench.post("hunt-result", stage="finder", path="result").status_code == 422
    assert bench.post("hunt-withdraw", stage="finder", reading="r3").status_code == 303
    assert "cannot all be true" not in bench.page("finder")
    assert (
        bench.post(
            "hunt-reading", **reading, kind="one pair at a time", wire=["w1", "w2"], outcome="spk-fr"
        ).status_code
        == 303
    )
    assert (
        bench.post("hunt-reading", **reading, kind="pop test", wire=["w2", "w1"], outcome="cone moves out").status_code
        == 303
    )
    assert "2 of 2 pairs certain" in bench.page("finder")
    assert bench.post("hunt-result", stage="finder", path="result").status_code == 303
    pins = {c.number: c for c in plug_of(bench).cavities}
    assert (pins[2].channel_id, pins[2].polarity, pins[1].polarity) == ("ch-fr", Polarity.PLUS, Polarity.MINUS)
    assert pins[3].channel_id == "ch-fl"
    assert bench.post("hunt", stage="finder", end="yes").status_code == 303
    assert bench.design.vehicle.hunt is None


def test_a_pair_that_reads_open_and_a_typed_map(bench: Bench) -> None:
    path = "vehicle/radio/channels/ch-rr/pair_resistance_ohm"
    assert bench.post("fact", stage="harness", path=path, value="OL", basis="measured").status_code == 303
    channel = next(c for c in bench.design.vehicle.channels if c.id == "ch-rr")
    assert channel.pair_resistance_ohm.value == 1000.0
    assert "open" in bench.page("harness")
    bench.post("connector", stage="harness", name="Plug", rows="1", columns="3", numbered="lettered rows")
    plug = plug_of(bench)
    grid: dict[str, Any] = {"stage": "harness", "path": "pin-grid", "connector": plug.id, "use-c1": "Masse",
                            "colour-c1": "br", "use-c2": "vl +", "area_mm2-c2": "18 AWG"}  # fmt: skip
    bad = bench.post("pin-grid", **(grid | {"use-c3": "warp drive"}))
    assert bad.status_code == 422
    assert "Cavity A3" in bad.text
    assert "warp drive" in bad.text
    assert 'value="Masse"' in bad.text, "nothing typed is lost"
    assert bench.post("pin-grid", **grid, basis="measured").status_code == 303
    pins = {c.id: c for c in plug_of(bench).cavities}
    assert (pins["c1"].use.value, pins["c1"].use.basis, pins["c1"].base) == ("ground", "measured", "brown")
    assert (pins["c2"].channel_id, pins["c2"].polarity, pins["c3"].use.value) == ("ch-fl", Polarity.PLUS, None)
    assert "A2" in bench.page("harness")


def test_a_fault_of_the_hunt_and_a_labels_size(bench: Bench, client: TestClient) -> None:
    loose = {
        "stage": "finder",
        "path": "hunt",
        "connector": "",
        "names": "grey/black\nwhite\n3\n4\n5\n6",
        "bundles": "yes",
    }
    assert bench.post("hunt", **loose, speaker=["spk-fl", "spk-fr", "spk-rl"], grounds="0").status_code == 303
    page = bench.page("finder")
    assert "grey/black" in page
    assert "others in one clip" in page
    free = {"stage": "finder", "path": "any", "kind": "pop test", "wire": ["w1", "w2"], "outcome": "cone moves in"}
    assert bench.post("hunt-reading", **free, speaker="spk-fr").status_code == 303
    reading = bench.design.vehicle.hunt.readings[0] if bench.design.vehicle.hunt else None
    assert reading is not None
    assert (reading.speaker_id, reading.heard) == ("spk-fr", "cone moves in")
    assert bench.post("hunt-fault", stage="finder", fault="dead", about="").status_code == 303
    assert "1 is dead" in bench.page("finder")
    assert bench.post("hunt-fault", stage="finder", fault="dead", about="nobody").status_code == 422
    assert bench.post("hunt-result", stage="finder", path="result").status_code == 303
    assert plug_of(bench).name == "Loose wires"
    tape = client.get(f"/jobs/{bench.job}/labels.css?size=12mm").text
    assert "size:60mm 12mm" in tape
    assert client.get(f"/jobs/{bench.job}/labels?size=nonsense").status_code == 200
    assert client.get(f"/jobs/{bench.job}/offer").status_code == 200
