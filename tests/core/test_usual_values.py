"""A part without papers: what is taken as usual, that it is said, and that what is typed in is read."""

from __future__ import annotations

from typing import Any

import pytest

from ohmack.core.document import Basis, Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.parts import PART_TYPES
from ohmack.core.document.policy import Policy
from ohmack.core.errors import OutOfRange
from ohmack.core.evaluation.door import evaluate
from ohmack.core.figures.finding import Finding
from ohmack.core.physics.supply import amplifier_current_a, power_behind_fuses_w
from ohmack.core.planning.laying import follow
from ohmack.core.planning.remedies import edits_of
from ohmack.core.planning.usual_values import usual_values
from ohmack.demo.jobs import demo_design

POLICY = Policy()


def needed(kind: str) -> set[str]:
    return {name for name, info in PART_TYPES[kind].model_fields.items() if info.is_required()}


def usual(kind: str, **typed: Any) -> dict[str, Any]:
    return usual_values(kind, typed, needed(kind) - set(typed), POLICY)


def test_power_behind_fuses_draws_what_the_fuses_carry() -> None:
    """The same balance the supply is sized by, turned round: what it gives draws the share of the fuses left to it."""
    power_w = power_behind_fuses_w(60.0, 14.4, 0.55, 0.8)
    assert power_w == pytest.approx(60.0 * 0.8 * 14.4 * 0.55)
    assert amplifier_current_a(power_w, 0.55, 0.0, True, 14.4) == pytest.approx(48.0)
    for wrong in ((0.0, 14.4, 0.5, 0.8), (60.0, 0.0, 0.5, 0.8), (60.0, 14.4, 1.1, 0.8), (60.0, 14.4, 0.5, 1.1)):
        with pytest.raises(OutOfRange):
            power_behind_fuses_w(*wrong)


@pytest.mark.parametrize(
    ("typed", "each_w"),
    [
        ({"fuses_a": [30.0, 30.0], "channel_count": 4, "amplifier_class": "AB"}, 95.0),  # 380 W in all
        ({"fuses_a": [30.0], "amplifier_class": "D"}, 275.0),  # 276 W
        ({"fuses_a": [30.0], "amplifier_class": "D", "efficiency": 0.5}, 170.0),  # 173 W
        ({"fuses_a": [40.0], "channel_count": 4, "further_count": 1, "amplifier_class": "D"}, 70.0),  # 369 W in all
    ],
)
def test_an_amplifier_gives_what_its_fuses_let_through(typed: dict[str, Any], each_w: float) -> None:
    assert usual("amplifier", **typed)["ratings"] == [{"load_ohm": 4.0, "power_w": each_w}]


def test_nothing_is_guessed_that_was_typed_or_follows_from_nothing() -> None:
    assert "ratings" not in usual("amplifier")
    assert "ratings" not in usual("amplifier", fuses_a=[1.0], channel_count=8)  # not five watts each
    assert set(usual("amplifier", fuses_a=[20.0])) == needed("amplifier") - {"id", "name"}
    assert set(usual("amplifier", lowest_load_ohm=2.0, ratings=[])) == {
        "sensitivity_low_v", "sensitivity_high_v", "terminal_area_max_mm2"}  # fmt: skip
    assert usual("amplifier", sensitivity_low_v=6.0)["sensitivity_high_v"] == 6.0  # never backwards
    assert usual("amplifier", sensitivity_high_v=0.2)["sensitivity_low_v"] == 0.2
    sizes = [usual("amplifier", fuses_a=[a])["terminal_area_max_mm2"] for a in (40.0, 40.1, 100.0, 100.1)]
    assert sizes == [8.4, 21.2, 21.2, 53.5]
    assert set(usual("driver")) == set(usual("subwoofer")) == {"power_rms_w"}  # what a ruler tells is not guessed
    assert usual("converter") == usual("box") == {}


def test_power_and_current_of_a_powered_subwoofer_follow_from_each_other() -> None:
    both = usual("powered subwoofer", fuse_a=15.0)
    assert both == {"supply_current_a": 12.0, "power_rms_w": 135.0}  # 12 A x 14.4 V x 0.8 are 138 W
    assert usual("powered subwoofer", fuse_a=30.0, power_rms_w=115.2) == {"supply_current_a": 10.0}
    assert usual("powered subwoofer", fuse_a=30.0, supply_current_a=26.0) == {"power_rms_w": 295.0}


@pytest.mark.parametrize(
    ("kind", "typed"),
    [
        ("powered subwoofer", {"fuse_a": 15.0, "power_rms_w": -5.0}),
        ("powered subwoofer", {"fuse_a": -15.0}),
        ("amplifier", {"fuses_a": [-20.0]}),
        ("amplifier", {"fuses_a": [20.0], "efficiency": 7.0}),
    ],
)
def test_what_is_no_value_makes_none(kind: str, typed: dict[str, Any]) -> None:
    assert usual(kind, **typed) == {}


def test_what_is_usual_makes_a_part() -> None:
    made = {"id": "a", "name": "A", **usual("amplifier", fuses_a=[20.0]), "fuses_a": [20.0]}
    assert PART_TYPES["amplifier"].model_validate(made | {"kind": "amplifier"})


def guessed(design: Design, *names: str) -> Design:
    return apply_edits(design, [Edit(path="parts/amp/taken_as_usual", value=list(names))])


def test_what_is_taken_as_usual_is_assumed_and_told_until_it_is_typed_in() -> None:
    design = guessed(demo_design(0), "ratings", "sensitivity_low_v")
    evaluation = evaluate(design)
    (found,) = [f for f in evaluation.findings if f.rule == "papers-silent"]
    assert found.title == "Tessel M500: 2 values nobody has read"
    assert "RMS power at 14.4 V by load; Sensitivity, most sensitive" in found.text
    assert "by a scope" in found.text
    assert found.remedy is not None
    assert found.remedy.path == "parts/amp/ratings"
    terms = {t.path: t for figure in evaluation.figures.values() for t in figure.inputs}
    assert terms["parts/amp/ratings"].basis is Basis.ASSUMED
    assert terms["parts/amp/sensitivity_high_v"].basis is Basis.DOCUMENTED
    same = [Edit(path="parts/amp/ratings", value=[r.model_dump() for r in design.parts[0].ratings])]  # type: ignore[union-attr]
    read = apply_edits(design, follow(design, same))
    assert read.parts[0].taken_as_usual == ("sensitivity_low_v",)
    (left,) = [f for f in evaluate(read).findings if f.rule == "papers-silent"]
    assert "by a scope" not in left.text
    rest = apply_edits(read, follow(read, [Edit(path="parts/amp/sensitivity_low_v", value=0.2)]))
    assert rest.parts[0].taken_as_usual == ()
    assert not [f for f in evaluate(rest).findings if f.rule == "papers-silent"]
    other = follow(design, [Edit(path="parts/amp/price", value=1.0)])
    assert apply_edits(design, other).parts[0].taken_as_usual == design.parts[0].taken_as_usual


def claimed(design: Design) -> list[Finding]:
    return [f for f in evaluate(design).findings if f.rule == "power-claimed"]


def test_a_label_that_claims_more_than_its_fuses_let_in_is_brought_down_by_a_press() -> None:
    """Energy: 15 A at 14.4 V are 216 W. Two channels of 110 W alone may be true, bridged for 300 W they are not; the
    press brings every row down by one factor, to what 0.8 of the fuses make at 80 %, and the next reading takes its
    place.
    """

    def rated(bridged_w: float) -> list[Edit]:
        bridged = [{"load_ohm": 4.0, "power_w": bridged_w}]
        values = {"channel_count": 2, "ratings": [{"load_ohm": 2.0, "power_w": 110.0}], "fuses_a": [15.0]}
        values |= {"bridged_ratings": bridged, "lowest_bridged_ohm": 4.0}
        return [Edit(path=f"parts/amp/{name}", value=value) for name, value in values.items()]

    assert not claimed(apply_edits(demo_design(0), rated(237.0)))  # 1.1 times what goes in a fuse still carries
    assert claimed(apply_edits(demo_design(0), rated(240.0)))
    alone = Edit(path="parts/amp/ratings", value=[{"load_ohm": 2.0, "power_w": 125.0}])
    assert claimed(apply_edits(demo_design(0), [*rated(200.0), alone])), "both channels together, 250 W"
    design = apply_edits(demo_design(0), rated(300.0))
    (said,) = claimed(design)
    assert said.severity == "watch"
    assert "300 W RMS claimed, 216 W go in" in said.title
    assert said.remedy is not None
    mended = apply_edits(design, edits_of(design, said.remedy))
    amplifier = mended.part("amp")
    assert [row.power_w for row in (*amplifier.ratings, *amplifier.bridged_ratings)] == [50.0, 138.0]  # x 138.24 / 300
    assert amplifier.taken_as_usual == ("ratings", "bridged_ratings")
    more = apply_edits(design, [Edit(path="parts/amp/taken_as_usual", value=["noise_dbv", "ratings"])])
    again = apply_edits(more, edits_of(more, claimed(more)[0].remedy)).part("amp")
    assert again.taken_as_usual == ("noise_dbv", "ratings", "bridged_ratings")  # what was silent before stays so
    assert not claimed(mended)
    assert [f for f in evaluate(mended).findings if f.rule == "papers-silent"]
    read = Edit(path="parts/amp/ratings", value=[{"load_ohm": 2.0, "power_w": 60.0}])
    assert apply_edits(mended, list(follow(mended, [read]))).part("amp").taken_as_usual == ("bridged_ratings",)


def test_a_powered_subwoofer_gives_no_more_than_the_current_it_draws() -> None:
    """26 A at 14.4 V are 374 W, of which a class D amplifier makes 299 W."""
    design = apply_edits(demo_design(12), [Edit(path="parts/bass/power_rms_w", value=600.0)])
    (said,) = claimed(design)
    assert said.severity == "stop"
    assert "600 W RMS claimed, 374 W go in" in said.title
    assert said.remedy is not None
    bass = apply_edits(design, edits_of(design, said.remedy)).part("bass")
    assert bass.power_rms_w == 299.0
    assert bass.taken_as_usual == ("power_rms_w",)
