"""Practice: the same seed hides the same, levels differ, the score counts rightly, the strategy follows itself."""

from __future__ import annotations

import pytest

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.proof import PRACTICE_EDITION, FaultKind, Practice
from ohmack.core.evaluation.door import evaluate
from ohmack.core.planning.proving import Read, take_reading
from ohmack.core.prove.candidates import candidates
from ohmack.core.prove.car import Setting
from ohmack.core.prove.judged import State
from ohmack.core.prove.spans import spans_of
from ohmack.demo.jobs import demo_design, demo_jobs
from ohmack.instruments.practice import SINCE_3, as_planned, car_of, hidden, score, shows_at, still_in, symptoms_with
from ohmack.instruments.true_car import LEADS_OHM, Meter, shown, true_car
from proving import reading


def practising(design: Design, seed: int, level: int) -> Design:
    proof = as_planned(design).proof.model_copy(update={"practice": Practice(seed=seed, level=level)})
    return design.model_copy(update={"proof": proof})


@pytest.mark.parametrize("level", [1, 2, 3])
def test_what_is_hidden_comes_from_the_seed(level: int, estate: Design) -> None:
    found = [hidden(estate, Practice(seed=seed, level=level)) for seed in range(1, 13)]
    assert found == [hidden(estate, Practice(seed=seed, level=level)) for seed in range(1, 13)]
    assert len({tuple(c.fault.kind for c in faults) for faults in found}) > 3, "seeds hide different things"
    assert all(len(faults) == (2 if level == 3 else 1) for faults in found)
    results = evaluate(estate).results
    assert all(symptoms_with(results, faults) for faults in found), "something is always heard or seen"
    read = estate.model_copy(update={"proof": practising(estate, 3, level).proof})
    assert hidden(read, Practice(seed=5, level=level)) == found[4], "what was read changes nothing of it"


def test_a_practice_that_was_begun_goes_on_hiding_what_it_hid() -> None:
    """What became known later is hidden by later practices alone; both go by their seed."""
    design = demo_design(next(n for n, job in enumerate(demo_jobs()) if job.title.startswith("Five channels, four do")))
    first, second, third, _ = (
        {hidden(design, Practice(seed=seed, level=2, edition=edition))[0].fault.kind for seed in range(1, 60)}
        for edition in range(1, PRACTICE_EDITION + 1)
    )
    assert FaultKind.STAYS_ON not in first
    assert FaultKind.STAYS_ON in second
    assert second.isdisjoint(SINCE_3)
    assert third & set(SINCE_3)
    lorry = demo_design(next(n for n, job in enumerate(demo_jobs()) if job.title == "Sound for a lorry cab"))
    before, now = (
        {hidden(lorry, Practice(seed=seed, level=2, edition=edition))[0].fault.kind for seed in range(1, 90)}
        for edition in (3, 4)
    )
    assert FaultKind.NOT_CHARGING in now - before, "it showed nowhere behind a converter"
    assert Practice(seed=3).edition == 1, "one begun before there were editions"


def test_a_true_car_is_one_of_those_the_plan_allows(estate: Design) -> None:
    planned = evaluate(estate).results.car
    one, same, other = true_car(estate, 4), true_car(estate, 4), true_car(estate, 5)
    volts = [car.live(Setting.LEVEL).volts["amp plus"] for car in (one, same, other)]  # type: ignore[union-attr]
    assert volts[0] == volts[1] != volts[2]
    spans = {s.of: s for s in spans_of(planned) if s.kind == "branch"}
    assert one.network is not None
    for branch in one.network.branches:
        span = spans[branch.id]
        assert span.low <= branch.resistance_ohm <= span.high
    assert (shown(0.0123456), shown(14.23456), shown(1234.5)) == (0.012, 14.23, 1234.0)


def test_what_a_meter_shows_of_a_sound_car_is_taken_and_good(estate: Design) -> None:
    """With the leads' own resistance, other at each touch: no reading of a sound car is refused, and of a hundred
    readings about five fall outside windows made to hold 95 of 100.
    """
    checks = [judged.check for gate in evaluate(estate).results.proof.gates for judged in gate.checks]
    states = []
    for seed in range(1, 7):
        car = true_car(estate, seed)
        meter, design = Meter(car, seed, LEADS_OHM), estate
        for check in checks:
            shows = meter.at(check)
            live = car.live(check.setting) if check.asks_current else None
            read = Read(
                value=shows.value, over=shows.over, passed=shows.passed, zero_ohm=LEADS_OHM,
                current_a=live.current_a[check.probe.subject] if live else None,
            )  # fmt: skip
            design = apply_edits(design, take_reading(design, check, read))
        states += [judged.state for gate in evaluate(design).results.proof.gates for judged in gate.checks]
    assert len(states) == 6 * len(checks)
    assert states.count(State.OFF) <= 0.05 * len(states) + 3 * (0.05 * 0.95 * len(states)) ** 0.5
    assert set(states) <= {State.PASSED, State.OFF}


def test_the_score_counts_checks_minutes_and_wrong_mends(estate: Design) -> None:
    design = practising(estate, 7, 1)
    (fault,) = hidden(design, Practice(seed=7, level=1))
    before = score(design)
    assert (before.person.checks, before.found, before.over) == (0, (), False)
    assert before.strategy.right
    assert 0 < before.strategy.checks < 12
    car, _ = car_of(design)
    checks = {c.id: c for c in evaluate(design).results.finder.checks}
    taken = [reading(car, checks[name], n) for n, name in enumerate(("dead/pair/amp", "live/whine", "level/drop/amp"))]
    wrong = next(c.fault for c in candidates(evaluate(estate).results) if c.fault.at != fault.fault.at)
    mends = [
        {"id": "m1", "kind": wrong.kind.value, "at": wrong.at, "after": 3},
        {"id": "m2", "kind": fault.fault.kind.value, "at": fault.fault.at, "after": 3},
    ]
    after = apply_edits(design, [*taken, *(Edit(op="add", path="proof/mends", value=m) for m in mends)])
    stands = score(after)
    assert (stands.person.checks, stands.person.minutes) == (3, pytest.approx(2 + 1 + 3))
    assert (stands.found, stands.wrong, stands.over) == ((fault,), 1, True)
    assert still_in(after) == ()
    assert still_in(design) == (fault.fault,)


def test_the_answer_says_where_it_shows(estate: Design) -> None:
    """Every fault that can be hidden shows at some check of the plan; those named are not as predicted with it in."""
    for candidate in candidates(evaluate(estate).results):
        if symptoms_with(evaluate(estate).results, (candidate,)):
            assert shows_at(estate, candidate), candidate.words
    blown = next(c for c in candidates(evaluate(estate).results) if c.fault.kind is FaultKind.BLOWN_FUSE)
    said = shows_at(estate, blown)
    assert "Morrowick 10 D4 plays" in said
    assert any("key on, engine off" in title for title in said)
    assert not any(title.startswith("Ohms of") for title in said)


@pytest.mark.parametrize("seed", range(1, 9))
def test_the_strategy_finds_what_is_hidden(seed: int, estate: Design) -> None:
    """Two at once, one after the other: it ends rightly, or with what cannot be told apart."""
    for level in (1, 2, 3):
        stands = score(practising(estate, seed, level))
        kinds = {c.fault.kind for c in stands.faults}
        assert stands.strategy.right or level == 3 or FaultKind.EARLY_ON in kinds, (seed, level, kinds)
        assert stands.strategy.checks <= 20
