"""Links a customer opens without signing in: unguessable, of one revision, until a day, withdrawn at once.

Only what a token hashes to is stored: who reads the database opens no link.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime
from hmac import compare_digest
from typing import Any

from ohmack.store.audit import write_down
from ohmack.store.context import Context
from ohmack.store.database import QUERIES, Database, NotFound
from ohmack.store.tokens import digest_of, new_token


@dataclass(frozen=True, slots=True)
class LinkRecord:
    """One link, without its token, which nobody knows any more."""

    id: int
    number: int
    ends_on: date
    made_at: datetime
    withdrawn: bool

    def open_on(self, day: date) -> bool:
        """Whether it still opens."""
        return not self.withdrawn and day <= self.ends_on


@dataclass(frozen=True, slots=True)
class Linked:
    """What a link opens: one revision of one design, asked for by the shop that made it."""

    context: Context
    design_id: int
    number: int
    ends_on: date


class CustomerLinkStore:
    """The repository of links."""

    def __init__(self, database: Database) -> None:
        self.database = database

    def make(self, context: Context, design_id: int, number: int, ends_on: date) -> str:
        """A new link on one revision.

        Returns:
            its token, which is stored nowhere.

        Raises:
            NotFound: no such design.
        """
        token = new_token()
        digest = digest_of(token)

        def work(c: Any) -> None:
            made = QUERIES.add_link(
                c, shop_id=context.shop_id, person_id=context.person_id, design_id=design_id, number=number,
                selector=digest[:16], digest=digest, ends_on=ends_on,
            )  # fmt: skip
            if made is None:
                raise NotFound("design")
            where = QUERIES.address_of_design(c, shop_id=context.shop_id, design_id=design_id)
            write_down(c, context, "customer's link made", f"{where['number']}, until {ends_on}")

        self.database.run(work)
        return token

    def list(self, context: Context, design_id: int) -> list[LinkRecord]:
        """The links of a design, newest first."""
        rows = self.database.read(
            lambda c: [*QUERIES.list_links(c, shop_id=context.shop_id, design_id=design_id)]
        )  # fmt: skip
        return [LinkRecord(r["id"], r["number"], r["ends_on"], r["made_at"], bool(r["withdrawn"])) for r in rows]

    def opened(self, token: str, day: date) -> Linked:
        """What a token opens on a day.

        Raises:
            NotFound: forged, withdrawn or over; nothing says which.
        """
        digest = digest_of(token)
        rows = self.database.read(lambda c: [*QUERIES.links_by_selector(c, selector=digest[:16])])
        found = None
        for row in rows:
            if compare_digest(row["digest"], digest) and not row["withdrawn"] and day <= row["ends_on"]:
                found = row
        if found is None:
            raise NotFound("link")
        by = Context(found["shop_id"], found["person_id"])
        return Linked(by, found["design_id"], found["number"], found["ends_on"])

    def withdraw(self, context: Context, design_id: int, link_id: int) -> None:
        """Close a link at once; doing it twice changes nothing."""
        self.database.run(
            lambda c: QUERIES.withdraw_link(c, shop_id=context.shop_id, design_id=design_id, id=link_id)
        )  # fmt: skip
