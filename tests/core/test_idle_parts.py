"""A part that does nothing is said: it is bought and charged all the same."""

from __future__ import annotations

import pytest

from odd_plans import odd_plan
from ohmack.core.build.fuse_places import fuse_places
from ohmack.core.document import Design
from ohmack.core.document.boxed import boxed
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.evaluation.door import evaluate
from ohmack.core.figures.finding import BESIDE
from ohmack.core.planning.part_added import added
from ohmack.core.planning.parts_tried import taking
from ohmack.core.planning.remedies import edits_of
from ohmack.demo.building import catalogue
from ohmack.demo.jobs import demo_design, demo_jobs

TREES = {tree["name"]: tree for tree in catalogue()}
RADIO = "Quillon S2 screen radio"
LEADS = "Sprig line leads for works amplifiers"


def beside(*names: str) -> Design:
    """The estate with more parts."""
    design = demo_design(0)
    for name in names:
        design = apply_edits(design, added(design, dict(TREES[name])))
    return design


def idle(design: Design) -> list[str]:
    return [f.title.partition(":")[0] for f in evaluate(design).findings if f.rule == "part-idle"]


@pytest.mark.parametrize("number", range(len(demo_jobs())))
def test_no_demo_car_has_a_part_it_does_not_need(number: int) -> None:
    assert idle(demo_design(number)) == []


@pytest.mark.parametrize(
    ("names", "said"),
    [
        (("Quillon aerial adapter",), ["Quillon aerial adapter"]),
        ((RADIO, "Quillon aerial adapter"), []),
        ((RADIO, "Quillon aerial adapter", "Quillon aerial adapter"), ["Quillon aerial adapter"]),
        (("Radio plug adapter, 16 way",), ["Radio plug adapter, 16 way"]),  # the pickup has one
        ((RADIO, "Radio plug adapter, 16 way"), []),  # one for the pickup, one for the radio
        (("Quillon digital aerial lead",), ["Quillon digital aerial lead"]),
        ((LEADS,), [LEADS]),
        ((RADIO, LEADS), [LEADS]),  # behind a plain radio there is no works amplifier
        (("Sprig ring coupler",), ["Sprig ring coupler"]),
        (("Hob extension loom, 20 way",), ["Hob extension loom, 20 way"]),
        (("Hob shorting plug",), ["Hob shorting plug"]),
        (("Quillon bus interface",), ["Quillon bus interface"]),
        (("Hob maxi holder",), ["Hob maxi holder"]),  # the one run has its strip holder
        (("Cooperage 45 vented",), ["Cooperage 45 vented"]),
        (("Cooperage 45 vented", "Morrowick 10 D4"), []),
        (("Hob converter 24 to 12 V, 40 A",), ["Hob converter 24 to 12 V, 40 A"]),
    ],
)
def test_what_has_a_use_and_what_has_none(names: tuple[str, ...], said: list[str]) -> None:
    """Common practice, no source."""
    design = beside(*names)
    assert idle(design) == said
    for found in [f for f in evaluate(design).findings if f.rule == "part-idle"]:
        assert found.remedy is not None
        design = apply_edits(design, edits_of(design, found.remedy))
    assert len(design.parts) == len(demo_design(0).parts) + len(names) - len(said)
    assert idle(design) == []


def test_what_a_module_lives_on_by_has_a_use() -> None:
    kept = {"id": "radio", "act": "taken out", "keep_alive": ["shorting plug"]}
    design = beside("Hob shorting plug")
    assert idle(apply_edits(design, [Edit(op="add", path="interventions", value=kept)])) == []


def test_a_relay_has_a_use_once_a_switch_on_goes_through_it() -> None:
    design = beside("Hob relay 30 A with socket")
    assert idle(design) == []
    without = [Edit(path=f"links/{k.id}/relay", value=False) for k in design.links if k.kind == "remote"]
    assert idle(apply_edits(design, without)) == ["Hob relay 30 A with socket"]


@pytest.mark.parametrize("seed", range(0, 400, 4))
def test_every_part_is_in_a_wire_in_a_place_or_spoken_of(seed: int) -> None:
    evaluation = evaluate(odd_plan(seed))
    results, design = evaluation.results, evaluation.results.design
    ends = {name for k in design.links for name in (k.to_id, getattr(k, "from_id", ""), getattr(k, "through_id", ""))}
    held = {thing.id for box, subs in boxed(design) if subs for thing in (box, *subs)}
    about = {f.about.removeprefix("parts/").split("/")[0] for f in evaluation.findings if not f.caution}
    said = " ".join(f.title for f in evaluation.findings if not f.caution)
    has_fuses = bool(fuse_places(results)) or any(feed.link.fuse for feed in results.feeds)
    has_fuses = has_fuses or (design.vehicle.above_12_v and bool(results.pack_feeds))
    for part in design.parts:
        if part.in_car or part.kind == "wire" or (part.kind == "fuse holder" and has_fuses):
            continue
        if part.kind == "accessory" or part.kind == "switching relay":
            continue  # by what they are, above
        used = part.id in ends | held or getattr(part, "at_ids", ()) or getattr(part, "in_line_id", None)
        assert used or part.id in about or part.name in said, part


def offered_for(title: str, name: str) -> dict[str, str]:
    """What is offered for a part that was picked beside what a demo car has, by the rule that says something of it."""
    number = next(n for n, job in enumerate(demo_jobs()) if job.title == title)
    design = demo_design(number)
    tree = next(t for t in catalogue() if t["name"] == name)
    known = {part.id for part in design.parts}
    after = apply_edits(design, taking(design, tree, BESIDE))
    found = evaluate(after).findings
    new = {part.id for part in after.parts} - known
    return {f.rule: f.remedy.label for f in found if f.about in new and f.remedy is not None}


def test_what_there_is_nothing_to_wire_to_is_taken_out_or_waits_for_its_amplifier() -> None:
    """A press that can do nothing is not offered: the second battery is charged already, no amplifier is there."""
    lamps = "Two amplifiers, and lamps that dim"
    assert offered_for(lamps, "Hob charging relay 100")["charge-cable-missing"] == "Take it out"
    assert offered_for("More body, nothing cut", "1 farad capacitor")["capacitor-wired"] == "Find an amplifier"
    assert offered_for(lamps, "1 farad capacitor").get("capacitor-wired") != "Find an amplifier"
