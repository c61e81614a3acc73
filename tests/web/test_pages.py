"""Pages through the ASGI application on a real database: reading, editing, refusing, guarding."""

from __future__ import annotations

import csv
import gzip
import re
from hashlib import sha256
from io import StringIO
from typing import Any

import pytest
from starlette.testclient import TestClient

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.demo.jobs import demo_jobs
from ohmack.formats.design_file import write_design
from ohmack.launch.mariadb import MariaDbServer
from ohmack.store.context import BUILT_IN, Context
from ohmack.store.database import Database, DatabaseSettings
from ohmack.store.designs import DesignStore
from ohmack.store.shop import ShopStore
from ohmack.web.settings import Settings
from ohmack.web.static_files import FOLDER
from signing_in import signed_in

BASE = "http://127.0.0.1:8417"
HX = {"HX-Request": "true"}


def client_on(settings: DatabaseSettings, by: Context = BUILT_IN) -> TestClient:
    """A client in which somebody is signed in."""
    made = Settings(
        database_host=settings.host,
        database_port=settings.port,
        database_user=settings.user,
        database_password=settings.password,
        summaries=False,  # the thread would judge every job of the shop again for every module of tests
    )
    return signed_in(made, BASE, by, follow_redirects=False)


@pytest.fixture
def job(database: Database, estate: Design) -> str:
    return DesignStore(database).open_job(BUILT_IN, "Page test", "", "Page test", estate)


def form(client: TestClient, job: str, **more: Any) -> dict[str, Any]:
    page = client.get(f"/jobs/{job}/supply").text
    version = re.search(r'name="version" value="(\d+)"', page)
    base = re.search(r'name="base" value="(\d+)"', page)
    assert version
    assert base
    return {"version": version[1], "base": base[1], "stage": "supply", "show": "", **more}


PAGES = [
    "",
    "/survey",
    "/factory",
    "/baseline",
    "/fit",
    "/measure",
    "/functions",
    "/strategies",
    "/options",
    "/harness",
    "/joints",
    "/finder",
    "/labels",
    "/find?kind=driver",
    "/plan",
    "/loads",
    "/signal",
    "/supply",
    "/tree",
    "/charging",
    "/protection",
    "/drop",
    "/dip",
    "/box",
    "/crossing",
    "/responses",
    "/tones",
    "/build",
    "/steps",
    "/cuts",
    "/teardown",
    "/quote",
    "/order",
    "/prove",
    "/handover",
    "/history",
    "/policy",
    "/parts/new?kind=subwoofer",
    "/parts/new?kind=wire+kit",
    "/plan?show=parts/amp",
    "/supply?show=figure:amp/current_a",
    "/plan?show=links/power-amp",
    "/survey?show=vehicle/supply/body_return_ohm",
    "/plan?show=nothing/here",
    "/supply?show=links/power-amp/fuse",
]


WHOLE = 2  # jobs of which every page is asked for; of the others each fifth, another fifth a job
SOUGHT = [
    (f"J-0{401 + number}", page)
    for number in range(len(demo_jobs()))
    for place, page in enumerate(PAGES)
    if number < WHOLE or (place + number) % 5 == 0
]


@pytest.mark.parametrize(("job_number", "page"), SOUGHT)
def test_the_pages_of_the_demo_jobs(client: TestClient, page: str, job_number: str) -> None:
    whole = client.get(f"/jobs/{job_number}{page}")
    assert whole.status_code == 200
    assert whole.headers["vary"] == "HX-Request, Accept-Encoding" or "HX-Request" in whole.headers["vary"]
    assert "<script>" not in whole.text.replace('<script src="', "")
    assert not re.search(r"<[^>]+ (style|onclick|onload)=", whole.text)
    part = client.get(f"/jobs/{job_number}{page}", headers=HX)
    assert part.status_code == 200
    assert "<html" not in part.text


def test_shop_pages(client: TestClient) -> None:
    for page in (
        "/",
        "/jobs/new",
        "/policy",
        "/catalogue",
        "/catalogue?kind=amplifier",
        "/import",
        "/schema/ohmack-design.json",
    ):
        assert client.get(page).status_code == 200
    assert client.get("/jobs/J-9999").status_code == 404
    assert client.get("/jobs/J-0401/nonsense").status_code == 404
    assert "There is no J-9999" in client.get("/jobs/J-9999/plan").text


def test_guards(client: TestClient, job: str) -> None:
    good = form(client, job, path="policy/drop_limit_v", value="0.4")
    for headers in ({"Origin": "http://evil.example"}, {"Origin": "null"}, {"Origin": ""}):
        assert client.post(f"/jobs/{job}/edit", data=good, headers=headers).status_code == 403
    assert client.get("/", headers={"Host": "evil.example"}).status_code == 400
    assert client.post(f"/jobs/{job}/edit", content=b"x" * 1_300_000).status_code == 413
    assert (
        client.post("/import", headers={"Content-Length": "501000001"}, content=b"").status_code == 413
    )  # a job pack may be larger, to a limit
    pieces = (b"customer=" + b"x" * 60_000 for _ in range(25))  # no length stated: counted as it comes
    unstated = client.post(
        f"/jobs/{job}/edit", content=pieces, headers={"Content-Type": "application/x-www-form-urlencoded"}
    )
    assert unstated.status_code == 413
    answer = client.get("/")
    assert "script-src 'self'" in answer.headers["content-security-policy"]
    assert "unsafe" not in answer.headers["content-security-policy"]
    assert answer.headers["x-content-type-options"] == "nosniff"


def test_first_page_is_light(client: TestClient) -> None:
    html = client.get("/jobs/J-0401/supply").text
    total = len(gzip.compress(html.encode(), 5))
    addresses = set(re.findall(r'(?:href|src)="(/static/[^"]+)"', html))
    assert len(addresses) > 5
    for address in addresses:
        assert "max-age=31536000" in client.get(address).headers["cache-control"]
        fingerprint = sha256((FOLDER / address.split("?")[0].removeprefix("/static/")).read_bytes()).hexdigest()
        assert address.endswith(f"?v={fingerprint[:12]}"), "another file has another address"
        assert "max-age=3600" in client.get(f"{address.split('?')[0]}?v=of-another").headers["cache-control"]
        total += len(gzip.compress(client.get(address).content, 5))
    css = client.get("/static/ohmack.css").text
    total += sum(len(client.get(f"/static/{a}").content) for a in re.findall(r"url\((vendor/fonts/[^)]+)\)", css))
    assert total < 300_000, total


def test_how_a_revision_prints_is_asked_for_once(client: TestClient, job: str) -> None:
    (asked,) = re.findall(r'href="([^"]+/print\.css\?r=\d+)"', client.get(f"/jobs/{job}/plan").text)
    kept = client.get(asked)
    assert "revision" in kept.text
    assert kept.headers["cache-control"] == "private, max-age=86400"
    for other in (asked + "9", asked.split("?", maxsplit=1)[0]):
        assert client.get(other).headers["cache-control"] == "no-store", "of another revision, or of the latest"


def test_a_speaker_whose_screws_find_no_metal_does_not_fit(client: TestClient) -> None:
    """The headline of Fit and the finding beside it say one thing."""
    page = client.get("/jobs/J-0414/fit").text
    assert "Pell &amp; Fenn Coax 65, pair in Front left door: wants a ring</h1>" in page
    assert page.count('<span class="state loose">wants a ring</span>') == 2
    assert "Everything planned fits" not in page


def test_an_edit_recomputes_and_shows_what_moved(client: TestClient, job: str) -> None:
    data = form(client, job, path="links/speaker-sub/wiring", value="series(1,2)", what="series")
    answer = client.post(f"/jobs/{job}/choose", data=data, headers=HX)
    assert answer.status_code == 200
    assert "Main fuse</a> 60.0 A → <strong>30.0 A" in " ".join(answer.text.split())
    assert answer.headers["hx-push-url"] == f"/jobs/{job}/supply"
    plain = client.post(f"/jobs/{job}/undo", data=form(client, job))
    assert plain.status_code == 303
    assert "since=" in plain.headers["location"]
    assert "30.0 A → <strong>60.0 A" in " ".join(client.get(plain.headers["location"]).text.split())
    redone = client.post(f"/jobs/{job}/redo", data=form(client, job), headers=HX)
    assert "Power wire" in redone.text


@pytest.mark.parametrize(
    ("path", "value", "words"),
    [
        ("vehicle/supply/body_return_ohm", "-3", "It must be 0 or more"),
        ("vehicle/supply/body_return_ohm", "5 parsnips", "parsnips” is not known here"),
        ("vehicle/length_m", "900", "It must be 15 or less"),
        ("vehicle/speakers/spk-fl/impedance_ohm", "0", "It must be more than 0"),
        ("vehicle/supply/post_running_v", "14 m", "is not a voltage"),
        ("vehicle/supply/post_running_v", "1,400", "two ways"),
        ("vehicle/radio/tier", "a steam organ", "must be one of"),
    ],
)
def test_bad_facts_are_refused_at_their_place_and_kept(
    client: TestClient, job: str, path: str, value: str, words: str
) -> None:
    data = form(client, job, path=path, value=value, basis="measured") | {"stage": "survey"}
    answer = client.post(f"/jobs/{job}/fact", data=data, headers=HX)
    assert answer.status_code == 422
    assert words in answer.text
    assert 'aria-invalid="true"' in answer.text
    if "organ" not in value:
        assert f'value="{value}"' in answer.text
    plain = client.post(f"/jobs/{job}/fact", data=data)
    assert plain.status_code == 422
    assert "<html" in plain.text


def test_a_fact_outside_its_range_and_a_measured_one(client: TestClient) -> None:
    path = "vehicle/supply/body_return_ohm"
    data = form(client, "J-0402", path=path, value="9", basis="assumed", low="0.6", high="5") | {"stage": "survey"}
    assert (
        "outside its own range" in client.post("/jobs/J-0402/fact", data=data, headers=HX).text
    )  # an assumption with its range
    data = form(client, "J-0402", path=path, value="9 mΩ", basis="measured") | {"stage": "survey"}
    answer = client.post("/jobs/J-0402/fact", data=data, headers=HX)
    assert answer.status_code == 200
    assert "Body return, ground point to battery" in client.get("/jobs/J-0402/history").text
    client.post("/jobs/J-0402/undo", data=form(client, "J-0402"))


def test_markup_everywhere_stays_text(client: TestClient, database: Database, estate: Design) -> None:
    evil = "<script>alert(1)</script>\"'><img src=x onerror=alert(2)>"
    edits = [
        Edit(path=p, value=evil)
        for p in (
            "title",
            "intake/wishes_note",
            "intake/later_note",
            "vehicle/make",
            "vehicle/model",
            "vehicle/radio/name",
            "parts/amp/name",
            "parts/amp/maker",
            "parts/sub/name",
            "vehicle/speakers/spk-fl/name",
            "vehicle/feeds/radio-constant/name",
            "links/power-amp/wire/colour",
            "vehicle/ground_points/ground-rear/name",
            "vehicle/passages/bulkhead/name",
            "vehicle/supply/body_return_ohm/note",
            "vehicle/supply/body_return_ohm/who",
            "vehicle/radio/clip_step/value",
            "policy/currency",
        )[:-1]
    ]
    number = DesignStore(database).open_job(BUILT_IN, evil, evil[:30], evil, apply_edits(estate, edits))
    for page in PAGES:
        html = client.get(f"/jobs/{number}{page}").text
        assert "<script>alert" not in html, page
        assert "<img" not in html, page
    assert "<script>alert" not in client.get("/").text
    typed = client.post(
        f"/jobs/{number}/edit", data=form(client, number, path="parts/amp/price", value=evil), headers=HX
    )
    assert typed.status_code == 422
    assert "<img" not in typed.text
    DesignStore(database).archive(BUILT_IN, number, True)


def test_two_tabs_conflict_and_nothing_is_lost(client: TestClient, job: str) -> None:
    stale, other = (form(client, job, path="policy/drop_limit_v", value=value) for value in ("0.33", "0.44"))
    fresh = form(client, job, path="parts/amp/price", value="1")
    assert client.post(f"/jobs/{job}/edit", data=fresh, headers=HX).status_code == 200
    assert client.post(f"/jobs/{job}/edit", data=other, headers=HX).status_code == 200, "another field is no conflict"
    answer = client.post(f"/jobs/{job}/edit", data=stale, headers=HX)
    assert answer.status_code == 409
    assert "Someone else changed this very thing first" in answer.text
    assert "0.33" in answer.text
    assert "Parts and cable" in answer.text  # what moved meanwhile
    kept = dict(
        re.findall(
            r'<input type="hidden" name="(\w+)" value="([^"]*)">',
            answer.text.split('class="conflict"')[1].split("</form>")[0],
        )
    )
    again = client.post(f"/jobs/{job}/edit", data=kept)
    assert again.status_code == 303
    page = client.get(f"/jobs/{job}/policy").text
    assert 'value="0.33"' in page


def test_remedies_parts_and_removal(client: TestClient, job: str) -> None:
    client.post(f"/jobs/{job}/choose", data=form(client, job, path="links/tap-converter/method", value="splice"))
    page = client.get(f"/jobs/{job}/plan").text
    assert "A splice on a car that must go back to original" in page
    mended = client.post(
        f"/jobs/{job}/remedy", data=form(client, job, rule="splice-on-reversible", about="tap-converter"), headers=HX
    )
    assert mended.status_code == 200
    assert "splice on a car" not in mended.text
    gone = client.post(
        f"/jobs/{job}/remedy", data=form(client, job, rule="splice-on-reversible", about="tap-converter"), headers=HX
    )
    assert gone.status_code == 422
    removed = client.post(f"/jobs/{job}/remove", data=form(client, job, path="parts/amp"), headers=HX)
    assert removed.status_code == 200
    options = dict(re.findall(r'<option value="(\d+)">([^<]+)', client.get(f"/jobs/{job}/plan").text))
    amplifier = next(k for k, v in options.items() if v.startswith("Tessel M300"))
    added = client.post(f"/jobs/{job}/parts", data=form(client, job, catalogue_id=amplifier), headers=HX)
    assert "Moved" in added.text
    assert "300 W" in client.get(f"/jobs/{job}/loads").text
    nothing = client.post(f"/jobs/{job}/parts", data=form(client, job, catalogue_id=""), headers=HX)
    assert "Choose a part first" in nothing.text


def test_a_second_converter_is_taken_out_and_a_block_without_anything_behind_leads_to_the_search(
    client: TestClient, job: str
) -> None:
    def picked(job: str, kind: str, words: str) -> None:
        page = client.get(f"/jobs/{job}/find", params={"kind": kind, "words": words, "instead": "-"}).text
        number = re.search(r'name="catalogue_id" value="(\d+)"', page)[1]  # type: ignore[index]
        second = form(client, job, catalogue_id=number, swap="yes", instead="-")
        assert client.post(f"/jobs/{job}/parts", data=second, headers=HX).status_code == 200

    picked(job, "converter", "pocket")
    idle = form(client, job, rule="link-missing", about="converter-2")  # the amplifier has its line already
    assert client.post(f"/jobs/{job}/remedy", data=idle, headers=HX).status_code == 200
    assert "Sprig LC1 pocket" not in client.get(f"/jobs/{job}/order").text
    assert client.post(f"/jobs/{job}/remove", data=form(client, job, path="parts/amp"), headers=HX).status_code == 200
    picked(job, "distribution block", "two-way")
    assert "Find what it feeds" in client.get(f"/jobs/{job}/plan").text  # no amplifier to split the power for


def test_what_rests_on_the_system_follows_a_fact_that_is_typed(client: TestClient, job: str) -> None:
    def voltage() -> str:
        page = client.get(f"/jobs/{job}/survey").text
        return re.search(r'value="vehicle/supply/post_running_v".*?name="value"[^>]*?value="([\d.]+)"', page, re.S)[1]  # type: ignore[index]

    empty = form(client, job, path="vehicle/supply/post_running_v", value="", basis="assumed")
    client.post(f"/jobs/{job}/fact", data=empty, headers=HX)
    typed = form(client, job, path="vehicle/supply/system", value="24 V", basis="measured")
    assert client.post(f"/jobs/{job}/fact", data=typed, headers=HX).status_code == 200
    assert voltage() == "28.4"


def test_a_press_that_finds_no_way_says_so(client: TestClient, job: str) -> None:
    wide = form(client, job, path="vehicle/zones/zone-rail-1-left-inner/width_m", value="1.7")
    assert "Lay it round" in client.post(f"/jobs/{job}/edit", data=wide, headers=HX).text
    answer = client.post(f"/jobs/{job}/remedy", data=form(client, job, rule="zone", about="power-amp"), headers=HX)
    assert answer.status_code == 422
    assert "No way round it is known" in answer.text


def test_typing_a_part_in(client: TestClient, job: str) -> None:
    base = {
        "kind": "amplifier",
        "name": "Own thing",
        "ratings": "2 Ω: 400 W; 4: 250",
        "lowest_load_ohm": "2",
        "terminal_area_max_mm2": "21.2 mm²",
        "sensitivity_low_v": "200 mV",
        "sensitivity_high_v": "6 V",
    }
    bad = client.post(
        f"/jobs/{job}/parts/new", data=form(client, job, **(base | {"lowest_load_ohm": "-2", "ratings": "loud"}))
    )
    assert bad.status_code == 422
    assert "write load and power" in bad.text
    assert 'value="loud"' in bad.text
    worse = client.post(f"/jobs/{job}/parts/new", data=form(client, job, **(base | {"lowest_load_ohm": "-2"})))
    assert "It must be more than 0." in worse.text
    good = client.post(f"/jobs/{job}/parts/new", data=form(client, job, **base, keep="yes"))
    assert good.status_code == 303
    assert "Own thing" in client.get(f"/jobs/{job}/plan").text
    assert "Own thing" in client.get("/catalogue?kind=amplifier").text


def test_a_part_without_papers(client: TestClient, job: str, database: Database) -> None:
    def answer(**more: str) -> Any:
        data = form(client, job, kind="amplifier", name="Shed find", **more)
        return client.post(f"/jobs/{job}/parts/new", data=data)

    assert answer(fuses_a="20 A").status_code == 422
    unfused = answer(usual="yes")
    assert unfused.status_code == 422
    assert "Type its power, or its own fuses" in unfused.text
    assert answer(usual="yes", fuses_a="20 A", keep="yes", lowest_load_ohm="2").status_code == 303
    (part,) = [p for p in DesignStore(database).load(BUILT_IN, job).design.parts if p.name == "Shed find"]
    assert set(part.taken_as_usual) == {
        "ratings", "sensitivity_low_v", "sensitivity_high_v", "terminal_area_max_mm2"}  # fmt: skip
    assert "Shed find: 4 values nobody has read" in client.get(f"/jobs/{job}/plan").text
    edit = form(client, job, path=f"parts/{part.id}/sensitivity_high_v", value="4 V")
    assert client.post(f"/jobs/{job}/edit", data=edit, headers=HX).status_code == 200
    assert "Shed find: 3 values nobody has read" in client.get(f"/jobs/{job}/plan").text
    (kept,) = [p for p in ShopStore(database).parts(BUILT_IN, "amplifier", "Shed", 9) if p.name == "Shed find"]
    assert (kept.basis.value, kept.taken_as_usual) == ("assumed", ())


def test_a_wire_kit_typed_in(client: TestClient, job: str) -> None:
    def answer(**more: str) -> Any:
        return client.post(f"/jobs/{job}/parts/new", data=form(client, job, kind="wire kit", name="Kit 8", **more))

    assert 'name="red_m"' in client.get(f"/jobs/{job}/parts/new", params={"kind": "wire kit"}).text
    for wrong, words in (
        ({"wire_size": "8 AWG"}, "This cannot be empty."),
        ({"wire_size": "8 AWG", "red_m": "0 m"}, "There is no wire in it"),
        ({"wire_size": "37 AWG", "red_m": "5 m"}, "37 AWG"),
        ({"wire_size": "8 AWG", "red_m": "500 m"}, "It must be 100 or less"),
    ):
        refused = answer(**wrong)
        assert (refused.status_code, words in refused.text) == (422, True), wrong
        assert "Kit 8" in refused.text
    good = answer(wire_size="8 AWG", red_m="16 ft", rating_a="60 A", price="39")
    assert good.status_code == 303
    plan = client.get(f"/jobs/{job}/plan").text
    assert all(f"Kit 8: {what}" in plan for what in ("red wire", "holder", "fuse"))
    assert "Kit 8: black wire" not in plan


def test_dragging_and_nudging(client: TestClient, job: str, database: Database) -> None:
    store = DesignStore(database)
    before = store.load(BUILT_IN, job).design.part("amp").position
    dropped = client.post(f"/jobs/{job}/move", data=form(client, job, path="parts/amp", at="600,140"), headers=HX)
    assert dropped.status_code == 200
    after = store.load(BUILT_IN, job).design.part("amp").position
    assert after != before
    client.post(f"/jobs/{job}/move", data=form(client, job, path="parts/amp", nudge="left"), headers=HX)
    assert store.load(BUILT_IN, job).design.part("amp").position.x_m == pytest.approx(after.x_m - 0.05)
    for at in ("nowhere", "1,2,3", "nan,nan", "inf,0"):
        assert (
            client.post(f"/jobs/{job}/move", data=form(client, job, path="parts/amp", at=at), headers=HX).status_code
            == 422
        ), at
    way = client.post(f"/jobs/{job}/way", data=form(client, job, link="power-amp", action="add"), headers=HX)
    assert way.status_code == 200
    run = next(k for k in store.load(BUILT_IN, job).design.links if k.id == "power-amp")
    assert len(run.way_points) == 3, "two corners, laid anew to where the amplifier is now, and the one put in"
    assert run.way_points[-1].x_m == pytest.approx(store.load(BUILT_IN, job).design.part("amp").position.x_m)
    assert run.by_hand


def test_opening_a_job(client: TestClient) -> None:
    bad = client.post(
        "/jobs/new",
        data={
            "customer": "",
            "make": "Fallow",
            "model": "",
            "year": "soon",
            "body": "hatch",
            "hand_of_drive": "left",
            "powertrain": "combustion",
            "budget": "-5",
        },
    )
    assert bad.status_code == 422
    for words in ("Who is it for?", "Which model?", "soon", 'value="Fallow"'):
        assert words in bad.text
    good = client.post(
        "/jobs/new",
        data={
            "customer": "Ada",
            "make": "Fallow",
            "model": "Nine",
            "year": "2012",
            "body": "estate",
            "hand_of_drive": "left",
            "powertrain": "combustion",
            "wishes": ["more bass"],
            "budget": "500",
            "reversible": "yes",
        },
    )
    assert good.status_code == 303
    page = client.get(good.headers["location"]).text
    assert "Fallow Nine, estate, 2012" in page
    assert "Nothing planned yet" in page


def test_policy_pages(client: TestClient, job: str) -> None:
    page = client.get("/policy").text
    version = re.search(r'name="version" value="(\d+)"', page)[1]  # type: ignore[index]
    bad = client.post("/policy", data={"version": version, "drop_limit_v": "nine", "tone_dbfs": "-5"})
    assert bad.status_code == 422
    assert 'value="nine"' in bad.text
    assert client.post("/policy", data={"version": version, "drop_limit_v": "0.45 V"}).status_code == 303
    stale = client.post("/policy", data={"version": version, "drop_limit_v": "0.7"})
    assert stale.status_code == 409
    assert "0.7" in stale.text
    assert client.post(f"/jobs/{job}/shop-policy", data=form(client, job)).status_code == 303
    assert 'value="0.45"' in client.get(f"/jobs/{job}/policy").text
    version = re.search(r'name="version" value="(\d+)"', client.get("/policy").text)[1]  # type: ignore[index]
    client.post("/policy", data={"version": version, "drop_limit_v": "0.50"})


def test_export_and_import(client: TestClient, job: str, estate: Design) -> None:
    data = client.get(f"/jobs/{job}/export")
    assert data.content == write_design(estate)
    before = client.get("/").text.count('class="no"')
    for content, words in (
        (b"{", "not JSON"),
        (b'{"format":"ohmack-design","version":9}', "newer Ohmack"),
        (data.content.replace(b'"power_w": 500.0', b'"power_w": -1'), "must be more than 0"),
    ):
        refused = client.post("/import", data={"customer": "Bea"}, files={"file": ("x.json", content)})
        assert refused.status_code == 422
        assert words in refused.text
        assert "nothing was stored" in refused.text
    assert client.get("/").text.count('class="no"') == before
    taken = client.post("/import", data={"customer": "Bea"}, files={"file": ("../../x.json", data.content)})
    assert taken.status_code == 303
    assert client.get(taken.headers["location"] + "/export").content == data.content


def test_the_database_stops_in_the_middle(tmp_path_factory: pytest.TempPathFactory, estate: Design) -> None:
    """Stopped before a save: a clear page that keeps the edit; started again, the same form works."""
    from ohmack.store.migrate import migrate

    server = MariaDbServer(tmp_path_factory.mktemp("stopping"), quiet=True, fast=True)
    server.start()
    try:
        settings = DatabaseSettings("127.0.0.1", server.port, "ohmack", server.password)
        migrate(settings)
        job = DesignStore(Database(settings)).open_job(BUILT_IN, "Cut off", "", "Cut off", estate)
        with client_on(settings) as client:
            data = form(client, job, path="policy/drop_limit_v", value="0.37")
            port = server.port
            server.stop()
            answer = client.post(f"/jobs/{job}/edit", data=data, headers=HX)
            assert answer.status_code == 503
            assert "The database does not answer" in answer.text
            assert 'value="0.37"' in answer.text
            assert answer.headers["hx-retarget"] == "#trouble"
            assert client.get("/").status_code == 503
            server.start_on(port)
            kept = dict(re.findall(r'name="(\w+)" value="([^"]*)"', answer.text))
            assert client.post(f"/jobs/{job}/edit", data=kept).status_code == 303
            assert 'value="0.37"' in client.get(f"/jobs/{job}/policy").text
    finally:
        server.stop()


def test_the_cut_list_as_a_table_names_every_cable_and_starts_no_formula(client: TestClient) -> None:
    found = client.get("/jobs/J-0401/cuts.csv")
    assert found.headers["content-type"].startswith("text/csv")
    rows = list(csv.DictReader(StringIO(found.content.decode("utf-8-sig"))))
    assert [row["number"] for row in rows] == [f"C{n}" for n in range(1, len(rows) + 1)]
    assert len(rows) > 4
    assert any(row["for"] == "Power" and float(row["length_m"]) == 5.4 for row in rows)
    assert not [cell for row in rows for cell in row.values() if cell.startswith(("=", "+", "@"))]
