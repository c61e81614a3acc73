"""The shop: its name, its policy, its catalogue."""

from __future__ import annotations

import json
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

from pydantic import TypeAdapter

from ohmack.core.document.parts import Part
from ohmack.core.document.policy import Policy
from ohmack.store.audit import write_down
from ohmack.store.context import Context
from ohmack.store.database import QUERIES, Conflict, Database, NotFound, search_pattern
from ohmack.store.search import index_part

PART: TypeAdapter[Part] = TypeAdapter(Part)


@dataclass(frozen=True)
class ShopRecord:
    """The shop with its policy for new jobs."""

    name: str
    policy: Policy
    version: int


@dataclass(frozen=True)
class PartRecord:
    """A catalogue part as stored."""

    part: Part
    version: int
    archived: bool


MOST_LISTED = 1000
NOT_KEPT = {
    "id",
    "position",
    "phase",
    "stands",
    "by_customer",
    "catalogue_id",
    "laid_by",
    "taken_as_usual",
}  # of a part, in the catalogue


class ShopStore:
    """The repository of the shop and its catalogue."""

    def __init__(self, database: Database) -> None:
        self.database = database

    def load(self, context: Context) -> ShopRecord:
        """The shop; a fresh database has one with default policy and no name yet.

        Raises:
            NotFound: no such shop.
        """
        row = self.database.read(lambda c: QUERIES.get_shop(c, shop_id=context.shop_id))
        if row is None:
            raise NotFound(f"shop {context.shop_id}")
        return ShopRecord(row["name"] or "Your shop", Policy.model_validate_json(row["policy"]), row["version"])

    def found(self, context: Context, name: str, policy: Policy) -> None:
        """Give the shop its name and policy."""
        tree = policy.model_dump_json()
        self.database.run(lambda c: QUERIES.found_shop(c, shop_id=context.shop_id, name=name, policy=tree))

    def add_person(self, context: Context, name: str) -> Context:
        """A further person of the shop.

        Returns:
            the context in which that person works.
        """
        row = self.database.run(lambda c: QUERIES.add_person(c, shop_id=context.shop_id, name=name))
        return Context(context.shop_id, int(row["id"]))

    def save_policy(self, context: Context, version: int, policy: Policy) -> None:
        """Change the policy for new jobs.

        Raises:
            Conflict: somebody changed it first.
        """
        tree = policy.model_dump_json()

        def work(c: Any) -> None:
            if not QUERIES.update_policy(c, shop_id=context.shop_id, policy=tree, version=version):
                raise Conflict(version)
            write_down(c, context, "policy for new jobs changed")

        self.database.run(work)

    def parts(
        self, context: Context, kind: str = "", words: str = "", most: int = MOST_LISTED, archived: bool = False
    ) -> list[Part]:
        """The catalogue, of one kind or all, with some words in its name; ids are `catalogue-N`."""
        question = {"kind": kind, "pattern": search_pattern(words), "archived": archived, "most": most}
        rows = self.database.read(lambda c: list(QUERIES.list_parts(c, shop_id=context.shop_id, **question)))
        return [self._part(row) for row in rows]

    def count_parts(self, context: Context, kind: str = "", words: str = "", archived: bool = False) -> int:
        """How many parts the same question finds in all."""
        question = {"kind": kind, "pattern": search_pattern(words), "archived": archived}
        return int(self.database.read(lambda c: QUERIES.count_parts(c, shop_id=context.shop_id, **question)))

    def record(self, context: Context, part_id: int) -> PartRecord:
        """One catalogue part with its version.

        Raises:
            NotFound: no such part.
        """
        row = self.database.read(lambda c: QUERIES.get_part(c, shop_id=context.shop_id, id=part_id))
        if row is None:
            raise NotFound(f"catalogue part {part_id}")
        return PartRecord(self._part(row), int(row["version"]), row["archived_at"] is not None)

    def change_part(self, context: Context, part_id: int, version: int, part: Part) -> None:
        """Replace what the catalogue says of a part; jobs keep their own copy.

        Raises:
            Conflict: somebody changed it first.
        """
        tree = part.model_dump(mode="json", exclude=NOT_KEPT)
        row = {"maker": part.maker, "name": part.name, "price": part.price, "data": json.dumps(tree)}

        def work(c: Any) -> None:
            if not QUERIES.change_part(c, shop_id=context.shop_id, id=part_id, version=version, **row):
                raise Conflict(version)
            index_part(c, context, part_id, part)

        self.database.run(work)

    def put_away(self, context: Context, part_id: int, version: int, back: bool = False) -> None:
        """Put a part away out of the catalogue, or take it back in.

        Raises:
            Conflict: somebody changed it first.
        """
        query = QUERIES.restore_part if back else QUERIES.archive_part
        self._one_row(version, lambda c: query(c, shop_id=context.shop_id, id=part_id, version=version))

    def _one_row(self, version: int, write: Callable[[Any], int]) -> None:
        def work(c: Any) -> None:
            if not write(c):
                raise Conflict(version)

        self.database.run(work)

    def put_parts(self, context: Context, parts: Sequence[Part]) -> tuple[int, int, int]:
        """Put many parts into the catalogue in one go; one of the same kind, maker and name is replaced.

        Returns:
            how many were added, changed, and the same as before.

        Raises:
            Conflict: somebody changed one of them meanwhile; nothing was stored.
        """

        def work(c: Any) -> tuple[int, int, int]:
            known = {(r["kind"], r["maker"], r["name"]): r for r in QUERIES.names_of_parts(c, shop_id=context.shop_id)}
            added = changed = same = 0
            for part in parts:
                tree = part.model_dump(mode="json", exclude=NOT_KEPT)
                row = known.get((part.kind, part.maker, part.name))
                if row is None:
                    made = QUERIES.add_part(
                        c,
                        shop_id=context.shop_id,
                        kind=part.kind,
                        maker=part.maker,
                        name=part.name,
                        price=part.price,
                        data=json.dumps(tree),
                    )
                    known[part.kind, part.maker, part.name] = {"id": made["id"], "version": 1, "data": json.dumps(tree)}
                    index_part(c, context, made["id"], part)
                    added += 1
                elif json.loads(row["data"]) == tree:
                    same += 1
                elif not QUERIES.replace_part(
                    c,
                    shop_id=context.shop_id,
                    id=row["id"],
                    version=row["version"],
                    price=part.price,
                    data=json.dumps(tree),
                ):
                    raise Conflict(row["version"])
                else:
                    row |= {"version": row["version"] + 1, "data": json.dumps(tree)}
                    changed += 1
            return added, changed, same

        return self.database.run(work)

    def part(self, context: Context, part_id: int) -> Part:
        """One catalogue part.

        Raises:
            NotFound: no such part.
        """
        row = self.database.read(lambda c: QUERIES.get_part(c, shop_id=context.shop_id, id=part_id))
        if row is None:
            raise NotFound(f"catalogue part {part_id}")
        return self._part(row)

    def add_part(self, context: Context, part: Part) -> int:
        """Put a part into the catalogue.

        Returns:
            its number.
        """
        tree = part.model_dump(mode="json", exclude=NOT_KEPT)

        def work(c: Any) -> int:
            row = {"kind": part.kind, "maker": part.maker, "name": part.name, "price": part.price}
            part_id = int(QUERIES.add_part(c, shop_id=context.shop_id, data=json.dumps(tree), **row)["id"])
            index_part(c, context, part_id, part)
            return part_id

        return self.database.run(work)

    @staticmethod
    def _part(row: dict[str, Any]) -> Part:
        tree = json.loads(row["data"])
        return PART.validate_python(tree | {"id": f"catalogue-{row['id']}", "catalogue_id": row["id"]}, strict=False)
