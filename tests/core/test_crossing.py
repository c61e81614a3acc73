"""Where a subwoofer meets the front: what filter theory says of their sum, and the way round that is proposed."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from ohmack.core.box.arrivals import compute_arrivals, edits_of
from ohmack.core.box.crossing import EVERY_HZ, MET_HZ, Meeting, filtered
from ohmack.core.document import Design, Intake
from ohmack.core.document.boxes import Box
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.handles import at
from ohmack.core.document.links import Band, LineLink, SpeakerLink
from ohmack.core.document.parts import Subwoofer
from ohmack.core.document.policy import Policy
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.evaluation.answer import Evaluation
from ohmack.core.evaluation.door import evaluate
from ohmack.core.figures.finding import Finding
from ohmack.core.loads.bench import coils_on, reversed_at
from ohmack.core.physics.filter_families import level_db
from ohmack.core.planning.part_added import added
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.core.signal.equaliser import most_boost
from ohmack.demo.building import catalogue
from ohmack.demo.jobs import demo_design, demo_jobs

FIVE = next(n for n, job in enumerate(demo_jobs()) if job.title.startswith("Five channels"))


def met(sub: dict[str, Any] | None = None, front: dict[str, Any] | None = None, bare: bool = True) -> Meeting:
    return meeting_of(crossed(sub or {}, front or {}, bare))


def meeting_of(design: Design) -> Meeting:
    (one,) = evaluate(design).results.meetings
    return one


def crossed(sub: dict[str, Any], front: dict[str, Any], bare: bool = True) -> Design:
    """Five channels with both filters at 80 Hz; bare of box and distance."""
    design = demo_design(FIVE)
    subs = {part.id for part in design.parts_of(Subwoofer)}
    edits = []
    for link in design.links_of(SpeakerLink):
        corner = "low_pass_hz" if link.to_id in subs else "high_pass_hz"
        changes = {corner: 80.0} | (sub if link.to_id in subs else front)
        edits += [Edit(path=f"links/{link.id}/{name}", value=value) for name, value in changes.items()]
    if bare:
        edits += [Edit(path=f"parts/{name}/vas_l", value=None) for name in subs]
        edits += [Edit(path=f"parts/{box.id}/position", value=None) for box in design.parts_of(Box)]
        edits += [Edit(path=f"parts/{box.id}/box_type", value="closed") for box in design.parts_of(Box)]
    return apply_edits(design, edits)


def test_the_shop_of_full_sound_lets_large_doors_begin_lower() -> None:
    """45 Hz against 80 Hz in 6.5 in doors, small ones as ever (common practice, no source)."""
    design = demo_design(FIVE)
    full = apply_edits(design, [Edit(path="policy/crossover_school", value="full sound: large doors from 45 Hz")])

    def corners(of: Design) -> list[float]:
        return [e.high_pass.value for e in evaluate(of).results.crossovers if e.high_pass is not None]

    assert corners(design) == [80.0, 80.0, 90.0, 90.0]
    assert corners(full) == [45.0, 45.0, 90.0, 90.0]
    doors = next(link for link in full.links_of(SpeakerLink) if link.channel == 1)
    for hz, policy, speaks in ((45.0, design, True), (45.0, full, False), (35.0, full, True)):
        low = apply_edits(policy, [Edit(path=f"links/{doors.id}/high_pass_hz", value=hz)])
        assert any(f.rule == "high-pass-low" for f in evaluate(low).findings) is speaks, (hz, speaks)


def test_filters_of_source_and_amplifier_are_composed(estate: Design) -> None:
    """Two equal second-order Butterworth low-passes at 80 Hz are 6.0 dB down there and fall at 24 dB an octave
    (textbook); a high-pass in the source under a subwoofer's subsonic filter is another matter.
    """

    def stacked(*edits: Edit) -> tuple[list[Finding], Evaluation]:
        result = evaluate(apply_edits(estate, edits))
        return [f for f in result.findings if f.rule == "filters-stacked"], result

    own, source = (Edit(path=f"links/{name}/low_pass_hz", value=80.0) for name in ("speaker-sub", "line-amp"))
    (found,), result = stacked(own, source)
    assert found.title.endswith("two low-passes in a row, 80 Hz in Sprig LC2 active, 80 Hz in Tessel M500")
    assert "Together −6.0 dB at 80 Hz, and 24 dB an octave" in found.text
    (load,), (entry,) = result.results.loads, result.results.crossovers
    level = level_db(filtered(load, entry, everywhere=True))
    octave = [float(np.interp(np.log(hz), np.log(EVERY_HZ), level)) for hz in (80.0, 640.0, 1280.0)]
    assert octave[0] == pytest.approx(-20 * np.log10(2), abs=0.05)
    assert octave[1] - octave[2] == pytest.approx(24.0, abs=0.1)
    far = Edit(path="links/line-amp/low_pass_hz", value=200.0)
    assert stacked(own, far)[0] == []
    high = [Edit(path=f"links/{name}/high_pass_hz", value=30.0) for name in ("line-amp", "speaker-sub")]
    assert stacked(*high)[0] == []
    assert found.remedy is not None
    mended = apply_edits(apply_edits(estate, [own, source]), list(found.remedy.edits))
    assert [e.in_source for e in evaluate(mended).results.crossovers] == [()]


CUT = Band(centre_hz=80.0, gain_db=-9.0, q=1.0).model_dump()
LR = {"filter_slope_db": 24, "filter_family": "Linkwitz-Riley"}


@pytest.mark.parametrize(("source_hz", "speaks"), [(30.0, False), (120.0, True), (110.0, True)])
def test_two_high_passes_are_held_at_the_higher_corner(source_hz: float, speaks: bool) -> None:
    """Far below the amplifier's 120 Hz the source's takes nothing there; near it both take their 3 dB."""
    design = crossed({}, {"high_pass_hz": 120.0})
    doors = next(link for link in design.links_of(SpeakerLink) if link.channel == 1)
    line = next(
        k for k in design.links_of(LineLink) if k.to_id == doors.from_id and (not k.channels or 1 in k.channels)
    )
    answer = evaluate(apply_edits(design, [Edit(path=f"links/{line.id}/high_pass_hz", value=source_hz)]))
    assert any(f.rule == "filters-stacked" for f in answer.findings) is speaks


def test_linkwitz_riley_sums_flat_and_cancels_reversed_at() -> None:
    one = met(LR, LR)
    assert not one.boxed
    assert one.later is None
    assert one.crossing.value == pytest.approx(80.0, rel=0.03)
    assert level_db(one.whole) == pytest.approx(0.0, abs=1e-6)
    assert one.dip.value == pytest.approx(0.0, abs=1e-6)
    assert one.reversed_dip.value is not None
    assert one.reversed_dip.value < -25


def test_second_order_butterworth_wants_one_side_reversed_at() -> None:
    """12 dB an octave, the usual: a hole at the crossing as wired, +3 dB turned round. Textbook."""
    one = met()
    assert one.dip.value is not None
    assert one.dip.value < -25
    assert level_db(one.reversed)[int(abs(MET_HZ - 80.0).argmin())] == pytest.approx(3.0, abs=0.02)
    near = (one.crossing.value / 1.5 <= MET_HZ) & (one.crossing.value * 1.5 >= MET_HZ)
    assert one.reversed_dip.value == pytest.approx(float(level_db(one.reversed)[near].min()))
    assert [f.severity.value for f in evaluate(crossed({}, {})).findings if f.rule == "crossing-hole"] == ["note"]


def test_the_proposed_turn_is_what_was_promised() -> None:
    """Press it: the sum as wired is the one that was drawn as turned round, and nothing is proposed any more."""
    design = crossed({}, {})
    before = meeting_of(design)
    wiring = reversed_at(before.load, [coil.name for coil in coils_on(before.load)])
    turned = apply_edits(design, [Edit(path=at(before.load.link, lambda it: it.wiring), value=wiring)])
    after = meeting_of(turned)
    assert after.dip.value == pytest.approx(before.reversed_dip.value)
    assert after.reversed_dip.value == pytest.approx(before.dip.value)
    assert not [f for f in evaluate(turned).findings if f.rule == "crossing-hole"]
    assert [f.severity.value for f in evaluate(turned).findings if f.rule == "polarity-reversed"] == ["note"]


def test_half_a_period_of_delay_is_as_good_as_turning_round() -> None:
    """6.25 ms is half a period of 80 Hz."""
    one = met(LR, LR | {"delay_ms": 6.25})
    at_80 = int(abs(MET_HZ - 80.0).argmin())
    assert level_db(one.whole)[at_80] < -25
    assert level_db(one.reversed)[at_80] == pytest.approx(0.0, abs=0.02)


def test_box_and_distance_are_in_it_where_they_are_known() -> None:
    """The box's roll-off under its reach, and the way from the boot against the way from the door at 343 m/s."""
    design = crossed(LR, LR, bare=False)
    one, plain = meeting_of(design), met(LR, LR)
    assert one.boxed
    low = int(abs(MET_HZ - 25.0).argmin())
    assert level_db(one.sub)[low] < level_db(plain.sub)[low] - 3
    assert one.later is not None
    assert one.ahead_load is not None
    head = (0.47 * (design.vehicle.length_m.value or 4.2), 0.36 * (-1) ** (design.vehicle.hand_of_drive is Hand.LEFT))
    box = next(box.position.point for box in design.parts_of(Box) if box.position is not None)
    door = next(s.position.point for s in design.vehicle.speakers if s.id == one.ahead_load.link.to_id)
    ways_m = [np.linalg.norm((x_m - head[0], y_m - head[1], 0.5)) for x_m, y_m in (box, door)]
    assert one.later.value == pytest.approx(1000 * (ways_m[0] - ways_m[1]) / 343.2)
    turn = np.angle(one.sub[-1] / plain.sub[-1])  # far over its band the box only keeps its phase
    assert turn != pytest.approx(0.0, abs=0.05)


def test_nothing_to_meet_nothing_said() -> None:
    """A subwoofer whose leads make no load is in no sum."""
    design = crossed({}, {})
    link = meeting_of(design).load.link
    shorted = apply_edits(design, [Edit(path=at(link, lambda it: it.wiring), value="leads(+=-)")])
    assert not evaluate(shorted).results.meetings


def test_delays_by_the_plan_bring_everything_to_one_moment() -> None:
    """Distance over 343 m/s and delay add up to the same time for every output, within a processor's step; pressed,
    they stand on every link.
    """
    design = crossed({}, {}, bare=False)
    results = evaluate(design).results
    found = results.arrivals
    assert len(found) == len(results.loads)
    times = [1000 * one.away.value / 343.2 + one.delay.value for one in found]
    assert max(times) - min(times) <= 0.021
    assert min(one.delay.value for one in found) == 0.0
    left, right = (next(one for one in found if one.load.link.to_id == f"spk-f{side}") for side in "lr")
    near, far = (left, right) if design.vehicle.hand_of_drive is Hand.LEFT else (right, left)
    assert near.away.value < far.away.value
    assert near.delay.value > far.delay.value
    set_now = apply_edits(design, edits_of(found))
    assert {link.id: link.delay_ms for link in set_now.links_of(SpeakerLink)} == pytest.approx(
        {link.id: one.delay.value for one in found for link in one.load.links}
    )
    assert not compute_arrivals(results.book, results.loads[:1])


def test_a_mirrored_car_is_heard_mirrored(estate: Design) -> None:
    """Left for right, driver and all, changes no distance; the driver alone changes them."""
    other = Hand.LEFT if estate.vehicle.hand_of_drive is Hand.RIGHT else Hand.RIGHT
    swapped = Edit(path="vehicle/hand_of_drive", value=other.value)
    over = [Edit(path=f"vehicle/speakers/{s.id}/position/y_m", value=-s.position.y_m) for s in estate.vehicle.speakers]
    boxes = [
        Edit(path=f"parts/{box.id}/position/y_m", value=-box.position.y_m)
        for box in estate.parts_of(Box)
        if box.position is not None
    ]
    plain, driver, whole = (
        evaluate(apply_edits(estate, edits)).results.meetings[0].later
        for edits in ([], [swapped], [swapped, *over, *boxes])
    )
    assert plain is not None
    assert driver is not None
    assert whole is not None
    assert whole.value == pytest.approx(plain.value)
    assert driver.value != pytest.approx(plain.value, abs=0.1)


def test_an_output_in_front_without_a_high_pass_still_has_its_bands_delay_and_polarity() -> None:
    """A cut at the crossing and half a period of delay are heard whether or not a filter is set beside them."""
    results = evaluate(crossed({}, {"delay_ms": 6.25, "bands": [CUT]})).results
    front = next(load for load in results.loads if load.link.id == results.meetings[0].ahead_load.link.id)
    alone = next(c for c in results.crossovers if c.scope == front.scope)
    with_it, without = filtered(front, alone), filtered(front, None)
    at_80 = int(abs(MET_HZ - 80.0).argmin())
    assert level_db(without)[at_80] == pytest.approx(-9.0, abs=0.1)
    assert level_db(with_it)[at_80] == pytest.approx(-12.01, abs=0.1)


@pytest.mark.parametrize(
    ("low_hz", "high_hz", "words"), [(40.0, 80.0, "neither"), (120.0, 50.0, "both play"), (80.0, 80.0, "")]
)
def test_gaps_and_overlaps_are_named(low_hz: float, high_hz: float, words: str) -> None:
    design = crossed({"low_pass_hz": low_hz}, {"high_pass_hz": high_hz})
    titles = [f.title for f in evaluate(design).findings if f.rule == "crossover-apart"]
    assert bool(titles) == bool(words)
    assert all(words in title for title in titles)


def test_bands_in_a_row_add_in_decibels_and_cost_power() -> None:
    """+6 dB is four times the power there (common practice, 10^(6/10)); two bands at one place add up; a cut takes
    it off again.
    """
    boost = Band(centre_hz=50.0, gain_db=6.0, q=2.0)
    assert most_boost([boost]) == pytest.approx((50.0, 6.0), rel=0.02)
    assert most_boost([boost, boost])[1] == pytest.approx(12.0, abs=0.05)
    assert most_boost([boost, Band(centre_hz=50.0, gain_db=-6.0, q=2.0)])[1] == pytest.approx(0.0, abs=1e-6)
    assert most_boost([])[1] == 0.0
    shelf = Band(kind="low shelf", centre_hz=80.0, gain_db=9.0, q=0.7071)
    hz, lift_db = most_boost([shelf])
    assert (hz, lift_db) == pytest.approx((20.0, 9.0), abs=0.1)
    (watch,) = [f for f in evaluate(crossed({"bands": [shelf.model_dump()]}, {})).findings if f.rule == "boost-costs"]
    assert f"{10**0.9:.1f} times the power" in watch.text + watch.title


def test_the_filters_of_an_output_are_its_corners_and_its_bands() -> None:
    """−3 dB at its corner for a Butterworth, plus what a band adds there."""
    design = crossed({}, {"bands": [Band(centre_hz=80.0, gain_db=4.0, q=2.0).model_dump()]})
    results = evaluate(design).results
    filters = {entry.scope: entry for entry in results.crossovers}
    subs = {part.id for part in design.parts_of(Subwoofer)}
    for load in results.loads:
        made = level_db(filtered(load, filters[load.scope], everywhere=True))
        wanted = -3.01 if load.link.to_id in subs else 0.99
        assert np.interp(np.log(80.0), np.log(EVERY_HZ), made) == pytest.approx(wanted, abs=0.05)


def active_front(**amplifier: object) -> Design:
    """Woofers in the doors and tweeters at the pillars, every one on a channel of its own."""
    design = new_design("a", new_vehicle("Any", "Any", 2012, Body.ESTATE, Hand.LEFT), Intake(), Policy())
    trees = {tree["name"]: tree for tree in catalogue()}
    four = {**trees["Tessel Four 70"], "speaker_level_low_v": 1.0, "speaker_level_high_v": 20.0, **amplifier}
    for tree in (four, trees["Morrowick W65 woofer, pair"], trees["Morrowick T25 tweeter, pair"]):
        design = apply_edits(design, added(design, tree))
    return design


def test_a_woofer_ends_where_its_tweeter_begins_or_that_is_said() -> None:
    """An amplifier that can end it there does, at the tweeter's 3 kHz (common practice); a corner somebody chose goes
    before, and a Butterworth is 3 dB down at it (textbook). Where nothing can, that is told, until a coil is in line.
    """

    def low(design: Design) -> list[float | None]:
        found = evaluate(design).results.crossovers
        return [entry.low_pass.value if entry.low_pass else None for entry in found]

    def told(design: Design) -> bool:
        return "treble-twice" in {f.rule for f in evaluate(design).findings}

    able = active_front(low_pass_high_hz=5000.0)
    assert low(able) == [3000.0, 3000.0, None, None]
    assert low(active_front(processor=True, low_pass_low_hz=None, low_pass_high_hz=None)) == low(able)
    assert not told(able)
    link = next(k for k in able.links_of(SpeakerLink) if k.to_id == "spk-fl")
    chosen = apply_edits(able, [Edit(path=at(link, lambda it: it.low_pass_hz), value=2000.0)])
    assert low(chosen) == [2000.0, 3000.0, None, None]
    results = evaluate(chosen).results
    assert results.crossovers[0].words.endswith("low-pass 2000 Hz")
    assert results.crossovers[0].words.startswith("high-pass"), "no subsonic filter of a subwoofer"
    passed = level_db(filtered(results.loads[0], results.crossovers[0], everywhere=True))
    assert float(np.interp(2000.0, EVERY_HZ, passed)) == pytest.approx(-3.0, abs=0.1)
    unable = active_front()
    assert low(unable) == [None] * 4
    assert told(unable)
    coil = {"kind": "series coil", "id": "coil", "name": "Coil", "inductance_mh": 0.27, "at_ids": ["spk-fl", "spk-fr"]}
    assert not told(apply_edits(unable, [Edit(op="add", path="parts", value=coil)]))
    coaxial = apply_edits(able, [Edit(path="parts/driver/role", value="coaxial")])
    assert low(coaxial)[0] is None
