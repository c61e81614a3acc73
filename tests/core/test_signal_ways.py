"""Ways a signal reaches an amplifier, and which channel drives what: by decibel arithmetic and by properties of any
laying.
"""

from __future__ import annotations

from math import log10, pi, sqrt
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.links import LineLink, SpeakerLink
from ohmack.core.document.parts import HeadUnit
from ohmack.core.evaluation.door import evaluate
from ohmack.core.figures.finding import Severity
from ohmack.core.planning.channels import speaker_links
from ohmack.core.planning.copying import as_it_was_built
from ohmack.core.planning.placing import place_part
from ohmack.core.planning.wiring import connect, connect_everything
from ohmack.core.signal.lines import CABLE_PF_M
from ohmack.core.signal.ways import step_of, volume_of
from ohmack.demo.jobs import demo_design

RADIO = {"kind": "radio", "name": "Line radio", "depth_mm": 160.0, "line_v": 4.0, "line_pairs": 3}


def without(design: Design, *ids: str) -> Design:
    return apply_edits(design, [Edit(op="remove", path=f"parts/{name}") for name in ids])


def by_radio(estate: Design, **more: Any) -> Design:
    """The estate with a new radio's line output in the converter's place."""
    bare = without(estate, "converter")
    placed = apply_edits(bare, place_part(bare, RADIO | more))
    return apply_edits(placed, connect(placed, "amp"))


def test_a_new_radio_feeds_the_amplifier_from_its_line_output(estate: Design) -> None:
    design = by_radio(estate)
    line = next(design.links_of(LineLink))
    assert line.from_id == next(p.id for p in design.parts if p.kind == "radio")
    result = evaluate(design)
    signal = result.results.signals[0]
    assert signal.converter is None
    assert [s.name for s in signal.stages] == ["radio line output", "amplifier input", "amplifier output", "driver"]
    full, clip = signal.figures["full"].value, signal.figures["clip"].value
    assert signal.figures["sensitivity"].value == pytest.approx(
        4.0 * clip / full
    )  # the amplifier reaches its limit at clip/full of what arrives
    gain_db = signal.figures["amp_gain"].value
    tone = 10 ** (design.policy.tone_dbfs / 20)
    assert 4.0 * tone * 10 ** (gain_db / 20) == pytest.approx(signal.figures["target"].value)


def test_a_level_set_in_the_source_takes_its_decibels(estate: Design) -> None:
    """6 dB less in the radio's menu for this pair: half the volts arrive (20 log10 of 2 is 6.02)."""
    design = by_radio(estate)
    line = next(design.links_of(LineLink)).id
    lower = apply_edits(design, [Edit(path=f"links/{line}/level_db", value=-20 * log10(2))])
    before, after = (evaluate(d).results.signals[0].figures["sensitivity"].value for d in (design, lower))
    assert after == pytest.approx(before / 2)


def test_a_line_output_beyond_the_control_is_said(estate: Design) -> None:
    loud = evaluate(by_radio(estate, line_v=9.0))
    assert any("Sensitivity would have to be" in f.title for f in loud.findings if f.rule == "sensitivity-out-of-range")
    silent = evaluate(by_radio(estate, line_v=None, line_pairs=0))
    assert not silent.results.signals


@pytest.mark.parametrize(("past_db", "severity"), [(0.0, None), (0.5, Severity.WATCH), (1.2, Severity.STOP)])
def test_one_step_of_the_volume_past_the_control_is_a_watch(
    estate: Design, past_db: float, severity: Severity | None
) -> None:
    """A dB past the lowest gain is one step of a volume knob less (common practice); more is a Stop."""
    (signal,) = evaluate(by_radio(estate, line_v=4.0)).results.signals
    just_v = 4.0 * signal.way.span_of(1)[1] / signal.figures["sensitivity"].value  # where the control ends
    found = evaluate(by_radio(estate, line_v=just_v * 10 ** (past_db / 20))).findings
    said = [f for f in found if f.rule == "sensitivity-out-of-range"]
    assert [f.severity for f in said] == ([severity] if severity else [])
    assert past_db != 0.5 or "0.5 dB past its target" in said[0].text
    inside = Edit(path="parts/amp/processor", value=True)  # it has a level for each channel
    found = evaluate(apply_edits(by_radio(estate, line_v=just_v * 10 ** (past_db / 20)), [inside])).findings
    said = [f for f in found if f.rule == "sensitivity-out-of-range"]
    assert [f.severity for f in said] == ([Severity.NOTE] if severity else [])
    assert all(f"{past_db:.1f} dB past its target" in f.text for f in said)


def straight_in(estate: Design, high_v: float = 20.0) -> Design:
    bare = without(estate, "converter")
    tap = {"id": "tap-amp", "kind": "tap", "from_ids": ["ch-rl", "ch-rr"], "to_id": "amp"}
    return apply_edits(
        bare,
        [
            Edit(path="parts/amp/speaker_level_high_v", value=high_v),
            Edit(path="parts/amp/speaker_level_low_v", value=1.0),
            Edit(op="add", path="links", value=tap),
        ],
    )


def test_a_pair_straight_into_the_amplifier(estate: Design) -> None:
    result = evaluate(straight_in(estate))
    signal = result.results.signals[0]
    source_v = estate.vehicle.radio.source_voltage_v.value
    assert source_v is not None
    assert signal.span == (1.0, 20.0)
    assert signal.figures["sensitivity"].value == pytest.approx(
        source_v * signal.figures["clip"].value / signal.figures["full"].value
    )
    margin = next(d for d in result.results.direct_inputs if d.part.id == "amp").margin.value
    assert margin == pytest.approx(20 * log10(20.0 / source_v))
    assert [f.title for f in result.findings if f.rule in ("link-missing", "signal-missing")] == [
        "Tessel M500 has no switch-on"
    ]  # the converter gave it
    assert [f.title for f in evaluate(straight_in(estate, 6.0)).findings if f.rule == "speaker-level-input"]


def test_two_amplifiers_on_one_converter_share_its_one_gain(estate: Design) -> None:
    second = {
        **estate.parts_of(Amplifier).__next__().model_dump(mode="json"),
        "id": "amp2",
        "sensitivity_high_v": 2.0,
        "position": {"x_m": 3.4, "y_m": -0.3},
    }
    sub = {"id": "sub2", "kind": "subwoofer", "name": "Second", "coils": [{"impedance_ohm": 4.0}], "power_rms_w": 300.0}
    design = apply_edits(estate, [Edit(op="add", path="parts", value=second), Edit(op="add", path="parts", value=sub)])
    design = apply_edits(design, connect_everything(design))
    result = evaluate(design)
    gains = {s.amplifier.id: s.figures["gain"] for s in result.results.signals}
    assert set(gains) == {"amp", "amp2"}
    assert gains["amp"] is gains["amp2"], "a converter has one gain, whatever it feeds"
    alone = evaluate(apply_edits(design, [Edit(op="remove", path="parts/amp")]))
    source_v = estate.vehicle.radio.source_voltage_v.value
    for signal in result.results.signals:
        assert signal.figures["output"].value == pytest.approx(source_v * 10 ** (signal.figures["gain"].value / 20))
    assert gains["amp2"].value < evaluate(estate).figures["converter/gain_db"].value  # its control ends earlier
    assert gains["amp2"].value == pytest.approx(alone.figures["converter/gain_db"].value), "the earlier end decides"
    for signal in result.results.signals:  # the other amplifier is turned up instead
        low_v, high_v = signal.span
        assert low_v <= signal.figures["sensitivity"].value <= high_v * 1.001
    assert result.figures["amp2/target_v"].value == pytest.approx(
        min(1.0, 10 ** ((design.policy.tone_dbfs + design.policy.overlap_db) / 20))
        * sqrt(min(300.0, result.figures["amp2/power_w"].value) * 4.0)
    )


@given(
    st.integers(1, 8),
    st.booleans(),
    st.integers(0, 3),
    st.lists(st.sampled_from(["spk-fl", "spk-fr", "spk-rl", "spk-rr"]), unique=True),
    st.booleans(),
)
@settings(max_examples=60)
def test_no_channel_is_laid_twice_and_none_that_is_not_there(
    count: int, bridges: bool, subs: int, places: list[str], plugs: bool
) -> None:
    bare = without(demo_design(0), "amp", "sub")
    tree: dict[str, Any] = {
        "id": "amp",
        "kind": "plug-in amplifier" if plugs else "amplifier",
        "name": "A",
        "channel_count": count,
        "lowest_load_ohm": 2.0,
        "ratings": [{"load_ohm": 2.0, "power_w": 50.0}],
        "terminal_area_max_mm2": 21.0,
        "sensitivity_low_v": 0.2,
        "sensitivity_high_v": 5.0,
    }
    if bridges and count > 1:
        tree |= {"bridged_ratings": [{"load_ohm": 4.0, "power_w": 100.0}], "lowest_bridged_ohm": 4.0}
    parts = [
        tree,
        *(
            {
                "id": f"sub{n}",
                "kind": "subwoofer",
                "name": f"S{n}",
                "coils": [{"impedance_ohm": 4.0}],
                "power_rms_w": 200.0,
            }
            for n in range(subs)
        ),
    ]
    if places:
        parts.append(
            {
                "id": "set",
                "kind": "driver",
                "name": "D",
                "at_ids": places,
                "power_rms_w": 50.0,
                "mounting_depth_mm": 40.0,
                "cut_out_mm": 120.0,
                "frame_mm": 140.0,
                "front_height_mm": 5.0,
            }
        )
    design = apply_edits(bare, [Edit(op="add", path="parts", value=part) for part in parts])
    laid = speaker_links(design, next(design.parts_of(Amplifier)))
    outputs = {(k["channel"], k.get("bridged", False)) for k in laid}
    used = [n for first, bridged in outputs for n in ((first, first + 1) if bridged else (first,))]
    assert all(1 <= n <= count for n in used)
    assert len(used) == len(set(used))  # no channel in two outputs
    if not plugs:  # only subwoofers share an output
        shared = [k["to_id"] for k in laid for other in laid if k is not other and k["channel"] == other["channel"]]
        assert all(name.startswith("sub") for name in shared)
    assert all(k.get("bridged", False) is False or tree.get("bridged_ratings") for k in laid)
    assert len({k["to_id"] for k in laid}) == len(laid)
    again = apply_edits(design, [Edit(op="add", path="links", value=k) for k in laid])
    assert len(list(again.links_of(SpeakerLink))) == len(laid)
    left = speaker_links(again, next(again.parts_of(Amplifier)))
    assert not ({k["to_id"] for k in left} & {k["to_id"] for k in laid})  # a second laying takes nothing twice
    if laid:
        assert not [f for f in evaluate(again).findings if f.rule == "channel-clash"]


def test_line_pairs_are_counted_over_everything_a_source_feeds(estate: Design) -> None:
    """One pair for two channels: a mono amplifier asks for one, four channels for two (common practice)."""
    four = {
        **next(estate.parts_of(Amplifier)).model_dump(mode="json"),
        "id": "four",
        "channel_count": 4,
        "ratings": [{"load_ohm": 4.0, "power_w": 60.0}],
        "lowest_load_ohm": 4.0,
        "position": {"x_m": 3.4, "y_m": -0.3},
    }
    design = apply_edits(estate, [Edit(op="add", path="parts", value=four)])
    design = apply_edits(design, connect_everything(design, "four"))

    def said(pairs: int) -> list[tuple[str, str]]:
        has = apply_edits(design, [Edit(path="parts/converter/output_pairs", value=pairs)])
        return [(f.severity.value, f.title) for f in evaluate(has).findings if f.rule == "line-pairs"]

    assert said(3) == []
    assert [severity for severity, _ in said(2)] == ["watch"]
    assert said(2)[0][1].startswith("3 line pairs wanted from")
    assert said(2)[0][1].endswith("which has 2")
    assert not [f for f in evaluate(estate).findings if f.rule == "line-pairs"], "one mono amplifier, one pair"
    radio = {"id": "unit", "kind": "radio", "name": "Unit", "depth_mm": 160.0, "line_v": 4.0, "line_pairs": 0}
    line = next(k for k in estate.links if k.kind == "line")
    bare = apply_edits(
        estate,
        [Edit(op="add", path="parts", value=radio), Edit(path=f"links/{line.id}/from_id", value="unit")],
    )
    assert [f.title for f in evaluate(bare).findings if f.rule == "line-pairs" and f.severity.value == "stop"] == [
        "Unit has no line output for Tessel M500"
    ]


def test_a_line_cable_takes_its_three_decibels_where_its_figure_says(estate: Design) -> None:
    """Against the divider itself: source impedance, then input and cable capacitance side by side (textbook)."""
    papers = [Edit(path="parts/converter/output_ohm", value=2200.0), Edit(path="parts/amp/input_ohm", value=10_000.0)]
    results = evaluate(apply_edits(estate, papers)).results
    corner = results.book.figures["line-amp/cable_hz"]
    metres = results.runs["line-amp"].length.value
    assert corner.value is not None

    def passed(hz: float) -> float:
        input_s = 1 / 10_000 + 2j * pi * hz * CABLE_PF_M * 1e-12 * metres
        return abs(1 / input_s / (2200 + 1 / input_s))

    assert 20 * log10(passed(corner.value) / passed(0.001)) == pytest.approx(-3.01, abs=0.01)
    assert corner.value > 100_000.0, "far over what anybody hears"
    assert "line-amp/cable_hz" not in evaluate(apply_edits(estate, papers[1:])).figures, "no paper gives the source's"


def test_what_is_picked_up_behind_a_new_radio_has_its_level_and_not_the_old_ones(estate: Design) -> None:
    """40 W into 4 Ω are √160 = 12.65 V rms (Ohm's law). What was read at the old one counts where that one stays, or
    where the radio is in the car already and the survey is of it.
    """
    unit = RADIO | {"line_pairs": 0, "line_v": None, "power_w": 40.0, "clip_step": "31"}
    old_v = estate.vehicle.radio.source_voltage_v.value
    low = [Edit(path="vehicle/radio/tap_low_hz/value", value=90.0)]
    read = [
        {"id": f"r{step}", "step": step, "tone_hz": 1000.0, "voltage_v": {"value": volts, "basis": "measured"}}
        for step, volts in ((12, 0.8), (17, 2.0), (22, 5.0), (27, 9.2), (30, 9.3))
    ]
    steps = [Edit(op="add", path="vehicle/volume_steps", value=one) for one in read]
    design = apply_edits(estate, [*place_part(estate, unit), *low, *steps])
    (radio,) = design.parts_of(HeadUnit)
    stays = {"id": "radio", "act": "replaced", "keep_alive": ["stays powered and connected, out of sight"]}
    there = [Edit(path=f"parts/{radio.id}/stands", value="already in the car")]
    hidden = [Edit(op="add", path="interventions", value=stays)]
    for edits, volts, bass_said, mapped in (
        ([], sqrt(160), 0, False),
        (there, old_v, 1, True),
        (hidden, old_v, 1, True),
    ):
        answer = evaluate(apply_edits(design, edits))
        signal = answer.results.signals[0]
        assert signal.figures["source"].value == pytest.approx(volts)
        assert len([f for f in answer.findings if f.rule == "tap-band"]) == bass_said
        assert (answer.results.volume is not None) == mapped
        assert step_of(volume_of(answer.design, signal.way)) == ("31" if not edits else "27 of 40")
    waits = apply_edits(design, [Edit(path=f"parts/{radio.id}/phase", value="later")])
    today = evaluate(waits).results
    assert today.signals[0].figures["source"].value == pytest.approx(old_v), "it is not in the car yet"
    assert volume_of(today.design, today.signals[0].way) is today.design.vehicle.radio
    later = as_it_was_built(design, "More").vehicle
    assert later.radio.source_voltage_v.value == pytest.approx(sqrt(160))
    assert (later.radio.clip_step.value, later.radio.tap_low_hz.value, later.volume_steps) == ("31", None, ())
    assert as_it_was_built(estate, "More").vehicle == estate.vehicle
