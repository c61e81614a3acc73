"""Jobs and their designs: every save is a new immutable revision behind a version check."""

from __future__ import annotations

from collections import OrderedDict
from contextlib import suppress
from dataclasses import replace
from datetime import datetime
from threading import Lock
from typing import Any

from pymysql.err import IntegrityError

from ohmack.core.document import Design
from ohmack.core.errors import BadDocument
from ohmack.formats.design_file import read_design
from ohmack.store.context import Context
from ohmack.store.database import QUERIES, Conflict, Database, NotFound, search_pattern
from ohmack.store.design_rows import (
    BrokenDesign,
    DesignRecord,
    JobPage,
    RevisionRow,
    TooManyOptions,
    job_and_letter,
    job_row,
)
from ohmack.store.opening import document_of, open_with, owner_new, owner_of_car
from ohmack.store.work import mirror_work

CACHE_SIZE = 128
PAGE_SIZE = 24
MOST_OPTIONS = 6


def _searched(design: Design) -> tuple[object, ...]:
    """What people search for, kept in columns too."""
    v = design.vehicle
    return (v.make, v.model, v.year, v.body, design.title)


class DesignStore:
    """The repository of jobs, designs and revisions."""

    def __init__(self, database: Database) -> None:
        self.database = database
        self._read: OrderedDict[tuple[int, int, int], Design] = OrderedDict()  # revisions never change
        self._lock = Lock()

    def _remember(self, context: Context, design_id: int, number: int, design: Design) -> Design:
        with self._lock:
            self._read[context.shop_id, design_id, number] = design
            self._read.move_to_end((context.shop_id, design_id, number))
            while len(self._read) > CACHE_SIZE:
                self._read.popitem(last=False)
        return design

    def _known(self, context: Context, design_id: int, number: int) -> Design | None:
        with self._lock:
            return self._read.get((context.shop_id, design_id, number))

    def list_jobs(
        self, context: Context, words: str = "", archived: bool = False, page: int = 1, size: int = PAGE_SIZE
    ) -> JobPage:
        """One page of the jobs, newest first; words are looked for in number, title, customer, phone and car."""
        question = {"pattern": search_pattern(words), "archived": archived}
        total = int(self.database.read(lambda c: QUERIES.count_listed(c, shop_id=context.shop_id, **question)))
        pages = max(1, -(-total // size))
        page = min(max(1, page), pages)
        rows = self.database.read(
            lambda c: list(QUERIES.list_jobs(c, shop_id=context.shop_id, **question, most=size, skip=(page - 1) * size))
        )
        return JobPage(tuple(job_row(row) for row in rows), total, page, pages)

    def count_jobs(self, context: Context) -> int:
        """How many jobs there are, archived ones included."""
        return int(self.database.read(lambda c: QUERIES.count_jobs(c, shop_id=context.shop_id))["count"])

    def open_job(
        self, context: Context, customer: str, phone: str, title: str, design: Design, opened_with: str | None = None,
        same_car_as: str = "", opened_at: datetime | None = None,
    ) -> str:  # fmt: skip
        """Open a job with the first revision of its option A.

        Parameters:
            customer: their name; a customer of the same name is the same person only with the same phone.
            phone: their phone, perhaps empty.
            title: what the job is.
            design: its first revision.
            opened_with: the token of the form; a form sent twice opens one job.
            opened_at: when it was opened, in UTC; None for now.
            same_car_as: a job whose car and customer it is; empty for a car that was not here yet.

        Returns:
            the job's number.
        """

        def work(c: Any) -> str:
            owner = owner_of_car(c, context, same_car_as) or owner_new(c, context, customer, phone, design)
            number = open_with(c, context, owner, title, (design,), opened_with)
            if opened_at is not None:
                QUERIES.open_job_at(c, shop_id=context.shop_id, number=number, created_at=opened_at)
            return number

        try:
            return self.database.run(work)
        except IntegrityError:
            found = self.database.read(
                lambda c: QUERIES.job_opened_with(c, shop_id=context.shop_id, opened_with=opened_with)
            )
            if found is None:
                raise
            return str(found["number"])

    def options(self, context: Context, address: str) -> list[str]:
        """The addresses of every option of a job."""
        number = job_and_letter(address)[0]
        rows = self.database.read(lambda c: list(QUERIES.list_options(c, shop_id=context.shop_id, job_number=number)))
        return [number if row["letter"] == "A" else f"{number}-{row['letter']}" for row in rows]

    def add_option(self, context: Context, address: str) -> str:
        """A further option of a job, copied from one that is there.

        Returns:
            its address.

        Raises:
            NotFound: no such job or option.
            TooManyOptions: the job has its fill.
        """
        record = self.load(context, address)
        number = record.job_number

        def work(c: Any) -> str:
            job_id = QUERIES.job_of(c, shop_id=context.shop_id, job_number=number)[
                "id"
            ]  # holds the job while the letter is taken
            letters = [row["letter"] for row in QUERIES.list_options(c, shop_id=context.shop_id, job_number=number)]
            if len(letters) >= MOST_OPTIONS:
                raise TooManyOptions(f"A job has at most {MOST_OPTIONS} options; put one of them to use instead.")
            letter = chr(ord(max(letters)) + 1)
            design = record.design.model_copy(update={"option_name": "", "option_note": ""})
            design_id = QUERIES.add_design(c, shop_id=context.shop_id, job_id=job_id, letter=letter)["id"]
            QUERIES.add_revision(
                c,
                shop_id=context.shop_id,
                person_id=context.person_id,
                design_id=design_id,
                number=1,
                parent_number=None,
                document=document_of(design),
                reason=f"copied from option {record.letter}",
            )
            mirror_work(c, context, design_id, None, design)
            return f"{number}-{letter}"

        return self.database.run(work)

    def load(self, context: Context, address: str) -> DesignRecord:
        """The revision in force of a job's option A, or of another by its letter behind the number.

        Raises:
            NotFound: no such job or option.
            BrokenDesign: the stored document cannot be read.
        """
        job_number, letter = job_and_letter(address)
        row = self.database.read(
            lambda c: QUERIES.get_design(c, shop_id=context.shop_id, job_number=job_number, letter=letter)
        )
        if row is None:
            raise NotFound(address)
        try:
            design = self.revision(context, row["id"], row["current_number"])
        except BadDocument as error:
            raise BrokenDesign(
                address, row["version"], row["current_number"], row["parent_number"], row["reason"], str(error)
            ) from None
        return DesignRecord(
            row["id"],
            row["job_number"],
            row["letter"],
            row["title"],
            row["customer"],
            row["phone"],
            row["customer_version"],
            row["version"],
            row["current_number"],
            design,
            row["parent_number"],
            row["child_number"],
            row["archived_at"] is not None,
        )

    def at(self, context: Context, design_id: int, number: int) -> DesignRecord:
        """A design as it was in one of its revisions.

        Raises:
            NotFound: no such design or revision.
        """
        row = self.database.read(lambda c: QUERIES.address_of_design(c, shop_id=context.shop_id, design_id=design_id))
        if row is None:
            raise NotFound("design")
        address = row["number"] if row["letter"] == "A" else f"{row['number']}-{row['letter']}"
        return replace(
            self.load(context, address), number=number, design=self.revision(context, design_id, number)
        )  # fmt: skip

    def save(self, context: Context, design_id: int, version: int, design: Design, reason: str) -> int:
        """A new revision on top of the one in force.

        Returns:
            the new revision's number.

        Raises:
            Conflict: the design is not at this version any more; nothing was saved.
        """

        def work(c: Any) -> int:
            self._claim(c, context, design_id, version)
            pointer = QUERIES.pointer(c, shop_id=context.shop_id, id=design_id)
            number = int(pointer["last_number"]) + 1
            QUERIES.add_revision(
                c,
                shop_id=context.shop_id,
                person_id=context.person_id,
                design_id=design_id,
                number=number,
                parent_number=pointer["current_number"],
                document=document_of(design),
                reason=reason[:200],
            )
            QUERIES.point_design(c, shop_id=context.shop_id, id=design_id, number=number)
            before = self._known(context, design_id, pointer["current_number"])
            if before is None or _searched(before) != _searched(design):
                self._mirror(c, context, design_id, design)
            mirror_work(c, context, design_id, before, design)
            return number

        number = self.database.run(work)
        self._remember(context, design_id, number, design)
        return number

    def step(self, context: Context, design_id: int, version: int, forward: bool) -> bool:
        """Undo (back to the parent) or redo (on to the newest child).

        Returns:
            False where there is nothing to step to.

        Raises:
            Conflict: the design is not at this version any more.
        """

        def work(c: Any) -> bool:
            self._claim(c, context, design_id, version)
            pointer = QUERIES.pointer(c, shop_id=context.shop_id, id=design_id)
            number = pointer["child_number"] if forward else pointer["parent_number"]
            if number is None:
                return False
            QUERIES.point_design(c, shop_id=context.shop_id, id=design_id, number=number)
            with suppress(BadDocument):  # a step onto a document nobody can read is still a step
                design = self._revision(c, context, design_id, number)
                self._mirror(c, context, design_id, design)
                mirror_work(c, context, design_id, None, design)
            return True

        return self.database.run(work)

    def revision(self, context: Context, design_id: int, number: int) -> Design:
        """One revision of a design.

        Raises:
            NotFound: no such revision.
        """
        known = self._known(context, design_id, number)
        if known is not None:
            return known
        found = self.database.read(lambda c: self._revision(c, context, design_id, number))
        return self._remember(context, design_id, number, found)

    def history(self, context: Context, design_id: int) -> list[RevisionRow]:
        """The revisions of a design, newest first."""
        rows = self.database.read(
            lambda c: list(QUERIES.list_revisions(c, shop_id=context.shop_id, design_id=design_id))
        )
        return [RevisionRow(**row) for row in rows]

    def rename_customer(self, context: Context, job_number: str, version: int, name: str, phone: str) -> None:
        """Change the customer's name and phone.

        Raises:
            Conflict: somebody changed them first; nothing was saved.
        """

        def work(c: Any) -> None:
            number = job_and_letter(job_number)[0]
            if not QUERIES.update_customer(
                c, shop_id=context.shop_id, number=number, version=version, name=name, phone=phone
            ):
                raise Conflict(version)

        self.database.run(work)

    def where_it_stands(self, context: Context, address: str) -> tuple[int, int, int, int | None, str]:
        """(design id, version, number in force, its parent, last change) of an option, without reading its document.

        Raises:
            NotFound: no such job or option.
        """
        job_number, letter = job_and_letter(address)
        row = self.database.read(
            lambda c: QUERIES.where_it_stands(c, shop_id=context.shop_id, job_number=job_number, letter=letter)
        )
        if row is None:
            raise NotFound(address)
        return row["id"], row["version"], row["current_number"], row["parent_number"], row["reason"]

    def archive(self, context: Context, job_number: str, archived: bool) -> None:
        """Put a job away, or bring it back; nothing is deleted."""
        self.database.run(
            lambda c: QUERIES.archive_job(
                c, shop_id=context.shop_id, number=job_and_letter(job_number)[0], archived=archived
            )
        )

    @staticmethod
    def _claim(c: Any, context: Context, design_id: int, version: int) -> None:
        if not QUERIES.claim_design(c, shop_id=context.shop_id, id=design_id, version=version):
            raise Conflict(version)

    @staticmethod
    def _revision(c: Any, context: Context, design_id: int, number: int) -> Design:
        row = QUERIES.get_revision(c, shop_id=context.shop_id, design_id=design_id, number=number)
        if row is None:
            raise NotFound(f"revision {number}")
        return read_design(row["document"].encode())

    @staticmethod
    def _mirror(c: Any, context: Context, design_id: int, design: Design) -> None:
        """What people search for stands in columns too."""
        v = design.vehicle
        QUERIES.update_vehicle(
            c, shop_id=context.shop_id, design_id=design_id, make=v.make, model=v.model, year=v.year, body=v.body.value
        )
        QUERIES.update_title(c, shop_id=context.shop_id, design_id=design_id, title=design.title)
