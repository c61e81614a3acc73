"""The everyday jobs as assemblies: from an empty car and a catalogue to what an installer would check by hand."""

from __future__ import annotations

from itertools import permutations
from math import log10, pi, sqrt
from typing import Any

import pytest

from ohmack.core.build.sundries import piece_price
from ohmack.core.document import Design
from ohmack.core.document.design import Wish
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.factory import Tier
from ohmack.core.document.links import FeedLink, GroundLink, LineLink, RemoteLink, SpeakerLink, TapLink
from ohmack.core.document.parts import HeadUnit
from ohmack.core.document.vehicle import Body, Hand, SplitCharging
from ohmack.core.evaluation.answer import Evaluation
from ohmack.core.evaluation.door import evaluate
from ohmack.core.factory.outputs import coil_wirings
from ohmack.core.factory.usual_modules import modules_for
from ohmack.core.figures.finding import Finding, Severity
from ohmack.core.physics.conductors import ampacity_a, cable_price, conductor, sizes
from ohmack.core.planning.brought_along import brought_along
from ohmack.core.planning.laying import follow
from ohmack.core.planning.placing import place_part
from ohmack.core.planning.starting_points import new_vehicle
from ohmack.core.planning.survey import add_to_survey
from ohmack.core.planning.wiring import connect_everything
from ohmack.core.signal.ways import inputs_fed
from ohmack.demo.building import measured
from ohmack.demo.jobs import catalogue
from ohmack.formats.trade_entry import read_stated_volts

TREES = {tree["name"]: tree for tree in catalogue()}
RADIO, FIVE = "Quillon S2 screen radio", "Tessel Five 75+350"
DOORS, REARS = "Pell & Fenn Coax 65, pair", "Pell & Fenn Coax 52 slim, pair"


def empty(body: Body, **intake: Any) -> Design:
    return Design.model_validate(
        {"vehicle": new_vehicle("Dravel", "Minnow", 2009, body, Hand.RIGHT).model_dump(), "intake": intake}
    )


def with_parts(design: Design, *trees: dict[str, Any] | str) -> Design:
    for tree in trees:
        design = apply_edits(design, place_part(design, dict(TREES[tree] if isinstance(tree, str) else tree)))
        design = apply_edits(design, connect_everything(design))
    return design


def stops(evaluation: Evaluation) -> list[str]:
    return [f"{f.rule}: {f.title}" for f in evaluation.findings if f.severity is Severity.STOP]


def test_a_powered_subwoofer_behind_the_seat_plays_from_the_radio_that_is_there() -> None:
    """300 W, 26 A, fuse 30 A by its maker. Hand: 300 W / (0.8 × 13.6 V) = 28 A against the maker's 26 A."""
    truck = empty(Body.PICKUP, wishes=[Wish.BASS.value], reversible=True)
    truck = apply_edits(
        truck,
        [
            measured("vehicle/radio/tier", "aftermarket radio"),
            measured("vehicle/radio/line_pairs", 3),
            measured("vehicle/radio/line_v", 2.0),
        ],
    )
    truck = with_parts(truck, "Cooperage Backrest 10")
    truck = apply_edits(truck, [measured("links/power-bass/tape_length_m", 5.0)])
    result = evaluate(truck)
    assert not stops(result)
    line = next(truck.links_of(LineLink))
    assert (line.from_id, line.to_id, line.pair) == ("radio", "bass", 3), "the subwoofer's pair of three"
    assert not list(truck.links_of(TapLink)), "a line pair is cleaner than a speaker output"
    figures = result.figures
    assert figures["bass/fuse_a"].value == 30.0, "the maker's fuse, not 26 / 0.8 and up"
    assert figures["bass/current_a"].value == pytest.approx(26.0)
    assert abs(300 / (0.8 * 13.6) - 26.0) / 26.0 < 0.1, "the maker's current is what its watts would draw"
    assert figures["bass/wire"].value == "8 AWG"
    assert figures["bass/sensitivity_v"].value == pytest.approx(2.0), "full output at what the radio gives"
    space = next(s for s in truck.vehicle.spaces)
    assert truck.part("bass").position == space.position, "0.32 m high goes under no seat"
    fit = next(f for f in result.results.fits if f.part_id == "bass")
    assert fit.place_id == space.id
    assert fit.checks[0].spare.value == pytest.approx(0.25 - 0.15), "25 cm behind the seat, 15 cm deep"
    knob = next(row for row in result.results.wire_rows if row.purpose == "Bass knob")
    assert (knob.start, knob.end) == ("Cooperage Backrest 10", "the dash")
    power = next(row for row in result.results.wire_rows if row.purpose == "Power")
    assert power.length_m == 5.0
    assert "connector at the subwoofer" in power.note, "promised: out again without cutting"
    assert any("connector" in row.what for row in result.results.order)
    over = apply_edits(truck, [measured("vehicle/radio/line_v", 9.0)])
    assert any(
        "would have to be 9.00 V; the control spans 0.20 V to 4.00 V" in title for title in stops(evaluate(over))
    )


ORDERS = [order for order in permutations((FIVE, RADIO, DOORS, REARS)) if order.index(DOORS) < order.index(REARS)]


@pytest.mark.parametrize("order", ORDERS[::2], ids=lambda order: " ".join(name.split()[0] for name in order))
def test_a_five_channel_amplifier_is_wired_the_same_in_any_order(order: tuple[str, ...]) -> None:
    """4 × 75 W at 4 Ω and 1 × 350 W at 2 Ω: every output by its own papers, every line pair where it belongs."""
    sub = {**TREES["Morrowick 10 D4"], "power_rms_w": 350.0}
    design = with_parts(empty(Body.SALOON), sub, *order, "Cooperage 45 vented")
    result = evaluate(design)
    pairs = {line.pair: line.channels for line in design.links_of(LineLink)}
    assert pairs == {1: (1, 2), 2: (3, 4), 3: (5,)}, "front, rear and subwoofer kept apart"
    driven = {link.to_id: link.channel for link in design.links_of(SpeakerLink)}
    assert driven == {"spk-fl": 1, "spk-fr": 2, "spk-rl": 3, "spk-rr": 4, "sub": 5}
    figures = result.figures
    assert figures["amp/ch1/power_w"].value == pytest.approx(75.0)
    assert figures["amp/ch5/load_ohm"].value == pytest.approx(2.0), "two 4 Ω coils in parallel"
    assert figures["amp/ch5/power_w"].value == pytest.approx(350.0), "not twice the doors'"
    assert figures["amp/ch5/target_v"].value == pytest.approx(sqrt(350 * 2))
    assert figures["amp/power_w"].value == pytest.approx(4 * 75 + 350)
    expected_a = 650 / (0.8 * figures["amp/at_amplifier_v"].value) + 1.2  # class D at the shop's efficiency, and idle
    assert figures["amp/current_a"].value == pytest.approx(expected_a)
    assert figures["amp/ch5/low_pass_hz"].value == 80.0
    assert figures["amp/ch5/high_pass_hz"].value == TREES["Cooperage 45 vented"]["tuning_hz"], "subsonic at the tuning"
    assert figures["amp/ch1/high_pass_hz"].value == 80.0, "165 mm doors over a subwoofer"
    assert figures["amp/ch3/high_pass_hz"].value == 90.0, "130 mm doors"
    colours = {row.end: row.colour for row in result.results.wire_rows if row.purpose == "Speaker"}
    corners = ("Front left", "Front right", "Rear left", "Rear right")
    tones = [colours[f"{corner} door"].split(",")[0] for corner in corners]
    assert tones == ["white", "grey", "green", "purple"]  # trade convention of radio leads, common practice
    remote = next(link for link in design.links_of(RemoteLink) if link.to_id == "amp")
    assert isinstance(design.part(remote.from_id), HeadUnit), "the new radio's own remote lead"
    spans = {s.channel: s.span for s in result.results.signals}
    assert spans[5] == (0.2, 8.0)
    assert spans[1] == (0.2, 6.0)


def test_rear_doors_over_the_factory_wire_meet_it_at_the_radios_plug() -> None:
    design = with_parts(empty(Body.SALOON), RADIO, "Tessel Four 70", DOORS, REARS)
    fresh = evaluate(design)
    over = apply_edits(design, [Edit(path=f"links/speaker-spk-{c}/factory_wire", value=True) for c in ("rl", "rr")])
    result = evaluate(over)
    rows = {row.link_id: row for row in result.results.wire_rows}
    row = rows["speaker-spk-rl"]
    assert row.end == "Factory radio's plug, rear left pair"
    assert row.colour == "green, green/black"
    assert "joined to the factory wire of rear left door" in row.note
    assert row.length_m < 4.0
    assert rows["speaker-spk-fl"].end == "Front left door"
    was = next(r for r in fresh.results.wire_rows if r.link_id == "speaker-spk-rl")
    assert was.end == "Rear left door"
    pins = [
        {"id": f"p{n}", "number": n, "expected": "speaker", "channel_id": "ch-rl", "polarity": sign}
        for n, sign in ((1, "plus"), (2, "minus"))
    ]
    plug = {"id": "k", "name": "Radio plug", "position": {"x_m": 1.6, "y_m": 0.0}, "cavities": pins}
    mapped = evaluate(apply_edits(over, [Edit(op="add", path="vehicle/connectors", value=plug)]))
    joined = [j for j in mapped.results.joints.joints if j.cavity.channel_id == "ch-rl"]
    assert {j.unit for j in joined} == {"Tessel Four 70"}, "the amplifier's pair, not the new radio's, is joined there"
    assert len(joined) == 2


def test_a_dual_coil_driver_in_the_factory_subwoofers_place_goes_in_parallel() -> None:
    """Its amplifier was given 2 Ω; two 4 Ω coils make 2 in parallel and 8 in series (circuit theory)."""
    hatch = empty(Body.HATCH)
    adding = [
        Edit(
            op="add",
            path="vehicle/modules",
            value={
                "id": "subamp",
                "name": "Subwoofer amplifier",
                "kind": "subwoofer amplifier",
                "position": {"x_m": 3.4, "y_m": 0.6},
                "channels": [{"id": "ch-sub", "name": "Subwoofer", "place": "subwoofer"}],
            },
        ),
        Edit(
            op="add",
            path="vehicle/speakers",
            value={
                "id": "spk-sub",
                "name": "Factory subwoofer",
                "position": {"x_m": 3.5, "y_m": 0.4},
                "place": "boot",
                "channel_id": "ch-sub",
                "impedance_ohm": {"value": 2.0, "basis": "documented"},
            },
        ),
        measured("vehicle/modules/subamp/source_voltage_v", 12.0),
    ]
    bare = with_parts(apply_edits(hatch, adding), "Morrowick 10 D4")
    asked = [title for title in stops(evaluate(bare)) if title.startswith("fact-missing")]
    assert asked == ["fact-missing: Not measured: Factory subwoofer"], "nothing is green that nobody measured"
    (text,) = [f.text for f in evaluate(bare).findings if f.title == asked[0].partition(": ")[2]]
    assert "clear depth; cut-out" in text
    sizeless = apply_edits(
        bare, [Edit(path=f"parts/sub/{size}", value=None) for size in ("mounting_depth_mm", "cut_out_mm")]
    )
    assert len([t for t in stops(evaluate(sizeless)) if t.startswith("fact-missing")]) == 3, "nor the driver's own"
    sizes_on_file = [
        Edit(path="parts/sub/mounting_depth_mm", value=120.0), Edit(path="parts/sub/cut_out_mm", value=232.0),
        measured("vehicle/speakers/spk-sub/depth_mm", 130.0), measured("vehicle/speakers/spk-sub/cut_out_mm", 233.0),
    ]  # fmt: skip
    design = apply_edits(bare, sizes_on_file)
    sub = design.part("sub")
    assert sub.at_ids == ("spk-sub",)
    result = evaluate(design)
    assert result.figures["ch-sub/load_ohm"].value == pytest.approx(2.0)
    assert not stops(result), "the car's own amplifier drives it, in the car's own box"
    assert result.figures["sub/spk-sub/depth_spare_mm"].value == pytest.approx(10.0)
    deep = apply_edits(design, [Edit(path="parts/sub/mounting_depth_mm", value=140.0)])
    assert any("depth behind, 10 mm missing" in title for title in stops(evaluate(deep)))
    drive = next(d for d in result.results.drives if d.speaker.id == "spk-sub")
    assert drive.driver is sub
    words = {wiring.words(): wiring.key() for wiring in coil_wirings(sub)}
    (place,) = result.results.own_places
    said = {c.words: (round(c.load_ohm, 2), round(c.meter_ohm, 2), c.reason, c.chosen) for c in place.choices}
    assert said["both coils in parallel"] == (2.0, 1.7, "as the old driver was", True)
    assert said["both coils in series"] == (8.0, 6.8, "6.0 dB quieter than the old driver, at equal voltage", False)
    series = evaluate(apply_edits(design, [Edit(path="parts/sub/wiring", value=words["both coils in series"])]))
    assert series.figures["ch-sub/load_ohm"].value == pytest.approx(8.0)
    assert series.figures["ch-sub/change_db"].value == pytest.approx(10 * log10(2 / 8))
    guess = {"value": 4.0, "basis": "assumed"}
    guessed = apply_edits(design, [Edit(path="vehicle/speakers/spk-sub/impedance_ohm", value=guess)])
    assert evaluate(guessed).figures["ch-sub/load_ohm"].value == pytest.approx(8.0), (
        "as near to an assumed 4 Ω as may be"
    )
    read = evaluate(apply_edits(guessed, [measured("vehicle/speakers/spk-sub/dc_resistance_ohm", 2.1)]))
    assert read.figures["spk-sub/nominal_ohm"].value == 2.0, "2.1 Ω on the meter is a 2 Ω driver, not a 4 Ω one"
    assert read.figures["ch-sub/load_ohm"].value == pytest.approx(2.0), "parallel, because the old driver reads so"
    own = with_parts(apply_edits(design, [Edit(op="remove", path="parts/sub")]), "Tessel M300")
    link = {"id": "speaker-own", "kind": "speaker", "from_id": "amp", "to_id": "spk-sub", "channel": 1}
    driven = evaluate(apply_edits(own, [Edit(op="add", path="links", value=link)]))
    assert driven.figures["amp/low_pass_hz"].value == 80.0, "the car's own subwoofer is one too"
    boxed = with_parts(design, "Cooperage 28 closed")
    assert boxed.part("sub").at_ids == (), "a box of its own takes it out of the car's place"


def test_headrest_speakers_are_stopped_in_parallel_and_quartered_in_series() -> None:
    """Two 4 Ω: 2 Ω in parallel, 8 Ω in series with a quarter of the power each (−6.02 dB, circuit theory); the
    capacitor for 150 Hz at 8 Ω is 133 µF, 1/(2 π f Z).
    """
    roadster = empty(Body.TWO_SEATER)
    _, edits = add_to_survey(roadster, "headrest speakers")
    roadster = apply_edits(roadster, edits)
    cushion = {
        "kind": "driver", "name": "Cushion 100", "role": "full range", "impedance_ohm": 4.0, "power_rms_w": 25.0,
        "mounting_depth_mm": 38.0, "cut_out_mm": 92.0, "frame_mm": 104.0, "front_height_mm": 8.0,
        "at_ids": [s.id for s in roadster.vehicle.speakers if s.new_place],
    }  # fmt: skip
    planned = with_parts(roadster, cushion)
    result = evaluate(planned)
    overloads = [f for f in result.findings if f.rule == "channel-load"]
    assert [f.severity for f in overloads] == [Severity.STOP] * 2
    assert overloads[0].title == "2 Ω on Rear left, which wants 4 Ω"
    for finding in overloads:
        planned = apply_edits(planned, finding.remedy.edits)
    series = evaluate(planned)
    channel = "ch-rear-left"
    assert series.figures[f"{channel}/load_ohm"].value == pytest.approx(8.0)
    assert series.figures[f"{channel}/each_db"].value == pytest.approx(10 * log10(1 / 4))
    assert not stops(series)
    small = [f for f in series.findings if f.rule == "small-speaker"]
    assert len(small) == 2
    wanted_uf = 1e6 / (2 * pi * 135.0 * 8.0)
    assert series.figures[f"{channel}/wanted_uf"].value == pytest.approx(wanted_uf)
    for finding in small:
        planned = apply_edits(planned, finding.remedy.edits)
    held = evaluate(planned)
    assert not [f for f in held.findings if f.rule == "small-speaker"]
    assert held.figures[f"{channel}/corner_hz"].value == pytest.approx(1e6 / (2 * pi * 8.0 * 150.0))
    cables = [row for row in held.results.wire_rows if "headrest" in row.end]
    assert len(cables) == 4
    assert [row.note.split(";")[0] for row in cables] == ["pair", "in series with it"] * 2
    assert any(f.rule == "caution-seat-cable" for f in held.findings)
    priced = held.figures["cable/18-awg"]
    metres = sum(row.length_m for row in cables)
    assert priced.value == pytest.approx(2 * cable_price(conductor("18 AWG"), metres), rel=1e-6), "no other cable here"


def test_a_second_battery_gets_a_charge_cable_fused_at_both_ends(estate: Design) -> None:
    """Hand: a relay of 100 A behind head-room of 0.8 wants a 125 A fuse at either end, and a cable that carries it."""
    second = {"id": "second", "name": "Boot battery", "position": {"x_m": 4.0, "y_m": -0.5}, "role": "leisure"}
    design = apply_edits(estate, [Edit(op="add", path="vehicle/supply/batteries", value=second)])
    design = with_parts(design, "Hob charging relay 100")
    result = evaluate(design)
    (entry,) = result.results.charging
    assert (entry.link.from_id, entry.link.to_id) == ("battery", "second")
    assert entry.figures["fuse"].value == 125.0
    assert ampacity_a(entry.wire, engine_space=True) >= 125.0
    thinner = sizes("AWG", "copper")[sizes("AWG", "copper").index(entry.wire) - 1]
    length_m = result.results.runs[entry.link.id].length.value
    lost_v = 100.0 * thinner.resistance_ohm_per_m * length_m
    assert ampacity_a(thinner, engine_space=True) < 125.0 or lost_v > design.policy.drop_limit_v
    assert entry.figures["drop"].value == pytest.approx(100.0 * entry.wire.resistance_ohm_per_m * length_m)
    wide = Edit(path="parts/relay/terminal_area_max_mm2", value=100.0)
    far = evaluate(apply_edits(design, [wide, measured(f"links/{entry.link.id}/tape_length_m", 12.0)]))
    thick = far.results.charging[0].wire
    assert 100.0 * thick.resistance_ohm_per_m * 12.0 <= design.policy.drop_limit_v, "over 12 m the drop decides"
    assert thick.area_mm2 > entry.wire.area_mm2
    fuses = [row for row in result.results.fuse_rows if "charge cable" in row.protects]
    assert [row.rating_a for row in fuses] == [125.0, 125.0]
    grounds = [row for row in result.results.wire_rows if row.start == "Boot battery"]
    assert grounds[0].size == entry.wire.label, "the ground lead is as thick"
    assert design.vehicle.supply.split_charging.value is SplitCharging.RELAY
    one = evaluate(apply_edits(design, [Edit(path=f"links/{entry.link.id}/far_fuse", value=False)]))
    assert "charge-cable: The charge cable of Boot battery is not fused at both ends" in stops(one)
    thin = evaluate(apply_edits(design, [Edit(path=f"links/{entry.link.id}/wire/size", value="8 AWG")]))
    assert any("its fuses blow at" in title for title in stops(thin))


def test_a_passive_converter_in_the_boot_takes_the_rear_leads_and_no_current() -> None:
    """Papers in watts: 40 W into 4 Ω is √160 = 12.65 V; 2 V out at that is a gain of 20 log(2 / 12.65) = −16 dB."""
    saloon = apply_edits(empty(Body.SALOON), [measured("vehicle/radio/source_voltage_v", 9.0)])
    passive = {
        "kind": "converter", "name": "Kettleworth pad", "active": False, "input_pairs": 2, "output_pairs": 1,
        "input_limit_v": read_stated_volts("40 W")[0], "output_limit_v": 2.0, "supply_current_a": 0.0,
    }  # fmt: skip
    design = with_parts(saloon, passive, "Tessel M500", "Morrowick 10 D4", "Cooperage 28 closed")
    kinds = sorted(link.kind for link in design.links if "converter" in (getattr(link, "to_id", ""),))
    assert kinds == ["tap"], "no feed, no ground, no switch-on"
    result = evaluate(design)
    gain = 20 * log10(2.0 / sqrt(160.0))
    assert result.figures["converter/full_gain_db"].value == pytest.approx(gain, abs=1e-3)
    assert result.figures["converter/gain_db"].value == pytest.approx(gain, abs=1e-3), "it has no knob"
    source_v = result.figures["radio/source_v"].value
    assert result.figures["converter/output_v"].value == pytest.approx(source_v * 10 ** (gain / 20), rel=1e-3)
    stops = {f.rule for f in result.findings if f.severity is Severity.STOP}
    assert not {"link-missing", "signal-missing"} & stops
    boot = [
        Edit(path="parts/converter/position", value={"x_m": 3.6, "y_m": 0.3}),
        Edit(path="links/tap-converter/place", value="leads at the speakers"),
    ]
    moved = evaluate(apply_edits(design, follow(design, boot)))
    run = moved.results.runs["tap-converter"]
    assert run.start_name == "Rear left door, its leads"
    line = moved.results.runs["line-amp"]
    assert line.length.value < result.results.runs["line-amp"].length.value, "the line starts in the boot now"
    assert all(x > 2.0 for x, _ in line.points)
    joints = next(p.step for p in moved.results.work_plan.steps if p.step.id == "join-wires")
    assert joints.what.startswith("4 joints at"), "two pairs, two wires each"
    assert joints.times == 4
    assert joints.where == run.points[0], "at the leads, not behind the radio"
    assert [row.amount for row in moved.results.order if row.what.startswith("Joint at a wire")] == ["4"]
    assert not [row for row in result.results.order if row.what.startswith("Joint at a wire")], "by plug adapter"
    at_the_dash = evaluate(apply_edits(design, follow(design, boot[1:])))
    detours = [any(f.rule == "signal-detour" for f in e.findings) for e in (result, at_the_dash)]
    assert detours == [False, True], "from the dash to the boot is the way it goes; there and back from the boot is not"


def test_one_pair_into_two_amplifiers_orders_its_y_lead() -> None:
    design = with_parts(
        empty(Body.ESTATE), "Tessel M500", "Morrowick 10 D4", "Cooperage 28 closed", "Tessel Four 70", DOORS,
        "Sprig LC2 active",
    )  # fmt: skip
    lines = list(design.links_of(LineLink))
    assert {line.to_id for line in lines} == {"amp", "amp-2"}
    assert {line.pair for line in lines} == {1}, "the converter has one pair"
    leads = [row for row in evaluate(design).results.order if row.what == "Y lead for an RCA pair"]
    assert [row.amount for row in leads] == ["1"]
    assert leads[0].note.endswith("into 2 inputs")


@pytest.mark.parametrize(
    ("parts", "leads"), [((DOORS,), []), ((DOORS, "Morrowick 10 D4", "Cooperage 28 closed"), ["1"])]
)
def test_one_pair_into_both_inputs_of_an_amplifier_orders_its_y_lead(parts: tuple[str, ...], leads: list[str]) -> None:
    """Doors on channels 1 and 2 take one pair; a bridged subwoofer on 3 and 4 besides takes another."""
    design = with_parts(empty(Body.ESTATE), "Tessel Four 70", *parts, "Sprig LC2 active")
    rows = [row for row in evaluate(design).results.order if row.what == "Y lead for an RCA pair"]
    assert [row.amount for row in rows] == leads
    assert all("into 2 inputs; none where its input switch joins them" in row.note for row in rows)
    assert [row.price for row in rows] == [piece_price("y_lead")] * len(leads)


@pytest.mark.parametrize(("channels", "inputs"), [([1], 1), ([1, 2], 1), ([3, 4], 1), ([4], 1), ([2, 3], 2)])
def test_inputs_are_pairs_of_channels(channels: list[int], inputs: int) -> None:
    """RCA inputs come in pairs, 1 with 2 and 3 with 4; common practice, no source."""
    design = with_parts(
        empty(Body.ESTATE), "Tessel Four 70", DOORS, "Morrowick 10 D4", "Cooperage 28 closed", "Sprig LC2 active"
    )
    line = next(design.links_of(LineLink))
    design = apply_edits(design, [Edit(path=f"links/{line.id}/channels", value=channels)])
    assert inputs_fed(design, next(design.links_of(LineLink))) == inputs


@pytest.mark.parametrize(
    ("channels", "title"),
    [
        ([1, 3], "Tessel Five 75+350: two RCA pairs into channel 3"),
        ([1, 2, 6], "Tessel Five 75+350 has 5 channels, a pair is led into channel 6"),
    ],
)
def test_pairs_are_led_into_channels_that_are_there_and_free(channels: list[int], title: str) -> None:
    design = with_parts(empty(Body.SALOON), RADIO, FIVE, DOORS, REARS, "Morrowick 10 D4", "Cooperage 28 closed")
    front = next(line for line in design.links_of(LineLink) if line.pair == 1)
    wrong = apply_edits(design, [Edit(path=f"links/{front.id}/channels", value=channels)])
    assert f"line-channels: {title}" in stops(evaluate(wrong))
    assert not [t for t in stops(evaluate(design)) if t.startswith("line-channels")]


@pytest.mark.parametrize(("channels", "left"), [([1, 2, 6], (1, 2)), ([6, 7], None)])
def test_a_pair_is_led_out_of_channels_that_are_not_there(channels: list[int], left: tuple[int, ...] | None) -> None:
    design = with_parts(empty(Body.SALOON), RADIO, FIVE, DOORS, REARS)
    front = next(line for line in design.links_of(LineLink) if line.pair == 1)
    wrong = apply_edits(design, [Edit(path=f"links/{front.id}/channels", value=channels)])
    (said,) = [f for f in evaluate(wrong).findings if f.rule == "line-channels"]
    mended = {line.id: line for line in apply_edits(wrong, said.remedy.edits).links_of(LineLink)}
    assert (mended[front.id].channels if front.id in mended else None) == left
    assert len(mended) == len(list(design.links_of(LineLink))) - (left is None)


def test_a_pair_somebody_chose_stays_when_other_parts_come() -> None:
    design = with_parts(empty(Body.SALOON), RADIO, "Tessel Four 70", "Morrowick 10 D4", "Cooperage 28 closed")
    line = next(design.links_of(LineLink))
    assert line.pair == 3
    chosen = apply_edits(design, [Edit(path=f"links/{line.id}/pair", value=2)])
    later = with_parts(chosen, "Rings, sleeves, loom, ties", "Hob strip holder")
    assert [(k.pair, k.channels) for k in later.links_of(LineLink)] == [(2, ())]
    doors = with_parts(later, DOORS)
    assert {k.pair: k.channels for k in doors.links_of(LineLink)} == {1: (1, 2), 3: (3, 4)}


def test_a_twelve_inch_driver_does_not_go_into_a_ten_inch_hole() -> None:
    """Plain geometry: 278 mm into a 232 mm opening lacks 46; 150 mm deep in 140 lacks 10."""
    sub = {**TREES["Morrowick 12 D2"], "cut_out_mm": 278.0, "mounting_depth_mm": 150.0}
    box = {**TREES["Cooperage 28 closed"], "cut_out_mm": 232.0, "depth_mm": 140.0}
    design = with_parts(empty(Body.ESTATE), sub, box)
    result = evaluate(design)
    assert result.figures["sub/box/opening_mm"].value == pytest.approx(-46.0)
    assert result.figures["sub/box/depth_mm"].value == pytest.approx(-10.0)
    fits = [title for title in stops(result) if title.startswith("fit:")]
    assert any("cut-out, 46 mm missing" in title for title in fits)
    assert any("depth behind, 10 mm missing" in title for title in fits)
    roomy = apply_edits(
        design, [Edit(path="parts/box/cut_out_mm", value=280.0), Edit(path="parts/box/depth_mm", value=200.0)]
    )
    assert not [title for title in stops(evaluate(roomy)) if title.startswith("fit:")]


@pytest.mark.parametrize(
    ("ahead_mm", "planned_mm", "doors"),
    # 12 mm stand proud, 5 mm stay free: 7, 43 and 2 mm are left for a ring; the right door has the room of the first
    [(24.0, 7.0, 2), (60.0, 12.0, 1), (19.0, None, 0)],
)
def test_a_ring_that_carries_the_screws_leaves_the_cone_its_room(
    ahead_mm: float, planned_mm: float | None, doors: int
) -> None:
    """Plain geometry; a ring too thick leads to the thickest that goes, and none that goes is not promised."""
    place = "vehicle/speakers/spk-fl"

    def said(design: Design, rule: str) -> list[Finding]:
        return [f for f in evaluate(design).findings if f.rule == rule and "Front left door" in f.title]

    design = with_parts(empty(Body.SALOON), "Tessel Four 70", DOORS)
    design = apply_edits(design, [measured(f"{place}/trim_clearance_mm", ahead_mm)])
    (screws,) = said(design, "screws-over-hole")
    assert [e.value["value"] for e in screws.remedy.edits] == [planned_mm] * doors
    ringed = apply_edits(design, screws.remedy.edits)
    assert bool(said(ringed, "screws-over-hole")) is (planned_mm is None)
    assert said(ringed, "fit") == []
    thick = apply_edits(design, [measured(f"{place}/adapter_ring_mm", 55.0)])
    (tight,) = said(thick, "fit")
    assert [e.value["value"] for e in tight.remedy.edits] == [ahead_mm - 12 - 5]


def test_a_processor_on_a_radios_line_has_its_signal() -> None:
    design = with_parts(
        empty(Body.SALOON), RADIO, "Quillon six-way processor", "Tessel Four 70", DOORS, "Radio plug adapter, 16 way"
    )
    into = [line for line in design.links_of(LineLink) if line.to_id == "processor"]
    assert len(into) == 1
    assert not list(design.links_of(TapLink))
    lacking = [f.title for f in evaluate(design).findings if f.rule in ("link-missing", "signal-missing")]
    assert not lacking
    deaf = apply_edits(design, [Edit(op="remove", path=f"links/{into[0].id}")])
    assert "Quillon six-way processor has no signal pickup" in [
        f.title for f in evaluate(deaf).findings if f.rule == "signal-missing"
    ]


def test_a_charge_cable_goes_into_its_relay(estate: Design) -> None:
    second = {"id": "second", "name": "Boot battery", "position": {"x_m": 4.0, "y_m": -0.5}}
    design = apply_edits(estate, [Edit(op="add", path="vehicle/supply/batteries", value=second)])
    design = with_parts(design, {**TREES["Hob charging relay 100"], "terminal_area_max_mm2": 8.4})
    (entry,) = evaluate(design).results.charging
    assert entry.wire.area_mm2 <= 8.4 * 1.005, "nothing thicker is proposed"
    thick = apply_edits(design, [Edit(path=f"links/{entry.link.id}/wire/size", value="1/0 AWG")])
    assert "charge-cable: 1/0 AWG does not go into Hob charging relay 100" in stops(evaluate(thick))


def test_a_choice_brings_along_what_belongs_to_it() -> None:
    """There is no plug to adapt at the speakers' leads, and a part is grounded near where it stands (common practice);
    what was chosen against the nearest stays.
    """
    design = with_parts(empty(Body.SALOON), "Tessel M500", "Morrowick 10 D4", "Cooperage 28 closed", "Sprig LC2 active")
    tap = next(design.links_of(TapLink))
    feed = next(design.links_of(FeedLink))
    assert (tap.method.value, feed.ground_point_id) == ("plug adapter", "ground-radio")
    spliced = apply_edits(design, follow(design, [Edit(path=f"links/{tap.id}/place", value="leads at the speakers")]))
    assert next(spliced.links_of(TapLink)).method.value == "splice"
    both = [
        Edit(path=f"links/{tap.id}/place", value="leads at the speakers"),
        Edit(path=f"links/{tap.id}/method", value="plug adapter"),
    ]
    assert next(apply_edits(design, follow(design, both)).links_of(TapLink)).method.value == "plug adapter"
    away = [Edit(path="parts/converter/position", value={"x_m": 3.9, "y_m": -0.4})]
    moved = apply_edits(design, follow(design, away))
    assert next(moved.links_of(FeedLink)).ground_point_id == "ground-rear"
    near = [Edit(path="parts/converter/position", value={"x_m": 1.7, "y_m": 0.1})]
    assert brought_along(design, apply_edits(design, near), near) == (), (
        "the nearest is the nearest still: nothing is changed"
    )
    chosen = apply_edits(design, [Edit(path=f"links/{feed.id}/ground_point_id", value="ground-rear")])
    back = apply_edits(chosen, follow(chosen, [Edit(path="parts/converter/position", value={"x_m": 1.4, "y_m": 0.3})]))
    assert next(back.links_of(FeedLink)).ground_point_id == "ground-rear", "somebody chose it"
    lead = next(design.links_of(GroundLink))
    shifted = [Edit(path="parts/amp/position", value={"x_m": 1.7, "y_m": 0.3})]
    assert next(k for k in apply_edits(design, follow(design, shifted)).links_of(GroundLink)).to_id == "ground-radio"
    taped = apply_edits(design, [measured(f"links/{lead.id}/tape_length_m", 0.4)])
    assert next(apply_edits(taped, follow(taped, shifted)).links_of(GroundLink)).to_id == "ground-rear", (
        "it is measured"
    )


def test_a_factory_subwoofer_is_what_its_pair_reads() -> None:
    """2.1 Ω at the plug is a 2 Ω driver (75 to 105 % of nominal, common practice), whatever was assumed; beside another
    speaker on the pair the reading says nothing about one of them.
    """
    hatch = empty(Body.HATCH)
    hatch = apply_edits(hatch, [measured("vehicle/radio/tier", "radio plus subwoofer amplifier")])
    hatch = apply_edits(hatch, modules_for(hatch, Tier.SUB_AMPLIFIER))
    sub = next(s for s in hatch.vehicle.speakers if "subwoofer" in s.name.lower())
    (module,) = hatch.vehicle.modules
    pair = f"vehicle/modules/{module.id}/channels/{sub.channel_id}/pair_resistance_ohm"
    read = with_parts(apply_edits(hatch, [measured(pair, 2.1)]), "Morrowick 10 D4")
    result = evaluate(read)
    assert result.figures[f"{sub.id}/nominal_ohm"].value == 2.0
    assert result.figures[f"{sub.channel_id}/load_ohm"].value == pytest.approx(2.0), "parallel, as the old one was"
    row = next(p for p in result.results.baseline.pairs if p.channel.id == sub.channel_id)
    assert (row.verdict.split(";")[0], row.good) == ("as a 2 Ω speaker reads", True)
    assert next(c for c in result.results.circuits if c.channel.id == sub.channel_id).on_file
    bare = with_parts(hatch, "Morrowick 10 D4")
    assert evaluate(bare).figures[f"{sub.channel_id}/load_ohm"].value == pytest.approx(8.0), "4 Ω was assumed"
    shared = apply_edits(read, [Edit(path="vehicle/speakers/spk-rl/channel_id", value=sub.channel_id)])
    assert f"{sub.id}/nominal_ohm" not in evaluate(shared).figures
