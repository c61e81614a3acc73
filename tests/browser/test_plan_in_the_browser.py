"""The plan in Debian's Chromium: from a surveyed ring car to a chosen way, its functions kept, two options compared."""

from __future__ import annotations

import pytest
from playwright.sync_api import Page, expect

from browser.conftest import assert_accessible, axe_findings, settled
from ohmack.core.document.design import Intake, Keep, Wish
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.factory import Tier
from ohmack.core.document.policy import Policy
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.factory.usual_modules import modules_for
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.demo.jobs import demo_design
from ohmack.store.context import BUILT_IN
from ohmack.store.database import Database
from ohmack.store.designs import DesignStore

VIEWS = ["/jobs/J-0403/functions", "/jobs/J-0412/functions?show=vehicle/functions/fn-chimes", "/jobs/J-0405/strategies",
         "/jobs/J-0401-B/options", "/jobs/J-0410/supply", "/jobs/J-0404/find?kind=driver",
         "/jobs/J-0406/factory"]  # fmt: skip


@pytest.mark.parametrize("view", VIEWS)
def test_the_plan_sheets_are_accessible(page: Page, view: str) -> None:
    assert_accessible(page, view)


def ring_car(database: Database) -> str:
    intake = Intake(wishes=(Wish.BASS, Wish.CLARITY), must_keep=(Keep.CHIMES, Keep.FADE), budget=900, reversible=True)
    design = new_design("Ring", new_vehicle("Oxbow", "Dunlin", 2019, Body.ESTATE, Hand.LEFT), intake, Policy())
    tier = {"value": Tier.RING.value, "basis": "measured", "how": "by eye"}
    design = apply_edits(design, [Edit(path="vehicle/radio/tier", value=tier)])
    design = apply_edits(design, modules_for(design, Tier.RING))
    return DesignStore(database).open_job(BUILT_IN, "Sable Okonjo", "", "Ring", design)


def test_from_the_survey_to_a_chosen_option(page: Page, database: Database) -> None:
    job = ring_car(database)
    page.goto(f"/jobs/{job}/plan")
    page.get_by_role("link", name="Functions", exact=True).click()
    page.get_by_role("button", name="Put in what such a car usually has").click()
    expect(page.locator("h1")).to_have_text("Nothing is touched yet")
    # Take the display out: what hangs on it dies, the docket says so, one press brings it back.
    page.get_by_label("What happens to Display unit").select_option("taken out")
    expect(page.locator("h1")).to_contain_text("Would fall silent")
    expect(page.locator(".docket")).to_contain_text("Chimes would be lost")
    page.locator(".ledger").get_by_role("link", name="chimes").click()
    expect(page.locator("#editor")).to_be_visible()
    expect(page.locator(".wide-only .f-broken")).to_be_visible()
    page.locator(".ledger tr").filter(has_text="start interlock").get_by_role(
        "button", name="its board moved and hidden"
    ).click()
    expect(page.locator("h1")).to_have_text("Nothing the car does is lost")
    page.get_by_label("What happens to Display unit").select_option("left alone")
    expect(page.locator("h1")).to_have_text("Nothing is touched yet")

    page.get_by_role("link", name="Strategies", exact=True).click()
    expect(page.locator("h1")).to_contain_text("Best here:")
    first = page.locator(".compare tbody tr th a").first.inner_text()
    # Only money counts: the ranking follows, and goes back when asked.
    for name in ("sound", "functions", "reversible", "time", "robust"):
        with page.expect_response(lambda r: "/weights" in r.url):
            page.locator(f"#w-{name}").fill("0")
        settled(page)
    by_cost = [int(t) for t in page.locator(".compare tbody tr td[data-label=Cost]").all_inner_texts()]
    marks = [int(t) for t in page.locator(".compare tbody tr td[data-label=Mark]").all_inner_texts()]
    assert marks == by_cost
    with page.expect_response(lambda r: "/weights" in r.url):
        page.get_by_role("button", name="back to what the front page suggests").click()
    settled(page)
    expect(page.locator(".compare tbody tr th a").first).to_have_text(first)
    page.locator(".way-card.best").get_by_role("button", name="Go this way").click()
    expect(page.locator(".way-card.best .state").filter(has_text="chosen")).to_be_visible()
    expect(page.locator(".moved")).to_be_visible()

    page.get_by_role("link", name="Options", exact=True).click()
    expect(page.locator("h1")).to_have_text("One option so far")
    page.get_by_role("button", name="Copy this option").click()
    expect(page.locator("h1")).to_have_text("2 options side by side")
    expect(page).to_have_url(f"{page.url.split('/jobs/')[0]}/jobs/{job}-B/options")
    page.get_by_role("link", name="Strategies", exact=True).click()
    page.locator(".way-card").filter(has_text="Powered subwoofer").get_by_role("button", name="Go this way").click()
    expect(page.locator(".way-card.chosen-way")).to_contain_text("Powered subwoofer")
    page.get_by_role("link", name="Options", exact=True).click()
    expect(page.locator(".options-table tr.differs").first).to_contain_text("powered subwoofer")
    page.get_by_label("What it is called").fill("Small and quick")
    page.get_by_label("What it is called").press("Tab")
    expect(page.locator(".options-table thead")).to_contain_text("Small and quick")
    page.get_by_role("link", name="Option A").click()
    expect(page.locator(".options-table thead th.here")).to_contain_text("Option A")
    assert axe_findings(page) == []
    page.emulate_media(media="print")
    expect(page.locator(".options-table")).to_be_visible()
    expect(page.get_by_role("button", name="Copy this option")).to_be_hidden()


def test_the_phase_check_and_finding_a_part(page: Page, database: Database) -> None:
    job = DesignStore(database).open_job(BUILT_IN, "Phases", "", "Phases", demo_design(0))
    page.goto(f"/jobs/{job}/plan?show=parts/amp")
    page.get_by_label("Fitted").select_option("later")
    expect(page.locator(".prepare")).to_contain_text("for Tessel M500")
    expect(page.locator("#verdict")).not_to_contain_text("Ready")
    page.get_by_label("Fitted").select_option("now")
    expect(page.locator(".prepare")).to_have_count(0)
    page.get_by_role("link", name="Find a part that goes with this car").click()
    page.get_by_label("Kind", exact=True).select_option("converter")
    page.get_by_role("button", name="Try them on this car").click()
    expect(page.locator("h1")).to_contain_text("would go here")
    row = page.locator(".found tr").filter(has_text="Sprig LC1 pocket")
    expect(row).to_contain_text("into a converter that takes")
    row.get_by_role("button", name="Take it instead").click()
    expect(page.locator(".docket")).to_contain_text("into a converter that takes")
    page.keyboard.press("u")
    expect(page.locator(".docket")).not_to_contain_text("into a converter that takes")
