"""Every route as every role and from another shop: what each may, that nobody fails, that nothing crosses."""

from __future__ import annotations

import re
from collections.abc import Iterator
from hashlib import sha256
from typing import Any

import pytest
from starlette.testclient import TestClient

from ohmack.core.document import Design
from ohmack.core.document.policy import Policy
from ohmack.formats.photo import Photo
from ohmack.store.context import Context
from ohmack.store.database import Database, DatabaseSettings
from ohmack.store.designs import DesignStore
from ohmack.store.people import PeopleStore, add_shop
from ohmack.store.photos import PhotoStore
from ohmack.store.roles import Role
from ohmack.store.shop import PART, ShopStore
from ohmack.store.templates import TemplateStore
from web.fuzz import Fuzz, application, routes_of
from web.test_pages import client_on

GOOD = "copper lugs and heat shrink"
MARK = "Xenophilia Quandary"  # of the first shop's customer; the other shop must never be shown it
# Written down by hand from what each role is for, not read off the code: (method, path) of what the front desk may.
AT_THE_DESK = {
    "/jobs/new", "/jobs/{number}/customer", "/jobs/{number}/archive", "/jobs/{number}/booking", "/jobs/{number}/edit",
    "/jobs/{number}/choose", "/jobs/{number}/undo", "/jobs/{number}/redo", "/jobs/{number}/photos",
    "/jobs/{number}/links", "/jobs/{number}/links/{link_id:number}/withdraw", "/jobs/{number}/accept-quote",
    "/customers/{customer_id:number}", "/customers/{customer_id:number}/merge",
    "/customers/{customer_id:number}/cars/{car_id:number}",
}  # fmt: skip
ANYBODYS = {"/sign-out", "/account/password", "/account/second-factor", "/account/second-factor/confirm",
            "/account/second-factor/off", "/account/sessions"}  # fmt: skip
NOBODYS = {"/sign-in", "/second-factor", "/first", "/join/{token}"}
OWNERS = {"/people", "/people/{person_id:number}", "/people/{person_id:number}/reset", "/people/limits", "/audit",
          "/people/{person_id:number}/factor-off", "/customers/{customer_id:number}/erase",
          "/customers/{customer_id:number}/data"}  # fmt: skip


def person(database: Database, role: Role, shop: Context | None = None) -> Context:
    shop = shop or add_shop(database, f"Shop of a {role}", Policy())
    login = f"{role}-{shop.shop_id}".replace(" ", "-")
    return PeopleStore(database).ready_made(shop, login, login, role, GOOD)


def routes(client: TestClient, method: str) -> list[str]:
    every = {r.path for r in routes_of(client.app.routes) if method in (r.methods or ())}  # type: ignore[attr-defined]
    assert len(every) > 40
    return sorted(every)


def filled(path: str, number: str, identity: str = "1") -> str:
    return re.sub(r"\{[^}]*\}", identity, path.replace("{number}", number).replace("{stage}", "plan"))


@pytest.fixture(scope="module")
def reading(settings: DatabaseSettings, database: Database) -> Iterator[dict[Role, TestClient]]:
    """A client of each role of one shop."""
    shop = add_shop(database, "A shop with four roles", Policy())
    clients = {role: client_on(settings, person(database, role, shop)) for role in Role}
    yield clients
    for client in clients.values():
        client.close()


def test_a_route_nobody_thought_of_is_not_open(settings: DatabaseSettings, database: Database) -> None:
    """Without a session every route but the few of the door sends to it; what is sent is not taken."""
    with client_on(settings) as client:
        client.cookies.clear()
        for path in routes(client, "GET"):
            answer = client.get(filled(path, "J-0401"))
            if path in NOBODYS | {"/l/style.css", "/l/{token}", "/health", "/ready", "/metrics"}:
                assert answer.status_code in (200, 303, 403, 404), path
            else:
                assert (answer.status_code, answer.headers["location"][:8]) == (303, "/sign-in"), path
        for path in routes(client, "POST"):
            answer = client.post(filled(path, "J-0401"), data={"form_token": "x"})
            assert answer.status_code in ((403, 404) if path in NOBODYS else (401,)), path


@pytest.mark.parametrize("role", list(Role))
def test_what_each_role_may(reading: dict[Role, TestClient], role: Role) -> None:
    """Each role is refused just what is not its own, before anything is looked at."""
    client = reading[role]
    for path in routes(client, "POST"):
        if path in ANYBODYS | NOBODYS:
            continue
        answer = client.post(filled(path, "J-9999"), data={"path": "title"})
        may = {
            Role.OWNER: True, Role.INSTALLER: path not in OWNERS, Role.DESK: path in AT_THE_DESK, Role.GUEST: False,
        }[role]  # fmt: skip
        assert (answer.status_code != 403) is may, (path, answer.status_code)
        if not may:
            assert f"You are signed in as {role}" in answer.text
    for path in routes(client, "GET"):
        if path in NOBODYS | {"/metrics"}:
            continue
        answer = client.get(filled(path, "J-9999"))
        only = {
            **{owners: {Role.OWNER} for owners in OWNERS},
            "/jobs/new": {Role.OWNER, Role.INSTALLER, Role.DESK},
            "/import": {Role.OWNER, Role.INSTALLER}, "/jobs/{number}/live": {Role.OWNER, Role.INSTALLER},
        }.get(path, set(Role))  # fmt: skip
        assert (answer.status_code != 403) is (role in only), (path, answer.status_code)


def test_the_front_desk_changes_what_the_customer_wishes_and_no_plan(
    reading: dict[Role, TestClient], database: Database, estate: Design
) -> None:
    client = reading[Role.DESK]
    by = PeopleStore(database).list(Context(_shop_of(database, "A shop with four roles"), 0))
    shop = Context(_shop_of(database, "A shop with four roles"), by[0].id)
    number = DesignStore(database).open_job(shop, "Desk", "", "Desk", estate)
    fields = {"version": "1", "base": "1", "stage": "job"}
    assert (
        client.post(
            f"/jobs/{number}/edit", data=fields | {"path": "intake/wishes_note", "value": "more bass"}
        ).status_code
        == 303
    )
    for path in ("policy/drop_limit_v", "parts/amp/price", "links/power-amp/wire/size", "intake/../title", "titles"):
        answer = client.post(
            f"/jobs/{number}/edit", data=fields | {"path": path, "value": "1"}, headers={"HX-Request": "true"}
        )
        assert (answer.status_code, answer.headers["hx-retarget"]) == (403, "#trouble"), path
        assert "the plan is the installers" in answer.text
    record = DesignStore(database).load(shop, number)
    assert (record.version, record.design.intake.wishes_note) == (2, "more bass")
    history = DesignStore(database).history(shop, record.design_id)
    assert [r.author for r in history] == [f"front desk-{shop.shop_id}".replace(" ", "-"), by[0].name]


def _shop_of(database: Database, name: str) -> int:
    def ask(connection: Any) -> int:
        with connection.cursor() as cursor:
            cursor.execute("SELECT id FROM shop WHERE name = %s", (name,))
            return int(cursor.fetchone()["id"])

    return database.read(ask)


def stored_of(database: Database, shop_id: int) -> str:
    """A hash over every row of every table that is a shop's."""

    def read(connection: Any) -> str:
        whole = sha256()
        with connection.cursor() as cursor:
            cursor.execute("SELECT table_name AS name FROM information_schema.columns WHERE table_schema = DATABASE()"
                           " AND column_name = 'shop_id' AND table_name NOT IN ('summaries', 'search_entries',"
                           " 'search_words') ORDER BY 1")  # fmt: skip
            for name in [row["name"] for row in cursor.fetchall()]:
                cursor.execute(f"SELECT * FROM `{name}` WHERE shop_id = %s", (shop_id,))
                for row in sorted(map(repr, cursor.fetchall())):
                    whole.update(row.encode())
        return whole.hexdigest()

    return database.read(read)


def test_no_route_shows_or_changes_what_is_another_shops(
    settings: DatabaseSettings, database: Database, estate: Design
) -> None:
    """All numbers of one shop's things, asked for and sent to by the owner of another."""
    first, second = person(database, Role.OWNER), person(database, Role.OWNER)
    designs = DesignStore(database)
    designs.count_on_from(first, 7_700)  # no number the other shop has too
    number = designs.open_job(first, MARK, "555 0001", f"For {MARK}", estate)
    designs.open_job(second, "Somebody", "", "Their own", estate)
    photo = PhotoStore(database).add(first, number, "vehicle/radio", Photo("plug.jpg", 2, 2, b"x", b"y"))
    part = ShopStore(database).add_part(
        first, PART.validate_python({"id": "x", "kind": "wire", "name": MARK, "wire_size": "4 AWG", "on_reel_m": 5})
    )
    kept = TemplateStore(database).add(first, estate.vehicle.model_copy(update={"make": MARK}), number)
    with client_on(settings, first) as theirs:
        page = theirs.get("/customers").text
        customer = re.search(r"/customers/(\d+)", page)
        assert customer
        assert MARK in page
        assert MARK in theirs.get(f"/jobs/{number}").text
    before = stored_of(database, first.shop_id)
    numbers = {customer[1], str(photo), str(part), str(kept), str(first.person_id), "1"}
    fields = {
        "version": "1", "base": "1", "path": "title", "value": "Taken", "into": customer[1], "sure": "erase",
        "template": str(kept), "catalogue_id": str(part), "customer_id": customer[1], "name": "T", "role": "owner",
        "customer": "T", "make": "T", "model": "T",
    }  # fmt: skip
    word = MARK.split()[0]
    with client_on(settings, second) as client:
        gets, posts = routes(client, "GET"), routes(client, "POST")
        for identity in sorted(numbers):
            for path in gets:
                if path in NOBODYS:
                    continue
                answer = client.get(filled(path, number, identity))
                assert MARK.encode() not in answer.content, path
                if "{number}" in path and not path.endswith("labels.css"):  # the same for every job
                    assert answer.status_code == 404, (path, answer.status_code)
            for path in posts:
                if path in NOBODYS | ANYBODYS:
                    continue
                answer = client.post(filled(path, number, identity), data=fields)
                assert answer.status_code < 500, path
                assert MARK.encode() not in answer.content, path
                if "{number}" in path:
                    nothing = (404, 422, 303) if path.endswith("/away") else (404, 422)  # twice away is away
                    assert answer.status_code in nothing, (path, answer.status_code)
        for asked in (
            f"/search?words={word}&typed=yes", f"/?words={word}", "/catalogue?words=Xeno", "/audit", "/people",
            f"/jobs/new?template={kept}", f"/jobs/new?customer={customer[1]}", "/bay", "/customers",
        ):  # fmt: skip
            assert MARK not in client.get(asked).text, asked
    assert stored_of(database, first.shop_id) == before


@pytest.mark.parametrize("role", [Role.GUEST, Role.DESK, Role.INSTALLER])
def test_no_role_meets_a_server_error(settings: DatabaseSettings, database: Database, role: Role) -> None:
    by = person(database, role)
    with application(settings, by) as client:
        fuzz = Fuzz(client, database, list(Role).index(role) + 31, by)
        answers = [fuzz.one() for _ in range(120)]
    assert not [a for a in answers if a[1] >= 500]
    refused = sum(status == 403 for _, status in answers)
    assert (refused > 60) is (role is not Role.INSTALLER), refused
