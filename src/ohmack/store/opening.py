"""Opening a job: its customer, its car, its first revision; one piece of a transaction each."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from ohmack.core.document import Design
from ohmack.store.context import Context
from ohmack.store.database import QUERIES
from ohmack.store.design_rows import job_and_letter
from ohmack.store.search import index_job
from ohmack.store.work import mirror_standing, mirror_work

Owner = tuple[int, int]  # (customer, vehicle)


def document_of(design: Design) -> str:
    """A design as it is stored."""
    return design.model_dump_json()


def owner_of_car(c: Any, context: Context, same_car_as: str) -> Owner | None:
    """Customer and car of a job that is there; None where none is named, or there is none."""
    if not same_car_as:
        return None
    found = QUERIES.owner_of(c, shop_id=context.shop_id, number=job_and_letter(same_car_as)[0])
    return None if found is None else (found["customer_id"], found["vehicle_id"])


def owner_new(
    c: Any, context: Context, customer: str, phone: str, design: Design, customer_id: int = 0
) -> Owner:  # fmt: skip
    """A car that was not here yet; of a customer chosen by number as long as the name is still theirs, else of who has
    that name and the same phone.
    """
    shop_id, v = context.shop_id, design.vehicle
    chosen = QUERIES.hold_customer(c, shop_id=shop_id, id=customer_id) if customer_id else None
    found = (
        (chosen if chosen is not None and chosen["name"] == customer else None)
        or QUERIES.find_customer(c, shop_id=shop_id, name=customer, phone=phone)
        or QUERIES.add_customer(c, shop_id=shop_id, name=customer, phone=phone)
    )
    vehicle = QUERIES.add_vehicle(
        c, shop_id=shop_id, customer_id=found["id"], make=v.make, model=v.model, year=v.year, body=v.body.value
    )
    return found["id"], vehicle["id"]


def open_with(
    c: Any, context: Context, owner: Owner, title: str, designs: Sequence[Design], opened_with: str | None = None,
    reason: str = "job opened",
) -> str:  # fmt: skip
    """A new job with its options, the first one A.

    Returns:
        the job's number.
    """
    shop_id = context.shop_id
    job_id = QUERIES.add_job(
        c, shop_id=shop_id, customer_id=owner[0], vehicle_id=owner[1], title=title, opened_with=opened_with
    )["id"]
    QUERIES.take_number(c, shop_id=shop_id)
    number = f"J-{QUERIES.last_number(c, shop_id=shop_id)['last_job']:04d}"
    QUERIES.number_job(c, shop_id=shop_id, id=job_id, number=number)
    for n, design in enumerate(designs):
        design_id = QUERIES.add_design(c, shop_id=shop_id, job_id=job_id, letter=chr(ord("A") + n))["id"]
        QUERIES.add_revision(
            c, shop_id=shop_id, person_id=context.person_id, design_id=design_id, number=1, parent_number=None,
            document=document_of(design), reason=reason,
        )  # fmt: skip
        mirror_work(c, context, design_id, None, design)
        mirror_standing(c, context, design_id, None, design)
    index_job(c, context, number, designs[0])
    return number
