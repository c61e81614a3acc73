"""The store against a real MariaDB: revisions, conflicts, rollback, retry, loss of the server."""

from __future__ import annotations

import threading
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import pymysql
import pytest

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.demo.load import load_demo
from ohmack.launch.mariadb import free_port
from ohmack.store.context import BUILT_IN
from ohmack.store.database import Conflict, Database, DatabaseSettings, NotFound, StoreUnavailable
from ohmack.store.designs import DesignStore
from ohmack.store.shop import PART, ShopStore
from ohmack.store.summaries import Summary, SummaryStore


@pytest.fixture
def store(database: Database) -> DesignStore:
    return DesignStore(database)


@pytest.fixture
def number(store: DesignStore, estate: Design) -> str:
    return store.open_job(BUILT_IN, "Test customer", "1", "Test job", estate)


def priced(design: Design, price: float) -> Design:
    return apply_edits(design, [Edit(path="parts/amp/price", value=price)])


def test_undo_redo_and_branches(store: DesignStore, number: str) -> None:
    record = store.load(BUILT_IN, number)
    store.save(BUILT_IN, record.design_id, record.version, priced(record.design, 1.0), "one")
    record = store.load(BUILT_IN, number)
    store.save(BUILT_IN, record.design_id, record.version, priced(record.design, 2.0), "two")
    record = store.load(BUILT_IN, number)
    assert store.step(BUILT_IN, record.design_id, record.version, forward=False)
    record = store.load(BUILT_IN, number)
    assert next(p.price for p in record.design.parts if p.id == "amp") == 1.0
    assert record.child_number == 3
    assert store.step(BUILT_IN, record.design_id, record.version, forward=True)
    assert store.load(BUILT_IN, number).number == 3
    record = store.load(BUILT_IN, number)
    store.step(BUILT_IN, record.design_id, record.version, forward=False)
    record = store.load(BUILT_IN, number)
    store.save(BUILT_IN, record.design_id, record.version, priced(record.design, 9.0), "another way")
    record = store.load(BUILT_IN, number)
    assert (record.number, record.parent_number, record.child_number) == (4, 2, None)
    assert not store.step(BUILT_IN, record.design_id, record.version, forward=True)
    assert [r.reason for r in store.history(BUILT_IN, record.design_id)] == ["another way", "two", "one", "job opened"]
    assert next(p.price for p in store.revision(BUILT_IN, record.design_id, 3).parts if p.id == "amp") == 2.0


def test_two_people_one_design(store: DesignStore, number: str) -> None:
    mine, theirs = store.load(BUILT_IN, number), store.load(BUILT_IN, number)
    store.save(BUILT_IN, theirs.design_id, theirs.version, priced(theirs.design, 5.0), "theirs")
    with pytest.raises(Conflict):
        store.save(BUILT_IN, mine.design_id, mine.version, priced(mine.design, 6.0), "mine")
    assert len(store.history(BUILT_IN, mine.design_id)) == 2


def test_a_crowd_saves_exactly_once_per_version(store: DesignStore, number: str) -> None:
    record = store.load(BUILT_IN, number)
    barrier = threading.Barrier(6)

    def attempt(price: int) -> bool:
        barrier.wait()
        try:
            store.save(BUILT_IN, record.design_id, record.version, priced(record.design, float(price)), f"{price}")
        except Conflict:
            return False
        return True

    with ThreadPoolExecutor(6) as pool:
        wins = list(pool.map(attempt, range(6)))
    assert sum(wins) == 1
    assert len(store.history(BUILT_IN, record.design_id)) == 2


def test_a_failing_transaction_leaves_nothing(store: DesignStore, number: str, database: Database) -> None:
    record = store.load(BUILT_IN, number)

    def half(connection: Any) -> None:
        store._claim(connection, BUILT_IN, record.design_id, record.version)
        raise RuntimeError("power cut")

    with pytest.raises(RuntimeError):
        database.run(half)
    assert store.load(BUILT_IN, number).version == record.version


def test_the_database_itself_refuses_broken_documents(database: Database) -> None:
    def broken(connection: Any) -> None:
        with connection.cursor() as cursor:
            cursor.execute("UPDATE revisions SET document = '{broken' LIMIT 1")

    with pytest.raises(pymysql.err.MySQLError):
        database.run(broken)

    def orphan(connection: Any) -> None:
        with connection.cursor() as cursor:
            cursor.execute("INSERT INTO revisions (design_id, number, document, reason) VALUES (999999, 1, '{}', 'x')")

    with pytest.raises(pymysql.err.IntegrityError):
        database.run(orphan)


def test_deadlocks_are_tried_again(database: Database) -> None:
    tries = []

    def flaky(_: Any) -> str:
        tries.append(1)
        if len(tries) < 3:
            raise pymysql.err.OperationalError(1213, "Deadlock found")
        return "done"

    assert database.run(flaky) == "done"
    assert len(tries) == 3


def test_names_of_all_kinds_survive(store: DesignStore, estate: Design) -> None:
    odd = "<b>Ωhm & “Söhne”</b> 'DROP TABLE jobs'; -- 🔊"
    number = store.open_job(BUILT_IN, odd, "☎", odd[:60], estate)
    assert store.load(BUILT_IN, number).customer == odd
    version = store.load(BUILT_IN, number).customer_version
    store.rename_customer(BUILT_IN, number, version, "Plain", "2")
    assert store.load(BUILT_IN, number).customer == "Plain"
    with pytest.raises(Conflict):
        store.rename_customer(BUILT_IN, number, version, "Other", "3")
    store.archive(BUILT_IN, number, True)
    assert number not in [j.job_number for j in store.list_jobs(BUILT_IN).rows]
    assert number in [j.job_number for j in store.list_jobs(BUILT_IN, archived=True).rows]
    store.archive(BUILT_IN, number, False)
    assert number in [j.job_number for j in store.list_jobs(BUILT_IN).rows]


def test_search_columns_follow_the_document(store: DesignStore, number: str) -> None:
    record = store.load(BUILT_IN, number)
    changed = apply_edits(
        record.design, [Edit(path="vehicle/model", value="Tilde II"), Edit(path="title", value="Renamed")]
    )
    store.save(BUILT_IN, record.design_id, record.version, changed, "renamed")
    row = next(j for j in store.list_jobs(BUILT_IN, "tilde ii").rows if j.job_number == number)
    assert (row.vehicle, row.title) == ("Marren Tilde II, estate, 2016", "Renamed")


def test_a_list_of_any_length_is_paged_and_searched(database: Database, estate: Design) -> None:
    """Every job is reached once, newest first; words find number, customer, phone, title and car, and nothing is a
    pattern.
    """
    store = DesignStore(database)
    title = r"Fifty % off_ | it's \"n\' \\"
    made = [store.open_job(BUILT_IN, f"Pageant {n}", f"555 77{n:02d}", title, estate) for n in range(7)]
    seen: list[str] = []
    first = store.list_jobs(BUILT_IN, "pageant", size=3)
    assert (first.total, first.pages) == (7, 3)
    for page in (1, 2, 3):
        seen += [row.job_number for row in store.list_jobs(BUILT_IN, "pageant", page=page, size=3).rows]
    assert seen == made[::-1]
    assert store.list_jobs(BUILT_IN, "pageant", page=99, size=3).page == 3
    for words in (made[2], "Pageant 2", "555 7702"):
        assert [row.job_number for row in store.list_jobs(BUILT_IN, words).rows] == [made[2]]
    assert store.list_jobs(BUILT_IN, "% off_").total == 7
    for words in ("% off_ |", r"'s \"n\' \\"):
        assert [row.title for row in store.list_jobs(BUILT_IN, words).rows] == [title] * 7
    for words in ("%off", "off|_", r"n'", "off__"):
        assert store.list_jobs(BUILT_IN, words).total == 0
    assert all(row.summary is None for row in first.rows), "nothing was judged yet, and nothing is judged for a list"


def test_customers_of_one_name_are_not_one_person(database: Database, estate: Design) -> None:
    store = DesignStore(database)
    anna, accented, same = (
        store.open_job(BUILT_IN, name, phone, "t", estate) for name, phone in (("Anna", ""), ("ÁNNA", ""), ("Anna", ""))
    )
    store.rename_customer(BUILT_IN, anna, store.load(BUILT_IN, anna).customer_version, "Bertha", "")
    assert [store.load(BUILT_IN, job).customer for job in (anna, accented, same)] == ["Bertha", "ÁNNA", "Anna"]
    one, two = (
        store.open_job(BUILT_IN, "Clara", "555 9", "t", estate) for _ in range(2)
    )  # the same phone: the same person
    store.rename_customer(BUILT_IN, one, store.load(BUILT_IN, one).customer_version, "Clara Two", "555 9")
    assert store.load(BUILT_IN, two).customer == "Clara Two"


def test_a_form_sent_twice_opens_one_job(database: Database, estate: Design) -> None:
    store = DesignStore(database)
    before = store.count_jobs(BUILT_IN)
    with ThreadPoolExecutor(6) as pool:
        numbers = set(
            pool.map(lambda _: store.open_job(BUILT_IN, "Double", "", "click", estate, opened_with="token-1"), range(6))
        )
    assert len(numbers) == 1
    assert store.count_jobs(BUILT_IN) == before + 1
    assert store.open_job(BUILT_IN, "Double", "", "click", estate, opened_with="token-2") not in numbers


def test_summaries_belong_to_the_revision_in_force(database: Database, store: DesignStore, number: str) -> None:
    summaries = SummaryStore(database)
    record = store.load(BUILT_IN, number)
    summary = Summary("ready", "Ready to order", "nothing to watch", 0, 0, True, "<svg/>")
    summaries.put(BUILT_IN, record.design_id, record.number + 5, summary)
    assert store.list_jobs(BUILT_IN, number).rows[0].summary is None
    summaries.put(BUILT_IN, record.design_id, record.number, summary)
    assert store.list_jobs(BUILT_IN, number).rows[0].summary == summary
    store.save(BUILT_IN, record.design_id, record.version, record.design, "again")
    assert store.list_jobs(BUILT_IN, number).rows[0].summary is None
    assert number in summaries.lacking(BUILT_IN, 1000)


def test_catalogue_edits_never_change_a_job(store: DesignStore, number: str, database: Database) -> None:
    shop = ShopStore(database)
    amplifier = next(p for p in shop.parts(BUILT_IN, "amplifier") if p.name == "Tessel M500")
    added = shop.add_part(
        BUILT_IN, PART.validate_python(amplifier.model_dump() | {"name": "Tessel M500", "price": 999.0})
    )
    assert shop.part(BUILT_IN, added).price == 999.0
    assert next(p.price for p in store.load(BUILT_IN, number).design.parts if p.id == "amp") == 229.0
    with pytest.raises(NotFound):
        shop.part(BUILT_IN, 10**6)


def test_policy_has_a_version_check(database: Database) -> None:
    shop = ShopStore(database)
    record = shop.load(BUILT_IN)
    shop.save_policy(BUILT_IN, record.version, record.policy)
    with pytest.raises(Conflict):
        shop.save_policy(BUILT_IN, record.version, record.policy)


def test_a_server_that_is_not_there() -> None:
    away = Database(DatabaseSettings(port=free_port(), password="x"))
    with pytest.raises(StoreUnavailable):
        DesignStore(away).list_jobs(BUILT_IN)


def test_demo_is_loaded_once(database: Database) -> None:
    assert not load_demo(database)
    with pytest.raises(NotFound):
        DesignStore(database).load(BUILT_IN, "J-9999")
