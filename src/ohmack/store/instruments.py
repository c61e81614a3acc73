"""The shop's instruments: one of each kind, and where it is reached."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from ohmack.store.context import Context
from ohmack.store.database import QUERIES, Database


class InstrumentKind(StrEnum):
    """What an instrument does."""

    METER = "multimeter"
    ANALYSER = "analyser"
    SOURCE = "source"


@dataclass(frozen=True, slots=True)
class InstrumentRecord:
    """An instrument: where it is, and what it said it is when it was asked."""

    kind: InstrumentKind
    address: str
    name: str


class InstrumentStore:
    """The repository of the shop's instruments."""

    def __init__(self, database: Database) -> None:
        self.database = database

    def all(self, context: Context) -> dict[InstrumentKind, InstrumentRecord]:
        """Every instrument the shop has, by kind."""
        rows = self.database.read(lambda c: list(QUERIES.list_instruments(c, shop_id=context.shop_id)))
        found = (InstrumentRecord(InstrumentKind(r["kind"]), r["address"], r["name"]) for r in rows)
        return {record.kind: record for record in found}

    def put(self, context: Context, record: InstrumentRecord) -> None:
        """Keep an instrument in place of the one of its kind."""
        self.database.run(
            lambda c: QUERIES.put_instrument(
                c, shop_id=context.shop_id, kind=record.kind.value, address=record.address, name=record.name
            )
        )

    def drop(self, context: Context, kind: InstrumentKind) -> None:
        """Forget the instrument of a kind."""
        self.database.run(lambda c: QUERIES.drop_instrument(c, shop_id=context.shop_id, kind=kind.value))
