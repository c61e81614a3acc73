"""What comes out of a car: every part and cable of it on the list, battery side first, the car as it was after it.

What is undone, and in which order: common practice, no source.
"""

from __future__ import annotations

import pytest

from odd_plans import odd_plan
from ohmack.core.build.step_making import generated
from ohmack.core.build.steps import Phase
from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.links import ChargeLink, Pickup, SpeakerLink, TapLink
from ohmack.core.document.outgoing import Goes
from ohmack.core.document.parts import Accessory, CableReel, FuseLink, HeadUnit
from ohmack.core.errors import NotPossible
from ohmack.core.evaluation.door import evaluate
from ohmack.core.figures.finding import Severity
from ohmack.core.handover.car_history import CarJob, Happened, made_good, timeline
from ohmack.core.handover.leaflet import leaflet
from ohmack.core.planning.copying import as_it_was_built, onto_another_car
from ohmack.core.planning.parts_tried import taking
from ohmack.core.planning.standing import Standing, standing
from ohmack.core.planning.taking_out import all_out, everything_out, link_out, part_out, replaced
from ohmack.demo.building import catalogue
from ohmack.demo.jobs import demo_design, demo_jobs
from proving import proved

JOBS = [n for n in range(len(demo_jobs())) if any(p.phase.value == "now" for p in demo_design(n).parts)]


def built(title: str) -> Design:
    number = next(n for n, job in enumerate(demo_jobs()) if job.title.startswith(title))
    return as_it_was_built(demo_design(number), "More work")


@pytest.mark.parametrize("number", JOBS)
def test_everything_of_ours_comes_out_of_every_demo_car(number: int) -> None:
    """Every part that is not used up and every cable of its own is on the list once, under an id of its own, and in a
    step after the battery is off; what carries current from a battery says so; nothing of ours is left in the plan.
    """
    there = as_it_was_built(demo_design(number), "Out")
    out = all_out(there)
    assert (out.parts, out.links) == ((), ())
    results = evaluate(out).results
    listed = [(one.goes, one.name) for one in out.coming_out]
    for part in there.parts:
        used_up = isinstance(part, CableReel | FuseLink)
        used_up |= isinstance(part, Accessory) and part.category == "consumables"
        assert used_up or not part.in_car or (Goes.PART, part.name[:120]) in listed, part.name
    cables = [k for k in there.links if k.in_car and not (isinstance(k, SpeakerLink) and k.factory_wire)]
    assert sum(goes is Goes.CABLE for goes, _ in listed) == len(cables)
    assert sum(one.live for one in out.coming_out if one.goes is Goes.CABLE) == sum(
        k.kind in ("power", "charge", "feed") for k in cables
    )
    undone = {one.id for one in out.coming_out if one.goes is Goes.JOINT}
    for tap in (k for k in there.links_of(TapLink) if k.in_car):
        spliced = tap.method is Pickup.SPLICE
        assert ({f"pair-{name}" for name in tap.from_ids} if spliced else {f"tap-{tap.id}"}) <= undone
    steps = generated(results)
    order = {step.id: n for n, step in enumerate(steps)}
    assert {f"out-{one.id}" for one in out.coming_out if one.goes in (Goes.PART, Goes.CABLE)} <= order.keys()
    assert {f"close-{one.id}" for one in out.coming_out if one.goes is Goes.HOLE} <= order.keys()
    assert {f"undo-{one.id}" for one in out.coming_out if one.goes is Goes.JOINT} <= order.keys()
    for step in steps:
        if step.phase is Phase.OUT:
            assert "battery-off" in step.needs
            assert order[step.id] < order["dead-checks"] < order["battery-on"]
    assert "main-fuse" not in order
    assert "Everything is in the car" not in evaluate(out).verdict.headline


def test_a_car_is_as_it_was() -> None:
    """A new radio and door speakers out: the old ones go back, if somebody has them; a battery an earlier job brought
    comes out with its cable, and every post is off before.
    """
    out = all_out(built("Two amplifiers"))
    assert [b.id for b in out.vehicle.supply.batteries] == ["battery"]
    results = evaluate(out).results
    steps = {step.id: step for step in generated(results)}
    assert steps["battery-off"].what.startswith("Negative terminals of Battery and Second battery, boot off")
    assert steps["battery-on"].what == "Negative terminal on, last"
    assert "Negative off first" in steps["out-battery-2"].cautions[0]
    assert steps["instead-driver-spk-fl"].what == "The car's own speaker back into Front left door"
    assert steps["off-spk-fl"].takes_off == "Front left door panel"
    assert {"off-rear", "off-sill-left", "off-sill-right"} <= steps.keys()
    asked = [f for f in evaluate(out).findings if f.rule == "place-empty"]
    assert [f.severity for f in asked] == [Severity.WATCH] * 4
    gone = [Edit(path=f"coming_out/{one.id}/instead_is", value="not there any more") for one in out.coming_out
            if one.place == "Front left door"]  # fmt: skip
    again = evaluate(apply_edits(out, gone))
    assert [f.severity for f in again.findings if f.rule == "place-empty"].count(Severity.STOP) == 1
    assert "instead-driver-spk-fl" not in {step.id for step in generated(again.results)}
    pieces = {row.what: row.amount for row in results.order if row.group == "Ends and joints"}
    assert pieces == {  # two wires at each of four doors, one at the feed; a stud, and the charge cable's way
        "Butt splice with adhesive sleeve": "9", "Blind plug, with primer and sealer": "2"
    }  # fmt: skip
    labour = next(line for line in results.quote.lines if line.key == "labour")
    assert labour.low > 60, "an hour of it at least"
    titles = [check.check.title for gate in results.proof.gates for check in gate.checks]
    assert {"What came out left nothing open", "Front left door plays", "Warning lamps"} <= set(titles)
    assert {"Ohms of Rear left", "Polarity of Rear left door"} <= set(titles), "what is joined again is read"
    plain = evaluate(all_out(built("Hidden bass"))).results.proof
    assert not [j for gate in plain.gates for j in gate.checks if j.check.title.startswith("Ohms")], "none was cut"
    assert leaflet(results).out == (
        "Out of the car: Tessel M500, Morrowick 10 D4, Cooperage 28 closed, Tessel Four 70, Pell & Fenn Coax 65, pair,"
        " Pell & Fenn Coax 52 slim, pair, Hob two-way fused block, Hob charging relay 100, 1 farad capacitor, Hob strip"
        " holder and Second battery, boot.",
        "Made good: 5 joints and 2 holes; what and where stands in the job's papers.",
    ), "nobody said that the car's own speakers are there"
    found = [Edit(path=f"coming_out/{one.id}/instead_is", value="here") for one in out.coming_out
             if one.place.startswith("Front")]  # fmt: skip
    told = leaflet(evaluate(apply_edits(out, found)).results).out
    assert told[-1] == "The car's own is back: Front left door and Front right door."
    radio = all_out(built("Screen radio"))
    steps = {step.id: step for step in generated(evaluate(radio).results)}
    assert steps["off-radio"].what == "Quillon S2 screen radio out of the dash"
    assert steps["back-radio"].what.startswith("Factory radio back into the dash")
    assert any("Factory radio is still there" in f.title for f in evaluate(radio).findings)
    with pytest.raises(NotPossible):
        all_out(demo_design(0))


def test_one_part_comes_out_with_what_hangs_on_it_alone() -> None:
    """Of two amplifiers on one ground point and one switched feed the first leaves both to the other."""
    there = built("Two amplifiers")
    out = apply_edits(there, part_out(evaluate(there).results, "amp-2"))
    assert out.part("amp-2") is None
    assert out.part("amp") is not None
    names = [one.name for one in out.coming_out]
    assert "10 AWG cable from Hob two-way fused block to Tessel Four 70" in names
    assert not [one for one in out.coming_out if one.id in ("ground-rear", "radio-switched", "battery-2")]
    assert {one.id for one in out.coming_out if one.goes is Goes.JOINT} == {
        "wires-spk-fl", "wires-spk-fr", "wires-spk-rl", "wires-spk-rr"
    }  # fmt: skip
    last = apply_edits(out, part_out(evaluate(out).results, "amp"))
    undone = {one.id for one in last.coming_out}
    assert "radio-switched" in undone
    assert "ground-rear" not in undone, "the second battery is grounded there still"
    with pytest.raises(NotPossible):
        part_out(evaluate(demo_design(0)).results, "amp")


def test_the_way_through_the_bulkhead_is_closed_for_the_cable_that_went_through_it() -> None:
    there = built("Hidden bass")
    results = evaluate(there).results
    (crossing,) = {(c.link_id, c.passage_id) for c in results.bulkhead}
    assert crossing[0] == "power-amp"
    for link_id, holes in (("power-amp", [crossing[1]]), ("speaker-sub", []), ("line-amp", [])):
        out = apply_edits(there, link_out(results, link_id))
        assert [one.id for one in out.coming_out if one.goes is Goes.HOLE] == holes


def test_one_cable_comes_out_with_its_joint() -> None:
    """A remote lead off a feed nothing else hangs on; one that is only planned is left out instead."""
    there = built("Bass from the rear leads")
    remote = next(link for link in there.links if link.kind == "remote")
    out = apply_edits(there, link_out(evaluate(there).results, remote.id))
    assert {(one.goes, one.id) for one in out.coming_out} == {(Goes.CABLE, remote.id), (Goes.JOINT, remote.from_id)}
    assert len(out.parts) == len(there.parts)
    two = built("Two amplifiers")
    parted = apply_edits(two, link_out(evaluate(two).results, "charge-battery-2"))
    assert not any(one.is_battery for one in parted.coming_out), "the battery stays, and is named once"
    unknown = apply_edits(two, [Edit(path="vehicle/ground_points/ground-rear/kind", value={})])
    freed = next(one for one in all_out(unknown).coming_out if one.id == "ground-rear")
    assert freed.name.endswith("its hole closed, or the car's own bolt tight again")
    with pytest.raises(NotPossible):
        link_out(evaluate(demo_design(0)).results, "power-amp")


def test_what_another_takes_the_place_of_comes_out_and_leaves_its_cables() -> None:
    """A larger amplifier on the cables that lie there, a radio in the dash for the one an earlier job put in."""
    there = built("Hidden bass")
    tree = next(p for p in catalogue() if p["name"] == "Tessel M1200")
    swapped = apply_edits(there, (*replaced(evaluate(there).results, "amp"), *taking(there, tree)))
    assert [(one.id, one.goes, one.name) for one in swapped.coming_out] == [("amp", Goes.PART, "Tessel M500")]
    assert {k.id for k in swapped.links} == {k.id for k in there.links}
    steps = {step.id: step for step in generated(evaluate(swapped).results)}
    order = [*steps]
    assert order.index("out-amp") < order.index("fix-amp")
    assert replaced(evaluate(demo_design(0)).results, "amp") == ()
    there = built("Screen radio")
    unit = next(p.id for p in there.parts_of(HeadUnit))
    plain = next(p for p in catalogue() if p["name"] == "Quillon Q1 plain radio")
    swapped = apply_edits(there, (*replaced(evaluate(there).results, unit), *taking(there, plain)))
    assert [one.is_radio for one in swapped.coming_out] == [True]
    assert not [f for f in evaluate(swapped).findings if f.rule == "place-empty"], "the new one goes there"
    steps = {step.id: step for step in generated(evaluate(swapped).results)}
    assert steps["back-radio"].what.startswith("Quillon Q1 plain radio into the dash")


def test_what_came_out_is_history_and_no_part_of_the_next_job() -> None:
    out = all_out(built("Hidden bass"))
    done = proved(out)
    events = timeline([CarJob("J-1", "Out", "2026-01-01", done)])
    assert [e.words for e in events if e.kind is Happened.CHANGED] == [
        "out of the car: Tessel M500, Morrowick 10 D4, Cooperage 28 closed, Sprig LC2 active and 2 more"
    ]
    assert not [e for e in timeline([CarJob("J-1", "Out", "2026-01-01", out)]) if e.kind is Happened.CHANGED]
    good = made_good(CarJob("J-1", "Out", "2026-01-01", done))
    assert "Factory radio: plug adapter out, the car's own plugs together again" in good
    assert len(good) == sum(one.goes in (Goes.JOINT, Goes.HOLE) for one in out.coming_out)
    assert made_good(CarJob("J-1", "Out", "2026-01-01", out)) == ()
    mark = {"id": "m", "step": "close-ground-rear", "done": True, "when": "2026-01-02"}
    begun = apply_edits(out, [Edit(op="add", path="work/marks", value=mark)])
    assert [words.split(":")[0] for words in made_good(CarJob("J-1", "Out", "2026-01-01", begun))] == [
        "Stud, left rear corner"
    ]  # fmt: skip
    assert standing(out) is Standing.PLANNED
    assert standing(built("Hidden bass")) is Standing.PLANNED, "nothing is waited for"
    assert as_it_was_built(done, "Next").coming_out == ()
    assert onto_another_car(done, "J-1", "Oak", "Leaf", 2020).coming_out == ()


def test_a_cable_may_stay_with_its_ends_insulated() -> None:
    out = all_out(built("Hidden bass"))
    kept = apply_edits(out, [Edit(path="coming_out/power-amp/stays", value=True)])
    results = evaluate(kept).results
    step = next(step for step in generated(results) if step.id == "out-power-amp")
    assert step.what.endswith("stays: both its ends cut back and insulated")
    caps = next(row for row in results.order if row.what.startswith("End cap"))
    assert caps.amount == "2"


@pytest.mark.parametrize("seed", range(0, 40, 5))
def test_what_nobody_would_draw_comes_out_too(seed: int) -> None:
    """Odd plans, built, and taken out part by part, then whole: the rest is judged each time, nothing is left."""
    there = as_it_was_built(odd_plan(seed), "Out")
    for part in [part for part in there.parts if part.in_car]:
        if there.part(part.id) is not None:
            there = apply_edits(there, part_out(evaluate(there).results, part.id))
            assert there.part(part.id) is None
            assert {f"out-{one.id}" for one in there.coming_out if one.goes is Goes.PART} <= {
                step.id for step in generated(evaluate(there).results)
            }
    left = [link for link in there.links if link.in_car]
    assert all(isinstance(link, ChargeLink) and link.through_id is None for link in left), (
        "of no part: battery to battery"
    )
    bare = apply_edits(there, everything_out(evaluate(there).results)) if left else there
    assert not [link for link in bare.links if link.in_car]
