"""What comes of the work on every demo car is what came of it: searches for faults, the proof, hand-over, hunts for
wires, moves, steps, what comes out again, other ways to work. Kept as the answers of `test_answers_stay` are: nothing
here is a check value.
"""

from __future__ import annotations

from collections.abc import Iterator

import pytest

from kept_answers import compared, or_why, plain, short
from ohmack.core.build.work_plan import work_plan
from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.functions import Act, KeepAlive
from ohmack.core.document.handles import at
from ohmack.core.document.handover import Met
from ohmack.core.document.links import PowerLink
from ohmack.core.document.policy import CrossoverSchool, GainSchool
from ohmack.core.document.proof import ProofReading
from ohmack.core.document.strategy import Weights
from ohmack.core.evaluation.door import evaluate
from ohmack.core.evaluation.results import Results
from ohmack.core.factory.advice import advise
from ohmack.core.factory.function_edits import before_unplugging, happens_to, keep_alive, must_still_work
from ohmack.core.factory.functions import judge_functions
from ohmack.core.handover.car_history import CarJob, came_out_otherwise, timeline
from ohmack.core.handover.cuts import cuts_of
from ohmack.core.handover.fuse_map import fuse_map
from ohmack.core.handover.leaflet import leaflet
from ohmack.core.handover.left_open import left_open
from ohmack.core.handover.promised import promises
from ohmack.core.handover.settings import ceilings, played, settings_record
from ohmack.core.handover.state import hand_over
from ohmack.core.loads.spreads import said, spreads
from ohmack.core.planning.copying import as_it_was_built, onto_another_car
from ohmack.core.planning.handing_over import Tried, hear, note_try, sign
from ohmack.core.planning.moving import insert_way_point, nudge, put_in, spots
from ohmack.core.planning.taking_out import all_out, everything_out, replaced
from ohmack.core.planning.work import accept_quote, leave_out, mark_done, own_step, take_off
from ohmack.core.prove.free_probing import points_of
from ohmack.core.prove.judged import proof_state
from ohmack.core.prove.probes import take
from ohmack.core.prove.symptoms import symptoms_of
from ohmack.core.signal.procedure import procedure
from ohmack.demo.jobs import demo_design, demo_jobs
from proving import proved, reading
from telling import told

CAUSES = 4  # searches a car


def searches(results: Results, number: int) -> Iterator[str]:
    """A few causes, as they would be found: what is heard of them, what a first check shows, what is thought then."""
    finder = results.finder
    yield f"causes {len(finder.causes)}: {short(told([(c.faults, c.weight) for c in finder.causes]))}"
    single = [cause for cause in finder.causes if len(cause.faults) == 1]
    for cause in single[number % 3 :: max(1, len(single) // CAUSES)][:CAUSES]:
        heard = symptoms_of(cause.car, finder.planned, *finder.places)
        first = finder.search((), heard)
        words = [f"{s.words} {s.odds:.3f}" for s in first.suspects[:3]]
        yield f"  {cause.faults[0].words}: {sorted(heard)}: {words}"
        checks = [one.check for one in first.proposals[:3]]
        edits = [reading(cause.car, check, n) for n, check in enumerate(checks)]
        again = finder.search([ProofReading.model_validate(edit.value) for edit in edits], heard)
        yield f"    read {[check.id for check in checks]}: {short(told([again.suspects, again.proposals]))}"
        yield f"    shown {short(told([take(cause.car, check.probe) for check in finder.checks]))}"


def handed_over(design: Design) -> Iterator[str]:
    """The proof of a car in which all is as planned, and of one whose first values are off; the papers."""
    sound = proved(design)
    results = evaluate(sound).results
    for gate in proof_state(results).gates:
        yield f"gate {gate.number}: {short(told(gate))} {len(gate.left)} of {len(gate.checks)} left"
    parts = [leaflet, promises, left_open, played, ceilings, settings_record, cuts_of, fuse_map, hand_over]
    yield from (f"{part.__name__}: {short(told(part(results)))}" for part in parts)
    yield f"points: {short(told(points_of(results)))}"
    off = [
        Edit(path=f"proof/readings/{one.id}/value", value=round(1.3 * one.value + 0.01, 6))
        for one in sound.proof.readings[:40]
        if one.value is not None
    ]
    wrong = evaluate(apply_edits(sound, off))
    yield f"off: {short(told(proof_state(wrong.results)))}"
    yield from (f"  {f.severity.value} {f.rule}: {f.title}" for f in wrong.findings if f.stage == "prove")


def worked(design: Design) -> Iterator[str]:
    """Steps done, left out, put in; what comes off; a quote agreed."""
    results = evaluate(design).results
    plan = work_plan(results)
    begun = plan.steps[0].step.id if plan.steps else ""
    for n, numbered in enumerate(plan.steps):
        step = numbered.step
        done = or_why(mark_done, design, plan, step.id, True, 5.0, "2026-03-02")
        out = or_why(leave_out, design, plan, step.id, "done before")
        yield f"step {n} {step.id}: {short(told([done, out]))}"
        if step.takes_off:
            taken = or_why(take_off, design, plan, step.id, {"fasteners": "4 screws", "count": 4}, "2026-03-02")
            yield f"  off: {short(told(taken))}"
    own = or_why(own_step, design, plan, "Hoover the boot", (begun,), (), 5, 10, False)
    quote = or_why(accept_quote, design, results.quote, "Ada", "", "2026-03-02")
    yield f"own {short(told(own))} quote {short(told(quote))}"
    names = [numbered.step.id for numbered in plan.steps]
    for after, before in (((), ()), ((), tuple(names[2:3])), (tuple(names[1:2]), tuple(names[4:5]))):
        made = or_why(own_step, design, plan, "Hoover the boot", after, before, 5, 10, False)
        if isinstance(made, tuple):
            then = work_plan(evaluate(apply_edits(design, made)).results)
            spot = [p.number for p in then.steps if p.step.own]
            yield f"  own after {after} before {before}: {spot} {short(told(then))}"


def moved(design: Design) -> Iterator[str]:
    """Parts and things of the car pushed about, put into spaces; power runs bent."""
    parts = [at(part) for part in design.parts if part.position is not None]
    for path in [*parts, *(at(speaker) for speaker in design.vehicle.speakers[:2])]:
        pushed = [or_why(nudge, design, path, direction) for direction in ("front", "rear", "left", "right")]
        yield f"nudged {path}: {short(told(pushed))}"
    for path in parts[:3]:
        yield f"put in {path}: {short(told([or_why(put_in, design, path, spot) for spot in spots(design)]))}"
    yield f"bent: {short(told([or_why(insert_way_point, design, k.id) for k in design.links_of(PowerLink)]))}"


def later(design: Design) -> Iterator[str]:
    """The car after this job: as it stands, emptied again, another part in a part's place; the plan for other cars."""
    stands = as_it_was_built(design, "Comes back")
    results = evaluate(stands).results
    out = or_why(all_out, stands)
    for name, then in (("stands", stands), ("emptied", out if isinstance(out, Design) else stands)):
        answer = evaluate(then)
        yield f"{name}: {answer.verdict.headline} {short(''.join(plain(answer)))}"
        yield f"  steps {short(told([(p.step.what, p.step.needs) for p in work_plan(answer.results).steps]))}"
        yield f"  order {short(told(answer.results.order))}"
    swaps = [or_why(replaced, results, part.id) for part in stands.parts]
    yield f"out {short(told(or_why(everything_out, results)))} replaced {short(told(swaps))}"
    for model in (design.vehicle.model, "Tern"):
        other = onto_another_car(design, "J-1", design.vehicle.make, model, 2019)
        yield f"onto {model}: {evaluate(other).verdict.headline} {short(other.model_dump_json())}"


def soaked(design: Design) -> Iterator[str]:
    """Every soak check tried, good and bad; what the customer says of each promise; the car's history after it."""
    sound = proved(design)
    results = evaluate(sound).results
    for good in (True, False):
        tries, now = [], sound
        for judged in results.soak.checks:
            check = judged.check
            inside = ((check.low or 0.0) + (check.high or 10.0)) / 2
            value = (inside if good else 2 * (check.high or 10.0)) if check.is_read else None
            tried = Tried(value, None if check.is_read else good, "2026-03-03T09:00", "Ada")
            tries.append(made := or_why(note_try, now, check, tried, "2026-03-03T18:00"))
            now = apply_edits(now, made) if isinstance(made, tuple) else now
        yield f"tried {good}: {short(told(tries))}"
        driven = evaluate(now).results
        yield f"  {short(told([driven.soak, driven.hand_over]))}"
        said = [
            or_why(hear, driven, p.id, (Met.YES if good else Met.NO).value, "", "2026-03-03") for p in driven.promises
        ]
        yield f"  {short(told(said))} {short(told(or_why(sign, driven, 'Ada', [[(1, 2)]], 3, 3, '2026-03-03')))}"
    jobs = [CarJob("J-1", "First", "2026-03-01", design), CarJob("J-2", "Again", "2026-05-01", sound)]
    yield f"history {short(told(timeline(jobs)))} {short(told(came_out_otherwise([design, sound])))}"


def ways(design: Design) -> Iterator[str]:
    """What each measure and each weight does to the ways, and what happens to each module of the car."""
    for name in Weights.model_fields:
        given = [Edit(path="weights", value=dict.fromkeys(Weights.model_fields, 2.0) | {name: 0.0})]
        yield f"{name} counts nothing: {short(told(or_why(advise, apply_edits(design, given))))}"
    for thing in (design.vehicle.radio, *design.vehicle.modules):
        for act in Act:
            acted = or_why(happens_to, design, thing.id, act.value)
            if not isinstance(acted, tuple):
                continue
            then = apply_edits(design, acted)
            (done,) = [i for i in then.interventions if i.id == thing.id]
            kept = [advise(apply_edits(then, [keep_alive(then, done, measure)])) for measure in KeepAlive]
            yield f"{thing.id} {act.value}: {short(told([judge_functions(then), *kept]))}"
    yield f"before {short(told([before_unplugging(design), must_still_work(design)]))}"


def otherwise(design: Design) -> Iterator[str]:
    """The same car in shops that set gains and cross doors otherwise; drivers spread otherwise over the channels."""
    for field, ways in (("gain_school", GainSchool), ("crossover_school", CrossoverSchool)):
        for way in ways:
            answer = evaluate(apply_edits(design, [Edit(path=f"policy/{field}", value=way.value)]))
            steps = procedure(answer.design, answer.results.signals, answer.results.crossovers)
            yield f"{way.name.lower()}: {short(told(steps))} {short(''.join(plain(answer)))}"
    for load in evaluate(design).results.amplifier_loads:
        found = spreads(design, load)
        yield f"spreads of {load.amplifier.id}: {short(told(found))} {[said(one) for one in found[:2]]}"


@pytest.mark.parametrize("number", range(len(demo_jobs())))
def test_what_comes_of_the_work_on_a_demo_car_is_what_came_of_it(number: int) -> None:
    design = demo_design(number)
    results = evaluate(design).results
    now = [*searches(results, number), *handed_over(design), *worked(design), *moved(design), *later(design)]
    assert compared(f"work-{number:02}", [*now, *soaked(design), *otherwise(design), *ways(design)])
