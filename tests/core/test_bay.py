"""The bay plan against a grid of minutes: no two cars in one place, work as long as it is, the first free place."""

from __future__ import annotations

from datetime import date

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from ohmack.core.build.bay import Hours, Visit, clashes, free_place, hours_of, pieces
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.policy import Policy
from ohmack.core.errors import NotPossible
from ohmack.core.evaluation.door import evaluate
from ohmack.core.planning.booking import book, unbook, visit_of
from ohmack.demo.jobs import demo_design

MONDAY = date(2026, 11, 30).toordinal()
HOURS = Hours(8 * 60, 17 * 60, False, 2)
DAY = 24 * 60


@st.composite
def visits(draw: st.DrawFn, most: int = 5) -> list[Visit]:
    return [
        Visit(
            f"J-{n}", "t", float(draw(st.integers(0, 1500))), draw(st.integers(1, 2)),
            MONDAY + draw(st.integers(0, 6)), draw(st.integers(0, 23)) * 60 + draw(st.sampled_from([0, 15, 30])),
        )
        for n in range(draw(st.integers(1, most)))
    ]  # fmt: skip


def grid(stands: list[Visit], hours: Hours, days: int = 60) -> np.ndarray:
    """How many cars stand in each bay in each minute: a car works one minute after the other while the shop is open."""
    taken = np.zeros((hours.bays + 1, days * DAY), int)
    for visit in stands:
        left, at = round(visit.work_min), (visit.day - MONDAY) * DAY + visit.minute
        while left > 0:
            day, minute = divmod(at, DAY)
            weekday = date.fromordinal(MONDAY + day).weekday()
            if (weekday < 5 or (weekday == 5 and hours.saturday)) and hours.opens_min <= minute < hours.closes_min:
                taken[visit.bay, at] += 1
                left -= 1
            at += 1
    return taken


@given(visits(), st.booleans())
def test_where_cars_stand_and_which_clash_against_every_minute(stands: list[Visit], saturday: bool) -> None:
    hours = Hours(8 * 60, 17 * 60, saturday, 2)
    taken = np.zeros((3, 60 * DAY), int)
    for visit in stands:
        found = pieces(visit, hours)
        assert sum(p.to_min - p.from_min for p in found) == round(visit.work_min)
        for p in found:
            taken[p.bay, (p.day - MONDAY) * DAY + p.from_min : (p.day - MONDAY) * DAY + p.to_min] += 1
    assert (taken == grid(stands, hours)).all()
    named = {c.jobs for c in clashes(stands, hours) if len(c.jobs) == 2}
    for a in range(len(stands)):
        for b in range(a + 1, len(stands)):
            both = grid([stands[a]], hours) * grid([stands[b]], hours)
            assert ((stands[a].job, stands[b].job) in named) == bool(both.any())


@given(visits(), st.integers(30, 900), st.integers(0, 3))
def test_the_first_free_place_is_free_and_the_first(stands: list[Visit], work: int, parts: int) -> None:
    """Every quarter hour before it clashes in every bay, by the grid."""
    assume(not any(c for c in clashes(stands, HOURS) if len(c.jobs) == 2))
    wanted = Visit("new", "t", float(work), parts_day=MONDAY + parts, waits_for=("amplifier",))
    found = free_place(stands, wanted, HOURS, MONDAY)
    others = grid(stands, HOURS)

    def free(bay: int, at: int) -> bool:
        tried = Visit("new", "t", float(work), bay, MONDAY + at // DAY, at % DAY)
        return not (grid([tried], HOURS) * others).any()

    here = (found.day - MONDAY) * DAY + found.minute
    assert free(found.bay, here)
    assert found.day >= MONDAY + parts
    assert HOURS.is_open(found.day)
    for at in range(parts * DAY, here, 15):
        if HOURS.is_open(MONDAY + at // DAY) and HOURS.opens_min <= at % DAY < HOURS.closes_min:
            assert not any(free(bay, at) for bay in (1, 2)), at
    assert not any(free(bay, here) for bay in range(1, found.bay))


def test_what_does_not_go_together_is_named() -> None:
    def said(**more: object) -> list[str]:
        usual: dict[str, object] = {"bay": 1, "day": MONDAY, "minute": 480}
        return [c.words for c in clashes([Visit("J-1", "t", 600.0, **{**usual, **more})], HOURS)]

    assert said() == []
    assert said(bay=3) == ["J-1 is booked into bay 3: there are 2"]
    assert said(day=MONDAY + 5) == ["J-1 comes in on a day the shop is closed"]
    assert said(minute=7 * 60) == ["J-1 comes in while the shop is closed"]
    assert said(parts_day=MONDAY + 2, waits_for=("Tessel", "a ring")) == [
        "J-1 comes in 2 days before Tessel and a ring"
    ]
    assert said(no_date=("Tessel",)) == ["J-1: nobody knows when Tessel will be here"]
    assert said(due=MONDAY) == ["J-1 is ready 1 day after it was promised"]
    assert said(due=MONDAY + 1) == []
    with pytest.raises(NotPossible, match="Nobody knows when Tessel"):
        free_place([], Visit("J-1", "t", 60.0, no_date=("Tessel",)), HOURS, MONDAY)


def test_a_job_stands_for_its_steps_and_waits_for_its_parts() -> None:
    """Upper ends, by hand: the table's steps are done before; two at work need no less than the longest chain."""
    design = demo_design(0)
    plan = evaluate(design).results.work_plan
    inside = [p.step for p in plan.steps if not p.step.id.startswith(("table-", "cut-cables"))]
    assert plan.bay_min(1) == pytest.approx(sum(s.high_min for s in inside))
    assert plan.bay_min(2) < plan.bay_min(1)
    lead = [Edit(path=f"parts/{p.id}/lead_days", value=n) for n, p in enumerate(design.parts, 2)]
    leads = apply_edits(design, [*lead, *book(design, 2, "2026-12-01T09:30", "2026-12-04", 2)])
    visit = visit_of(evaluate(leads), "J-1", "t", MONDAY, (MONDAY + 1, 570), MONDAY + 4)
    assert (visit.bay, visit.work_min, visit.parts_day) == (2, plan.bay_min(2), MONDAY + 1 + len(design.parts))
    assert not visit.no_date
    here = apply_edits(leads, [Edit(path=f"parts/{p.id}/stands", value="here") for p in design.parts])
    assert visit_of(evaluate(here), "J-1", "t", MONDAY, None, None).parts_day is None
    assert visit_of(evaluate(design), "J-1", "t", MONDAY, None, None).no_date == tuple(p.name for p in design.parts)
    assert apply_edits(leads, unbook(leads)).work.booking is None
    at_work = [Visit("J-9", "t", 60.0, 1, MONDAY, 600)]
    later = free_place(at_work, Visit("J-1", "t", 30.0), Hours(480, 1020, False, 1), MONDAY, 590)
    assert (later.day, later.minute) == (MONDAY, 660), "not before now, nor while another stands there"
    for wrong in ({"bay": 13}, {"people": 3}, {"bay": 0}):
        with pytest.raises(NotPossible):
            book(design, **wrong)
    usual = hours_of(Policy(opens_h=7.5, closes_h=16.25, saturday="open", bays=3))
    assert (usual.opens_min, usual.closes_min, usual.saturday, usual.bays) == (450, 975, True, 3)
    assert hours_of(Policy(opens_h=9.5, closes_h=9.0)).day_min == 60


def test_a_car_booked_without_any_work_is_named() -> None:
    """It takes no minute of a bay, and must not vanish for it."""
    empty = Visit("J-7", "t", 0.0, 1, MONDAY, 480)
    assert pieces(empty, HOURS) == []
    assert [c.words for c in clashes([empty], HOURS)] == ["J-7 is booked, and has no work planned yet"]
