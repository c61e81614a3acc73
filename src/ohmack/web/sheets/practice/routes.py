"""Practice begun, the answer shown."""

from __future__ import annotations

from collections.abc import Sequence
from secrets import randbelow

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit
from ohmack.core.document.handles import at_the
from ohmack.core.document.proof import PRACTICE_EDITION, Practice, Proof
from ohmack.core.evaluation.door import evaluate
from ohmack.formats.entry import EntryError, is_whole
from ohmack.instruments.practice import LEVELS, as_planned, hidden, symptoms_with
from ohmack.store.design_rows import DesignRecord
from ohmack.web.render import go, workshop_of
from ohmack.web.routes.edits import perform, refusal
from ohmack.web.routes.forms import Form, text, whole

router = APIRouter()
TRIES = 20
REVEALED = f"{at_the(Proof, lambda it: it.practice)}/revealed"


@router.post("/jobs/{number}/practise", name="practise")
def practise(request: Request, number: str, form: Form) -> Response:
    """A practice job is opened with this plan."""
    shop = workshop_of(request)
    record = shop.designs.load(shop.context, number)
    try:
        design = _practice_of(record.design, whole(form, "level") or 1, text(form, "seed").strip())
    except EntryError as error:
        return refusal(request, record, form, "practise", str(error))
    title = f"Practice: {record.design.title or record.design.vehicle.title}"[:120]
    opened = shop.designs.open_job(shop.context, "Practice", "", title, design)
    return go(f"/jobs/{opened}/fault")


def _practice_of(design: Design, level: int, seed: str) -> Design:
    """The plan with a car before the bench that hides something, and what is heard of it."""
    if level not in LEVELS:
        raise EntryError("Choose a level.")
    if seed and not (is_whole(seed, 6) and int(seed) > 0):
        raise EntryError("A seed is a whole number from 1 on, of at most six digits; or leave it empty.")
    planned = as_planned(design)
    for _ in range(1 if seed else TRIES):
        practice = Practice(seed=int(seed) if seed else 1 + randbelow(999_999), level=level, edition=PRACTICE_EDITION)
        faults = hidden(planned, practice)
        if faults:
            symptoms = symptoms_with(evaluate(planned).results, faults)
            proof = Proof(practice=practice, symptoms=tuple(sorted(symptoms)))
            return planned.model_copy(update={"proof": proof, "title": f"Practice: {design.title}"[:120]})
    raise EntryError("Nothing of this plan can be wrong in a way that is heard or seen.")


@router.post("/jobs/{number}/practice-reveal", name="practice_reveal")
def reveal(request: Request, number: str, form: Form) -> Response:
    """The answer is shown."""

    def plan(record: DesignRecord) -> tuple[Sequence[Edit], str]:
        if record.design.proof.practice is None:
            raise EntryError("This job is no practice.")
        return (Edit(path=REVEALED, value=True),), "the answer was shown"

    return perform(request, number, form, plan)
