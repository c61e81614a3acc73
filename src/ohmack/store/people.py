"""The people of a shop: who signs in, as what, and the links that let them in the first time."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime
from typing import Any, TypeVar

from pymysql.err import IntegrityError

from ohmack.core.document.policy import Policy
from ohmack.store.audit import write_down
from ohmack.store.context import BUILT_IN, Context
from ohmack.store.database import QUERIES, Conflict, Database, NotFound, StoreError
from ohmack.store.passwords import hash_password, is_right
from ohmack.store.roles import Role
from ohmack.store.second_factor import plain_code, spare_codes
from ohmack.store.tokens import digest_of, new_token

INVITATION_MINUTES = 7 * 24 * 60
RESET_MINUTES = 24 * 60
CODE_MINUTES = 10 * 365 * 24 * 60
T = TypeVar("T")


class LoginTaken(StoreError):
    """Somebody on this server signs in with that name."""


class LastOwner(StoreError):
    """Without this person nobody could let anybody in any more."""


@dataclass(frozen=True, slots=True)
class Person:
    """One who signs in, or was invited to."""

    id: int
    name: str
    login: str
    role: Role
    version: int
    second_factor: bool
    joined: bool
    away: bool
    seen_at: datetime | None = None


@dataclass(frozen=True, slots=True)
class Invited:
    """What a one-time link opens."""

    context: Context
    kind: str
    name: str
    login: str
    shop: str


@dataclass(frozen=True, slots=True)
class Limits:
    """How long somebody stays signed in: without doing anything, and at all."""

    idle_minutes: int
    total_hours: int


def _person(row: dict[str, Any]) -> Person:
    truths = {name: bool(row[name]) for name in ("second_factor", "joined", "away")}
    return Person(**(row | truths | {"role": Role(row["role"])}))


def spare_digest(person_id: int, code: str) -> str:
    """What is stored of a spare code."""
    return digest_of(f"{person_id}:{plain_code(code)}")


class PeopleStore:
    """The repository of people."""

    def __init__(self, database: Database) -> None:
        self.database = database

    def list(self, context: Context) -> list[Person]:
        """Everybody who signs in or is invited, those put away last."""
        rows = self.database.read(lambda c: list(QUERIES.list_people(c, shop_id=context.shop_id)))
        return [_person(row) for row in rows]

    def get(self, context: Context, person_id: int) -> Person:
        """One of them.

        Raises:
            NotFound: nobody of this shop.
        """
        row = self.database.read(lambda c: QUERIES.get_person(c, shop_id=context.shop_id, id=person_id))
        if row is None:
            raise NotFound("person")
        return _person(row)

    def invite(self, context: Context, name: str, login: str, role: Role) -> str:
        """A further person, who chooses a password by a link that works once.

        Returns:
            the link's token, which is stored nowhere.

        Raises:
            LoginTaken: that sign-in name is somebody's.
        """

        def work(c: Any) -> str:
            person_id = QUERIES.add_person_who_signs_in(
                c, shop_id=context.shop_id, name=name, login=login, role=role
            )["id"]  # fmt: skip
            write_down(c, context, "invited", f"{name} as {role}")
            return _link(c, context, person_id, "invite", INVITATION_MINUTES)

        return self._new_login(work)

    def found(self, context: Context, name: str, login: str) -> str:
        """The first owner of a shop that has nobody who signs in; takes over the person there was before.

        Returns:
            the token of a link to choose the password with.

        Raises:
            LoginTaken: that sign-in name is somebody's.
            LastOwner: the shop has its owner.
        """

        def work(c: Any) -> str:
            QUERIES.hold_shop(c, shop_id=context.shop_id)  # two at once: the second finds the first
            if QUERIES.count_owners(c, shop_id=context.shop_id):
                raise LastOwner("This shop has its owner.")
            person_id = context.person_id
            row = {"shop_id": context.shop_id, "name": name, "login": login, "role": Role.OWNER}
            if not person_id or not QUERIES.give_login(c, id=person_id, **row):
                person_id = QUERIES.add_person_who_signs_in(c, **row)["id"]
            write_down(c, Context(context.shop_id, person_id), "first owner", name)
            return _link(c, Context(context.shop_id, person_id), person_id, "invite", INVITATION_MINUTES)

        return self._new_login(work)

    def ready_made(self, context: Context, name: str, login: str, role: Role, password: str) -> Context:
        """Somebody with a password from the start, as a demo needs; one of that name who only signed what was done
        signs in from now on.

        Returns:
            the context in which that person works.
        """
        shop_id, made = context.shop_id, hash_password(password)

        def work(c: Any) -> Context:
            known = QUERIES.person_by_login(c, login=login)
            named = known or QUERIES.person_named(c, shop_id=shop_id, name=name)
            row = {"shop_id": shop_id, "name": name, "login": login, "role": role}
            if named is None:
                named = QUERIES.add_person_who_signs_in(c, **row)
            elif known is None:
                QUERIES.give_login(c, id=named["id"], **row)
            QUERIES.set_password(c, shop_id=shop_id, id=named["id"], password_hash=made)
            return Context(shop_id, named["id"])

        return self.database.run(work)

    def _new_login(self, work: Callable[[Any], T]) -> T:
        try:
            return self.database.run(work)
        except IntegrityError:
            raise LoginTaken("Somebody signs in with that name already.") from None

    def change(self, context: Context, person_id: int, version: int, name: str, role: Role, away: bool) -> None:
        """Change name or role, put somebody away or take them back; who loses rights is signed out.

        Raises:
            Conflict: somebody changed it first.
            LastOwner: nobody would be left to own the shop.
        """

        def work(c: Any) -> None:
            QUERIES.hold_shop(c, shop_id=context.shop_id)
            before = QUERIES.get_person(c, shop_id=context.shop_id, id=person_id)
            row = {"name": name, "role": role, "away": away}
            if before is None or not QUERIES.change_person(
                c, shop_id=context.shop_id, id=person_id, version=version, **row
            ):
                raise Conflict(version)
            if not QUERIES.count_owners(c, shop_id=context.shop_id):
                raise LastOwner("A shop keeps at least one owner: make somebody else one first.")
            if away or role != before["role"]:
                QUERIES.end_sessions(c, shop_id=context.shop_id, person_id=person_id, but_digest="")
            done = "put away" if away else "taken back" if before["away"] else "changed"
            write_down(c, context, f"person {done}", f"{name}, {role}")

        self.database.run(work)

    def reset(self, context: Context, person_id: int) -> str:
        """A link to choose a new password with; earlier ones end.

        Raises:
            NotFound: nobody of this shop.
        """

        def work(c: Any) -> str:
            row = QUERIES.get_person(c, shop_id=context.shop_id, id=person_id)
            if row is None:
                raise NotFound("person")
            write_down(c, context, "link for a new password", row["name"])
            return _link(c, context, person_id, "reset", RESET_MINUTES)

        return self.database.run(work)

    def password_is(self, context: Context, password: str) -> bool:
        """Whether a password is somebody's own."""
        return is_right(self._secrets(context)["password_hash"], password)

    def set_password(self, context: Context, new: str, keep_digest: str) -> None:
        """Change one's own password; every other session ends."""
        made = hash_password(new)

        def work(c: Any) -> None:
            QUERIES.set_password(c, shop_id=context.shop_id, id=context.person_id, password_hash=made)
            QUERIES.end_sessions(
                c, shop_id=context.shop_id, person_id=context.person_id, but_digest=keep_digest
            )  # fmt: skip
            write_down(c, context, "password changed")

        self.database.run(work)

    def _secrets(self, context: Context) -> dict[str, Any]:
        row = self.database.read(lambda c: QUERIES.secrets_of(c, shop_id=context.shop_id, id=context.person_id))
        if row is None:
            raise NotFound("person")
        return dict(row)

    def begin_second_factor(self, context: Context, secret: str) -> None:
        """A secret that counts once a code made with it was entered."""
        self.database.run(
            lambda c: QUERIES.begin_second_factor(c, shop_id=context.shop_id, id=context.person_id, secret=secret)
        )

    def pending_secret(self, context: Context) -> str:
        """The secret that waits for its first code; empty where none does."""
        return str(self._secrets(context)["totp_pending"] or "")

    def confirm_second_factor(self, context: Context, step: int, keep_digest: str) -> tuple[str, ...]:
        """From now on sign-in asks for a code; every other session ends.

        Returns:
            the spare codes, shown this once.
        """
        codes = spare_codes()

        def work(c: Any) -> None:
            shop_id, person_id = context.shop_id, context.person_id
            if not QUERIES.confirm_second_factor(c, shop_id=shop_id, id=person_id, step=step):
                raise NotFound("second factor that waits for its first code")
            QUERIES.end_one_time(c, shop_id=shop_id, person_id=person_id, kind="code")
            for code in codes:
                QUERIES.add_one_time(
                    c, digest=spare_digest(person_id, code), shop_id=shop_id, person_id=person_id, kind="code",
                    made_by=person_id, minutes=CODE_MINUTES,
                )  # fmt: skip
            QUERIES.end_sessions(c, shop_id=shop_id, person_id=person_id, but_digest=keep_digest)
            write_down(c, context, "second factor on")

        self.database.run(work)
        return tuple(codes)

    def codes_left(self, context: Context) -> int:
        """How many spare codes somebody has."""
        question = {"shop_id": context.shop_id, "person_id": context.person_id}
        return int(self.database.read(lambda c: QUERIES.count_codes(c, **question)))

    def drop_second_factor(self, context: Context, person_id: int) -> None:
        """Sign-in asks this person for no code any more.

        Raises:
            NotFound: nobody of this shop.
        """

        def work(c: Any) -> None:
            row = QUERIES.get_person(c, shop_id=context.shop_id, id=person_id)
            if row is None:
                raise NotFound("person")
            QUERIES.drop_second_factor(c, shop_id=context.shop_id, id=person_id)
            QUERIES.end_one_time(c, shop_id=context.shop_id, person_id=person_id, kind="code")
            write_down(c, context, "second factor off", row["name"])

        self.database.run(work)

    def limits(self, context: Context) -> Limits:
        """How long people stay signed in."""
        return Limits(**self.database.read(lambda c: QUERIES.limits_of(c, shop_id=context.shop_id)))

    def set_limits(self, context: Context, limits: Limits) -> None:
        """Change how long people stay signed in: idle at once, in all from the next sign-in on."""

        def work(c: Any) -> None:
            QUERIES.set_limits(
                c, shop_id=context.shop_id, idle_minutes=limits.idle_minutes, total_hours=limits.total_hours
            )  # fmt: skip
            about = f"{limits.idle_minutes} min idle, {limits.total_hours} h in all"
            write_down(c, context, "sign-in limits", about)

        self.database.run(work)


def _link(c: Any, context: Context, person_id: int, kind: str, minutes: int) -> str:
    """A new link of a kind, inside a transaction; those before it end."""
    token = new_token()
    QUERIES.end_one_time(c, shop_id=context.shop_id, person_id=person_id, kind=kind)
    QUERIES.add_one_time(
        c, digest=digest_of(token), shop_id=context.shop_id, person_id=person_id, kind=kind,
        made_by=context.person_id or None, minutes=minutes,
    )  # fmt: skip
    return token


def new_shop(database: Database, name: str, owner: str, login: str) -> str:
    """A further shop on this server, or the first one's owner where nobody signs in yet.

    Returns:
        the token of the link its owner chooses a password with.

    Raises:
        LoginTaken: that sign-in name is somebody's.
    """
    if not signs_in(database):
        database.run(lambda c: QUERIES.rename_shop(c, shop_id=BUILT_IN.shop_id, name=name))
        return PeopleStore(database).found(BUILT_IN, owner, login)
    return PeopleStore(database).found(add_shop(database, name, Policy()), owner, login)


def way_in(database: Database, login: str) -> str:
    """A link for a new password for who can ask nobody, made on the machine itself; the second factor goes off.

    Returns:
        its token.

    Raises:
        NotFound: nobody signs in with that name.
    """
    row = database.read(lambda c: QUERIES.person_by_login(c, login=login))
    if row is None:
        raise NotFound(f"Nobody signs in as {login[:40]}.")
    nobody, people = Context(row["shop_id"], 0), PeopleStore(database)
    people.drop_second_factor(nobody, row["id"])
    return people.reset(nobody, row["id"])


def add_shop(database: Database, name: str, policy: Policy) -> Context:
    """A further shop on this server, with a person who only signs what is done before anybody signs in.

    Returns:
        the context of that person.
    """

    def work(c: Any) -> Context:
        shop_id = int(QUERIES.add_shop(c, name=name, policy=policy.model_dump_json())["id"])
        return Context(shop_id, int(QUERIES.add_person(c, shop_id=shop_id, name="")["id"]))

    return database.run(work)


def signs_in(database: Database) -> bool:
    """Whether anybody signs in on this server; until then it asks for its first owner."""
    return bool(database.read(lambda c: QUERIES.count_who_sign_in(c)))


def shops(database: Database) -> list[Context]:
    """Every shop of the server, for work that nobody asked for; as nobody of it."""
    rows = database.read(lambda c: list(QUERIES.list_shops(c)))
    return [Context(row["id"], 0) for row in rows]
