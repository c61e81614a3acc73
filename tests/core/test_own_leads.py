"""Cameras, microphones and aerials of a new radio: each on a lead of its own, laid, fixed, joined, fused and tried."""

from __future__ import annotations

from math import dist
from typing import Any

import pytest

from ohmack.core.document import Design
from ohmack.core.document.design import Keep
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.functions import FunctionKind
from ohmack.core.document.parts import HeadUnit
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.evaluation.answer import Evaluation
from ohmack.core.evaluation.door import evaluate
from ohmack.core.factory.function_edits import functions_for
from ohmack.core.factory.functions import Fate
from ohmack.core.figures.finding import Severity
from ohmack.core.fit.far_ends import far_end, own_lead
from ohmack.core.handover.fuse_map import fuse_map
from ohmack.core.planning.part_added import added
from ohmack.core.planning.placing import place_part
from ohmack.core.planning.role_parts import choose_part
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.demo.building import catalogue, measured
from ohmack.demo.jobs import demo_design

TREES = {tree["name"]: tree for tree in catalogue()}
CAMERA, MICROPHONE, AERIAL = "Quillon rear camera", "Quillon pillar microphone", "Quillon position aerial"
SCREEN, PLAIN = "Quillon S2 screen radio", "Quillon Q1 plain radio"


def car(*names: str, hand: Hand = Hand.RIGHT, keep: tuple[Keep, ...] = ()) -> Design:
    front = demo_design(0).intake.model_copy(update={"wishes": (), "budget": None, "must_keep": keep})
    vehicle = new_vehicle("Brindle", "Otter", 2014, Body.ESTATE, hand)
    design = new_design("t", vehicle, front, demo_design(0).policy)
    design = apply_edits(design, [Edit(path="vehicle/radio/tier/value", value="plain radio")])
    for name in names:
        design = apply_edits(design, place_part(design, TREES[name]))
    return design


def told(answer: Evaluation, rule: str) -> list[tuple[Severity, str]]:
    return [(f.severity, f.title) for f in answer.findings if f.rule == rule]


def row_of(answer: Evaluation, part_id: str) -> Any:
    (row,) = (row for row in answer.results.wire_rows if row.link_id == part_id)
    return row


@pytest.mark.parametrize(("hand", "side"), [(Hand.LEFT, -1), (Hand.RIGHT, 1)])
def test_a_microphone_goes_to_the_driver_and_a_camera_to_the_tail(hand: Hand, side: int) -> None:
    """Common practice, no source; left of the centre line is negative."""
    design = car(SCREEN, CAMERA, MICROPHONE, AERIAL, hand=hand)
    at = {part.name: part.position for part in design.parts}
    camera, microphone, aerial = at[CAMERA], at[MICROPHONE], at[AERIAL]
    assert camera is not None
    assert microphone is not None
    assert aerial is not None
    assert microphone.y_m * side > 0 > aerial.y_m * side
    cards = {card.id: card for card in evaluate(design).results.route_cards}
    (id_,) = (part.id for part in design.parts if part.name == AERIAL)
    assert [pinch.zone.name for pinch in cards[id_].pinches] == [], "nothing of it over the airbag"
    assert camera.y_m == 0.0
    assert camera.x_m > 0.95 * (design.vehicle.length_m.value or 0.0)
    assert far_end(design.vehicle, "bracket") is None
    assert own_lead(design.part("radio")) is None


def test_a_camera_is_laid_fixed_fused_joined_and_tried() -> None:
    answer = evaluate(car(SCREEN, CAMERA, "Radio plug adapter, 16 way", keep=(Keep.CAMERA,)))
    results = answer.results
    (camera,) = (part for part in results.design.parts if part.name == CAMERA)
    row, radio = row_of(answer, camera.id), results.design.vehicle.radio.position
    assert camera.position is not None
    assert row.length_m > dist(camera.position.point, radio.point), "down a sill, up at its ends, with slack"
    assert row.purpose == "Camera lead"
    assert "live in reverse only" in row.note
    steps = {numbered.step.id: numbered.step for numbered in results.work_plan.steps}
    assert steps["cut-cables"].what.startswith("Label 1 cable"), "what comes with it is not cut"
    lay, fix, join = f"lay-knob-{camera.id}", f"fix-{camera.id}", f"join-{camera.id}"
    assert {lay, fix, "off-radio"} <= set(steps[join].needs)
    assert join in steps["dead-checks"].needs
    assert any(name.startswith("off-sill") for name in steps[lay].needs), "its way goes down the sill"
    assert "reversing lamp's wire through a fuse" in steps[join].what
    (card,) = results.route_cards
    assert (card.id, card.about, card.length_m) == (camera.id, f"parts/{camera.id}", row.length_m)
    assert card.marks[-1].at_m == pytest.approx(row.length_m)
    assert card.side in ("left", "right")
    assert {r.what.partition(",")[0]: r.used for r in results.sundries}["Cable ties"] >= 2
    cuts = results.cut_list
    assert (len(cuts.cables), cuts.to_buy, cuts.unknown) == (1, (), ()), "nothing is cut, and none is bought twice"
    fuses = [(fuse.rating_a, fuse.protects) for fuse in results.fuse_rows]
    assert fuses == [(2.0, CAMERA)]
    assert [(spot.rating_a, spot.feeds) for spot in fuse_map(results)] == [(2.0, (CAMERA,))]
    ordered = {(row.group, row.what): row.note for row in results.order}
    assert ("Fuses", "Regular blade 2 A") in ordered
    assert ordered["Fuses", "In-line blade holder or add-a-fuse"] == f"for {CAMERA}"
    tried = [j.check.title for j in results.proof.checks]
    assert f"{CAMERA} shows what is behind" not in tried, "the promise says the same"
    assert "Reversing camera" in tried
    assert told(answer, "camera-unseen") == []
    swept = evaluate(results.design, sweep_facts=True).measure_first
    assert "vehicle/length_m" not in [measure.path for measure in swept or ()], "it sits where the car ends"


def test_what_nobody_promised_is_tried_too_and_is_in_the_car_once_it_is_there() -> None:
    design = car(SCREEN, CAMERA, MICROPHONE, AERIAL)
    tried = {j.check.title for j in evaluate(design).results.proof.checks}
    assert {f"{CAMERA} shows what is behind", f"{AERIAL} receives", "Hands-free"} <= tried
    there = [Edit(path=f"parts/{part.id}/stands", value="already in the car") for part in design.parts]
    done = evaluate(apply_edits(design, there))
    assert not done.results.order
    assert all(row.in_car for row in done.results.wire_rows)
    looked_for = [(spot.rating_a, spot.rating) for spot in fuse_map(done.results)]
    assert looked_for == [(None, "not read")], "who comes next looks for it; nobody knows what was put in"
    assert not done.results.fuse_rows


def test_a_camera_of_its_own_shows_what_the_cars_one_did() -> None:
    function = {"id": "cam", "kind": "reversing camera", "made_by_id": "radio", "heard_at_id": "radio"}
    had = Edit(op="add", path="vehicle/functions", value=function)
    for names, words in (((SCREEN,), "needs a camera input"), ((SCREEN, CAMERA), f"{CAMERA} shows it instead")):
        answer = evaluate(apply_edits(car(*names), [had]))
        (verdict,) = answer.results.ledger
        assert verdict.fate is Fate.ADAPTED
        assert verdict.why.startswith(words)
        steps = {numbered.step.id for numbered in answer.results.work_plan.steps}
        assert ("carry-cam" in steps) is (CAMERA not in names), "the car's own lead is joined, or the new one"
        assert bool(told(answer, "camera-picture")) is (CAMERA not in names)


def test_what_the_cars_camera_sends_decides_whether_another_radio_shows_it() -> None:
    """12 V analogue goes into a camera input; 6 V and digital want an adapter (common practice, no source). While it is
    assumed it is to be measured first; a camera that was promised and of which nobody knows is watched.
    """
    wanted = car(keep=(Keep.CAMERA,))
    design = apply_edits(wanted, functions_for(wanted))
    (camera,) = [f for f in design.vehicle.functions if f.kind is FunctionKind.CAMERA]
    path, adapter = f"vehicle/functions/{camera.id}/picture", TREES["Quillon camera adapter"]
    planned = apply_edits(design, added(design, TREES[SCREEN]))

    def of_the_camera(now: Design) -> list[tuple[Severity, str]]:
        answer = evaluate(now)
        asked = [f for f in answer.findings if f.rule in ("function-part", "camera-picture")]
        return [(f.severity, f.rule) for f in asked if "camera" in f.title.lower()]

    swept = {measure.path: measure for measure in evaluate(planned, sweep_facts=True).measure_first or ()}
    assert "kept by a camera adapter" in " ".join(swept[path].stops)
    assert of_the_camera(planned) == []
    unknown = apply_edits(planned, [Edit(path=path, value={"value": None})])
    assert of_the_camera(unknown) == [(Severity.WATCH, "camera-picture")]
    for sends in ("analogue, fed with 6 V", "digital"):
        read = apply_edits(planned, [measured(path, sends)])
        assert of_the_camera(read) == [(Severity.STOP, "function-part")]
        with_adapter = apply_edits(read, added(read, adapter))
        assert of_the_camera(with_adapter) == []
        assert "part-idle" not in {f.rule for f in evaluate(with_adapter).findings}
        own = apply_edits(read, added(read, TREES[CAMERA]))
        assert of_the_camera(own) == []
    plain = apply_edits(planned, [measured(path, "analogue, fed with 12 V")])
    assert of_the_camera(plain) == []
    idle = apply_edits(design, added(design, adapter))
    assert "part-idle" in {f.rule for f in evaluate(idle).findings}, "no radio is changed"


def test_a_promise_rests_on_what_the_new_radios_papers_say() -> None:
    """Hands-free, the wheel's buttons and a camera are taken over by a radio that has what that takes: what its papers
    do not say nobody judged, what they deny is lost, and the plan takes a radio that has it.
    """
    keep = (Keep.HANDS_FREE, Keep.WHEEL_BUTTONS, Keep.CAMERA)
    design = car(keep=keep)
    design = apply_edits(design, functions_for(design))
    planned = apply_edits(design, added(design, TREES[SCREEN]))
    (unit,) = planned.parts_of(HeadUnit)
    fields = {"hands_free": "hands-free", "wheel_input": "steering-wheel buttons", "camera_input": "reversing camera"}
    for field, function in fields.items():
        fates = {}
        for said in ("yes", "its papers do not say", "no"):
            answer = evaluate(apply_edits(planned, [Edit(path=f"parts/{unit.id}/{field}", value=said)]))
            (verdict,) = (v for v in answer.results.ledger if v.function.title == function)
            of_it = (f"parts/{unit.id}/{field}", f"vehicle/functions/{verdict.function.id}")
            stops = [f.rule for f in answer.findings if f.severity is Severity.STOP and f.about in of_it]
            fates[said] = verdict.fate, stops
        assert fates["yes"] == (Fate.ADAPTED, [])
        assert fates["its papers do not say"] == (Fate.ADAPTED, ["radio-unsaid"])
        assert fates["no"] == (Fate.LOST, ["function-lost"])
    denied = evaluate(apply_edits(planned, [Edit(path=f"parts/{unit.id}/hands_free", value="no")]))
    (lost,) = (f for f in denied.findings if f.rule == "function-lost")
    assert lost.remedy is not None
    assert lost.remedy.query == f"kind=radio&instead={unit.id}"
    unsaid = Edit(path=f"parts/{unit.id}/hands_free", value="its papers do not say")
    quiet = apply_edits(planned, [Edit(path="intake/must_keep", value=[]), unsaid])
    assert not told(evaluate(quiet), "radio-unsaid"), "nobody asked for it"
    for names, wanted in (((), PLAIN), (keep[:1], SCREEN)):
        way = car(keep=names)
        way = apply_edits(way, functions_for(way))
        assert (choose_part(way, "radio", catalogue()) or {})["name"] == wanted


def test_a_camera_needs_a_screen_and_twelve_volts() -> None:
    blind = evaluate(car(PLAIN, CAMERA))
    assert told(blind, "camera-unseen") == [(Severity.STOP, f"Nothing shows what {CAMERA} sees")]
    lorry = apply_edits(car(SCREEN, CAMERA), [measured("vehicle/supply/system", "24 V")])
    assert told(evaluate(lorry), "camera-unseen") == [(Severity.STOP, f"{CAMERA} on a reversing lamp of 24 V")]
    assert told(evaluate(car(SCREEN, MICROPHONE)), "camera-unseen") == []


@pytest.mark.parametrize("name", [MICROPHONE, AERIAL])
def test_what_no_radio_is_there_for_is_said(name: str) -> None:
    idle = evaluate(car(name)).findings
    assert [f.rule for f in idle if f.title.startswith(name) and f.severity is not Severity.NOTE] != []
    served = evaluate(car(SCREEN, name)).findings
    assert [f.rule for f in served if f.title.startswith(name)] == []
