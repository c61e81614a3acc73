"""Parts of another job that come over into this car: which job, and which of its parts."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from markupsafe import Markup

from ohmack.core.document.parts import Part
from ohmack.core.planning.coming_over import came_over, may_come
from ohmack.core.wording import count
from ohmack.drawing.picture import Layer
from ohmack.store.cars import CarJobRow
from ohmack.store.database import NotFound
from ohmack.store.design_rows import DesignRecord
from ohmack.web.car_picture import ALL_LINKS, car_picture
from ohmack.web.page import Page
from ohmack.web.sheet import Asked, Sheet
from ohmack.web.workshop import Workshop


@dataclass(frozen=True)
class Over:
    """The customer's other jobs, and the one that was asked for: None where there is none, or not that one."""

    jobs: tuple[CarJobRow, ...]
    asked: str
    other: DesignRecord | None
    rows: tuple[tuple[Part, bool, bool], ...]  # (part, whether it usually moves along, whether it is here already)


def _over(shop: Workshop, record: DesignRecord, asked: Asked) -> dict[str, Any]:
    jobs = tuple(shop.cars.of_customer(shop.context, record.job_number))
    named = "" if {"/", ":"} & set(asked.show) else asked.show  # a thing of this car was chosen on the picture
    address = named or (jobs[0].number if len(jobs) == 1 else "")
    other = None
    if address and address != record.address:
        try:
            other = shop.designs.load(shop.context, address)
        except NotFound:
            other = None
    parts = may_come(other.design) if other is not None else ()
    rows = tuple((part, usual, came_over(record.design, part)) for part, usual in parts)
    return {"over": Over(jobs, address, other, rows)}


def say(page: Page) -> tuple[str, str]:
    """What may come over, and from where."""
    over = page.extra.get("over")
    if over is None or over.other is None:
        return "Parts from another job", "of a car that is sold, or of one that no longer needs them"
    car = over.other.design.vehicle.title
    return f"{count(len(over.rows), 'part')} in {over.other.address}", f"{car}: {over.other.title}"


def draw(page: Page) -> Markup:
    """This car, with what is in its plan by now."""
    return car_picture(page, Layer(links=ALL_LINKS, touched=True), "with every part and wire", "plan")


SHEET = Sheet(key="over", title="Parts from another job", order=29, home="plan", say=say, draw=draw, extra=_over)
