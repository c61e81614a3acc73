"""The car over its jobs, and its plan taken further: what comes along, what is asked anew."""

from __future__ import annotations

from datetime import date

import pytest

from ohmack.core.document import Basis, Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.interventions import new_radio
from ohmack.core.document.part import Phase, Stands
from ohmack.core.document.paths import design_facts
from ohmack.core.document.proof import Symptom
from ohmack.core.errors import NotPossible
from ohmack.core.evaluation.door import evaluate
from ohmack.core.handover.car_history import CarJob, Happened, came_out_otherwise, timeline
from ohmack.core.planning.copying import as_it_was_built, onto_another_car
from ohmack.core.planning.templates import OF_THIS_CAR
from ohmack.demo.bay_work import begun
from ohmack.demo.jobs import demo_design, demo_jobs
from proving import proved


def test_a_timeline_runs_backwards_through_all_jobs(estate: Design) -> None:
    first = proved(estate)
    stamped = tuple(r.model_copy(update={"when": "2021-06-20T10:00"}) for r in first.proof.readings)
    first = first.model_copy(update={"proof": first.proof.model_copy(update={"readings": stamped})})
    second = as_it_was_built(first, "Reported: whine", (Symptom.WHINE,))
    mend = {"id": "m", "kind": "a bad ground", "at": "x", "words": "scraped", "when": "2023-03-14"}
    second = apply_edits(second, [Edit(op="add", path="proof/mends", value=mend)])
    jobs = [CarJob("J-1", "Bass", "2021-06-14", first), CarJob("J-2", "Whine", "2023-03-13", second)]
    events = timeline(jobs)
    days = [e.when for e in events if e.when]
    assert days == sorted(days, reverse=True)
    kinds = [(e.job, e.kind) for e in events]
    assert kinds.index(("J-2", Happened.MENDED)) < kinds.index(("J-2", Happened.BROKEN))
    assert ("J-1", Happened.PROVED) in kinds
    assert [(e.when, e.words) for e in events if e.kind is Happened.OPENED] == [
        ("2023-03-13", "Whine"), ("2021-06-14", "Bass")
    ]  # fmt: skip
    changed = [e for e in events if e.kind is Happened.CHANGED]
    assert [e.job for e in changed] == ["J-1"], "the second job brought no part"
    assert estate.parts[0].name in changed[0].words


def test_what_papers_had_wrong(estate: Design) -> None:
    """Papers, then a reading: the same value is no news, another is; the last papers count."""
    path = "vehicle/supply/post_running_v"

    def with_fact(value: float, basis: str) -> Design:
        return apply_edits(estate, [Edit(path=path, value={"value": value, "basis": basis})])

    papers, same, other = with_fact(14.4, "documented"), with_fact(14.4, "measured"), with_fact(13.9, "measured")
    assert came_out_otherwise([papers, same]) == ()
    (found,) = [o for o in came_out_otherwise([papers, same, other]) if o.path == path]
    assert (found.papers.value, found.read.value) == (14.4, 13.9)
    assert came_out_otherwise([other]) == ()
    assert came_out_otherwise([papers, other, with_fact(13.9, "documented")]) == ()


@pytest.mark.parametrize("number", range(len(demo_jobs())))
def test_a_plan_copied_onto_another_car(number: int) -> None:
    """Parts, links and places stay; nothing is measured of a car nobody has seen."""
    title = demo_jobs()[number].title
    design = demo_design(number)
    for _, edits in begun(design, title, date(2026, 11, 23)):
        design = apply_edits(design, edits)
    design = proved(design, (1,)) if design.parts else design
    other = onto_another_car(design, "J-0001", "Ollery", "Quill", 2019)
    assert [p.id for p in other.parts] == [p.id for p in design.parts]
    assert [k.id for k in other.links] == [k.id for k in design.links]
    assert all(p.stands is Stands.WANTED for p in other.parts)
    assert {f.basis for _, f, _, _ in design_facts(other) if f.value is not None} <= {Basis.ASSUMED}
    assert [len(of) for of in (other.proof.readings, other.work.taken, other.work.marks, other.handover.soak)] == [
        0
    ] * 4
    assert evaluate(other, sweep_facts=True).verdict.headline in ("Not ready to order", "Nothing planned yet")
    was = {path: fact for path, fact, _, _ in design_facts(design)}
    for path, fact, _, _ in design_facts(other):
        if isinstance(fact.value, float) and was[path].basis is not Basis.ASSUMED and fact.value:
            assert fact.low < fact.high, f"{path}: read in one car, a guess in another"
    same = onto_another_car(design, "J-0001", design.vehicle.make, design.vehicle.model, None)
    assert all(f.basis is not Basis.MEASURED for _, f, _, _ in design_facts(same))
    for path, fact, _, field in design_facts(same):
        if path.startswith("vehicle/") and field in OF_THIS_CAR and fact.basis is Basis.DOCUMENTED:
            was = {p: f for p, f, _, _ in design_facts(design)}[path]
            assert was.basis is Basis.DOCUMENTED, "a reading of one car is nobody's papers"


def test_a_copy_needs_a_car(estate: Design) -> None:
    with pytest.raises(NotPossible, match="make and model"):
        onto_another_car(estate, "J-0001", "Ollery", " ", None)


@pytest.mark.parametrize("number", [n for n, j in enumerate(demo_jobs()) if j.rounds][::3])
def test_a_fault_reported_later_begins_with_the_car_as_built(number: int) -> None:
    design = demo_design(number)
    later = as_it_was_built(design, "Reported: no power at all", (Symptom.NO_POWER,))
    for part, was in zip(later.parts, design.parts, strict=True):
        assert part.stands is (Stands.IN_THE_CAR if was.phase is Phase.NOW else was.stands)
    heard = {"radio": later.vehicle.radio} if new_radio(design) is not None else {}  # what the old one gave is gone
    assert later.vehicle == design.vehicle.model_copy(update=heard), "its survey is kept"
    verdict, found = evaluate(later).verdict, evaluate(later).results
    if design.parts and verdict.state != "stopped":
        assert (verdict.headline, verdict.state) == ("Everything is in the car", "open"), "nothing is to be ordered"
    assert found.design.proof.symptoms == (Symptom.NO_POWER,)
    if found.car.network is not None:
        assert found.search.suspects, "the search begins with what was reported"
    left = design.model_copy(update={"proof": design.proof.model_copy(update={"faults": ()})})
    assert as_it_was_built(left, "More").proof.symptoms == ()
