"""Search: what is found is what plain reading finds, in this shop only, whatever is typed."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from threading import Event, Timer
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.policy import Policy
from ohmack.store import search as module
from ohmack.store.context import Context
from ohmack.store.database import Database
from ohmack.store.designs import DesignStore
from ohmack.store.people import add_shop
from ohmack.store.search import Kind, SearchStore, index, words_of
from ohmack.store.shop import PART, ShopStore

TYPED = st.text("abé0_ -%'\"*+()~ß漢", min_size=0, max_size=9)
TITLES = (
    "alpha beta",
    "Alpha Béta 10",
    "gamma",
    "J-0401 beta's amp",
    "al be ga",
    "ß straße",
    "漢字 alpha",
    "a b c",
    "",
)


@pytest.fixture(scope="module")
def by(database: Database) -> Context:
    """A shop whose entries are known by heart."""
    made = add_shop(database, "Searching", Policy())

    def work(c: Any) -> None:
        for n, title in enumerate(TITLES, start=1):
            index(c, made, Kind.NOTE, n, (title, "", f"/{n}"), [title])

    database.run(work)
    return made


def read_plainly(text: str) -> list[int]:
    wanted = list(dict.fromkeys(words_of(text)))[: module.MOST_WORDS]
    found = [
        n for n, title in enumerate(TITLES, start=1)
        if wanted and all(any(w.startswith(t) for w in words_of(title)) for t in wanted)
    ]  # fmt: skip
    return found[::-1]


@settings(max_examples=120)
@given(TYPED)
def test_what_is_found_is_what_plain_reading_finds(database: Database, by: Context, text: str) -> None:
    assert [h.ref for h in SearchStore(database).find(by, text)] == read_plainly(text)


@pytest.mark.parametrize("text", ["al", "alpha", "a", "be al", "beta alpha", "gam", "10 alpha", "zz"])
def test_common_words_are_found_too(
    database: Database, by: Context, text: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Where everything that was typed is common, the newest entries are read, or full text asked."""
    monkeypatch.setattr(module, "COMMON", 0)
    assert [h.ref for h in SearchStore(database).find(by, text)] == read_plainly(text)
    monkeypatch.setattr(module, "DEEP", 2)
    assert [h.ref for h in SearchStore(database).find(by, text)] == read_plainly(text)


def test_two_who_enter_the_same_at_once_make_one_entry(database: Database) -> None:
    """As two views of a job nobody viewed before do: the second waits for the first, and its words count."""
    shop, begun, free = add_shop(database, "At once", Policy()), Event(), Event()

    def first(c: Any) -> None:
        index(c, shop, Kind.FINDING, 1, ("one", "", "/1"), ["alpha beta"])
        begun.set()
        assert free.wait(20)

    def second(c: Any) -> None:
        assert begun.wait(20)
        Timer(0.3, free.set).start()  # by then it stands at the first one's row
        index(c, shop, Kind.FINDING, 1, ("two", "", "/1"), ["beta gamma"])

    with ThreadPoolExecutor(2) as threads:
        for done in [threads.submit(database.run, work) for work in (first, second)]:
            done.result(30)
    search = SearchStore(database)
    found = {word: [hit.title for hit in search.find(shop, word)] for word in ("alpha", "beta", "gamma")}
    assert found == {"alpha": [], "beta": ["two"], "gamma": ["two"]}


def test_a_job_is_found_by_all_that_is_known_of_it(database: Database, estate: Design) -> None:
    by = add_shop(database, "Finding", Policy())
    designs, search, shop = DesignStore(database), SearchStore(database), ShopStore(database)
    number = designs.open_job(by, "Ysolde Kettering", "555 0912", "Bass behind the seat", estate)
    record = designs.load(by, number)
    asked = [Edit(path="intake/wishes_note", value="The kayak must fit beside it.")]
    designs.save(by, record.design_id, record.version, apply_edits(record.design, asked), "asked")
    part = shop.add_part(
        by,
        PART.validate_python({"id": "x", "kind": "wire", "name": "Tinned reel", "wire_size": "4 AWG", "on_reel_m": 5}),
    )
    search.enter_findings(by, number, ["The ground ring is loose"])
    for text, kind in (
        (number, Kind.JOB), (number.lower(), Kind.JOB), ("yso kett", Kind.CUSTOMER), ("0912", Kind.CUSTOMER),
        ("marren 2016", Kind.CAR), ("kayak", Kind.NOTE), ("tinned", Kind.PART), ("ring loose", Kind.FINDING),
        ("BEHIND bass", Kind.JOB), ("estate", Kind.CAR),
    ):  # fmt: skip
        assert kind in [h.kind for h in search.find(by, text)], text
        assert search.find(by, text, kind)
    assert search.find(by, "tinned")[0].address == f"/catalogue/{part}"
    assert search.find(by, "kayak bass") == [], "every word belongs to one thing"
    record = designs.load(by, number)
    designs.step(by, record.design_id, record.version, forward=False)
    assert search.find(by, "kayak") == [], "what was undone is not found"
    designs.rename_customer(by, number, record.customer_version, "Ysolde Marsh", "555 0912")
    assert search.find(by, "kettering") == []
    assert {h.kind for h in search.find(by, "ysolde marsh")} == {Kind.JOB, Kind.CUSTOMER, Kind.CAR}
    search.enter_findings(by, number, [])
    assert search.find(by, "ring loose") == []
    assert search.find(add_shop(database, "Nobody's", Policy()), "ysolde") == []
