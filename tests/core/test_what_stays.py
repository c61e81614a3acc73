"""What was in the car before: it is judged like the rest, and nothing of it is bought, cut, laid or fixed again."""

from __future__ import annotations

import pytest

from ohmack.core.build.steps import Phase
from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.parts import HeadUnit
from ohmack.core.evaluation.answer import Evaluation
from ohmack.core.evaluation.door import evaluate
from ohmack.core.planning.copying import as_it_was_built
from ohmack.core.planning.placing import place_part
from ohmack.core.planning.remedies import edits_of
from ohmack.core.planning.wiring import connect_everything
from ohmack.demo.building import catalogue
from ohmack.demo.jobs import demo_design, demo_jobs
from ohmack.formats.design_file import read_design, write_design

CARS = range(len(demo_jobs()))
BOUGHT = {"Parts", "Fuses", "Wire", "Rings", "Ties and loom", "Ends and joints"}


def put(path: str, value: object) -> Edit:
    return Edit(path=path, value=value)


def built(number: int) -> Evaluation:
    """A demo car as its job left it, with nothing left for later."""
    design = demo_design(number)
    later = [Edit(op="remove", path=f"parts/{p.id}") for p in design.parts if p.phase.value == "later"]
    return evaluate(as_it_was_built(apply_edits(design, later), "More work"))


def said(evaluation: Evaluation) -> set[tuple[str, str]]:
    """The stops and watches, but for those on what a person does in the bay."""
    return {(f.rule, f.about) for f in evaluation.findings if f.severity.value != "note" and not f.caution}


@pytest.mark.parametrize("number", CARS)
def test_a_car_as_it_was_built_asks_for_nothing_again(number: int) -> None:
    again = built(number)
    assert read_design(write_design(again.design)) == again.design
    results = again.results
    assert not [row for row in results.order if row.group in BOUGHT and not row.unknown]
    assert (results.work_plan.steps, results.cut_list.cables, results.sundries) == ((), (), ())
    assert {line.group for line in results.quote.lines} <= {"Found in the car"}
    assert results.cost is not None
    assert results.cost.value == 0.0
    if again.design.parts and not any(f.severity.value == "stop" for f in again.findings):
        assert again.verdict.headline == "Everything is in the car"


@pytest.mark.parametrize("number", CARS)
def test_it_is_judged_as_it_was(number: int) -> None:
    """Wires and fuses that Ohmack chose are those that lie there: the same currents, losses and loads; only a thicker
    wire as a cure for lamps that dim leaves the ground lead as it is now.
    """
    before, after = evaluate(demo_design(number)), built(number)
    moved = {
        name: (figure.value, after.figures[name].value)
        for name, figure in before.figures.items()
        if name in after.figures and not name.startswith(("cable/", "cost", "charging/wire"))
        and figure.value != after.figures[name].value and figure.value != pytest.approx(after.figures[name].value)
    }  # fmt: skip
    if all(p.phase.value == "now" for p in before.design.parts):
        if any(before.design.parts_of(HeadUnit)):  # its line outputs are what is picked up from now on
            moved.pop("pickup", None)
        assert moved == {}
        gone = said(before) - said(after)
        assert {rule for rule, _ in gone} <= OF_THE_WORK, gone
        assert {rule for rule, _ in said(after) - said(before)} == set()


OF_THE_WORK = {"adapter-missing", "radio-unjoined", "cost-over-budget", "wire-on-reel", "fuse-bought", "lead-missing",
               "splice-on-reversible", "drilled-on-reversible", "quote-changed",
               "fit", "screws-over-hole", "box-space-unknown"}  # fmt: skip


def test_a_car_wired_in_square_millimetres_and_counted_strands_is_kept_as_it_was() -> None:
    edits = [put("policy/wire_system", "mm2"), put("links/power-amp/wire/strand_count", 1050),
             put("links/power-amp/wire/strand_diameter_mm", 0.16)]  # fmt: skip
    design = apply_edits(demo_design(0), edits)
    again = as_it_was_built(design, "More work")
    assert read_design(write_design(again)) == again
    power, ground, speaker = (
        next(k for k in again.links if k.id == name).wire for name in ("power-amp", "ground-amp", "speaker-sub")
    )
    assert (power.size, ground.strand_count) == (None, 1050)  # strands say it, and the ground lead is as its run
    assert speaker.size is not None
    assert speaker.size.endswith("mm2")
    before, after = evaluate(design).figures, evaluate(again).figures
    assert before["amp/drop_v"].value == pytest.approx(after["amp/drop_v"].value)
    assert before["speaker-sub/loss_db"].value == pytest.approx(after["speaker-sub/loss_db"].value)


def estate_built() -> Design:
    return as_it_was_built(demo_design(0), "More work")


def test_an_amplifier_beside_one_that_stays_brings_only_its_own_work() -> None:
    design = estate_built()
    tree = next(t for t in catalogue() if t["name"] == "Tessel Four 70")
    design = apply_edits(design, place_part(design, tree))
    new = design.parts[-1]
    design = apply_edits(design, connect_everything(design, new.id))
    results = evaluate(design).results
    fixed = {s.step.part_ids for s in results.work_plan.steps if s.step.kind == "fix-part"}
    assert (new.id,) in fixed
    assert not {(part.id,) for part in design.parts if part.in_car} & fixed
    laid = {s.step.id.removeprefix("lay-") for s in results.work_plan.steps if s.step.phase is Phase.LAY}
    ours = {link.id for link in design.links if not link.in_car}
    assert laid & {link.id for link in design.links} <= ours
    assert {cable.row.link_id for cable in results.cut_list.cables} <= ours
    assert [row.what for row in results.order if row.group == "Parts"] == [new.name]
    words = [s.step.what for s in results.work_plan.steps if s.step.kind == "look-over"]
    assert words == ["Look over what was there before and stays, 7 parts and 7 cables: rings tight, jackets whole,"
                     " fuses as noted"]  # fmt: skip


def test_an_amplifier_in_place_of_one_is_joined_to_the_cables_that_stay() -> None:
    design = apply_edits(estate_built(), [put("parts/amp/stands", "wanted")])
    results = evaluate(design).results
    steps = {s.step.id: s.step for s in results.work_plan.steps}
    assert {"fix-amp", "join-amp", "battery-off", "battery-on", "dead-checks"} <= steps.keys()
    assert steps["join-amp"].what.startswith("Connect Tessel M500: speakers, power, ground")
    assert not [name for name in steps if name.startswith(("lay-", "drill-", "ground-", "look-ground", "fix-fuse"))]
    assert "off-rear" in steps  # it stands behind the seats
    assert "off-radio" not in steps  # nothing is done there
    assert [row.what for row in results.order if row.group in BOUGHT] == ["Tessel M500"]


def test_a_fuse_too_big_for_what_lies_there_is_changed_without_laying_anew() -> None:
    """A 100 A fuse before the 4 AWG that lies there: one press, and one fuse is bought and put in."""
    design = apply_edits(estate_built(), [put("links/power-amp/fuse/rating_a", 150.0)])
    evaluation = evaluate(design)
    found = next(f for f in evaluation.findings if f.about == "power-amp" and f.severity.value == "stop")
    assert found.remedy is not None
    after = evaluate(apply_edits(design, edits_of(design, found.remedy)))
    assert after.design.links[0].in_car or next(k for k in after.design.links if k.id == "power-amp").in_car
    assert [row.what for row in after.results.order if row.group in BOUGHT] == ["Bolt-down strip 60 A"]
    last = next(s.step for s in after.results.work_plan.steps if s.step.id == "main-fuse")
    assert "60 A into what holds it now" in last.what
    assert not any(s.step.phase is Phase.LAY for s in after.results.work_plan.steps)


def test_a_cable_too_thin_is_laid_anew_by_a_press() -> None:
    edits = [put("links/power-amp/wire/size", "10 AWG"), put("links/power-amp/wire/material", "copper_clad_aluminium"),
             put("links/ground-amp/wire/size", "10 AWG"), put("links/power-amp/fuse/rating_a", 30.0)]  # fmt: skip
    design = apply_edits(estate_built(), edits)
    for _ in range(6):
        evaluation = evaluate(design)
        stops = [f for f in evaluation.findings if f.severity.value == "stop" and f.remedy and f.remedy.edits]
        if not stops:
            break
        assert stops[0].remedy is not None
        design = apply_edits(design, edits_of(design, stops[0].remedy))
    power = next(k for k in design.links if k.id == "power-amp")
    assert not power.in_car
    assert not [f for f in evaluation.findings if f.severity.value == "stop"]
    steps = {s.step.id: s.number for s in evaluation.results.work_plan.steps}
    assert steps["battery-off"] < steps["old-power-amp"] < steps["main-fuse"]
    assert "lay-power-amp" in steps
    assert any(row.group == "Wire" and row.note.startswith("power") for row in evaluation.results.order)


def test_cables_of_a_part_that_stays_are_said_to_lie_there_by_one_press() -> None:
    design = apply_edits(demo_design(0), [put(f"parts/{p.id}/stands", "already in the car")
                                          for p in demo_design(0).parts])  # fmt: skip
    notes = [f for f in evaluate(design).findings if f.rule == "laid-for-what-stays"]
    for found in notes:
        assert found.remedy is not None
        design = apply_edits(design, edits_of(design, found.remedy))
    assert all(link.in_car for link in design.links)
    asked = {(f.rule, f.about): f.severity.value for f in evaluate(design).findings if f.severity.value != "note"}
    assert asked == {
        ("fact-missing", "links/power-amp/wire/size"): "stop", ("fact-missing", "links/ground-amp/wire/size"): "stop",
        ("coils-unread", "speaker-sub"): "stop", ("fact-missing", "links/speaker-sub/wire/size"): "watch",
        ("fact-missing", "links/feed-converter/wire/size"): "watch",
        ("fuse-unread", "power-amp"): "watch", ("fuse-unread", "feed-converter"): "watch",
    }  # fmt: skip
    assert evaluate(design).figures["amp/drop_v"].value is None
    fuses = [row.protects for row in evaluate(design).results.fuse_rows]
    assert "the lead that lies there to Sprig LC2 active" in fuses  # no size is named that nobody read
    assert not [words for words in fuses if "AWG" in words]
    steps = {s.step.id for s in evaluate(design).results.work_plan.steps}
    assert {"main-fuse", "fuse-feed-converter"} <= steps  # nobody read the fuses either: Ohmack's choice is put in
    assert not [name for name in steps if name.startswith(("lay-", "fix-", "join-", "off-", "ground-"))]
    read = [put("links/power-amp/wire/size", "4 AWG"), put("links/ground-amp/wire/size", "4 AWG"),
            put("links/power-amp/fuse/rating_a", 60.0), put("links/feed-converter/fuse/rating_a", 5.0),
            put("links/speaker-sub/wiring", evaluate(demo_design(0)).results.loads[0].chosen.key)]  # fmt: skip
    done = evaluate(apply_edits(design, read))
    assert (done.results.work_plan.steps, done.verdict.headline) == ((), "Everything is in the car")


def test_what_was_planned_for_later_is_fitted_by_one_press_once_today_is_in_the_car() -> None:
    """The first job says nothing of it; the next stage begins with a press, and no trim is off before that."""
    number = next(n for n, job in enumerate(demo_jobs()) if job.title.startswith("One driver now"))
    assert not [f for f in evaluate(demo_design(number)).findings if f.rule == "stage-due"]
    assert evaluate(demo_design(number)).results.prepare
    design = as_it_was_built(demo_design(number), "Now the amplifier")
    before = evaluate(design)
    assert before.verdict.headline == "Everything is in the car"
    assert before.results.prepare == ()
    (due,) = [f for f in before.findings if f.rule == "stage-due"]
    assert due.title == "Planned for later: Tessel M300"
    assert due.remedy is not None
    fitted = evaluate(apply_edits(design, edits_of(design, due.remedy)))
    assert not [f for f in fitted.findings if f.rule == "stage-due"]
    assert "power-amp" in {s.link.id for s in fitted.results.supplies}
    assert "fix-amp" in {p.step.id for p in fitted.results.work_plan.steps}
