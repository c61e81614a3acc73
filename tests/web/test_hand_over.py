"""Hand over by plain forms: soak, the customer's word, the signature, the pack out and in, the link, the car."""

from __future__ import annotations

import io
import re
import zipfile
from datetime import date, timedelta
from hashlib import sha256
from typing import Any

import pytest
from PIL import Image
from pypdf import PdfReader
from starlette.testclient import TestClient

from core.test_hand_over import heard_out, soaked
from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.proof import Symptom
from ohmack.demo.jobs import demo_design, demo_jobs
from ohmack.store.cars import CarStore
from ohmack.store.context import BUILT_IN
from ohmack.store.database import Database, StoreUnavailable
from ohmack.store.design_rows import BrokenDesign
from ohmack.store.designs import DesignStore
from ohmack.store.photos import PhotoStore
from ohmack.web import job_pack
from ohmack.web.job_pack import make_pack
from ohmack.web.workshop import Workshop
from proving import proved
from web.test_pages import HX, form
from web.test_survey import Bench

ENDS = (date.today() + timedelta(days=300)).isoformat()


@pytest.fixture(scope="module")
def done() -> Design:
    return proved(demo_design(0))


@pytest.fixture
def bench(client: TestClient, database: Database, done: Design) -> Bench:
    return Bench(client, database, done)


@pytest.fixture
def ready(client: TestClient, database: Database, done: Design) -> Bench:
    return Bench(client, database, heard_out(done))


def test_a_try_is_kept_and_what_is_refused_is_said_at_its_place(bench: Bench) -> None:
    assert "Hold: " in bench.page("handover")
    check = "soak/sleep"
    good = {"check": check, "value": "21 mA", "when": "2026-11-20T07:00", "who": "Wen", "note": "cold"}
    assert bench.post("soak-try", "handover", **good).status_code == 303
    (kept,) = bench.design.handover.soak
    assert (kept.value, kept.when, kept.who) == (21.0, "2026-11-20T07:00", "Wen")
    for said, words in (
        ({"value": "0.02"}, "type 20"), ({"value": "many"}, "The reading: "), ({"value": ""}, "Enter what it shows"),
        ({"value": "21", "when": "yesterday"}, "is no day and time"),
        ({"value": "21", "when": "2999-01-01T00:00"}, "still to come"),
    ):  # fmt: skip
        answer = bench.post("soak-try", "handover", path="soak-try", **(good | said))
        assert answer.status_code == 422
        assert words in answer.text.split('id="soak-problem"')[1][:400]
        assert 'value="cold"' in answer.text, "what was typed is kept"
    assert len(bench.design.handover.soak) == 1
    assert "once more" not in bench.page("handover", "check:soak/sleep")
    assert "2 more times, over at least 2 days" in bench.page("handover", "check:soak/sleep")


def dot(page: str) -> str:
    """The class of the last stage on the track."""
    return re.findall(r'<li class="([^"]*)">\s*<a href="/jobs/[^"]*/handover"', page)[0]


def test_a_wired_car_is_not_told_that_it_is_not_ready_to_order(bench: Bench) -> None:
    """The verdict speaks of the car by then, leads to its sheet, and holds no order."""
    page = bench.page("order")
    assert "the car is wired: only what is still missing" in page
    assert 'class="hold"' not in page
    assert re.search(r'id="verdict".*?href="/jobs/[^"]+/prove"', page, re.DOTALL)


def test_held_by_name_let_go_and_handed_over(ready: Bench, bench: Bench) -> None:
    """From a soaked car to a signature, with a hold between."""
    assert "done" not in dot(bench.page("supply")), "nothing was soaked"
    assert "done" in dot(ready.page("supply"))
    assert "May go" in ready.page("handover")
    assert ready.post("hold", "handover", path="hold", by="Odile", reason="").status_code == 422
    assert ready.post("hold", "handover", by="Odile", reason="felt strip comes on Tuesday").status_code == 303
    assert "Hold: Odile keeps it here" in ready.page("handover")
    assert "done" not in dot(ready.page("supply"))
    assert "Sign for revision" not in ready.page("pack")
    refused = ready.post("signature", "pack", path="signature", by="Ada Lark", drawn="")
    assert "It is held: Odile" in refused.text
    thing = ready.design.handover.holds[0].id
    assert ready.post("take-back", "handover", thing=thing).status_code == 303
    assert ready.post("take-back", "handover", path="take-back", thing=thing).status_code == 422
    page = ready.page("promises")
    for wish in re.findall(r'name="wish" value="([^"]+)"', page):
        assert ready.post("heard", "promises", wish=wish, met="as wished", words="").status_code == 303
    assert ready.post("heard", "promises", path="heard", wish="wish/bass", met="maybe").status_code == 422
    assert "Everything promised is settled" in ready.page("promises")
    signed = ready.post("signature", "pack", by="Ada Lark", drawn="10,20 30,40 55,20;90,90")
    assert signed.status_code == 303
    (signature,) = ready.design.handover.signatures
    assert [s.points for s in signature.drawn] == [((10, 20), (30, 40), (55, 20)), ((90, 90),)]
    record = ready.store.load(BUILT_IN, ready.job)
    assert signature.revision == record.number - 1, "of what was shown"
    assert "Handed over to Ada Lark" in ready.page("pack")
    assert "M10 20L30 40L55 20M90 90L90 90" in ready.page("pack")


def test_who_was_not_heard_does_not_sign(client: TestClient, database: Database, done: Design) -> None:
    bench = Bench(client, database, soaked(done))
    assert "Soaked: 5 promises nobody has answered for" in bench.page("handover")
    refused = bench.post("signature", "pack", path="signature", by="Ada Lark", drawn="")
    assert refused.status_code == 422
    assert "5 promises nobody has answered for" in refused.text


def test_a_signature_of_five_megabytes_a_stale_one_and_a_nameless_one(ready: Bench) -> None:
    big = ready.post("signature", "pack", path="signature", by="Ada Lark", drawn="1" * 5_000_000)
    assert big.status_code == 422
    assert "more than a signature" in big.text
    assert 'value="Ada Lark"' in big.text
    many = ready.post("signature", "pack", path="signature", by="Ada Lark", drawn="1,1 " * 3500)
    assert many.status_code == 422
    assert "at most 3000 points" in many.text
    outside = ready.post("signature", "pack", path="signature", by="Ada", drawn="1,1 1200,3")
    assert "leaves its field" in outside.text
    shown = form(ready.client, ready.job, by="Ada Lark", drawn="", path="signature") | {"stage": "pack"}
    assert ready.post("open-point", "pack", what_is_left="felt strip", whose="the shop").status_code == 303
    stale = ready.client.post(f"/jobs/{ready.job}/signature", data=shown)
    assert stale.status_code == 422
    assert "The plan changed while it was signed" in stale.text
    nameless = ready.post("signature", "pack", path="signature", by=" ", drawn="1,1 2,2;9,9").text
    assert "Write the name" in nameless
    assert 'name="drawn" value="1,1 2,2;9,9"' in nameless, "the hand is kept"
    assert 'name="drawn" value=""' in big.text, "what is no hand is not sent back"
    assert not ready.design.handover.signatures


# -- the pack -------------------------------------------------------------------------------------------------------


def jpeg(n: int) -> bytes:
    out = io.BytesIO()
    Image.linear_gradient("L").resize((300 + n, 200)).convert("RGB").save(out, "JPEG")
    return out.getvalue()


def take_photo(bench: Bench, path: str, n: int) -> None:
    files = {"photo": (f"shot {n}.jpg", jpeg(n), "image/jpeg")}
    data = form(bench.client, bench.job, path=path) | {"stage": "survey"}
    assert bench.client.post(f"/jobs/{bench.job}/photos", data=data, files=files).status_code == 303


def pack_of(bench: Bench, database: Database) -> bytes:
    shop = Workshop(database).seen_by(BUILT_IN)
    steps: list[tuple[int, str]] = []
    record = shop.designs.load(shop.context, bench.job)
    with make_pack(shop, record, "2026-11-28", lambda n, w: steps.append((n, w))) as file:
        file.seek(0)
        data = file.read()
    assert [n for n, _ in steps] == list(range(len(steps))), "told step by step"
    assert job_pack.steps_of(shop, record) == len(steps)
    return data


def test_a_pack_goes_out_and_comes_in_with_nothing_missing(ready: Bench, database: Database) -> None:
    """Two options, photos, one put away: the job that comes back is the job that went."""
    for n, path in enumerate(("vehicle/radio", "work/taken/x", "vehicle/radio")):
        take_photo(ready, path, n)
    photos, designs = PhotoStore(database), DesignStore(database)
    photos.put_away(BUILT_IN, ready.job, photos.list(BUILT_IN, ready.job)[1].id, True)
    second = designs.add_option(BUILT_IN, ready.job)
    data = pack_of(ready, database)
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        names = set(archive.namelist())
        pages = PdfReader(io.BytesIO(archive.read("papers/pack.pdf"))).pages
        said = " ".join(page.extract_text() for page in pages).replace("\n", " ")
        assert b"Out of" in archive.read("lists/readings.csv")
    assert {"papers/customer.pdf", "papers/next.pdf", "lists/fuses.csv", "drawings/pack.svg", "lists/soak.csv",
            "designs/A.ohmack.json", "designs/B.ohmack.json", "photos/0003.jpg"} <= names  # fmt: skip
    for words in ("As built", "Fuses", "Settings as the car is left", "Measured against predicted", "Soak", "Care and"):
        assert words in said
    assert "shot 0.jpg" in said
    assert "shot 1.jpg" not in said, "put away"
    files = {"file": ("pack.zip", data, "application/zip")}
    answer = ready.client.post("/import", data={"customer": ""}, files=files)
    assert answer.status_code == 303
    number = answer.headers["location"].removeprefix("/jobs/")
    back, was = designs.load(BUILT_IN, number), designs.load(BUILT_IN, ready.job)
    assert (back.design, back.customer, back.title) == (was.design, was.customer, was.title)
    assert designs.load(BUILT_IN, f"{number}-B").design == designs.load(BUILT_IN, second).design
    there, here = photos.list(BUILT_IN, number), photos.list(BUILT_IN, ready.job)
    assert [(p.path, p.name, p.created_at, p.away) for p in there] == [
        (p.path, p.name, p.created_at, p.away) for p in here
    ]
    for a, b in zip(there, here, strict=True):
        assert photos.pixels(BUILT_IN, number, a.id, False) == photos.pixels(BUILT_IN, ready.job, b.id, False)
    cut = {"file": ("pack.zip", data[: len(data) // 2], "application/zip")}
    jobs = designs.count_jobs(BUILT_IN)
    refused = ready.client.post("/import", data={"customer": "Ada"}, files=cut)
    assert refused.status_code == 422
    assert "cut short or damaged" in refused.text
    assert designs.count_jobs(BUILT_IN) == jobs, "whole or not at all"


def test_a_pack_is_made_beside_an_edit_and_holds_its_revision(
    ready: Bench, database: Database, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Somebody edits while it is made: the pack is of the revision it was asked for."""
    monkeypatch.setattr(job_pack, "PAPERS_IN", ())
    asked = ready.store.load(BUILT_IN, ready.job)
    real = job_pack.PackMaker._list
    edited: list[Any] = []

    def and_edit(maker: Any, name: str, make: Any) -> None:
        if not edited:
            edited.append(ready.post("open-point", "pack", what_is_left="meanwhile", whose=""))
        real(maker, name, make)

    monkeypatch.setattr(job_pack.PackMaker, "_list", and_edit)
    shop = ready.client.app.state.workshop.seen_by(BUILT_IN)  # type: ignore[attr-defined]
    job_pack.begin_pack(shop, asked, "2026-11-28").join(60)
    assert ready.store.load(BUILT_IN, ready.job).number == asked.number + 1
    page = ready.page("pack")
    where = re.search(rf"/jobs/{ready.job}/packs/\d+\.zip", page)
    assert where is not None
    assert f"revision {asked.number}, not the one on this page" in page
    fetched = ready.client.get(where[0])
    assert fetched.headers["content-type"] == "application/zip"
    assert int(fetched.headers["content-length"]) == len(fetched.content)
    assert fetched.headers["etag"].strip('"') == sha256(fetched.content).hexdigest()
    with zipfile.ZipFile(io.BytesIO(fetched.content)) as archive:
        assert b"meanwhile" not in archive.read("designs/A.ohmack.json")
    assert "Make the pack of revision" in page
    assert ready.client.get(f"/jobs/{ready.job}/packs/999999.zip").status_code == 404


def test_a_pack_that_fails_says_so_and_can_be_made_again(ready: Bench, monkeypatch: pytest.MonkeyPatch) -> None:
    def no(*_: object) -> bytes:
        raise RuntimeError("inside")

    monkeypatch.setattr(job_pack, "make_pack", no)
    record = ready.store.load(BUILT_IN, ready.job)
    shop = ready.client.app.state.workshop.seen_by(BUILT_IN)  # type: ignore[attr-defined]
    job_pack.begin_pack(shop, record, "2026-11-28").join(60)
    page = ready.page("pack")
    assert "could not be made: a fault in Ohmack" in page
    assert "inside" not in page
    assert "Make the pack" in page


def test_progress_is_shown_while_it_is_made(ready: Bench) -> None:
    shop = ready.client.app.state.workshop  # type: ignore[attr-defined]
    record = ready.store.load(BUILT_IN, ready.job)
    pack_id = shop.packs.begin(BUILT_IN, record.design_id, record.number, 20)
    shop.packs.touch(BUILT_IN, pack_id, 7, "photo 7 of 12")
    state = ready.client.get(f"/jobs/{ready.job}/pack-state").text
    assert 'hx-trigger="every 1s"' in state
    assert re.search(r'<progress max="20" value="7"', state)
    assert "photo 7 of 12" in state
    assert ready.client.get(f"/jobs/{ready.job}/packs/{pack_id}.zip").status_code == 409


@pytest.mark.parametrize("number", range(0, len(demo_jobs()), 6))
def test_the_customers_page_is_one_sheet(client: TestClient, database: Database, number: int) -> None:
    job = Bench(client, database, demo_design(number)).job
    reader = PdfReader(io.BytesIO(client.get(f"/jobs/{job}/papers/customer.pdf").content))
    assert len(reader.pages) == 1
    text = reader.pages[0].extract_text()
    for words in ("How loud", "The fuses", "When it stops", "Come back"):
        assert words in text


# -- the link -------------------------------------------------------------------------------------------------------


def link_of(bench: Bench) -> str:
    answer = bench.post("links", "leaflet", ends_on=ENDS)
    found = re.search(r'value="http://[^"]+(/l/[\w-]+)"', answer.text)
    assert found is not None, answer.status_code
    assert "<svg" in answer.text.split("square-code")[0][-60:], "a code for the phone stands beside it"
    return found[1]


def test_a_link_opens_one_page_with_nothing_of_the_shop_on_it(
    client: TestClient, database: Database, done: Design
) -> None:
    """No name, number, price or address of a job; no script; under 100 kB with its style and fonts."""
    priced = apply_edits(done, [Edit(path=f"parts/{done.parts[0].id}/price", value=4321.0)])
    store = DesignStore(database)
    number = store.open_job(BUILT_IN, "Zebedee Quill", "555 0777", "Secret title", priced)
    bench = Bench(client, database, priced)
    bench.job = number
    where = link_of(bench)
    answer = client.get(where)
    assert answer.status_code == 200
    html = answer.text
    for hidden in (
        "Zebedee",
        "555 0777",
        "Secret title",
        number,
        "4321",
        "Nettlefold",
        "/jobs/",
        "<script",
        "hx-",
        "EUR",
    ):
        assert hidden not in html, hidden
    assert priced.vehicle.title in html
    assert "How loud" in html
    assert len(re.findall("<svg", html)) == 3
    assert answer.headers["referrer-policy"] == "no-referrer"
    assert "noindex" in answer.headers["x-robots-tag"]
    assert answer.headers["cache-control"] == "no-store"
    style = client.get("/l/style.css")
    fonts = re.findall(r"url\((/static/[^)]+)\)", style.text)
    weight = len(answer.content) + len(style.content) + sum(len(client.get(f).content) for f in fonts)
    assert weight < 100_000, weight
    assert fonts
    later = apply_edits(priced, [Edit(path="vehicle/model", value="Other")])
    record = store.load(BUILT_IN, number)
    store.save(BUILT_IN, record.design_id, record.version, later, "renamed")
    assert priced.vehicle.title in client.get(where).text, "the revision it was made on"


def test_ended_withdrawn_and_forged_links_are_one_plain_page(bench: Bench, monkeypatch: pytest.MonkeyPatch) -> None:
    where, other = link_of(bench), link_of(bench)
    assert "2 links open it" in bench.page("leaflet")
    withdraw = re.search(r"/jobs/J-\d+/(links/\d+/withdraw)", bench.page("leaflet"))
    assert withdraw is not None
    assert bench.post(withdraw[1], "leaflet").status_code == 303
    assert bench.client.get(other).status_code == 404
    gone = bench.client.get(other)
    forged = bench.client.get("/l/" + "A" * 43)
    strange = bench.client.get("/l/..%2f..%2fjobs")
    assert (gone.status_code, forged.status_code) == (404, 404)
    assert gone.text == forged.text
    assert gone.headers.get("x-robots-tag") == forged.headers.get("x-robots-tag")
    assert strange.status_code == 404
    assert bench.client.get(where).status_code == 200
    from ohmack.web.routes import customer_link

    class Later:
        @staticmethod
        def date() -> date:
            return date.today() + timedelta(days=301)

    monkeypatch.setattr(customer_link, "now", Later)
    assert bench.client.get(where).text == gone.text
    assert "/jobs/" not in gone.text


@pytest.mark.parametrize(
    ("trouble", "status"),
    [(BrokenDesign("J-0999", 1, 1, None, "secret change", "why"), 404), (StoreUnavailable("db"), 503)],
)
def test_trouble_behind_a_link_tells_a_stranger_nothing(
    bench: Bench, monkeypatch: pytest.MonkeyPatch, trouble: Exception, status: int
) -> None:
    where = link_of(bench)

    def fails(*_: object, **__: object) -> None:
        raise trouble

    monkeypatch.setattr(Workshop, "evaluation", fails)
    answer = bench.client.get(where)
    assert answer.status_code == status
    for hidden in ("J-0", "secret", "why", "/jobs", "<script", "db"):
        assert hidden not in answer.text


@pytest.mark.parametrize("ends_on", ["", "soon", "2020-01-01", "2999-01-01", "2026-02-30"])
def test_a_link_ends_on_a_day(bench: Bench, ends_on: str) -> None:
    answer = bench.post("links", "leaflet", path="links", ends_on=ends_on)
    assert answer.status_code == 422
    assert "no link opens it" in answer.text


def test_the_shops_address_goes_into_the_link_where_it_has_one(bench: Bench, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(bench.client.app.state, "public_address", "https://sound.example")  # type: ignore[attr-defined]
    assert 'value="https://sound.example/l/' in bench.post("links", "leaflet", ends_on=ENDS, hx=True).text


# -- the car --------------------------------------------------------------------------------------------------------


def test_a_fault_reported_later_opens_prove_with_the_car_as_built(ready: Bench, database: Database) -> None:
    assert ready.post("report-fault", "car", path="report", symptom="", words="").status_code == 422
    answer = ready.post("report-fault", "car", symptom=Symptom.WHINE.value, words="")
    where = answer.headers["location"]
    assert where.endswith("/fault")
    number = where.split("/")[2]
    later = ready.store.load(BUILT_IN, number)
    assert later.design.proof.symptoms == (Symptom.WHINE,)
    assert (later.customer, later.design.vehicle) == ("Survey", ready.design.vehicle)
    assert [j.number for j in CarStore(database).jobs(BUILT_IN, number)] == [ready.job, number]
    page = ready.client.get(where).text
    assert "whine with engine speed" in page
    history = ready.client.get(f"/jobs/{number}/car").text
    events = re.findall(r"<b>([^<]+)</b>", history.split('class="timeline"')[1].split("</ol>")[0])
    assert {"Found broken", "Came in", "Soaked"} <= {e.strip() for e in events}
    assert f'href="/jobs/{ready.job}"' in history
    assert ready.client.post(f"/jobs/{number}/own-car", data=form(ready.client, number)).status_code == 303
    assert [j.number for j in CarStore(database).jobs(BUILT_IN, number)] == [number]
    joined = ready.client.post(f"/jobs/{number}/same-car", data=form(ready.client, number, other=ready.job))
    assert joined.status_code == 303
    refused = ready.client.post(
        f"/jobs/{number}/same-car", data=form(ready.client, number, other="J-99999", stage="car")
    )
    assert refused.status_code == 422


def test_a_plan_is_copied_onto_another_car(ready: Bench, database: Database) -> None:
    typed = {"customer": "Cass Orrel", "phone": "", "make": "Ollery", "model": "Quill", "wish": "the same, please"}
    for bad, words in (
        ({"customer": ""}, "whose car"),
        ({"model": ""}, "make and model"),
        ({"year": "12345"}, "A year has"),
        ({"body": "submarine"}, "Choose a body"),
    ):
        answer = ready.post("copy", "car", path="copy", **(typed | {"year": "2019"} | bad))
        assert answer.status_code == 422
        assert words in answer.text
        assert "the same, please" in answer.text
    answer = ready.post("copy", "car", **typed, year="2019")
    number = answer.headers["location"].split("/")[2]
    copied = ready.store.load(BUILT_IN, number)
    assert copied.design.vehicle.title.startswith("Ollery Quill")
    assert [p.name for p in copied.design.parts] == [p.name for p in ready.design.parts]
    assert not copied.design.proof.readings
    assert [j.number for j in CarStore(database).jobs(BUILT_IN, number)] == [number], "another car"
    answer = ready.post("copy", "car", **typed, year="2019", body="hatch")
    other = ready.store.load(BUILT_IN, answer.headers["location"].split("/")[2]).design
    assert other.vehicle.body.value == "hatch"
    assert sorted(p.name for p in other.parts) == sorted(p.name for p in ready.design.parts)


def test_more_work_is_a_job_of_the_same_car(ready: Bench, database: Database) -> None:
    assert ready.post("more-work", "car", path="more", title=" ").status_code == 422
    number = ready.post("more-work", "car", title="Front doors").headers["location"].removeprefix("/jobs/")
    assert [j.title for j in CarStore(database).jobs(BUILT_IN, number)][-1] == "Front doors"
    assert {p.stands.value for p in ready.store.load(BUILT_IN, number).design.parts} == {"already in the car"}


def test_a_fragment_answers_with_the_frame(ready: Bench, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(job_pack, "PAPERS_IN", ())
    answer = ready.post("make-pack", "pack", hx=True)
    assert answer.status_code == 200
    assert "<html" not in answer.text
    assert ready.client.get(f"/jobs/{ready.job}/pack", headers=HX).status_code == 200
