"""Signing in and staying in: sessions, guesses, second factor and one-time links. Everything here is found by what
somebody shows, not by who they are; the time is the database's, one for all machines.
"""

from __future__ import annotations

import logging
from dataclasses import dataclass
from datetime import datetime
from hashlib import sha256
from typing import Any

from ohmack.store.audit import write_down
from ohmack.store.context import Context
from ohmack.store.database import QUERIES, Database, NotFound, StoreError
from ohmack.store.passwords import hash_password, is_outdated, is_right
from ohmack.store.people import Invited, spare_digest
from ohmack.store.roles import Role
from ohmack.store.second_factor import step_of
from ohmack.store.tokens import digest_of, new_token

LOG = logging.getLogger("ohmack.security")
GUESS_MINUTES = 15
MOST_GUESSES = 8  # of one sign-in name, or one second factor, in that time
MOST_FROM_ONE = 60  # from one address, which may be a whole shop's
HALF_HOURS = 1


class NotLetIn(StoreError):
    """Name, password or code are not right; nothing says which."""


@dataclass
class TooManyGuesses(StoreError):
    """Nothing is looked at for a while."""

    minutes: int


@dataclass(frozen=True, slots=True)
class Visitor:
    """Who is signed in."""

    context: Context
    name: str
    login: str
    role: Role
    shop: str
    half: bool  # the password was right, the second factor is due


@dataclass(frozen=True, slots=True)
class SessionRow:
    """One place somebody is signed in at."""

    digest: str
    made_at: datetime
    seen_at: datetime
    ends_at: datetime
    browser: str
    address: str


@dataclass(frozen=True, slots=True)
class From:
    """Where a request comes from."""

    address: str = ""
    browser: str = ""


def _subject(kind: str, value: str) -> str:
    return sha256(f"{kind}:{value.strip().casefold()}".encode("utf-8", "surrogatepass")).hexdigest()


class SessionStore:
    """The repository of sessions."""

    def __init__(self, database: Database) -> None:
        self.database = database

    def sign_in(self, login: str, password: str, whence: From) -> tuple[str, bool]:
        """Let somebody in.

        Returns:
            the session's token, and whether the second factor is due.

        Raises:
            NotLetIn: name or password is wrong.
            TooManyGuesses: too many were, of late.
        """
        by_name, by_address = _subject("name", login), _subject("address", whence.address)
        self._claim(by_name, by_address)
        row = self.database.read(lambda c: QUERIES.secrets_by_login(c, login=login.strip()))
        if not is_right(row["password_hash"] if row else None, password) or row is None:
            if row is not None:
                by = Context(row["shop_id"], row["id"])
                self.database.run(lambda c: write_down(c, by, "sign-in refused", "", whence.address))
            LOG.warning("sign-in refused from %s", whence.address or "nowhere")
            raise NotLetIn("That name and that password do not belong together.")
        by, half, token = Context(row["shop_id"], row["id"]), bool(row["second_factor"]), new_token()
        fresh = hash_password(password) if is_outdated(row["password_hash"]) else ""

        def work(c: Any) -> None:
            QUERIES.forgive(c, subject=by_name)
            QUERIES.forgive_one(c, subject=by_address)
            QUERIES.sweep_guesses(c)
            QUERIES.sweep_sessions(c)
            if fresh:
                QUERIES.rehash_password(c, id=by.person_id, before=row["password_hash"], password_hash=fresh)
            _open(c, by, token, half, HALF_HOURS if half else row["total_hours"], whence)

        self.database.run(work)
        return token, half

    def second(self, token: str, code: str, at_s: float, whence: From) -> str:
        """The second factor of a session that waits for it: a phone's code or a spare one.

        Parameters:
            token: of the session.
            code: as typed.
            at_s: the time in seconds since 1970, UTC.
            whence: where it comes from.

        Returns:
            the token of the whole session, a new one.

        Raises:
            NotLetIn: the code is wrong or was used before, or nothing waits for one.
            TooManyGuesses: too many were wrong, of late.
        """
        visitor = self.opened(token)
        if visitor is None or not visitor.half:
            raise NotLetIn("Sign in again.")
        by = visitor.context
        subject = _subject("code", str(by.person_id))
        self._claim(subject, _subject("address", whence.address))
        secrets = self.database.read(lambda c: QUERIES.secrets_of(c, shop_id=by.shop_id, id=by.person_id))
        step = step_of(secrets["totp_secret"], code, at_s) if secrets["totp_secret"] else None
        fresh = new_token()

        def work(c: Any) -> bool:
            if step is not None:
                right = bool(QUERIES.use_step(c, shop_id=by.shop_id, id=by.person_id, step=step))
            else:
                right = bool(QUERIES.use_one_time(c, digest=spare_digest(by.person_id, code)))
            if right:
                QUERIES.forgive(c, subject=subject)
                QUERIES.forgive_one(c, subject=_subject("address", whence.address))
                QUERIES.end_session(c, digest=digest_of(token))
                hours = QUERIES.limits_of(c, shop_id=by.shop_id)["total_hours"]
                _open(c, by, fresh, False, hours, whence, "" if step is not None else "with a spare code")
            else:
                write_down(c, by, "code refused", "", whence.address)
            return right

        if not self.database.run(work):
            raise NotLetIn("That code is not right, or was used before. The phone shows a new one every 30 s.")
        return fresh

    def opened(self, token: str) -> Visitor | None:
        """Who holds a session's token; None where it is forged, over, idle for too long, or signed out."""
        digest = digest_of(token)
        row = self.database.read(lambda c: QUERIES.get_session(c, digest=digest))
        if row is None:
            return None
        if row["stale"]:
            self.database.run(lambda c: QUERIES.touch_session(c, digest=digest))
        by = Context(row["shop_id"], row["person_id"])
        return Visitor(by, row["name"], row["login"], Role(row["role"]), row["shop"] or "Your shop", bool(row["half"]))

    def begin(self, context: Context, hours: int, whence: From) -> str:
        """A session for somebody who has just shown who they are.

        Returns:
            its token.
        """
        token = new_token()
        self.database.run(lambda c: _open(c, context, token, False, hours, whence))
        return token

    def end(self, token: str) -> None:
        """Sign out here."""
        visitor = self.opened(token)

        def work(c: Any) -> None:
            if QUERIES.end_session(c, digest=digest_of(token)) and visitor is not None:
                write_down(c, visitor.context, "signed out")

        self.database.run(work)

    def end_others(self, context: Context, keep_token: str) -> None:
        """Sign out everywhere else."""

        def work(c: Any) -> None:
            keep = digest_of(keep_token)
            QUERIES.end_sessions(c, shop_id=context.shop_id, person_id=context.person_id, but_digest=keep)
            write_down(c, context, "signed out everywhere else")

        self.database.run(work)

    def list(self, context: Context) -> list[SessionRow]:
        """Where somebody is signed in."""
        question = {"shop_id": context.shop_id, "person_id": context.person_id}
        return [SessionRow(**row) for row in self.database.read(lambda c: list(QUERIES.list_sessions(c, **question)))]

    def link(self, token: str) -> Invited:
        """What a one-time link is for.

        Raises:
            NotFound: forged, used or over; nothing says which.
        """
        row = self.database.read(lambda c: QUERIES.open_one_time(c, digest=digest_of(token)))
        if row is None or row["kind"] == "code":
            raise NotFound("link")
        return Invited(Context(row["shop_id"], row["person_id"]), row["kind"], row["name"], row["login"],
                       row["shop"] or "Your shop")  # fmt: skip

    def use_link(self, token: str, password: str) -> Invited:
        """Choose a password by a link, which is used up by it; every session there was ends.

        Raises:
            NotFound: forged, used or over.
        """
        invited = self.link(token)
        made, by = hash_password(password), invited.context

        def work(c: Any) -> None:
            if not QUERIES.use_one_time(c, digest=digest_of(token)):
                raise NotFound("link")
            QUERIES.set_password(c, shop_id=by.shop_id, id=by.person_id, password_hash=made)
            QUERIES.end_sessions(c, shop_id=by.shop_id, person_id=by.person_id, but_digest="")
            QUERIES.forgive(c, subject=_subject("name", invited.login))
            write_down(c, by, "joined" if invited.kind == "invite" else "new password by link")

        self.database.run(work)
        return invited

    def claim_guess(self, context: Context) -> None:
        """Count a try of somebody who is signed in and shows the password or a code once more.

        Raises:
            TooManyGuesses: too many were wrong, of late.
        """
        self._claim(_subject("again", str(context.person_id)))

    def forgive(self, context: Context) -> None:
        """That try was right."""
        self.database.run(lambda c: QUERIES.forgive(c, subject=_subject("again", str(context.person_id))))

    def _claim(self, subject: str, address: str = "") -> None:
        """Count a guess before it is looked at, so that many at once are no way round the limit."""

        def work(c: Any) -> int:
            for held, most in ((subject, MOST_GUESSES), (address, MOST_FROM_ONE)):
                found = QUERIES.count_guesses(c, subject=held, minutes=GUESS_MINUTES)
                if found["tries"] >= most:
                    return max(1, GUESS_MINUTES - int(found["oldest_s"] or 0) // 60)
            QUERIES.add_guess(c, subject=subject)
            if address:
                QUERIES.add_guess(c, subject=address)
            return 0

        if wait := self.database.run(work):
            raise TooManyGuesses(wait)


def _open(c: Any, by: Context, token: str, half: bool, hours: int, whence: From, how: str = "") -> None:
    QUERIES.add_session(
        c, digest=digest_of(token), shop_id=by.shop_id, person_id=by.person_id, half=half, hours=hours,
        browser=whence.browser[:160], address=whence.address[:45],
    )  # fmt: skip
    if not half:
        write_down(c, by, "signed in", how, whence.address)
