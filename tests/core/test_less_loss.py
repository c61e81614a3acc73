"""What brings a loss under the limit: each cure against Ohm's law, those that hold against the car they leave."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

import pytest

from ohmack.core.document import Design
from ohmack.core.document.edits import apply_edits
from ohmack.core.document.links import PowerLink
from ohmack.core.document.vehicle import GroundKind
from ohmack.core.errors import NotPossible
from ohmack.core.evaluation.answer import Evaluation
from ohmack.core.evaluation.door import evaluate
from ohmack.core.planning.less_loss import Cure, edits_for, less_loss
from ohmack.core.planning.parts_tried import taking
from ohmack.demo.building import catalogue
from ohmack.demo.jobs import demo_design, demo_jobs


def car(title: str, change: Callable[[dict[str, Any]], None] = lambda tree: None) -> Evaluation:
    number = next(n for n, job in enumerate(demo_jobs()) if job.title == title)
    tree = demo_design(number).model_dump(mode="json")
    change(tree)
    return evaluate(Design.model_validate(tree))


def strict(limit_v: float) -> Callable[[dict[str, Any]], None]:
    return lambda tree: tree["policy"].update(drop_limit_v=limit_v)


def lost(evaluation: Evaluation) -> dict[str, float]:
    fed = (s for s in evaluation.results.supplies if not s.is_main)
    return {s.part.id: s.figures["drop"].value for s in fed}


def cure(cures: tuple[Cure, ...], key: str) -> Cure:
    return next(c for c in cures if c.key == key)


def test_two_behind_a_block_are_parted() -> None:
    """A run of its own holds and is said first; a wiring that gives less, which holds too, comes after it; what a press
    leaves is what the line promised, and the other amplifier's loss falls by its share of the main run.
    """
    before = car("Two amplifiers, and lamps that dim", strict(0.3))
    found = less_loss(before, catalogue())
    assert found.over
    assert found.limit_v == 0.3
    assert found.lost_v == lost(before)
    assert [c.key for c in found.cures if c.holds] == ["own-power-amp", "wiring-speaker-sub"]
    own, wired = found.cures[:2]
    assert own.free
    assert not wired.free
    assert wired.power_w == {"amp": pytest.approx(155.0)}
    assert not own.power_w
    (own_source,) = {k.from_id for k in before.results.design.links_of(PowerLink) if k.to_id == "block"}
    after = evaluate(apply_edits(before.results.design, edits_for(before, own.key, catalogue())))
    assert lost(after) == pytest.approx(own.lost_v)
    assert not [f for f in after.findings if f.rule == "drop-over-policy"]
    assert after.results.cost.value - before.results.cost.value == pytest.approx(own.price)
    link = next(k for k in after.results.design.links_of(PowerLink) if k.id == "power-amp")
    assert link.from_id == own_source
    assert link.fuse is not None
    assert link.engine_space


def test_what_was_picked_for_the_old_wire_is_said_and_does_not_stop_a_cure() -> None:
    """A fuse that was bought for the old run is a consequence; another Stop of its own is not overlooked."""

    def bought(tree: dict[str, Any]) -> None:
        tree["policy"]["drop_limit_v"] = 0.3
        fuse = {"id": "fuses", "kind": "fuse", "name": "Fuses", "family": "strip", "rating_a": 100.0, "pieces": 2}
        tree["parts"].append(fuse)

    before = car("Two amplifiers, and lamps that dim", bought)
    own = cure(less_loss(before, catalogue()).cures, "own-power-amp")
    assert own.holds
    assert not own.stops
    assert [words for words in own.besides if words.startswith("Fuses: the plan wants")]


def test_hot_is_judged_by_the_worst_consumer() -> None:
    """Both are inside the limit cold; whether a cure holds hot goes by the one that loses more."""
    before = car("Two amplifiers, and lamps that dim", strict(0.3))
    own = cure(less_loss(before, catalogue()).cures, "own-power-amp")
    hot = sorted(own.hot_v.values())
    cold = max(own.lost_v.values())
    assert hot[0] < cold < hot[1]
    for limit_v, holds in ((hot[1] + 0.001, True), ((cold + hot[1]) / 2, False)):
        assert replace(own, limit_v=limit_v).holds_hot is holds


def test_what_is_assumed_of_the_body_by_ohms_law() -> None:
    """The lowest body return in reach: the loss falls by the difference times the current, a little more as less is
    lost, for an amplifier of constant power; nothing is pressed, the fact is shown.
    """

    def assumed(tree: dict[str, Any]) -> None:
        tree["policy"]["drop_limit_v"] = 0.35
        tree["vehicle"]["supply"]["body_return_ohm"] = {
            "value": 0.003, "basis": "assumed", "low": 0.0005, "high": 0.005,
        }  # fmt: skip
        for point in tree["vehicle"]["ground_points"]:
            point["body_return_ohm"] = {"value": None}

    before = car("Five channels, four doors and a box", assumed)
    (supply,) = [s for s in before.results.supplies if not s.is_main]
    read = cure(less_loss(before).cures, "read-vehicle/supply/body_return_ohm")
    current_a = supply.figures["current"].value
    fell_v = lost(before)["amp"] - read.lost_v["amp"]
    assert fell_v == pytest.approx(0.0025 * current_a, rel=0.05)
    assert read.acts[0].path == "vehicle/supply/body_return_ohm"
    assert not read.free
    assert read.price is None
    with pytest.raises(NotPossible):
        edits_for(before, read.key)


def test_a_narrow_holder_is_widened_by_the_cheapest_that_does() -> None:
    """Of three holders of the catalogue that let the same wire in, only the cheapest is offered; without a catalogue
    one is to be found.
    """
    before = car("To the coast and back", strict(0.3))
    narrow = next(tree for tree in catalogue() if tree["name"] == "Hob maxi holder")
    before = evaluate(apply_edits(before.design, taking(before.design, narrow, "holder")))
    first = less_loss(before, catalogue()).cures[0]
    assert first.acts[0].name == "Hob strip holder instead of Hob maxi holder"
    assert first.holds
    assert sum(c.acts[0].part_id == "holder" for c in less_loss(before, catalogue()).cures) == 1
    asked = cure(less_loss(before).cures, "wider-holder")
    assert asked.holds
    assert not asked.free
    assert asked.acts[0].query == "kind=fuse+holder&instead=holder"
    assert asked.lost_v == pytest.approx(first.lost_v)


def test_what_is_not_enough_alone_is_enough_together() -> None:
    """A named thin size and clad cable: neither cure holds, both do; the press does both."""

    def poor(tree: dict[str, Any]) -> None:
        tree["policy"]["drop_limit_v"] = 0.5
        for link in tree["links"]:
            if link["kind"] in ("power", "ground"):
                link["wire"].update(material="copper_clad_aluminium", size="8 AWG")

    before = car("Hidden bass, radio stays", poor)
    found = less_loss(before)
    clad, thin = cure(found.cures, "copper"), cure(found.cures, "sizes")
    assert not clad.holds
    assert not thin.holds
    assert found.cures[0].key == "sizes+copper"
    assert found.cures[0].holds
    after = evaluate(apply_edits(before.results.design, edits_for(before, found.cures[0].key)))
    assert lost(after) == pytest.approx(found.cures[0].lost_v)
    assert max(lost(after).values()) <= 0.5 < max(lost(before).values())
    # clad conducts 0.63 as well as copper: what the wire loses falls to that, the rest of the loop stays
    wires = [p for s in before.results.supplies for p in s.segments if "AWG" in p.name]
    saved_v = sum(p.drop_v for p in wires) * (1 - 0.63)
    assert max(lost(before).values()) - clad.worst_v == pytest.approx(saved_v, rel=0.12)


def test_readings_count_together_where_no_press_is_enough() -> None:
    """Body and strap, each assumed, at their lowest: neither alone holds, both do, by what Ohm's law takes off; the
    row leads to the first reading.
    """

    def assumed(tree: dict[str, Any]) -> None:
        tree["policy"]["drop_limit_v"] = limit_v
        supply = tree["vehicle"]["supply"]
        for points in tree["vehicle"]["ground_points"]:
            points["body_return_ohm"] = {"value": None}
        for name, value in (("body_return_ohm", 0.003), ("battery_strap_ohm", 0.002)):
            supply[name] = {"value": value, "basis": "assumed", "low": 0.0005, "high": 0.005}

    limit_v = 0.405
    before = car("Five channels, four doors and a box", assumed)
    found = less_loss(before)
    assert not [c for c in found.cures if c.holds and len(c.acts) == 1]
    (both,) = [c for c in found.cures if c.holds]
    paths = [f"vehicle/supply/{name}_ohm" for name in ("body_return", "battery_strap")]
    assert [act.path for act in both.acts] == paths
    assert both.begins.path == paths[0]
    assert both.price is None
    (current_a,) = [s.figures["current"].value for s in before.results.supplies if not s.is_main]
    assert lost(before)["amp"] - both.worst_v == pytest.approx((0.0025 + 0.0015) * current_a, rel=0.05)


def test_back_to_the_battery_not_past_a_sensor() -> None:
    """Straight back to the post is tried on a plain alternator, and never where a sensor counts at the post."""
    before = car("Bass behind the seat", strict(0.305))
    back = cure(less_loss(before).cures, "ground-battery")
    after = evaluate(apply_edits(before.results.design, edits_for(before, back.key)))
    (supply,) = [s for s in after.results.supplies if not s.is_main]
    point = next(p for p in after.results.design.vehicle.ground_points if p.id == supply.ground.to_id)
    assert point.kind.value is GroundKind.BATTERY
    assert back.holds
    assert not [p for p in supply.segments if p.name in ("Body return", "Battery strap")]

    def smart(tree: dict[str, Any]) -> None:
        tree["policy"]["drop_limit_v"] = 0.3
        tree["vehicle"]["supply"]["kind"] = "smart alternator"

    assert not [c for c in less_loss(car("Bass behind the seat", smart)).cures if c.key == "ground-battery"]


def test_nothing_fed_has_nothing_to_cure() -> None:
    assert less_loss(car("Front doors stop buzzing")).cures == ()
