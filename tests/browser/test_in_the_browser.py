"""A person's way through the application, in Debian's Chromium over the real server."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Browser, Page, expect

from browser.conftest import assert_accessible, axe_findings, serving, settled
from ohmack.core.document import Design
from ohmack.demo.jobs import demo_design
from ohmack.launch.mariadb import MariaDbServer
from ohmack.store.context import BUILT_IN
from ohmack.store.database import Database, DatabaseSettings
from ohmack.store.designs import DesignStore
from ohmack.store.migrate import migrate
from ohmack.store.sessions import From, SessionStore

MAIN_VIEWS = [
    "/",
    "/jobs/new",
    "/policy",
    "/catalogue",
    "/import",
    "/jobs/J-0401",
    "/jobs/J-0402/survey",
    "/jobs/J-0401/plan?show=parts/amp",
    "/jobs/J-0401/loads",
    "/jobs/J-0401/signal",
    "/jobs/J-0401/supply",
    "/jobs/J-0416/crossing",
    "/jobs/J-0401/build",
    "/jobs/J-0401/history",
    "/jobs/J-0401/policy",
    "/jobs/J-0401/parts/new",
    "/jobs/J-0403/supply",
    "/jobs/J-0401/prove",
]


@pytest.fixture
def job(database: Database, estate: Design) -> str:
    return DesignStore(database).open_job(BUILT_IN, "Browser", "", "Browser", estate)


def test_rewiring_the_coils_moves_everything(page: Page, job: str) -> None:
    def supply() -> tuple[str, ...]:
        page.goto(f"/jobs/{job}/supply")
        cells = page.locator(".pick tr.sel th, .pick tr.sel td").all_inner_texts()
        current = page.locator(".facts-line dd").first.inner_text()
        return (cells[0], cells[1], cells[3], cells[5], current)  # wire, lost, at the amplifier, fuse, current

    def target() -> str:
        page.goto(f"/jobs/{job}/signal")
        return page.locator(".answer .fig").first.inner_text()

    before, volts = supply(), target()
    assert before[0] == "4 AWG"
    page.goto(f"/jobs/{job}/loads")
    expect(page.locator("h1")).to_have_text("2 Ω, 500 W")
    page.get_by_role("row", name="both coils in series").get_by_role("button", name="Wire it so").click()
    expect(page.locator("h1")).to_have_text("8 Ω, 155 W")
    moved = page.locator(".moved").inner_text()
    for words in (
        "Amplifier power at the wired load 500 W → 155 W",
        "Full-load current",
        "Power wire 4 AWG →",
        "Main fuse 60.0 A →",
        "Voltage at the amplifier",
        "A meter at the output must show",
    ):
        assert words in moved, words
    after, volts_after = supply(), target()
    assert all(a != b for a, b in zip(before, after, strict=True)), (before, after)
    assert volts != volts_after
    page.keyboard.press("u")
    expect(page.locator(".moved")).to_contain_text("155 W → 500 W")
    assert supply() == before
    page.keyboard.press("r")
    expect(page.locator(".moved")).to_be_visible()
    assert supply() == after


def keep(page: Page, label: str, value: str, basis: str = "Measured") -> None:
    """Enter a fact in the survey's table: the basis first, then the value."""
    row = page.locator(".facts tr").filter(has_text=label)
    if row.locator("[name=basis]").input_value() != {"Measured": "measured", "Assumed": "assumed"}[basis]:
        with page.expect_response(lambda r: "/fact" in r.url):
            row.locator("[name=basis]").select_option(label=basis)
    with page.expect_response(lambda r: "/fact" in r.url):
        field = row.locator("[name=value]")
        if field.evaluate("e => e.tagName") == "SELECT":
            field.select_option(label=value)
        else:
            field.fill(value)
            field.press("Tab")
    settled(page)


def go(page: Page, key: str) -> None:
    """Leave the field, then press a stage's key."""
    page.locator("h1").click()
    page.keyboard.press(key)


def test_a_new_car_from_intake_to_build_sheet(page: Page) -> None:
    """A car that is not in the demo data, wrong input included."""
    page.goto("/")
    page.get_by_role("link", name="Open a job").click()
    page.get_by_role("button", name="Open it and survey").click()
    expect(page.get_by_text("Who is it for?")).to_be_visible()
    for label, value in (
        ("Customer", "Quill Mordaunt"),
        ("What is the job", "Bass for the dog show"),
        ("Make", "Fallow"),
        ("Model", "Heron"),
        ("Budget, EUR", "650,00"),
    ):
        page.get_by_label(label, exact=True).fill(value)
    page.get_by_label("Body").select_option("estate")
    page.get_by_label("Hand of drive").select_option("left")
    page.get_by_label("more bass").check()
    page.get_by_label("must be reversible").check()
    page.get_by_role("button", name="Open it and survey").click()
    expect(page.locator("h1")).to_have_text("Measure first: factory system, Factory radio")
    expect(page).to_have_title(re.compile(r"Survey · J-\d+ · Ohmack"))  # swapped in, the window's title with it

    row = page.locator(".facts tr").filter(has_text="Body return")
    row.locator("[name=value]").fill("-2")
    row.locator("[name=value]").press("Tab")
    expect(page.locator("#sheet [role=alert]").first).to_contain_text("It must be 0 or more")
    expect(page.locator(".facts tr").filter(has_text="Body return").locator("[name=value]")).to_have_value("-2")
    keep(page, "Body return", "1,2")
    expect(page.locator(".facts tr").filter(has_text="Body return").locator("[name=value]")).to_have_value("1.2")
    keep(page, "Battery post, engine running", "14.1 V")
    keep(page, "Cold cranking amps", "620")
    keep(page, "Factory system", "plain radio")

    go(page, "2")
    expect(page.locator("h1")).to_have_text("Pick the first part")
    for name in (
        "Tessel M500",
        "Morrowick 10 D4",
        "Cooperage 28 closed",
        "Sprig LC2 active",
        "Radio plug adapter, 16 way",
        "Hob strip holder",
    ):
        select = page.get_by_label("From the catalogue")
        select.select_option(value=select.locator("option", has_text=name).first.get_attribute("value"))
        page.get_by_role("button", name="Add").click()
        expect(page.locator("#parts-title + table")).to_contain_text(name)
    expect(page.locator(".plate")).not_to_contain_text("Nothing planned")

    go(page, "3")
    expect(page.locator("h1")).to_have_text("2 Ω, 500 W")
    go(page, "4")
    expect(page.locator("h1")).to_contain_text("Set the gain for 30.00 V")
    page.get_by_label("Music past full power").fill("ten")
    page.get_by_label("Music past full power").press("Tab")
    expect(page.locator("#sheet [role=alert]").first).to_contain_text("cannot be read")
    page.get_by_label("Music past full power").fill("3")
    page.get_by_label("Music past full power").press("Tab")
    expect(page.locator(".moved")).to_contain_text("Input sensitivity to set")
    go(page, "5")
    expect(page.locator("h1")).to_contain_text("is enough")
    go(page, "1")
    expect(page.locator(".measure li").first).to_be_visible()
    for n in range(12):  # measure what matters until nothing is left open
        settled(page)  # what was kept is on the page; its headline may still be the one of before
        expect(page.locator("h1")).not_to_have_text("What the car has")  # the sweep has answered
        items = page.locator(".measure li:not(.none)")
        if not items.count():
            break
        first = items.first
        title = first.locator("h3").inner_text()
        if not n:
            first.get_by_role("button", name="Keep").click()  # nothing entered: nothing may be kept
            expect(page.locator("#sheet [role=alert]").first).to_contain_text("Enter the reading first")
        first = page.locator(".measure li").filter(has_text=title)
        field = first.locator("[name=value]:not([type=hidden])").first
        if "key states" in title:
            for state in (
                ("accessory", "on")
                if "switched" in title
                else ("asleep", "door open", "bus awake", "accessory", "on", "cranking")
            ):
                first.get_by_label(state, exact=True).check()
        elif field.evaluate("e => e.tagName") == "SELECT":
            field.select_option(
                label={
                    "Kind": "bare-metal stud",
                    "System voltage": "12 V",
                    "Outputs bridged (neither wire is ground)": "yes",
                }.get(title.split(",")[0], "no")
            )
        else:
            field.fill("5.1 m" if "Length" in title else (field.get_attribute("placeholder") or "").rstrip("?"))
        with page.expect_response(lambda r: "/fact" in r.url and r.status == 200):
            first.get_by_role("button", name="Keep").click()
    expect(page.locator("h1")).to_have_text("Nothing assumed that matters")
    go(page, "6")
    expect(page.locator(".build")).to_contain_text("Local codes, the maker's guide and licensed technicians come first")
    for words in ("Power", "Ground", "Remote turn-on", "Feed", "Signal tap", "Speaker"):
        expect(page.locator(".build-table").first).to_contain_text(words)
    expect(page.locator("#verdict")).to_contain_text("Ready to order")


def test_axe_is_content(page: Page) -> None:
    for n, view in enumerate(MAIN_VIEWS):  # by night every second one: between them they have every colour
        assert_accessible(page, view, by_night=n % 2 == 0)


def test_keys_focus_and_arrows(page: Page, job: str) -> None:
    page.goto(f"/jobs/{job}/plan")
    page.keyboard.press("?")
    expect(page.locator("#keys")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.locator("#keys")).to_be_hidden()
    theme = page.evaluate("document.documentElement.dataset.theme")
    page.keyboard.press("t")
    assert page.evaluate("document.documentElement.dataset.theme") != theme
    page.locator("#thing-amp").focus()
    before = page.locator("#thing-amp rect").nth(1).get_attribute("x")
    with page.expect_response(lambda r: "/move" in r.url):
        page.keyboard.press("ArrowLeft")
    expect(page.locator("#thing-amp rect").nth(1)).not_to_have_attribute("x", before or "")
    assert page.evaluate("document.activeElement.id") == "thing-amp"
    page.keyboard.press("Enter")
    expect(page.locator("#editor")).to_contain_text("Lowest permitted load")
    assert "show=parts/amp" in page.url


def test_dragging_a_part(page: Page, job: str, database: Database) -> None:
    page.goto(f"/jobs/{job}/plan")
    box = page.locator("#thing-converter").bounding_box()
    assert box
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 60, y + 30, steps=4)
    with page.expect_response(lambda r: "/move" in r.url):
        page.mouse.up()
    place = DesignStore(database).load(BUILT_IN, job).design.part("converter")
    assert place
    assert place.position
    assert place.position.x_m > 2.1
    assert place.position.y_m < 0.3


def test_a_gain_is_drawn_and_moved_by_keys(page: Page, job: str, database: Database) -> None:
    """The converter's level drawn down on the ladder, then half a decibel up by a key: the knob follows, the focus
    stays.
    """

    def kept() -> float | None:
        part = DesignStore(database).load(BUILT_IN, job).design.part("converter")
        assert part
        return getattr(part, "gain_kept_db", None)

    page.goto(f"/jobs/{job}/signal")
    handle = page.locator(".wide-only #gain-converter")
    box = handle.bounding_box()
    assert box
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x, y + 20, steps=4)
    with page.expect_response(lambda r: "/raise" in r.url):
        page.mouse.up()
    expect(page.locator("main")).to_contain_text("where it is kept")
    drawn = kept()
    assert drawn is not None
    page.locator(".wide-only #gain-converter").focus()
    with page.expect_response(lambda r: "/raise" in r.url):
        page.keyboard.press("ArrowUp")
    expect(page.locator(".wide-only #gain-converter")).to_be_focused()
    assert kept() == pytest.approx(drawn + 0.5, abs=0.011)
    assert_accessible(page, f"/jobs/{job}/signal")
    for view in (f"{job}/responses", "J-0426/responses", "J-0416/protection", "J-0416/drop", "J-0416/dip"):
        assert_accessible(page, f"/jobs/{view}")


def test_leads_are_laid_by_hand(page: Page, job: str, database: Database) -> None:
    """Drawn with the pointer, by keys, by the form: each time everything is judged again; and taken off again."""

    def wiring() -> str:
        design = DesignStore(database).load(BUILT_IN, job).design
        return next(link.wiring for link in design.links if link.kind == "speaker")

    def middle(terminal: str) -> tuple[float, float]:
        box = page.locator(f'.backs [data-terminal="{terminal}"]').bounding_box()
        assert box
        return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2

    page.goto(f"/jobs/{job}/loads")
    page.get_by_role("row", name="both coils in series").get_by_role("button", name="Wire it so").click()
    expect(page.locator(".sel")).to_contain_text("both coils in series")
    page.locator(".bench-leads summary").click()
    page.mouse.move(*middle("1+"))
    page.mouse.down()
    page.mouse.move(*middle("1-"), steps=4)
    with page.expect_response(lambda r: "/lead" in r.url):
        page.mouse.up()
    expect(page.locator(".docket")).to_contain_text("A lead joins both ends")
    assert wiring().endswith(",1+=1-)")
    page.locator('.backs [data-terminal="+"]').focus()
    page.keyboard.press("Enter")
    expect(page.locator('.backs [data-terminal="+"]')).to_have_attribute("aria-pressed", "true")
    page.locator('.backs [data-terminal="-"]').focus()
    with page.expect_response(lambda r: "/lead" in r.url):
        page.keyboard.press("Enter")
    expect(page.locator(".docket")).to_contain_text("A lead shorts")
    expect(page.locator("main")).to_contain_text("shorted")
    for ends in ("amplifier + to amplifier", "coil 1 + to"):
        page.get_by_role("button", name=re.compile(f"Take off the lead from .*{re.escape(ends)}")).last.click()
        expect(page.locator(".leads li")).to_have_count(4 if "amplifier" in ends else 3)
    page.locator("select[name=a]").select_option("1-")
    page.locator("select[name=b]").select_option("1-")
    page.get_by_role("button", name="Lay it").click()
    expect(page.locator(".lay-lead .problem")).to_contain_text("from one terminal to another")
    expect(page.locator("select[name=a]")).to_have_value("1-")
    page.get_by_role("button", name=re.compile("Reverse ")).click()
    expect(page.locator(".docket")).to_contain_text("reversed as a whole")
    assert_accessible(page, f"/jobs/{job}/loads")
    page.get_by_role("button", name="Let Ohmack wire it").click()
    expect(page.locator(".docket")).not_to_contain_text("reversed as a whole")
    assert wiring() == ""


def test_two_tabs(page: Page, job: str) -> None:
    other = page.context.new_page()
    for tab in (page, other):
        tab.goto(f"/jobs/{job}/signal")
    page.get_by_label("Test tone level").fill("-5")
    page.get_by_label("Test tone level").press("Tab")
    expect(page.locator(".moved")).to_contain_text("A meter at the output must show")
    other.get_by_label("Music past full power").fill("4")  # another field of a stale page: both stay, nobody is asked
    other.get_by_label("Music past full power").press("Tab")
    expect(other.locator(".moved")).to_contain_text("Input sensitivity to set")
    expect(other.get_by_label("Test tone level")).to_have_value("−5")
    page.get_by_label("Music past full power").fill("2")  # the very field the other tab changed: asked
    page.get_by_label("Music past full power").press("Tab")
    expect(page.locator(".conflict")).to_contain_text("Someone else changed this very thing first")
    expect(page.locator(".conflict")).to_contain_text("music may push past full power")
    expect(page.locator(".conflict .btn-main")).to_be_focused()
    page.get_by_role("button", name="Put mine on top").click()
    expect(page.get_by_label("Music past full power")).to_have_value("2")
    expect(page.get_by_label("Test tone level")).to_have_value("−5")
    other.close()


def test_typing_ahead_survives_the_swap(page: Page, job: str) -> None:
    page.goto(f"/jobs/{job}/signal")
    page.get_by_label("Test tone level").fill("-3")
    page.get_by_label("Test tone level").press("Tab")
    page.get_by_label("Test tone frequency").fill("45")  # typed while the answer is on its way
    expect(page.locator(".moved")).to_be_visible()
    expect(page.get_by_label("Test tone frequency")).to_have_value("45")
    assert page.evaluate("document.activeElement.id") == "f-policy-tone-hz"


def test_without_any_script(browser: Browser, base_url: str, job: str, session_token: str) -> None:
    context = browser.new_context(java_script_enabled=False, base_url=base_url)
    context.add_cookies([{"name": "ohmack", "value": session_token, "url": base_url}])
    page = context.new_page()
    page.goto(f"/jobs/{job}/signal")
    form = page.locator("form.entry").filter(has_text="Music past full power")
    form.locator("[name=value]").fill("5")
    form.get_by_role("button", name="Keep").click()
    expect(page.locator(".moved")).to_contain_text("Input sensitivity to set")
    page.locator("#thing-converter").click()
    expect(page.locator("#editor")).to_be_visible()
    page.get_by_role("button", name=re.compile("undo")).click()
    expect(page.locator("form.entry").filter(has_text="Music past full power").locator("[name=value]")).to_have_value(
        "0"
    )
    context.close()


def test_print_and_phone(page: Page) -> None:
    page.goto("/jobs/J-0401/build")
    page.emulate_media(media="print")
    expect(page.locator(".track")).to_be_hidden()
    expect(page.locator(".docket")).to_be_hidden()
    expect(page.locator(".law").first).to_be_visible()
    expect(page.locator(".wide-only .drawing")).to_be_visible()
    page.emulate_media(media="screen")
    page.set_viewport_size({"width": 390, "height": 844})
    for view in ("build", "survey", "supply", "plan"):
        page.goto(f"/jobs/J-0401/{view}")
        assert page.evaluate("document.documentElement.scrollWidth") <= 390, view


def test_the_database_goes_away_and_comes_back(
    page: Page, estate: Design, tmp_path_factory: pytest.TempPathFactory
) -> None:
    server = MariaDbServer(tmp_path_factory.mktemp("away"), quiet=True, fast=True)
    server.start()
    try:
        settings = DatabaseSettings("127.0.0.1", server.port, "ohmack", server.password)
        migrate(settings)
        job = DesignStore(Database(settings)).open_job(BUILT_IN, "Away", "", "Away", estate)
        token = SessionStore(Database(settings)).begin(BUILT_IN, 1, From())
        with serving(settings) as address:
            page.context.add_cookies([{"name": "ohmack", "value": token, "url": address}])
            page.goto(f"{address}/jobs/{job}/signal")
            port = server.port
            server.stop()
            page.get_by_label("Music past full power").fill("2.5")
            page.get_by_label("Music past full power").press("Tab")
            trouble = page.locator("#trouble")
            expect(trouble).to_contain_text("The database does not answer")
            expect(trouble.locator("[name=value]:visible")).to_have_value("2.5")
            expect(page.locator(".wide-only .drawing")).to_be_visible()  # the sheet is still there
            with page.expect_response(lambda r: r.status == 503):
                trouble.get_by_role("button", name="Try again").click()
            expect(trouble).to_contain_text("The database does not answer")
            server.start_on(port)
            trouble.get_by_role("button", name="Try again").click()
            expect(page.locator(".moved")).to_contain_text("Input sensitivity to set")
            expect(trouble).to_be_empty()
            expect(page.get_by_label("Music past full power")).to_have_value("2.5")
    finally:
        server.stop()


def test_measuring_on_the_phone(page: Page, database: Database) -> None:
    page.set_viewport_size({"width": 390, "height": 844})
    store = DesignStore(database)
    job = store.open_job(BUILT_IN, "Phone", "", "Phone", demo_design(1))
    page.goto(f"/jobs/{job}/survey")
    item = page.locator(".measure li").filter(has_text="Body return")
    item.locator("[name=value]").fill("nine")
    item.get_by_role("button", name="Keep").click()
    expect(page.locator("#sheet [role=alert]").first).to_contain_text("cannot be read")
    expect(page.locator(".measure li").filter(has_text="Body return").locator("[name=value]")).to_have_value("nine")
    box = page.locator(".measure button").first.bounding_box()
    assert box
    assert box["height"] >= 44
    item = page.locator(".measure li").filter(has_text="Body return")
    item.locator("[name=value]").fill("1,1 mΩ")
    item.get_by_role("button", name="Keep").click()
    expect(page.locator(".measure li").filter(has_text="Factory system")).to_be_visible()
    expect(page.locator(".measure li").filter(has_text="Body return")).to_have_count(0)
    fact = store.load(BUILT_IN, job).design.vehicle.supply.body_return_ohm
    assert (fact.value, fact.basis.value, fact.low) == (0.0011, "measured", None)
    assert re.fullmatch(r"\d{4}-\d\d-\d\d", fact.when)


def test_a_measuring_round_survives_a_dropped_connection(page: Page, database: Database) -> None:
    page.set_viewport_size({"width": 390, "height": 844})
    store = DesignStore(database)
    job = store.open_job(BUILT_IN, "Round", "", "Round", demo_design(1))
    page.goto(f"/jobs/{job}/survey")
    page.get_by_role("link", name="Measuring round, one at a time").click()
    expect(page.locator("h1")).to_contain_text("Factory system")
    assert axe_findings(page) == []
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    page.get_by_role("link", name="Cannot do now").click()
    expect(page.locator("h1")).to_contain_text("Body return")
    page.locator("#round-value").fill("lots")
    page.get_by_role("button", name="Keep and next").click()
    expect(page.locator(".round .problem")).to_contain_text("cannot be read")
    expect(page.locator("#round-value")).to_have_value("lots")
    page.locator("#round-value").fill("3")
    page.context.set_offline(True)
    page.get_by_role("button", name="Keep and next").click()
    expect(page.locator("#trouble")).to_contain_text("1 reading kept on this device (Body return")
    assert store.load(BUILT_IN, job).design.vehicle.supply.body_return_ohm.basis.value == "assumed"
    page.context.set_offline(False)
    expect(page.locator("#trouble")).to_be_empty(timeout=15000)
    expect(page.locator("h1")).not_to_contain_text("Body return")
    fact = store.load(BUILT_IN, job).design.vehicle.supply.body_return_ohm
    assert (fact.value, fact.basis.value) == (0.003, "measured")
    page.set_viewport_size({"width": 1280, "height": 800})
    page.goto(f"/jobs/{job}/survey?show=vehicle/supply/body_return_ohm")
    expect(page.locator(".history")).to_contain_text("1.50 mΩ (assumed) → 3.00 mΩ (measured)")
    expect(page.locator(".history")).to_contain_text("voltage at the amplifier")
