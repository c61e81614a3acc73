"""Dead and shorted speakers in a wire hunt: explained, taken, and found to the end; against plain listing."""

from __future__ import annotations

from itertools import combinations, permutations
from random import Random

import pytest

from ohmack.core.document import Design
from ohmack.core.document.edits import apply_edits
from ohmack.core.document.harness import OPEN_OHM, Fault, Heard, Hunt, HuntReading, HuntWire, TestKind
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.harness.hunt_targets import Target, broken, targets_of
from ohmack.core.harness.wire_faults import explanations
from ohmack.core.harness.wire_finder import can_all_be_true, find, possible_assignments
from ohmack.core.planning.harness import take_fault
from ohmack.core.planning.starting_points import new_vehicle

OHMS = {"spk-fl": 3.4, "spk-fr": 3.3, "spk-rl": 3.5, "spk-rr": 6.6}


def car() -> Design:
    """A saloon with four door speakers, one of them of 8 Ω, as on file."""
    tree = new_vehicle("Dravel", "Minnow", 2009, Body.SALOON, Hand.RIGHT).model_dump()
    for speaker in tree["speakers"]:
        nominal = 8.0 if speaker["id"] == "spk-rr" else 4.0
        speaker["impedance_ohm"] = {"value": nominal, "basis": "documented"}
    return Design.model_validate({"vehicle": tree})


def hunted(truth: dict[str, tuple[int, int]], ohms: dict[str, float], tests: list[tuple[int, int]]) -> Hunt:
    """A hunt of eight wires in which an ohmmeter said what is true."""
    wires = tuple(HuntWire(id=f"w{n}", name=f"wire {n + 1}") for n in range(2 * len(truth)))
    of_pair = {frozenset(pair): name for name, pair in truth.items()}
    readings = []
    for number, (a, b) in enumerate(tests):
        name = of_pair.get(frozenset((a, b)))
        value = ohms[name] if name is not None else OPEN_OHM
        readings.append(HuntReading(
            id=f"r{number}", kind=TestKind.RESISTANCE, wire_a_id=f"w{a}", wire_b_id=f"w{b}", value_ohm=value
        ))  # fmt: skip
    return Hunt(wires=wires, speaker_ids=tuple(truth), readings=tuple(readings))


ALL_TESTS = list(combinations(range(8), 2))
TRUTH = {"spk-fl": (0, 1), "spk-fr": (2, 3), "spk-rl": (4, 5), "spk-rr": (6, 7)}


@pytest.mark.parametrize(("dead", "reads"), [(Fault.DEAD, OPEN_OHM), (Fault.SHORTED, 0.2)])
@pytest.mark.parametrize("victim", list(TRUTH))
def test_a_broken_speaker_explains_readings_that_are_all_true(victim: str, dead: Fault, reads: float) -> None:
    """Every reading is true; only the model without broken speakers cannot hold them."""
    design, hunt = car(), hunted(TRUTH, OHMS | {victim: reads}, ALL_TESTS)
    vehicle = design.vehicle
    assert not can_all_be_true(hunt, targets_of(vehicle, hunt), hunt.readings)
    assert find(vehicle, hunt).contradiction
    first, *others = explanations(vehicle, hunt)
    alike = {victim} if victim == "spk-rr" else {"spk-fl", "spk-fr", "spk-rl"}  # 4 Ω doors cannot be told by ohms
    named = {one.about_id for one in (first, *others) if one.fault is dead}
    assert first.fault is dead
    assert named == alike, "each speaker that may be the one, and no other"
    assert sum(one.odds for one in (first, *others)) == pytest.approx(1.0)
    begun = design.model_copy(update={"vehicle": vehicle.model_copy(update={"hunt": hunt})})
    taken = apply_edits(begun, take_fault(begun, dead.value, victim))
    again = taken.vehicle.hunt
    assert again is not None
    result = find(taken.vehicle, again)
    assert not result.contradiction
    pair = next(g for g in (*result.certain, *result.guesses) if g.speaker_id == victim)
    assert {*pair.wires} == {f"w{n}" for n in TRUTH[victim]}
    whole = apply_edits(taken, take_fault(taken, "", victim))
    assert whole.vehicle.hunt == hunt, "and back again"


def test_one_false_reading_is_named_and_is_the_likeliest_where_no_speaker_explains_it() -> None:
    """Two wires read as a pair that each read as a pair with another before: no dead speaker makes that true."""
    hunt = hunted(TRUTH, OHMS, ALL_TESTS)
    false = HuntReading(id="bad", kind=TestKind.RESISTANCE, wire_a_id="w0", wire_b_id="w2", value_ohm=3.4)
    kept = tuple(r for r in hunt.readings if {r.wire_a_id, r.wire_b_id} != {"w0", "w2"})
    hunt = hunt.model_copy(update={"readings": (*kept, false)})
    found = explanations(car().vehicle, hunt)
    assert [(one.fault, one.about_id) for one in found] == [(None, "bad")]
    fine = hunt.model_copy(update={"readings": kept})
    assert explanations(car().vehicle, fine) == ()


def test_assignments_with_broken_speakers_against_plain_listing() -> None:
    """Three pairs, random truths, tests and faults: every matching listed by hand and held against each reading."""
    random = Random(7)
    vehicle = car().vehicle
    names = ["spk-fl", "spk-fr", "spk-rr"]
    for _ in range(40):
        wires = random.sample(range(6), 6)
        truth = {name: (wires[2 * k], wires[2 * k + 1]) for k, name in enumerate(names)}
        victim, fault = random.choice(names), random.choice([Fault.DEAD, Fault.SHORTED])
        ohms = {**OHMS, victim: OPEN_OHM if fault is Fault.DEAD else 0.3}
        tests = random.sample(list(combinations(range(6), 2)), random.randint(3, 15))
        hunt = hunted(truth, ohms, tests)
        targets = tuple(broken(t, fault) if t.id == victim else t for t in targets_of(vehicle, hunt))
        listed = 0
        for order in permutations(range(6)):
            pairs = [tuple(sorted(order[2 * k : 2 * k + 2])) for k in range(3)]
            if any(order[2 * k] > order[2 * k + 1] for k in range(3)):
                continue
            if all(_agrees(r, pairs, targets) for r in hunt.readings):
                listed += 2**3  # either wire of each pair may be the plus
        assert possible_assignments(hunt, targets, hunt.readings) == pytest.approx(listed)
        assert can_all_be_true(hunt, targets, hunt.readings) == (listed > 0)
        assert listed > 0, "the truth is among them"


def _agrees(reading: HuntReading, pairs: list[tuple[int, ...]], targets: tuple[Target, ...]) -> bool:
    pair = tuple(sorted(int(name[1:]) for name in (reading.wire_a_id, reading.wire_b_id or "")))
    target = targets[pairs.index(pair)] if pair in pairs else None
    ohm = reading.value_ohm or 0.0
    if ohm >= 500:
        return target is None or target.reads_open
    return target is not None and not target.reads_open and target.low_ohm <= ohm <= target.high_ohm


def test_a_trial_that_nobody_hears_fits_a_dead_speaker() -> None:
    """Nothing sounds on two wires: no pair, or the pair of the one that is dead; a sounding one is not dead."""
    design = car()
    silent = HuntReading(id="t", kind=TestKind.TRIAL, wire_a_id="w0", wire_b_id="w1", heard=Heard.NOTHING)
    hunt = hunted(TRUTH, OHMS, []).model_copy(update={"readings": (silent,)})
    assert find(design.vehicle, hunt).pair_odds["w0", "w1"] == 0.0
    dead = hunt.model_copy(update={"dead_ids": ("spk-fl",)})
    assert find(design.vehicle, dead).pair_odds["w0", "w1"] > 0.0
    sounds = silent.model_copy(update={"heard": None, "speaker_id": "spk-fl"})
    assert find(design.vehicle, dead.model_copy(update={"readings": (sounds,)})).contradiction == ("t",)
