"""A car of every body and system, from an empty job to “Done”, by what is offered and asked alone."""

from __future__ import annotations

from itertools import cycle

import pytest

from ohmack.core.document import Design, Intake
from ohmack.core.document.design import Keep, Wish
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.factory import Tier
from ohmack.core.document.policy import Policy
from ohmack.core.document.vehicle import Body, Hand, Powertrain
from ohmack.core.evaluation.door import evaluate
from ohmack.core.factory.advice import advise
from ohmack.core.factory.usual_modules import modules_for
from ohmack.core.figures.finding import Severity
from ohmack.core.planning.proving import fact_of, take_over
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.core.planning.strategy import lay_strategy
from ohmack.core.prove.judged import State
from ohmack.demo.building import catalogue
from proving import proved
from stranger import measured_first, without_a_stop

WISHES = [(Wish.BASS,), (Wish.SCREEN, Wish.BASS), (Wish.BASS, Wish.CLARITY), (Wish.CLARITY,), (Wish.BASS, Wish.HIDDEN)]
MOST_ACTS = 15  # presses and readings until nothing stops it; 11 were the most of 915 such plans


def asked(body: Body, tier: Tier, wishes: tuple[Wish, ...], year: int, hand: Hand, powertrain: Powertrain) -> Design:
    """A job as it is opened, its factory system looked at."""
    keep = () if tier is Tier.NONE else (Keep.RECEPTION,)
    vehicle = new_vehicle("Dravel", "Minnow", year, body, hand, powertrain)
    design = new_design("any", vehicle, Intake(wishes=wishes, must_keep=keep), Policy())
    looked = Edit(path="vehicle/radio/tier", value={"value": tier.value, "basis": "measured"})
    design = apply_edits(design, [looked])
    return apply_edits(design, modules_for(design, tier))


CARS = list(
    zip(
        Body, cycle(Tier), cycle(WISHES), cycle([2004, 2021, 1985, 2015, 1996, 2010, 1990]), cycle(Hand),
        cycle([*[Powertrain.COMBUSTION] * 3, Powertrain.HYBRID, Powertrain.ELECTRIC]), cycle([0, 1, 0, 0, 2, 1, 0]),
    )
)  # fmt: skip


@pytest.mark.parametrize(
    ("body", "tier", "wishes", "year", "hand", "powertrain", "rank"),
    CARS, ids=[f"{body.value}, {tier.value}, {rank}" for body, tier, *_, rank in CARS],
)  # fmt: skip
def test_a_job_is_done_by_what_is_offered_and_asked(
    body: Body, tier: Tier, wishes: tuple[Wish, ...], year: int, hand: Hand, powertrain: Powertrain, rank: int
) -> None:
    """One of the best ways is laid in, what stops it is done, what is to be measured first is read; it is ready to
    order, ready to build once the parts are here, and done once a sound car was proved.
    """
    trees, design = catalogue(), asked(body, tier, wishes, year, hand, powertrain)
    ways = [way for way in advise(design).ranked if way.possible]
    chosen = ways[min(rank, len(ways) - 1)].key.value
    design, acts = without_a_stop(apply_edits(design, lay_strategy(design, chosen, trees).edits), trees)
    assert not [f.title for f in evaluate(design).findings if f.severity is Severity.STOP]
    assert acts <= MOST_ACTS
    design = measured_first(design)
    assert evaluate(design, sweep_facts=True).verdict.headline == "Ready to order"
    here = [Edit(path=f"parts/{part.id}/stands", value="here") for part in design.parts]
    design = apply_edits(design, here)
    assert evaluate(design, sweep_facts=True).verdict.headline == "Ready to build"
    design = proved(design)
    for judged in (results := evaluate(design).results).proof.checks:
        if judged.state is State.UNJUDGED and fact_of(results, judged) is not None:
            design = apply_edits(design, take_over(results, judged, "2026-03-02"))
    assert evaluate(design, sweep_facts=True).verdict.headline == "Done"
