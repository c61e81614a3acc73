"""Prove in Debian's Chromium: a whole proof at phone width on the bench, faults found by the proposals alone, readings
without a connection.
"""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from browser.conftest import assert_accessible, axe_findings, settled
from ohmack.core.document import Design
from ohmack.core.document.proof import Practice
from ohmack.core.evaluation.door import evaluate
from ohmack.demo.jobs import demo_design
from ohmack.instruments.practice import as_planned, hidden, symptoms_with
from ohmack.store.context import BUILT_IN
from ohmack.store.database import Database
from ohmack.store.designs import DesignStore
from proving import proved

VIEWS = ["/jobs/J-0416/prove", "/jobs/J-0416/prove?show=check:level/drop/amp", "/jobs/J-0416/readings",
         "/jobs/J-0416/fault", "/jobs/J-0417/prove", "/jobs/J-0401/practice", "/jobs/J-0417/fault"]  # fmt: skip


@pytest.mark.parametrize("view", VIEWS)
def test_the_prove_sheets_are_accessible(page: Page, view: str) -> None:
    assert_accessible(page, view, by_night=view.endswith("fault"))


def opened(database: Database, design: Design) -> str:
    return DesignStore(database).open_job(BUILT_IN, "Practice", "", "Practice", design)


def practice_car(seed: int, level: int, symptoms: bool = True) -> Design:
    planned = as_planned(demo_design(0))
    practice = Practice(seed=seed, level=level)
    said = symptoms_with(evaluate(planned).results, hidden(planned, practice)) if symptoms else frozenset()
    proof = planned.proof.model_copy(update={"practice": practice, "symptoms": tuple(sorted(said))})
    return planned.model_copy(update={"proof": proof})


def test_a_whole_proof_at_the_bench_on_a_phone(page: Page, database: Database) -> None:
    """Before the fuse and at the sound every check taken at the bench, what is off accepted by name, to the verdict;
    first power was read the day before.
    """
    job = opened(database, proved(practice_car(15, 1, symptoms=False), gates=(2,)))
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(f"/jobs/{job}/prove")
    for _ in range(90):
        settled(page)
        if page.locator("h1").inner_text().startswith("Done"):
            break
        take = page.get_by_role("button", name="Take it at the bench")
        kept = page.locator("[data-version]").first
        version = kept.get_attribute("data-version") or ""
        if "not as predicted" in page.locator(".check-place").inner_text() or not take.count():
            page.get_by_text("Cannot do, or stays as it is").click()
            page.get_by_label("Accepted by").fill("Odile")
            page.locator("#accept-why").fill("read twice, it stays so")
            page.get_by_role("button", name="Accept it by name").click()
        else:
            take.click()
        expect(kept).not_to_have_attribute("data-version", version)
    expect(page.locator("h1")).to_have_text(re.compile(r"^Done: \d+ of \d+ checks proved, \d+ accepted by name$"))
    expect(page.locator(".plate")).to_contain_text("Done")
    expect(page.locator(".plate")).to_contain_text("accepted")
    assert_accessible(page, page.url)


@pytest.mark.parametrize(("seed", "level"), [(2, 1), (5, 2), (11, 2)])
def test_a_hidden_fault_is_found_by_following_the_proposals(
    page: Page, database: Database, seed: int, level: int
) -> None:
    design = practice_car(seed, level)
    (there,) = hidden(as_planned(design), Practice(seed=seed, level=level))
    job = opened(database, design)
    page.goto(f"/jobs/{job}/fault")
    for _ in range(14):
        settled(page)
        said = page.locator("h1").inner_text()
        if said.startswith("Found") or said.startswith("Nothing left") or said.startswith("Nothing tells"):
            break
        before = page.locator(".readings li").count()
        page.get_by_role("button", name="Take it at the bench").click()
        expect(page.locator(".readings li")).to_have_count(before + 1)
    expect(page.locator("#now-title")).to_contain_text(there.words)
    again = page.locator("#read-again")
    for _ in range(again.count()):  # read once more where it hangs on one reading, it stays found
        again.locator("summary").first.click()
        assert axe_findings(page) == []
        again.get_by_role("button", name="Take it at the bench").click()
        expect(again).to_have_count(0)
        expect(page.locator("#now-title")).to_contain_text(there.words)
    page.get_by_role("button", name="It is mended: read again").click()
    expect(page.locator("h1")).to_have_text("What is wrong?")
    page.get_by_role("link", name="Practice", exact=True).click()
    expect(page.locator("h1")).to_contain_text("Found")
    expect(page.get_by_text(there.words)).to_be_visible()


def test_eight_readings_without_a_connection(page: Page, database: Database) -> None:
    """Ten minutes in a cellar: what is read is kept on the phone, one check after the other, and sent by itself."""
    job = opened(database, proved(as_planned(demo_design(0)), (1,)))
    begun = len(DesignStore(database).load(BUILT_IN, job).design.proof.readings)
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(f"/jobs/{job}/prove")
    settled(page)
    page.context.set_offline(True)
    for n in range(8):
        heading = page.locator(".check-now h2").first.inner_text()
        field = page.locator(".check-now input[name=value]")
        if field.count():
            field.fill("12.5")
            page.get_by_role("button", name="Keep and next").click()
        else:
            page.locator(".check-now").get_by_role("button", name="Good", exact=True).click()
        expect(page.locator(".check-place h2").first).not_to_have_text(heading)
        expect(page.locator("#trouble")).to_contain_text(f"{n + 1} reading")
    page.context.set_offline(False)
    expect(page.locator("#trouble")).to_be_empty()
    kept = DesignStore(database).load(BUILT_IN, job).design.proof.readings[begun:]
    assert len(kept) == 8
    assert len({r.check for r in kept}) == 8
