"""The dip over time: nodes in time against a circuit simulator, energy by sums, limits by algebra."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.use import Music
from ohmack.core.errors import NoOperatingPoint, OutOfRange
from ohmack.core.evaluation.door import evaluate
from ohmack.core.network.states import battery_resistance_ohm
from ohmack.core.physics.dip import RATE_HZ, Capacitor, Circuit, SecondBattery, burst, dipped, remedied
from ohmack.core.physics.envelope import envelopes
from ohmack.core.supply.dip_study import DipStudy, levels
from ohmack.demo.jobs import demo_design, demo_jobs
from ohmack.formats.dip_netlist import dip_netlist
from references import ngspice, ngspice_text

CAR = Circuit(12.6, 0.0045, 0.08, 0.008, 25.0, 0.8, 14.2, 55.0, 0.15)
OFF = replace(CAR, regulated_v=0.0, car_a=4.0)
BEATS = burst(600.0, 0.5, 0.25, 0.25, 2.0)
FEEDING = SecondBattery(12.7, 0.0039, 0.09, 0.012, feeds=True)
BESIDE = replace(FEEDING, feeds=False)


def at(values: np.ndarray, seconds: float) -> float:
    return float(values[round(seconds * RATE_HZ)])


@pytest.mark.parametrize("give_a", [0.0, 40.0, 90.0])
@pytest.mark.parametrize(("farads", "series"), [(1.0, 0.004), (0.05, 0.002)])
def test_volts_in_time_against_a_circuit_simulator(give_a: float, farads: float, series: float) -> None:
    """Engine off, and an alternator at its limit that stands still: post and amplifier within 0.5 %, between and in
    beats, whether the battery gives or takes.
    """
    circuit = replace(CAR, capacitor=Capacitor(farads, series), alternator_a=give_a, lag_s=1e9)
    wanted_v = 0.0 if give_a == 0.0 else 30.0  # off, or more than it can hold: it stands at its limit
    circuit = replace(circuit, regulated_v=wanted_v)
    found = dipped(circuit, BEATS)
    names = ("rest_v", "inner_ohm", "taking_ohm", "loop_ohm", "car_a", "idle_a")
    values = {name: getattr(circuit, name) for name in names}
    wanted = ngspice(
        "dip.cir", **values, give_a=give_a, power_w=600.0, series_ohm=series, capacitance_f=farads,
        before_v=found.before_v, first_v=float(found.amplifier_v[0]),
    )  # fmt: skip
    mine = [v for t in (0.52, 0.745, 0.8, 1.245) for v in (at(found.amplifier_v, t), at(found.post_v, t))]
    assert mine == pytest.approx(wanted, rel=0.005)


@settings(max_examples=30, deadline=None)
@given(st.floats(50, 900), st.floats(0.002, 0.02), st.floats(0.003, 0.02))
def test_energy_closes(power_w: float, inner: float, loop: float) -> None:
    """What the battery gives is what is played, drawn, and lost in its own resistance and the loop, to 0.1 %."""
    circuit = replace(OFF, inner_ohm=inner, loop_ohm=loop)
    power = burst(power_w, 0.1, 0.2, 0.1, 1.0)
    try:
        found = dipped(circuit, power)
    except NoOperatingPoint:
        assert power_w > 0.9 * (12.6 - inner * 4.0) ** 2 / 4 / (inner + loop)
        return
    through_a = (found.post_v - found.amplifier_v) / loop
    gives_a = through_a + circuit.car_a
    given_w = 12.6 * gives_a
    used_w = power + circuit.idle_a * found.amplifier_v + circuit.car_a * found.post_v
    lost_w = gives_a**2 * inner + through_a**2 * loop
    assert given_w.sum() == pytest.approx((used_w + lost_w).sum(), rel=1e-3)


def test_what_others_draw_is_drawn_at_the_post() -> None:
    """A current beside is a car that draws so much more, for as long (superposition at one node)."""
    steady = np.full(20, 30.0)
    beside = dipped(OFF, np.full(20, 300.0), steady)
    more = dipped(replace(OFF, car_a=OFF.car_a + 30.0), np.full(20, 300.0))
    assert beside.post_v == pytest.approx(more.post_v)
    assert beside.amplifier_v == pytest.approx(more.amplifier_v)


def test_more_than_the_loop_carries_is_said() -> None:
    """Maximum power transfer: E²/4R, less what idles (textbook)."""
    bare = replace(OFF, car_a=0.0, idle_a=0.0)
    most_w = 12.6**2 / 4 / (0.0045 + 0.008)
    dipped(bare, np.full(5, most_w * 0.999))
    with pytest.raises(NoOperatingPoint):
        dipped(bare, np.full(5, most_w * 1.001))
    with pytest.raises(OutOfRange):
        dipped(replace(OFF, loop_ohm=0.0), BEATS)
    with pytest.raises(OutOfRange):
        burst(100.0, 0.0, 0.0, 0.1, 1.0)


def test_an_alternator_holds_its_voltage_until_its_limit() -> None:
    """Small loads leave the post where the regulator holds it; a large one pulls it down to the battery's own voltage
    less what that gives; the field lags, so even a large enough alternator lets the first moment through.
    """
    small = dipped(CAR, burst(60.0, 0.5, 1.0, 0.5, 3.0))
    assert small.before_v == pytest.approx(14.2)
    assert at(small.post_v, 1.4) == pytest.approx(14.2, abs=0.01)
    large = dipped(CAR, burst(700.0, 0.5, 3.0, 0.5, 3.0))
    through_a = (at(large.post_v, 2.9) - at(large.amplifier_v, 2.9)) / CAR.loop_ohm
    assert at(large.post_v, 2.9) == pytest.approx(12.6 - 0.0045 * (through_a + 25.0 - 55.0), abs=1e-3)
    big = dipped(replace(CAR, alternator_a=200.0), burst(700.0, 0.5, 3.0, 0.5, 3.0))
    assert big.lowest_post_v < 13.0
    assert at(big.post_v, 2.9) == pytest.approx(14.2, abs=0.01)
    quick = dipped(replace(CAR, alternator_a=200.0, lag_s=0.0), burst(700.0, 0.5, 3.0, 0.5, 3.0))
    assert at(quick.post_v, 0.51) == pytest.approx(14.2, abs=0.05)


def test_the_circuit_is_the_cars() -> None:
    """Rest, label, loop, car, regulator and alternator at idle are the facts of the job; the note draws what the
    amplifier draws at full level less what it idles with.
    """
    two = next(n for n, job in enumerate(demo_jobs()) if job.title.startswith("Two amplifiers"))
    design = demo_design(two)
    result = evaluate(design).results
    study = result.dip
    assert isinstance(study, DipStudy)
    supply, circuit, worst = design.vehicle.supply, study.circuit, study.supply
    first = supply.batteries[0]
    assert circuit.rest_v == supply.post_resting_v.value
    assert circuit.inner_ohm == battery_resistance_ohm(first.cca_a.value or 0.0, first.cranking_standard)
    assert circuit.loop_ohm == worst.figures["loop"].value
    assert (circuit.car_a, circuit.regulated_v) == (supply.car_draw_a.value, supply.post_running_v.value)
    assert circuit.alternator_a == pytest.approx((supply.alternator_rating_a.value or 0.0) * 0.5)
    current, idle = worst.figures["current"].value, worst.part.idle_current_a  # type: ignore[union-attr]
    draws_w = worst.figures["voltage"].value * (current - idle)
    (other,) = [s for s in result.supplies if not s.is_main and s is not worst]
    full_a, rests_a = other.figures["current"].value or 0.0, other.part.idle_current_a  # type: ignore[union-attr]
    beat = burst(1.0, 0.25, 0.5, 0.5, 2.5)
    others_a = rests_a + (full_a - rests_a) * beat  # the other amplifier plays the same note
    both = {piece.id for piece in worst.segments} & {piece.id for piece in other.segments}
    shared_ohm = sum(piece.resistance_ohm for piece in worst.segments if piece.id in both)
    assert shared_ohm > 0.0005, "the main run and the way back are passed by both"
    alone = dipped(circuit, draws_w * beat, others_a, shared_ohm * others_a)
    assert study.now.dip.lowest_amplifier_v == pytest.approx(alone.lowest_amplifier_v, abs=1e-9)
    assert study.now.dip.lowest_amplifier_v < dipped(circuit, draws_w * beat, others_a).lowest_amplifier_v - 0.01
    assert study.now.dip.lowest_post_v < dipped(circuit, draws_w * beat).lowest_post_v
    assert study.now.light.value == pytest.approx(100 * study.now.dip.light_lost)
    assert max(s.figures["current"].value for s in result.supplies if not s.is_main) == current
    unknown = apply_edits(design, [Edit(path="vehicle/supply/car_draw_a/value", value=None)])
    assert evaluate(unknown).results.dip == "Not known yet: the car's own draw, everything on."
    cart = next(n for n, job in enumerate(demo_jobs()) if "cart" in job.title)
    assert isinstance(evaluate(demo_design(cart)).results.dip, str)


@pytest.mark.parametrize("second", [None, BESIDE, FEEDING], ids=["one battery", "another beside", "another feeds"])
def test_the_netlist_of_a_dip_gives_the_same_volts(second: SecondBattery | None) -> None:
    """Alternator with lag and limit, another amplifier beside, a shared piece, a capacitor, one battery or two:
    ngspice solves what is written, within 0.5 %, and the light is lost as long as it says.
    """
    circuit = replace(CAR, capacitor=Capacitor(1.0, 0.004), second=second)
    others_a, far_a = 3 + BEATS / 40, (5 + BEATS / 60) * (second is not None)
    loads = (others_a, 0.002 * others_a, far_a)
    ask_s = [0.3, 0.56, 0.6, 0.745, 0.8, 1.245, 1.6, 1.9]
    found = dipped(circuit, BEATS, *loads)
    wanted = ngspice_text(dip_netlist(circuit, BEATS, *loads, "dip", ask_s))
    mine = [v for t in ask_s for v in (at(found.amplifier_v, t), at(found.post_v, t))]
    assert mine == pytest.approx(wanted, rel=0.005)
    dim = (found.post_v / found.before_v) ** 3.4 < 0.95
    assert found.dim_for(0.05) == pytest.approx(dim.mean())
    assert 0.05 < dim.mean() < 0.95


def test_a_battery_far_behind_is_none_and_one_beside_is_half() -> None:
    """A second battery behind a very high resistance changes nothing; of two alike joined by nothing, each gives half
    (parallel sources, textbook), whichever of them feeds.
    """
    alone = dipped(OFF, BEATS)
    far = dipped(replace(OFF, second=replace(BESIDE, join_ohm=1e6)), BEATS)
    assert far.amplifier_v == pytest.approx(alone.amplifier_v, abs=1e-4)
    joined = replace(BESIDE, rest_v=OFF.rest_v, inner_ohm=OFF.inner_ohm, join_ohm=1e-9)
    halved = dipped(replace(OFF, inner_ohm=OFF.inner_ohm / 2), BEATS)
    for feeds in (False, True):
        found = dipped(replace(OFF, second=replace(joined, feeds=feeds)), BEATS)
        assert found.post_v == pytest.approx(halved.post_v, abs=1e-6)
        assert found.amplifier_v == pytest.approx(halved.amplifier_v, abs=1e-6)
    more = remedied(replace(CAR, second=FEEDING))["one more battery beside it"]
    assert more.second is not None
    assert (more.second.inner_ohm, more.inner_ohm) == (FEEDING.inner_ohm / 2, CAR.inner_ohm)


def test_how_loud_music_is_against_a_spectrum() -> None:
    """A sine of full scale is full power (AES17, from memory); of 40 and 1000 Hz together the bass is what a
    spectrum has below 100 Hz; a step is a twentieth of a second.
    """
    rate, step = 8000, 0.05
    t = np.arange(4 * rate) / rate
    whole, bass = envelopes(np.sin(2 * np.pi * 1000 * t), rate, step)
    assert len(whole) == 80
    assert whole == pytest.approx(np.ones(80), abs=1e-6)
    assert bass[5:].max() < 1e-3
    both = 0.5 * np.sin(2 * np.pi * 40 * t) + 0.3 * np.sin(2 * np.pi * 1000 * t)
    whole, bass = envelopes(np.stack([both, both], 1), rate, step)
    spectrum = 2 * np.abs(np.fft.rfft(both)) ** 2 / len(both) ** 2 / 0.5
    below = spectrum[np.fft.rfftfreq(len(both), 1 / rate) < 100].sum()
    assert whole[10:].mean() == pytest.approx(spectrum.sum(), rel=1e-3)
    assert bass[10:].mean() == pytest.approx(below, rel=0.01)


def test_music_loads_each_amplifier_with_its_own_part_of_it() -> None:
    """The subwoofer's amplifier plays the bass alone, class AB draws by level and not by power, gains that push past
    full power make it louder and never more than full.
    """
    music = Music(name="made up", whole=(1000, 250, 40), bass=(500, 250, 0))
    assert list(levels(music, True, False)[::50]) == pytest.approx([0.5, 0.25, 0.0])
    assert list(levels(music, False, False)[::50]) == pytest.approx([1.0, 0.25, 0.04])
    assert list(levels(music, False, True)[::50]) == pytest.approx([1.0, 0.5, 0.2])
    assert list(levels(music, True, False, 6.0206)[::50]) == pytest.approx([1.0, 1.0, 0.0], abs=1e-4)
    assert len(levels(music, True, False)) == 150
    two = next(n for n, job in enumerate(demo_jobs()) if job.title.startswith("Two amplifiers"))
    quiet = Edit(path="use/music", value={"name": "quiet", "whole": [20] * 40, "bass": [10] * 40})
    loud = Edit(path="use/music", value={"name": "loud", "whole": [1000] * 40, "bass": [1000] * 40})
    lows = []
    for edit in (quiet, loud):
        found = evaluate(apply_edits(demo_design(two), [edit])).results.music_dip
        assert isinstance(found, DipStudy)
        lows.append(found.now.post.value or 0.0)
    note = evaluate(demo_design(two)).results.dip
    assert isinstance(note, DipStudy)
    assert lows[0] > lows[1] + 0.1
    assert lows[1] == pytest.approx(note.now.post.value or 0.0, abs=0.02), "full all the time is a note that lasts"
    for one in note.mended:
        gained = (one.post.value or 0.0) - (note.now.post.value or 0.0)
        assert one.gains is not None
        assert one.gains.value == pytest.approx(1e5 * gained / (one.price or 1.0))


def test_what_each_remedy_is_good_for() -> None:
    """A capacitor holds the first milliseconds and nothing of a quarter second; thicker cables help the amplifier, not
    the lights; a second battery helps both; light follows the 3.4th power of the lamp's voltage (from memory).
    """
    now, mended = dipped(CAR, BEATS), {k: dipped(c, BEATS) for k, c in remedied(CAR).items()}
    cables, farad = mended["cables of twice the copper"], mended["a capacitor of 1 F"]
    assert cables.lowest_amplifier_v > now.lowest_amplifier_v + 0.1
    assert cables.lowest_post_v == pytest.approx(now.lowest_post_v, abs=0.05)
    assert at(farad.amplifier_v, 0.503) > at(now.amplifier_v, 0.503) + 0.3
    assert farad.lowest_amplifier_v == pytest.approx(now.lowest_amplifier_v, abs=0.06)
    assert mended["one more battery beside it"].lowest_post_v > now.lowest_post_v + 0.03
    assert now.light_lost == pytest.approx(1 - (now.lowest_post_v / 14.2) ** 3.4)
    assert list(burst(5.0, 0.002, 0.002, 0.001, 0.008)) == [0, 0, 5, 5, 0, 5, 5, 0]
