"""The harness in Debian's Chromium: a hunt to a full map on a phone, a contradiction mended, a joint chosen, a pin
read.
"""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from browser.conftest import assert_accessible
from ohmack.core.document.design import Intake
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.policy import Policy
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.planning.harness import new_connector
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.store.context import BUILT_IN
from ohmack.store.database import Database
from ohmack.store.designs import DesignStore

VIEWS = [
    "/jobs/J-0401/harness",
    "/jobs/J-0411/harness?show=vehicle/connectors/radio-plug/cavities/c2",
    "/jobs/J-0407/joints",
    "/jobs/J-0408/finder",
    "/jobs/J-0402/finder",
]


@pytest.mark.parametrize("view", VIEWS)
def test_the_harness_sheets_are_accessible(page: Page, view: str) -> None:
    assert_accessible(page, view)


def block_car(database: Database) -> str:
    design = new_design("Block", new_vehicle("Oxbow", "Teal", 2012, Body.HATCH, Hand.RIGHT), Intake(), Policy())
    design = apply_edits(design, new_connector(design, "Roof block", 2, 4, keyway="none"))
    path = f"vehicle/connectors/{design.vehicle.connectors[0].id}/cavities"
    hues = ("white", "grey", "green", "purple")
    design = apply_edits(design, [Edit(path=f"{path}/c{n}/base", value=hues[(n - 1) % 4]) for n in range(1, 9)])
    return DesignStore(database).open_job(BUILT_IN, "Sunniva Pike", "", "Block", design)


# The car as it really is: wire number to speaker and sign.
TRUTH = {
    1: ("Front left door", True),
    5: ("Front left door", False),
    2: ("Rear right door", False),
    6: ("Rear right door", True),
    3: ("Rear left door", True),
    7: ("Rear left door", False),
    4: ("Front right door", False),
    8: ("Front right door", True),
}


def test_a_hunt_on_the_phone_to_a_full_map(page: Page, database: Database) -> None:
    job = block_car(database)
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(f"/jobs/{job}/finder")
    page.get_by_role("button", name="Begin the hunt").click()
    expect(page.locator("h1")).to_have_text("0 of 4 pairs certain")
    for done in range(30):
        if page.get_by_role("heading", name="Every pair has its speaker").count():
            break
        asked = page.locator("#now-title").inner_text()
        wires = [int(n) for n in re.findall(r"\b([1-8])\b(?= (?:white|grey|green|purple))", asked)]
        (one, plus), (other, _) = TRUTH[wires[0]], TRUTH[wires[1]]
        if asked.startswith("Read ohms"):
            if one == other:
                page.get_by_role("textbox", name="Ohms").fill("3.6")
                page.get_by_role("button", name="Keep and next").click()
            else:
                page.get_by_role("button", name="Open", exact=True).click()
        elif asked.startswith("Play on"):
            page.get_by_role("button", name=one if one == other else "None of them", exact=True).click()
        else:
            page.get_by_role(
                "button",
                name="Nothing moves" if one != other else "Cone moves out" if plus else "Cone moves in",
                exact=True,
            ).click()
        expect(page.locator(".readings li")).to_have_count(done + 1)
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    page.get_by_role("button", name="4 pairs into the pin map").click()
    expect(page.locator("h1")).to_have_text("8 of 8 wires measured")
    for number, (speaker, plus) in TRUTH.items():
        row = page.locator(".pin-map tbody tr").nth(number - 1)
        expect(row).to_contain_text(f"{speaker.removesuffix(' door')} {'+' if plus else '−'}")


def test_a_contradiction_is_named_and_mended(page: Page, database: Database) -> None:
    job = block_car(database)
    page.goto(f"/jobs/{job}/finder")
    page.get_by_role("button", name="Begin the hunt").click()
    page.get_by_role("textbox", name="Ohms").fill("banana")
    page.get_by_role("button", name="Keep and next").click()
    expect(page.locator(".hunt-form .problem")).to_contain_text("banana")
    expect(page.get_by_role("textbox", name="Ohms")).to_have_value("banana")
    page.get_by_role("textbox", name="Ohms").fill("30")  # no four ohm speaker reads that
    page.get_by_role("button", name="Keep and next").click()
    expect(page.locator("#now-title")).to_have_text("These readings cannot all be true")
    expect(page.locator(".explained")).to_contain_text("100 % One reading is wrong")
    page.locator(".explained button").click()
    expect(page.locator("#now-title")).to_contain_text("Read ohms")
    expect(page.locator(".readings li.withdrawn")).to_have_count(1)


def test_a_pin_is_read_and_a_joint_is_chosen(page: Page) -> None:
    page.goto("/jobs/J-0407/harness")
    expect(page.locator("h1")).to_have_text("4 of 12 wires measured")
    row = page.locator(".pin-map tbody tr").nth(2)
    for what, value in (("volts, key off", "0"), ("volts, accessory", "0.1"), ("volts, lights on", "9,6")):
        row.get_by_label(f"Cavity 3, {what}").fill(value)
    row.get_by_role("button", name="Keep").click()
    expect(page.locator("h1")).to_have_text("5 of 12 wires measured")
    page.locator(".face a").filter(has_text="Cavity 7").first.click()
    expect(page.locator("#editor-title")).to_have_text("Cavity 7")
    page.get_by_role("link", name="Joints", exact=True).click()
    expect(page.locator(".joints")).to_be_visible()
    before = page.locator("h1").inner_text()
    page.locator(".joints tbody tr").first.locator("select").select_option("solder and heat-shrink")
    expect(page.locator("h1")).not_to_have_text(before)
    expect(page.locator(".joints tbody tr").first).to_contain_text("heat-shrink")
    page.keyboard.press("u")
    expect(page.locator("h1")).to_have_text(before)


def test_a_reading_of_the_hunt_survives_a_dropped_connection(page: Page, database: Database) -> None:
    job = block_car(database)
    page.goto(f"/jobs/{job}/finder")
    page.get_by_role("button", name="Begin the hunt").click()
    expect(page.locator("h1")).to_have_text("0 of 4 pairs certain")
    page.context.set_offline(True)
    page.get_by_role("button", name="Open", exact=True).click()  # the button pressed is part of the reading
    expect(page.locator("#trouble")).to_contain_text("1 reading kept on this device")
    page.context.set_offline(False)
    expect(page.locator(".readings li")).to_have_count(1, timeout=12000)
    expect(page.locator(".readings li")).to_contain_text("open")
    expect(page.locator("#trouble")).to_be_empty()
