"""The wire finder against brute force over every assignment, the chain rule of entropy, and facts of the trade."""

from __future__ import annotations

from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from functools import cache
from itertools import combinations, permutations
from math import factorial, log2
from random import Random
from threading import Barrier
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from kept_answers import compared, short
from ohmack.core.document import Fact
from ohmack.core.document.facts import Position
from ohmack.core.document.harness import Heard, Hunt, HuntReading, HuntWire, TestKind
from ohmack.core.document.vehicle import Speaker, Vehicle
from ohmack.core.errors import OutOfRange
from ohmack.core.harness import contradictions
from ohmack.core.harness.contradictions import can_all_be_true, smallest_contradiction
from ohmack.core.harness.hunt_masks import Allowed
from ohmack.core.harness.hunt_targets import Target, hypotheses, targets_of
from ohmack.core.harness.next_tests import proofs
from ohmack.core.harness.wire_faults import explanations, to_read_again
from ohmack.core.harness.wire_finder import CERTAIN, find
from ohmack.core.lazy import lazy
from ohmack.core.physics.labelled_matching import MOST_WIRES, pairs_of, total_weight, weigh
from ohmack.demo.jobs import demo_design
from telling import told

Truth = dict[str, tuple[str, bool] | None]  # wire -> (speaker, plus) or None for ground
OPEN = 9_999_999.0


@cache
def car(*ohms: float, capacitors: tuple[int, ...] = ()) -> Vehicle:
    speakers = tuple(
        Speaker(
            id=f"s{n}",
            name=f"Speaker {n}",
            position=Position(x_m=1, y_m=0),
            impedance_ohm=Fact[float](value=ohm),
            own_capacitor=Fact[bool](value=n in capacitors),
        )
        for n, ohm in enumerate(ohms)
    )
    return demo_design(0).vehicle.model_copy(update={"speakers": speakers})


def hunt(vehicle: Vehicle, readings: list[dict[str, Any]] = [], grounds: int = 0, **more: Any) -> Hunt:  # noqa: B006
    count, colours = 2 * len(vehicle.speakers) + grounds + more.pop("others", 0), more.pop("colours", False)
    hues: list[dict[str, Any]] = [
        {
            "base": ("white", "grey", "green", "purple", "blue", "brown")[n // 2 % 6],
            "tracer": "black" if n % 2 else None,
        }
        for n in range(count)
    ]
    wires = tuple(HuntWire(id=f"w{n}", name=f"wire {n}", **(hues[n] if colours else {})) for n in range(count))
    taken = tuple(HuntReading(id=f"r{n}", **reading) for n, reading in enumerate(readings))
    names = tuple(s.id for s in vehicle.speakers)
    return Hunt(wires=wires, speaker_ids=names, grounds=grounds, readings=taken, **more)


def every_truth(wires: list[str], speakers: list[str], grounds: int) -> Iterator[Truth]:
    """Every assignment there is, by permutation: nothing of the finder's method."""
    slots: list[tuple[str, bool] | None] = [(s, plus) for s in speakers for plus in (True, False)] + [None] * grounds
    seen = set()
    for order in permutations(range(len(slots))):
        key = tuple(slots[k] for k in order)
        if key not in seen:
            seen.add(key)
            yield dict(zip(wires, key, strict=True))


def shows(truth: Truth, kind: TestKind, a: str, clip: list[str], vehicle: Vehicle) -> dict[str, Any]:
    """What a test would show in a car wired so: from the meaning of the test alone."""
    first, *more = [*clip, None]
    base: dict[str, Any] = {"kind": kind, "wire_a_id": a, "wire_b_id": first, "bundled_ids": [w for w in more if w]}
    one = truth[a]
    if kind is TestKind.BODY:
        return base | {"heard": Heard.CONNECTED if one is None else Heard.OPEN}
    name = next((one[0] for b in clip if one and (other := truth[b]) and one[0] == other[0]), None)
    speaker = next((s for s in vehicle.speakers if s.id == name), None)
    if kind is TestKind.RESISTANCE:
        blocked = speaker is None or speaker.own_capacitor.value
        return base | {"value_ohm": OPEN if blocked or speaker is None else 0.88 * (speaker.impedance_ohm.value or 0)}
    if kind is TestKind.TRIAL:
        return base | ({"speaker_id": speaker.id} if speaker else {"heard": Heard.NOTHING})
    if speaker is None or speaker.own_capacitor.value:
        return base | {"heard": Heard.NOTHING}
    return base | {"heard": Heard.OUT if one and one[1] else Heard.IN, "speaker_id": speaker.id}


def agrees(truth: Truth, reading: HuntReading, vehicle: Vehicle) -> bool:
    """Whether a reading could have been taken in a car wired so; a resistance by the range its speaker may read."""
    would = shows(truth, reading.kind, reading.wire_a_id, list(reading.clip), vehicle)
    if reading.kind is not TestKind.RESISTANCE:
        return all(would.get(name) == getattr(reading, name) for name in ("heard", "speaker_id"))
    if (would["value_ohm"] == OPEN) != (reading.value_ohm == OPEN):
        return False
    nominal = would["value_ohm"] / 0.88
    assert reading.value_ohm is not None
    return (
        would["value_ohm"] == OPEN or 0.75 * nominal <= reading.value_ohm <= 1.05 * nominal + 0.6
    )  # 75 to 105 % and the leads


def brute(vehicle: Vehicle, made: Hunt) -> list[Truth]:
    wires, speakers = [w.id for w in made.wires], list(made.speaker_ids)
    readings = [r for r in made.readings if not r.withdrawn]
    return [t for t in every_truth(wires, speakers, made.grounds) if all(agrees(t, r, vehicle) for r in readings)]


@st.composite
def small_hunts(draw: st.DrawFn, lies: bool = False) -> tuple[Vehicle, Hunt]:
    ohms = draw(st.lists(st.sampled_from([2.0, 4.0, 8.0]), min_size=1, max_size=3))
    capacitors = tuple(n for n in range(len(ohms)) if draw(st.integers(0, 5)) == 0)
    vehicle = car(*ohms, capacitors=capacitors)
    grounds = draw(st.integers(0, 1))
    made = hunt(vehicle, grounds=grounds)
    wires = [w.id for w in made.wires]
    truth = draw(st.sampled_from(list(every_truth(wires, [s.id for s in vehicle.speakers], grounds))))
    readings = []
    for _ in range(draw(st.integers(0, 6))):
        kind = draw(st.sampled_from([k for k in TestKind if grounds or k is not TestKind.BODY]))
        a, *rest = draw(st.permutations(wires))
        clip = [] if kind is TestKind.BODY else rest[: draw(st.sampled_from([1, 1, 2, len(rest)]))]
        shown = shows(truth, kind, a, clip, vehicle)
        if lies and draw(st.booleans()):
            other = draw(st.sampled_from(list(every_truth(wires, [s.id for s in vehicle.speakers], grounds))))
            shown = shows(other, kind, a, clip, vehicle)
        readings.append(shown)
    return vehicle, hunt(vehicle, readings, grounds)


@given(small_hunts())
@settings(max_examples=60)
def test_count_odds_and_certainty_are_those_of_brute_force(case: tuple[Vehicle, Hunt]) -> None:
    vehicle, made = case
    left, found = brute(vehicle, made), find(vehicle, made)
    assert round(found.possible) == len(left) > 0
    for a, b in combinations([w.id for w in made.wires], 2):
        together = sum(t[a] is not None and t[b] is not None and t[a][0] == t[b][0] for t in left)  # type: ignore[index]
        assert found.pair_odds[a, b] == pytest.approx(together / len(left))
    for guess in (*found.certain, *found.guesses):
        holds = [t for t in left if all((t[w] or ("", 0))[0] == guess.speaker_id for w in guess.wires)]
        assert guess.odds == pytest.approx(len(holds) / len(left))
        assert (guess in found.certain) == (len(holds) == len(left))
        if guess in found.certain and guess.plus_odds > CERTAIN:
            assert all(t[guess.plus] == (guess.speaker_id, True) for t in left)
    assert set(found.grounds) == {w.id for w in made.wires if all(t[w.id] is None for t in left)}


@given(small_hunts(lies=True))
@settings(max_examples=40)
def test_the_smallest_contradiction_is_that_of_brute_force(case: tuple[Vehicle, Hunt]) -> None:
    vehicle, made = case
    named = smallest_contradiction(made, hypotheses(vehicle, made)).ids
    if not named:
        assert brute(vehicle, made)
        return
    assert not brute(vehicle, made)
    pick = [r for r in made.readings if r.id in named]
    assert not brute(vehicle, made.model_copy(update={"readings": tuple(pick)}))
    for size in range(len(named)):
        for some in combinations(made.readings, size):
            assert brute(vehicle, made.model_copy(update={"readings": some})), "a smaller set contradicts already"


@given(st.integers(4, 6), st.randoms(use_true_random=False))
@settings(max_examples=10)
def test_up_to_six_pairs_against_a_search_over_all_assignments(pairs: int, random: Any) -> None:
    """Twelve wires: three pairs stay unknown, the others are pinned by trials; the search assigns wire by wire."""
    vehicle = car(*([4.0] * pairs))
    made = hunt(vehicle)
    wires = [w.id for w in made.wires]
    mixed = random.sample(wires, len(wires))
    truth: Truth = {w: (f"s{n // 2}", n % 2 == 0) for n, w in enumerate(mixed)}
    pinned = [shows(truth, TestKind.TRIAL, mixed[2 * n], [mixed[2 * n + 1]], vehicle) for n in range(3, pairs)]
    kinds = [TestKind.RESISTANCE, TestKind.POP, TestKind.TRIAL]
    picks = [random.sample(mixed[:6], 2) for _ in range(4)]
    more = [shows(truth, random.choice(kinds), a, [b], vehicle) for a, b in picks]
    full = hunt(vehicle, [*pinned, *more])

    def search(here: Truth, left: list[str]) -> int:
        free = [w for w in wires if w not in here]
        if not free:
            return 1
        total = 0
        for other in free[1:]:
            for speaker in left:
                for plus in (True, False):
                    tried = here | {free[0]: (speaker, plus), other: (speaker, not plus)}
                    # a pair is laid at once, so a reading on a laid wire and one not laid is no pair's
                    seen = dict.fromkeys(wires, ("elsewhere", True)) | tried
                    known = [r for r in full.readings if r.wire_a_id in tried or r.wire_b_id in tried]
                    if all(agrees(seen, r, vehicle) for r in known):
                        total += search(tried, [s for s in left if s != speaker])
        return total

    assert round(find(vehicle, full).possible) == search({}, list(full.speaker_ids))


def test_nothing_read_leaves_every_permutation() -> None:
    """Sixteen wires on eight speakers: 16! ways to lay them, polarity included (combinatorics)."""
    vehicle = car(*([4.0] * 8))
    found = find(vehicle, hunt(vehicle))
    assert found.possible == factorial(16)
    assert found.bits_left == pytest.approx(log2(factorial(16)))
    assert list(found.pair_odds.values()) == pytest.approx([1 / 15] * 120)


@pytest.mark.parametrize("grounds", [0, 1, 2])
def test_grounds_are_not_told_apart_when_ways_are_counted(grounds: int) -> None:
    start = hunt(car(4.0), grounds=grounds)
    truths = list(every_truth([w.id for w in start.wires], ["s0"], grounds))
    found = find(car(4.0), start)
    assert found.possible == pytest.approx(len(truths))
    kinds = {test.kind for test in found.next_tests}
    assert (kinds == {TestKind.BODY}) is (grounds == 2), "two grounds read like a pair: they are found first"


@pytest.mark.parametrize(("ohms", "grounds"), [((4.0, 4.0), 0), ((4.0, 8.0), 1), ((2.0, 4.0), 0)])
def test_bits_spent_are_the_bits_there_were(ohms: tuple[float, ...], grounds: int) -> None:
    """Chain rule of entropy (Shannon): over all truths the bits of the tests proposed add up to log2 of the
    assignments, on average.
    """
    vehicle = car(*ohms)
    start = hunt(vehicle, grounds=grounds)
    wires, speakers = [w.id for w in start.wires], [s.id for s in vehicle.speakers]
    truths, spent, tests = list(every_truth(wires, speakers, grounds)), [], []
    for truth in truths:
        readings: list[dict[str, Any]] = []
        bits = 0.0
        while True:
            found = find(vehicle, hunt(vehicle, readings, grounds))
            assert not found.contradiction
            if not found.next_tests:
                break
            test = found.next_tests[0]
            bits += test.bits
            readings.append(shows(truth, test.kind, test.wires[0], list(test.wires[1:]), vehicle))
        assert found.complete
        assert all(truth[g.plus] == (g.speaker_id, True) for g in found.certain)
        spent.append(bits)
        tests.append(len(readings))
    assert sum(spent) / len(spent) == pytest.approx(log2(len(truths)))
    outcomes = 1 + 2 * len(ohms)  # no test shows more different things than each speaker by either sign, or nothing
    assert sum(tests) / len(tests) >= log2(len(truths)) / log2(outcomes)


def test_fewer_tests_than_going_through_them_all() -> None:
    """Four pairs: 28 ohm readings find every pair the plain way, then one trial each and one pop each, 36 in all."""
    vehicle = car(4.0, 4.0, 4.0, 4.0)
    wires = [w.id for w in hunt(vehicle).wires]
    truth: Truth = {w: (f"s{n % 4}", n < 4) for n, w in enumerate(wires)}
    readings: list[dict[str, Any]] = []
    while (found := find(vehicle, hunt(vehicle, readings))).next_tests:
        test = found.next_tests[0]
        readings.append(shows(truth, test.kind, test.wires[0], list(test.wires[1:]), vehicle))
    assert found.complete
    assert len(readings) < 28


def test_colours_move_odds_and_never_decide() -> None:
    vehicle = car(4.0, 4.0, 4.0)
    plain, coloured = find(vehicle, hunt(vehicle)), find(vehicle, hunt(vehicle, colours=True))
    assert coloured.pair_odds["w0", "w1"] > 2 * plain.pair_odds["w0", "w1"]
    assert coloured.possible == plain.possible
    assert not coloured.certain
    # even a pair that is certain does not get its plus from colours
    sure = find(
        vehicle,
        hunt(
            vehicle,
            [{"kind": "one pair at a time", "wire_a_id": "w0", "wire_b_id": "w1", "speaker_id": "s0"}],
            colours=True,
        ),
    )
    assert 0.5 < sure.certain[0].plus_odds <= CERTAIN


def test_readings_that_say_nothing_are_named_and_one_withdrawn_counts_no_more() -> None:
    vehicle = car(4.0, 4.0)
    wet = find(
        vehicle, hunt(vehicle, [{"kind": "resistance", "wire_a_id": "w0", "wire_b_id": "w1", "value_ohm": 180.0}])
    )
    assert wet.unclear == ("r0",)
    assert wet.possible == factorial(4)
    both = [{"kind": "resistance", "wire_a_id": "w0", "wire_b_id": b, "value_ohm": 3.5} for b in ("w1", "w2")]
    made = hunt(vehicle, both)
    assert find(vehicle, made).contradiction == ("r0", "r1")  # one wire in two pairs
    back = made.model_copy(
        update={"readings": (made.readings[0], made.readings[1].model_copy(update={"withdrawn": True}))}
    )
    assert not find(vehicle, back).contradiction
    odd = find(
        vehicle, hunt(vehicle, [{"kind": "resistance", "wire_a_id": "w0", "wire_b_id": "w1", "value_ohm": 30.0}])
    )
    assert odd.contradiction == ("r0",)  # no 4 ohm speaker reads 30


def test_pop_tests_are_never_proposed_for_tweeters() -> None:
    """Common practice, no source: a cell across a tweeter can break it."""
    tweeter = Speaker(
        id="s0", name="Left tweeter", position=Position(x_m=1, y_m=0), impedance_ohm=Fact[float](value=4.0)
    )
    vehicle = car(4.0).model_copy(update={"speakers": (tweeter,)})
    known = [{"kind": "one pair at a time", "wire_a_id": "w0", "wire_b_id": "w1", "speaker_id": "s0"}]
    assert find(vehicle, hunt(vehicle, known)).next_tests == ()
    assert [t.kind for t in find(car(4.0), hunt(car(4.0), known)).next_tests] == [TestKind.POP]


def test_wires_that_do_not_come_out_even_are_refused() -> None:
    vehicle = car(4.0, 4.0)
    made = hunt(vehicle)
    with pytest.raises(OutOfRange, match="two for each of 2 speakers"):
        find(vehicle, made.model_copy(update={"wires": made.wires[:3]}))
    with pytest.raises(OutOfRange, match=f"1 to {MOST_WIRES}"):
        find(vehicle, made.model_copy(update={"wires": made.wires * 5}))


@pytest.mark.parametrize(
    "reading",
    [
        {"kind": "resistance", "wire_a_id": "w0", "wire_b_id": "w0", "value_ohm": 3.0},
        {"kind": "resistance", "wire_a_id": "w0", "wire_b_id": "w1"},
        {"kind": "resistance", "wire_a_id": "w0", "wire_b_id": "w1", "value_ohm": -3.0},
        {"kind": "pop test", "wire_a_id": "w0", "wire_b_id": "w1", "heard": "continuity"},
        {"kind": "one pair at a time", "wire_a_id": "w0", "wire_b_id": "w1"},
        {"kind": "continuity to body", "wire_a_id": "w0", "wire_b_id": "w1", "heard": "continuity"},
    ],
)  # fmt: skip
def test_readings_that_mean_nothing_are_refused(reading: dict[str, Any]) -> None:
    with pytest.raises(ValueError, match=r"reading|resistance|happened|speaker|continuity|greater"):
        HuntReading(id="r", **reading)


def hard_hunts() -> Iterator[tuple[str, Hunt]]:
    """Hunts of sixteen wires whose readings cannot all be true: what once took minutes to hours."""
    vehicle = car(*[4.0] * 8)
    wires = [f"w{n}" for n in range(16)]
    short = {"kind": TestKind.RESISTANCE, "wire_a_id": "w0", "wire_b_id": "w1", "value_ohm": 0.05}
    nothing = {"kind": TestKind.TRIAL, "wire_a_id": "w0", "wire_b_id": "w1", "heard": Heard.NOTHING}
    yield "a shorted pair", hunt(vehicle, [short, nothing])
    # one speaker is dead: its pair reads open against every wire
    pairs = [("w0", "w1"), ("w2", "w3"), ("w4", "w5"), ("w6", "w7"), ("w8", "w9"), ("w10", "w11"), ("w12", "w13")]
    good = [{"kind": TestKind.RESISTANCE, "wire_a_id": a, "wire_b_id": b, "value_ohm": 3.5} for a, b in pairs]
    dead = [
        {"kind": TestKind.RESISTANCE, "wire_a_id": a, "wire_b_id": b, "value_ohm": OPEN}
        for a, b in combinations(wires, 2)
        if (a, b) not in pairs
    ]
    yield "a dead speaker, every pair tried", hunt(vehicle, [*good, *dead])
    # each of three wires shuts itself off from all but the same two partners
    shut = [
        {"kind": TestKind.RESISTANCE, "wire_a_id": a, "wire_b_id": b, "value_ohm": OPEN}
        for a in wires[:3]
        for b in wires[3:]
        if b not in ("w14", "w15")
    ]
    shut += [
        {"kind": TestKind.RESISTANCE, "wire_a_id": a, "wire_b_id": b, "value_ohm": OPEN}
        for a, b in combinations(wires[:3], 2)
    ]
    yield "three wires for two partners", hunt(vehicle, shut)


@pytest.mark.parametrize(("name", "hunted"), list(hard_hunts()))
def test_a_contradiction_is_found_in_bounded_work(name: str, hunted: Hunt, monkeypatch: pytest.MonkeyPatch) -> None:
    """Counted, not timed: tries, steps of a try and programmes over the masks all stay under their bound."""
    counts = {"search": 0, "programme": 0}
    search, programme = contradictions._search, contradictions._reachable

    def counted_search(*given: Any) -> bool | None:
        counts["search"] += 1
        return search(*given)

    def counted_programme(*given: Any) -> bool:
        counts["programme"] += 1
        return programme(*given)

    monkeypatch.setattr(contradictions, "_search", counted_search)
    monkeypatch.setattr(contradictions, "_reachable", counted_programme)
    vehicle = car(*[4.0] * 8)
    targets = targets_of(vehicle, hunted)
    found = smallest_contradiction(hunted, (targets,)).ids
    assert found
    chosen = [r for r in hunted.readings if r.id in found]
    assert not can_all_be_true(hunted, targets, chosen)
    for spared in chosen:  # none of them can be spared
        assert can_all_be_true(hunted, targets, [r for r in chosen if r is not spared])
    tries = contradictions.MOST_CHECKS + 3 * len(hunted.readings) + 20
    assert counts["search"] <= tries * (contradictions.MOST_STEPS + 200)
    assert counts["programme"] <= tries


@given(st.integers(3, 5), st.data())
@settings(max_examples=60)
def test_the_quick_search_and_the_programme_agree(speakers: int, data: st.DataObject) -> None:
    """Two methods, one answer, over random options; the third is brute force over permutations of the pairs."""
    wires = 2 * speakers
    every = [1 << a | 1 << b for a, b in combinations(range(wires), 2)]
    options = [data.draw(st.lists(st.sampled_from(every), max_size=6)) for _ in range(speakers)]
    single = data.draw(st.integers(0, 2))
    wires += single
    may = np.array(data.draw(st.lists(st.booleans(), min_size=wires, max_size=wires)), dtype=bool)
    allowed = Allowed(np.ones((1, 1, 2), dtype=bool), may, may)
    singles = contradictions._Singles(allowed, single, 0)
    quick = contradictions._search(options, (1 << wires) - 1, singles, [10_000])
    assert quick == contradictions._reachable(options, wires, singles)

    def brute(rest: list[list[int]], used: int) -> bool:
        if not rest:
            return all(may[w] for w in range(wires) if not used >> w & 1)
        return any(brute(rest[1:], used | mark) for mark in rest[0] if not mark & used)

    assert quick == brute(options, 0)


def test_one_hunt_does_not_wait_for_another() -> None:
    """What a hunt says is not behind a lock that all jobs share: two results compute side by side."""
    inside, go = Barrier(2, timeout=20), []

    class Slow:
        @lazy
        def value(self) -> int:
            inside.wait()  # both must be in here at once, or the barrier breaks
            return 1

    with ThreadPoolExecutor(2) as pool:
        go = list(pool.map(lambda one: one.value, [Slow(), Slow()]))
    assert go == [1, 1]


# -- more wires than speakers, fewer, several in one clip --------------------------------------------------


@given(st.randoms(use_true_random=False))
@settings(max_examples=40)
def test_wires_that_lead_elsewhere_and_speakers_that_are_absent_against_plain_listing(random: Any) -> None:
    """Six wires, two to four speakers of them: every way to deal the wires, listed by permutation."""
    speakers = random.choice([2, 4])
    vehicle = car(*[4.0] * speakers)
    wires = [f"w{n}" for n in range(6)]
    names = [s.id for s in vehicle.speakers]
    slots: list[Any] = [(s, plus) for s in random.sample(names, min(3, speakers)) for plus in (True, False)]
    truth = dict(zip(random.sample(wires, 6), [*slots, None, None][:6], strict=True))
    readings = []
    for _ in range(random.randint(1, 5)):
        a, *rest = random.sample(wires, 6)
        kind = random.choice([TestKind.RESISTANCE, TestKind.TRIAL, TestKind.POP])
        readings.append(shows(truth, kind, a, rest[: random.choice([1, 2, 5])], vehicle))
    made = hunt(vehicle, readings).model_copy(update={"wires": hunt(car(4.0, 4.0, 4.0)).wires})
    assert made.others == (2 if speakers == 2 else 0)
    listed = set()
    for chosen in permutations(names, min(3, speakers)):
        held = [(s, plus) for s in chosen for plus in (True, False)]
        for order in permutations([*held, *[None] * (6 - len(held))]):
            dealt = dict(zip(wires, order, strict=True))
            if all(agrees(dealt, r, vehicle) for r in made.readings):
                listed.add(tuple(order))
    found = find(vehicle, made)
    assert found.possible == pytest.approx(len(listed))
    at = {w: {way[n] for way in listed} for n, w in enumerate(wires)}
    assert set(found.others) == {w for w in wires if at[w] == {None}}
    assert set(found.absent) == {s for s in names if not any(what and what[0] == s for way in listed for what in way)}
    for guess in found.certain:
        for wire in guess.wires:
            assert {what[0] for what in at[wire] if what} == {guess.speaker_id}
            assert None not in at[wire]


def hunted_to_the_end(vehicle: Vehicle, truth: Truth, **more: Any) -> tuple[int, float]:
    """(tests, minutes) of a hunt in which the proposals are followed."""
    readings: list[dict[str, Any]] = []
    minutes = 0.0
    while (found := find(vehicle, hunt(vehicle, readings, **more))).next_tests:
        test = found.next_tests[0]
        minutes += test.minutes
        readings.append(shows(truth, test.kind, test.wires[0], list(test.wires[1:]), vehicle))
    assert found.complete
    assert all(truth[g.plus] == (g.speaker_id, True) for g in found.certain)
    return len(readings), minutes


def test_five_pairs_take_no_more_tests_than_a_good_technician_and_half_with_a_clip() -> None:
    """Ten wires without colours. A technician sweeps with the ohmmeter and pops each pair: about 18 tests, 12 minutes;
    a test can show one of eleven things at most, so log2(10!) bits take seven (information bound).
    """
    vehicle, random = car(*[4.0] * 5), Random(11)
    plain, clipped = [], []
    for _ in range(8):
        mixed = random.sample([f"w{n}" for n in range(10)], 10)
        truth: Truth = {w: (f"s{n // 2}", n % 2 == 0) for n, w in enumerate(mixed)}
        plain.append(hunted_to_the_end(vehicle, truth))
        clipped.append(hunted_to_the_end(vehicle, truth, bundles=True))
    mean = [sum(one[k] for one in rows) / len(rows) for rows in (plain, clipped) for k in (0, 1)]
    assert mean[0] <= 19
    assert mean[1] <= 13
    assert log2(factorial(10)) / log2(11) <= mean[2] <= 12
    assert mean[3] <= 11


def test_no_cell_meets_a_tweeter_and_nothing_that_may_be_live_goes_into_a_clip() -> None:
    """Common practice, no source. One of four is a tweeter: whatever is read, a pop is never proposed where it may
    be; with wires that lead elsewhere only what is known to be a speaker's goes into a clip.
    """
    tweeter = car(4.0).speakers[0].model_copy(update={"id": "tw", "name": "Left tweeter"})
    vehicle = car(4.0, 4.0, 4.0)
    vehicle = vehicle.model_copy(update={"speakers": (*vehicle.speakers, tweeter)})
    wires = [f"w{n}" for n in range(8)]
    truth: Truth = dict(zip(wires, [(s.id, plus) for s in vehicle.speakers for plus in (True, False)], strict=True))
    readings: list[dict[str, Any]] = []
    pops = 0
    while (found := find(vehicle, hunt(vehicle, readings, bundles=True))).next_tests:
        for test in found.next_tests:
            held = truth[test.wires[0]]
            assert held is not None
            assert (test.kind, held[0]) != (TestKind.POP, "tw")
        test = found.next_tests[0]
        pops += test.kind is TestKind.POP
        readings.append(shows(truth, test.kind, test.wires[0], list(test.wires[1:]), vehicle))
    assert found.complete
    assert pops
    plus = {g.speaker_id: g.plus_odds > CERTAIN for g in found.certain}
    assert plus == {"s0": True, "s1": True, "s2": True, "tw": False}
    open_hunt = hunt(car(4.0, 4.0), bundles=True, others=2)
    assert all(len(t.wires) <= 2 for t in find(car(4.0, 4.0), open_hunt).next_tests)


def test_tests_kept_for_a_phone_without_a_connection_do_not_ask_twice() -> None:
    vehicle = car(*[4.0] * 6)
    for bundles in (False, True):
        queue = find(vehicle, hunt(vehicle, bundles=bundles)).queue
        assert len(queue) >= 5
        firsts = [t.wires[0] for t in queue]
        assert len(set(firsts)) == len(firsts)


@settings(deadline=None, max_examples=25)
@given(seed=st.integers(0, 10**6), grounds=st.integers(0, 2), share=st.floats(0.3, 1.0))
def test_counting_by_levels_is_counting_mask_by_mask(seed: int, grounds: int, share: float) -> None:
    """The two ways of summing over matchings are told apart by nothing but speed."""
    random = np.random.default_rng(seed)
    wires, speakers = 8 + grounds, 4
    weights = random.random((speakers, len(pairs_of(wires)), 2)) * (
        random.random((speakers, len(pairs_of(wires)), 1)) < share
    )
    singles = random.random(wires)
    by_masks = weigh(weights, singles, wires, grounds).total
    assert total_weight(weights, singles, wires, grounds) == pytest.approx(by_masks)


def test_a_pair_heard_at_one_of_its_wires_is_still_read_across() -> None:
    """A proof asks for ohms across a pair until a reading across it, or a trial at both its wires, names it; a dead
    speaker is asked for nothing, one behind a capacitor for a trial.
    """
    vehicle = car(4.0, 4.0)
    target = Target("s0", "Speaker 0", 3.2, 4.0, False, True)
    pairs = [(target, ("w0", "w1"))]
    one = {
        "kind": "one pair at a time",
        "wire_a_id": "w0",
        "wire_b_id": "w1",
        "bundled_ids": ("w2",),
        "speaker_id": "s0",
    }
    other = {**one, "wire_a_id": "w1", "wire_b_id": "w0"}
    across = {"kind": "resistance", "wire_a_id": "w0", "wire_b_id": "w1", "value_ohm": 3.6}

    def asked(readings: list[dict[str, Any]], rows: Any = pairs) -> list[tuple[str, tuple[str, ...]]]:
        made = hunt(vehicle, readings)
        return [(t.kind.value, t.wires) for t in proofs(made, made.readings, rows)]

    wanted = [("resistance", ("w0", "w1"))]
    assert asked([]) == asked([one]) == asked([other]) == wanted
    assert asked([one, other]) == asked([across]) == []
    assert asked([], [(replace(target, silent=True), ("w0", "w1"))]) == []
    assert asked([], [(replace(target, reads_open=True), ("w0", "w1"))]) == [("one pair at a time", ("w0", "w1"))]


def test_wires_that_touch_never_read_open_and_may_be_mute() -> None:
    """A meter between two wires that touch shows no ohms, whatever hangs on them; a cell there says nothing."""
    vehicle = car(4.0, 4.0)
    open_ = {"kind": TestKind.RESISTANCE, "wire_a_id": "w0", "wire_b_id": "w1", "value_ohm": OPEN}
    mute = {"kind": TestKind.TRIAL, "wire_a_id": "w0", "wire_b_id": "w1", "heard": Heard.NOTHING}
    for reading, touching, may_be in ((open_, True, False), (open_, False, True), (mute, False, True)):
        more = {"touching_ids": ("w0", "w1")} if touching else {}
        made = hunt(vehicle, [reading], **more)
        assert (find(vehicle, made).possible > 0) is may_be


def hunted_with_a_slip(seed: int) -> Iterator[str]:
    """A hunt in which the proposals are followed and one reading is wrong: what is thought and asked all along. Once
    the readings contradict one another, the wrong one is read again.
    """
    rnd = Random(seed)
    vehicle = car(*(rnd.choice([2.0, 4.0, 4.0, 8.0]) for _ in range(3 + seed % 3)), capacitors=(seed % 4,))
    slots = [(s.id, plus) for s in vehicle.speakers for plus in (True, False)] + [None] * (seed % 2)
    truth = dict(zip([f"w{n}" for n in range(len(slots))], rnd.sample(slots, len(slots)), strict=True))
    another = dict(zip(truth, rnd.sample(slots, len(slots)), strict=True))
    readings: list[dict[str, Any]] = []
    slips, right = rnd.randrange(1, 6), []
    for n in range(24):
        here = hunt(vehicle, readings, grounds=seed % 2, colours=seed % 3 == 0)
        found = find(vehicle, here)
        yield f"{n}: {short(told(found))} {found.possible:.6g} left, {len(found.certain)} certain {found.contradiction}"
        if found.contradiction:
            why = explanations(vehicle, here)
            again = to_read_again(here, why)
            yield f"  {[(w.fault and w.fault.value, w.about_id, f'{w.odds:.3f}') for w in why[:3]]}, again {again}"
            wrong_ones = [k for k, one in enumerate(readings) if one != right[k]]
            spot = wrong_ones[0] if wrong_ones else int(again.removeprefix("r"))
            readings[spot] = right[spot]
            continue
        if not found.next_tests:
            break
        test = found.next_tests[0]
        right.append(shows(truth, test.kind, test.wires[0], list(test.wires[1:]), vehicle))
        wrong = shows(another, test.kind, test.wires[0], list(test.wires[1:]), vehicle)
        readings.append(wrong if n == slips else right[-1])


@pytest.mark.parametrize("seed", range(12))
def test_a_hunt_with_a_slip_goes_as_it_went(seed: int) -> None:
    """No check value: it says that nothing changed unseen."""
    assert compared(f"hunt-{seed:02}", list(hunted_with_a_slip(seed)))
