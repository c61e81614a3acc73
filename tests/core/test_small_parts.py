"""Crossover nets, pads, load resistors, line isolators, rings and relays: parts whose data count."""

from __future__ import annotations

from typing import Any

import pytest

from ohmack.core.document import Design
from ohmack.core.document.design import Intake
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.links import LineLink, RemoteLink
from ohmack.core.document.parts import Driver
from ohmack.core.document.policy import Policy
from ohmack.core.document.small_parts import CrossoverNet, LineIsolator, MountingRing, SpeakerPad
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.evaluation.answer import Evaluation
from ohmack.core.evaluation.door import evaluate
from ohmack.core.figures.finding import Severity
from ohmack.core.physics.pads import l_pad_ohm, padded_level_db, padded_load_ohm, shares_through_pad
from ohmack.core.planning.part_added import added
from ohmack.core.planning.placing import place_part
from ohmack.core.planning.remedies import edits_of
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.demo.building import measured
from ohmack.demo.jobs import catalogue, demo_design, demo_jobs
from references import ngspice

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
    assert said(bare, "tweeter-unprotected") == ["Tweeter left and tweeter right: a tweeter without a high-pass"]
    design = took(with_tweeters(), NET)
    net = next(design.parts_of(CrossoverNet))
    assert set(net.at_ids) == {"spk-fl", "spk-fr", "tw-left", "tw-right"}, "it goes to the woofers and tweeters there"
    held = evaluate(design)
    assert held.figures["ch-fl/load_ohm"].value == pytest.approx(4.0)
    assert not said(held, "tweeter-unprotected")
    assert not said(held, "crossover-net")
    other = evaluate(apply_edits(design, [Edit(path=f"parts/{net.id}/made_for_ohm", value=8.0)]))
    assert any(
        "is made for 8 Ω, front left door and front right door have 4 Ω" in title
        for title in said(other, "crossover-net")
    )
    assert other.figures["ch-fl/load_ohm"].value == pytest.approx(4.0), "what it was made for is no load"
    three = evaluate(apply_edits(design, [Edit(path="parts/driver/impedance_ohm", value=3.0)]))
    assert three.figures["ch-fl/load_ohm"].value == pytest.approx(3.0), "a coil before the woofer passes its bass"
    assert said(three, "channel-load")[0] == "3 Ω on Front left, which wants 4 Ω"
    alone = evaluate(apply_edits(design, [Edit(path=f"parts/{net.id}/at_ids", value=["spk-fl", "spk-fr"])]))
    assert said(alone, "crossover-net") == [f"{NET} parts nothing"]


def test_the_adapter_of_a_works_amplifier_is_none_for_the_plug_of_a_plain_radio() -> None:
    plain = new_design("a", new_vehicle("Any", "Any", 2012, Body.SUV, Hand.LEFT), Intake(), Policy())
    for name in ("Quillon S2 screen radio", "Sprig ring and level adapter"):
        plain = apply_edits(plain, added(plain, TREES[name]))
    assert said(evaluate(plain), "radio-unjoined")
    ring = apply_edits(plain, [Edit(path="vehicle/radio/tier/value", value="digital or optical ring")])
    assert not said(evaluate(ring), "radio-unjoined")
    own = apply_edits(plain, added(plain, TREES["Radio plug adapter, 16 way"]))
    assert not said(evaluate(own), "radio-unjoined")


def test_a_roof_that_folds_keeps_its_room_and_is_tried() -> None:
    """What lies where it folds into is told, and it is folded once before the trim goes on: common practice."""
    open_top = new_design("a", new_vehicle("Any", "Any", 2012, Body.CONVERTIBLE, Hand.LEFT), Intake(), Policy())
    (zone,) = [zone for zone in open_top.vehicle.zones if zone.folds_away]
    planned = apply_edits(open_top, added(open_top, TREES["Tessel M500"]))
    (amplifier,) = planned.parts
    assert not [f for f in evaluate(planned).findings if f.rule == "zone"], "its usual place is clear of it"
    assert "live/roof/zone-roof" in {j.check.id for j in evaluate(planned).results.proof.checks}
    assert said(evaluate(planned), "caution-roof")
    fixed = apply_edits(planned, [Edit(path=f"vehicle/zones/{zone.id}/present/value", value=False)])
    assert "live/roof/zone-roof" not in {j.check.id for j in evaluate(fixed).results.proof.checks}
    assert not said(evaluate(fixed), "caution-roof")
    before = apply_edits(planned, [Edit(path=f"parts/{amplifier.id}/position", value={"x_m": 1.9, "y_m": 0.3})])
    assert not said(evaluate(before), "caution-roof"), "under a front seat nothing is near it"
    in_it = zone.position.model_dump()
    (told,) = [
        f
        for f in evaluate(apply_edits(planned, [Edit(path=f"parts/{amplifier.id}/position", value=in_it)])).findings
        if f.rule == "zone" and f.about == amplifier.id
    ]
    assert "olded roof" in told.title


def test_a_net_is_offered_where_a_tweeter_hangs_beside_a_woofer_and_a_low_one_is_stopped() -> None:
    """Woofer and tweeter in series is no cure for 2 Ω: what mends load and tweeter is a net (common practice)."""
    design = with_tweeters()
    bare = evaluate(design)
    offered = [f.remedy for f in bare.findings if f.rule in ("channel-load", "tweeter-unprotected")]
    assert {r.label for r in offered if r} == {"Put a crossover net between them"}
    assert not bare.figures.keys() & {"ch-fl/wanted_uf"}, "no capacitor for a small door speaker before a tweeter"
    mended = apply_edits(design, offered[0].edits)  # type: ignore[union-attr]
    (net,) = mended.parts_of(CrossoverNet)
    assert (set(net.at_ids), net.crossover_hz) == ({"spk-fl", "spk-fr", "tw-left", "tw-right"}, 3000.0)
    held = evaluate(mended)
    assert not said(held, "channel-load")
    assert not said(held, "tweeter-unprotected")
    low = evaluate(apply_edits(mended, [Edit(path=f"parts/{net.id}/crossover_hz", value=1000.0)]))
    assert said(low, "tweeter-unprotected")[0] == "Crossover net 3000 Hz lets 1000 Hz through to tweeter left"


@pytest.mark.parametrize(("fs_hz", "sharp"), [(None, False), (1499.0, False), (1501.0, True)])
def test_a_net_crosses_an_octave_above_the_tweeters_resonance(fs_hz: float | None, sharp: bool) -> None:
    """3,000 Hz is an octave above 1,500 Hz (common practice, no source); where nobody read the resonance only the usual
    limit is judged. A capacitor of 13 µF at 4 Ω passes from 3,061 Hz: 1 / (2 π R C).
    """
    reads = [Edit(path=f"parts/{d.id}/fs_hz", value=fs_hz) for d in with_tweeters().parts_of(Driver)
             if d.role == "tweeter"]  # fmt: skip
    held = evaluate(apply_edits(took(with_tweeters(), NET), reads))
    wanted = [f"{NET} passes from 3000 Hz; tweeter {side} resonates at 1501 Hz" for side in ("left", "right")]
    assert said(held, "tweeter-resonance") == (wanted if sharp else [])
    cap = {
        "id": "cap",
        "kind": "series capacitor",
        "name": "C",
        "capacitance_uf": 13.0,
        "at_ids": ["tw-left", "tw-right"],
    }
    capped = evaluate(apply_edits(with_tweeters(), [*reads, Edit(op="add", path="parts", value=cap)]))
    assert said(capped, "tweeter-resonance") == []
    higher = [Edit(path=edit.path, value=1600.0) for edit in reads]
    over = evaluate(apply_edits(capped.design, higher))
    assert said(over, "tweeter-resonance")[0] == "C passes from 3061 Hz; tweeter left resonates at 1600 Hz"


def test_a_capacitor_for_a_door_speaker_is_none_for_a_tweeter() -> None:
    """1 / (2 π R C): 120 µF at 4 Ω is 332 Hz, 13 µF 3 kHz (textbook); below 2 kHz a dome dies (common practice)."""
    only = [Edit(path="parts/driver/at_ids", value=[]), *(
        Edit(path=f"vehicle/speakers/{door}/channel_id", value=None) for door in ("spk-fl", "spk-fr")
    )]  # fmt: skip
    capacitor = {"id": "cap", "kind": "series capacitor", "name": "Bipolar 120", "capacitance_uf": 120.0,
                 "at_ids": ["tw-left"]}  # fmt: skip
    by_radio = apply_edits(with_tweeters(), [*only, Edit(op="add", path="parts", value=capacitor)])
    (stopped,) = [f for f in evaluate(by_radio).findings if f.rule == "small-speaker"]
    assert (stopped.severity, stopped.title) == (Severity.STOP, "Bipolar 120 lets 332 Hz through to tweeter left")
    link = {"id": "sp", "kind": "speaker", "from_id": "amp", "to_id": "tw-left", "channel": 1}
    by_amplifier = apply_edits(took(by_radio, "Tessel Four 70"), [Edit(op="add", path="links", value=link)])
    (stopped,) = [f for f in evaluate(by_amplifier).findings if "Bipolar 120 lets" in f.title]
    assert (stopped.rule, stopped.severity) == ("tweeter-unprotected", Severity.STOP)
    for design, finding in ((by_radio, "small-speaker"), (by_amplifier, "tweeter-unprotected")):
        (one,) = [f for f in evaluate(design).findings if f.rule == finding and "Bipolar 120" in f.title]
        after = apply_edits(design, one.remedy.edits)  # type: ignore[union-attr]
        taken = next(p for p in after.parts if p.id == "cap")
        assert taken.capacitance_uf == pytest.approx(12.0)  # type: ignore[union-attr]  # the E12 next to 13.3
        assert not [f for f in evaluate(after).findings if " lets " in f.title]


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
    modest = evaluate(apply_edits(design, [Edit(path=f"parts/{woofer.id}/power_rms_w", value=net.rated_w - 30.0)]))
    assert modest.results.loads[0].allowed_w == pytest.approx(net.rated_w - 30.0), "the weaker of net and woofer"
    assert load.driven_name.endswith(f"through {NET}")
    lower = evaluate(apply_edits(design, [Edit(path=f"parts/{woofer.id}/impedance_ohm", value=2.0)]))
    assert lower.results.loads[0].chosen.load_ohm == pytest.approx(2.0)
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
    radio = [c.id for c in small.design.vehicle.radio.channels][-1:]
    apart = apply_edits(small.design, [
        measured("vehicle/radio/source_voltage_v", 8.0), Edit(path="parts/resistor/at_ids", value=["box-fl", *radio]),
    ])  # fmt: skip
    assert len([f for f in evaluate(apart).figures if f.startswith("resistor/") and f.endswith("/heat_w")]) == 2
    assert said(evaluate(apart), "load-resistor") == said(small, "load-resistor"), "the hotter of the two"


@pytest.mark.parametrize(
    ("name", "number"),
    [("Sprig line isolator", 0), ("Morrowick tweeter pad 4 dB, pair", None), ("Pell & Fenn Coax 65, pair", 0)],
)
def test_two_of_a_kind_in_one_place_are_told_and_one_goes_by_a_press(name: str, number: int | None) -> None:
    """Only the first was judged; a place that is the second one's alone stays its own."""
    found = range(len(demo_jobs())) if number is None else [number]
    once = next(d for d in (took(demo_design(n), name) for n in found) if place_field(d.parts[-1])[1])
    first, (field, places) = once.parts[-1], place_field(once.parts[-1])
    again = took(once, name)
    second = again.parts[-1]
    both = apply_edits(again, [Edit(path=f"parts/{second.id}/{field}", value=places)])
    (said_so,) = [f for f in evaluate(both).findings if f.rule == "place-twice"]
    assert said_so.severity is Severity.STOP
    assert f"{first.name} and {second.name} in one place" in said_so.title
    assert said_so.remedy is not None
    mended = apply_edits(both, edits_of(both, said_so.remedy))
    assert mended.part(first.id) == once.part(first.id)
    assert mended.part(second.id) is None
    assert not [f for f in evaluate(mended).findings if f.rule == "place-twice"]
    if isinstance(places, list) and len(places) > 1:
        shared = apply_edits(both, [Edit(path=f"parts/{first.id}/{field}", value=places[:1])])
        (one,) = [f for f in evaluate(shared).findings if f.rule == "place-twice"]
        assert one.remedy is not None
        left = apply_edits(shared, edits_of(shared, one.remedy))
        assert place_field(left.part(second.id))[1] == places[1:]


def place_field(part: Any) -> tuple[str, Any]:
    """The field that says where a small part goes, and what it says."""
    return ("in_line_id", part.in_line_id) if isinstance(part, LineIsolator) else ("at_ids", list(part.at_ids))


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


@pytest.mark.parametrize(("made_ohm", "speaker_ohm", "off_db"), [(4.0, 4.0, 6.0), (8.0, 8.0, 3.0), (4.0, 8.0, 10.0)])
def test_a_pad_against_a_circuit_simulator(made_ohm: float, speaker_ohm: float, off_db: float) -> None:
    """The textbook's L-pad: 8 Ω and 6 dB make 4.0 Ω in line and 8.0 Ω across; the load stays what it was."""
    assert l_pad_ohm(6.0, 8.0) == (pytest.approx(4.0, abs=0.02), pytest.approx(8.0, abs=0.05))
    resistors = l_pad_ohm(off_db, made_ohm)
    net, db, speaker, series, across = ngspice(
        "pad.cir", series_ohm=resistors[0], across_ohm=resistors[1], speaker_ohm=speaker_ohm
    )
    assert padded_load_ohm(*resistors, speaker_ohm) == pytest.approx(net, rel=1e-6)
    assert padded_level_db(*resistors, speaker_ohm) == pytest.approx(db, abs=1e-6)
    assert shares_through_pad(*resistors, speaker_ohm) == (
        pytest.approx(speaker, rel=1e-6), pytest.approx(max(series, across), rel=1e-6),
    )  # fmt: skip
    if made_ohm == speaker_ohm:
        assert net == pytest.approx(speaker_ohm)
        assert db == pytest.approx(-off_db)


def test_a_pad_evens_a_tweeter_with_its_woofer() -> None:
    """At one voltage a 92 dB tweeter of 4 Ω plays 1 dB over a 91 dB woofer of 4 Ω; what a net or a pad takes off comes
    off that (sensitivities at 1 W into the nominal load).
    """
    design = apply_edits(took(with_tweeters(), NET), [Edit(path="parts/net/tweeter_pad_db", value=0.0)])
    figure = "net/tw-left/level_db"
    assert evaluate(design).figures[figure].value == pytest.approx(1.0)
    tweeter = next(d for d in design.parts_of(Driver) if d.role == "tweeter")
    loud = apply_edits(design, [Edit(path=f"parts/{tweeter.id}/sensitivity_db", value=96.0)])
    assert said(evaluate(loud), "tweeter-level") == [
        f"Tweeter {side} plays 5.0 dB over front {side} door" for side in ("left", "right")
    ]
    held = took(loud, "Morrowick tweeter pad 4 dB, pair")
    pad = next(held.parts_of(SpeakerPad))
    assert set(pad.at_ids) == {"tw-left", "tw-right"}, "it goes before the tweeters"
    result = evaluate(held)
    k = 10 ** (-4 / 20)
    assert result.figures[f"{pad.id}/in_line_ohm"].value == pytest.approx(4 * (1 - k))
    assert result.figures[f"{pad.id}/across_ohm"].value == pytest.approx(4 * k / (1 - k))
    assert result.figures[figure].value == pytest.approx(1.0)
    assert not said(result, "tweeter-level")
    other = evaluate(apply_edits(held, [Edit(path=f"parts/{pad.id}/made_for_ohm", value=8.0)]))
    assert said(other, "speaker-pad")
    assert -4.0 < other.figures[f"{pad.id}/tw-left/level_db"].value < -2.0 or other.figures[figure].value < 1.0
    halved = apply_edits(loud, [Edit(path=f"parts/{tweeter.id}/impedance_ohm", value=8.0)])
    assert evaluate(halved).figures[figure].value == pytest.approx(5.0 - 3.01, abs=0.01), "half the power at 8 Ω"


def test_a_padded_speaker_on_a_channel_keeps_its_load_and_takes_more() -> None:
    """Behind 6 dB a quarter of the power reaches the speaker: the pair takes four times what it takes, if the
    resistors stand it; on an output of the radio it plays 6 dB quieter.
    """
    design = took(with_tweeters(), "Tessel Four 70")
    wire = {"id": "sp", "kind": "speaker", "from_id": "amp", "to_id": "spk-fl", "channel": 1}
    pad = {"id": "pad", "kind": "speaker pad", "name": "Pad", "at_ids": ["spk-fl"], "takes_off_db": 6.0206,
           "made_for_ohm": 4.0, "rated_w": 900.0}  # fmt: skip
    design = apply_edits(design, [Edit(op="add", path="links", value=wire)])
    bare = evaluate(design).results.loads[0]
    padded = apply_edits(design, [Edit(op="add", path="parts", value=pad)])
    load = evaluate(padded).results.loads[0]
    assert load.load.value == pytest.approx(bare.load.value)
    assert load.allowed_w == pytest.approx(4 * (bare.allowed_w or 0), rel=1e-4)
    assert load.driver.sensitivity_db == pytest.approx((bare.driver.sensitivity_db or 0) - 6.0206, abs=1e-3)
    weak = evaluate(apply_edits(padded, [Edit(path="parts/pad/rated_w", value=5.0)]))
    assert weak.results.loads[0].allowed_w == pytest.approx(10.0, rel=1e-3), "its series resistor gets half"
    assert said(weak, "speaker-pad") == ["Tessel Four 70, channel 1 gives more than Pad and its speaker take"]


def test_a_ring_brings_a_speaker_forward_and_covers_the_hole() -> None:
    """Depth grows by the ring's thickness, room in front shrinks by it; the hole is 12 mm narrower than the ring (plain
    geometry; room for screws is common practice).
    """
    design = took(with_tweeters())
    depth = {"value": 60.0, "basis": "measured"}
    known = [
        Edit(path=f"vehicle/speakers/spk-f{s}/{name}", value={**depth, "value": mm})
        for s in "lr"
        for name, mm in (
            ("depth_mm", 66.0), ("window_depth_mm", 66.0), ("trim_clearance_mm", 40.0), ("cut_out_mm", 160.0),
            ("adapter_ring_mm", 0.0),
        )
    ]  # fmt: skip
    design = apply_edits(design, known)
    woofer = next(d for d in design.parts_of(Driver) if d.role == "woofer")
    before = evaluate(design)
    assert any("depth behind" in t for t in said(before, "fit"))
    ringed = took(design, "Hob ring 165 to 142, 12 mm, pair")
    ring = next(ringed.parts_of(MountingRing))
    assert set(ring.at_ids) == {"spk-fl", "spk-fr"}
    loose = evaluate(apply_edits(ringed, [Edit(path=f"parts/{ring.id}/at_ids", value=[])]))
    assert said(loose, "driver-homeless") == ["Hob ring 165 to 142, 12 mm, pair goes under nothing yet"]
    after = evaluate(ringed)
    scope = f"{woofer.id}/spk-fl"
    for name, by_mm in (("depth_spare_mm", 12.0), ("front_spare_mm", -12.0)):
        moved = after.figures[f"{scope}/{name}"].value - before.figures[f"{scope}/{name}"].value
        assert moved == pytest.approx(by_mm)
    assert after.figures[f"{ring.id}/spk-fl/opening_mm"].value == pytest.approx(143.0 - woofer.cut_out_mm)
    assert after.figures[f"{ring.id}/spk-fl/covers_mm"].value == pytest.approx(186.0 - 160.0 - 12.0)
    assert not said(after, "fit")
    rows = [row.what for row in after.results.order]
    assert not any(row.startswith("Adapter ring") for row in rows), "it is among the parts"
    narrow = evaluate(apply_edits(ringed, [Edit(path=f"parts/{ring.id}/outer_mm", value=165.0)]))
    assert any("ring over the hole, 7 mm missing" in t for t in said(narrow, "fit"))


def test_a_relay_among_the_parts_is_the_one_in_the_switch_on() -> None:
    design = took(demo_design(0), "Hob relay 30 A with socket")
    assert all(link.relay for link in design.links_of(RemoteLink))
    coil = evaluate(apply_edits(design, [Edit(path="parts/switch/coil_a", value=0.21)]))
    source = coil.results.switch_ons[0]
    assert source.load.value == pytest.approx(0.21)
    assert not any("relay" in row.what and row.group == "Adapters" for row in coil.results.order)
    weak = evaluate(apply_edits(design, [Edit(path="parts/switch/contact_a", value=0.001)]))
    assert [f.severity for f in weak.findings if f.rule == "switching-relay"] == [Severity.STOP]
    idle = evaluate(
        apply_edits(design, [Edit(path=f"links/{k.id}/relay", value=False) for k in design.links_of(RemoteLink)])
    )
    assert said(idle, "switching-relay") == ["Hob relay 30 A with socket switches nothing"]
