"""One database, two shops: neither sees, changes or counts what is the other's, and every revision knows its person."""

from __future__ import annotations

import inspect
from datetime import datetime

import pytest

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.policy import Policy
from ohmack.formats.photo import Photo
from ohmack.store.bundles import BundleStore
from ohmack.store.cars import CarStore
from ohmack.store.context import BUILT_IN, Context
from ohmack.store.customer_links import CustomerLinkStore
from ohmack.store.database import Conflict, Database, NotFound
from ohmack.store.designs import DesignStore
from ohmack.store.instruments import InstrumentStore
from ohmack.store.packs import PackStore
from ohmack.store.photos import PhotoStore
from ohmack.store.shop import PART, ShopStore
from ohmack.store.summaries import Summary, SummaryStore
from ohmack.store.templates import TemplateStore
from ohmack.store.work import WorkStore

STORES = (DesignStore, ShopStore, TemplateStore, PhotoStore, SummaryStore, WorkStore)
BESIDES = (BundleStore, CarStore, CustomerLinkStore, InstrumentStore, PackStore)
BY_TOKEN = "opened"  # who holds a link's token is let in by it alone


@pytest.fixture(scope="module")
def other(database: Database) -> Context:
    """A second shop with one person."""

    def work(connection: object) -> int:
        with connection.cursor() as cursor:  # type: ignore[attr-defined]
            cursor.execute("INSERT INTO shop (name, policy) VALUES ('Second shop', '{}')")
            return int(cursor.lastrowid)

    shop_id = database.run(work)
    return ShopStore(database).add_person(Context(shop_id, 0), "Ruth")


@pytest.mark.parametrize("store", [*STORES, *BESIDES])
def test_every_repository_function_takes_a_context_first(store: type) -> None:
    for name, function in inspect.getmembers(store, inspect.isfunction):
        if not name.startswith("_") and name != BY_TOKEN:
            assert list(inspect.signature(function).parameters)[:2] == ["self", "context"], f"{store.__name__}.{name}"


def test_neither_shop_sees_the_others_work(database: Database, other: Context, estate: Design) -> None:
    designs, shop, templates, photos, summaries, work = (store(database) for store in STORES)
    number = designs.open_job(BUILT_IN, "First shop's customer", "555 1", "Ours", estate)
    ours = designs.load(BUILT_IN, number)
    marks = {"id": "m", "step": "gains", "kind": "gains", "done": True, "minutes": 31.25}
    booking = {"bay": 2, "starts": "2031-05-05T09:00"}
    timed = apply_edits(
        estate, [Edit(op="add", path="work/marks", value=marks), Edit(path="work/booking", value=booking)]
    )
    designs.save(BUILT_IN, ours.design_id, ours.version, timed, "timed and booked")
    ours, span = designs.load(BUILT_IN, number), (datetime(2031, 5, 1), datetime(2031, 6, 1))
    assert 31.25 in [t.minutes for t in work.times(BUILT_IN)]
    assert work.booked(BUILT_IN, *span) == [number]
    assert (work.times(other), work.booked(other, *span)) == ([], [])
    part = shop.add_part(
        BUILT_IN,
        PART.validate_python({"id": "x", "kind": "wire", "name": "Our reel", "wire_size": "4 AWG", "on_reel_m": 5}),
    )
    kept = templates.add(BUILT_IN, estate.vehicle, number)
    photo = photos.add(BUILT_IN, number, "vehicle/radio", Photo("plug.jpg", 2, 2, b"x", b"y"))
    summary = Summary("ready", "Ready", "", 0, 0, True, "<svg/>")
    assert designs.list_jobs(other, "First shop").total == designs.count_jobs(other) == 0
    assert (designs.options(other, number), designs.history(other, ours.design_id)) == ([], [])
    assert (photos.list(other, number), templates.list(other), shop.parts(other), summaries.lacking(other, 10)) == (
        [],
        [],
        [],
        [],
    )
    for ask in (
        lambda: designs.load(other, number), lambda: designs.revision(other, ours.design_id, 1),
        lambda: designs.where_it_stands(other, number),
        lambda: shop.part(other, part), lambda: shop.record(other, part), lambda: templates.load(other, kept),
        lambda: photos.pixels(other, number, photo, True),
        lambda: photos.add(other, number, "vehicle/radio", Photo("plug.jpg", 2, 2, b"x", b"y")),
    ):  # fmt: skip
        with pytest.raises(NotFound):
            ask()
    changed = apply_edits(estate, [Edit(path="title", value="Theirs")])
    for act in (
        lambda: designs.save(other, ours.design_id, ours.version, changed, "not ours"),
        lambda: designs.step(other, ours.design_id, ours.version, False),
        lambda: designs.rename_customer(other, number, ours.customer_version, "Theirs", ""),
        lambda: shop.put_away(other, part, 1),
        lambda: shop.change_part(other, part, 1, shop.part(BUILT_IN, part)),
    ):  # fmt: skip
        with pytest.raises(Conflict):
            act()
    with pytest.raises(NotFound):
        designs.archive(other, number, True)
    photos.put_away(other, number, photo, True)
    summaries.put(other, ours.design_id, 1, summary)
    after = designs.load(BUILT_IN, number)
    assert after == ours
    assert not photos.list(BUILT_IN, number)[0].away
    assert designs.list_jobs(BUILT_IN, number).rows[0].summary is None


def test_each_shop_has_its_own_policy_and_its_own_customers(database: Database, other: Context, estate: Design) -> None:
    shop, designs = ShopStore(database), DesignStore(database)
    mine, theirs = shop.load(BUILT_IN), shop.load(other)
    assert theirs.name == "Second shop"
    shop.save_policy(other, theirs.version, Policy(drop_limit_v=0.4))
    assert shop.load(other).policy.drop_limit_v == 0.4
    assert shop.load(BUILT_IN) == mine
    one, two = (designs.open_job(who, "Clara", "555 9", "t", estate) for who in (BUILT_IN, other))
    designs.rename_customer(other, two, 1, "Clara Two", "555 9")
    assert designs.load(BUILT_IN, one).customer == "Clara"


def test_a_revision_knows_its_person(database: Database, other: Context, estate: Design) -> None:
    shop, designs = ShopStore(database), DesignStore(database)
    second = shop.add_person(other, "Sam")
    number = designs.open_job(other, "Ida", "", "t", estate)
    record = designs.load(other, number)
    designs.save(
        second, record.design_id, record.version, apply_edits(estate, [Edit(path="title", value="n")]), "named"
    )
    assert [(r.reason, r.author) for r in designs.history(other, record.design_id)] == [
        ("named", "Sam"),
        ("job opened", "Ruth"),
    ]
