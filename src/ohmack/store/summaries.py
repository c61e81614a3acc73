"""What the list of jobs shows of each design: its verdict and picture, stored beside the revision, so that a list
evaluates nothing.
"""

from __future__ import annotations

from dataclasses import dataclass

from ohmack.store.context import Context
from ohmack.store.database import QUERIES, Database


@dataclass(frozen=True)
class Summary:
    """A verdict with its counts; `checked` once the open facts were counted too."""

    state: str
    headline: str
    detail: str
    stops: int
    watches: int
    checked: bool
    picture: str


class SummaryStore:
    """The repository of summaries: one a design, of the revision in force."""

    def __init__(self, database: Database) -> None:
        self.database = database

    def put(self, context: Context, design_id: int, number: int, summary: Summary) -> None:
        """Keep the summary of a revision; nothing is written where another revision is in force by now."""
        self.database.run(
            lambda c: QUERIES.put_summary(
                c,
                shop_id=context.shop_id,
                design_id=design_id,
                number=number,
                state=summary.state,
                headline=summary.headline[:120],
                detail=summary.detail[:240],
                stops=summary.stops,
                watches=summary.watches,
                checked=summary.checked,
                picture=summary.picture,
            )
        )

    def lacking(self, context: Context, most: int) -> list[str]:
        """Addresses of jobs whose revision in force has no summary yet, open ones first."""
        rows = self.database.read(lambda c: list(QUERIES.unsummarised(c, shop_id=context.shop_id, most=most)))
        return [row["number"] for row in rows]
