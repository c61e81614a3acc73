"""Signing in with a keyboard and on a phone, what is found while one types, the pages of people in a browser."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Browser, Page, expect

from browser.conftest import assert_accessible, settled
from conftest import PASSWORD
from ohmack.store.context import BUILT_IN
from ohmack.store.database import Database
from ohmack.store.designs import DesignStore
from ohmack.store.people import PeopleStore
from ohmack.store.roles import Role
from ohmack.store.sessions import From, SessionStore

VIEWS = ["/", "/customers", "/customers/1", "/search?words=bass", "/people", "/audit", "/account", "/jobs/J-0401/phone"]


@pytest.mark.parametrize("view", VIEWS)
def test_the_pages_of_the_shop_are_accessible(page: Page, view: str) -> None:
    assert_accessible(page, view, by_night=view in ("/", "/people"))


def test_sign_in_by_keyboard_and_search(browser: Browser, base_url: str) -> None:
    """From a job's address to the job with the keyboard alone; then three letters to another one, and out again."""
    context = browser.new_context(base_url=base_url, reduced_motion="reduce")
    page = context.new_page()
    page.goto("/jobs/J-0401/supply")
    expect(page).to_have_title(re.compile("Sign in"))
    assert_accessible(page, page.url)
    expect(page.get_by_label("Sign-in name")).to_be_focused()
    page.keyboard.type("tester")
    page.keyboard.press("Tab")
    page.keyboard.type(PASSWORD)
    field = page.get_by_label("Password")
    expect(field).to_have_attribute("type", "password")
    expect(field).to_have_attribute("autocomplete", "current-password")
    page.get_by_label("show it").check()
    expect(field).to_have_attribute("type", "text")
    field.press("Enter")
    expect(page).to_have_url(re.compile(r"/jobs/J-0401/supply$"))
    expect(page.locator(".who")).to_have_text("Tester")
    page.goto("/")
    page.keyboard.press("/")
    page.keyboard.type("0401 lant")
    expect(page.locator("#found a").first).to_contain_text("J-0401")
    page.keyboard.press("Tab")
    page.keyboard.press("Enter")
    expect(page).to_have_url(re.compile(r"/jobs/J-0401$"))
    page.goto("/account")
    page.get_by_role("button", name="Sign out", exact=True).click()
    expect(page).to_have_title(re.compile("Sign in"))
    page.go_back()
    page.reload()
    expect(page).to_have_title(re.compile("Sign in"))
    context.close()


def test_a_session_that_ends_while_one_types_loses_nothing(
    browser: Browser, base_url: str, database: Database, session_token: str
) -> None:
    """On a phone: signed out at the desk in the middle of an entry, in again, sent again."""
    job = DesignStore(database).open_job(BUILT_IN, "Interrupted", "", "Interrupted",
                                         DesignStore(database).load(BUILT_IN, "J-0401").design)  # fmt: skip
    mine = SessionStore(database).begin(BUILT_IN, 1, From())
    context = browser.new_context(base_url=base_url, viewport={"width": 390, "height": 844}, reduced_motion="reduce")
    context.add_cookies([{"name": "ohmack", "value": mine, "url": base_url}])
    page = context.new_page()
    page.goto(f"/jobs/{job}/signal")
    SessionStore(database).end(mine)
    field = page.get_by_label("Music past full power")
    field.fill("4.5")
    field.press("Tab")
    expect(page.get_by_role("alert").filter(has_text="what you sent is kept")).to_be_visible()
    page.get_by_label("Sign-in name").fill("tester")
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Sign in").click()
    expect(page.get_by_role("heading", name="Send it now?")).to_be_visible()
    expect(page.locator(".kept")).to_contain_text("4.5")
    page.get_by_role("button", name="Send it").click()
    expect(page).to_have_url(re.compile(rf"/jobs/{job}/signal"))
    assert DesignStore(database).load(BUILT_IN, job).design.policy.overlap_db == 4.5
    context.close()


def test_a_guest_is_told_beside_the_page_and_nothing_moves(browser: Browser, base_url: str, database: Database) -> None:
    guest = PeopleStore(database).ready_made(BUILT_IN, "Gus", "gus-in-the-browser", Role.GUEST, PASSWORD)
    token = SessionStore(database).begin(guest, 1, From())
    context = browser.new_context(base_url=base_url, reduced_motion="reduce")
    context.add_cookies([{"name": "ohmack", "value": token, "url": base_url}])
    page = context.new_page()
    page.goto("/jobs/J-0401/signal")
    before = DesignStore(database).load(BUILT_IN, "J-0401").version
    field = page.get_by_label("Music past full power")
    field.fill("4.5")
    field.press("Tab")
    expect(page.locator("#trouble")).to_contain_text("You are signed in as guest")
    settled(page)
    expect(page.get_by_label("Music past full power")).to_have_value("4.5")
    assert DesignStore(database).load(BUILT_IN, "J-0401").version == before
    context.close()
