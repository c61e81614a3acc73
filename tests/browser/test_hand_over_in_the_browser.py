"""Hand over in Debian's Chromium: from a proved job to a drawn signature, and the customer's link on a phone without
scripts.
"""

from __future__ import annotations

import re
from datetime import date, timedelta

import pytest
from playwright.sync_api import Browser, Page, expect

from browser.conftest import assert_accessible, settled
from ohmack.demo.jobs import demo_design
from ohmack.store.context import BUILT_IN
from ohmack.store.database import Database
from ohmack.store.designs import DesignStore
from proving import proved

VIEWS = ["/jobs/J-0417/handover", "/jobs/J-0416/handover", "/jobs/J-0417/promises", "/jobs/J-0417/pack",
         "/jobs/J-0416/leaflet", "/jobs/J-0431/car"]  # fmt: skip


@pytest.mark.parametrize("view", VIEWS)
def test_the_hand_over_sheets_are_accessible(page: Page, view: str) -> None:
    assert_accessible(page, view, by_night=view.endswith(("pack", "handover")))


def soak(page: Page, days: list[str]) -> None:
    """Every soak check on a phone, one after the other, sleep on several days."""
    for n in range(30):
        settled(page)
        if page.locator("h1").inner_text().startswith(("May go", "Soaked")):
            return
        kept = page.locator("[data-version]").first
        version = kept.get_attribute("data-version") or ""
        page.get_by_label("When").fill(f"{days[n % len(days)]}T07:{n:02d}")
        field = page.locator(".check-now input[name=value]")
        if field.count():
            unit = page.locator(".check-unit").inner_text()
            field.fill({"V": "12,6", "°C": "45", "mA": "12"}[unit])
            page.get_by_role("button", name="Keep it").click()
        else:
            page.get_by_role("button", name="Good", exact=True).click()
        expect(kept).not_to_have_attribute("data-version", version)
    raise AssertionError(page.locator("h1").inner_text())


def test_from_a_proved_job_to_a_signed_hand_over(page: Page, database: Database, browser: Browser) -> None:
    """Soaked on a phone, heard, signed with a pen, the pack made and fetched, the link opened without scripts."""
    job = DesignStore(database).open_job(BUILT_IN, "Ada Lark", "", "Signed", proved(demo_design(0)))
    yesterday, today = (date.today() - timedelta(days=1)).isoformat(), date.today().isoformat()
    before = (date.today() - timedelta(days=2)).isoformat()
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(f"/jobs/{job}/handover")
    expect(page.locator("h1")).to_contain_text("Hold: ")
    soak(page, [before, yesterday])
    expect(page.locator(".plate")).to_contain_text("Soaked")
    assert_accessible(page, page.url)
    page.set_viewport_size({"width": 1280, "height": 800})
    page.get_by_role("link", name="Heard and agreed").click()
    settled(page)
    for n in range(page.locator(".promises > li").count()):
        row = page.locator(".promises > li").nth(n)
        row.get_by_role("button", name=re.compile("^As wished")).click()
        expect(page.locator(".promises > li").nth(n)).to_contain_text("The customer says: as wished")
    expect(page.locator("h1")).to_have_text("Everything promised is settled")
    page.get_by_role("link", name="Job pack", exact=True).click()
    settled(page)
    pad = page.locator("[data-sign] svg")
    pad.scroll_into_view_if_needed()
    box = pad.bounding_box()
    assert box is not None
    page.mouse.move(box["x"] + 30, box["y"] + 40)
    page.mouse.down()
    for n in range(1, 20):
        page.mouse.move(box["x"] + 30 + 8 * n, box["y"] + 40 + (n % 5) * 8)
    page.mouse.up()
    assert page.locator("[name=drawn]").input_value().count(",") > 10
    page.get_by_role("button", name=re.compile("^Sign for revision")).click()
    expect(page.locator("h1")).to_have_text("Signed for by Ada Lark")
    (signature,) = DesignStore(database).load(BUILT_IN, job).design.handover.signatures
    assert len(signature.drawn) == 1
    expect(page.locator(".signed svg.signature path")).to_have_count(1)
    page.get_by_role("button", name=re.compile("^Make the pack")).click()
    expect(page.locator("progress")).to_be_visible()
    fetch = page.get_by_role("link", name=re.compile("^Fetch the pack"))
    expect(fetch).to_be_visible(timeout=90_000)
    with page.expect_download() as download:
        fetch.click()
    assert download.value.suggested_filename.startswith(job)
    page.get_by_role("link", name="For the customer", exact=True).click()
    settled(page)
    page.get_by_label("Ends on").fill(today)
    page.get_by_role("button", name=re.compile("^Make a link")).click()
    expect(page.locator(".link-made svg")).to_be_visible()
    where = page.get_by_label("The link", exact=True).input_value()
    phone = browser.new_context(java_script_enabled=False, viewport={"width": 390, "height": 844})
    customer = phone.new_page()
    customer.goto(where)
    expect(customer.locator("h2").first).to_have_text(demo_design(0).vehicle.title)
    expect(customer.locator("svg")).to_have_count(3)
    assert customer.evaluate("document.documentElement.scrollWidth") <= 390
    phone.close()
    assert_accessible(page, where)
    page.goto(f"/jobs/{job}/leaflet")
    expect(page.get_by_label("The link", exact=True)).to_have_count(0)
    page.get_by_role("button", name=re.compile("^Withdraw the link")).click()
    expect(page.locator("h1 + p")).to_have_text("no link opens it")
    page.goto(where)
    expect(page.locator("h1")).to_have_text("Nothing here")
