"""The search for a fault: odds by full enumeration over evaluated designs, every fault found by following proposals."""

from __future__ import annotations

from dataclasses import replace
from math import erf, exp, log2, pi, sqrt
from random import Random

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ohmack.core.document import Design
from ohmack.core.document.design import Intake
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.policy import Policy
from ohmack.core.document.proof import FaultKind, ProofReading, Symptom
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.errors import NotPossible, OutOfRange
from ohmack.core.evaluation.door import evaluate
from ohmack.core.network.model import Place
from ohmack.core.physics.odds import boundaries, entropy_bits, gain_bits, normal_share, posterior
from ohmack.core.planning.part_added import added
from ohmack.core.planning.proving import Read, asked, take_reading
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.core.prove import finder as finder_module
from ohmack.core.prove.candidates import candidates
from ohmack.core.prove.car import LEAD, Setting
from ohmack.core.prove.evidence import evidence_of
from ohmack.core.prove.finder import Finder
from ohmack.core.prove.free_probing import free_check, free_id, points_of
from ohmack.core.prove.ohms import pair_ohm
from ohmack.core.prove.points import remote_of
from ohmack.core.prove.probes import Ask, Probe, Quantity, take
from ohmack.core.prove.search import OF_ANY_SIZE, OF_SIZE, Search
from ohmack.core.prove.symptoms import symptoms_of
from ohmack.core.prove.windows import Windows, meter_sigma
from ohmack.core.reference import table
from ohmack.demo.building import catalogue
from ohmack.demo.jobs import demo_design, demo_jobs

TITLES = [job.title for job in demo_jobs()]
WEIGHTS = st.lists(st.floats(0.01, 10), min_size=2, max_size=8)


@given(WEIGHTS, st.integers(0, 1000))
def test_what_an_answer_tells_is_the_entropy_it_takes(weights: list[float], seed: int) -> None:
    """Outside check: by the definition, entropy before less the mean entropy after, each by Bayes over all causes."""
    chance = np.random.default_rng(seed)
    odds = np.array(weights) / sum(weights)
    outcomes = chance.dirichlet([1.0] * 4, len(weights))
    after = 0.0
    for k in range(4):
        share = float((odds * outcomes[:, k]).sum())
        each = [o * p / share for o, p in zip(odds, outcomes[:, k], strict=True)]
        after += share * -sum(e * log2(e) for e in each if e > 0)
    before = -sum(o * log2(o) for o in odds if o > 0)
    assert entropy_bits(odds) == pytest.approx(before)
    assert gain_bits(odds, outcomes) == pytest.approx(before - after, abs=1e-9)


def test_odds_of_the_impossible_are_refused() -> None:
    with pytest.raises(OutOfRange):
        posterior(np.array([0.0, 0.0]), [])
    with pytest.raises(OutOfRange):
        posterior(np.array([1.0, 1.0]), [np.array([0.0, 0.0])])


def test_outcomes_part_where_both_neighbours_are_as_far() -> None:
    assert boundaries([1.0, 9.0], [1.0, 1.0]) == [5.0]
    assert boundaries([1.0, 9.0], [1.0, 3.0]) == [3.0], "nearer to the sharper one"
    assert boundaries([1.0, 2.0], [1.0, 1.0]) == []
    assert normal_share(-1, 1, 0, 1) == pytest.approx(erf(1 / sqrt(2)))


def small(estate: Design) -> tuple[Design, tuple[ProofReading, ...]]:
    """A car with a handful of readings a bad ground shows."""
    readings = (
        ProofReading(id="a", check="live/amp/amp/running", value=14.15),
        ProofReading(id="b", check="level/drop/amp", value=820.0, current_a=46.0),
        ProofReading(id="c", check="live/whine", passed=False),
        ProofReading(id="d", check="dead/pair/amp", value=1.72),
        ProofReading(id="e", check="dead/loose/amp", over=True),
    )
    return estate, readings


def test_odds_are_those_of_full_enumeration(estate: Design) -> None:
    """Outside check: every single fault written into the design and evaluated anew, every likelihood by hand, Bayes
    over all of them. No pair is likely enough to matter after these readings.
    """
    design, readings = small(estate)
    results = evaluate(design).results
    finder = Finder(results)
    checks = {c.id: c for c in finder.checks}
    found = finder.search(readings, [Symptom.WHINE])
    windows, errors = Windows(results.car), table("proof", "errors")
    wild, wrong = errors["wild_reading"], errors["wrong_answer"]
    rows: dict[object, float] = {}
    everything = [None, *candidates(results)]
    total = sum(c.weight for c in everything if c is not None)
    for candidate in everything:
        edits = [] if candidate is None else [
            Edit(op="add", path="proof/faults", value=candidate.fault.model_dump(mode="json"))
        ]  # fmt: skip
        car = evaluate(apply_edits(design, edits)).results.car
        weight = total * errors["none_wrong"] if candidate is None else candidate.weight
        shows = Symptom.WHINE in symptoms_of(car, results.car, (), ("sub",))
        weight *= 1 - errors["unsaid_symptom"] if shows else errors["false_symptom"]
        for reading in readings:
            probe: Probe = checks[reading.check].probe
            there = take(car, probe)
            assert there is not None
            if probe.quantity is Quantity.ANSWER:
                weight *= 1 - wrong if there.passed == reading.passed else wrong
            elif reading.over:
                weight *= 1 - wild if there.over else wild
            elif there.over:  # a number where there is no connection: a stray one, anywhere on the meter's range
                width = {Quantity.OHM: 20.0, Quantity.DC_V: 15.0}.get(probe.quantity, 2000.0)
                weight *= wild / max(4 * abs(reading.value or 0.0), width)
            else:
                assert there.value is not None
                assert reading.value is not None
                window, at = windows.of(probe), there.value
                if reading.current_a:
                    live = car.live(probe.setting)
                    assert live is not None
                    at *= reading.current_a / live.current_a["amp"] if live.current_a["amp"] > 0 else 1.0
                wide_ohms = candidate is not None and candidate.fault.kind in (FaultKind.BAD_CRIMP, FaultKind.BAD_JOINT)
                share = OF_ANY_SIZE if wide_ohms else OF_SIZE
                sigma = meter_sigma(probe.quantity, at) + share * at if window is None else (
                    sqrt(window.sigma**2 + (share * abs(at - window.value)) ** 2)
                )  # fmt: skip
                wide = max(4 * abs(at), {Quantity.OHM: 20.0, Quantity.DC_V: 15.0}.get(probe.quantity, 2000.0))
                density = exp(-0.5 * ((reading.value - at) / sigma) ** 2) / (sigma * sqrt(2 * pi))
                weight *= (1 - wild) * density + wild / wide
        key = () if candidate is None else ((candidate.fault.kind, candidate.fault.at, candidate.fault.other),)
        rows[key] = rows.get(key, 0.0) + weight
    single = {s.key: s.odds for s in found.suspects if len(s.key) < 2}
    held = sum(single.values())
    assert held > 0.7, "pairs hold the rest"
    whole = sum(rows.values())
    for key, weight in rows.items():
        assert single[key] / held == pytest.approx(weight / whole, rel=1e-6, abs=1e-9), key  # type: ignore[index]


def follow(finder: Finder, n: int, seed: int, wrong: bool = False, careful: bool = False) -> tuple[int, Search]:
    """Follow every proposal on a car with one cause in it; (checks made, the search at its end).

    `wrong`: the first reading is; `careful`: what a finding hangs on is read again.
    """
    chance, cause = Random(seed), finder.causes[n]
    symptoms = symptoms_of(cause.car, finder.planned, *finder.places)
    readings: list[ProofReading] = []
    while True:
        search = finder.search(readings, symptoms)
        again = search.hangs_on if careful else ()
        if (search.found is not None or not search.proposals or len(readings) > 15) and not again:
            return len(readings), search
        check = again[0] if again else search.proposals[0].check
        taken = take(cause.car, check.probe)
        assert taken is not None
        value = (
            None if taken.value is None else chance.gauss(taken.value, meter_sigma(check.probe.quantity, taken.value))
        )
        over, passed = taken.over, taken.passed
        if wrong and not readings:
            value = None if value is None and not over else 0.05 if over else 0.4 * (value or 0.0)
            over, passed = False, None if passed is None else not passed
        readings.append(ProofReading(id=f"r{len(readings)}", check=check.id, value=value, over=over, passed=passed))


def test_every_fault_is_found_by_following_the_proposals(estate: Design) -> None:
    """Each single fault that is heard or seen, put into the car, read with a meter's error: found, and rightly; or it
    ends with what cannot be told apart, the true one among it.
    """
    finder = Finder(evaluate(estate).results)
    checks = []
    for n, cause in enumerate(finder.causes[1:], 1):
        if not symptoms_of(cause.car, finder.planned, *finder.places):
            continue
        made, search = follow(finder, n, n)
        named = [search.found] if search.found is not None else list(search.stuck)
        assert cause.key in [s.key for s in named], cause.faults[0].words
        checks.append(made)
    assert len(checks) > 20
    assert sum(checks) / len(checks) < 5, "about as few as a good technician needs; common practice"


def test_a_finding_that_hangs_on_one_reading_is_read_again_first(estate: Design) -> None:
    """Common practice, no source: nothing is taken apart on one reading. With the first one wrong some searches end at
    a part that is whole; with what the finding hangs on read again none does.
    """
    finder = Finder(evaluate(estate).results)
    misled = {False: 0, True: 0}
    for n, cause in list(enumerate(finder.causes))[3::5]:
        if symptoms_of(cause.car, finder.planned, *finder.places):
            for careful in misled:
                _, search = follow(finder, n, n, wrong=True, careful=careful)
                misled[careful] += search.found is not None and search.found.key != cause.key
    assert misled[False] > 0 == misled[True]
    ground = ProofReading(id="a", check="dead/ground/amp", value=2.4)
    lone = finder.search([ground], [], unpowered=True)
    (doubted,) = [p for p in lone.proposals if p.again]
    assert doubted.check.id == ground.check
    stays = next(outcome for outcome in doubted.outcomes if outcome.words == "the same again")
    assert stays.means[0].key == lone.suspects[0].key
    assert stays.means[0].odds > lone.suspects[0].odds, "read the same again it is believed"
    assert sum(outcome.share for outcome in doubted.outcomes) == pytest.approx(1.0, abs=0.03)
    same = finder.search([ground, ground.model_copy(update={"value": 2.5})], [], unpowered=True)
    assert not any(p.again for p in same.proposals), "it read the same twice"
    nothing = [next(s.odds for s in one.suspects if not s.key) for one in (lone, same)]
    assert nothing[1] < nothing[0] / 10, "a mistake is seldom made twice"
    other = finder.search([ground.model_copy(update={"value": 7.0}), ground], [], unpowered=True)
    assert [r.value for _, r in other.evidence] == [2.4], "what was read before says nothing more"
    assert [p.check.id for p in other.proposals if p.again] == [ground.check]
    whole = finder.search([ground.model_copy(update={"value": 0.03})], [], unpowered=True)
    assert not any(p.again for p in whole.proposals), "it is as it should be"


def test_two_equal_amplifiers_that_thump_are_told_apart_by_nothing() -> None:
    """Both are switched by one feed: which of them thumps, no check of ours hears. It says so and names both."""
    finder = Finder(evaluate(demo_design(TITLES.index("Two amplifiers, and lamps that dim"))).results)
    early = [n for n, c in enumerate(finder.causes) if c.faults and c.faults[0].fault.kind is FaultKind.EARLY_ON]
    _, search = follow(finder, early[0], 3)
    assert search.found is None
    assert {s.faults[0].fault.kind for s in search.stuck} == {FaultKind.EARLY_ON}
    assert len(search.stuck) == 2


def test_a_proposal_says_what_each_outcome_would_mean(estate: Design) -> None:
    search = Finder(evaluate(estate).results).search([], [Symptom.NO_POWER])
    first = search.proposals[0]
    assert sum(o.share for o in first.outcomes) == pytest.approx(1, abs=0.03), "under one in a hundred is left out"
    assert all(o.words and o.means for o in first.outcomes)
    rates = [p.gain_bits / p.check.minutes for p in search.proposals]
    assert rates == sorted(rates, reverse=True)
    assert first.check.minutes <= 3, "no power: constant, switched, ground come before anything slow; common practice"
    apart = {o.means[0].key for o in first.outcomes}
    assert len(apart) > 1, "the outcomes speak for different causes"


def test_nothing_is_proposed_while_nothing_is_wrong(estate: Design) -> None:
    results = evaluate(estate).results
    assert not results.search.begun
    assert not results.search.proposals
    assert results.search.found is None


def test_a_wild_reading_does_not_decide(estate: Design) -> None:
    """One answer that cannot be, among four that say blown fuse, moves the odds and not the finding."""
    finder = Finder(evaluate(estate).results)
    blown = [
        ProofReading(id="a", check="live/amp/amp/on", value=0.0), ProofReading(id="b", check="live/amp/amp/running",
        value=0.0), ProofReading(id="c", check="live/idle/amp", value=0.0), ProofReading(id="d",
        check="dead/clear/power-amp", over=True), ProofReading(id="e", check="dead/ground/amp", value=0.02),
    ]  # fmt: skip
    found = finder.search(blown, [Symptom.NO_POWER]).suspects[0]
    assert found.odds > 0.6
    assert found.faults[0].fault.kind is FaultKind.BLOWN_FUSE
    odd = [*blown, ProofReading(id="f", check="live/plays/sub", passed=True)]
    assert finder.search(odd, [Symptom.NO_POWER]).suspects[0].faults[0].fault.kind is FaultKind.BLOWN_FUSE


def test_half_the_ohms_are_no_open_lead(estate: Design) -> None:
    """A number is no lead that is off and no open coil: those show no connection. Half of what was planned across the
    pair is a burnt coil or something else on the leads, and the driver by itself tells which (common practice).
    """
    results = evaluate(estate).results
    (output,) = [o for o in results.car.outputs if o.out_v is not None]
    half_ohm = pair_ohm(output.parts) / 2
    pair = ProofReading(id="a", check="dead/pair/amp", value=half_ohm)
    suspects = results.finder.search([pair], []).suspects
    said = {s.faults[0].fault.kind: s.odds for s in suspects if len(s.faults) == 1}
    open_ones = [said.get(kind, 0.0) for kind in (FaultKind.PAIR_OPEN, FaultKind.COIL_OPEN)]
    assert max(open_ones) < 0.05 < said[FaultKind.PAIR_SHARED]
    coils = [p for p in output.parts if p.name != LEAD]
    whole = [
        ProofReading(id=f"c{n}", check=f"find/coil/{output.scope}/{coil.name}", value=coil.impedance_ohm.real)
        for n, coil in enumerate(coils)
    ]
    assert {r.check for r in whole} <= {c.id for c in results.finder.checks}
    found = results.finder.search([pair, *whole], []).suspects[0]
    assert found.faults[0].fault.kind is FaultKind.PAIR_SHARED
    burnt = whole[0].model_copy(update={"value": (whole[0].value or 0.0) / 2})
    assert results.finder.search([burnt], []).suspects[0].faults[0].fault.kind is FaultKind.COIL_SHORTED
    nothing = ProofReading(id="a", check="dead/pair/amp", over=True)
    assert results.finder.search([nothing], []).suspects[0].faults[0].fault.kind is FaultKind.PAIR_OPEN


@pytest.mark.parametrize("ohm", [0.3, 0.8, 2.0, 4.0, 6.0])
def test_ohms_in_a_lead_are_a_joint_in_that_lead(estate: Design, ohm: float) -> None:
    """A lead that connects and reads ohms has a joint in it that is none (common practice): of a power run a crimp, of
    the switch-on, the line or the pickup that lead and no other, of a pair its leads where no wiring of the coils
    reads so. The same ohms are no lead that is off.
    """
    results = evaluate(estate).results
    leads = {"dead/run/power-amp": FaultKind.BAD_CRIMP}
    leads |= {c.id: FaultKind.BAD_JOINT for c in results.finder.checks if c.id.startswith("dead/lead/")}
    assert len(leads) > 3
    for check, kind in leads.items():
        suspects = results.finder.search([ProofReading(id="a", check=check, value=ohm)], []).suspects
        first = suspects[0].faults[0].fault
        assert (first.kind, first.at.rpartition("/")[0] or first.at) == (kind, check.rpartition("/")[2])
        off = [s.odds for s in suspects if len(s.faults) == 1
               and s.faults[0].fault.kind in (FaultKind.OPEN_RUN, FaultKind.NO_SIGNAL)]  # fmt: skip
        assert max(off, default=0.0) < suspects[0].odds / 3


def test_ohms_over_those_of_a_single_coil_are_in_its_leads() -> None:
    """A door's one coil has no other wiring and no second coil: what a pair reads too much lies in its leads."""
    results = evaluate(
        next(d for n in range(len(demo_jobs())) if (d := demo_design(n)).title.startswith("Five"))
    ).results
    output = next(o for o in results.car.outputs if len(o.parts) == 2)
    pair = ProofReading(id="a", check=f"dead/pair/{output.scope}", value=pair_ohm(output.parts) + 3.0)
    assert pair.check in {c.id for c in results.finder.checks}
    first = results.finder.search([pair], []).suspects[0].faults[0].fault
    assert (first.kind, first.at) == (FaultKind.BAD_JOINT, output.scope)


def test_what_was_read_before_a_mend_is_no_evidence(estate: Design) -> None:
    first = {"id": "a", "check": "live/whine", "passed": False}
    second = {"id": "b", "check": "live/whine", "passed": True}
    mend = {"id": "m", "kind": FaultKind.GROUND_LOOP.value, "at": "line", "after": 1}
    edits = [Edit(op="add", path="proof/readings", value=tree) for tree in (first, second)]
    design = apply_edits(estate, [*edits, Edit(op="add", path="proof/mends", value=mend)])
    assert [r.id for r in evidence_of(design.proof)] == ["b"]
    corrected = evaluate(apply_edits(estate, edits)).results.search
    assert [r.id for _, r in corrected.evidence] == ["b"], "a correction counts alone"


def test_two_points_chosen_freely_are_evidence_too(estate: Design) -> None:
    """250 mV over the ground ring alone, at points nobody's list names: the ring is bad."""
    results = evaluate(estate).results
    network = results.power.network
    assert network is not None
    ring = next(b for b in network.branches if b.id == "ground-amp/end")
    name = free_id(Quantity.DROP_MV, Setting.LEVEL, ring.start, ring.end)
    check = free_check(results, name)
    assert check is not None
    assert check.probe == Probe(Quantity.DROP_MV, ring.start, ring.end, Setting.LEVEL)
    found = results.finder.search([ProofReading(id="a", check=name, value=700.0)], []).suspects[0]
    assert (found.key[0][0], found.key[0][1]) == (FaultKind.BAD_GROUND, "ground-amp/end")
    assert take_reading(estate, check, Read(value=700.0))[0].value["check"] == name


def test_every_point_of_a_car_can_be_probed() -> None:
    """Any two of them give a check in every quantity; the same point twice, or volts with no fuse in, do not."""
    for title in TITLES[::4]:
        results = evaluate(demo_design(TITLES.index(title))).results
        points = [one.point for one in points_of(results)]
        assert len(points) == len(set(points))
        for a, b in zip(points, points[1:], strict=False):
            assert free_check(results, free_id(Quantity.OHM, Setting.ON, a, b)) is not None
            volts = free_check(results, free_id(Quantity.DC_V, Setting.ON, a, b))
            assert volts is not None
            assert volts.plus is not None
            assert volts.plus.name
            assert free_check(results, free_id(Quantity.DC_V, Setting.DEAD, a, b)) is None
            assert free_check(results, free_id(Quantity.OHM, Setting.ON, a, a)) is None
        for wrong in ("find/free", "find/free|OHM|ON|x|y", "find/free|STEP|ON|a|b", "dead/pair/amp"):
            assert free_check(results, wrong) is None


def test_a_search_hangs_on_nothing_that_was_searched_before(estate: Design) -> None:
    """The same finder asked many times says what a fresh one says: pairs of one search are not those of the next."""
    results = evaluate(estate).results
    used = Finder(results)
    for symptom in Symptom:
        used.search([ProofReading(id="a", check="level/drop/amp", value=300.0)], [symptom])
    coil = ProofReading(id="a", check="dead/pair/amp", value=3.4)
    said = [coil, ProofReading(id="b", check="live/whine", passed=False)]
    again, fresh = (f.search(said, [Symptom.WHINE, Symptom.QUIET]) for f in (used, Finder(results)))
    assert [(s.key, s.odds) for s in again.suspects] == [(s.key, s.odds) for s in fresh.suspects]
    assert [p.check.id for p in again.proposals] == [p.check.id for p in fresh.proposals]


def test_an_ear_is_not_asked_again_first(estate: Design, monkeypatch: pytest.MonkeyPatch) -> None:
    """Who said that it whines, or that it does not, is first asked for something else."""
    search = Finder(evaluate(estate).results).search

    def first(said: list[Symptom], denied: list[Symptom]) -> Ask | None:
        return search([], said, denied).proposals[0].check.probe.ask

    said = [Symptom.CUTS_OUT, Symptom.WHINE]
    assert first(said, []) is not Ask.WHINE
    assert first([Symptom.CUTS_OUT], [Symptom.WHINE]) is not Ask.WHINE
    monkeypatch.setattr(finder_module, "HEARD_AS", {})
    assert first(said, []) is Ask.WHINE, "it tells most a minute, to who has not heard it yet"


def test_with_the_fuse_out_only_what_can_be_read_then_is_proposed(estate: Design) -> None:
    """A lead that is whole under a painted ring reads an ohm or two (common practice, no source). Before the first gate
    nothing live may be asked for; on a car somebody else fitted the fuse is in, and in practice it is let in.
    """
    bad = [Edit(path="proof/readings", op="add", value={"id": "r", "check": "dead/ground/amp", "value": 2.4})]
    search = evaluate(apply_edits(estate, bad)).results.search
    assert search.unpowered
    assert search.suspects[0].words == "a bad ground: Stud, left rear corner, for Tessel M500"
    assert search.proposals[0].check.id == "find/ohms/ground-amp/end", "a lead that is off would show no connection"
    assert {p.check.probe.setting for p in search.proposals} == {Setting.DEAD}
    lead = ProofReading(id="b", check="find/ohms/ground-amp/run", value=0.05)
    ring = ProofReading(id="c", check="find/ohms/ground-amp/end", value=2.3)
    known = evaluate(apply_edits(estate, bad)).results.finder.search([*search_readings(bad), lead, ring], [])
    assert known.found is not None
    assert known.found.faults[0].fault.kind is FaultKind.BAD_GROUND
    there = apply_edits(estate, [Edit(path=f"parts/{p.id}/stands", value="already in the car") for p in estate.parts])
    there = apply_edits(there, [Edit(path=f"links/{k.id}/in_car", value=True) for k in there.links])
    assert not evaluate(apply_edits(there, bad)).results.search.unpowered


def search_readings(edits: list[Edit]) -> list[ProofReading]:
    return [ProofReading.model_validate(edit.value) for edit in edits]


def test_a_car_nobody_measured_is_searched_by_what_switches_it_on() -> None:
    """An amplifier somebody fitted, its cables unread: they are taken as usual, and may be far from it. What drains it
    is its switch-on, told by a meter with the key off; nothing on file takes the treble: said instead of odds.
    """
    design = new_design("t", new_vehicle("Ollery", "Finch", 2013, Body.HATCH, Hand.LEFT), Intake(), Policy())
    trees = {tree["name"]: tree for tree in catalogue()}
    for name in ("Tessel M500", "Morrowick 12 D2", "Cooperage 28 closed"):
        design = apply_edits(design, added(design, trees[name], in_car=True))
    results = evaluate(design).results
    (amplifier,) = results.car.fed
    assert not results.car.solves(amplifier.id)
    assert results.car.powered(amplifier.id)
    finder, there = results.finder, results.searched_in.car
    assert there.solves(amplifier.id)
    assert results.car.network is None, "nothing is judged by what was taken as usual"
    run = next(branch for branch in there.network.branches if branch.place is Place.RUN)
    assert there.spans[run.id] == pytest.approx((run.resistance_ohm / 3, run.resistance_ohm * 3))
    kinds = {c.fault.kind for cause in finder.causes for c in cause.faults}
    assert {FaultKind.BLOWN_FUSE, FaultKind.OPEN_GROUND, FaultKind.NO_SWITCH_ON} <= kinds
    assert not {FaultKind.THIN_WIRE, FaultKind.CLAD_WIRE} & kinds, "nobody planned that wire"
    dead = finder.search([], [Symptom.NO_POWER])
    assert not dead.blind
    likeliest = {c.fault.kind for suspect in dead.suspects[:6] for c in suspect.faults}
    assert {FaultKind.BLOWN_FUSE, FaultKind.NO_SWITCH_ON} <= likeliest
    assert asked(results, "live/amp/amp/on", searching=True).id == "live/amp/amp/on", "what it asks is taken"
    with pytest.raises(NotPossible):
        asked(results, "live/amp/amp-2/on", searching=True)
    search = finder.search([], [Symptom.DRAINS])
    flat, always = search.suspects[:2]
    assert flat.words == "a weak battery: Battery", "before anything somebody fitted"
    assert [c.fault.kind for c in always.faults] == [FaultKind.WRONG_FEED]
    assert "live always" in always.words
    first = search.proposals[0].check
    assert first.id == f"live/remote/{amplifier.id}/asleep"
    assert take(there, first.probe).value == pytest.approx(0.0, abs=0.01)
    shows = ProofReading(id="r", check=first.id, value=12.5)
    found = finder.search([shows], [Symptom.DRAINS]).found
    assert found is not None
    assert found.words == always.words
    asleep = next(c for c in finder.checks if c.id == "level/asleep").probe
    named = [Edit(path=f"links/{k.id}/wire/size", value="8 AWG") for k in design.links if k.kind != "remote"]
    wired = evaluate(apply_edits(design, named)).results
    assert not wired.car.solves(amplifier.id), "nobody said how its coils are wired"
    assert wired.searched_in.car.solves(amplifier.id)
    plain = Finder(results)  # of what is on file alone
    stays = next(c.car for c in plain.causes if c.faults and "live always" in c.faults[0].where)
    stays_ma, rests_ma = (take(replace(car, standby_a=0.03), asleep).value for car in (stays, results.car))
    assert stays_ma - rests_ma == pytest.approx(1000 * (amplifier.idle.current_a - amplifier.asleep_a))
    off = next(c.car for c in plain.causes if c.faults and c.faults[0].fault.kind is FaultKind.NO_SWITCH_ON)
    assert Symptom.NO_POWER in symptoms_of(off, results.car)
    blind = finder.search([], [Symptom.NO_TREBLE])
    assert blind.blind
    assert blind.unexplained == (Symptom.NO_TREBLE,)
    assert (blind.proposals, blind.found, blind.stuck) == ((), None, ())
    both = finder.search([], [Symptom.NO_TREBLE, Symptom.DRAINS])
    assert not both.blind
    assert both.proposals
    assert not finder.search([shows], [Symptom.NO_TREBLE]).blind, "a reading is something to go by"


@pytest.mark.parametrize("title", ["Screen radio, dash uncut", "Everything new but the doors"])
def test_a_new_radio_that_is_dead_is_found_at_its_plug(title: str) -> None:
    """Constant, switched and ground of the car's plug, each by itself, are told apart there; one that is live always
    drains the car, one that is live with the ignition only is dead in accessory. No check of a proof asks for it.
    """
    design = demo_design(next(n for n, job in enumerate(demo_jobs()) if job.title == title))
    results = evaluate(design).results
    finder = results.finder
    (unit_id,) = {small.part_id for small in results.car.small if small.at_plug}
    constant, switched = design.vehicle.constant_feed, design.vehicle.switched_feed
    assert constant is not None
    assert switched is not None
    shows = {
        (FaultKind.BLOWN_FUSE, f"{unit_id}/{constant.id}"): Symptom.NO_POWER,
        (FaultKind.BLOWN_FUSE, f"{unit_id}/{switched.id}"): Symptom.NO_POWER,
        (FaultKind.OPEN_GROUND, unit_id): Symptom.NO_POWER,
        (FaultKind.WRONG_FEED, switched.id): Symptom.DRAINS,
    }
    seen = set()
    for n, cause in enumerate(finder.causes):
        at = (cause.faults[0].fault.kind, cause.faults[0].fault.at) if cause.faults else None
        if at not in shows:
            continue
        told = symptoms_of(cause.car, finder.planned, *finder.places)
        if cause.faults[0].fault.other and shows[at] not in told:
            assert Symptom.NOT_IN_ACCESSORY in told, cause.faults[0].words
        else:
            assert shows[at] in told, cause.faults[0].words
        assert Symptom.SILENT not in told, "no power is said, not no sound"
        made, search = follow(finder, n, n)
        assert search.found is not None, cause.faults[0].words
        assert cause.key == search.found.key
        assert made <= 5
        seen.add(at)
    assert seen == shows.keys()
    assert not [judged for judged in results.proof.checks if "/plug/" in judged.check.id]


def test_what_a_new_radio_switches_goes_with_its_plug() -> None:
    """Its remote lead is dead with its ground off, live all night where its switched feed is; the amplifier behind it
    is silent, and drains.
    """
    title = "Five channels, four doors and a box"
    results = evaluate(demo_design(next(n for n, job in enumerate(demo_jobs()) if job.title == title))).results
    (fed,) = results.car.fed
    unit_id = results.car.small[0].part_id
    assert (fed.source_id, results.car.small[0].at_plug) == (unit_id, True)
    at = {(c.faults[0].fault.kind, c.faults[0].where): c.car for c in results.finder.causes if c.faults}
    dead = next(car for (kind, _), car in at.items() if kind is FaultKind.OPEN_GROUND and not car.small[0].grounded)
    always = next(car for (_, where), car in at.items() if "live always" in where)
    shown = {
        name: [car.live(setting).volts[remote_of(fed.id)] > 11.0 for setting in (Setting.ASLEEP, Setting.ON)]
        for name, car in (("sound", results.car), ("dead", dead), ("always", always))
    }
    assert shown == {"sound": [False, True], "dead": [False, False], "always": [True, True]}
    assert not dead.heard(next(iter(dead.outputs[0].coils)))
    assert always.live(Setting.ASLEEP).current_a[fed.id] == pytest.approx(fed.idle.current_a, rel=0.01)
    told = [symptoms_of(car, results.car, *results.finder.places) for car in (dead, always)]
    assert [Symptom.NO_POWER in told[0], Symptom.DRAINS in told[1]] == [True, True]


def test_a_pair_read_on_its_output_is_evidence(estate: Design) -> None:
    """What stands with the output was read at the same two leads: a pair at half its ohms points at the coils, until
    the check itself is made, or something was mended.
    """
    symptom = Edit(path="proof/symptoms", value=[Symptom.CUTS_OUT.value])
    read = Edit(path="links/speaker-sub/reads_ohm", value={"value": 0.9, "basis": "measured", "who": "Wen"})
    guess = Edit(path="links/speaker-sub/reads_ohm", value={"value": 0.9, "basis": "assumed"})
    plain, told, guessed = (evaluate(apply_edits(estate, [symptom, *more])) for more in ([], [read], [guess]))
    (evidence,) = told.results.search.evidence
    assert (evidence[0].id, evidence[1].value, evidence[1].who) == ("dead/pair/amp", 0.9, "Wen")
    kinds = {c.fault.kind for c in told.results.search.suspects[0].faults}
    assert kinds <= {FaultKind.COIL_SHORTED, FaultKind.PAIR_SHARED, FaultKind.WRONG_COILS}
    assert kinds
    assert not plain.results.search.evidence
    assert not guessed.results.search.evidence
    check = next(judged.check for judged in told.results.proof.checks if judged.check.id == "dead/pair/amp")
    made = apply_edits(told.design, take_reading(told.design, check, Read(value=1.8)))
    (evidence,) = evaluate(made).results.search.evidence
    assert evidence[1].value == 1.8
    mend = {"id": "m", "kind": FaultKind.COIL_SHORTED.value, "at": "amp", "words": "new driver", "after": 0}
    mended = apply_edits(told.design, [Edit(op="add", path="proof/mends", value=mend)])
    assert not evaluate(mended).results.search.evidence
