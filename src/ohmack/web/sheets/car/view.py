"""The car for its page: its jobs, what happened, what the next installer needs."""

from __future__ import annotations

from ohmack.core.document.cabin import Alteration
from ohmack.core.document.proof import Symptom
from ohmack.core.handover.car_history import CarJob, Event, Otherwise, came_out_otherwise, made_good, timeline
from ohmack.core.handover.cuts import Cut
from ohmack.core.handover.fuse_map import FuseSpot
from ohmack.core.handover.left_open import Kind, LeftOpen
from ohmack.store.cars import CarJobRow
from ohmack.web.choices import bodies
from ohmack.web.page import Page
from ohmack.web.titles import label_of


class CarView:
    """What is known of the car."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self.results = page.evaluation.results
        self.jobs: list[CarJob] = page.extra.get("car_jobs", [])
        self.rows: list[CarJobRow] = page.extra.get("car_rows", [])
        self.like: list[CarJobRow] = page.extra.get("like", [])
        self.fuses: tuple[FuseSpot, ...] = self.results.fuse_map
        self.cuts: list[tuple[str, Cut]] = page.extra.get("car_cuts", [])  # of all its jobs, each with whose it is
        self.alterations: tuple[Alteration, ...] = page.design.vehicle.alterations

    @property
    def events(self) -> tuple[Event, ...]:
        """What happened, newest first."""
        return timeline(self.jobs)

    @property
    def made_good(self) -> list[tuple[str, str]]:
        """(job, what) of joints undone and holes closed, of jobs that were worked on."""
        return [(job.number, words) for job in self.jobs for words in made_good(job)]

    @property
    def prepared(self) -> list[LeftOpen]:
        """What was laid for later, and what is planned next."""
        return [p for p in self.results.left_open if p.kind in (Kind.PREPARED, Kind.LATER)]

    @property
    def otherwise(self) -> list[tuple[str, str, str, str]]:
        """(what, papers said, read, when) of every fact the papers had wrong."""
        found: tuple[Otherwise, ...] = came_out_otherwise(self.page.extra.get("revisions", []))
        page = self.page
        return [
            (label_of(page.design, one.path), page.said_fact(one.path, one.papers),
             page.said_fact(one.path, one.read), one.read.when[:10]) for one in found
        ]  # fmt: skip

    @property
    def symptoms(self) -> list[tuple[str, str]]:
        """What somebody may report."""
        return [(s.value, s.value[:1].upper() + s.value[1:]) for s in Symptom]

    @property
    def bodies(self) -> list[str]:
        """What another car may be, the usual ones first."""
        return bodies()

    @property
    def others(self) -> list[CarJobRow]:
        """The car's other jobs."""
        return [row for row in self.rows if row.number != self.page.record.job_number]
