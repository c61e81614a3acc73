"""Cars: which jobs are of one car, which may be, joined and parted."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from ohmack.store.context import Context
from ohmack.store.database import QUERIES, Database, NotFound
from ohmack.store.design_rows import job_and_letter


@dataclass(frozen=True, slots=True)
class CarJobRow:
    """One job of a car."""

    number: str
    title: str
    created_at: datetime
    customer: str


class CarStore:
    """The repository of cars, which are what their jobs share."""

    def __init__(self, database: Database) -> None:
        self.database = database

    def jobs(self, context: Context, address: str) -> list[CarJobRow]:
        """Every job of the car of one, oldest first."""
        return self._rows(QUERIES.jobs_of_car, context, address)

    def like(self, context: Context, address: str) -> list[CarJobRow]:
        """Jobs of other cars of its make and model, the same customer's first."""
        return self._rows(QUERIES.jobs_of_like_cars, context, address)

    def of_customer(self, context: Context, address: str) -> list[CarJobRow]:
        """The other jobs of the customer of one, or of somebody of that name, the newest first."""
        return self._rows(QUERIES.other_jobs_of_customer, context, address)

    def _rows(self, query: Any, context: Context, address: str) -> list[CarJobRow]:
        number = job_and_letter(address)[0]
        found = self.database.read(lambda c: list(query(c, shop_id=context.shop_id, number=number)))
        return [CarJobRow(**row) for row in found]

    def join(self, context: Context, address: str, other: str) -> None:
        """Say that two jobs are of one car.

        Raises:
            NotFound: no such job.
        """
        number, with_number = job_and_letter(address)[0], job_and_letter(other)[0]

        def work(c: Any) -> None:
            here = QUERIES.owner_of(c, shop_id=context.shop_id, number=number)
            there = QUERIES.owner_of(c, shop_id=context.shop_id, number=with_number)
            if here is None or there is None:
                raise NotFound(f"job {other[:20]}")
            QUERIES.put_into_car(c, shop_id=context.shop_id, number=number, vehicle_id=there["vehicle_id"])

        self.database.run(work)

    def part(self, context: Context, address: str) -> None:
        """Say that a job is of a car of its own.

        Raises:
            NotFound: no such job.
        """
        number = job_and_letter(address)[0]

        def work(c: Any) -> None:
            made = QUERIES.split_vehicle(c, shop_id=context.shop_id, number=number)
            if made is None:
                raise NotFound(f"job {number}")
            QUERIES.put_into_car(c, shop_id=context.shop_id, number=number, vehicle_id=made["id"])

        self.database.run(work)
