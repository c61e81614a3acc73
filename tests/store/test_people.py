"""Who signs in: passwords as they are kept, guesses, time codes, links that work once, sessions that end."""

from __future__ import annotations

import base64
import re
from collections.abc import Callable
from typing import Any

import pyotp
import pytest

from ohmack.core.document.policy import Policy
from ohmack.store.audit import AuditStore
from ohmack.store.context import Context
from ohmack.store.database import Conflict, Database, NotFound
from ohmack.store.passwords import hash_password, is_outdated, is_right, weakness
from ohmack.store.people import LastOwner, Limits, LoginTaken, PeopleStore, add_shop
from ohmack.store.roles import Role
from ohmack.store.second_factor import STEP_S, address_of, new_secret, step_of
from ohmack.store.sessions import (
    MOST_FROM_ONE,
    MOST_GUESSES,
    From,
    NotLetIn,
    SessionStore,
    TooManyGuesses,
    _subject,
)  # fmt: skip

GOOD, BETTER = "copper lugs and heat shrink", "nine volts at the wrong post"
HERE = From("10.0.0.5", "a phone")
# RFC 6238, appendix B, SHA-1, the secret's twenty letters as printed there, the last six of eight digits; from memory.
RFC_6238 = {
    59: "287082", 1111111109: "081804", 1111111111: "050471", 1234567890: "005924", 2000000000: "279037",
    20000000000: "353130",
}  # fmt: skip
RFC_SECRET = base64.b32encode(b"12345678901234567890").decode()


@pytest.fixture
def shop(database: Database) -> Callable[[str], tuple[Context, str]]:
    """A shop of its own with an owner of that name."""

    def made(login: str) -> tuple[Context, str]:
        nobody = add_shop(database, f"Shop of {login}", Policy())
        token = PeopleStore(database).found(nobody, login.title(), login)
        return SessionStore(database).use_link(token, GOOD).context, login

    return made


def back_in_time(database: Database, sql: str, *values: Any) -> None:
    def work(connection: Any) -> None:
        with connection.cursor() as cursor:
            cursor.execute(sql, values)

    database.run(work)


@pytest.mark.usefixtures("hashed_as_served")
def test_passwords_are_kept_by_argon2id_with_the_parameters_of_rfc_9106() -> None:
    """Section 4, second recommended option: m = 2^16 KiB, t = 3, p = 4, salt of 128 bits, tag of 256 bits."""
    kept = hash_password(GOOD)
    found = re.fullmatch(r"\$argon2id\$v=19\$m=65536,t=3,p=4\$([\w+/]+)\$([\w+/]+)", kept)
    assert found
    assert [len(base64.b64decode(part + "==")) for part in found.groups()] == [16, 32]
    assert hash_password(GOOD) != kept
    assert (is_right(kept, GOOD), is_right(kept, GOOD + " "), is_right(None, GOOD)) == (True, False, False)
    assert is_right(hash_password("ｆｕｌｌ width letters"), "full width letters")  # however a keyboard makes them
    assert not is_outdated(kept)
    assert is_outdated(kept.replace("t=3", "t=1"))


@pytest.mark.parametrize(
    ("password", "refused"),
    [
        ("short one", "At least 12"), ("x" * 129, "At most 128"), ("password1234", "Too easy"),
        ("aaaaaaaaaaaaaaaa", "Too easy"), ("odile odile odile", "Too easy"), (GOOD, ""), ("ö" * 3 + " zwölf Bänke", ""),
    ],
)  # fmt: skip
def test_a_weak_password_is_refused_with_a_reason(password: str, refused: str) -> None:
    said = weakness(password, ("Odile", "odile"))
    assert said.startswith(refused) if refused else not said


def test_time_codes_are_those_of_rfc_6238() -> None:
    for at_s, code in RFC_6238.items():
        assert step_of(RFC_SECRET, f"{code[:3]} {code[3:]}", at_s) == at_s // STEP_S
        assert step_of(RFC_SECRET, code, at_s + STEP_S) == at_s // STEP_S, "a phone that is late by a step"
        assert step_of(RFC_SECRET, code, at_s + 2 * STEP_S) is None
        assert step_of(RFC_SECRET, code, at_s - 3 * STEP_S) is None
    assert [step_of(RFC_SECRET, bad, 59) for bad in ("", "28708", "2870823", "²87082", "abcdef")] == [None] * 5
    told = pyotp.parse_uri(address_of(RFC_SECRET, "wen", "Shop"))
    assert (told.secret, told.name, told.issuer) == (RFC_SECRET, "wen", "Ohmack Shop")
    assert len(base64.b32decode(new_secret())) * 8 == 160  # RFC 4226, section 4: 160 bits recommended; from memory


def test_a_session_begins_with_the_right_password_only(database: Database, shop: Any) -> None:
    sessions, (context, login) = SessionStore(database), shop("brenna")
    token, half = sessions.sign_in(f" {login.upper()} ", GOOD, HERE)
    visitor = sessions.opened(token)
    assert visitor
    assert (visitor.context, visitor.name, visitor.role, half) == (context, "Brenna", Role.OWNER, False)
    said = []
    for name, password in ((login, BETTER), ("nobody-there", GOOD), ("", ""), (login, GOOD.upper())):
        with pytest.raises(NotLetIn) as refused:
            sessions.sign_in(name, password, HERE)
        said.append(str(refused.value))
    assert len(set(said)) == 1, "nothing says which of the two was wrong"
    sessions.end(token)
    assert sessions.opened(token) is None
    whats = [row.what for row in AuditStore(database).list(context)]
    assert whats[:5] == ["signed out", "sign-in refused", "sign-in refused", "signed in", "joined"]
    assert sessions.opened("x" * 43) is None


def test_guessing_is_stopped_and_time_opens_it_again(database: Database, shop: Any) -> None:
    sessions, (_, login) = SessionStore(database), shop("corwen")
    for _ in range(MOST_GUESSES):
        with pytest.raises(NotLetIn):
            sessions.sign_in(login, BETTER, From("10.1.1.1"))
    with pytest.raises(TooManyGuesses) as stopped:
        sessions.sign_in(login, GOOD, From("10.1.1.2"))  # from elsewhere, and right: not looked at
    assert 1 <= stopped.value.minutes <= 15
    back_in_time(database, "UPDATE wrong_guesses SET at = at - INTERVAL 16 MINUTE")
    assert sessions.sign_in(login, GOOD, HERE)
    for _ in range(MOST_FROM_ONE):  # many names from one address
        back_in_time(database, "INSERT INTO wrong_guesses (subject) VALUES (%s)", _subject("address", "10.9.9.9"))
    with pytest.raises(TooManyGuesses):
        sessions.sign_in(login, GOOD, From("10.9.9.9"))


def test_sessions_end_by_idleness_by_age_and_by_a_clock_that_jumps(database: Database, shop: Any) -> None:
    sessions, (context, login) = SessionStore(database), shop("dunstan")
    PeopleStore(database).set_limits(context, Limits(20, 6))

    def fresh() -> str:
        return sessions.sign_in(login, GOOD, HERE)[0]

    mine = "UPDATE sessions SET {} WHERE person_id = %s"
    for moved, alive in (
        ("seen_at = seen_at - INTERVAL 19 MINUTE", True), ("seen_at = seen_at - INTERVAL 21 MINUTE", False),
        ("ends_at = ends_at - INTERVAL 350 MINUTE", True), ("ends_at = ends_at - INTERVAL 361 MINUTE", False),
        ("made_at = made_at + INTERVAL 2 HOUR", False),  # begun in what is the future now: the clock was set back
    ):  # fmt: skip
        token = fresh()
        back_in_time(database, mine.format(moved), context.person_id)
        assert (sessions.opened(token) is not None) is alive, moved
    token = fresh()
    back_in_time(database, mine.format("seen_at = seen_at - INTERVAL 15 MINUTE"), context.person_id)
    assert sessions.opened(token)
    back_in_time(database, mine.format("seen_at = seen_at - INTERVAL 15 MINUTE"), context.person_id)
    assert sessions.opened(token), "being there keeps it"


def test_the_second_factor_is_asked_for_and_a_code_works_once(database: Database, shop: Any) -> None:
    sessions, people, (context, login) = SessionStore(database), PeopleStore(database), shop("elspet")
    elsewhere, _ = sessions.sign_in(login, GOOD, HERE)
    secret, now_s = new_secret(), 1_800_000_000.0
    people.begin_second_factor(context, secret)
    assert sessions.sign_in(login, GOOD, HERE)[1] is False, "it counts once a code was entered"
    spare = people.confirm_second_factor(context, int(now_s) // STEP_S - 1, "")
    assert sessions.opened(elsewhere) is None
    half, due = sessions.sign_in(login, GOOD, HERE)
    assert due
    visitor = sessions.opened(half)
    assert visitor
    assert visitor.half
    code = pyotp.TOTP(secret).at(int(now_s))
    for wrong in ("000000" if code != "000000" else "111111", "", "zzzzz-zzzzz"):
        with pytest.raises(NotLetIn):
            sessions.second(half, wrong, now_s, HERE)
    whole = sessions.second(half, code, now_s, HERE)
    assert whole != half
    assert sessions.opened(half) is None, "a session is not the one it was before"
    assert sessions.opened(whole)
    again, _ = sessions.sign_in(login, GOOD, HERE)
    with pytest.raises(NotLetIn):
        sessions.second(again, code, now_s, HERE)  # the same code a second time
    with pytest.raises(NotLetIn):
        sessions.second(again, pyotp.TOTP(secret).at(int(now_s - STEP_S)), now_s, HERE)  # an older one
    assert sessions.second(again, f" {spare[0].upper()} ", now_s, HERE)
    assert people.codes_left(context) == 9
    third, _ = sessions.sign_in(login, GOOD, HERE)
    with pytest.raises(NotLetIn):
        sessions.second(third, spare[0], now_s, HERE)
    with pytest.raises(NotLetIn):
        sessions.second(whole, pyotp.TOTP(secret).at(int(now_s + 60)), now_s + 60, HERE)  # nothing is due there
    for _ in range(MOST_GUESSES):
        with pytest.raises((NotLetIn, TooManyGuesses)):
            sessions.second(third, "123123", now_s, HERE)
    with pytest.raises(TooManyGuesses):
        sessions.second(third, spare[1], now_s, HERE)
    people.drop_second_factor(context, context.person_id)
    assert sessions.sign_in(login, GOOD, HERE)[1] is False


def test_a_link_works_once_and_for_its_time(database: Database, shop: Any) -> None:
    sessions, people, (owner, _) = SessionStore(database), PeopleStore(database), shop("fallow")
    first = people.invite(owner, "Greta", "greta", Role.INSTALLER)
    with pytest.raises(LoginTaken):
        people.invite(owner, "Another", "GRETA", Role.GUEST)
    assert sessions.link(first).kind == "invite"
    greta = sessions.use_link(first, GOOD).context
    for used in (first, "x" * 43, ""):
        with pytest.raises(NotFound):
            sessions.use_link(used, BETTER)
    token, _ = sessions.sign_in("greta", GOOD, HERE)
    one, two = people.reset(owner, greta.person_id), people.reset(owner, greta.person_id)
    with pytest.raises(NotFound):
        sessions.link(one)  # the newer one ended it
    assert sessions.opened(token), "a link alone ends nothing"
    sessions.use_link(two, BETTER)
    assert sessions.opened(token) is None
    late = people.reset(owner, greta.person_id)
    back_in_time(database, "UPDATE one_time_links SET ends_at = ends_at - INTERVAL 25 HOUR WHERE used_at IS NULL")
    with pytest.raises(NotFound):
        sessions.use_link(late, GOOD)
    assert sessions.sign_in("greta", BETTER, HERE)


def test_roles_change_and_a_shop_keeps_an_owner(database: Database, shop: Any) -> None:
    sessions, people, (owner, login) = SessionStore(database), PeopleStore(database), shop("hadley")
    me = people.get(owner, owner.person_id)
    for role, away in ((Role.INSTALLER, False), (Role.OWNER, True)):
        with pytest.raises(LastOwner):
            people.change(owner, me.id, me.version, me.name, role, away)
    second = sessions.use_link(people.invite(owner, "Ivo", "ivo-h", Role.OWNER), GOOD).context
    token, _ = sessions.sign_in("ivo-h", GOOD, HERE)
    ivo = people.get(owner, second.person_id)
    people.change(owner, ivo.id, ivo.version, "Ivo", Role.GUEST, False)
    assert sessions.opened(token) is None, "who has other rights signs in anew"
    with pytest.raises(Conflict):
        people.change(owner, ivo.id, ivo.version, "Ivo", Role.OWNER, False)
    people.change(owner, ivo.id, ivo.version + 1, "Ivo", Role.GUEST, True)
    with pytest.raises(NotLetIn):
        sessions.sign_in("ivo-h", GOOD, HERE)
    other, _ = shop("ingram")
    with pytest.raises(NotFound):
        people.get(other, ivo.id)
    with pytest.raises(NotFound):
        people.reset(other, ivo.id)
    assert [p.login for p in people.list(owner)] == [login, "ivo-h"]
    with pytest.raises(LastOwner):
        people.found(owner, "Intruder", "intruder")
