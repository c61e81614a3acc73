"""What the core says of every demo car is what it said before, unless somebody meant another answer.

These answers are no check values: nothing here says that one of them is right; formulas, standards, a circuit
simulator and facts of the trade do that elsewhere. They hold the assembly: a sign, a side, a neighbour or a factor lost
anywhere between a fact and a sentence changes an answer of one of the demo cars, and a change that was meant shows in
the difference of a commit. `OHMACK_RENEW=yes ./ohmack test tests/core/test_answers_stay.py` writes them anew.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from contextlib import suppress
from itertools import product

import pytest

from kept_answers import ANSWERS, RENEW, compared, or_why, plain, short
from odd_plans import changes, odd_plan
from ohmack.core.document import Design
from ohmack.core.document.design import Intake
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.factory import Tier
from ohmack.core.document.parts import Amplifier
from ohmack.core.document.policy import Policy
from ohmack.core.document.vehicle import Body, Hand, Powertrain
from ohmack.core.errors import OhmackError
from ohmack.core.evaluation.answer import Evaluation
from ohmack.core.evaluation.door import SECTIONS, evaluate
from ohmack.core.evaluation.tracing import LAZIES
from ohmack.core.factory.advice import advise
from ohmack.core.factory.usual_modules import modules_for
from ohmack.core.planning.equal_places import equals_of, taken_as
from ohmack.core.planning.laying import lay_anew
from ohmack.core.planning.mirroring import can_mirror, mirrored
from ohmack.core.planning.notes import notes
from ohmack.core.planning.offer import offer
from ohmack.core.planning.options import compare_options, plain_words
from ohmack.core.planning.parts_tried import taking, try_part, way_for
from ohmack.core.planning.placing import place_part
from ohmack.core.planning.remedies import edits_of
from ohmack.core.planning.speaker_sets import add_sets, sets_to_add
from ohmack.core.planning.standing import standing
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.core.planning.strategy import lay_strategy, priced
from ohmack.core.planning.survey import ADDITIONS, add_to_survey
from ohmack.core.planning.wiring import connect_everything
from ohmack.demo.building import catalogue
from ohmack.demo.jobs import demo_design, demo_jobs
from telling import told

ODD = 200  # plans nobody would draw
TRIED = 5  # parts of the catalogue, another five for each car
SEEN: set[str] = set()  # kinds of sentences, while answers are written anew


def planned(evaluation: Evaluation, number: int) -> Iterator[tuple[str, object]]:
    """What everything that makes edits makes of a design: a name and what came of it."""
    design, trees = evaluation.design, catalogue()
    for way in (ways := advise(design)).ranked:
        if way.possible:
            yield "a way priced", priced(design, way, trees)
            yield "a way laid in", lay_strategy(design, way.key.value, trees)
    yield "ways", ways
    for found in evaluation.findings:
        if found.remedy is not None and (found.remedy.edits or found.remedy.connect):
            yield "remedies", or_why(edits_of, design, found.remedy)
    yield "everything connected", connect_everything(design)
    yield "laid anew", lay_anew(design, [link.id for link in design.links])
    for speaker in design.vehicle.speakers:
        yield "equal places", [equals_of(design, speaker), taken_as(design, speaker.id)]
        if can_mirror(design, speaker):
            yield "mirrored", mirrored(design, speaker.id)
    yield "speaker sets", add_sets(design, {one.key: "" for one in sets_to_add(design)})
    for tree in [trees[(number * TRIED + n) % len(trees)] for n in range(TRIED)]:
        edits = place_part(design, tree)
        yield "parts placed", edits
        yield "parts in place of others", taking(design, tree)
        fitted = apply_edits(design, edits)
        yield "parts connected", connect_everything(fitted, fitted.parts[-1].id)
    for tree in [tree for tree in trees if tree["kind"] == "amplifier"][:2] if design.parts_of(Amplifier) else ():
        yield "parts tried", try_part(design, evaluation, tree, way_for(design, tree["kind"]), trees)
    yield "offer", offer(evaluation)
    yield "options", [compare_options([evaluation, evaluation]), plain_words(design)]
    yield "standing", [standing(design), notes(design)]


def became(design: Design, base: Evaluation, edit: Edit) -> list[str]:
    """What is said of a car of which one thing is otherwise: the findings that come and go, and the figures that are
    others, as a digest.
    """
    after = evaluate(apply_edits(design, [edit]))
    was, now = list(plain(base)), list(plain(after))
    figures = [line for line in now if line.startswith("figure ") and line not in was]
    said = [f"+ {line}" for line in now if line not in was and not line.startswith("figure ")]
    said += [f"- {line}" for line in was if line not in now and not line.startswith(("figure ", "verdict"))]
    digest = short("\n".join(figures)) if figures else "none"
    return [f"changed {edit.model_dump_json()}", f"  figures {digest}", *(f"  {line}" for line in said)]


def shapes(lines: list[str]) -> set[str]:
    """The kinds of sentences among some lines: without their numbers, and whose they are."""
    return {re.sub(r"[\d.,]+", "#", line.split(": ", 1)[-1]) for line in lines[2:]}


def telling_changes(design: Design, base: Evaluation, seen: set[str]) -> Iterator[Edit]:
    """The changes that make a rule say what it says after no other change."""
    for edit in changes(design):
        with suppress(OhmackError):  # a document that may not be
            new = shapes(became(design, base, edit)) - seen
            if new:
                seen |= new
                yield edit


def digests(evaluation: Evaluation, number: int) -> Iterator[str]:
    """Everything else the core makes of a car, a short digest for every section and every kind of plan."""
    whole: dict[str, list[str]] = {}
    for name in (*SECTIONS, *sorted(LAZIES)):
        whole[name] = [told(getattr(evaluation.results, name))]
    for name, made in planned(evaluation, number):
        whole.setdefault(name, []).append(told(made))
    yield from (f"digest {name}: {short(''.join(said))}" for name, said in whole.items())


@pytest.mark.parametrize("number", range(len(demo_jobs())))
def test_every_answer_about_a_demo_car_is_what_it_was(number: int) -> None:
    evaluation = evaluate(demo_design(number), sweep_facts=True)
    now = [*plain(evaluation), *digests(evaluation, number)]
    assert compared(f"{number:02}", now)


@pytest.mark.parametrize("number", range(len(demo_jobs())))
def test_what_comes_of_one_change_is_what_came_of_it(number: int) -> None:
    """Of each demo car those changes after which a rule says what it says nowhere else."""
    design = demo_design(number)
    base = evaluate(design)
    edits = telling_changes(design, base, SEEN) if RENEW else kept_changes(f"{number:02}-changed")
    assert compared(f"{number:02}-changed", [line for edit in edits for line in became(design, base, edit)])


def new_cars(body: Body) -> Iterator[str]:
    """What a car nobody has looked at starts with, what each kind of system brings and what can be added to it; one of
    its ways as a plan.
    """
    for hand, powertrain in product(Hand, Powertrain):
        vehicle = new_vehicle("Marl", "Tern", 2015, body, hand, powertrain)
        yield f"{hand.value} {powertrain.value}: {short(vehicle.model_dump_json())}"
    number = list(Body).index(body)
    hand, powertrain = list(Hand)[number % len(Hand)], list(Powertrain)[number % len(Powertrain)]
    vehicle = new_vehicle("Marl", "Tern", 1990 + 5 * number, body, hand, powertrain)
    design = new_design("Answers", vehicle, Intake(), Policy())
    for what in ADDITIONS:
        yield f"with {what}: {short(told(or_why(add_to_survey, design, what)))}"
    for tier in Tier:
        edits = modules_for(design, tier)
        yield f"{tier.value}: {short(told(edits))}"
        known = apply_edits(design, [*edits, Edit(path="vehicle/radio/tier/value", value=tier.value)])
        yield from (f"  {line}" for line in plain(evaluate(known, sweep_facts=True)) if "figure " not in line)
        ways = [way for way in advise(known).ranked if way.possible]
        yield f"  ways {short(told(ways))}"
        if ways and number % 3 == 0:
            laid = apply_edits(known, lay_strategy(known, ways[number % len(ways)].key.value, catalogue()).edits)
            yield from (f"    {line}" for line in plain(evaluate(laid)) if "figure " not in line)


@pytest.mark.parametrize("ten", range(ODD // 10))
def test_what_is_said_of_plans_nobody_would_draw(ten: int) -> None:
    """The same over odd plans, as titles and one digest of everything: what no demo car has, some of these have."""
    now = []
    for seed in range(10 * ten, 10 * ten + 10):
        evaluation = evaluate(odd_plan(seed))
        whole = [told(getattr(evaluation.results, name)) for name in (*SECTIONS, *sorted(LAZIES))]
        now.append(f"plan {seed}: {short(''.join((*plain(evaluation), *whole)))} {evaluation.verdict.headline}")
        now += [f"  {f.severity.value} {f.rule} {f.about}: {f.title}" for f in evaluation.findings if not f.caution]
    assert compared(f"odd-{ten}", now)


@pytest.mark.parametrize("body", Body)
def test_what_a_new_car_starts_with_is_what_it_was(body: Body) -> None:
    assert compared(f"new-{body.name.lower()}", list(new_cars(body)))


def kept_changes(name: str) -> list[Edit]:
    lines = (ANSWERS / f"{name}.txt").read_text().splitlines()
    return [Edit.model_validate_json(line.removeprefix("changed ")) for line in lines if line.startswith("changed ")]
