"""Customers and their cars: looked after, merged, handed out, erased."""

from __future__ import annotations

import json
from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from ohmack.core.errors import BadDocument
from ohmack.core.planning.erasing import GONE, Eraser, signers
from ohmack.core.planning.standing import Standing
from ohmack.formats.design_file import read_design
from ohmack.store.audit import write_down
from ohmack.store.context import Context
from ohmack.store.database import QUERIES, Conflict, Database, NotFound, search_pattern
from ohmack.store.search import Kind, forget, index_customer, index_job

PAGE_SIZE = 40


@dataclass(frozen=True, slots=True)
class CustomerRow:
    """One line of the list."""

    id: int
    name: str
    phone: str
    note: str
    jobs: int
    cars: int
    last_at: datetime | None


@dataclass(frozen=True, slots=True)
class CustomerPage:
    """One page of the list."""

    rows: tuple[CustomerRow, ...]
    total: int
    page: int
    pages: int


@dataclass(frozen=True, slots=True)
class CustomerJob:
    """A job of a customer."""

    number: str
    title: str
    created_at: datetime
    standing: Standing
    away: bool
    vehicle_id: int


@dataclass(frozen=True, slots=True)
class Car:
    """A car as the shop knows it; plate and chassis number only where somebody entered them."""

    id: int
    make: str
    model: str
    year: int | None
    body: str
    plate: str
    chassis: str
    version: int

    @property
    def title(self) -> str:
        """Make, model and year."""
        return " ".join(str(part) for part in (self.make, self.model, self.year) if part)


@dataclass(frozen=True, slots=True)
class CustomerRecord:
    """A customer with cars and jobs, the newest first."""

    id: int
    name: str
    phone: str
    note: str
    version: int
    erased: bool
    cars: tuple[Car, ...]
    jobs: tuple[CustomerJob, ...]


class CustomerStore:
    """The repository of customers and cars."""

    def __init__(self, database: Database) -> None:
        self.database = database

    def list(self, context: Context, words: str = "", page: int = 1) -> CustomerPage:
        """A page of the customers by name; the last one where there are not so many."""
        ask = {"shop_id": context.shop_id, "pattern": search_pattern(words)}
        total = int(self.database.read(lambda c: QUERIES.count_customers(c, **ask)))
        pages = max(1, -(-total // PAGE_SIZE))
        page = min(max(1, page), pages)
        cut = {"most": PAGE_SIZE, "skip": (page - 1) * PAGE_SIZE}
        rows = self.database.read(lambda c: [*QUERIES.list_customers(c, **ask, **cut)])
        return CustomerPage(tuple(CustomerRow(**row) for row in rows), total, page, pages)

    def get(self, context: Context, customer_id: int) -> CustomerRecord:
        """One customer; of one who was merged the one they became.

        Raises:
            NotFound: no such customer.
        """
        ask = {"shop_id": context.shop_id, "id": customer_id}
        row = self.database.read(lambda c: QUERIES.get_customer(c, **ask))
        if row is None:
            raise NotFound(f"customer {customer_id}")
        if row["merged_into"] is not None:
            return self.get(context, row["merged_into"])
        cars = self.database.read(lambda c: [Car(**r) for r in QUERIES.customers_cars(c, **ask)])
        jobs = self.database.read(lambda c: [_job(r) for r in QUERIES.customers_jobs(c, **ask)])
        named = {name: row[name] for name in ("id", "name", "phone", "note", "version")}
        return CustomerRecord(**named, erased=row["erased_at"] is not None, cars=tuple(cars), jobs=tuple(jobs))

    def change(self, context: Context, customer_id: int, version: int, name: str, phone: str, note: str) -> None:
        """Change what is known of a customer.

        Raises:
            Conflict: somebody changed it first.
        """
        row = {"name": name, "phone": phone, "note": note}

        def work(c: Any) -> None:
            if not QUERIES.change_customer(c, shop_id=context.shop_id, id=customer_id, version=version, **row):
                raise Conflict(version)
            index_customer(c, context, customer_id)

        self.database.run(work)

    def change_car(self, context: Context, car_id: int, version: int, plate: str, chassis: str) -> None:
        """Enter a car's plate and chassis number, or take them out.

        Raises:
            Conflict: somebody changed it first.
        """

        def work(c: Any) -> None:
            row = {"plate": plate, "chassis": chassis}
            if not QUERIES.change_car(c, shop_id=context.shop_id, id=car_id, version=version, **row):
                raise Conflict(version)
            _index_car(c, context, car_id)

        self.database.run(work)

    def merge(self, context: Context, customer_id: int, into_id: int) -> None:
        """Say that two customers are one person: jobs and cars of the first become the second's.

        Raises:
            NotFound: one of them is not there, or both are the same.
        """

        def work(c: Any) -> None:
            held = [
                QUERIES.hold_customer(c, shop_id=context.shop_id, id=each) for each in sorted((customer_id, into_id))
            ]
            if None in held or customer_id == into_id:
                raise NotFound("customer to merge with")
            moved = {"shop_id": context.shop_id, "id": customer_id, "into_id": into_id}
            QUERIES.hand_over_jobs(c, **moved)
            QUERIES.hand_over_cars(c, **moved)
            QUERIES.mark_merged(c, **moved)
            forget(c, context, Kind.CUSTOMER, customer_id)
            index_customer(c, context, into_id)
            write_down(c, context, "customers merged", f"customer {customer_id} into {into_id}")

        self.database.run(work)

    def hand_out(self, context: Context, customer_id: int) -> dict[str, Any]:
        """All that is stored of a customer, as plain JSON: for who asks what is known of them.

        Raises:
            NotFound: no such customer.
        """
        record, ask = self.get(context, customer_id), {"shop_id": context.shop_id, "id": customer_id}
        ask["id"] = record.id

        def work(c: Any) -> dict[str, Any]:
            plans = [
                {"design": row["id"], "revisions": [
                    {"number": r["number"], "plan": json.loads(r["document"])}
                    for r in QUERIES.documents_of(c, shop_id=context.shop_id, design_id=row["id"])
                ]}
                for row in QUERIES.designs_of_customer(c, **ask)
            ]  # fmt: skip
            return {
                "customer": {"name": record.name, "phone": record.phone, "note": record.note},
                "cars": [{"car": c_.title, "body": c_.body, "plate": c_.plate, "chassis": c_.chassis}
                         for c_ in record.cars],
                "jobs": [{"number": j.number, "title": j.title, "opened": j.created_at.isoformat()}
                         for j in record.jobs],
                "plans": plans,
                "links": [_said(row) for row in QUERIES.links_of_customer(c, **ask)],
                "photos": [_said(row) for row in QUERIES.photos_of_customer(c, **ask)],
            }  # fmt: skip

        found = self.database.run(work)
        self.database.run(lambda c: write_down(c, context, "customer's data handed out", f"customer {record.id}"))
        return found

    def erase(self, context: Context, customer_id: int) -> int:
        """Take a person out: name, phone and note, plates and chassis numbers, the name in every revision of every
        plan, signatures, packs and links. The jobs stay, and so do their photos.

        Returns:
            how many revisions were rewritten.

        Raises:
            NotFound: no such customer.
        """
        shop_id = context.shop_id

        def work(c: Any) -> int:
            person = QUERIES.hold_customer(c, shop_id=shop_id, id=customer_id)
            if person is None:
                raise NotFound(f"customer {customer_id}")
            design_ids = [r["id"] for r in QUERIES.designs_of_customer(c, shop_id=shop_id, id=customer_id)]
            eraser = _eraser(c, shop_id, design_ids, person["name"], person["phone"])
            rewritten = 0
            for design_id in design_ids:
                rewritten += _rewrite(c, shop_id, design_id, eraser)
                for query in (QUERIES.title_as_rewritten, QUERIES.new_edition, QUERIES.drop_pieces_of,
                              QUERIES.drop_packs_of, QUERIES.withdraw_links_of):  # fmt: skip
                    query(c, shop_id=shop_id, design_id=design_id)
            for row in list(QUERIES.templates_of_customer(c, shop_id=shop_id, id=customer_id)):
                kept = json.dumps(eraser.notes(json.loads(row["vehicle"])))
                QUERIES.rewrite_template(c, shop_id=shop_id, id=row["id"], vehicle=kept)
            QUERIES.clear_plates(c, shop_id=shop_id, id=customer_id)
            QUERIES.mark_erased(c, shop_id=shop_id, id=customer_id, name=GONE)
            for row in list(QUERIES.customers_jobs(c, shop_id=shop_id, id=customer_id)):
                found = QUERIES.job_to_search(c, shop_id=shop_id, number=row["number"])
                for kind in (Kind.NOTE, Kind.FINDING):  # made anew when somebody looks at the job
                    forget(c, context, kind, found["id"])
            index_customer(c, context, customer_id)
            write_down(c, context, "customer erased", f"customer {customer_id}")
            return rewritten

        return self.database.run(work)


def _job(row: dict[str, Any]) -> CustomerJob:
    standing = list(Standing)[row["standing"]]
    return CustomerJob(**(row | {"standing": standing, "away": bool(row["away"])}))


def _said(row: dict[str, Any]) -> dict[str, str]:
    return {name: "" if value is None else str(value) for name, value in row.items()}


def _index_car(c: Any, context: Context, car_id: int) -> None:

    for row in list(QUERIES.jobs_of_vehicle(c, shop_id=context.shop_id, vehicle_id=car_id)):
        index_job(c, context, row["number"])


def _eraser(c: Any, shop_id: int, design_ids: list[int], name: str, phone: str) -> Eraser:
    """What takes a customer out of their designs: their own name and those of whoever signed for them."""
    names = {name}
    for design_id in design_ids:
        for row in QUERIES.documents_of(c, shop_id=shop_id, design_id=design_id):
            with suppress(BadDocument):
                names |= signers(read_design(row["document"].encode()))
    return Eraser(sorted(names), phone)


def _rewrite(c: Any, shop_id: int, design_id: int, eraser: Eraser) -> int:
    """Take a person out of every revision of a design, and out of what its history says was typed; how many were
    written anew.
    """
    rows = list(QUERIES.documents_of(c, shop_id=shop_id, design_id=design_id))
    for row in rows:
        try:
            document = json.dumps(eraser.design(read_design(row["document"].encode())))
        except BadDocument:  # nobody can read it as a plan; the name goes all the same
            document = eraser.line(row["document"])
        QUERIES.rewrite_document(
            c, shop_id=shop_id, design_id=design_id, number=row["number"], document=document,
            reason=eraser.line(row["reason"])[:200],
        )  # fmt: skip
    return len(rows)
