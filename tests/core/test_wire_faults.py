"""Dead and shorted speakers in a wire hunt: explained, taken, and found to the end; against plain listing."""

from __future__ import annotations

from itertools import combinations, permutations
from random import Random

import numpy as np
import pytest

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.harness import OPEN_OHM, Fault, Heard, Hunt, HuntReading, HuntWire, TestKind
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.errors import OutOfRange, UnknownName
from ohmack.core.evaluation.door import evaluate
from ohmack.core.harness.contradictions import can_all_be_true, possible_assignments
from ohmack.core.harness.hunt_masks import Ground, allowed_by
from ohmack.core.harness.hunt_targets import Target, broken, targets_of
from ohmack.core.harness.speaker_circuits import speaker_circuits
from ohmack.core.harness.wire_faults import explanations
from ohmack.core.harness.wire_finder import CERTAIN, find
from ohmack.core.planning.hunting import add_reading, begin_hunt, put_result, take_fault
from ohmack.core.planning.starting_points import new_vehicle
from ohmack.core.reference import table

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


# -- not known which, wires that touch ---------------------------------------------------------------------


def test_a_dead_speaker_of_unknown_name_is_every_one_that_may_be_it() -> None:
    """Against summing over the named faults one by one (total probability)."""
    random = Random(3)
    design = car()
    for _ in range(12):
        victim = random.choice(list(TRUTH))
        tests = random.sample(ALL_TESTS, 20)
        hunt = hunted(TRUTH, OHMS | {victim: OPEN_OHM}, tests).model_copy(update={"dead_unknown": 1})
        found = find(design.vehicle, hunt)
        each = {
            name: possible_assignments(
                hunt, targets_of(design.vehicle, hunt.model_copy(update={"dead_ids": (name,)})), hunt.readings
            )
            for name in TRUTH
        }
        whole = sum(each.values())
        assert found.possible == pytest.approx(whole)
        assert {one.speaker_id: one.odds for one in found.suspects} == pytest.approx(
            {name: many / whole for name, many in each.items() if many}
        )
        assert each[victim] > 0
        for guess in found.certain:
            assert {*guess.wires} == {f"w{n}" for n in TRUTH[guess.speaker_id]}


def potentials(
    pairs: dict[tuple[int, int], float], joined: list[tuple[int, int]], nodes: list[int], a: int, b: int
) -> list[float]:
    """Volts of every node with one ampere in at a and out at b, by nodal analysis (Kirchhoff); a very weak leak ties
    what hangs free.
    """
    at = {n: k for k, n in enumerate(nodes)}
    matrix = np.eye(len(nodes)) * 1e-9
    for (one, other), ohm in [*pairs.items(), *((pair, 1e-3) for pair in joined)]:
        i, j = at[one], at[other]
        matrix[[i, j], [i, j]] += 1 / ohm
        matrix[[i, j], [j, i]] -= 1 / ohm
    current = np.zeros(len(nodes))
    current[at[a]], current[at[b]] = 1.0, -1.0
    return [float(v) for v in np.linalg.solve(matrix, current)]


def across(pairs: dict[tuple[int, int], float], joined: list[tuple[int, int]], a: int, b: int) -> float:
    """Ohms between two wires of a network of speakers and wires that touch."""
    nodes = sorted({n for pair in (*pairs, *joined) for n in pair} | {a, b})
    volts = dict(zip(nodes, potentials(pairs, joined, nodes, a, b), strict=True))
    return volts[a] - volts[b]


BODY = 99


def popped(
    truth: dict[str, tuple[int, int]], pairs: dict[tuple[int, int], float], joined: list[tuple[int, int]], a: int,
    b: int, own_id: str,
) -> HuntReading:  # fmt: skip
    """A cell with its plus on a and its minus on b: the speaker with the most volts moves, out where its plus, the
    first wire of its pair, is the higher.
    """
    nodes = sorted({n for pair in (*pairs, *joined) for n in pair})
    volts = dict(zip(nodes, potentials(pairs, joined, nodes, a, b), strict=True))
    cell_v = 1.5 / (volts[a] - volts[b])  # the cell's own volts, whatever the leak lets through
    across_each = {name: cell_v * (volts[plus] - volts[minus]) for name, (plus, minus) in truth.items()}
    name = max(across_each, key=lambda one: abs(across_each[one]))
    size = abs(across_each[name])
    heard = Heard.NOTHING if size < 1e-2 else Heard.OUT if across_each[name] > 0 else Heard.IN
    return HuntReading(
        id=own_id, kind=TestKind.POP, wire_a_id=f"w{a}", wire_b_id=f"w{b}", heard=heard,
        speaker_id=None if heard is Heard.NOTHING else name,
    )  # fmt: skip


@pytest.mark.parametrize("to_body", [False, True])
def test_wires_that_touch_are_explained_and_nothing_false_becomes_certain(to_body: bool) -> None:
    """Readings out of a network solved by Kirchhoff's laws: with two wires of unlike pairs joined, or one on the
    body, the truth stays possible whatever is read, and the fault is among what explains a contradiction.
    """
    random = Random(5)
    design, explained, contradicted = car(), 0, 0
    for _ in range(30):
        order = random.sample(range(8), 8)
        truth = {name: (order[2 * k], order[2 * k + 1]) for k, name in enumerate(TRUTH)}
        x, y = order[0], BODY if to_body else order[2]
        network = {pair: OHMS[name] for name, pair in truth.items()}
        readings = []
        for n, (a, b) in enumerate(random.sample(ALL_TESTS, random.randint(8, 28))):
            ohm = across(network, [(x, y)], a, b)
            value = OPEN_OHM if ohm > 1e4 else ohm
            readings.append(HuntReading(
                id=f"r{n}", kind=TestKind.RESISTANCE, wire_a_id=f"w{a}", wire_b_id=f"w{b}", value_ohm=value
            ))  # fmt: skip
        if to_body:
            for n, a in enumerate(random.sample(range(8), 3)):
                heard = Heard.CONNECTED if across(network, [(x, y)], a, BODY) < 2.0 else Heard.OPEN
                readings.append(HuntReading(id=f"b{n}", kind=TestKind.BODY, wire_a_id=f"w{a}", heard=heard))
        for n in range(5):
            readings.append(popped(truth, network, [(x, y)], *random.sample(range(8), 2), f"p{n}"))
        plain = hunted(truth, OHMS, []).model_copy(update={"readings": tuple(readings)})
        fault = {"to_body_ids": (f"w{x}",)} if to_body else {"touching_ids": (f"w{x}", f"w{y}")}
        taken = plain.model_copy(update=fault)
        found = find(design.vehicle, taken)
        assert not found.contradiction
        for guess in found.certain:
            assert {*guess.wires} == {f"w{n}" for n in truth[guess.speaker_id]}
            assert guess.plus_odds <= CERTAIN or guess.plus == f"w{truth[guess.speaker_id][0]}"
        if find(design.vehicle, plain).contradiction:
            contradicted += 1
            named = {(one.fault, one.about_id) for one in explanations(design.vehicle, plain)}
            ends = {f"w{x}"} if to_body else {min(f"w{x}", f"w{y}")}
            explained += any((Fault.TO_BODY if to_body else Fault.TOUCHING, end) in named for end in ends)
    assert contradicted >= (1 if to_body else 10)
    assert explained >= 0.85 * contradicted  # not where it only shows in sums of two speakers


def test_a_fault_is_taken_and_taken_back() -> None:
    """Of unknown name, then by name; wires that touch; and never more than two of unknown name."""
    begun = car()
    begun = apply_edits(begun, begin_hunt(begun, "", [""] * 8, list(TRUTH), 0))

    def after(design: Design, *fault: str) -> Design:
        return apply_edits(design, take_fault(design, *fault))

    one = after(begun, "dead", "")
    two = after(one, "shorted", "")
    assert two.vehicle.hunt is not None
    assert (two.vehicle.hunt.dead_unknown, two.vehicle.hunt.shorted_unknown) == (1, 1)
    with pytest.raises(OutOfRange, match="up to 2"):
        take_fault(two, "dead", "")
    assert after(two, "", "").vehicle.hunt == begun.vehicle.hunt
    touch = after(begun, "touching", "w1", "w2")
    assert touch.vehicle.hunt is not None
    assert touch.vehicle.hunt.touching_ids == ("w1", "w2")
    assert after(touch, "", "w1").vehicle.hunt == begun.vehicle.hunt
    body = after(begun, "on the body", "w3")
    assert body.vehicle.hunt is not None
    assert body.vehicle.hunt.to_body_ids == ("w3",)
    assert after(body, "", "w3").vehicle.hunt == begun.vehicle.hunt
    with pytest.raises(UnknownName):
        take_fault(begun, "dead", "nobody")


def test_loose_wires_keep_their_names_and_get_a_map_with_plus_and_ohms() -> None:
    design = car()
    lines = ["grey/black", "2 white", "the thin one", "", "blue", "blue", "7", "8 pink/green"]
    begun = apply_edits(design, begin_hunt(design, "", lines, list(TRUTH), 0, bundles=True))
    hunt = begun.vehicle.hunt
    assert hunt is not None
    assert [w.name for w in hunt.wires][:4] == ["grey/black", "2 white", "the thin one", "wire 4"]
    assert (hunt.wires[0].base, hunt.wires[0].tracer, hunt.wires[1].base) == ("grey", "black", "white")
    assert len({w.name for w in hunt.wires}) == 8
    known = apply_edits(begun, add_reading(begun, "resistance", ["w1", "w2"], value_ohm=3.4))
    known = apply_edits(
        known, add_reading(known, "pop test", ["w2", "w1"], outcome="cone moves out", speaker_id="spk-rl")
    )
    done = apply_edits(known, put_result(known))
    plug = done.vehicle.connectors[-1]
    assert (plug.name, len(plug.cavities), done.vehicle.hunt and done.vehicle.hunt.connector_id) == (
        "Loose wires", 8, plug.id,
    )  # fmt: skip
    one, two, three = plug.cavities[:3]
    assert (one.destination, one.polarity, two.polarity) == ("Rear left door", "minus", "plus")
    assert (three.destination, three.use.value) == ("the thin one", None)
    channel = next(c for c in done.vehicle.channels if c.id == one.channel_id)
    assert (channel.pair_resistance_ohm.value, channel.pair_resistance_ohm.basis) == (3.4, "measured")


@pytest.mark.parametrize(("fault", "severity", "title"), [
    ("dead", "watch", "Front left door is dead"), ("shorted", "stop", "Front left door or its wires are shorted"),
])  # fmt: skip
def test_what_a_hunt_found_broken_is_said_until_something_new_goes_there(fault: str, severity: str, title: str) -> None:
    design = apply_edits(car(), [Edit(path="vehicle/hunt", value=hunted(TRUTH, OHMS, ALL_TESTS).model_dump())])

    def broken_ones(of: Design) -> list[tuple[str, str, str]]:
        return [(f.severity.value, f.about, f.title) for f in evaluate(of).findings if f.rule == "speaker-broken"]

    assert broken_ones(design) == []
    taken = apply_edits(design, take_fault(design, fault, "spk-fl"))
    name = next(s.name for s in taken.vehicle.speakers if s.id == "spk-fl")
    assert broken_ones(taken) == [(severity, "vehicle/speakers/spk-fl", title.replace("Front left door", name))]


@pytest.mark.parametrize(("over", "opens"), [(0.0, True), (-1.0, False)])
def test_a_pair_reads_open_from_the_limit_on(over: float, opens: bool) -> None:
    """Common practice, no source: half a kilohm is no speaker."""
    design, ohm = car(), table("harness", "hunt")["open_ohm"] + over
    pair = design.vehicle.radio.channels[0].id
    path = f"vehicle/radio/channels/{pair}/pair_resistance_ohm"
    read = apply_edits(design, [Edit(path=path, value={"value": ohm, "basis": "measured"})])
    verdict = speaker_circuits(read)[0].verdict
    assert verdict.startswith("open") == opens, verdict


@pytest.mark.parametrize(("heard", "clip_is_plus"), [(Heard.OUT, False), (Heard.IN, True)])
def test_a_pop_through_wires_that_touch_turns_the_pair_of_the_other_wire(heard: Heard, clip_is_plus: bool) -> None:
    """The cell's plus on wire 0, which touches wire 2: whichever of the two the current took, wire 1 was its minus,
    and the cone of a pair joined right goes out then (common practice, no source).
    """
    target = targets_of(car().vehicle, hunted(TRUTH, OHMS, []))[0]
    ground = Ground(("w0", "w1", "w2"), frozenset({0, 2}), frozenset(), frozenset())
    reading = HuntReading(id="r", kind=TestKind.POP, wire_a_id="w0", wire_b_id="w1", heard=heard)
    allowed = allowed_by(ground, (target,), reading)
    plus_of = {(first, orientation): (first, second)[orientation] for first, second in ((0, 1), (1, 2))
               for orientation in (0, 1)}  # fmt: skip
    for number, pair in enumerate(combinations(range(3), 2)):
        if 1 in pair:
            for orientation in (0, 1):
                right = (plus_of[pair[0], orientation] == 1) == clip_is_plus
                assert allowed.pairs[0, number, orientation] == right, (pair, orientation)
