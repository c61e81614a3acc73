"""A tweeter whose place is too shallow goes into its cup, on the surface. Common practice, no source."""

from __future__ import annotations

from ohmack.core.build.full_size import templates
from ohmack.core.build.step_making import generated
from ohmack.core.document import Design, Intake
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.parts import Driver
from ohmack.core.document.policy import Policy
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.evaluation.door import evaluate
from ohmack.core.figures.finding import Finding
from ohmack.core.planning.part_added import added
from ohmack.core.planning.remedies import edits_of
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.demo.building import catalogue, measured


def car(depth_mm: float, cup_mm: float | None) -> Design:
    design = new_design("t", new_vehicle("Pallister", "Teal", 2018, Body.SALOON, Hand.LEFT), Intake(), Policy())
    for name in ("Morrowick W65 woofer, pair", "Morrowick T25 tweeter, pair"):
        tree = next(t for t in catalogue() if t["name"] == name)
        design = apply_edits(design, added(design, tree | {"cup_height_mm": cup_mm} if "T25" in name else tree))
    places = [s.id for s in design.vehicle.speakers if "pillar" in s.id]
    facts = [
        measured(f"vehicle/speakers/{place}/{what}_mm", value)
        for place in places
        for what, value in (("depth", depth_mm), ("trim_clearance", 15.0))
    ]
    return apply_edits(design, facts)


def fit(design: Design) -> list[Finding]:
    found = evaluate(design).findings
    return [f for f in found if f.rule == "fit" and "pillar" in f.title]


def tweeter(design: Design) -> Driver:
    return next(p for p in design.parts_of(Driver) if p.role == "tweeter")


def test_too_shallow_a_pillar_and_a_cup() -> None:
    """18 mm of tweeter, 3 mm spare wanted, 6 mm there: no ring of the 4 mm that are left in front helps. One press
    mounts it on the surface; then no hole is cut, nothing is asked of the pillar, and a look is asked for.
    """
    design = car(6.0, 27.0)
    stops = fit(design)
    assert [f.title.partition(":")[2] for f in stops] == [" depth behind, 12 mm missing"] * 2
    assert {f.remedy.label for f in stops if f.remedy} == {"Mount it in its cup, on the surface"}
    assert (
        len([d for d in templates(evaluate(design).results) if d.name.startswith("New opening")]) == 1
    )  # one for both
    after = apply_edits(design, edits_of(design, stops[0].remedy))
    assert tweeter(after).in_cup
    assert not fit(after)
    answer = evaluate(after)
    assert {f.state for f in answer.results.fits if f.in_cup} == {"eye"}, "nothing was measured, so nothing is good"
    (said,) = [f for f in answer.findings if f.rule == "in-its-cup"]
    assert said.text.startswith("27 mm stand out.")
    assert not [d for d in templates(answer.results) if d.name.startswith("New opening")]
    blank = apply_edits(after, [Edit(path=f"vehicle/speakers/{p}/depth_mm", value={}) for p in tweeter(after).at_ids])
    assert not [f for f in evaluate(blank).findings if f.rule == "fact-missing" and "pillar" in f.title]
    steps = [s for s in generated(answer.results) if "in its cup on the surface" in s.what]
    assert len(steps) == 2
    assert not [s for s in steps if "hole or pod" in s.what]


def homeless(design: Design) -> dict[str, str]:
    found = (f for f in evaluate(design).findings if f.rule == "driver-homeless")
    return {f.about: f.remedy.label for f in found if f.remedy is not None}


def test_what_goes_nowhere_is_asked_for_a_place_or_taken_out_where_none_is_left() -> None:
    """A ring goes under a speaker and wants no place of its own; a third pair has no place in a car of two."""
    design = car(40.0, 27.0)
    woofer = next(p for p in design.parts_of(Driver) if p.role == "woofer")
    bare = apply_edits(design, [Edit(path=f"parts/{woofer.id}/at_ids", value=[])])
    assert homeless(bare) == {woofer.id: "Say where"}
    ring = {"id": "ring", "kind": "mounting ring", "name": "Ring", "outer_mm": 165.0, "opening_mm": 142.0,
            "thickness_mm": 12.0}  # fmt: skip
    places = [s.id for s in design.vehicle.speakers]
    full = apply_edits(bare, [
        Edit(path=f"parts/{tweeter(design).id}/at_ids", value=places), Edit(op="add", path="parts", value=ring),
    ])  # fmt: skip
    assert homeless(full) == {woofer.id: "Take it out", "ring": "Say where"}


def test_without_a_cup_another_is_looked_for_and_a_woofer_never_sits_in_one() -> None:
    assert {f.remedy.sheet for f in fit(car(6.0, None)) if f.remedy} == {"find"}
    design = car(40.0, 27.0)
    woofer = next(p for p in design.parts_of(Driver) if p.role == "woofer")
    after = apply_edits(design, [Edit(path=f"parts/{woofer.id}/on_surface", value=True)])
    assert [f.checks for f in evaluate(after).results.fits] == [f.checks for f in evaluate(design).results.fits]
