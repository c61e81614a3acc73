"""A day with the car: the alternator over speed, the charge over a drive, listening and standing, against scipy and
against the textbook's battery.
"""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import solve_ivp
from scipy.optimize import brentq

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.errors import OutOfRange
from ohmack.core.evaluation.door import evaluate
from ohmack.core.physics.charging import battery_lasts_h
from ohmack.core.physics.energy import (
    Burst,
    Cell,
    Leg,
    alternator_a,
    driven,
    enough_ah,
    even_percent,
    listening_h,
    parked_days,
    used_a,
)
from ohmack.core.planning.music import average_percent
from ohmack.core.supply.dip_study import DipStudy
from ohmack.core.supply.energy import Energy
from ohmack.demo.building import documented, measured

S = "vehicle/supply"


@given(st.floats(50, 250), st.floats(0.25, 0.9))
def test_the_curve_goes_through_both_points_its_maker_states_and_bends_downwards(rated_a: float, share: float) -> None:
    """ISO 8854 states output at idle and at rated speed (from memory); between them it rises ever slower."""
    at = [alternator_a(rated_a, share * rated_a, n, 800, 2200) for n in np.linspace(800, 2200, 15)]
    assert at[0] == pytest.approx(share * rated_a, rel=1e-6)
    assert at[-1] == rated_a
    rises = np.diff(at)
    assert (rises > 0).all()
    assert (np.diff(rises) < 1e-9 * rated_a).all()
    assert alternator_a(rated_a, share * rated_a, 400, 800, 2200) == 0.0


def test_an_output_at_idle_no_alternator_has_is_refused() -> None:
    for idle_a in (20.0, 119.0, 130.0):
        with pytest.raises(OutOfRange):
            alternator_a(120, idle_a, 1500, 800, 2200)


@given(st.floats(20, 120), st.floats(0.5, 80), st.floats(0.1, 0.9))
def test_a_steady_current_lasts_as_peukert_says_and_bursts_never_longer_than_their_mean(
    capacity_ah: float, current_a: float, keep: float
) -> None:
    steady = listening_h(capacity_ah, [Burst(1.0, current_a)], keep, 1.2)
    assert steady == pytest.approx(battery_lasts_h(capacity_ah, current_a, 1 - keep, 1.2))
    bursts = listening_h(capacity_ah, [Burst(0.125, 8 * current_a), Burst(0.875, 0.0)], keep, 1.2)
    assert bursts <= steady * (1 + 1e-9)
    assert steady <= (1 - keep) * capacity_ah / current_a * (1 + 1e-9), "more than the rated capacity is promised"


@given(st.floats(1, 40), st.floats(0.5, 60), st.floats(0.1, 5), st.floats(0.05, 0.9), st.floats(0.1, 0.9))
def test_the_capacity_that_would_do_is_the_least_that_plays_so_long(
    hours: float, loud_a: float, quiet_a: float, share: float, keep: float
) -> None:
    bursts = [Burst(share, loud_a), Burst(1 - share, quiet_a)]
    ah = enough_ah(hours, bursts, keep, 1.2)
    assert ah == pytest.approx(brentq(lambda c: listening_h(c, bursts, keep, 1.2) - hours, 0.01, 1e6), rel=1e-6)


@given(st.floats(30, 120), st.floats(0.005, 0.5), st.floats(1e-4, 0.01), st.floats(0.2, 0.8))
def test_standing_is_the_differential_equation_of_draw_and_loss(
    capacity_ah: float, standby_a: float, per_day: float, keep: float
) -> None:
    days = parked_days(capacity_ah, standby_a, per_day, keep)
    solved = solve_ivp(lambda _, q: -24 * standby_a - per_day * q, (0, days), [capacity_ah], rtol=1e-9, atol=1e-9)
    assert solved.y[0, -1] == pytest.approx(keep * capacity_ah, rel=1e-5)
    assert parked_days(capacity_ah, standby_a, 0.0, keep) == pytest.approx((1 - keep) * capacity_ah / standby_a / 24)


def test_a_drive_is_the_sum_of_what_goes_in_and_what_is_used_up() -> None:
    """The same bookkeeping as a differential equation by scipy: idling at a loss, then charging into a battery that
    takes less and less.
    """
    cell = Cell(60.0, 0.8, 0.2, 0.9, 1.2)
    drawn = (Burst(0.25, 90.0), Burst(0.75, 30.0))
    legs = [Leg(20, 45.0, drawn), Leg(60, 100.0, drawn)]

    def slope(minute: float, q: np.ndarray[tuple[int, ...], np.dtype[np.float64]]) -> list[float]:
        given = 45.0 if minute < 20 else 100.0
        takes = 12.0 * min(1.0, (1 - q[0]) / 0.2)
        rate = 0.0
        for burst in drawn:
            over = given - burst.current_a
            rate += burst.share * (0.9 * min(over, takes) if over >= 0 else -used_a(-over, 60.0, 1.2))
        return [rate / 60 / 60]

    solved = solve_ivp(slope, (0, 80), [0.8], max_step=0.2, rtol=1e-8)
    found = driven(legs, cell)
    assert found.charge[-1] == pytest.approx(float(solved.y[0, -1]), abs=1e-3)
    assert found.charge[20] < 0.8 < found.charge[-1], "idling takes, driving gives"
    assert driven([Leg(6000, 0.0, drawn)], cell).charge[-1] == 0.0
    assert driven([Leg(6000, 200.0, drawn)], cell).charge[-1] == pytest.approx(1.0, abs=1e-3)


def test_the_even_programme_is_where_the_change_is_nothing() -> None:
    assert even_percent(lambda p: 7.0 - 0.5 * p) == pytest.approx(14.0)
    assert even_percent(lambda p: -1.0 - p) == 0.0
    assert even_percent(lambda p: 90.0 - 0.1 * p) == 100.0


def energy_of(design: Design) -> Energy:
    found = evaluate(design).results.energy
    assert found is not None
    return found


@pytest.fixture
def charged(estate: Design) -> Design:
    known = [documented(f"{S}/batteries/battery/capacity_ah", 70.0), measured(f"{S}/car_draw_a", 50.0)]
    return apply_edits(estate, [*known, documented(f"{S}/alternator_rating_a", 110.0)])


def test_a_drive_of_this_car_is_the_one_done_by_hand(charged: Design) -> None:
    """Winter: 0.85 × 70 Ah, begun at 80 %; town and road 6, 14 and 25 minutes. At idle 55 A against 50 A of the car
    and music in bursts; what lacks is used up by Peukert's law, what is left goes in with nine tenths.
    """
    supply = next(s for s in evaluate(charged).results.supplies)
    full = supply.figures["current"].value or 0.0
    idle_a = 0.8  # of this amplifier
    capacity_ah, q = 0.85 * 70.0, 0.8
    for minutes, given_a in ((6, 55.0), (14, alternator_a(110, 55, 1700, 800, 2200)), (25, 110.0)):
        for _ in range(minutes):
            rate = 0.0
            for share, amps in ((0.125, full), (0.875, idle_a)):
                over = given_a - 50.0 - amps
                takes = 0.1 * capacity_ah * min(1.0, (1 - q) / 0.2)
                lost = max(-over, 0.0)
                if -over > capacity_ah / 20:
                    lost = capacity_ah / 20 * (-over / (capacity_ah / 20)) ** 1.2
                rate += share * (0.9 * min(over, takes) if over > 0 else -lost)
            q += rate / 60 / capacity_ah
    winter = energy_of(charged).season("winter")
    assert winter is not None
    assert winter.change.value == pytest.approx(100 * (q - 0.8), rel=1e-6)


def test_what_makes_a_drive_worse_makes_the_figure_worse(charged: Design) -> None:
    def change(*edits: Edit, season: str = "winter") -> float:
        found = energy_of(apply_edits(charged, edits)).season(season)
        assert found is not None
        return found.change.value or 0.0

    usual = change()
    assert change(season="summer") > usual
    assert change(Edit(path="use/programme_percent", value=33.0)) < usual
    assert change(Edit(path="use/trip", value="town, 20 minutes")) < usual
    assert change(documented(f"{S}/alternator_rating_a", 90.0)) < usual
    assert change(documented(f"{S}/alternator_idle_a", 75.0)) > usual, "a known output at idle replaces the usual half"
    loud = apply_edits(
        charged,
        [
            Edit(path="use/programme_percent", value=40.0), Edit(path="use/trip", value="town, 20 minutes"),
            documented(f"{S}/alternator_rating_a", 70.0),
        ],
    )  # fmt: skip
    said = [f for f in evaluate(loud).findings if f.rule == "usual-drive"]
    assert len(said) == 1
    assert f"{-(energy_of(loud).seasons[0].change.value or 0):.0f} %" in said[0].title
    assert not [f for f in evaluate(charged).findings if f.rule == "usual-drive"]


def test_nothing_is_reckoned_without_the_battery_s_capacity(estate: Design) -> None:
    energy = energy_of(estate)
    assert energy.seasons == ()
    assert "capacity" in energy.lacks
    assert not [name for name in evaluate(estate).results.book.figures if name.startswith("energy/")]
    off = evaluate(estate).results.engine_off
    assert off is not None
    assert off.listening[0].hours.value is None
    assert off.listening[0].hours.missing


def test_listening_counts_the_bursts_the_radio_and_what_is_kept(charged: Design) -> None:
    results = evaluate(charged).results
    assert results.engine_off is not None
    off_a = results.book.figures["amp/engine_off_a"].value
    assert off_a is not None
    used = 0.125 * used_a(off_a + 4.0, 70.0, 1.2) + 0.875 * used_a(0.8 + 4.0, 70.0, 1.2)
    hours = results.engine_off.listening[0].hours.value
    assert hours == pytest.approx(0.5 * 70.0 / used)
    careful = evaluate(apply_edits(charged, [Edit(path="use/reserve_percent", value=80.0)])).results.engine_off
    assert careful is not None
    kept = careful.listening[0].hours.value
    assert kept == pytest.approx(0.4 * (hours or 0.0))


def test_standing_rests_on_the_first_battery_the_standby_and_what_is_kept(charged: Design) -> None:
    found = apply_edits(
        charged, [measured(f"{S}/standby_current_a", 0.03), Edit(path="use/reserve_percent", value=60.0)]
    )
    off = evaluate(found).results.parked
    assert off is not None
    assert off.days.value == pytest.approx(parked_days(70.0, 0.03, 0.002, 0.6))
    assert "Tessel M500" in off.silent, "its papers do not say"
    papers = apply_edits(found, [Edit(path="parts/amp/standby_a", value=0.02)])
    more = evaluate(papers).results.parked
    assert more is not None
    assert more.days.value == pytest.approx(parked_days(70.0, 0.05, 0.002, 0.6))
    assert more.before.value == off.days.value
    assert "Tessel M500" not in more.silent


def test_a_known_output_at_idle_is_the_budgets_and_the_dips_too_and_an_impossible_one_is_said(charged: Design) -> None:
    """One alternator in all three; one that gives at idle what it is rated for is no curve, and nothing is judged."""
    known = evaluate(apply_edits(charged, [documented(f"{S}/alternator_idle_a", 70.0)])).results
    assert known.budget is not None
    assert known.budget.value("idle") == pytest.approx(70.0)
    assert isinstance(known.dip, DipStudy)
    assert known.dip.circuit.alternator_a == pytest.approx(70.0)
    odd = evaluate(apply_edits(charged, [documented(f"{S}/alternator_idle_a", 110.0)])).results
    assert odd.energy is not None
    assert odd.energy.seasons == ()
    assert "allowed is" in odd.energy.lacks
    assert not [name for name in odd.book.figures if name.startswith("energy/")]


def test_what_the_car_draws_while_somebody_listens_is_the_one_that_was_read(estate: Design) -> None:
    """4 A where nobody read it (common practice); a battery gives less the faster it is emptied: twice the current,
    less than half the hours (Peukert).
    """
    known = apply_edits(
        estate, [Edit(path="vehicle/supply/batteries/battery/capacity_ah", value={"value": 70.0, "basis": "measured"})]
    )

    def hours(draws_a: float | None) -> float:
        read = {"value": draws_a, "basis": "measured"}
        edits = [] if draws_a is None else [Edit(path="vehicle/supply/key_on_a", value=read)]
        off = evaluate(apply_edits(known, edits)).results.engine_off
        assert off is not None
        return float(off.listening[0].hours.value)

    assert hours(4.0) == pytest.approx(hours(None))
    assert hours(400.0) / hours(800.0) == pytest.approx(2**1.2, rel=0.03), "beside so much the music is nothing"
    assert hours(2.0) > hours(4.0) > hours(8.0)


def test_what_is_new_and_draws_asleep_is_said_where_it_takes_the_three_weeks(charged: Design) -> None:
    """70 Ah to half, 0.2 % a day lost: a car of 40 mA stands 33 days, with 30 mA more 20 (calculus, as above). Without
    the battery's label only what is new is held against 50 mA for a whole car asleep.
    """
    car = apply_edits(charged, [measured(f"{S}/standby_current_a", 0.04)])
    for standby_a, said in ((0.0, 0), (0.02, 0), (0.03, 1), (0.2, 1)):
        answer = evaluate(apply_edits(car, [Edit(path="parts/amp/standby_a", value=standby_a)]))
        assert answer.results.parked is not None
        days = answer.results.parked.days.value
        assert days == pytest.approx(parked_days(70.0, 0.04 + standby_a, 0.002, 0.5))
        found = [f for f in answer.findings if f.rule == "parked"]
        assert len(found) == said == (days < 21)
        assert all(f"after {days:.0f} days, 33 without" in f.title for f in found)
    label = [Edit(path=f"{S}/batteries/battery/capacity_ah/value", value=None)]
    for standby_a, said in ((0.05, 0), (0.051, 1)):
        draws = Edit(path="parts/amp/standby_a", value=standby_a)
        assert len([f for f in evaluate(apply_edits(car, [*label, draws])).findings if f.rule == "parked"]) == said


def test_music_averages_as_the_gains_push_it(estate: Design) -> None:
    """Set 3 dB past full power a half comes to 99.8 % of it (10^0.3 is 1.995), and nothing comes to more than all."""
    music = {"name": "Song", "whole": [500, 250, 800, 0], "bass": [500]}
    for over_db, shares in ((0.0, (0.5, 0.25, 0.8, 0.0)), (3.0, (0.9976, 0.4988, 1.0, 0.0))):
        loud = [Edit(path="use/music", value=music), Edit(path="policy/overlap_db", value=over_db)]
        assert average_percent(apply_edits(estate, loud)) == pytest.approx(100 * sum(shares) / 4, rel=1e-4)
    assert average_percent(estate) is None
