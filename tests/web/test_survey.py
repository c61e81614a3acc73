"""The survey's sheets by plain forms: questionnaire, modules and links, readings, photos, every addition; wrong
input too.
"""

from __future__ import annotations

import io
import re
from html import unescape
from typing import Any

import pytest
from PIL import Image
from starlette.testclient import TestClient

from ohmack.core.document import Basis, Design
from ohmack.core.document.design import Intake
from ohmack.core.document.edits import apply_edits
from ohmack.core.document.factory import Tier
from ohmack.core.document.paths import design_facts
from ohmack.core.document.policy import Policy
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.core.planning.survey import ADDITIONS, TOGETHER, add_to_survey
from ohmack.store.context import BUILT_IN
from ohmack.store.database import Database
from ohmack.store.designs import DesignStore
from web.test_pages import HX, form
from web.test_spider import Anatomy


class Bench:
    """A job with the forms of its survey; every post is a plain one unless `hx`."""

    def __init__(self, client: TestClient, database: Database, design: Design) -> None:
        self.client, self.store = client, DesignStore(database)
        self.job = self.store.open_job(BUILT_IN, "Survey", "", "Survey", design)

    @property
    def design(self) -> Design:
        return self.store.load(BUILT_IN, self.job).design

    def post(self, where: str, stage: str = "factory", hx: bool = False, **fields: Any) -> Any:
        data = form(self.client, self.job, **fields) | {"stage": stage}
        return self.client.post(f"/jobs/{self.job}/{where}", data=data, headers=HX if hx else {})

    def page(self, stage: str, show: str = "") -> str:
        return self.client.get(f"/jobs/{self.job}/{stage}", params={"show": show} if show else {}).text


def car() -> Design:
    return new_design("Survey", new_vehicle("Brindle", "Otter", 2014, Body.SALOON, Hand.LEFT), Intake(), Policy())


@pytest.fixture
def bench(client: TestClient, database: Database) -> Bench:
    return Bench(client, database, car())


def asked(page: str) -> str:
    return re.search(r'name="question" value="([\w-]+)"', page)[1]  # type: ignore[index]


def test_the_questionnaire_by_plain_forms(bench: Bench) -> None:
    first = asked(bench.page("factory"))
    assert bench.post("answer", question="colour-of-carpet", answer="yes").status_code == 422
    refused = bench.post("answer", question=first, answer="perhaps")
    assert refused.status_code == 422
    assert "Choose one of the answers" in refused.text
    assert not bench.design.vehicle.answers
    given: list[str] = []
    for _ in range(12):
        page = bench.page("factory")
        if "ask-text" not in page:
            break
        given.append(asked(page))
        answers = [unescape(a) for a in re.findall(r'name="answer" value="([^"]+)"', page)]
        assert bench.post("answer", question=given[-1], answer=answers[0], who="Odile").status_code == 303
    assert len(set(given)) == len(given) >= 2
    assert [a.id for a in bench.design.vehicle.answers] == given
    assert bench.post("answer", question=given[0], back="yes").status_code == 303
    assert given[0] not in [a.id for a in bench.design.vehicle.answers]
    bench.post("answer", question=given[0], answer="I do not know")
    assert bench.post("take-verdict", who="Odile").status_code == 303
    tier = bench.design.vehicle.radio.tier
    assert tier.value is not None
    assert tier.who == "Odile"
    assert "Take it again" in bench.page("factory")
    assert (tier.basis is Basis.ASSUMED) == bool(tier.alternatives)  # not certain: the other kinds stay open


def test_modules_are_laid_in_once_and_joined(bench: Bench) -> None:
    plain = bench.post("modules")
    assert plain.status_code == 422
    assert "nothing to put in" in plain.text
    bench.post("fact", path="vehicle/radio/tier", value=Tier.AMPLIFIED.value, basis="measured")
    assert bench.post("modules").status_code == 303
    laid = {module.id for module in bench.design.vehicle.modules}
    assert laid
    assert bench.post("modules").status_code == 422
    assert {module.id for module in bench.design.vehicle.modules} == laid
    radio, module = bench.design.vehicle.radio.id, sorted(laid)[0]
    self_join = bench.post("join", path="join", kind="speaker level", from_id=radio, to_id=radio, hx=True)
    assert self_join.status_code == 422
    assert "does not link to itself" in self_join.text
    assert 'id="join-problem"' in self_join.text
    assert re.search(r'<option value="speaker level" selected>', self_join.text)  # what was chosen stays chosen
    assert bench.post("join", kind="string and tin cans", from_id=radio, to_id=module).status_code == 422
    assert bench.post("join", kind="data bus", from_id=radio, to_id="ghost").status_code == 422
    before = len(bench.design.vehicle.factory_links)
    assert bench.post("join", kind="data bus", from_id=radio, to_id=module).status_code == 303
    assert len(bench.design.vehicle.factory_links) == before + 1
    assert bench.post("pairs", source="ghost", **{"place-0": "rear"}).status_code == 422
    assert bench.post("remove", path=f"vehicle/modules/{module}").status_code == 303
    assert not [k for k in bench.design.vehicle.factory_links if module in (k.from_id, k.to_id)]


def test_kinds_and_tell_tales_join_the_questionnaire(bench: Bench) -> None:
    for what in ("variant", "tell"):
        assert bench.post(what, name=" ", question="", tier="plain radio").status_code == 422
    unnamed = bench.post("variant", path="variant", name=" ", tier=Tier.RING.value)
    assert 'id="variant-problem"' in unnamed.text
    assert re.search(rf"<option selected>{Tier.RING.value}", unnamed.text)
    for name, tier in (("base", Tier.PLAIN), ("premium, from 2016", Tier.RING)):
        assert bench.post("variant", name=name, tier=tier.value).status_code == 303
    assert bench.post("tell", question="Is there a grille on the dash top?").status_code == 303
    kinds = [v.id for v in bench.design.vehicle.variants]
    tell = bench.design.vehicle.tells[0].id
    bench.post("choose", path=f"vehicle/tells/{tell}/shown_by", value=kinds[1])
    page = bench.page("factory")
    assert "Is there a grille on the dash top?" in page
    assert "premium, from 2016" in page
    assert bench.post("remove", path=f"vehicle/variants/{kinds[1]}").status_code == 303
    assert bench.design.vehicle.tells[0].shown_by == ()


def test_volume_readings_are_judged_and_bad_ones_keep_what_was_typed(bench: Bench) -> None:
    typed = {"path": "volume-reading", "step": "20", "tone_hz": "1 kHz", "voltage_v": "loud"}
    bad = bench.post("volume-reading", stage="baseline", hx=True, **typed)
    assert bad.status_code == 422
    assert "The reading:" in bad.text
    assert 'value="1 kHz"' in bad.text
    for step, volts in (("10", "1,2"), ("20", "3.4 V"), ("20", "3.6")):
        fields = {"step": step, "tone_hz": "1 kHz", "voltage_v": volts, "source_level": "phone at 100 %"}
        assert bench.post("volume-reading", stage="baseline", **fields).status_code == 303
    readings = bench.design.vehicle.volume_steps
    assert [(r.step, r.tone_hz, r.voltage_v.value) for r in readings] == [(10, 1000, 1.2), (20, 1000, 3.6)]
    assert bench.post("volume-reading", stage="baseline", step="1", tone_hz="40", voltage_v="-3").status_code == 422
    pair = f"vehicle/radio/channels/{bench.design.vehicle.radio.channels[0].id}/pair_resistance_ohm"
    assert bench.post("fact", stage="baseline", path=pair, value="3.9 - 0.3", basis="measured").status_code == 303
    assert "3.6" in bench.page("baseline")


def picture(size: tuple[int, int] = (40, 30), kind: str = "PNG") -> bytes:
    out = io.BytesIO()
    Image.new("RGB", size, "teal").save(out, kind)
    return out.getvalue()


def test_photos_are_kept_put_away_and_brought_back(bench: Bench, client: TestClient, database: Database) -> None:
    where = "vehicle/radio/tier"

    def send(name: str, data: bytes) -> Any:
        fields = form(client, bench.job, path=where) | {"stage": "survey", "show": where}
        return client.post(f"/jobs/{bench.job}/photos", data=fields, files={"photo": (name, data)})

    for name, data, words in (
        ("notes.jpg", b"%PDF-1.7 not a picture", "no JPEG or PNG"),
        ("cut.jpg", picture((400, 300), "JPEG")[:900], "damaged or cut short"),
        ("none.png", b"", "Choose a photo first"),
        ("moving.gif", picture(kind="GIF"), "no JPEG or PNG"),
    ):
        refused = send(name, data)
        assert refused.status_code == 422, name
        assert words in refused.text
        assert 'id="photo-problem"' in refused.text
    assert send("big.jpg", b"\xff\xd8" + b"0" * 27_000_000).status_code == 413
    assert send("../../etc/<img src=x>.png", picture()).status_code == 303
    page = bench.page("survey", where)
    address = re.search(r'src="(/jobs/[\w-]+/photos/\d+)/small"', page)[1]  # type: ignore[index]
    assert "img src=x.png" in page
    shown = client.get(f"{address}/small")
    assert shown.headers["content-type"] == "image/jpeg"
    assert Image.open(io.BytesIO(client.get(f"{address}/whole").content)).size == (40, 30)
    other = Bench(client, database, bench.design)
    assert client.get(address.replace(bench.job, other.job) + "/small").status_code == 404
    data = form(client, bench.job, path=where) | {"stage": "survey", "show": where}
    assert client.post(f"{address}/away", data=data).status_code == 303
    put_away = bench.page("survey", where)
    assert f'src="{address}/small"' not in put_away
    assert "bring back" in put_away
    client.post(f"{address}/away", data=data | {"back": "1"})
    assert f'src="{address}/small"' in bench.page("survey", where)


def test_a_position_outside_the_body_is_refused_and_kept_as_typed(bench: Bench) -> None:
    speaker = f"vehicle/speakers/{bench.design.vehicle.speakers[0].id}"
    was = bench.design.vehicle.speakers[0].position
    for axis, value in (("x_m", "9,5"), ("y_m", "1.4"), ("x_m", "-1")):
        refused = bench.post(
            "edit", stage="survey", path=f"{speaker}/position/{axis}", value=value, show=speaker, hx=True
        )
        assert refused.status_code == 422
        assert f'value="{value}"' in refused.text
        assert re.search("the length of the car|right of the centre line", refused.text)
    assert bench.design.vehicle.speakers[0].position == was
    refused = bench.post(
        "edit", stage="survey", path=f"{speaker}/position/x_m", value="back seat", show=speaker, hx=True
    )
    assert refused.status_code == 422
    assert 'value="back seat"' in refused.text


@pytest.mark.parametrize("what", list(ADDITIONS))
def test_every_addition_and_its_editor(bench: Bench, what: str) -> None:
    answer = bench.post("add", stage="survey", what=what)
    assert answer.status_code == 303
    page = bench.client.get(answer.headers["location"]).text
    anatomy = Anatomy()
    anatomy.feed(page)
    assert 'id="editor-title"' in page
    assert "Take out" in page
    assert len(anatomy.ids) == len(set(anatomy.ids))
    path = re.search(r"show=([\w/-]+)", answer.headers["location"])[1]  # type: ignore[index]
    assert bench.post("edit", stage="survey", path=f"{path}/name", value="Found under the seat").status_code == 303
    assert "Found under the seat" in bench.page("survey", path)
    assert bench.post("remove", stage="survey", path=path).status_code == 303
    assert "Found under the seat" not in bench.page("survey")
    assert bench.post("undo", stage="survey").status_code == 303
    assert "Found under the seat" in bench.page("survey", path)


def test_two_hundred_facts_and_the_sheets_still_answer(bench: Bench, client: TestClient, database: Database) -> None:
    """A long survey: seventy additions, above two hundred facts, one page each."""
    many = [w for w in ADDITIONS if w not in ("battery", *TOGETHER)]  # four batteries at most, sets once
    design = bench.design
    for what in ("headrest speakers", "dash corner speakers"):
        design = apply_edits(design, add_to_survey(design, what)[1])
    for number in range(72):
        design = apply_edits(design, add_to_survey(design, many[number % len(many)])[1])
    bench = Bench(client, database, design)
    for stage in ("survey", "factory", "baseline", "fit", "measure", "plan"):
        assert bench.client.get(f"/jobs/{bench.job}/{stage}").status_code == 200, stage
    assert sum(1 for _ in design_facts(bench.design)) > 200


def test_a_job_without_an_amplifier_asks_for_none(client: TestClient) -> None:
    """Drivers alone: the stages such a job does not need stand idle on the track, those it needs do not."""
    idle = re.compile(r'<li class="([^"]*)">\s*<a[^>]*>.*?</li>', re.S)
    for number, needed in (("J-0404", ("Survey", "Plan", "Loads")), ("J-0402", ("Signal", "Supply"))):
        page = client.get(f"/jobs/{number}/survey").text
        assert "choose your amplifier" not in page.lower()
        stages = {re.sub("<[^>]+>", " ", m[0]): "idle" in m[1] for m in idle.finditer(page)}
        assert all(not on for name, on in stages.items() if any(word in name for word in needed)), stages
    assert any(
        "idle" in m[1]
        for m in idle.finditer(client.get("/jobs/J-0409/survey").text + client.get("/jobs/J-0404/survey").text)
    )


def test_pairs_are_typed_in_several_at_once_and_a_wrong_row_keeps_what_was_typed(bench: Bench) -> None:
    """Three rows in one press; a wrong one says which, and nothing is lost."""
    before = len(bench.design.vehicle.radio.channels)
    speaker = bench.design.vehicle.speakers[0]
    source = bench.design.vehicle.radio.id
    rows = {"source": source, "place-0": "centre", "band-0": "mid range", "reads-0": "3,4", "place-1": "rear left"}
    wrong = bench.post("pairs", hx=True, path="pairs", **rows, **{"reads-1": "four-ish"})
    assert "Row 2, reads" in wrong.text
    assert 'value="3,4"' in wrong.text
    assert 'value="four-ish"' in wrong.text
    assert len(bench.design.vehicle.radio.channels) == before
    lonely = bench.post("pairs", hx=True, path="pairs", source=source, **{"reads-3": "4"})
    assert "Row 4: say where this pair plays" in lonely.text
    bench.post(
        "pairs", path="pairs", **rows, **{"speaker-1": speaker.id, "place-4": "front left", "band-4": "high range"}
    )
    centre, tweeter = bench.design.vehicle.radio.channels[before:]
    rear = next(c for c in bench.design.vehicle.radio.channels if c.place == "rear left")  # it was only guessed
    assert rear.band.basis.value == "documented"
    assert (centre.name, centre.band.value, centre.pair_resistance_ohm.value) == ("Centre, mid range", "mid range", 3.4)
    assert centre.pair_resistance_ohm.basis.value == "measured"
    assert (rear.name, tweeter.name) == ("Rear left", "Front left, high range")
    assert bench.design.vehicle.speakers[0].channel_id == rear.id
