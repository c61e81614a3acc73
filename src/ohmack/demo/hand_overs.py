"""Demo jobs handed over: one soaked, heard and signed for, one held by name; and a car that was here three times."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from datetime import datetime
from json import loads
from math import sin

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits, read_tree
from ohmack.core.document.handover import Met
from ohmack.core.document.proof import FaultKind, Mend, Symptom
from ohmack.core.evaluation.door import evaluate
from ohmack.core.handover.soak import SoakCheck
from ohmack.core.planning.copying import as_it_was_built, onto_another_car
from ohmack.core.planning.handing_over import HEARD, HOLDS, OPEN_POINTS, SOAK, sign
from ohmack.core.planning.taking_out import all_out
from ohmack.core.prove.probes import Quantity

SIGNED, HELD = "Bass from the rear leads", "Thirty years, one new radio"
NIGHT, MORNING, BENCH, FRONT = "2026-11-27", "2026-11-28", "Wen", "Odile"
TIMES = (f"{NIGHT}T07:10", f"{NIGHT}T21:30", f"{MORNING}T07:05")
COOL_C, ASLEEP_MA, RESTING_V = 46.0, 21.0, 12.61


def hand_over(design: Design, title: str, revision: int) -> Iterator[tuple[str, tuple[Edit, ...]]]:
    """The rounds in which a demo job is handed over, as far as it is.

    Parameters:
        design: the job as it is proved.
        title: which job.
        revision: the number of its revision in force.

    Returns:
        (reason, edits) a round; none for a job nobody soaks.
    """
    if title == SIGNED:
        yield from _signed(design, revision)
    if title == HELD:
        checks = [j.check for j in evaluate(design).results.soak.checks]
        yield "a first night", _tries(c for c in checks if c.id.startswith(("soak/cold", "soak/morning")))
        rattle = next(c for c in checks if c.id == "soak/rattle")
        no = {"id": "soak-90", "check": rattle.id, "passed": False, "when": TIMES[2], "who": BENCH,
              "note": "The parcel shelf buzzes at 63 Hz."}  # fmt: skip
        yield "tried: a rattle", (Edit(op="add", path=SOAK, value=no),)
        why = "The parcel shelf buzzes; felt strip comes on Tuesday"
        held = {"id": "hold-1", "by": FRONT, "reason": why, "when": MORNING}
        yield f"held by {FRONT}", (Edit(op="add", path=HOLDS, value=held),)


def _tries(checks: Iterable[SoakCheck]) -> tuple[Edit, ...]:
    """Every check tried as often as it asks for, and good."""
    edits: list[Edit] = []
    for check in checks:
        for n in range(check.times):
            value = {Quantity.HEAT: COOL_C, Quantity.ASLEEP_MA: ASLEEP_MA + n, Quantity.DC_V: RESTING_V}
            tree = {
                "id": f"soak-{len(edits) + 1}", "check": check.id, "value": value.get(check.quantity),
                "passed": None if check.is_read else True, "when": TIMES[n], "who": BENCH,
            }  # fmt: skip
            edits.append(Edit(op="add", path=SOAK, value=tree))
    return tuple(edits)


def _signed(design: Design, revision: int) -> Iterator[tuple[str, tuple[Edit, ...]]]:
    results = evaluate(design).results
    tries = _tries(j.check for j in results.soak.checks)
    yield "soaked over a night and two days", tries
    words = ("“Now I hear the left hand of the piano.”", "", "")
    heard = tuple(
        Edit(op="add", path=HEARD, value={
            "id": f"heard-{n + 1}", "wish": p.id, "met": Met.YES.value, "when": MORNING,
            "words": words[n].strip("“”") if n < len(words) else "",
        }) for n, p in enumerate(results.promises)
    )  # fmt: skip
    left = {"id": "open-1", "what": "Look at the ground bolt after 1,000 km", "whose": "the shop"}
    said = (*heard, Edit(op="add", path=OPEN_POINTS, value=left))
    yield "heard and agreed", said
    done = apply_edits(design, (*tries, *said))
    yield "signed by Tess Marl", sign(evaluate(done).results, "Tess Marl", _hand(), revision + 2, revision + 2, MORNING)


def _hand() -> list[list[tuple[int, int]]]:
    """Two lines of a pen."""
    wave = [(80 + 9 * n, round(150 + 70 * sin(n / 3.1) * sin(n / 11))) for n in range(80)]
    return [wave, [(120 + 12 * n, 235 - n // 2) for n in range(50)]]


@dataclass(frozen=True)
class PastJob:
    """A job of before, as it was left: when it was opened, what it was, its design."""

    opened: datetime
    title: str
    design: Design


OWNER = ("Ulla Brandt", "555 0190")


def five_years(signed: Design, number: str) -> tuple[PastJob, ...]:
    """A second car of the same kind and plan, with four jobs over five years; in the last it is sold, and everything
    comes out.

    Parameters:
        signed: a job that was handed over.
        number: its number.
    """
    first = _moved_to(signed, 2021)
    car = onto_another_car(first, number, first.vehicle.make, first.vehicle.model, 2008)
    first = first.model_copy(update={"vehicle": car.vehicle.model_copy(update={"year": 2008})})
    first = first.model_copy(update={"title": "Bass under the parcel shelf"})
    whine = as_it_was_built(first, f"Reported: {Symptom.WHINE.value}", (Symptom.WHINE,))
    mend = Mend(
        id="mend-1", kind=FaultKind.BAD_GROUND, at="ground-amp/end", when="2023-03-14", who=BENCH, after=0,
        words="paint under the ring at the rear stud, scraped and sealed",
    )  # fmt: skip
    whine = whine.model_copy(update={"proof": whine.proof.model_copy(update={"mends": (mend,)})})
    doors = as_it_was_built(whine, "Front doors next")
    sold = all_out(as_it_was_built(whine, "Sold: everything out again"))
    return (
        PastJob(datetime(2021, 6, 14, 9, 0), first.title, first),
        PastJob(datetime(2023, 3, 13, 8, 30), whine.title, whine),
        PastJob(datetime(2026, 11, 23, 10, 15), doors.title, doors),
        PastJob(datetime(2026, 11, 28, 9, 40), sold.title, sold),
    )


def _moved_to(design: Design, year: int) -> Design:
    """A design with every day of it in the summer of another year."""
    text = re.sub(r"2026-11-(\d\d)", rf"{year}-06-\1", design.model_dump_json()).replace("Tess Marl", OWNER[0])
    return read_tree(loads(text))
