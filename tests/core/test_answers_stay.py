"""What the core says of every demo car is what it said before, unless somebody meant another answer.

These answers are no check values: nothing here says that one of them is right; formulas, standards, a circuit
simulator and facts of the trade do that elsewhere. They hold the assembly: a sign, a side, a neighbour or a factor lost
anywhere between a fact and a sentence changes an answer of one of the demo cars, and a change that was meant shows in
the difference of a commit. `OHMACK_RENEW=yes ./ohmack test tests/core/test_answers_stay.py` writes them anew.
"""

from __future__ import annotations

import os
from collections.abc import Iterator
from hashlib import sha1
from pathlib import Path

import pytest

from ohmack.core.document import Design
from ohmack.core.document.edits import apply_edits
from ohmack.core.document.parts import Amplifier
from ohmack.core.errors import OhmackError
from ohmack.core.evaluation.answer import Evaluation
from ohmack.core.evaluation.door import SECTIONS, evaluate
from ohmack.core.evaluation.tracing import LAZIES
from ohmack.core.factory.advice import advise
from ohmack.core.planning.equal_places import equals_of, taken_as
from ohmack.core.planning.laying import lay_anew
from ohmack.core.planning.mirroring import can_mirror, mirrored
from ohmack.core.planning.notes import notes
from ohmack.core.planning.offer import offer
from ohmack.core.planning.options import compare_options, plain_words
from ohmack.core.planning.parts_tried import taking, try_part, way_for
from ohmack.core.planning.remedies import edits_of
from ohmack.core.planning.speaker_sets import add_sets, sets_to_add
from ohmack.core.planning.standing import standing
from ohmack.core.planning.starting_points import place_part
from ohmack.core.planning.strategy import lay_strategy, priced
from ohmack.core.planning.wiring import connect_everything
from ohmack.demo.building import catalogue
from ohmack.demo.jobs import demo_design, demo_jobs
from telling import told

ANSWERS = Path(__file__).parents[1] / "references" / "answers"
RENEW = os.environ.get("OHMACK_RENEW") == "yes"
TRIED = 5  # parts of the catalogue, another five for each car


def plain(evaluation: Evaluation) -> Iterator[str]:
    """The verdict, the findings, what to measure first, and every figure: a line each."""
    yield f"verdict: {evaluation.verdict.state}: {evaluation.verdict.headline} {evaluation.verdict.detail}"
    for found in evaluation.findings:
        yield f"{found.severity.value} {found.rule} {found.about}: {found.title} | {found.text}"
    for measure in evaluation.measure_first or ():
        flips = " / ".join((*measure.stops, *measure.watches, *measure.parts, *measure.plans, measure.wish))
        yield f"measure {measure.path} {measure.threshold}: {flips}"
    for figure in evaluation.figures.values():
        why = figure.refused or " ".join(gap.path for gap in figure.missing)
        yield f"figure {figure.id}: {told(figure.value)} {figure.unit} {figure.basis or ''} {why}".rstrip()


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
            yield "remedies", edits_or_why(design, found)
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


def edits_or_why(design: Design, found: object) -> object:
    """What a press on a remedy does, or why it cannot."""
    try:
        return edits_of(design, found.remedy)  # type: ignore[attr-defined]
    except OhmackError as error:
        return error


def digests(evaluation: Evaluation, number: int) -> Iterator[str]:
    """Everything else the core makes of a car, a short digest for every section and every kind of plan."""
    whole: dict[str, list[str]] = {}
    for name in (*SECTIONS, *sorted(LAZIES)):
        whole[name] = [told(getattr(evaluation.results, name))]
    for name, made in planned(evaluation, number):
        whole.setdefault(name, []).append(told(made))
    yield from (f"digest {name}: {sha1(''.join(said).encode()).hexdigest()[:10]}" for name, said in whole.items())


@pytest.mark.parametrize("number", range(len(demo_jobs())))
def test_every_answer_about_a_demo_car_is_what_it_was(number: int) -> None:
    evaluation = evaluate(demo_design(number), sweep_facts=True)
    now = [*plain(evaluation), *digests(evaluation, number)]
    kept = ANSWERS / f"{number:02}.txt"
    if RENEW:
        kept.parent.mkdir(exist_ok=True)
        kept.write_text("\n".join(now) + "\n")
    before = kept.read_text().splitlines()
    assert [line for line in now if line not in before] == [], "said now"
    assert now == before
