"""A job's design taken further: onto another car of its plan, or onto the same car as it was built."""

from __future__ import annotations

from typing import Any

from ohmack.core.document import Basis, Design, Fact, Intake, Verified
from ohmack.core.document.handover import HandOver
from ohmack.core.document.part import Phase, Stands
from ohmack.core.document.paths import facts, replace
from ohmack.core.document.proof import Proof, Symptom
from ohmack.core.document.work import Work
from ohmack.core.errors import NotPossible
from ohmack.core.planning.templates import as_papers

MEASURED_THERE = "reads_ohm"  # a pair read at the amplifier: of one car's wires only


def onto_another_car(
    design: Design, number: str, make: str, model: str, year: int | None, customer_words: str = ""
) -> Design:  # fmt: skip
    """The plan of one car for another: parts, links and places stay, the survey is asked anew.

    Parameters:
        design: the job's design.
        number: the job it comes from; it stands in the note of every fact.
        make, model, year: the other car. Of the same make and model, what was read or on papers comes as papers, never
            as measured; of another kind everything is assumed.
        customer_words: what this customer wants, in their words.

    Returns:
        a first revision: nothing done, nothing proved, every part still wanted.

    Raises:
        NotPossible: a car without a name.
    """
    if not make.strip() or not model.strip():
        raise NotPossible("make" if not make.strip() else "model", "Say which make and model it is.")
    same = (make.strip().lower(), model.strip().lower()) == (design.vehicle.make.lower(), design.vehicle.model.lower())
    vehicle = as_papers(design.vehicle, number).model_copy(
        update={"make": make.strip()[:120], "model": model.strip()[:120], "year": year, "responses": ()}
    )
    if not same:
        for path, fact, _, _ in list(facts(vehicle)):
            vehicle = replace(vehicle, path, _assumed(fact, number))
    wanted = design.intake
    copied = design.model_copy(
        update={
            "vehicle": vehicle, "drop_readings": (), "proof": Proof(), "handover": HandOver(), "option_name": "",
            "option_note": "", "work": Work(own_steps=design.work.own_steps if same else ()),
            "parts": tuple(p.model_copy(update={"stands": Stands.WANTED, "by_customer": False}) for p in design.parts),
            "intake": Intake(wishes=wanted.wishes, wishes_note=customer_words, must_keep=wanted.must_keep),
        }
    )  # fmt: skip
    for link in copied.links:
        for path, fact, _, field in list(facts(link)):
            fresh = type(fact)() if field == MEASURED_THERE else _assumed(fact, number)
            copied = replace(copied, f"links/{link.id}/{path}", fresh)
    return Design.model_validate(copied.model_dump(mode="json"), strict=False)


def _assumed(fact: Fact[Any], number: str) -> Fact[Any]:
    """A fact of one car as a guess about another."""
    if fact.basis is Basis.ASSUMED and not fact.who:
        return fact
    return fact.model_copy(
        update={"basis": Basis.ASSUMED, "how": Verified.NOT_CHECKED, "who": "", "when": "", "note": f"as in {number}"}
    )


def as_it_was_built(design: Design, title: str, symptoms: tuple[Symptom, ...] = ()) -> Design:
    """The same car as the last job left it, for a fault reported later or for more work.

    Parameters:
        design: the job's design.
        title: what the new job is.
        symptoms: what is reported; the search for a fault begins with it.

    Returns:
        a first revision: what was fitted is in the car, its survey is kept, nothing is read yet; what was planned for
        later stays for later.
    """
    parts = tuple(
        p.model_copy(update={"stands": Stands.IN_THE_CAR}) if p.phase is Phase.NOW else p for p in design.parts
    )
    faults = design.proof.faults  # one that was left in is in it still
    return design.model_copy(
        update={
            "title": title[:120], "parts": parts, "work": Work(own_steps=()), "drop_readings": (), "option_name": "",
            "option_note": "", "proof": Proof(symptoms=symptoms, faults=faults), "handover": HandOver(),
            "intake": Intake(must_keep=design.intake.must_keep, reversible=design.intake.reversible),
        }
    )  # fmt: skip
