"""Signing in through the pages: forms and their tokens, sessions, second factor, links, what is kept when it ends."""

from __future__ import annotations

import re
import time
from collections.abc import Callable, Iterator
from html import unescape
from typing import Any

import pyotp
import pytest
from starlette.testclient import TestClient

from ohmack.core.document import Design
from ohmack.core.document.policy import Policy
from ohmack.launch.mariadb import MariaDbServer
from ohmack.store.database import Database, DatabaseSettings
from ohmack.store.designs import DesignStore
from ohmack.store.migrate import migrate
from ohmack.store.people import PeopleStore, add_shop
from ohmack.store.roles import Role
from ohmack.store.sessions import From, SessionStore
from ohmack.store.tokens import form_token_of
from ohmack.web.app import create_app
from ohmack.web.settings import Settings

BASE = "http://127.0.0.1:8417"
HX = {"HX-Request": "true"}
GOOD, BETTER = "copper lugs and heat shrink", "nine volts at the wrong post"


def browser(settings: DatabaseSettings, base: str = BASE, **more: Any) -> TestClient:
    """A browser in which nobody has signed in, as one without scripts is one."""
    made = Settings(
        database_host=settings.host, database_port=settings.port, database_user=settings.user,
        database_password=settings.password, database_name=settings.name, summaries=False, **more,
    )  # fmt: skip
    return TestClient(
        create_app(made), base_url=base, headers={"Origin": base}, follow_redirects=False, client=("127.0.0.1", 5000)
    )


def hidden(page: str) -> dict[str, str]:
    """The hidden fields of a page's forms."""
    return {n: unescape(v) for n, v in re.findall(r'type="hidden"\s+name="(\w+)"\s+value="([^"]*)"', page)}


def sign_in(client: TestClient, login: str, password: str, **more: str) -> Any:
    fields = hidden(client.get("/sign-in").text)
    return client.post("/sign-in", data=fields | {"login": login, "password": password} | more)


@pytest.fixture
def somebody(database: Database, request: pytest.FixtureRequest) -> Callable[..., str]:
    """Somebody of a shop of their own, with that role; their sign-in name."""

    def made(role: Role = Role.OWNER) -> str:
        login = f"{role.value}-{time.monotonic_ns()}".replace(" ", "-")
        PeopleStore(database).ready_made(add_shop(database, f"Shop {login}", Policy()), login, login, role, GOOD)
        return login

    return made


@pytest.fixture
def client(settings: DatabaseSettings, database: Database) -> Iterator[TestClient]:
    with browser(settings) as made:
        yield made


def test_in_by_the_form_and_out_again(client: TestClient, somebody: Any, database: Database, estate: Design) -> None:
    login = somebody()
    asked = client.get("/jobs/J-0001/supply?show=parts/amp")
    assert (asked.status_code, asked.headers["location"]) == (
        303,
        "/sign-in?back=/jobs/J-0001/supply%3Fshow%3Dparts/amp",
    )
    page = client.get(asked.headers["location"]).text
    assert hidden(page)["back"] == "/jobs/J-0001/supply?show=parts/amp"
    before = client.cookies["ohmack"]
    wrong = sign_in(client, login, BETTER)
    assert wrong.status_code == 422
    assert "do not belong together" in wrong.text
    assert f'value="{login}"' in wrong.text
    assert BETTER not in wrong.text
    answer = sign_in(client, login, GOOD, back="/customers")
    assert (answer.status_code, answer.headers["location"]) == (303, "/customers")
    cookie = answer.headers["set-cookie"]
    assert {"HttpOnly", "SameSite=lax", "Path=/"} <= {part.strip() for part in cookie.split(";")}
    assert "Secure" not in cookie
    assert client.cookies["ohmack"] != before, "what somebody had before is no session"
    assert client.get("/customers").status_code == 200
    assert client.get("/sign-in?back=/bay").headers["location"] == "/bay"
    session = client.cookies["ohmack"]
    client.post("/sign-out", data={"form_token": form_token_of(session)})
    assert "ohmack" not in client.cookies
    client.cookies.set("ohmack", session)
    assert client.get("/").headers["location"] == "/sign-in", "it is over on the server too"


def test_over_tls_the_cookie_is_one_no_other_host_can_set(settings: DatabaseSettings, somebody: Any) -> None:
    base = "https://127.0.0.1:8417"
    with browser(settings, base) as client:
        client.cookies.set("ohmack", "planted-by-another-port")
        answer = sign_in(client, somebody(), GOOD)
        assert answer.headers["set-cookie"].startswith("__Host-ohmack=")
        assert "Secure" in answer.headers["set-cookie"]
        assert client.get("/customers").status_code == 200


@pytest.mark.parametrize(
    "back",
    ["//evil.example/x", "https://evil.example", "/\\evil.example", "javascript:alert(1)", "/a\r\nSet-Cookie: x=1", ""],
)
def test_after_signing_in_one_stays_here(client: TestClient, somebody: Any, back: str) -> None:
    where = sign_in(client, somebody(), GOOD, back=back).headers["location"]
    assert re.match(r"/(?![/\\])", where)
    assert "\n" not in where
    assert client.cookies.get("x") is None


def test_a_session_that_is_planted_is_not_taken_over(client: TestClient, somebody: Any) -> None:
    """Fixation: a token somebody else knows stays nobody's, and a form made for it signs nobody in."""
    client.cookies.set("ohmack", "known-to-somebody-else", domain="127.0.0.1")
    answer = sign_in(client, somebody(), GOOD)
    fresh = client.cookies["ohmack"]
    assert answer.status_code == 303
    assert fresh != "known-to-somebody-else"
    client.cookies.clear()
    client.cookies.set("ohmack", "known-to-somebody-else", domain="127.0.0.1")
    assert client.get("/customers").status_code == 303


def test_a_form_needs_the_token_of_its_session(
    client: TestClient, somebody: Any, database: Database, estate: Design
) -> None:
    login = somebody()
    sign_in(client, login, GOOD)
    session = client.cookies["ohmack"]
    visitor = SessionStore(database).opened(session)
    assert visitor
    number = DesignStore(database).open_job(visitor.context, "Token", "", "Token", estate)
    page = client.get(f"/jobs/{number}/signal").text
    forms = re.findall(r'<form\b[^>]*method="post"[^>]*>(<input type="hidden" name="form_token" value="(\w+)">)?', page)
    assert len(forms) > 5
    assert {token for _, token in forms} == {form_token_of(session)}, "every form carries it"
    fields = {"version": "1", "base": "1", "stage": "signal", "path": "title", "value": "Changed"}
    other = SessionStore(database).begin(visitor.context, 1, From())
    for token in ("", "x", session, form_token_of(other), form_token_of(session)[:-1]):
        answer = client.post(f"/jobs/{number}/edit", data=fields | {"form_token": token})
        assert answer.status_code == 403, token
        assert 'value="Changed"' in answer.text, "what was typed is kept to be sent again"
        assert DesignStore(database).load(visitor.context, number).version == 1
    again = hidden(answer.text)
    assert client.post(f"/jobs/{number}/edit", data=again).status_code == 303
    assert DesignStore(database).load(visitor.context, number).design.title == "Changed"
    by_header = {"X-Form-Token": form_token_of(session)}
    assert client.post(f"/jobs/{number}/undo", data={"version": "2"}, headers=by_header).status_code == 303
    foreign = client.post(f"/jobs/{number}/undo", data=again, headers={"Origin": "http://evil.example"})
    assert foreign.status_code == 403


def test_what_was_sent_when_the_session_was_over_is_sent_again(
    client: TestClient, somebody: Any, database: Database, estate: Design
) -> None:
    login = somebody()
    sign_in(client, login, GOOD)
    visitor = SessionStore(database).opened(client.cookies["ohmack"])
    assert visitor
    store = DesignStore(database)
    number = store.open_job(visitor.context, "Over", "", "Over", estate)
    fields = hidden(client.get(f"/jobs/{number}/signal").text) | {"path": "title", "value": "Kept “words” & all"}
    SessionStore(database).end(client.cookies["ohmack"])
    by_script = client.get(
        f"/jobs/{number}/signal", headers=HX | {"HX-Current-URL": f"{BASE}/jobs/{number}/signal?a=1"}
    )
    assert by_script.status_code == 401
    assert by_script.headers["hx-redirect"] == f"/sign-in?back=/jobs/{number}/signal%3Fa%3D1"
    answer = client.post(f"/jobs/{number}/edit", data=fields, headers=HX | {"Referer": f"{BASE}/jobs/{number}/signal"})
    assert (answer.status_code, answer.headers["hx-retarget"]) == (401, "#frame")
    assert "what you sent is kept" in answer.text
    asked = hidden(answer.text)
    assert asked["back"] == f"/jobs/{number}/signal"
    once_more = client.post("/sign-in", data=asked | {"login": login, "password": GOOD})
    assert "Kept “words” &amp; all" in once_more.text
    assert store.load(visitor.context, number).version == 1, "not before somebody says so"
    sent = client.post(f"/jobs/{number}/edit", data=hidden(once_more.text))
    assert sent.status_code == 303
    assert store.load(visitor.context, number).design.title == "Kept “words” & all"
    for forged in ("{", "[]", '{"to": 1}', '{"to": "//evil.example", "pairs": []}', "[" * 5000):
        fields = hidden(client.get("/account").text)
        client.post("/sign-out", data=fields)
        answer = sign_in(client, login, GOOD, kept=forged)
        assert "evil.example" not in answer.text


def test_the_second_factor_from_setting_up_to_a_lost_phone(
    client: TestClient, somebody: Any, database: Database
) -> None:
    login = somebody()
    sign_in(client, login, GOOD)

    def post(path: str, **fields: str) -> Any:
        return client.post(path, data=fields | {"form_token": form_token_of(client.cookies["ohmack"])})

    assert "That is not your password" in post("/account/second-factor", old=BETTER).text
    assert post("/account/second-factor", old=GOOD).status_code == 303
    page = client.get("/account").text
    secret = re.search(r'class="secret">([A-Z2-7]{32})<', page)
    assert secret
    assert "<svg" in page
    assert "is not right" in post("/account/second-factor/confirm", code="12345").text
    shown = post("/account/second-factor/confirm", code=pyotp.TOTP(secret[1]).now()).text
    spare = re.findall(r"<code>([a-z0-9]{6}(?:-[a-z0-9]{6}){3})</code>", shown)
    assert len(spare) == 10
    assert secret[1] not in client.get("/account").text
    post("/sign-out")
    answer = sign_in(client, login, GOOD, back="/bay")
    assert "The code on your phone" in answer.text
    assert client.get("/").headers["location"].startswith("/second-factor"), "half is not in"
    assert (
        client.post("/jobs/J-1/edit", data={"form_token": form_token_of(client.cookies["ohmack"])}).status_code == 401
    )
    fields = hidden(answer.text)
    assert client.post("/second-factor", data=fields | {"code": "000000"}).status_code == 422
    half = client.cookies["ohmack"]
    done = client.post("/second-factor", data=fields | {"code": spare[3]})
    assert (done.status_code, done.headers["location"]) == (303, "/bay")
    assert client.cookies["ohmack"] != half
    assert "9 spare codes" in client.get("/account").text
    assert "asks for no code" in post("/account/second-factor/off", old=GOOD).text


def test_a_password_is_changed_and_everywhere_else_is_out(
    client: TestClient, settings: DatabaseSettings, somebody: Any
) -> None:
    login = somebody()
    sign_in(client, login, GOOD)
    with browser(settings) as phone:
        sign_in(phone, login, GOOD)
        assert phone.get("/customers").status_code == 200
        token = {"form_token": form_token_of(client.cookies["ohmack"])}
        for fields, said in (
            ({"old": GOOD, "new": "short"}, "At least 12"), ({"old": GOOD, "new": "qwertyuiop1234"}, "Too easy"),
            ({"old": BETTER, "new": BETTER}, "That is not your password"),
        ):  # fmt: skip
            refused = client.post("/account/password", data=token | fields)
            assert refused.status_code == 422
            assert said in refused.text
        assert "is changed" in client.post("/account/password", data=token | {"old": GOOD, "new": BETTER}).text
        assert phone.get("/customers").status_code == 303
    assert client.get("/customers").status_code == 200
    for _ in range(9):
        answer = client.post("/account/password", data=token | {"old": GOOD, "new": GOOD})
    assert "Too many wrong tries" in answer.text, "not even from inside is a password guessed"


def test_an_invitation_from_the_owner_to_the_first_page(
    client: TestClient, settings: DatabaseSettings, somebody: Any
) -> None:
    owner = somebody()
    sign_in(client, owner, GOOD)
    token = {"form_token": form_token_of(client.cookies["ohmack"])}
    login = f"new-{time.monotonic_ns()}"
    empty = client.post("/people", data=token | {"name": "Nina", "login": "", "role": "gardener"})
    assert empty.status_code == 422
    assert 'value="Nina"' in empty.text
    taken = client.post("/people", data=token | {"name": "Nina", "login": owner, "role": "guest"})
    assert "signs in with that name already" in taken.text
    page = client.post("/people", data=token | {"name": "Nina", "login": login, "role": "front desk"}).text
    link = re.search(rf"{BASE}(/join/[\w-]{{43}})<", page)
    assert link
    assert link[1] not in client.get("/people").text, "it is shown once"
    with browser(settings) as theirs:
        opened = theirs.get(link[1])
        assert "Nina, choose a password" in opened.text
        assert opened.headers["referrer-policy"] == "no-referrer"
        fields = hidden(opened.text)
        assert theirs.post(link[1], data=fields | {"password": "password1234"}).status_code == 422
        done = theirs.post(link[1], data=fields | {"password": GOOD})
        assert done.headers["location"] == f"/sign-in?who={login}"
        for used in (link[1], link[1][:-1] + "A", "/join/" + "x" * 500):
            gone = theirs.get(used)
            assert gone.status_code == 404
            assert "opens nothing" in gone.text
        assert theirs.post(link[1], data=fields | {"password": BETTER}).status_code == 404, "replayed"
        sign_in(theirs, login, GOOD)
        assert theirs.get("/people").status_code == 403
        assert theirs.get("/customers").status_code == 200
    audit = client.get("/audit").text
    for said in ("invited", "joined", "signed in", "Nina as front desk"):
        assert said in audit


def test_the_first_owner_is_asked_for_on_the_machine_itself(tmp_path_factory: pytest.TempPathFactory) -> None:
    server = MariaDbServer(tmp_path_factory.mktemp("first"), quiet=True, fast=True)
    server.start()
    try:
        settings = DatabaseSettings("127.0.0.1", server.port, "ohmack", server.password)
        migrate(settings)
        with browser(settings) as client:
            assert client.get("/jobs/J-0001").headers["location"] == "/first"
            fields = hidden(client.get("/first").text) | {"shop": "New Shop", "name": "Una", "login": "una"}
            weak = client.post("/first", data=fields | {"password": "una una una una"})
            assert weak.status_code == 422
            assert 'value="New Shop"' in weak.text
            client._transport.client = ("192.168.1.9", 5000)  # type: ignore[attr-defined]
            far = client.post("/first", data=fields | {"password": GOOD})
            assert far.status_code == 403
            assert "on the machine it runs on" in far.text
            client._transport.client = ("127.0.0.1", 5000)  # type: ignore[attr-defined]
            assert client.post("/first", data=fields | {"password": GOOD}).headers["location"] == "/sign-in?who=una"
            second = client.post("/first", data=fields | {"login": "intruder", "password": GOOD})
            assert second.headers["location"] == "/sign-in"
            sign_in(client, "una", GOOD)
            assert "New Shop" in client.get("/").text
            server.stop()
            gone = client.post("/sign-in", data=fields | {"login": "una", "password": GOOD})
            assert gone.status_code == 503
            assert "does not answer" in gone.text
            assert GOOD not in gone.text, "a password is in no page"
    finally:
        server.stop()


def test_a_job_on_the_phone(client: TestClient, settings: DatabaseSettings, somebody: Any, database: Database,
                            estate: Design, monkeypatch: pytest.MonkeyPatch) -> None:  # fmt: skip
    monkeypatch.setattr("ohmack.web.sign_in.phone.own_addresses", lambda: ["10.0.0.7"])
    login = somebody()
    sign_in(client, login, GOOD)
    visitor = SessionStore(database).opened(client.cookies["ohmack"])
    assert visitor
    number = DesignStore(database).open_job(visitor.context, "Phone", "", "Phone", estate)
    assert "Only this machine reaches Ohmack" in client.get(f"/jobs/{number}/phone").text
    with browser(settings, host="0.0.0.0", allowed_hosts="127.0.0.1,10.0.0.7") as opened:
        sign_in(opened, login, GOOD)
        page = opened.get(f"/jobs/{number}/phone?to=prove").text
        assert f"http://10.0.0.7:8417/jobs/{number}/prove" in page
        assert "<svg" in page
        assert "without TLS" in page.replace("Without", "without")
    with browser(settings, "http://10.0.0.7:8417", host="0.0.0.0", allowed_hosts="10.0.0.7") as phone:
        asked = phone.get(f"/jobs/{number}/prove").headers["location"]
        assert asked == f"/sign-in?back=/jobs/{number}/prove"
        back = hidden(phone.get(asked).text)["back"]
        assert sign_in(phone, login, GOOD, back=back).headers["location"] == f"/jobs/{number}/prove"
    with browser(settings, public_address="https://shop.example") as proxied:
        sign_in(proxied, login, GOOD)
        assert f"https://shop.example/jobs/{number}/steps" in proxied.get(f"/jobs/{number}/phone").text


def test_only_forms_are_taken(client: TestClient, somebody: Any) -> None:
    sign_in(client, somebody(), GOOD)
    token = {"X-Form-Token": form_token_of(client.cookies["ohmack"])}
    for kind in ("application/json", "text/plain", "application/xml", "image/svg+xml"):
        answer = client.post("/policy", content=b'{"a": 1}', headers=token | {"Content-Type": kind})
        assert answer.status_code == 415, kind
    for method in ("PUT", "PATCH", "DELETE", "TRACE", "CONNECT"):
        assert client.request(method, "/policy", headers=token).status_code in (404, 405), method
