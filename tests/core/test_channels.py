"""Amplifiers of several channels, powered subwoofers, plug-in amplifiers and feeds: against circuit laws and trade
facts.
"""

from __future__ import annotations

from math import sqrt
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.design import ends_of
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.factory import Tier
from ohmack.core.document.links import SpeakerLink
from ohmack.core.document.parts import Converter, PoweredSubwoofer, Subwoofer
from ohmack.core.errors import BadDocument
from ohmack.core.evaluation.answer import Evaluation
from ohmack.core.evaluation.changes import compare, what_moved
from ohmack.core.evaluation.door import evaluate
from ohmack.core.figures.finding import Severity
from ohmack.core.planning.placing import place_part
from ohmack.core.planning.wiring import connect, connect_everything
from ohmack.demo.building import catalogue
from ohmack.demo.everyday_jobs import picked
from ohmack.demo.jobs import demo_design
from references import published

FOUR: dict[str, Any] = {
    "kind": "amplifier",
    "name": "Four",
    "channel_count": 4,
    "ratings": [{"load_ohm": 2.0, "power_w": 100.0}, {"load_ohm": 4.0, "power_w": 60.0}],
    "lowest_load_ohm": 2.0,
    "bridged_ratings": [{"load_ohm": 4.0, "power_w": 200.0}, {"load_ohm": 8.0, "power_w": 120.0}],
    "lowest_bridged_ohm": 4.0,
    "terminal_area_max_mm2": 21.2,
    "sensitivity_low_v": 0.3,
    "sensitivity_high_v": 6.0,
    "speaker_level_low_v": 1.0,
    "speaker_level_high_v": 20.0,
}
DOORS = {
    "id": "doors",
    "kind": "driver",
    "name": "Door pair",
    "at_ids": ["spk-fl", "spk-fr"],
    "impedance_ohm": 4.0,
    "power_rms_w": 50.0,
    "mounting_depth_mm": 40.0,
    "cut_out_mm": 120.0,
    "frame_mm": 140.0,
    "front_height_mm": 5.0,
}


def four_channels(estate: Design) -> Design:
    """The estate with four channels in the mono amplifier's place: doors on the first two, the subwoofer bridged."""
    bare = apply_edits(estate, [Edit(op="remove", path="parts/amp"), Edit(op="add", path="parts", value=DOORS)])
    placed = apply_edits(bare, place_part(bare, FOUR))
    return apply_edits(placed, connect(placed, "amp"))


def stops(evaluation: Evaluation, rule: str) -> list[str]:
    return [f.title for f in evaluation.findings if f.rule == rule and f.severity is Severity.STOP]


def test_four_channels_are_laid_by_side_and_the_subwoofer_bridged(estate: Design) -> None:
    result = evaluate(four_channels(estate))
    outputs = {load.link.channel: load for load in result.results.loads}
    assert [(n, o.driven[0].id, o.link.bridged) for n, o in sorted(outputs.items())] == [
        (1, "spk-fl", False), (2, "spk-fr", False), (3, "sub", True),
    ]  # fmt: skip
    # A dual 4 ohm driver is 2 or 8 ohm; bridged into 4 at least, so 8 (common practice, no source).
    assert outputs[3].load.value == 8.0
    assert outputs[3].power.value == pytest.approx(120.0)
    assert result.figures["amp/power_w"].value == pytest.approx(60 + 60 + 120)
    assert not stops(result, "load-below-permitted")


@pytest.mark.parametrize(
    ("takes_w", "bass", "offered"),
    [(180.0, False, "Bridge 4 channels: 200 W each"), (180.0, True, "Find one that suits"),
     (400.0, False, "Find one that suits"), (50.0, False, "")],
)  # fmt: skip
def test_doors_that_get_too_little_are_bridged_where_channels_are_free(
    takes_w: float, bass: bool, offered: str, estate: Design
) -> None:
    """By the papers' ratings: 60 W a channel, 200 W bridged into the same 4 Ω; not where a subwoofer has the other two,
    and not where that would still be too little.
    """
    design = four_channels(estate)
    edits = [Edit(path="parts/doors/power_rms_w", value=takes_w)]
    edits += [Edit(op="remove", path=path) for path in ("parts/sub", "parts/box") if not bass]
    design = apply_edits(design, edits)
    told = [f for f in evaluate(design).findings if f.rule == "driver-underpowered" and f.about != "sub"]
    assert [f.remedy.label for f in told if f.remedy] == ([offered] if offered else [])
    if not offered.startswith("Bridge"):
        return
    assert told[0].remedy is not None
    after = evaluate(apply_edits(design, list(told[0].remedy.edits)))
    outputs = {
        load.link.channel: (load.driven[0].id, load.link.bridged, load.power.value) for load in after.results.loads
    }
    assert outputs == {1: ("spk-fl", True, 200.0), 3: ("spk-fr", True, 200.0)}
    assert "driver-underpowered" not in {f.rule for f in after.findings}


@pytest.mark.parametrize(
    ("amplifiers", "outputs"),
    [
        (("Tessel Four 70", "Tessel Two 200"), {("Tessel Two 200", 1, True)}),
        (("Tessel Two 200", "Tessel Four 70"), {("Tessel Two 200", 1, True)}),
        (("Tessel M500", "Tessel M500"), {("Tessel M500", 1, False), ("Tessel M500, second", 1, False)}),
        (("Tessel M300", "Tessel M500"), {("Tessel M300", 1, False), ("Tessel M500", 1, False)}),
    ],
)
@pytest.mark.parametrize("doors_first", [True, False])
def test_subwoofers_go_to_the_stronger_amplifier(
    estate: Design, amplifiers: tuple[str, ...], outputs: set[tuple[str, int, bool]], doors_first: bool
) -> None:
    """Two subwoofers beside a four-channel for the doors hang on the bridge that is stronger, in whatever order the
    amplifiers were picked; of two monoblocks each gets one. Common practice.
    """
    bare = apply_edits(estate, [Edit(op="remove", path=f"parts/{name}") for name in ("amp", "sub", "box")])
    doors, subs = ("Pell & Fenn Coax 65, pair",), ("Morrowick 10 D4", "Morrowick 10 D4")
    _, design = picked(bare, (*amplifiers, *doors, *subs) if doors_first else (*amplifiers, *subs, *doors))
    named = {part.id: part for part in design.parts_of(Amplifier)}
    bass = {part.id for part in design.parts_of(Subwoofer)}
    hung = [link for link in design.links_of(SpeakerLink) if link.to_id in bass]
    assert {link.to_id for link in hung} == bass
    assert {(named[link.from_id].name, link.channel, link.bridged) for link in hung} == outputs
    assert len({link.from_id for link in hung}) == (2 if "M500" in amplifiers[1] else 1)


def test_a_speaker_the_new_amplifier_drives_loads_the_radio_no_more(estate: Design) -> None:
    before = {
        c.channel.id
        for c in evaluate(apply_edits(estate, [Edit(op="add", path="parts", value=DOORS)])).results.channel_loads
    }
    after = {c.channel.id for c in evaluate(four_channels(estate)).results.channel_loads}
    assert before >= {"ch-fl", "ch-fr"}
    assert not after & {"ch-fl", "ch-fr"}
    crossed = [
        f.title for f in evaluate(four_channels(estate)).findings if f.rule == "zone" and "door" in f.title.lower()
    ]
    assert not [title for title in crossed if "seat rail" in title]


def test_the_supply_carries_all_channels_together(estate: Design) -> None:
    """I V = P/η + I_idle V with V = E − I R, by the loop's own resistance: the balance closes."""
    result = evaluate(four_channels(estate))
    supply = result.results.supplies[0]
    volts, current = supply.figures["voltage"].value, supply.figures["current"].value
    assert current == pytest.approx(240 / 0.8 / volts + 0.8)
    loop = sum(s.resistance_ohm for s in supply.segments)
    assert volts + current * loop == pytest.approx(estate.vehicle.supply.post_running_v.value)


def test_every_output_has_its_own_target(estate: Design) -> None:
    """V = √(P Z), P the smaller of amplifier and driver: 50 W doors on 60 W, the subwoofer on what the bridge gives."""
    design = apply_edits(
        four_channels(estate), [Edit(path="policy/tone_dbfs", value=0.0), Edit(path="policy/overlap_db", value=0.0)]
    )
    figures = evaluate(design).figures
    assert figures["amp/ch1/target_v"].value == pytest.approx(sqrt(50 * 4))
    assert figures["amp/ch3/target_v"].value == pytest.approx(sqrt(120 * 8))
    # The doors' sensitivity is set √(60/50) duller than what arrives, so that full scale gives 50 W and no more.
    arrives = figures["converter/output_v"].value
    assert figures["amp/ch1/sensitivity_v"].value == pytest.approx(arrives * sqrt(60 / 50))
    assert figures["amp/ch3/sensitivity_v"].value == pytest.approx(arrives)


@given(st.lists(st.tuples(st.sampled_from([2.0, 3.0, 4.0, 8.0]), st.floats(20, 300)), min_size=2, max_size=3))
@settings(max_examples=25)
def test_what_several_drivers_take_together(drivers: list[tuple[float, float]]) -> None:
    """At the allowed power no driver has more than its rating and one has exactly it: by voltages over resistances."""
    design = demo_design(0)
    edits = [Edit(op="remove", path="parts/sub")]
    for n, (ohm, watts) in enumerate(drivers):
        sub = {
            "id": f"s{n}",
            "kind": "subwoofer",
            "name": f"S{n}",
            "coils": [{"impedance_ohm": ohm}],
            "power_rms_w": watts,
        }
        edits += [
            Edit(op="add", path="parts", value=sub),
            Edit(
                op="add",
                path="links",
                value={"id": f"k{n}", "kind": "speaker", "from_id": "amp", "to_id": f"s{n}"},
            ),
        ]
    edits.append(Edit(path="parts/amp/lowest_load_ohm", value=0.25))
    edits.append(Edit(path="parts/amp/ratings", value=[{"load_ohm": 0.25, "power_w": 500.0}]))
    edits.append(
        Edit(path="links/k0/wiring", value=f"parallel({','.join('ABC'[n] + '1' for n in range(len(drivers)))})")
    )
    load = evaluate(apply_edits(design, edits)).results.loads[0]
    parallel = next(
        o for o in load.options if o.wiring.kind == "parallel" and all(p.kind == "coil" for p in o.wiring.parts)
    )
    assert parallel.load_ohm == pytest.approx(1 / sum(1 / ohm for ohm, _ in drivers))
    assert parallel.power_w is not None
    assert parallel.match is not None
    volts = sqrt(parallel.power_w / parallel.match * parallel.load_ohm)  # at what they take together
    over_rating = [volts**2 / ohm / watts for ohm, watts in drivers]
    assert max(over_rating) == pytest.approx(1.0)


@pytest.mark.parametrize(
    ("edits", "words"),
    [
        ([Edit(path="links/speaker-spk-fl/channel", value=7)], "has 4 channels"),
        ([Edit(path="links/speaker-spk-fl/channel", value=4)], "in the bridge"),
        (
            [Edit(path="links/speaker-spk-fr/channel", value=4), Edit(path="links/speaker-spk-fr/bridged", value=True)],
            "has 4 channels",
        ),
    ],
)  # fmt: skip
def test_channels_that_cannot_be(edits: list[Edit], words: str, estate: Design) -> None:
    assert any(words in title for title in stops(evaluate(apply_edits(four_channels(estate), edits)), "channel-clash"))


def test_an_amplifier_that_contradicts_itself_is_refused(estate: Design) -> None:
    for change in ({"channel_count": 1}, {"lowest_bridged_ohm": None}, {"speaker_level_low_v": 30.0}):
        with pytest.raises(BadDocument):
            apply_edits(estate, place_part(estate, FOUR | change))


def test_what_a_factory_speaker_takes_is_asked_for(estate: Design) -> None:
    one = {"id": "k", "kind": "speaker", "from_id": "amp", "to_id": "spk-rl", "channel": 2}
    bare = apply_edits(
        four_channels(estate),
        [
            Edit(path="vehicle/speakers/spk-rl/takes_w", value={}),
            Edit(op="remove", path="links/speaker-spk-fr"),
            Edit(op="add", path="links", value=one),
        ],
    )
    result = evaluate(bare)
    assert any("RMS power it takes" in f.title for f in result.findings if f.rule == "fact-missing")
    unknown = apply_edits(bare, [Edit(path="vehicle/speakers/spk-rl/impedance_ohm", value={})])
    gaps = [f for f in evaluate(unknown).findings if f.rule == "fact-missing"]
    assert any(f.about == "vehicle/speakers/spk-rl/impedance_ohm" for f in gaps)


# -- straight in, and what feeds it ---------------------------------------------------------------------------------

FLAT: dict[str, Any] = {
    "kind": "powered subwoofer",
    "name": "Flat",
    "power_rms_w": 100.0,
    "supply_current_a": 9.0,
    "speaker_level_low_v": 2.0,
    "speaker_level_high_v": 20.0,
}


def with_flat(estate: Design, **more: Any) -> Design:
    placed = apply_edits(estate, place_part(estate, FLAT | more))
    return apply_edits(placed, connect(placed, "bass"))


def without_run(estate: Design, **more: Any) -> Design:
    """A powered subwoofer whose run was taken out again: what feeds it is open."""
    laid = with_flat(estate, **more)
    return apply_edits(laid, [Edit(op="remove", path=f"links/{kind}-bass") for kind in ("power", "ground")])


def test_a_powered_subwoofer_has_a_run_of_its_own(estate: Design) -> None:
    """Its maker's fuse and current decide; over 5 m of 8 AWG by Ohm's law (ASTM B258 area, IEC 60028 copper)."""
    tape = [Edit(path="links/power-bass/tape_length_m", value={"value": 5.0, "basis": "measured"}),
            Edit(path="links/ground-bass/tape_length_m", value={"value": 0.5, "basis": "measured"})]  # fmt: skip
    design = apply_edits(with_flat(estate, supply_current_a=26.0, fuse_a=30.0, name="Bench 300"), tape)
    result = evaluate(design)
    supply = next(s for s in result.results.supplies if s.part.id == "bass")
    assert supply.figures["fuse"].value == 30.0  # as its maker names, not 26 / 0.8 and the next size
    assert not [f for f in result.findings if f.rule == "fuse-below-current" and f.about == "links/power-bass"]
    eight = next(c for c in supply.candidates if c.wire.label == "8 AWG")
    loop = 5.5 * 2.061e-3 + 4 * 0.15e-3 + 0.07 / 30 + 0.0013 + 0.0004  # 2.061 mΩ a metre
    shared = 46.0 * (0.0013 + 0.0004)  # what the estate's own amplifier drops in the same way back
    assert eight.drop_v == pytest.approx(26.0 * loop + shared, rel=0.01)
    assert not stops(result, "self-fed")
    assert stops(evaluate(apply_edits(design, [Edit(op="remove", path="links/power-bass")])), "self-fed") == [
        "Bench 300: 26.0 A and no supply"
    ]


def test_a_powered_subwoofer_is_laid_with_pair_and_switch_on(estate: Design) -> None:
    design = with_flat(estate)
    kinds = {link.kind for link in design.links if "bass" in ends_of(link)}
    assert kinds == {"tap", "remote", "power", "ground"}
    hears = with_flat(estate, senses_audio=True)
    assert {k.kind for k in hears.links if "bass" in ends_of(k) and k.kind != "tap"} == {"power", "ground"}
    assert not [f for f in evaluate(hears).findings if f.rule in ("link-missing", "signal-missing")]
    gone = apply_edits(design, [Edit(op="remove", path="parts/bass")])
    assert not [k for k in gone.links if "bass" in ends_of(k)]


def test_peak_volts_are_not_rms_volts(estate: Design) -> None:
    """9 V peak is 6.4 V rms, 10 W into 4 ohm and not 20 (arithmetic of the sine; common practice that both are
    printed).
    """
    assert estate.vehicle.radio.source_voltage_v.value == pytest.approx(9.0, abs=1.5)
    assert not stops(evaluate(with_flat(estate, speaker_level_high_v=12.0)), "speaker-level-input")
    assert stops(evaluate(with_flat(estate, speaker_level_high_v=12.0, input_stated_as="peak")), "speaker-level-input")
    margin = evaluate(with_flat(estate, speaker_level_high_v=18.0)).figures["bass/input_margin_db"].value
    source = estate.vehicle.radio.source_voltage_v.value
    assert source is not None
    assert 10 ** (margin / 20) == pytest.approx(18.0 / source)


OHM_PER_KM = dict(published("copper_wire_km"))
E11 = {size: amps for size, amps in published("ampacity_105c") if size in OHM_PER_KM}


@given(
    st.sampled_from(sorted(E11)), st.sampled_from([5.0, 7.5, 10.0, 15.0, 20.0, 25.0, 30.0]), st.floats(0, 12),
    st.floats(3, 20), st.floats(1, 6)
)  # fmt: skip
@settings(max_examples=60)
def test_a_factory_feed_carries_a_part_or_not(
    size: str, fuse_a: float, old_a: float, new_a: float, length_m: float
) -> None:
    """Old and new load within the fuse with head-room, the fuse within the wire, half the drop allowed in its wire."""
    estate = demo_design(0)
    base = "vehicle/feeds/radio-constant"
    known = {"old_load_a": old_a, "fuse_a": fuse_a, "wire_size": size, "wire_length_m": length_m}
    facts = [Edit(path=f"{base}/{name}", value={"value": value, "basis": "measured"}) for name, value in known.items()]
    result = evaluate(apply_edits(without_run(estate, supply_current_a=new_a), facts))
    tap = next(t for item in result.results.self_fed for t in item.taps if item.part.id == "bass")
    total_a = old_a + new_a + sum(c.supply_current_a for c in estate.parts_of(Converter))  # it hangs on that feed too
    drop_v = total_a * OHM_PER_KM[size] / 1000 * length_m
    near = abs(drop_v - 0.25) < 0.002 or abs(total_a - 0.8 * fuse_a) < 1e-6
    fits = total_a <= 0.8 * fuse_a and fuse_a <= E11[size] and drop_v <= 0.25
    assert near or (tap.verdict == "allowed") == fits, tap
    assert tap.drop.value == pytest.approx(drop_v, rel=0.004)


def test_a_wire_nobody_has_figures_of_is_said(estate: Design) -> None:
    odd = apply_edits(
        without_run(estate),
        [
            Edit(path="vehicle/feeds/radio-constant/wire_size", value={"value": "7 mm2", "basis": "measured"}),
            Edit(
                op="add",
                path="parts",
                value={"id": "reel", "kind": "wire", "name": "Reel", "wire_size": "7 mm2", "on_reel_m": 5.0},
            ),
        ],
    )
    result = evaluate(odd)
    assert "no figures on file" in result.results.self_fed[0].taps[0].refused[0]
    assert any("no figures on file" in f.title for f in result.findings if f.rule == "wire-on-reel")


def test_what_a_powered_subwoofer_draws_counts_on_a_dc_dc_converter(estate: Design) -> None:
    limit = [
        Edit(path="vehicle/supply/kind", value="DC-DC converter"),
        Edit(path="vehicle/supply/dc_dc_limit_a", value={"value": 100.0, "basis": "documented"}),
    ]
    without = [f.title for f in evaluate(apply_edits(estate, limit)).findings if f.rule == "dc-dc-limit"]
    beside = [
        f.title
        for f in evaluate(apply_edits(with_flat(estate, supply_current_a=20.0), limit)).findings
        if f.rule == "dc-dc-limit"
    ]
    assert without == []  # 46 A of 100
    assert beside == ["66 A of audio on a DC-DC converter of 100 A"]


def test_an_unknown_feed_is_open_and_one_press_hangs_a_part_on_a_good_one(estate: Design) -> None:
    design = without_run(estate)
    tap = evaluate(design).results.self_fed[0].taps[0]
    assert tap.verdict == "open"
    assert len(tap.open) == 4
    known = {"old_load_a": 2.0, "fuse_a": 20.0, "wire_size": "12 AWG", "wire_length_m": 2.0}
    good = apply_edits(
        design,
        [
            Edit(path=f"vehicle/feeds/radio-constant/{n}", value={"value": v, "basis": "measured"})
            for n, v in known.items()
        ],
    )
    said = next(f for f in evaluate(good).findings if f.rule == "self-fed")
    assert said.severity is Severity.NOTE
    assert said.remedy is not None
    hung = apply_edits(good, said.remedy.edits)
    assert evaluate(hung).results.self_fed[0].on_feed
    worse = apply_edits(hung, [Edit(path="vehicle/feeds/radio-constant/fuse_a/value", value=10.0)])
    assert stops(evaluate(worse), "self-fed")


def test_a_plug_in_amplifier_takes_the_old_ones_channels() -> None:
    """Every factory channel gets one of its own, speakers that shared one share one again."""
    tree = next(t for t in catalogue() if t["kind"] == "plug-in amplifier")
    tried = 0
    for number in range(12):
        design = demo_design(number).model_copy(update={"parts": (), "links": ()})
        modules = [m for m in design.vehicle.modules if m.amplifies and m.channels]
        if design.vehicle.radio.tier.value is not Tier.AMPLIFIED or not modules:
            continue
        tried += 1
        placed = apply_edits(design, place_part(design, tree))
        laid = apply_edits(placed, connect(placed, "amp"))
        by_channel: dict[int, set[str | None]] = {}
        factory = {s.id: s.channel_id for s in design.vehicle.speakers}
        for link in laid.links:
            if link.kind == "speaker":
                by_channel.setdefault(link.channel, set()).add(factory[link.to_id])
        assert by_channel
        assert all(len(origin) == 1 for origin in by_channel.values())
        assert not [f for f in evaluate(laid).findings if f.rule in ("link-missing", "signal-missing")]
    assert tried >= 2


def test_a_change_of_outputs_is_told_as_a_change_and_not_as_a_loss(estate: Design) -> None:
    changes = compare(evaluate(estate).figures, evaluate(four_channels(estate)).figures)
    moved = {m.figure_id: (m.before, m.after) for m in changes}
    loads = [pair for i, pair in moved.items() if i.endswith("load_ohm")]
    assert sorted(now for _, now in loads) == ["4.00 Ω", "4.00 Ω", "8.00 Ω"]
    assert [was for was, _ in loads].count("2.00 Ω") == 1  # one of them is what the load has become
    assert not [i for i, (_, now) in moved.items() if now.startswith("not ") and i.endswith(("load_ohm", "power_w"))]
    assert moved["amp/current_a"][0] == "46.0 A"
    assert compare(evaluate(estate).figures, evaluate(estate).figures) == ()


def test_nothing_is_told_of_a_cable_that_is_gone(estate: Design) -> None:
    """A figure nobody reckons any more lacks no fact: it is not “not known”."""
    whole, bare = evaluate(estate), evaluate(apply_edits(estate, [Edit(op="remove", path="links/power-amp")]))
    unfed = {m.figure_id: (m.before, m.after) for m in what_moved(whole.figures, bare.results)}
    assert unfed["amp/current_a"] == ("46.0 A", "not reckoned")
    assert "power-amp/length_m" not in unfed
    fed = {m.figure_id: (m.before, m.after) for m in what_moved(bare.figures, whole.results)}
    assert fed["power-amp/length_m"] == ("not reckoned", "5.40 m")
    unknown = apply_edits(estate, [Edit(path="vehicle/supply/body_return_ohm", value={"value": None})])
    lost = {m.after for m in what_moved(whole.figures, evaluate(unknown).results)}
    assert "not known" in lost
    assert "not reckoned" not in lost


def test_the_demo_catalogue_has_every_kind() -> None:
    kinds = {t["kind"] for t in catalogue()}
    assert {
        "amplifier",
        "plug-in amplifier",
        "processor",
        "powered subwoofer",
        "wire",
        "fuse",
        "distribution block",
    } <= kinds
    for tree in catalogue():
        if tree.get(
            "bridged_ratings"
        ):  # bridged into R: twice one channel's power into R/2 (trade fact, common practice)
            single = {r["load_ohm"]: r["power_w"] for r in tree["ratings"]}
            for row in tree["bridged_ratings"]:
                assert row["power_w"] == pytest.approx(2 * single[row["load_ohm"] / 2])
    with pytest.raises(ValueError, match="needs a line input or a speaker-level input"):
        PoweredSubwoofer(id="deaf", name="Deaf", power_rms_w=100.0, supply_current_a=9.0)


def test_an_amplifier_no_driver_is_left_for_takes_the_factory_speakers_when_asked(estate: Design) -> None:
    """By itself nothing is laid to the doors; one press lays every factory channel to a channel of its own."""
    four = {**FOUR, "id": "four", "position": {"x_m": 3.4, "y_m": 0.3}}
    design = apply_edits(estate, [Edit(op="add", path="parts", value=four)])
    assert not [e for e in connect_everything(design) if e.value["kind"] == "speaker"]
    laid = {e.value["to_id"]: e.value for e in connect_everything(design, "four") if e.value["kind"] == "speaker"}
    assert {name: link["channel"] for name, link in laid.items()} == {
        "spk-fl": 1,
        "spk-fr": 2,
        "spk-rl": 3,
        "spk-rr": 4,
    }
    assert not any(link.get("factory_wire") for link in laid.values())
    wired = apply_edits(design, connect_everything(design, "four"))
    assert {load.driven_name for load in evaluate(wired).results.loads if load.amplifier.id == "four"} == {
        s.name for s in estate.vehicle.speakers
    }
    told = {m.name for m in evaluate(wired, before=design).moved}
    assert {f"Net load, Four, channel {n}" for n in (1, 2, 3, 4)} <= told, "four loads of one name are told apart"
    again = connect_everything(wired, "four")
    assert not [e for e in again if e.value["kind"] == "speaker"], "asked again it lays nothing twice"


def test_further_channels_can_be_typed_in_one_field_after_the_other(estate: Design) -> None:
    """In a form every field is kept by itself: ratings and lowest load first, then how many there are, and back."""
    steps: list[tuple[str, Any]] = [
        ("further_ratings", [{"load_ohm": 2.0, "power_w": 350.0}]), ("further_lowest_ohm", 2.0), ("further_count", 1),
        ("low_pass_low_hz", 40.0), ("low_pass_high_hz", 150.0),
    ]  # fmt: skip
    design = estate
    for name, value in steps:
        design = apply_edits(design, [Edit(path=f"parts/amp/{name}", value=value)])
    amplifier = next(design.parts_of(Amplifier))
    assert [(g.first, g.count, g.lowest_load_ohm) for g in amplifier.groups] == [(1, 1, 2.0), (2, 1, 2.0)]
    assert amplifier.group_of(2).ratings[0].power_w == 350.0
    assert amplifier.group_of(1).ratings[0].power_w == 500.0
    bare = apply_edits(design, [Edit(path="parts/amp/further_count", value=0)])
    assert next(bare.parts_of(Amplifier)).channels == 1
    for name, value in (("further_count", 8), ("low_pass_low_hz", 900.0), ("further_ratings", [])):
        with pytest.raises(BadDocument):
            apply_edits(design, [Edit(path=f"parts/amp/{name}", value=value)])


def test_a_bridge_over_unlike_channels_is_stopped(estate: Design) -> None:
    edits = [
        Edit(path="parts/amp/further_ratings", value=[{"load_ohm": 2.0, "power_w": 350.0}]),
        Edit(path="parts/amp/further_lowest_ohm", value=2.0),
        Edit(path="parts/amp/further_count", value=2),
    ]
    unlike = apply_edits(estate, [*edits, Edit(path="links/speaker-sub/bridged", value=True)])
    titles = [f.title for f in evaluate(unlike).findings if f.rule == "channel-clash"]
    assert titles == ["Tessel M500: channels 1 and 2 are not of a kind"]
    alike = apply_edits(unlike, [Edit(path="links/speaker-sub/channel", value=2)])
    assert not [f for f in evaluate(alike).findings if f.rule == "channel-clash"]
