"""The car: its history, and where the next installer begins."""

from __future__ import annotations

from typing import Any

from markupsafe import Markup

from ohmack.core.handover.car_history import CarJob
from ohmack.core.wording import count
from ohmack.drawing.fuse_marks import draw_fuse_marks
from ohmack.drawing.picture import Layer, Picture
from ohmack.store.design_rows import DesignRecord
from ohmack.web.car_picture import Chart, car_picture
from ohmack.web.page import Page
from ohmack.web.sheet import Asked, Sheet
from ohmack.web.sheets.car.view import CarView
from ohmack.web.workshop import Workshop

MOST_REVISIONS = 80  # of one job that are looked through for what papers had wrong


def say(page: Page) -> tuple[str, str]:
    """How often it was here."""
    jobs = page.extra.get("car_jobs", [])
    return f"{page.design.vehicle.title}, {count(max(1, len(jobs)), 'job')}", "what was done, where it is, what is left"


def draw(page: Page) -> Markup:
    """The car as it stands: parts, cables, fuses by number, what an earlier owner left."""
    spots = page.evaluation.results.fuse_map

    def over(picture: Picture) -> Markup:
        return draw_fuse_marks(picture, spots)

    layer = Layer(links=("power", "ground"), quiet_links=("speaker", "line", "tap", "remote", "feed", "charge"),
                  speakers=True, damage=True, labels=False)  # fmt: skip
    return car_picture(page, layer, "as it stands", "as-built", Chart(lambda _: Markup(""), 0.0, over=over))


def _history(shop: Workshop, record: DesignRecord, asked: Asked) -> dict[str, Any]:
    rows = shop.cars.jobs(shop.context, record.job_number)
    records = [
        record if row.number == record.job_number else shop.designs.load(shop.context, row.number) for row in rows
    ]
    jobs = [
        CarJob(row.number, row.title, row.created_at.date().isoformat(), there.design)
        for row, there in zip(rows, records, strict=True)
    ]
    cuts = {
        (cut.what, cut.where): (row.number, cut)
        for row, there in zip(rows, records, strict=True)
        for cut in shop.evaluation(there, sweep=False).results.cuts
    }  # one that a later job still has is its own
    numbers = [row.number for row in reversed(shop.designs.history(shop.context, record.design_id))][-MOST_REVISIONS:]
    here = [n for n in numbers if n <= record.number]
    revisions = [shop.designs.revision(shop.context, record.design_id, n) for n in here]
    like = shop.cars.like(shop.context, record.job_number)
    found = {"car_jobs": jobs, "car_rows": rows, "car_cuts": list(cuts.values())}
    return found | {"like": like, "revisions": revisions}


SHEET = Sheet(
    key="car", title="The car", order=84, home="handover", tab="The car", say=say, draw=draw, view=CarView,
    extra=_history,
)  # fmt: skip
