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
from ohmack.core.planning.notes import noted_anew
from ohmack.core.planning.standing import Standing
from ohmack.formats.design_file import read_design
from ohmack.store.audit import write_down
from ohmack.store.context import Context
from ohmack.store.database import QUERIES, Conflict, Database, NotFound, search_pattern
from ohmack.store.design_rows import (
    BrokenDesign,
    DesignRecord,
    JobPage,
    RevisionRow,
    TooManyOptions,
    in_columns,
    job_and_letter,
    job_row,
)
from ohmack.store.opening import document_of, open_with, owner_new, owner_of_car
from ohmack.store.search import index_customer, index_job
from ohmack.store.work import mirror_standing, mirror_work

CACHE_SIZE = 128
PAGE_SIZE = 24
MOST_OPTIONS = 6
SORTS = ("changed", "customer", "car", "oldest")


class DesignStore:
    """The repository of jobs, designs and revisions."""

    def __init__(self, database: Database) -> None:
        self.database = database
        self._read: OrderedDict[tuple[int, int, int], Design] = OrderedDict()  # revisions never change
        self._editions: dict[int, int] = {}  # of those that have one
        self._lock = Lock()

    def _remember(self, context: Context, design_id: int, number: int, design: Design) -> Design:
        with self._lock:
            self._read[context.shop_id, design_id, number] = design
            self._read.move_to_end((context.shop_id, design_id, number))
            while len(self._read) > CACHE_SIZE:
                self._read.popitem(last=False)
        return design

    def _forget_older(self, context: Context, design_id: int, edition: int) -> None:
        """Keep nothing of a design from before its revisions were rewritten, by this process or another."""
        with self._lock:
            if self._editions.get(design_id, 0) != edition:
                self._editions[design_id] = edition
                for key in [k for k in self._read if k[:2] == (context.shop_id, design_id)]:
                    del self._read[key]

    def _known(self, context: Context, design_id: int, number: int) -> Design | None:
        with self._lock:
            return self._read.get((context.shop_id, design_id, number))

    def list_jobs(
        self, context: Context, words: str = "", archived: bool = False, page: int = 1, size: int = PAGE_SIZE,
        standing: Standing | None = None, sort: str = "",
    ) -> JobPage:  # fmt: skip
        """One page of the jobs.

        Parameters:
            context: who asks.
            words: looked for in number, title, customer, phone and car; empty for all.
            archived: those put away instead of those that are open.
            page: from 1 on.
            size: jobs on a page.
            standing: only those that stand there; None for all.
            sort: `changed`, `customer`, `car` or `oldest`; else the newest first.
        """
        place = -1 if standing is None else list(Standing).index(standing)
        question = {"pattern": search_pattern(words), "archived": archived, "standing": place}
        total = int(self.database.read(lambda c: QUERIES.count_listed(c, shop_id=context.shop_id, **question)))
        pages = max(1, -(-total // size))
        page = min(max(1, page), pages)
        cut = {"shop_id": context.shop_id, "most": size, "skip": (page - 1) * size}
        rows = self.database.read(
            lambda c: list(
                QUERIES.list_jobs_sorted(c, **question, **cut, sort=sort)
                if sort in SORTS
                else QUERIES.list_jobs(c, **question, **cut)
            )
        )
        return JobPage(tuple(job_row(row) for row in rows), total, page, pages)

    def standings(self, context: Context) -> tuple[dict[Standing, int], int]:
        """How many open jobs stand where, and how many are put away."""
        rows = self.database.read(lambda c: list(QUERIES.count_standings(c, shop_id=context.shop_id)))
        found = {list(Standing)[row["standing"]]: int(row["jobs"]) for row in rows if not row["away"]}
        return {each: found.get(each, 0) for each in Standing}, sum(int(row["jobs"]) for row in rows if row["away"])

    def count_on_from(self, context: Context, last: int) -> None:
        """Number the first job after the last one of an older book; where there already are jobs nothing changes."""
        self.database.run(lambda c: QUERIES.count_on_from(c, shop_id=context.shop_id, last_job=last))

    def count_jobs(self, context: Context) -> int:
        """How many jobs there are, archived ones included."""
        return int(self.database.read(lambda c: QUERIES.count_jobs(c, shop_id=context.shop_id))["count"])

    def open_job(
        self, context: Context, customer: str, phone: str, title: str, design: Design, opened_with: str | None = None,
        same_car_as: str = "", opened_at: datetime | None = None, customer_id: int = 0,
    ) -> str:  # fmt: skip
        """Open a job with the first revision of its option A.

        Parameters:
            customer: their name; a customer of the same name is the same person only with the same phone.
            phone: their phone, perhaps empty.
            title: what the job is.
            design: its first revision.
            opened_with: the token of the form; a form sent twice opens one job.
            opened_at: when it was opened, in UTC; None for now.
            customer_id: a customer who is there, taken while the name is theirs; 0 for who has that name and phone.
            same_car_as: a job whose car and customer it is; empty for a car that was not here yet.

        Returns:
            the job's number.
        """

        def work(c: Any) -> str:
            owner = owner_of_car(c, context, same_car_as) or owner_new(c, context, customer, phone, design, customer_id)
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
            mirror_standing(c, context, design_id, None, design)
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
        self._forget_older(context, row["id"], row["edition"])
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
            row["edition"],
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
            self._mirror(c, context, design_id, before, design)
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
                self._mirror(c, context, design_id, None, self._revision(c, context, design_id, number))
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
            row = QUERIES.job_to_search(c, shop_id=context.shop_id, number=number)
            index_customer(c, context, row["customer_id"])

        self.database.run(work)

    def enter_anew(self, context: Context, address: str) -> None:
        """Make a job found, and say where it stands, as after an update that asks for it.

        Raises:
            NotFound: no such job.
            BrokenDesign: the stored document cannot be read.
        """
        record = self.load(context, address)

        def work(c: Any) -> None:
            mirror_standing(c, context, record.design_id, None, record.design)
            index_job(c, context, record.job_number, record.design if record.letter == "A" else None)

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
        """Put a job away, or bring it back; nothing is deleted.

        Raises:
            NotFound: no such job.
        """
        number = job_and_letter(job_number)[0]

        def work(c: Any) -> None:
            if QUERIES.job_of(c, shop_id=context.shop_id, job_number=number) is None:
                raise NotFound(job_number)
            QUERIES.archive_job(c, shop_id=context.shop_id, number=number, archived=archived)
            write_down(c, context, "job put away" if archived else "job brought back", number)

        self.database.run(work)

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
    def _mirror(c: Any, context: Context, design_id: int, before: Design | None, design: Design) -> None:
        """What people search, count and filter by stands in tables too."""
        v, changed = design.vehicle, before is None or in_columns(before) != in_columns(design)
        if changed:
            QUERIES.update_vehicle(
                c, shop_id=context.shop_id, design_id=design_id, make=v.make, model=v.model, year=v.year,
                body=v.body.value,
            )  # fmt: skip
            QUERIES.update_title(c, shop_id=context.shop_id, design_id=design_id, title=design.title)
        if changed or noted_anew(before, design):
            row = QUERIES.address_of_design(c, shop_id=context.shop_id, design_id=design_id)
            index_job(c, context, row["number"], design if row["letter"] == "A" else None)
        mirror_work(c, context, design_id, before, design)
        mirror_standing(c, context, design_id, before, design)
