"""Forty jobs of the years before: done, signed for, most of them put away; they are there to be found again."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime, timedelta

from ohmack.core.document import Design
from ohmack.core.document.edits import apply_edits
from ohmack.core.document.handover import HandOver, Signature
from ohmack.core.handover.state import digest_of
from ohmack.core.planning.copying import as_it_was_built, onto_another_car
from ohmack.demo.building import DemoJob

COUNT = 40
OPEN = 5  # of them not put away yet
LAST_NUMBER = 400  # the last of them; today's jobs go on from there
FIRST_DAY = datetime(2024, 2, 5, 8, 30)
DAYS_APART = 24
NAMES = (
    "Abel Fenwick", "Beda Lorne", "Cass Holloway", "Dorrit Pane", "Edda Vance", "Fulk Aster", "Gwen Tilling",
    "Hob Carrow", "Isolde Brack", "Jem Sallow", "Kit Morland", "Linnet Grey", "Marl Osier", "Nell Copping",
    "Oswin Thaw", "Petra Lune", "Quill Baxter", "Rook Hensley", "Sorrel Dace", "Tamsin Wick",
)  # fmt: skip
CARS = (
    ("Marren", "Tilde"), ("Dovekin", "Sedge"), ("Brackley", "Drover"), ("Wimble", "Pipit"), ("Corrin", "Hask"),
    ("Ollery", "Fenwain"), ("Hallam", "Warden"), ("Aldwick", "Consort"), ("Voltane", "Siskin"), ("Harrow", "Merle"),
    ("Stannard", "Fellrunner"), ("Dravel", "Lanner"),
)  # fmt: skip
TITLES = (
    "Bass for a long commute", "New radio, wheel keys kept", "Front doors and tweeters", "Subwoofer that comes out",
    "Noise at idle, found and mended", "Four channels under a seat", "Louder for the site", "Second battery and lamps",
)  # fmt: skip
NOTES = (
    "Wants the spare wheel to stay reachable.", "Dog rides behind: nothing loose back there.",
    "Seats were trimmed by somebody else; clips are brittle.", "Comes back in spring for the doors.", "",
)  # fmt: skip
MODELS = 6  # plans they are taken from


@dataclass(frozen=True)
class PastJob:
    """One job of before."""

    opened: datetime
    customer: str
    phone: str
    title: str
    design: Design
    away: bool


def past_jobs(jobs: tuple[DemoJob, ...]) -> Iterator[PastJob]:
    """The jobs, the oldest first; every third customer comes a second time with another car."""
    plans = [_built(job) for job in [job for job in jobs if job.rounds][:MODELS]]
    for n in range(COUNT):
        who, (make, model), opened = n % len(NAMES), CARS[(n * 5) % len(CARS)], FIRST_DAY + timedelta(DAYS_APART * n)
        plan, title = plans[n % len(plans)], TITLES[(n * 3) % len(TITLES)]
        car = plan.vehicle.model_copy(update={"make": make, "model": model, "year": 2003 + (n * 7) % 20})
        asked = plan.intake.model_copy(update={"wishes_note": NOTES[n % len(NOTES)]})
        done = plan.model_copy(update={"title": title, "vehicle": car, "intake": asked})
        signed = Signature(id="signed", by=NAMES[who], revision=1, digest=digest_of(done), when=f"{opened:%Y-%m-%d}")
        design = done.model_copy(update={"handover": HandOver(signatures=(signed,))})
        yield PastJob(opened, NAMES[who], f"555 {1200 + 37 * who:04d}", title, design, n < COUNT - OPEN)


def _built(job: DemoJob) -> Design:
    planned = apply_edits(job.first, [edit for _, edits in job.rounds for edit in edits])
    return as_it_was_built(onto_another_car(planned, "", planned.vehicle.make, planned.vehicle.model, None), job.title)
