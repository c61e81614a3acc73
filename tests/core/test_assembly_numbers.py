"""Numbers and sides in what is shown: each against another way of reckoning it, so that a wrong sign, side or factor
is seen.
"""

from __future__ import annotations

import re
from math import log10, sqrt
from typing import Any

import pytest

from ohmack.core.document import Design, Fact
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.functions import KeepAlive
from ohmack.core.document.harness import TestKind
from ohmack.core.document.links import TapLink
from ohmack.core.document.vehicle import KeyState
from ohmack.core.evaluation.door import evaluate
from ohmack.core.factory.advice import advise
from ohmack.core.figures.finding import Finding
from ohmack.core.harness.wire_finder import NextTest, find
from ohmack.core.reference import read_toml
from ohmack.core.signal.switch_on import BUS_HOLD_S, switch_sources
from ohmack.core.supply.feed_taps import feed_refuses
from ohmack.demo.building import measured
from ohmack.demo.jobs import demo_design

P, S, V = "links/power-amp", "vehicle/supply", "vehicle"


def put(path: str, value: Any) -> Edit:
    return Edit(path=path, value=value)


def said(design: Design, rule: str) -> list[Finding]:
    return [f for f in evaluate(design).findings if f.rule == rule]


def number(words: str, before: str, unit: str) -> float:
    """The number that stands between some words and a unit."""
    found = re.search(rf"{re.escape(before)}\s*([0-9.]+)\s*{re.escape(unit)}", words)
    assert found, words
    return float(found[1])


def test_the_length_that_would_be_fine_is_fine(estate: Design) -> None:
    """The advice is tried: a little shorter holds the limit with the same wire, a little longer does not."""
    thin = apply_edits(
        estate,
        [measured("vehicle/ground_points/ground-rear/kind", "battery negative"), put("policy/wire_system", "AWG")],
    )
    tried = 0
    for candidate in evaluate(thin).results.supplies[0].candidates:
        if "fine if the run were under" not in candidate.reason or "only while cool" in candidate.reason:
            continue
        limit_m = number(candidate.reason, "fine if the run were under", "m")
        for length_m, holds in ((limit_m * 0.97 - 0.05, True), (limit_m * 1.05 + 0.1, False)):
            if length_m <= 0.1:
                continue
            size = f"{candidate.wire.size} {candidate.wire.system}"
            again = apply_edits(thin, [measured(f"{P}/tape_length_m", length_m), put(f"{P}/wire/size", size)])
            chosen = next(c for c in evaluate(again).results.supplies[0].candidates if c.chosen)
            assert chosen.drop_v is not None
            assert (chosen.drop_v <= thin.policy.drop_limit_v) is holds, (size, length_m)
            tried += 1
    assert tried >= 4


def stages_of(design: Design) -> dict[str, Any]:
    return {s.name: s for s in evaluate(design).results.signals[0].stages}


def test_the_ladder_is_decibel_arithmetic(estate: Design) -> None:
    """dBV = 20 log10 of volts rms; noise rises with the gain behind it; a peak limit is 3.01 dB less in rms
    (textbook).
    """
    noisy = apply_edits(
        estate,
        [
            put("parts/amp/noise_dbv", -100.0),
            put("parts/converter/noise_dbv", -95.0),
            put("parts/converter/input_stated_as", "rms"),
            put("parts/converter/input_limit_v", 12.0),
        ],
    )
    figures = evaluate(noisy).results.signals[0].figures
    stages = stages_of(noisy)
    source_v, line_v, full_v, clip_v = (figures[k].value for k in ("source", "output", "full", "clip"))
    levels = {
        "radio output": source_v,
        "converter input": source_v,
        "converter output": line_v,
        "amplifier input": line_v,
        "amplifier output": full_v,
        "driver": full_v,
    }
    for name, volts in levels.items():
        assert stages[name].level_dbv == pytest.approx(20 * log10(volts)), name
    assert stages["converter input"].clip_dbv == pytest.approx(20 * log10(12.0))
    assert stages["amplifier output"].clip_dbv == pytest.approx(20 * log10(clip_v))
    both_dbv = 10 * log10(10**-10.0 + 10**-9.5)  # powers of what is not alike add (textbook)
    assert stages["amplifier output"].noise_dbv == pytest.approx(both_dbv + 20 * log10(full_v / line_v))
    assert stages["converter output"].noise_dbv == -95.0
    peak = stages_of(apply_edits(noisy, [put("parts/converter/input_stated_as", "peak")]))
    assert peak["converter input"].clip_dbv == pytest.approx(20 * log10(12.0) - 10 * log10(2))


def test_an_unregulated_channel_gives_less_at_the_voltage_it_has(estate: Design) -> None:
    """P = P_rated (V/14.4)² on every channel of an amplifier, so the meter shows V/14.4 of the rated volts (common
    practice, no source).
    """
    many = apply_edits(
        estate,
        [
            put("parts/amp/channel_count", 4),
            put("parts/amp/regulated", False),
            put("parts/amp/ratings", [{"load_ohm": 2.0, "power_w": 120.0}]),
            put("parts/sub/power_rms_w", 900.0),
            put("policy/tone_dbfs", 0.0),
            put("policy/overlap_db", 0.0),
        ],
    )
    evaluation = evaluate(many)
    signal, supply = evaluation.results.signals[0], evaluation.results.supplies[0]
    volts = supply.figures["voltage"].value
    load_ohm = evaluation.results.loads[0].chosen.load_ohm
    assert volts < 14.2
    assert signal.figures["clip"].value == pytest.approx(sqrt(120.0 * load_ohm) * volts / 14.4)


@pytest.mark.parametrize(("y_m", "side"), [(-0.6, "right"), (0.6, "left")])
def test_the_other_side_is_the_other_side(estate: Design, y_m: float, side: str) -> None:
    """y runs to the car's right: a pair of runs on the left is told to go right, and the other way round."""
    way = [{"x_m": 1.86, "y_m": y_m}, {"x_m": 3.62, "y_m": y_m}]
    beside = apply_edits(estate, [put(f"{P}/way_points", way), put("links/line-amp/way_points", way)])
    found = said(beside, "power-beside-signal")
    assert found[0].text.endswith(f"the car's {side}.")


def test_a_ground_lead_just_over_the_limit_is_said(estate: Design) -> None:
    limit_m = estate.policy.ground_lead_max_m
    lead = "links/ground-amp/tape_length_m"
    assert not [f for f in said(apply_edits(estate, [measured(lead, limit_m)]), "ground-lead") if "long" in f.title]
    over = said(apply_edits(estate, [measured(lead, limit_m + 0.02)]), "ground-lead")
    assert [f.title for f in over if "long" in f.title] == [f"Ground lead {limit_m + 0.02:.2f} m long"]


def test_a_bus_holds_for_minutes(estate: Design) -> None:
    states = [s.value for s in (KeyState.DOOR_OPEN, KeyState.BUS_AWAKE, KeyState.ACCESSORY, KeyState.ON)]
    design = apply_edits(estate, [measured("vehicle/feeds/radio-switched/live", states)])
    source = next(s for s in switch_sources(design) if s.id == "radio-switched")
    assert source.hold_s == BUS_HOLD_S
    assert source.hold_min * 60 == BUS_HOLD_S
    assert 1 <= source.hold_min <= 60  # minutes, not hours (common practice, no source)


@pytest.mark.parametrize(
    ("system", "post_v", "odd"),
    [
        ("12 V", 13.0, True),
        ("12 V", 13.4, False),
        ("12 V", 14.9, True),
        ("24 V", 26.0, True),
        ("24 V", 26.8, False),
        ("24 V", 29.4, False),
        ("24 V", 29.8, True),
    ],
)
def test_what_a_post_may_read_doubles_on_24_volts(estate: Design, system: str, post_v: float, odd: bool) -> None:
    """13.2 to 14.8 V charging on six cells, twice that on twelve (common practice, no source)."""
    car = apply_edits(estate, [measured(f"{S}/system", system), measured(f"{S}/post_running_v", post_v)])
    found = [f for f in said(car, "reading-implausible") if f.about.endswith("post_running_v")]
    assert bool(found) is odd
    if odd:
        assert f"{post_v:.2f} V".rstrip("0") in found[0].title or f"{post_v:.1f} V" in found[0].title


def test_both_channels_of_a_two_channel_amplifier_are_fed(estate: Design) -> None:
    """What an amplifier draws is the sum over its channels: power of both, over efficiency and volts, and idle."""
    two = [
        put("parts/amp/channel_count", 2),
        put("parts/amp/ratings", [{"load_ohm": 4.0, "power_w": 120.0}]),
        put("parts/amp/lowest_load_ohm", 4.0),
        Edit(op="remove", path="parts/sub"),
        *(
            Edit(
                op="add",
                path="links",
                value={"id": f"s{n}", "kind": "speaker", "from_id": "amp", "to_id": f"spk-r{side}", "channel": n},
            )
            for n, side in ((1, "l"), (2, "r"))
        ),
    ]
    results = evaluate(apply_edits(estate, two)).results
    load = next(a for a in results.amplifier_loads if a.amplifier.id == "amp")
    assert len(load.outputs) == 2
    assert load.power.value == pytest.approx(240.0)
    supply = results.supplies[0]
    volts, amps = supply.figures["voltage"].value, supply.figures["current"].value
    amplifier = load.amplifier
    share = min(1.0, volts / 14.4) ** 2 if not amplifier.regulated else 1.0
    efficiency = amplifier.efficiency or estate.policy.efficiency_class_d
    assert amps == pytest.approx(240.0 * share / (efficiency * volts) + amplifier.idle_current_a, rel=1e-6)


def test_leads_of_feeds_are_yellow_and_of_switch_on_blue_and_white() -> None:
    """Trade colours of an aftermarket loom: constant yellow, amplifier remote blue with white (common practice)."""
    seen = {}
    for index in range(12):
        for joint in evaluate(demo_design(index)).results.joints.joints:
            if joint.lead.words in ("feed, behind its fuse", "amplifier remote"):
                seen[joint.lead.words] = joint.lead.colour
    assert seen == {"feed, behind its fuse": "yellow", "amplifier remote": "blue/white"}


def test_the_power_of_a_tap_is_filed_under_what_is_tapped(estate: Design) -> None:
    """V² / Z of the source that is tapped: the radio's under the radio, a factory amplifier's under its own name."""
    figures = evaluate(estate).figures
    volts = figures["radio/source_v"].value
    assert figures["radio/source_power_w"].value == pytest.approx(volts**2 / 4.0)
    behind = demo_design(5)
    tapped = {t.from_ids[0] for t in behind.links_of(TapLink)}
    owners = {behind.vehicle.source_of(name).id for name in tapped}
    filed = {i.split("/")[0] for i in evaluate(behind).figures if i.endswith("/source_power_w")}
    assert filed <= {"radio" if o == behind.vehicle.radio.id else o for o in owners}


def test_the_part_the_job_waits_for_longest_is_ordered_first(estate: Design) -> None:
    days = {"amp": 5, "sub": 21, "converter": 9}
    waiting = [e for part, n in days.items() for e in (put(f"parts/{part}/lead_days", n),)]
    not_here = [put(f"parts/{part}/stands", "wanted") for part in days]
    found = said(apply_edits(estate, [*waiting, *not_here]), "parts-waiting")
    assert [(f.about, "21 days" in f.title) for f in found] == [("sub", True)]


def test_a_ground_lead_begins_at_the_amplifier_and_ends_in_a_ring(estate: Design) -> None:
    """One lead: the amplifier's terminal, the run, the ring; over a ground block the second run is the main lead."""
    pieces = evaluate(estate).results.supplies[0].pieces
    names = [p.name.split(",")[0] for p in pieces]
    assert [n for n in names if "terminal" in n.lower()] == ["Positive terminal", "Negative terminal"]
    assert [n for n in names if n.startswith("Ground lead")]
    assert "Ground ring" in names
    assert not [n for n in names if n.startswith("Main ground lead") or n.startswith("Block")]


def test_the_next_test_is_the_one_with_most_bits_a_minute() -> None:
    """Three bits in ten minutes are worth less than one in two."""
    slow, quick = NextTest(TestKind.TRIAL, ("a",), 3.0, 10.0), NextTest(TestKind.BODY, ("a",), 1.0, 2.0)
    assert (slow.worth, quick.worth) == (pytest.approx(0.3), pytest.approx(0.5))
    hunt = demo_design(7).vehicle.hunt
    assert hunt is not None
    found = find(demo_design(7).vehicle, hunt)
    rates = [test.bits / test.minutes for test in found.next_tests]
    assert rates == sorted(rates, reverse=True)
    assert len(set(rates)) > 1


@pytest.mark.parametrize(("at_the_works_ohm", "radio_wants", "module_wants"), [(2.0, 4.0, 2.0), (4.0, 4.0, 4.0)])
def test_a_radio_wants_four_ohm_and_a_works_amplifier_what_it_was_given(
    at_the_works_ohm: float, radio_wants: float, module_wants: float
) -> None:
    """Until papers say otherwise: a radio 4 ohm; an amplifier of the works at most 4, or less where it had less."""
    doors = {
        "id": "doors",
        "kind": "driver",
        "name": "Doors",
        "at_ids": ["spk-fl", "spk-fr"],
        "power_rms_w": 50.0,
        "impedance_ohm": 4.0,
        "mounting_depth_mm": 40.0,
        "cut_out_mm": 120.0,
        "frame_mm": 140.0,
        "front_height_mm": 5.0,
    }
    for index, wants in ((0, radio_wants), (3, module_wants)):
        design = demo_design(index)
        edits = [
            put(f"{V}/radio/lowest_load_ohm", {"value": None}),
            *(put(f"{V}/modules/{m.id}/lowest_load_ohm", {"value": None}) for m in design.vehicle.modules),
            *(put(f"{V}/speakers/{s.id}/paired_with_id", None) for s in design.vehicle.speakers),
            *(measured(f"{V}/speakers/{s.id}/impedance_ohm", at_the_works_ohm) for s in design.vehicle.speakers),
            *([Edit(op="add", path="parts", value=doors)] if index == 0 else []),
        ]
        rows = evaluate(apply_edits(design, edits)).results.channel_loads
        alone = [r for r in rows if len(r.speakers) == 1 and r.was is not None]
        assert alone
        assert {r.source.id == design.vehicle.radio.id for r in alone} == {index == 0}
        assert {r.lowest.value for r in alone} == {wants}


def test_an_unknown_old_load_counts_as_none_and_a_known_one_in_full(estate: Design) -> None:
    """12 A of new load is just what a 15 A fuse carries with a head-room of 0.8 (common practice)."""
    feed = estate.vehicle.feeds[0].model_copy(
        update={"fuse_a": Fact(value=15.0, basis="measured"), "old_load_a": Fact(), "wire_size": Fact()}
    )
    assert estate.policy.fuse_headroom == 0.8
    assert feed_refuses(estate, feed, 12.0) == ()
    loaded = feed.model_copy(update={"old_load_a": Fact(value=0.5, basis="measured")})
    assert "12.5 A on a 15.0 A fuse" in feed_refuses(estate, loaded, 12.0)[0]


def test_a_subwoofer_is_set_with_the_shops_tone_and_the_rest_with_one_kilohertz(estate: Design) -> None:
    """About 1 kHz for everything but bass (common practice)."""
    bass_hz = estate.policy.tone_hz
    assert [o.tone_hz(bass_hz) for s in evaluate(estate).results.signals for o in s.outputs] == [bass_hz]
    doors = [
        put("parts/amp/channel_count", 2),
        Edit(op="remove", path="parts/sub"),
        Edit(
            op="add",
            path="links",
            value={"id": "door", "kind": "speaker", "from_id": "amp", "to_id": "spk-fl", "channel": 1},
        ),
    ]
    outputs = [o for s in evaluate(apply_edits(estate, doors)).results.signals for o in s.outputs]
    assert [o.tone_hz(bass_hz) for o in outputs] == [1000.0]


def test_the_mark_for_a_way_back_falls_by_a_tenth_for_every_board_kept() -> None:
    """What is kept alive behind the trim is one thing more to take out again; no mark is below none."""
    for index in range(12):
        for candidate in advise(demo_design(index)).ranked:
            way = read_toml("strategies")["ways"][candidate.key.value]
            boards = sum(KeepAlive.BOARD in act.keep_alive for act in candidate.interventions)
            assert candidate.marks["reversible"] == pytest.approx(max(0.0, float(way["whole"]) - 0.1 * boards))
            assert all(0.0 <= mark <= 1.0 for mark in candidate.marks.values())
