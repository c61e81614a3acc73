"""Job packs: made in the background of one revision, kept in pieces, with how far their making is."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime
from functools import partial
from hashlib import sha256
from typing import IO, Any

from ohmack.store.context import Context
from ohmack.store.database import QUERIES, Database, NotFound

PIECE_BYTES = 4_000_000  # a server takes 16 MB in one statement
QUIET_S = 90  # one that nothing was heard of for so long has died


@dataclass(frozen=True, slots=True)
class PackRecord:
    """One pack: of which revision, how far it is, how large."""

    id: int
    number: int
    state: str  # making, made, failed
    done: int
    total: int
    doing: str
    bytes: int
    digest: str
    made_at: datetime
    quiet_s: int

    @property
    def making(self) -> bool:
        """Whether somebody is at it."""
        return self.state == "making" and self.quiet_s < QUIET_S

    @property
    def made(self) -> bool:
        """Whether it can be fetched."""
        return self.state == "made"


class PackStore:
    """The repository of packs."""

    def __init__(self, database: Database) -> None:
        self.database = database

    def begin(self, context: Context, design_id: int, number: int, total: int) -> int:
        """A pack that is being made.

        Returns:
            its number.

        Raises:
            NotFound: no such design.
        """
        ask = {"shop_id": context.shop_id, "design_id": design_id, "number": number, "total": total}
        made = self.database.run(lambda c: QUERIES.add_pack(c, **ask))
        if made is None:
            raise NotFound("design")
        return int(made["id"])

    def touch(self, context: Context, pack_id: int, done: int, doing: str) -> None:
        """Say how far it is."""
        ask = {"shop_id": context.shop_id, "id": pack_id, "done": done, "doing": doing[:120]}
        self.database.run(lambda c: QUERIES.touch_pack(c, **ask))

    def keep(self, context: Context, design_id: int, pack_id: int, file: IO[bytes]) -> None:
        """Keep a whole pack; those before it of the same design go.

        Parameters:
            context: who asks.
            design_id: the design it is of.
            pack_id: the pack that was begun.
            file: its bytes; read from its beginning.
        """

        def work(c: Any) -> None:
            shop_id, whole, size = context.shop_id, sha256(), 0
            file.seek(0)  # a transaction may be tried again
            for place, piece in enumerate(iter(partial(file.read, PIECE_BYTES), b"")):
                QUERIES.add_piece(c, shop_id=shop_id, pack_id=pack_id, place=place, piece=piece)
                whole.update(piece)
                size += len(piece)
            QUERIES.end_pack(c, shop_id=shop_id, id=pack_id, state="made", doing="", bytes=size,
                             digest=whole.hexdigest())  # fmt: skip
            QUERIES.drop_old_pieces(c, shop_id=shop_id, design_id=design_id, id=pack_id)
            QUERIES.drop_old_packs(c, shop_id=shop_id, design_id=design_id, id=pack_id)

        self.database.run(work)

    def fail(self, context: Context, pack_id: int, why: str) -> None:
        """Say that it could not be made, and why."""
        ask = {"shop_id": context.shop_id, "id": pack_id, "state": "failed", "doing": why[:120]}
        self.database.run(lambda c: QUERIES.end_pack(c, **ask, bytes=0, digest=""))

    def last(self, context: Context, design_id: int) -> PackRecord | None:
        """The newest pack of a design."""
        row = self.database.read(lambda c: QUERIES.last_pack(c, shop_id=context.shop_id, design_id=design_id))
        return None if row is None else PackRecord(**row)

    def load(self, context: Context, design_id: int, pack_id: int) -> PackRecord:
        """One pack.

        Raises:
            NotFound: no such pack of this design.
        """
        ask = {"shop_id": context.shop_id, "design_id": design_id, "id": pack_id}
        row = self.database.read(lambda c: QUERIES.get_pack(c, **ask))
        if row is None:
            raise NotFound(f"pack {pack_id}")
        return PackRecord(**row)

    def pieces(self, context: Context, pack: PackRecord) -> Iterator[bytes]:
        """A pack's bytes, piece after piece."""
        for place in range(-(-pack.bytes // PIECE_BYTES)):
            row = self.database.read(partial(QUERIES.get_piece, shop_id=context.shop_id, pack_id=pack.id, place=place))
            if row is None:
                return
            yield bytes(row["piece"])
