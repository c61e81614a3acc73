"""Crossover nets, load resistors and line isolators: parts whose data count."""

from __future__ import annotations

from typing import Any

import pytest

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.links import LineLink
from ohmack.core.document.parts import CrossoverNet, LineIsolator
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.evaluation.answer import Evaluation
from ohmack.core.evaluation.door import evaluate
from ohmack.core.figures.finding import Severity
from ohmack.core.planning.starting_points import new_vehicle, place_part
from ohmack.demo.jobs import catalogue, demo_design

TREES = {tree["name"]: tree for tree in catalogue()}
NET = "Morrowick X3 crossover, pair"


def with_tweeters() -> Design:
    """A saloon with woofers in the front doors and tweeter places beside them, all four on the two front pairs."""
    design = Design.model_validate(
        {"vehicle": new_vehicle("Dravel", "Minnow", 2009, Body.SALOON, Hand.RIGHT).model_dump()}
    )
    places = [
        Edit(op="add", path="vehicle/speakers", value={
            "id": f"tw-{side}", "name": f"Tweeter {side}", "position": {"x_m": 1.5, "y_m": y}, "place": "dash",
            "channel_id": f"ch-f{side[0]}", "impedance_ohm": {"value": 4.0, "basis": "documented"}, "new_place": True,
        })
        for side, y in (("left", -0.7), ("right", 0.7))
    ]  # fmt: skip
    woofers = {**TREES["Morrowick W65 woofer, pair"], "at_ids": ["spk-fl", "spk-fr"], "impedance_ohm": 4.0}
    tweeters = {**TREES["Morrowick T25 tweeter, pair"], "at_ids": ["tw-left", "tw-right"]}
    design = apply_edits(design, places)
    for tree in (woofers, tweeters):
        design = apply_edits(design, place_part(design, tree))
    return design


def took(design: Design, *names: str) -> Design:
    for name in names:
        design = apply_edits(design, place_part(design, dict(TREES[name])))
    return design


def said(evaluation: Evaluation, rule: str) -> list[str]:
    return [f.title for f in evaluation.findings if f.rule == rule]


def test_a_net_makes_one_load_of_woofer_and_tweeter_and_protects_the_tweeter() -> None:
    """Joined on one channel 4 Ω and 4 Ω are 2 Ω (circuit theory); through a net made for 4 Ω each plays its own part
    of the range and the channel sees 4 Ω (common practice).
    """
    bare = evaluate(with_tweeters())
    assert bare.figures["ch-fl/load_ohm"].value == pytest.approx(2.0)
    assert len(said(bare, "tweeter-unprotected")) == 2
    design = took(with_tweeters(), NET)
    net = next(design.parts_of(CrossoverNet))
    assert set(net.at_ids) == {"spk-fl", "spk-fr", "tw-left", "tw-right"}, "it goes to the woofers and tweeters there"
    held = evaluate(design)
    assert held.figures["ch-fl/load_ohm"].value == pytest.approx(4.0)
    assert not said(held, "tweeter-unprotected")
    assert not said(held, "crossover-net")
    other = evaluate(apply_edits(design, [Edit(path=f"parts/{net.id}/made_for_ohm", value=8.0)]))
    assert any("is made for 8 Ω, front left door has 4 Ω" in title for title in said(other, "crossover-net"))
    alone = evaluate(apply_edits(design, [Edit(path=f"parts/{net.id}/at_ids", value=["spk-fl", "spk-fr"])]))
    assert said(alone, "crossover-net") == [f"{NET} parts nothing"]


def test_a_net_on_an_amplifier_reads_as_its_woofer_and_takes_what_it_takes() -> None:
    """An ohmmeter sees the woofer only: a capacitor is before the tweeter."""
    design = took(with_tweeters(), NET, "Tessel Four 70")
    wires: list[Edit] = []
    for number, (woofer, tweeter) in enumerate((("spk-fl", "tw-left"), ("spk-fr", "tw-right")), 1):
        for place in (woofer, tweeter):
            tree: dict[str, Any] = {
                "id": f"sp-{place}",
                "kind": "speaker",
                "from_id": "amp",
                "to_id": place,
                "channel": number,
            }
            wires.append(Edit(op="add", path="links", value=tree))
    design = apply_edits(design, wires)
    result = evaluate(design)
    woofer = next(p for p in design.parts if "woofer" in p.name)
    load = result.results.loads[0]
    assert load.chosen.load_ohm == pytest.approx(4.0)
    assert load.chosen.meter_ohm == pytest.approx(woofer.dc_resistance_ohm or 0.85 * woofer.impedance_ohm)  # type: ignore[union-attr]
    net = next(design.parts_of(CrossoverNet))
    assert load.allowed_w == pytest.approx(min(net.rated_w, woofer.power_rms_w))  # type: ignore[union-attr]
    assert load.driven_name.endswith(f"through {NET}")
    without = evaluate(apply_edits(design, [Edit(op="remove", path=f"parts/{net.id}")]))
    assert without.results.loads[0].load.value != pytest.approx(4.0)
    weak = evaluate(apply_edits(design, [Edit(path=f"parts/{net.id}/rated_w", value=20.0)]))
    assert any("takes 20.0 W" in title for title in said(weak, "crossover-net"))


def test_a_load_resistor_stands_in_for_a_speaker_and_gets_hot() -> None:
    """9.2 V rms over 10 Ω is 8.46 W (V²/R); a module that senses its load is content with it."""
    car = Design.model_validate(
        {"vehicle": new_vehicle("Dravel", "Minnow", 2009, Body.SALOON, Hand.RIGHT).model_dump()}
    )
    module = {
        "id": "amp-box", "name": "Factory amplifier", "kind": "amplifier", "position": {"x_m": 2.0, "y_m": 0.4},
        "load_sensing": {"value": True, "basis": "measured"},
        "source_voltage_v": {"value": 9.2, "basis": "measured"},
        "channels": [{"id": "box-fl", "name": "Front left, amplified", "place": "front left"},
                     {"id": "box-fr", "name": "Front right, amplified", "place": "front right"}],
    }  # fmt: skip
    moved = [Edit(path=f"vehicle/speakers/spk-f{s}/channel_id", value=f"box-f{s}") for s in "lr"]
    car = apply_edits(car, [Edit(op="add", path="vehicle/modules", value=module), *moved])
    design = took(car, "Tessel Four 70", "Sprig LC2 active")
    wires = [Edit(op="add", path="links", value={
        "id": f"sp-{s}", "kind": "speaker", "from_id": "amp", "to_id": f"spk-f{s}", "channel": n})
        for n, s in enumerate("lr", 1)]  # fmt: skip
    tap = {"id": "tap", "kind": "tap", "from_ids": ["box-fl", "box-fr"], "to_id": "converter"}
    design = apply_edits(design, [*wires, Edit(op="add", path="links", value=tap)])
    senses = [f for f in evaluate(design).findings if "senses its load" in f.title]
    assert senses, "its speakers are gone"
    one = {**TREES["Hob load resistor 10 Ω, 50 W, two"], "at_ids": ["box-fl"]}
    half = apply_edits(design, place_part(design, one))
    assert [f for f in evaluate(half).findings if "senses its load" in f.title], "the other output is still bare"
    both = apply_edits(half, [Edit(path="parts/resistor/at_ids", value=["box-fl", "box-fr"])])
    result = evaluate(both)
    assert not [f for f in result.findings if "senses its load" in f.title]
    assert result.figures["resistor/box-fl/heat_w"].value == pytest.approx(9.2**2 / 10.0)
    assert result.figures["box-fl/load_ohm"].value == pytest.approx(10.0)
    small = evaluate(apply_edits(both, [Edit(path="parts/resistor/rated_w", value=5.0)]))
    assert said(small, "load-resistor") == [
        "Hob load resistor 10 Ω, 50 W, two would turn 8.46 W into heat, it takes 5.00 W"
    ]


def test_an_isolator_sits_in_a_line_and_takes_so_much() -> None:
    design = demo_design(0)
    taken = took(design, "Sprig line isolator")
    isolator, line = next(taken.parts_of(LineIsolator)), next(design.links_of(LineLink))
    assert isolator.in_line_id == line.id
    result = evaluate(taken)
    assert not said(result, "line-isolator")
    level_v = result.results.signals[0].figures["output"].value
    weak = evaluate(apply_edits(taken, [Edit(path="parts/isolator/limit_v", value=level_v / 2)]))
    assert [f.severity for f in weak.findings if f.rule == "line-isolator"] == [Severity.STOP]
    thin = evaluate(apply_edits(taken, [Edit(path="parts/isolator/low_hz", value=60.0)]))
    assert said(thin, "line-isolator") == ["Sprig line isolator gives out below 60.0 Hz"]
    gone = evaluate(apply_edits(taken, [Edit(op="remove", path=f"links/{line.id}")]))
    assert said(gone, "line-isolator") == ["Sprig line isolator is in no line"]
