"""Where a subwoofer meets the front: what filter theory says of their sum, and the way round that is proposed."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from ohmack.core.box.arrivals import arrivals, edits_of
from ohmack.core.box.crossing import MET_HZ, Meeting, output_filters
from ohmack.core.document import Design
from ohmack.core.document.boxes import Box
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.handles import at
from ohmack.core.document.links import Band, SpeakerLink
from ohmack.core.document.parts import Subwoofer
from ohmack.core.document.vehicle import Hand
from ohmack.core.evaluation.door import evaluate
from ohmack.core.loads.bench import coils_on, turned_round
from ohmack.core.physics.filter_families import level_db
from ohmack.core.signal.equaliser import most_boost
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


LR = {"filter_slope_db": 24, "filter_family": "Linkwitz-Riley"}


def test_linkwitz_riley_sums_flat_and_cancels_turned_round() -> None:
    one = met(LR, LR)
    assert not one.boxed
    assert one.later_ms is None
    assert one.at_hz == pytest.approx(80.0, rel=0.03)
    assert level_db(one.whole) == pytest.approx(0.0, abs=1e-6)
    assert one.dip.value == pytest.approx(0.0, abs=1e-6)
    assert one.turned_dip.value is not None
    assert one.turned_dip.value < -25


def test_second_order_butterworth_wants_one_side_turned_round() -> None:
    """12 dB an octave, the usual: a hole at the crossing as wired, +3 dB turned round. Textbook."""
    one = met()
    assert one.dip.value is not None
    assert one.dip.value < -25
    assert level_db(one.turned)[int(abs(MET_HZ - 80.0).argmin())] == pytest.approx(3.0, abs=0.02)
    assert one.turned_dip.value == pytest.approx(float(level_db(one.turned)[one.around].min()), abs=0.3)
    assert [f.severity.value for f in evaluate(crossed({}, {})).findings if f.rule == "crossing-hole"] == ["note"]


def test_the_proposed_turn_is_what_was_promised() -> None:
    """Press it: the sum as wired is the one that was drawn as turned round, and nothing is proposed any more."""
    design = crossed({}, {})
    before = meeting_of(design)
    wiring = turned_round(before.load, [coil.name for coil in coils_on(before.load)])
    turned = apply_edits(design, [Edit(path=at(before.load.link, lambda it: it.wiring), value=wiring)])
    after = meeting_of(turned)
    assert after.dip.value == pytest.approx(before.turned_dip.value)
    assert after.turned_dip.value == pytest.approx(before.dip.value)
    assert not [f for f in evaluate(turned).findings if f.rule == "crossing-hole"]
    assert [f.severity.value for f in evaluate(turned).findings if f.rule == "polarity-turned"] == ["note"]


def test_half_a_period_of_delay_is_as_good_as_turning_round() -> None:
    """6.25 ms is half a period of 80 Hz."""
    one = met(LR, LR | {"delay_ms": 6.25})
    at_80 = int(abs(MET_HZ - 80.0).argmin())
    assert level_db(one.whole)[at_80] < -25
    assert level_db(one.turned)[at_80] == pytest.approx(0.0, abs=0.02)


def test_box_and_distance_are_in_it_where_they_are_known() -> None:
    """The box's roll-off under its reach, and the way from the boot against the way from the door at 343 m/s."""
    one, plain = met(LR, LR, bare=False), met(LR, LR)
    assert one.boxed
    low = int(abs(MET_HZ - 25.0).argmin())
    assert level_db(one.sub)[low] < level_db(plain.sub)[low] - 3
    assert one.later_ms is not None
    assert 0 < one.later_ms < 10
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
    loads = evaluate(design).results.loads
    found = arrivals(design, loads)
    assert len(found) == len(loads)
    times = [1000 * one.distance_m / 343.2 + one.delay_ms for one in found]
    assert max(times) - min(times) <= 0.021
    assert min(one.delay_ms for one in found) == 0.0
    left, right = (next(one for one in found if one.load.link.to_id == f"spk-f{side}") for side in "lr")
    near, far = (left, right) if design.vehicle.hand_of_drive is Hand.LEFT else (right, left)
    assert near.distance_m < far.distance_m
    assert near.delay_ms > far.delay_ms
    set_now = apply_edits(design, edits_of(found))
    assert {link.id: link.delay_ms for link in set_now.links_of(SpeakerLink)} == pytest.approx(
        {link.id: one.delay_ms for one in found for link in one.load.links}
    )
    assert not arrivals(design, loads[:1])


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
    hz = np.array([80.0])
    made = {
        one.load.link.to_id: level_db(one.response)[0] for one in output_filters(results.loads, results.crossovers, hz)
    }
    subs = {part.id for part in design.parts_of(Subwoofer)}
    for name, level in made.items():
        assert level == pytest.approx(-3.01 if name in subs else 0.99, abs=0.02)
