"""The pages of the shop: what is typed is never lost, lists end where they end, a job stands where its plan says."""

from __future__ import annotations

import logging
import re
from html import unescape
from typing import Any

import pytest
from starlette.testclient import TestClient

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.policy import Policy
from ohmack.core.planning.standing import Standing
from ohmack.store.context import Context
from ohmack.store.customers import PAGE_SIZE
from ohmack.store.database import Database, DatabaseSettings
from ohmack.store.designs import DesignStore
from ohmack.store.people import PeopleStore, add_shop
from ohmack.store.roles import Role
from web.test_pages import BASE, client_on

GOOD = "copper lugs and heat shrink"


@pytest.fixture(scope="module")
def owner(database: Database) -> Context:
    shop = add_shop(database, "Pages", Policy())
    return PeopleStore(database).ready_made(shop, "Olga", "olga-of-pages", Role.OWNER, GOOD)


@pytest.fixture(scope="module")
def client(settings: DatabaseSettings, owner: Context) -> Any:
    with client_on(settings, owner) as made:
        yield made


def opened(database: Database, by: Context, customer: str, design: Design, **more: Any) -> tuple[str, int]:
    """A job, and its customer's number."""
    store = DesignStore(database)
    number = store.open_job(by, customer, more.pop("phone", ""), f"For {customer}", design, **more)
    page = [row for row in _customers(database, by) if row[0] == customer]
    return number, page[-1][1]


def _customers(database: Database, by: Context) -> list[tuple[str, int]]:
    def ask(connection: Any) -> list[tuple[str, int]]:
        with connection.cursor() as cursor:
            cursor.execute("SELECT name, id FROM customers WHERE shop_id = %s ORDER BY id", (by.shop_id,))
            return [(row["name"], row["id"]) for row in cursor.fetchall()]

    return database.read(ask)


def value_of(page: str, name: str) -> list[str]:
    return [unescape(v) for v in re.findall(rf'name="{name}"[^>]*?\svalue="([^"]*)"', page)]


def test_a_customer_is_changed_and_a_stale_page_keeps_what_was_typed(
    client: TestClient, database: Database, owner: Context, estate: Design
) -> None:
    number, customer = opened(database, owner, "Tamsin Reed", estate)
    where = f"/customers/{customer}"
    fields = {"version": "1", "name": "Tamsin Reed-Hay", "phone": "555 4", "note": "rings twice"}
    assert client.post(where, data=fields).headers["location"] == where
    stale = client.post(where, data=fields | {"name": "T. R.", "note": "typed “for” nothing?"})
    assert stale.status_code == 409
    assert value_of(stale.text, "name")[-1] == "T. R."
    assert "typed “for” nothing?" in stale.text
    assert value_of(stale.text, "version")[-1] == "2", "keeping it once more puts it on top"
    empty = client.post(where, data=fields | {"name": " ", "phone": "555 5"})
    assert (empty.status_code, value_of(empty.text, "phone")) == (422, ["555 5"])
    assert DesignStore(database).load(owner, number).customer == "Tamsin Reed-Hay"


def test_a_plate_typed_on_a_stale_page_is_kept(
    client: TestClient, database: Database, owner: Context, estate: Design
) -> None:
    _, customer = opened(database, owner, "Plated", estate)
    page = client.get(f"/customers/{customer}").text
    where = re.search(rf'action="(/customers/{customer}/cars/\d+)"', page)
    assert where
    assert client.post(where[1], data={"version": "1", "plate": "ab 12", "chassis": "vin 9"}).status_code == 303
    stale = client.post(where[1], data={"version": "1", "plate": "cd 34", "chassis": "vin 10"})
    assert stale.status_code == 409
    assert (value_of(stale.text, "plate"), value_of(stale.text, "chassis")) == (["CD 34"], ["VIN 10"])
    assert value_of(client.get(f"/customers/{customer}").text, "plate") == ["AB 12"]


def test_a_merge_without_a_choice_shows_the_same_list_again(
    client: TestClient, database: Database, owner: Context, estate: Design
) -> None:
    _, one = opened(database, owner, "Wulf Twice", estate)
    _, two = opened(database, owner, "Wulf Twice", estate)
    page = client.get(f"/customers/{one}?like=wulf").text
    assert f'value="{two}"' in page
    assert f'name="into" value="{one}"' not in re.sub(r"\s+", " ", page)
    asked = client.post(f"/customers/{one}/merge", data={"like": "wulf"})
    assert asked.status_code == 422
    assert "Choose whom it is the same as" in asked.text
    assert f'value="{two}"' in asked.text
    assert client.post(f"/customers/{one}/merge", data={"into": str(two)}).headers["location"] == f"/customers/{two}"
    assert client.get(f"/customers/{one}").headers["location"] == f"/customers/{two}"


def test_erasing_takes_the_word_and_hands_out_before(
    client: TestClient, database: Database, owner: Context, estate: Design
) -> None:
    number, customer = opened(database, owner, "Quentin Gone", estate, phone="555 777 1")
    file = client.get(f"/customers/{customer}/data")
    assert file.json()["customer"]["phone"] == "555 777 1"
    assert f"customer-{customer}" in file.headers["content-disposition"]
    refused = client.post(f"/customers/{customer}/erase", data={"sure": "yes"})
    assert (refused.status_code, "there is no way back" in refused.text) == (422, True)
    assert "Erased, from 1 revisions" in client.post(f"/customers/{customer}/erase", data={"sure": " Erase "}).text
    assert "Quentin" not in client.get(f"/jobs/{number}").text


def test_a_list_ends_where_it_ends(client: TestClient, database: Database, settings: DatabaseSettings) -> None:
    by = PeopleStore(database).ready_made(add_shop(database, "Long", Policy()), "L", "l-of-long", Role.OWNER, GOOD)

    def fill(c: Any) -> None:
        with c.cursor() as cursor:
            rows = [(by.shop_id, f"Customer {n:03d}") for n in range(PAGE_SIZE + 5)]
            cursor.executemany("INSERT INTO customers (shop_id, name) VALUES (%s, %s)", rows)

    database.run(fill)
    with client_on(settings, by) as theirs:
        for asked, first in (("1", "000"), ("2", "040"), ("99", "040"), ("0", "000"), ("x", "000"), ("²", "000")):
            page = theirs.get(f"/customers?page={asked}").text
            assert re.search(r"Customer (\d+)</a>", page)[1] == first, asked  # type: ignore[index]
        assert "page 2 of 2" in page or "page 1 of 2" in page
        assert "Nobody with “zz”" in theirs.get("/customers?words=zz").text


def test_jobs_are_listed_by_where_they_stand_and_sorted(
    database: Database, settings: DatabaseSettings, estate: Design
) -> None:
    by = PeopleStore(database).ready_made(add_shop(database, "Stands", Policy()), "S", "s-of-stands", Role.OWNER, GOOD)
    store = DesignStore(database)
    planned = apply_edits(estate, [Edit(path=f"parts/{p.id}/stands", value="wanted") for p in estate.parts])
    ordered = apply_edits(planned, [Edit(path="parts/amp/stands", value="ordered")])
    first, second, third = (
        store.open_job(by, who, "", "Work", plan)
        for who, plan in (("Zoe", planned), ("Abe", ordered), ("Mia", planned))
    )
    store.archive(by, third, True)
    assert store.standings(by) == ({**dict.fromkeys(Standing, 0), Standing.PLANNED: 1, Standing.WAITING: 1}, 1)
    with client_on(settings, by) as client:

        def listed(query: str) -> list[str]:
            return re.findall(r'class="no" href="/jobs/(J-\d+)"', client.get(f"/{query}").text)

        assert listed("") == [second, first]
        assert listed("?at=planned") == [first]
        assert listed("?at=waiting%20for%20parts") == [second]
        assert listed("?at=done") == []
        assert "No open job stands there: done" in client.get("/?at=done").text
        assert listed("?at=nonsense&sort=nonsense") == [second, first]
        assert listed("?sort=customer") == [second, first]
        assert listed("?sort=oldest") == [first, second]
        assert listed("?away=yes") == [third]
        record = store.load(by, second)  # an option that is further on takes the job along, and undo takes it back
        option = store.add_option(by, second)
        further = store.load(by, option)
        built = apply_edits(
            record.design, [Edit(op="add", path="work/marks", value={"id": "m", "step": "gains", "done": True})]
        )
        store.save(by, further.design_id, further.version, built, "built")
        assert listed("?at=in%20the%20bay") == [second]
        store.step(by, further.design_id, further.version + 1, forward=False)
        assert listed("?at=waiting%20for%20parts") == [second]


def test_a_job_for_a_customer_who_is_there_is_theirs_only_under_their_name(
    client: TestClient, database: Database, owner: Context, estate: Design
) -> None:
    _, customer = opened(database, owner, "Regular Rita", estate, phone="555 2")
    page = client.get(f"/jobs/new?customer={customer}").text
    assert (value_of(page, "customer"), value_of(page, "customer_id")) == (["Regular Rita"], [str(customer)])
    fields = {"once": "", "customer_id": str(customer), "phone": "555 2", "make": "Dovekin", "model": "Wren",
              "body": "hatch", "hand_of_drive": "left", "powertrain": "combustion"}  # fmt: skip
    theirs = client.post("/jobs/new", data=fields | {"customer": "Regular Rita"}).headers["location"].split("/")[2]
    anothers = client.post("/jobs/new", data=fields | {"customer": "Her Brother"}).headers["location"].split("/")[2]
    store = DesignStore(database)
    assert [store.load(owner, n).customer for n in (theirs, anothers)] == ["Regular Rita", "Her Brother"]
    assert theirs in client.get(f"/customers/{customer}").text
    assert anothers not in client.get(f"/customers/{customer}").text


def test_people_are_kept_away_until_somebody_takes_them_back(
    client: TestClient, database: Database, owner: Context
) -> None:
    people = PeopleStore(database)
    guest = people.ready_made(owner, "Gil", "gil-of-pages", Role.GUEST, GOOD).person_id
    where = f"/people/{guest}"

    def sent(**fields: str) -> Any:
        person = people.get(owner, guest)
        return client.post(where, data={"version": str(person.version), "name": person.name, "role": "guest"} | fields)

    assert sent(act="away").status_code == 303
    assert sent(name="Gilbert").status_code == 303, "a name that is kept takes nobody back"
    assert (people.get(owner, guest).name, people.get(owner, guest).away) == ("Gilbert", True)
    assert sent(act="back").status_code == 303
    assert not people.get(owner, guest).away
    stale = sent(version="1", name="Typed Here", role="installer")
    assert stale.status_code == 409
    assert "Typed Here" in value_of(stale.text, "name")
    assert people.get(owner, guest).role is Role.GUEST
    nobody = sent(name="", role="installer")
    assert (nobody.status_code, "A name and a role, please." in nobody.text) == (422, True)


def test_sign_in_limits_are_whole_numbers_within_reason(client: TestClient, database: Database, owner: Context) -> None:
    for idle, total, wrong in (
        ("4", "12", "minutes"),
        ("30", "25", "hours"),
        ("", "x", "minutes"),
        ("1e2", "1", "minutes"),
    ):
        refused = client.post("/people/limits", data={"idle": idle, "total": total})
        assert refused.status_code == 422
        assert f"A whole number of {wrong}" in refused.text
        assert value_of(refused.text, "idle") == [idle]
    assert client.post("/people/limits", data={"idle": "45", "total": "10"}).status_code == 303
    limits = PeopleStore(database).limits(owner)
    assert (limits.idle_minutes, limits.total_hours) == (45, 10)


def test_ready_is_said_only_of_a_whole_schema(client: TestClient, database: Database) -> None:
    """A migration that was killed half-way is not there, though its name is."""
    assert client.get("/ready").json() == {"ready": True}

    def take(c: Any) -> str:
        with c.cursor() as cursor:
            cursor.execute("SELECT MAX(id) AS last FROM applied_migrations")
            last = str(cursor.fetchone()["last"])
            cursor.execute("DELETE FROM applied_migrations WHERE id = %s AND statement = 1", (last,))
            return last

    def put_back(c: Any) -> None:
        with c.cursor() as cursor:
            cursor.execute("INSERT INTO applied_migrations (id, statement) VALUES (%s, 1)", (half,))

    half = database.run(take)
    try:
        answer = client.get("/ready")
        assert answer.status_code == 503
        assert answer.json()["because"] == f"migrations are missing: {half}"
    finally:
        database.run(put_back)
    assert client.get("/ready").json() == {"ready": True}


def test_counts_are_for_this_machine_or_who_has_the_token(
    client: TestClient, settings: DatabaseSettings, caplog: pytest.LogCaptureFixture
) -> None:
    assert client.get("/metrics").status_code == 403, "the test's client is no loopback address"
    client.app.state.metrics_token = "let me count"  # type: ignore[attr-defined]
    try:
        assert client.get("/metrics", headers={"Authorization": "Bearer let me"}).status_code == 403
        with caplog.at_level(logging.INFO, "ohmack.request"):
            client.request("BREW", "/customers")
            client.get("/l/a-token-nobody-sees")
        counted = client.get("/metrics", headers={"Authorization": "Bearer let me count"}).text
    finally:
        client.app.state.metrics_token = ""  # type: ignore[attr-defined]
    assert "BREW" not in counted
    assert re.search(r'ohmack_answers_total\{method="other",route="[^"]*",status="40[45]"\}', counted)
    assert "a-token-nobody-sees" not in counted + caplog.text
    assert "/l/{token}" in caplog.text


def test_the_search_page_says_what_it_found_and_what_not(
    client: TestClient, database: Database, owner: Context, estate: Design
) -> None:
    number, _ = opened(database, owner, "Ulrika Findable", estate)
    for address in ("/search?words=ulrika", "/search?words=ulrika&typed=yes", "/search?words=ulr+find&kind=job"):
        assert f"/jobs/{number}" in client.get(address).text, address
    assert "Customers" not in client.get("/search?words=ulrika&kind=job&typed=yes").text
    assert "Nothing has “&lt;zzq&gt;”" in client.get("/search?words=<zzq>").text
    assert "Type a number" in client.get("/search").text
    assert client.get("/search?typed=yes&words=").text.count("<li") == 0
    assert BASE not in client.get("/search?words=ulrika").text
