"""Boxes against published responses, a circuit simulator, and exact optima of small cases."""

from __future__ import annotations

from dataclasses import replace
from itertools import permutations
from math import inf, log10, pi, sqrt

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import integrate, signal

from ohmack.core.errors import OutOfRange
from ohmack.core.physics.alignments import (
    BESSEL_Q,
    BUTTERWORTH_Q,
    MOST_HUMP_DB,
    RANGE_HZ,
    closed_q,
    closed_resonance_hz,
    closed_volume_m3,
    flat_vented,
    tuned_box,
    tuned_for,
)
from ohmack.core.physics.box_limits import Limits, butterworth_high_pass, cabin_gain_db, filtered, headroom
from ohmack.core.physics.box_panels import BoxShape, made_of
from ohmack.core.physics.boxes import Chamber, Enclosure, Radiator, Vent, curves, lower_reach_hz, vent_length_m
from ohmack.core.physics.nesting import Panel, nest
from ohmack.core.physics.small_signal import (
    AIR_DENSITY_KG_M3,
    AIR_STIFFNESS_PA,
    SOUND_SPEED_M_S,
    SmallSignal,
    disagreements,
    isobaric,
    together,
)
from references import ngspice_text

SUB = SmallSignal(fs_hz=28.0, qms=6.0, qes=0.46, vas_m3=0.060, sd_m2=0.0330, re_ohm=3.4, le_h=0.0012, xmax_m=0.012)
PLAIN = replace(SUB, le_h=0.0)  # published responses leave the inductance out
HZ = np.geomspace(8.0, 400.0, 160)


def db(value: np.ndarray) -> np.ndarray:
    return 20 * np.log10(np.abs(value))


@settings(deadline=None, max_examples=40)
@given(q=st.floats(0.45, 1.5))
def test_a_closed_box_is_a_second_order_high_pass_of_its_q(q: float) -> None:
    """Small 1972 (from memory): s² / (s² + s ωc/Qtc + ωc²); the curve by scipy."""
    volume = closed_volume_m3(PLAIN, q)
    assert closed_q(PLAIN, volume) == pytest.approx(q)
    corner = 2 * pi * closed_resonance_hz(PLAIN, volume)
    _, published = signal.freqs([1, 0, 0], [1, corner / q, corner**2], 2 * pi * HZ)
    found = curves(PLAIN, Enclosure(Chamber(volume)), HZ, 1.0)
    assert found.response_db == pytest.approx(db(published), abs=1e-6)
    assert found.phase_rad - found.phase_rad[-1] == pytest.approx(
        np.unwrap(np.angle(published)) - np.unwrap(np.angle(published))[-1], abs=1e-6
    )
    slope = -np.gradient(np.unwrap(np.angle(published)), 2 * pi * HZ)
    assert found.group_delay_s[5:-5] == pytest.approx(slope[5:-5], rel=0.02, abs=1e-5)


@pytest.mark.parametrize(("qes", "flat"), [(0.30, True), (1.6, False)])
def test_a_small_box_is_tuned_for_reach_or_for_the_least_hump(qes: float, flat: bool) -> None:
    """Against every tuning tried by hand: the lowest reach of those without a hump, else the least hump of all."""
    driver, volume_m3 = replace(PLAIN, qes=qes), 0.025
    boxes = [tuned_box(volume_m3, driver.fs_hz * share) for share in np.geomspace(0.5, 2.0, 49)]
    found = [curves(driver, box, RANGE_HZ, 1.0) for box in boxes]
    fitting = [lower_reach_hz(one) for one in found if one.response_db.max() <= MOST_HUMP_DB]
    reaches = [reach for reach in fitting if reach]
    chosen = tuned_for(driver, volume_m3)
    assert bool(reaches) == flat
    if flat:
        assert chosen.reach_hz == pytest.approx(min(reaches))
    else:
        assert chosen.peak_db == pytest.approx(min(one.response_db.max() for one in found))


def test_the_butterworth_closed_box_is_3_db_down_at_its_resonance() -> None:
    """Qtc = 0.707: -3 dB at fc (textbook)."""
    volume = closed_volume_m3(PLAIN, BUTTERWORTH_Q)
    found = curves(PLAIN, Enclosure(Chamber(volume)), HZ, 1.0)
    assert lower_reach_hz(found, 20 * log10(sqrt(2))) == pytest.approx(closed_resonance_hz(PLAIN, volume), rel=1e-3)
    with pytest.raises(OutOfRange, match="every box raises it"):
        closed_volume_m3(PLAIN, PLAIN.qts)


@settings(deadline=None, max_examples=60)
@given(volume=st.floats(0.015, 0.2), tuning=st.floats(18, 60), ql=st.floats(3, 30))
def test_a_vented_box_is_the_fourth_order_high_pass_of_its_coefficients(
    volume: float, tuning: float, ql: float
) -> None:
    """Small 1973 (from memory): a1, a2, a3 from h, α, QL and Qts; the curve by scipy."""
    h, alpha, q = tuning / PLAIN.fs_hz, PLAIN.vas_m3 / volume, PLAIN.qts
    root = sqrt(h) * ql * q
    a1, a3 = (ql + h * q) / root, (h * ql + q) / root
    a2 = (h + (alpha + 1 + h * h) * ql * q) / (h * ql * q)
    w0 = 2 * pi * sqrt(PLAIN.fs_hz * tuning)
    _, published = signal.freqs([1, 0, 0, 0, 0], [1, a1 * w0, a2 * w0**2, a3 * w0**3, w0**4], 2 * pi * HZ)
    found = curves(PLAIN, tuned_box(volume, tuning, ql), HZ, 1.0)
    assert found.response_db == pytest.approx(db(published), abs=0.02)


def test_the_closed_boxes_are_named_by_the_filters_they_are() -> None:
    """Q of a second-order section is the pole's distance over twice its real part: scipy's Bessel and Butterworth."""
    for q, poles in ((BESSEL_Q, signal.bessel(2, 1, analog=True, output="zpk")[1]),
                     (BUTTERWORTH_Q, signal.butter(2, 1, analog=True, output="zpk")[1])):  # fmt: skip
        assert q == pytest.approx(abs(poles[0]) / (-2 * poles[0].real), rel=1e-6)


def test_the_butterworth_vented_box_is_that_of_the_handbooks() -> None:
    """B4, lossless: Qts 0.383, Vas/V = √2, fb = fs = f3 (Thiele's first alignment, from memory)."""
    driver = replace(PLAIN, qms=1e6, qes=1 / 2.6131)
    found = flat_vented(driver, ql=1e7)
    assert driver.vas_m3 / found.volume_m3 == pytest.approx(sqrt(2), rel=2e-3)
    assert found.tuning_hz == pytest.approx(driver.fs_hz, rel=2e-3)
    assert found.reach_hz == pytest.approx(driver.fs_hz, rel=6e-3)
    assert found.peak_db < 0.01
    with pytest.raises(OutOfRange, match="flat vented box"):
        flat_vented(replace(PLAIN, qes=1.2))


@pytest.mark.parametrize(("qts", "ql"), [(0.28, 7.0), (0.33, 7.0), (0.33, 15.0), (0.2, 5.0)])
def test_a_flat_vented_box_with_losses_has_the_polynomial_of_its_alignment(qts: float, ql: float) -> None:
    """Small's fourth-order high-pass with leakage (1973, from memory), its coefficients made from volume and tuning as
    they come out: |G|² has no term of the sixth and none of the fourth power.
    """
    driver = replace(PLAIN, qms=1e6, qes=qts)
    found = flat_vented(driver, ql=ql)
    h, alpha = found.tuning_hz / driver.fs_hz, driver.vas_m3 / found.volume_m3
    a1 = (ql + h * qts) / (sqrt(h) * ql * qts)
    a2 = (h + (alpha + 1 + h * h) * ql * qts) / (h * ql * qts)
    a3 = (h * ql + qts) / (sqrt(h) * ql * qts)
    assert a1 * a1 - 2 * a2 == pytest.approx(0.0, abs=1e-3)
    assert a2 * a2 + 2 - 2 * a1 * a3 == pytest.approx(0.0, abs=1e-3)
    assert found.peak_db < 0.05


def circuit(driver: SmallSignal, volume: float, vent: Vent, ql: float, front: tuple[float, Vent] | None = None) -> str:
    """The same driver and box as volts and amperes: force is a voltage, velocity a current, air behind a gyrator-free
    transformer of the cone's area.
    """
    cab = volume / AIR_STIFFNESS_PA
    fb = 1 / (2 * pi * sqrt(vent.mass_kg_m4 * cab))
    lines = [
        "* driver and box", "v1 in 0 dc 0 ac 1", f"r1 in a {driver.re_ohm}", f"l1 a b {driver.le_h}",
        "vi b c 0", f"he c 0 vm {driver.bl_tm}", f"hm m0 0 vi {driver.bl_tm}", "vm m0 m1 0",
        f"lm m1 m2 {driver.mms_kg}", f"cm m2 m3 {driver.cms_m_n}", f"rm m3 m4 {driver.rms_kg_s}",
        f"em m4 m5 p 0 {driver.sd_m2}", f"fa 0 p vm {driver.sd_m2}", f"ca p 0 {cab}",
        f"ra p 0 {ql / (2 * pi * fb * cab)}", "vv p q 0", f"lv q 0 {vent.mass_kg_m4}",
    ]  # fmt: skip
    if front is None:
        lines += ["vg m5 0 0", "ro 0 x 1", f"fo 0 x vm {driver.sd_m2}", f"bo y 0 v={driver.sd_m2}*i(vm)-i(vv)"]
    return "\n".join([
        *lines, ".ac lin 1 {f} {f}", ".control", "set numdgt=12", "run", "let z = abs(1/i(vi))",
        "let u = abs(i(vm))", "let w = abs(i(vv))", f"let o = abs(p * {cab} * 2 * pi * {{f}})",
        "print z", "print u", "print w", "print o", ".endc", ".end",
    ])  # fmt: skip


@pytest.mark.parametrize("hz", [18.0, 27.0, 36.0, 60.0, 130.0])
def test_a_vented_box_is_what_a_circuit_simulator_makes_of_its_parts(hz: float) -> None:
    """ngspice solves coil, cone, air, leak and vent as one circuit: impedance, cone, vent and level agree."""
    vent = Vent(area_m2=0.0079, length_m=0.22, count=1)
    found = curves(SUB, Enclosure(Chamber(0.045, vent, 7.0)), np.array([hz]), 1.0)
    impedance, cone, air, out = ngspice_text(circuit(SUB, 0.045, vent, 7.0).replace("{f}", repr(hz)))
    assert found.impedance_ohm[0] == pytest.approx(impedance, rel=1e-3)
    assert found.excursion_m[0] == pytest.approx(sqrt(2) * cone / (2 * pi * hz), rel=1e-3)
    assert found.air_speed_m_s[0] == pytest.approx(sqrt(2) * air / vent.whole_area_m2, rel=1e-3)
    pressure = AIR_DENSITY_KG_M3 * hz * out  # far field over a floor at 1 m: p = ρ f U
    assert found.level_db[0] == pytest.approx(20 * log10(pressure / 20e-6), abs=0.01)


def test_level_far_above_resonance_is_the_reference_efficiency() -> None:
    """η0 = 4π² fs³ Vas / (c³ Qes); 1 W makes 112.2 dB + 10 log η0 at 1 m over a floor (textbook, 112 from memory)."""
    efficiency = 4 * pi**2 * PLAIN.fs_hz**3 * PLAIN.vas_m3 / (SOUND_SPEED_M_S**3 * PLAIN.qes)
    found = curves(PLAIN, Enclosure(Chamber(0.05)), np.array([4000.0]), sqrt(PLAIN.re_ohm))
    assert found.level_db[0] == pytest.approx(112.2 + 10 * log10(efficiency), abs=0.15)


def test_at_rest_the_cone_moves_as_its_springs_let_it_and_two_move_as_one_of_double_area() -> None:
    """Bl V / Re over suspension and air in parallel (textbook statics); two drivers at equal volts are 6 dB louder,
    isobaric ones halve the box.
    """
    volume = 0.03
    found = curves(PLAIN, Enclosure(Chamber(volume)), np.array([0.05]), 10.0)
    stiff = 1 / PLAIN.cms_m_n + AIR_STIFFNESS_PA * PLAIN.sd_m2**2 / volume
    assert found.excursion_m[0] == pytest.approx(sqrt(2) * PLAIN.bl_tm * 10 / PLAIN.re_ohm / stiff, rel=1e-4)
    one = curves(SUB, Enclosure(Chamber(0.03)), HZ, 10.0)
    two = curves(together(SUB, 2), Enclosure(Chamber(0.06)), HZ, 10.0)
    assert two.level_db - one.level_db == pytest.approx(np.full(len(HZ), 20 * log10(2)), abs=1e-9)
    assert two.excursion_m == pytest.approx(one.excursion_m)
    assert two.impedance_ohm == pytest.approx(one.impedance_ohm / 2)
    half = curves(isobaric(SUB), Enclosure(Chamber(0.015)), HZ, 10.0)
    assert half.response_db == pytest.approx(one.response_db, abs=1e-9)


def test_a_passive_radiator_of_soft_suspension_is_a_vent_of_its_mass() -> None:
    """Mass over area squared is a vent's acoustic mass; a suspension tunes it higher and makes a notch (textbook)."""
    vent = Vent(area_m2=0.0079, length_m=0.30, ends=0.0)
    soft = Radiator(area_m2=0.05, mass_kg=vent.mass_kg_m4 * 0.05**2, vas_m3=1e6, qms=1e9)
    by_vent = curves(SUB, Enclosure(Chamber(0.045, vent)), HZ, 1.0)
    by_cone = curves(SUB, Enclosure(Chamber(0.045, soft)), HZ, 1.0)
    assert by_cone.response_db == pytest.approx(by_vent.response_db, abs=1e-3)
    held = replace(soft, vas_m3=0.08)
    notch = sqrt(AIR_STIFFNESS_PA / 0.08 * 0.05**2 / held.mass_kg) / (2 * pi)
    tuned = Chamber(0.045, held).tuning_hz
    assert tuned is not None
    assert tuned > notch
    at_notch = curves(SUB, Enclosure(Chamber(0.045, replace(held, qms=50.0))), np.array([notch, tuned]), 1.0)
    assert at_notch.response_db[0] < at_notch.response_db[1] - 15


def test_a_bandpass_box_passes_a_band_and_its_upper_side_is_the_vent() -> None:
    """Fourth order: 12 dB an octave on both sides (textbook); the cone rests at the vent's tuning."""
    box = Enclosure(Chamber(0.030), Chamber(0.030, Vent(0.008, 0.10), ql=1e6))
    far = curves(PLAIN, box, np.array([4.0, 8.0, 600.0, 1200.0]), 1.0).response_db
    assert far[1] - far[0] == pytest.approx(12, abs=0.7)
    assert far[2] - far[3] == pytest.approx(12, abs=0.7)
    tuning = box.front.tuning_hz if box.front else None
    assert tuning is not None
    around = curves(PLAIN, box, np.array([0.8, 1.0, 1.25]) * tuning, 1.0)
    assert around.excursion_m[1] < 0.2 * min(around.excursion_m[0], around.excursion_m[2])


@settings(deadline=None, max_examples=60)
@given(volume=st.floats(0.01, 0.3), tuning=st.floats(20, 60), diameter=st.floats(0.05, 0.15), count=st.integers(1, 3))
def test_a_vent_of_the_computed_length_tunes_the_box(volume: float, tuning: float, diameter: float, count: int) -> None:
    """L = 23562.5 d² N / (fb² V) - 0.732 d in cm and litres, a formula of many handbooks (from memory)."""
    area = pi * diameter**2 / 4
    length = vent_length_m(volume, tuning, area, count)
    handbook = 23562.5 * (100 * diameter) ** 2 * count / (tuning**2 * 1000 * volume) - 0.732 * 100 * diameter
    assert 100 * length == pytest.approx(handbook, abs=0.01 * (abs(handbook) + 73.2 * diameter))
    if length > 0:
        assert Chamber(volume, Vent(area, length, count)).tuning_hz == pytest.approx(tuning)


def test_the_best_tuning_of_a_volume_is_no_worse_than_any_other_of_as_small_a_hump() -> None:
    """By an own search over tunings."""
    found = tuned_for(SUB, 0.05)
    for tuning in np.geomspace(0.5, 2.0, 23) * SUB.fs_hz:
        other = curves(SUB, tuned_box(0.05, tuning), HZ, 1.0)
        if other.response_db.max() <= 2.9:
            assert found.reach_hz <= (lower_reach_hz(other) or inf) * 1.01


def test_the_least_of_the_limits_binds_at_every_frequency() -> None:
    """Heat holds where the cone is calm, travel at the bottom; at the most, exactly one limit is reached."""
    box = Enclosure(Chamber(0.045, Vent(0.0079, 0.22)))
    found = filtered(curves(SUB, box, HZ, 40.0), butterworth_high_pass(HZ, 25.0, 24))
    most = headroom(found, Limits(heat_w=500.0, nominal_ohm=4.0, xmax_m=0.012, volts=38.0))
    scale = most.volts / 40.0
    reached = np.array([
        most.volts**2 / 4.0 / 500.0, found.excursion_m * scale / 0.012, found.air_speed_m_s * scale / 17.0,
        most.volts / 38.0,
    ])  # fmt: skip
    assert reached.max(axis=0) == pytest.approx(np.where(reached.max(axis=0) < 1, reached.max(axis=0), 1.0))
    order = ("heat", "travel", "vent", "volts")
    assert all(reached[order.index(name), k] > 1 - 1e-6 or name == "heat" for k, name in enumerate(most.binds))
    assert {"travel", "volts"} <= set(most.binds)
    assert most.level_db == pytest.approx(found.level_db + 20 * np.log10(scale))


def test_a_cabin_adds_12_db_an_octave_below_its_length_and_stops() -> None:
    """Pressure in a small chamber follows displacement (textbook): +12 dB an octave."""
    gain = cabin_gain_db(np.array([0.001, 5.0, 10.0, 1000.0]), 1.0, most_db=90.0)
    assert gain[1] - gain[2] == pytest.approx(12, abs=0.3)
    assert gain[0] == pytest.approx(90, abs=0.1)
    assert gain[3] == pytest.approx(0, abs=0.3)
    assert cabin_gain_db(np.array([0.001]), 1.0) == pytest.approx(
        18, abs=0.1
    )  # leaks hold it: common practice, no source


def test_papers_that_contradict_themselves_are_named_with_both_values() -> None:
    """Qts from Qms and Qes, moving mass from fs, Vas and Sd (textbook)."""
    assert disagreements(SUB, qts=SUB.qts, mms_kg=1.1 * SUB.mms_kg, bl_tm=SUB.bl_tm) == ()
    (wrong,) = disagreements(SUB, qts=0.75, mms_kg=SUB.mms_kg)
    assert (wrong.quantity, wrong.stated, round(wrong.follows, 3)) == ("qts", 0.75, 0.427)


BLOCK = BoxShape(bottom_m=0.40, top_m=0.40, width_m=0.60, height_m=0.35, board_m=0.018)


def test_wood_and_air_of_a_block_make_its_outside_and_a_wedge_is_cut_at_a_slant() -> None:
    """Geometry; a wedge's air by integration over its height (scipy)."""
    made = made_of(replace(BLOCK, fronts=2))
    assert made.gross_m3 + made.wood_m3 == pytest.approx(0.40 * 0.60 * 0.35)
    assert made.centre_height_m == pytest.approx(0.175)
    whole, air = 0.40 * 0.60 * 0.35, made.gross_m3  # a solid block less the block of air, the double front before it
    middle_of_air = 0.036 + (0.40 - 0.036 - 0.018) / 2
    assert made.centre_from_front_m == pytest.approx((whole * 0.2 - air * middle_of_air) / (whole - air))
    wedge = replace(BLOCK, top_m=0.22)
    lean = sqrt(0.18**2 + 0.35**2) / 0.35
    assert made_of(wedge).gross_m3 == pytest.approx(
        integrate.quad(lambda z: 0.564 * (0.40 - 0.18 * z / 0.35 - 0.018 - 0.018 * lean), 0.018, 0.332)[0]
    )
    back = next(p for p in made_of(wedge).panels if p.name == "back")
    assert back.width_m == pytest.approx(0.314 * lean)
    assert made_of(wedge).centre_height_m < 0.175
    for wrong in (replace(BLOCK, height_m=0.03), replace(BLOCK, top_m=0.5), replace(BLOCK, board_m=0.0)):
        with pytest.raises(OutOfRange):
            made_of(wrong)


@pytest.mark.parametrize("heard_hz", [[], [0.0, 40.0], [-1.0, 40.0]])
def test_no_box_is_heard_at_no_frequency(heard_hz: list[float]) -> None:
    with pytest.raises(OutOfRange):
        curves(PLAIN, Enclosure(Chamber(0.03)), np.array(heard_hz), 10.0)


def best_boards(panels: list[Panel], length: float, width: float, saw: float) -> int:
    """Exact: every order, every turn, both first cuts and every free rectangle, by search."""
    best = len(panels)

    def place(left: tuple[Panel, ...], free: tuple[tuple[float, float], ...], boards: int) -> None:
        nonlocal best
        if boards >= best and left:
            return
        if not left:
            best = min(best, boards)
            return
        panel, rest = left[0], left[1:]
        for a, b in {(panel.length_m, panel.width_m), (panel.width_m, panel.length_m)}:
            for k, (along, across) in enumerate((*free, (length, width))):
                if a > along + 1e-9 or b > across + 1e-9:
                    continue
                others = free[:k] + free[k + 1 :]
                right, up = max(0.0, along - a - saw), max(0.0, across - b - saw)
                place(rest, (*others, (right, b), (along, up)), boards + (k == len(free)))
                place(rest, (*others, (right, across), (a, up)), boards + (k == len(free)))

    for order in set(permutations(panels)):
        place(order, (), 0)
    return best


@settings(deadline=None, max_examples=12)
@given(sizes=st.lists(st.tuples(st.integers(2, 9), st.integers(2, 7)), min_size=2, max_size=4))
def test_small_cut_plans_take_no_more_boards_than_the_exact_optimum(sizes: list[tuple[int, int]]) -> None:
    """Against an exhaustive search; every panel inside its board, none over another, the saw between them."""
    panels = [Panel(f"p{n}", a / 10, b / 10) for n, (a, b) in enumerate(sizes)]
    found = nest(panels, 1.0, 0.8, 0.003)
    assert found.boards == best_boards(panels, 1.0, 0.8, 0.003)
    assert sorted(p.panel.name for p in found.placed) == sorted(p.name for p in panels)
    for one in found.placed:
        assert {round(one.along_m, 9), round(one.across_m, 9)} == {one.panel.length_m, one.panel.width_m}
        assert one.x_m + one.along_m <= 1 + 1e-9
        assert one.y_m + one.across_m <= 0.8 + 1e-9
        for other in found.placed:
            apart = (
                one.x_m + one.along_m + 0.003 <= other.x_m + 1e-9 or other.x_m + other.along_m + 0.003 <= one.x_m + 1e-9
                or one.y_m + one.across_m + 0.003 <= other.y_m + 1e-9
                or other.y_m + other.across_m + 0.003 <= one.y_m + 1e-9
            )  # fmt: skip
            assert apart or one is other or one.board != other.board


def test_a_panel_keeps_its_grain_and_one_larger_than_a_board_is_refused() -> None:
    """A grained panel is never turned."""
    (placed,) = nest([Panel("side", 0.3, 0.7, grain=True)], 1.0, 0.8, 0.003).placed
    assert (placed.along_m, placed.across_m) == (0.3, 0.7)
    with pytest.raises(OutOfRange, match="no larger than a board"):
        nest([Panel("lid", 0.9, 0.9)], 1.0, 0.8, 0.003)
