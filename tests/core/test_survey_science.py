"""Fit, baseline, zones and the questionnaire against second routes: shapely, numpy, scipy, brute force, trade facts."""

from __future__ import annotations

import math
from itertools import permutations, product

import numpy as np
import pytest
import scipy.constants
import scipy.stats
import shapely
from hypothesis import assume, given
from hypothesis import strategies as st

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.factory import Tier
from ohmack.core.document.vehicle import Body, Hand, Powertrain
from ohmack.core.errors import OutOfRange
from ohmack.core.evaluation.sensitivity import wished
from ohmack.core.factory.system import (
    CERTAIN,
    DONT_KNOW,
    entropy_bits,
    expected_bits,
    hypotheses,
    judge_tier,
    questions,
)
from ohmack.core.physics.baseline import bass_lost_db, joined_ohm, last_clean_step, relative_change, standby_days
from ohmack.core.physics.fitting import (
    block_for_space,
    block_spare_m,
    restraint_n,
    ring_range_mm,
    room_in_l,
    way_in_spare_m,
)
from ohmack.core.physics.geometry import crossing_y_m, length_inside_m, plan_length_m
from ohmack.core.planning.starting_points import new_vehicle
from ohmack.core.planning.system_answers import answer_question, take_verdict
from ohmack.core.reference import read_toml
from ohmack.demo.jobs import demo_design

COORD = st.integers(-20, 60).map(lambda n: n / 10)
RUN = st.lists(st.tuples(COORD, COORD), min_size=2, max_size=8)
SIZE = st.integers(1, 2000).map(lambda n: n / 10)


@given(RUN, COORD, COORD, st.floats(0.05, 3), st.floats(0.05, 3))
def test_length_inside_a_zone_as_shapely_clips_it(
    run: list[tuple[float, float]], x: float, y: float, a: float, b: float
) -> None:
    rectangle = shapely.box(x - a / 2, y - b / 2, x + a / 2, y + b / 2)
    pieces = [shapely.LineString(pair) for pair in zip(run, run[1:], strict=False) if pair[0] != pair[1]]
    wanted = sum(piece.intersection(rectangle).length for piece in pieces)
    assert length_inside_m(run, (x, y), a, b) == pytest.approx(wanted, abs=1e-7)
    assert plan_length_m(run) == pytest.approx(sum(piece.length for piece in pieces))


@given(RUN, COORD)
def test_first_crossing_of_the_bulkhead(run: list[tuple[float, float]], x: float) -> None:
    line = shapely.LineString([(x, -100), (x, 100)])
    y = crossing_y_m(run, x)
    assume(all(abs(px - x) > 1e-9 for px, _ in run))
    crossed = [shapely.LineString(p).intersection(line) for p in zip(run, run[1:], strict=False) if p[0] != p[1]]
    hits = [shapely.get_coordinates(c)[0][1] for c in crossed if not c.is_empty]
    assert (y is None) == (not hits)
    if y is not None:
        assert y == pytest.approx(hits[0], abs=1e-9)


@pytest.mark.parametrize("number", [0, 1, 4])
def test_bulkhead_to_boot_by_a_second_route(number: int) -> None:
    """Every laid power run of the demo cars: way points summed by shapely, rise and slack by hand."""
    from ohmack.core.evaluation.door import evaluate

    design = demo_design(number)
    evaluation = evaluate(design)
    for run in evaluation.results.runs.values():
        if run.points is None or run.link.tape_length_m.value is not None:
            continue
        plan = shapely.LineString(run.points).length
        assert run.length.value == pytest.approx((plan + 2 * design.policy.rise_m) * (1 + design.policy.slack_fraction))


@given(SIZE, SIZE, SIZE, SIZE, st.integers(0, 20))
def test_every_ring_in_the_range_clears_and_none_outside(
    depth: float, front: float, have: float, ahead: float, margin: float
) -> None:
    thin, thick = ring_range_mm(depth, front, have, ahead, margin)
    for ring in np.linspace(0, 250, 501):
        behind, before = have + ring - depth, ahead - ring - front
        clears = behind >= margin - 1e-9 and before >= margin - 1e-9
        assert clears == (thin - 1e-9 <= ring <= thick + 1e-9)


@pytest.mark.parametrize("which", range(5))
def test_a_size_below_nothing_is_refused(which: int) -> None:
    sizes = [60.0, 5.0, 66.0, 24.0, 3.0]
    sizes[which] = -0.05
    with pytest.raises(OutOfRange):
        ring_range_mm(*sizes)


@given(st.tuples(SIZE, SIZE, SIZE), st.tuples(SIZE, SIZE, SIZE))
def test_a_box_fits_when_a_turn_of_it_does(box: tuple[float, ...], space: tuple[float, ...]) -> None:
    l, w, h = box  # noqa: E741
    fits = any(all(n <= s for n, s in zip(way, space, strict=True)) for way in ((l, w, h), (w, l, h)))
    assert (block_spare_m(box, space) >= 0) == fits
    passes = any(a <= space[0] and b <= space[1] for a, b in permutations(box, 2))
    assert (way_in_spare_m(box, space[:2]) >= 0) == passes


@given(
    st.tuples(*[st.floats(0.12, 0.6)] * 3), st.tuples(*[st.floats(0.12, 0.6)] * 2), st.sampled_from([5.0, 20.0, 500.0])
)
def test_no_block_that_goes_in_holds_more_than_the_one_proposed(
    room: tuple[float, ...], way_in: tuple[float, ...], wanted_l: float
) -> None:
    """Every block of whole five centimetres, tried one by one; and the one proposed goes in itself."""
    margin_m, board_m, taken_l = 0.01, 0.018, 1.5
    block = block_for_space(room, way_in, margin_m, board_m, wanted_l, taken_l)
    fives = [[n / 20 for n in range(1, int(20 * (side - margin_m) + 1e-9) + 1)] for side in room]
    through = [
        edges for edges in product(*fives) if way_in_spare_m(edges, way_in) >= margin_m - 1e-9
        and block_spare_m(edges, room) >= margin_m - 1e-9
    ]  # fmt: skip
    most_l = max((room_in_l(*edges, board_m, taken_l) for edges in through), default=0.0)
    if block is None:
        assert most_l == 0.0
        return
    edges = block.length_m, block.width_m, block.height_m
    assert block_spare_m(edges, room) >= margin_m - 1e-9
    assert way_in_spare_m(edges, way_in) >= margin_m - 1e-9
    assert block.net_l == pytest.approx(room_in_l(*edges, board_m, taken_l))
    assert block.net_l >= min(wanted_l, most_l) - 1e-9
    for side in range(3):
        less = [edge - 0.01 * (n == side) for n, edge in enumerate(edges)]
        enough = room_in_l(*less, board_m, taken_l) >= wanted_l
        assert edges[side] <= 0.3 or not enough, "no larger than it need be"


def test_restraint_is_weight_times_the_multiple() -> None:
    assert restraint_n(20, 20) == pytest.approx(20 * scipy.constants.g * 20)
    with pytest.raises(OutOfRange):
        restraint_n(0, 20)


def clipped_sine_rms(peak: float, limit: float) -> float:
    phase = np.linspace(0, 2 * np.pi, 20001)
    return float(np.sqrt(np.mean(np.clip(peak * np.sin(phase), -limit, limit) ** 2)))


@pytest.mark.parametrize(("db_per_step", "limit"), [(2.0, 9.0), (1.5, 12.9), (3.0, 5.2), (2.5, 7.3)])
def test_the_last_clean_step_of_a_clipping_amplifier(db_per_step: float, limit: float) -> None:
    """A sine through a hard limit, simulated: the verdict lies at most one step beside the truth."""
    steps = range(1, 21)
    peaks = {s: 0.2 * 10 ** (db_per_step * s / 20) for s in steps}
    readings = [(float(s), clipped_sine_rms(peaks[s], limit)) for s in steps]
    truth = max(s for s in steps if peaks[s] <= limit)
    found = last_clean_step(readings)
    assert found is not None
    assert abs(found - truth) <= 1
    assert last_clean_step(readings[:3]) is None
    assert last_clean_step(readings[:4]) == 4.0  # four readings are enough
    assert last_clean_step([(s, 0.2 * 10 ** (s / 10)) for s in steps]) == 20  # never limits: clean as far as read
    assert clipped_sine_rms(1e6, 1) == pytest.approx(math.sqrt(2) * clipped_sine_rms(1, 1), rel=1e-3)  # twice the power


def test_bass_that_stays_behind_is_told_in_decibels() -> None:
    mid = {5.0: 1.0, 10.0: 2.0, 15.0: 4.0}
    assert bass_lost_db({5.0: 1.0, 10.0: 2.0, 15.0: 4.0}, mid) == pytest.approx({5.0: 0, 10.0: 0, 15.0: 0})
    assert bass_lost_db({5.0: 1.0, 15.0: 2.0}, mid)[15.0] == pytest.approx(6.02, abs=0.01)
    assert bass_lost_db({5.0: 1.0}, mid) == {}
    silent = {5.0: 0.0, 10.0: 2.0, 15.0: 4.0}  # silence is no level
    assert bass_lost_db(mid, silent) == bass_lost_db(silent, mid) == pytest.approx({10.0: 0, 15.0: 0})


def test_trade_facts_of_the_baseline() -> None:
    """Common practice, no source: two 4 ohm coils in parallel read 1.7 ohm; 1.7 against 2.1 ohm is 19 % lower, 24 %
    more current, 0.9 dB; the bus stays awake about ten minutes; a battery lasts weeks on a few tens of milliampere."""
    from ohmack.core.loads.driven import DC_HIGH, DC_LOW

    assert DC_LOW * joined_ohm([4, 4], in_series=False) <= 1.7 <= DC_HIGH * joined_ohm([4, 4], in_series=False)
    lower, more, level = relative_change(1.7, 2.1)
    assert (round(lower, 2), round(more, 2), round(level, 1)) == (-0.19, 0.24, 0.9)
    assert joined_ohm([8, 8], in_series=False) == 4
    assert joined_ohm([4, 4], in_series=True) == 8
    assert "10 min" in read_toml("facts")["standby_current_a"]["how"]
    assert standby_days(60, 0.03) == pytest.approx(41.7, abs=0.1)
    assert standby_days(60, 0.5) < 3
    for bad in ((0, 1), (60, 0), (math.nan, 1)):
        with pytest.raises(OutOfRange):
            standby_days(*bad)


@pytest.mark.parametrize("body", list(Body))
def test_zones_follow_the_hand_of_drive(body: Body) -> None:
    left = {z.kind.value: z for z in new_vehicle("A", "B", None, body, Hand.LEFT).zones}
    right = {z.kind.value: z for z in new_vehicle("A", "B", None, body, Hand.RIGHT).zones}
    assert left["pedals"].position.y_m < 0 < right["pedals"].position.y_m
    assert left["steering column"].position.y_m < 0 < right["steering column"].position.y_m
    electric = new_vehicle("A", "B", None, body, Hand.LEFT, Powertrain.ELECTRIC)
    assert "exhaust and heat" not in {z.kind.value for z in electric.zones}


@pytest.mark.parametrize(("year", "front", "seats"), [(1985, False, False), (1994, True, False), (2004, True, True)])
def test_airbags_came_to_the_dash_before_the_seats(year: int, *, front: bool, seats: bool) -> None:
    """In the dash by the early nineties, in the seats by the end of them: common practice, no source."""
    bags = {z.id for z in new_vehicle("A", "B", year, Body.SALOON, Hand.LEFT).zones if z.kind.value == "airbag"}
    assert any(name.startswith("zone-airbag-seat") for name in bags) is seats
    assert any(not name.startswith("zone-airbag-seat") for name in bags) is front


def test_a_screen_asks_whether_the_car_starts_without_its_radio(estate: Design) -> None:
    """Where an amplifier is told of, in the survey or as a module; a plain radio is only measured."""
    asked = {}
    for tier in (Tier.PLAIN, Tier.AMPLIFIED, Tier.RING):
        tree = {"value": tier.value, "basis": "measured"}
        wish = [Edit(path="intake/wishes", value=["a modern screen"]), Edit(path="vehicle/radio/tier", value=tree)]
        bare = apply_edits(
            estate, [*wish, *(Edit(op="remove", path=f"vehicle/modules/{m.id}") for m in estate.vehicle.modules)]
        )
        asked[tier] = {m.path.rsplit("/", 1)[-1] for m in wished(bare)}
    assert "starts_without" not in asked[Tier.PLAIN]
    assert "starts_without" in asked[Tier.AMPLIFIED] & asked[Tier.RING]
    assert all("opening_depth_mm" in paths for paths in asked.values())


# -- the questionnaire -------------------------------------------------------------------------------------------


def test_tables_of_the_questionnaire_are_probabilities() -> None:
    raw = read_toml("tells")
    assert sum(raw["prior"]) == pytest.approx(1)
    assert {Tier(t) for t in raw["tiers"]} == set(Tier)
    for question in raw["question"]:
        table = np.array(list(question["answers"].values()))
        assert table.shape == (len(question["answers"]), len(raw["tiers"]))
        assert table.sum(axis=0) == pytest.approx(1, abs=1e-9), question["id"]
        assert table.min() > 0  # nothing is impossible


@given(st.lists(st.floats(0.001, 1), min_size=2, max_size=7))
def test_entropy_as_scipy_has_it(shares: list[float]) -> None:
    p = np.array(shares) / sum(shares)
    assert entropy_bits(list(p)) == pytest.approx(float(scipy.stats.entropy(p, base=2)))


def test_expected_information_by_brute_force() -> None:
    """Mutual information of answer and system from their joint table."""
    vehicle = demo_design(0).vehicle
    weights = np.array([w for _, w in hypotheses(vehicle)])
    for question in questions(vehicle):
        joint = np.array(question.likelihood) * weights
        apart = np.outer(joint.sum(axis=1), joint.sum(axis=0))
        wanted = float((joint * np.log2(joint / apart)).sum())
        assert expected_bits(question, list(weights)) == pytest.approx(wanted)


def _answered(design: Design, answers: dict[str, str]) -> Design:
    for question in questions(design.vehicle):
        if question.id in answers:
            design = apply_edits(design, answer_question(design, question, answers[question.id], "", "2026-11-20"))
    return design


def _likeliest(design: Design, tier: Tier) -> dict[str, str]:
    """What somebody finds on a car of one kind: the likeliest answer to each question."""
    kinds = [h.tier for h, _ in hypotheses(design.vehicle)]
    column = kinds.index(tier)
    return {
        q.id: max(zip(q.answers, q.likelihood, strict=True), key=lambda pair: pair[1][column])[0]
        for q in questions(design.vehicle)
    }


@pytest.mark.parametrize("tier", list(Tier))
def test_following_the_next_question_finds_every_kind(tier: Tier, estate: Design) -> None:
    design, truth, asked = estate, _likeliest(estate, tier), 0
    while (verdict := judge_tier(design.vehicle)).next_question:
        asked += 1
        question = verdict.next_question
        design = apply_edits(design, answer_question(design, question, truth[question.id], "Wen", "2026-11-20"))
    assert verdict.best[0] is tier
    assert asked <= 6  # short: no more than there are general questions
    assert verdict.certain
    taken = apply_edits(design, take_verdict(design, "Wen", "2026-11-20"))
    fact = taken.vehicle.radio.tier
    assert (fact.value, fact.basis.value, fact.how.value) == (tier, "measured", "by eye")
    amplified = any(m.amplifies for m in taken.vehicle.modules)
    assert amplified == (tier in (Tier.AMPLIFIED, Tier.RING, Tier.SUB_AMPLIFIER))
    heard = {s.channel_id: s.name for s in taken.vehicle.speakers}
    assert (heard.get("sub-ch") == "Factory subwoofer") == (tier is Tier.SUB_AMPLIFIER), "its driver is laid in with it"


def test_the_order_of_answers_does_not_matter_and_unknown_ones_shift_nothing(estate: Design) -> None:
    answers = {"badge": "yes", "box-found": "yes, many wires"}
    one = judge_tier(_answered(estate, answers).vehicle)
    turned = _answered(_answered(estate, {"box-found": answers["box-found"]}), {"badge": "yes"})
    assert dict(one.by_tier) == pytest.approx(dict(judge_tier(turned.vehicle).by_tier))
    none = judge_tier(_answered(estate, {q.id: DONT_KNOW for q in questions(estate.vehicle)}).vehicle)
    assert dict(none.by_tier) == pytest.approx(dict(judge_tier(estate.vehicle).by_tier))
    assert not none.certain
    assert none.next_question is None


def test_an_unsure_verdict_is_assumed_with_the_rest_open(estate: Design) -> None:
    half = _answered(estate, {"badge": "yes"})
    assert judge_tier(half.vehicle).best[1] < CERTAIN
    fact = apply_edits(half, take_verdict(half, "", "2026-11-20")).vehicle.radio.tier
    assert fact.basis.value == "assumed"
    assert Tier.RING in (fact.value, *fact.alternatives)


def test_a_cars_own_kinds_and_model_years_count() -> None:
    """The two-seater of the demo shop: three kinds, told apart by grille, vent and year, by Bayes's rule by hand."""
    vehicle = demo_design(6).vehicle
    ranked = {h.id: p for h, p in judge_tier(vehicle).ranked}
    weights = {"base": 1.0 * 0.97, "plus": 1.0 * 0.97, "grand": 0.02 * 0.03}  # 2015; vent not square
    general = 0.1 * 0.5
    total = 0.9 / 2.02 * sum(weights.values()) + general
    for name, weight in weights.items():
        assert ranked[name] == pytest.approx(0.9 / 2.02 * weight / total)
    assert (
        judge_tier(vehicle.model_copy(update={"year": 2019})).by_tier[0][0] is not Tier.RING
    )  # the vent speaks against it


def test_demo_shop_shows_every_system_and_every_body() -> None:
    from ohmack.demo.jobs import demo_jobs

    vehicles = [demo_design(n).vehicle for n in range(len(demo_jobs()))]
    assert {v.body for v in vehicles} == set(Body)
    assert {v.radio.tier.value for v in vehicles} == set(Tier)
    amplifiers = [m for v in vehicles for m in v.modules if m.amplifies]
    for trait in ("band_split", "equalised", "load_sensing"):
        assert any(getattr(m, trait).value for m in amplifiers), trait
    assert {m.level.value.value for m in amplifiers if m.level.value} == {"fixed", "follows the volume"}
    assert any(len(v.supply.batteries) > 1 for v in vehicles)
    assert any(v.alterations for v in vehicles)
