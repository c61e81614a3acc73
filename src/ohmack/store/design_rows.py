"""What the store says of jobs and their designs: addresses, records, lines of lists, what can be wrong with them."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any

from ohmack.core.document import Design
from ohmack.core.planning.standing import Standing
from ohmack.store.database import NotFound, StoreError
from ohmack.store.summaries import Summary


def job_and_letter(address: str) -> tuple[str, str]:
    """The job's number and the option's letter of an address.

    Raises:
        NotFound: that is no job's address.

    >>> job_and_letter("J-0401"), job_and_letter("J-0401-B")
    (('J-0401', 'A'), ('J-0401', 'B'))
    """
    found = re.fullmatch(r"(J-[0-9]{1,9})(?:-([A-Z]))?", address)
    if found is None:
        raise NotFound(f"job “{address[:40]}”")
    return found[1], found[2] or "A"


def in_columns(design: Design) -> tuple[object, ...]:
    """What people search for, kept in columns too."""
    v = design.vehicle
    return (v.make, v.model, v.year, v.body, design.title)


@dataclass(frozen=True)
class DesignRecord:
    """A design as the store holds it: the revision in force, and whether there is a way back and forth."""

    design_id: int
    job_number: str
    letter: str
    title: str
    customer: str
    phone: str
    customer_version: int
    version: int
    number: int
    design: Design
    parent_number: int | None
    child_number: int | None
    archived: bool
    edition: int = 0  # how often its revisions were rewritten to take a person's name out

    @property
    def address(self) -> str:
        """How the option is called in addresses: the job's number, with the letter from B on."""
        return self.job_number if self.letter == "A" else f"{self.job_number}-{self.letter}"

    def after(self, number: int, design: Design) -> DesignRecord:
        """The record once a revision of that number was saved on top of it."""
        title = self.title if in_columns(design) == in_columns(self.design) else design.title
        return replace(
            self, title=title, version=self.version + 1, number=number, design=design, parent_number=self.number,
            child_number=None,
        )  # fmt: skip


@dataclass(frozen=True)
class JobRow:
    """One line of the list of jobs; `summary` is None while nobody judged its revision in force."""

    job_number: str
    title: str
    customer: str
    vehicle: str
    changed_at: datetime
    standing: Standing
    summary: Summary | None


@dataclass(frozen=True)
class JobPage:
    """One page of the list of jobs."""

    rows: tuple[JobRow, ...]
    total: int
    page: int
    pages: int


@dataclass(frozen=True)
class RevisionRow:
    """One line of a design's history."""

    number: int
    parent_number: int | None
    reason: str
    author: str
    created_at: datetime


@dataclass
class BrokenDesign(StoreError):
    """A stored design that cannot be read or judged; with what is needed to go back."""

    address: str
    version: int
    number: int
    parent_number: int | None
    last_change: str
    reason: str


class TooManyOptions(ValueError):
    """The job has as many options as it may."""


def job_row(r: dict[str, Any]) -> JobRow:
    """A row of the database as a line of the list."""
    year = f", {r['year']}" if r["year"] else ""
    summary = None
    if r["state"] is not None:
        summary = Summary(
            r["state"], r["headline"], r["detail"], r["stops"], r["watches"], bool(r["checked"]), r["picture"]
        )
    return JobRow(
        r["number"],
        r["title"],
        r["customer"],
        f"{r['make']} {r['model']}, {r['body']}{year}",
        r["changed_at"],
        list(Standing)[r["standing"]],
        summary,
    )
