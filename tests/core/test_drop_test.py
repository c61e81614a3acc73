"""The drop test: Ohm's law on the solved loop, readings judged by their resistance, one press that plans with them."""

from __future__ import annotations

import pytest

from ohmack.core.document import Design
from ohmack.core.document.drop_readings import Section
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.errors import NotPossible
from ohmack.core.evaluation.door import evaluate
from ohmack.core.planning.drop_readings import drop_reading
from ohmack.core.supply.drop_test import DropSection, DropTest
from ohmack.demo.jobs import demo_design, demo_jobs

TWO = next(n for n, job in enumerate(demo_jobs()) if job.title.startswith("Two amplifiers"))


def drops_of(design: Design) -> list[DropTest]:
    return evaluate(design).results.drop_tests


def by_section(test: DropTest) -> dict[Section, DropSection]:
    return {one.section: one for one in test.sections}


def read(design: Design, section: Section, volts: float, amps: float, who: str = "amp") -> Design:
    return apply_edits(design, drop_reading(design, who, section.value, volts, amps, "2026-11-27"))


def test_the_sections_add_up_to_the_loss(estate: Design) -> None:
    """Kirchhoff: what a meter shows round the loop is what is lost in it, to the last millivolt."""
    for design in (estate, demo_design(TWO)):
        result = evaluate(design)
        assert result.results.drop_tests
        for test in result.results.drop_tests:
            total_mv = sum(one.planned.value for one in test.sections)
            assert total_mv == pytest.approx(1000 * test.supply.figures["drop"].value)
    rows = by_section(drops_of(estate)[0])
    pieces = {s.name: s for s in evaluate(estate).results.supplies[0].segments}
    assert rows[Section.BODY].planned_ohm == pieces["Body return"].resistance_ohm
    assert rows[Section.STRAP].planned_ohm == pieces["Battery strap"].resistance_ohm
    lead = next(s for name, s in pieces.items() if name.startswith("Ground lead"))
    assert rows[Section.GROUND].planned_ohm == pytest.approx(
        lead.resistance_ohm + pieces["Negative terminal"].resistance_ohm + pieces["Ground ring"].resistance_ohm
    )


def test_behind_a_block_the_branch_fuse_lies_in_the_run() -> None:
    first, *_ = drops_of(demo_design(TWO))
    rows = by_section(first)
    fuses = [s for s in first.supply.segments if s.place.value == "fuse"]
    assert len(fuses) == 2
    post = first.supply.segments[0].resistance_ohm
    assert rows[Section.FUSE].planned_ohm == pytest.approx(post + fuses[0].resistance_ohm)
    assert rows[Section.RUN].planned_ohm > fuses[1].resistance_ohm


def test_a_reading_is_judged_by_its_resistance_whatever_current_it_was_taken_at(estate: Design) -> None:
    """U / I: 13 mV at 10 A are the 1.3 mΩ that were planned; 60 mV at 10 A are 6 mΩ, 4.7 too much."""
    planned = by_section(drops_of(estate)[0])[Section.BODY].planned_ohm
    good = by_section(drops_of(read(estate, Section.BODY, planned * 10.0, 10.0))[0])[Section.BODY]
    assert good.read is not None
    assert good.read.value == pytest.approx(planned)
    assert good.good is True
    at_the_edge = by_section(drops_of(read(estate, Section.BODY, (1.3 * planned + 0.0002) * 40, 40.0))[0])
    assert at_the_edge[Section.BODY].good is True
    bad = read(estate, Section.BODY, 0.060, 10.0)
    one = by_section(drops_of(bad)[0])[Section.BODY]
    assert one.good is False
    assert one.more_ohm == pytest.approx(0.006 - planned)
    (found,) = [f for f in evaluate(bad).findings if f.rule == "drop-test"]
    assert "6.00 mΩ, planned 1.30 mΩ" in found.title
    lost_v = 0.006 * drops_of(bad)[0].current_a
    assert f"at full load {lost_v:.2f} V are lost there alone" in found.text
    assert found.severity.value == ("stop" if lost_v - planned * drops_of(bad)[0].current_a > 0.25 else "watch")
    again = read(bad, Section.BODY, planned * 20.0, 20.0)
    assert len(again.drop_readings) == 1
    assert not [f for f in evaluate(again).findings if f.rule == "drop-test"]


def test_one_press_plans_with_what_was_read(estate: Design) -> None:
    """The body as read is in the loop from then on: the loss rises by what it has more, and nothing is too much."""
    bad = read(estate, Section.BODY, 0.024, 10.0)
    (found,) = [f for f in evaluate(bad).findings if f.rule == "drop-test"]
    assert found.remedy is not None
    planned = apply_edits(bad, list(found.remedy.edits))
    assert planned.vehicle.supply.body_return_ohm.value == pytest.approx(0.0024)
    before, after = (evaluate(d).results.supplies[0].figures["drop"].value for d in (bad, planned))
    assert after > before
    assert not [f for f in evaluate(planned).findings if f.rule == "drop-test"]
    lead = read(estate, Section.GROUND, 0.2, 10.0)
    (other,) = [f for f in evaluate(lead).findings if f.rule == "drop-test"]
    assert other.severity.value == "stop"
    assert other.remedy is not None
    assert not other.remedy.edits  # no fact of the car stands for a ring


def test_what_cannot_be_a_reading_is_refused(estate: Design) -> None:
    with pytest.raises(NotPossible, match="two points"):
        drop_reading(estate, "amp", "somewhere", 0.1, 10.0, "")
    with pytest.raises(NotPossible, match="Without a current"):
        drop_reading(estate, "amp", Section.BODY.value, 0.1, 0.0, "")
    gone = apply_edits(read(estate, Section.BODY, 0.1, 10.0), [Edit(op="remove", path="parts/amp")])
    assert gone.drop_readings == ()
