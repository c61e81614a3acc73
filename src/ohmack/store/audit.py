"""Who did what in a shop, besides the revisions of designs, which carry their person themselves."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from ohmack.store.context import Context
from ohmack.store.database import QUERIES, Database

PAGE = 60


@dataclass(frozen=True, slots=True)
class AuditRow:
    """One line of the list; nothing of it can be changed."""

    id: int
    at: datetime
    what: str
    about: str
    address: str
    name: str


def write_down(c: Any, context: Context, what: str, about: str = "", address: str = "") -> None:
    """Note what is done inside the transaction that does it; person 0 is nobody who signed in."""
    QUERIES.add_audit(
        c, shop_id=context.shop_id, person_id=context.person_id or None, what=what[:40], about=about[:200],
        address=address[:45],
    )  # fmt: skip


class AuditStore:
    """The repository of the list."""

    def __init__(self, database: Database) -> None:
        self.database = database

    def note(self, context: Context, what: str, about: str = "", address: str = "") -> None:
        """Note what was done."""
        self.database.run(lambda c: write_down(c, context, what, about, address))

    def list(self, context: Context, person_id: int = 0, before: int = 0) -> list[AuditRow]:
        """The newest lines, of one person or all, those before a line or the last ones."""
        question = {"person_id": person_id, "before": before, "most": PAGE}
        rows = self.database.read(lambda c: list(QUERIES.list_audit(c, shop_id=context.shop_id, **question)))
        return [AuditRow(**row) for row in rows]
