"""Turns of the assembly that a wrong sign, side or branch would take: each told by what is said or where it points."""

from __future__ import annotations

from typing import Any

import pytest

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.handles import at
from ohmack.core.evaluation.door import evaluate
from ohmack.core.figures.finding import Finding, Severity
from ohmack.core.harness.joint_methods import insulated_mm
from ohmack.core.harness.joints import CUT_END, UNUSED_CAVITY
from ohmack.core.harness.speaker_circuits import take_reach
from ohmack.core.signal.switch_on import switch_sources
from ohmack.demo.building import catalogue_part, measured


def part(kind: str, **values: Any) -> Edit:
    return Edit(op="add", path="parts", value={"id": "bought", "kind": kind, "name": "Bought", **values})


def said(design: Design, rule: str) -> list[Finding]:
    return [f for f in evaluate(design).findings if f.rule == rule]


@pytest.mark.parametrize(
    ("rating_a", "severity", "words"),
    [(150.0, Severity.STOP, "A bigger fuse does not protect"), (30.0, Severity.WATCH, "A smaller fuse blows")],
)
def test_a_fuse_of_another_size_is_called_what_it_is(
    estate: Design, rating_a: float, severity: Severity, words: str
) -> None:
    (finding,) = said(apply_edits(estate, [part("fuse", rating_a=rating_a, pieces=1)]), "fuse-bought")
    assert finding.severity is severity
    assert finding.text.startswith(words)


def test_a_reel_counts_both_wires_of_a_speaker_pair(estate: Design) -> None:
    rows = evaluate(estate).results.wire_rows
    row = next(r for r in rows if r.purpose == "Speaker")
    need_m = 2 * row.length_m + sum(r.length_m for r in rows if r.size == row.size and r is not row)
    size = row.size.replace("mm²", "mm2")
    short = part("wire", wire_size=size, on_reel_m=round(need_m * 0.9, 2))
    assert [f.severity for f in said(apply_edits(estate, [short]), "wire-on-reel")] == [Severity.WATCH]
    enough = part("wire", wire_size=size, on_reel_m=round(need_m * 1.1, 2))
    assert not said(apply_edits(estate, [enough]), "wire-on-reel")


def test_ground_leads_count_against_a_blocks_ways(estate: Design) -> None:
    block = part("distribution block", ways=2, in_area_max_mm2=35.0, out_area_max_mm2=35.0)
    amps, leads = [], []
    for number in (2, 3, 4):
        amps.append(catalogue_part("Tessel M300", f"amp{number}", 3.0, 0.1 * number))
        link = {"id": f"g{number}", "kind": "ground", "from_id": f"amp{number}", "to_id": "bought"}
        leads.append(Edit(op="add", path="links", value=link))
    over = said(apply_edits(estate, [block, *amps, *leads]), "distribution-block")
    assert [f.title for f in over] == ["Bought has 2 ways, 3 wires go into it"]
    assert not said(apply_edits(estate, [block, *amps, *leads[:2]]), "distribution-block")


def test_only_a_live_ring_contradicts_a_plain_radio(estate: Design) -> None:
    def joined(kind: str) -> Design:
        module = {"id": "tuner", "name": "Tuner", "kind": "tuner", "position": {"x_m": 2.0, "y_m": 0.2}}
        carries = {"value": True, "basis": "measured"}
        link = {"id": "join", "kind": kind, "from_id": "radio", "to_id": "tuner", "carries": carries}
        edits = [Edit(op="add", path="vehicle/modules", value=module)]
        return apply_edits(estate, [*edits, Edit(op="add", path="vehicle/factory_links", value=link)])

    assert any("a ring that carries audio" in f.title for f in said(joined("optical ring"), "facts-contradict"))
    assert not said(joined("analogue line"), "facts-contradict")


@pytest.mark.parametrize(("by_owner", "times"), [(False, 1), (True, 0)])
def test_an_amplifier_an_owner_put_in_contradicts_no_plain_radio(estate: Design, by_owner: bool, times: int) -> None:
    module = {
        "id": "tuner", "name": "Tuner", "kind": "amplifier", "position": {"x_m": 2.0, "y_m": 0.2}, "by_owner": by_owner,
        "fitted": {"value": True, "basis": "measured"},
    }  # fmt: skip
    found = said(apply_edits(estate, [Edit(op="add", path="vehicle/modules", value=module)]), "facts-contradict")
    assert len(found) == times


def test_nobody_measures_a_guess_that_was_looked_at_already(estate: Design) -> None:
    """A plain radio gives 10.2 V at most, 14.4 / √2: a guess of up to 12 V past that is wrong, not to be measured."""
    path = "vehicle/radio/source_voltage_v"
    fact = {"value": 9.2, "basis": "assumed", "low": 9.0, "high": 12.0}
    plain = apply_edits(estate, [measured("vehicle/radio/tier", "plain radio"), Edit(path=path, value=fact)])
    assert said(apply_edits(plain, [Edit(path=f"{path}/value", value=12.0)]), "facts-contradict")
    asked = {m.path: m.watches for m in evaluate(plain, sweep_facts=True).measure_first or ()}
    assert not any("from a plain radio" in words for words in asked.get(path, ()))


@pytest.mark.parametrize(("read_ohm", "words"), [(1.6, "half of nominal"), (1.2, "too low: a short")])
def test_half_of_nominal_is_told_from_a_short(estate: Design, read_ohm: float, words: str) -> None:
    """4 Ω nominal reads 3.0 to 4.2; half of the least is 1.5 (75 to 105 % of nominal, common practice)."""
    path = "vehicle/radio/channels/ch-fl/pair_resistance_ohm"
    result = evaluate(apply_edits(estate, [measured(path, read_ohm)]))
    pair = next(p for p in result.results.baseline.pairs if p.channel.id == "ch-fl")
    assert pair.verdict.startswith(words)
    assert f"{pair.path}/pair_resistance_ohm" == path


def test_a_driver_sits_where_its_box_does(estate: Design) -> None:
    loose = apply_edits(estate, [Edit(path="parts/sub/position", value=None)])
    box = loose.part("box")
    points = evaluate(loose).results.runs["speaker-sub"].points
    assert points is not None
    assert points[-1] == box.position.point


def test_outside_begins_at_half_the_width(estate: Design) -> None:
    width_m = estate.vehicle.width_m.value
    inside = apply_edits(estate, [Edit(path="vehicle/spaces/space-rear/position/y_m", value=0.45 * width_m)])
    assert not said(inside, "outside-body")
    out = apply_edits(estate, [Edit(path="vehicle/spaces/space-rear/position/y_m", value=0.5 * width_m + 0.2)])
    (finding,) = said(out, "outside-body")
    assert "lies 0.20 m outside" in finding.title
    assert finding.remedy.edits[0].value["y_m"] == pytest.approx(0.5 * width_m, abs=0.006)


def test_a_part_in_a_zone_is_moved_and_a_run_laid_anew(estate: Design) -> None:
    zone = next(z for z in estate.vehicle.zones if z.kind.value == "child-seat anchor")
    place = {"x_m": zone.position.x_m, "y_m": zone.position.y_m}
    findings = said(apply_edits(estate, [Edit(path="parts/amp/position", value=place)]), "zone")
    about = {f.about: f for f in findings}
    assert about["amp"].remedy.path == "parts/amp"
    assert {f.remedy.path for f in findings} == {"parts/amp"}, "what ends in it comes out with it"
    rail = next(z for z in estate.vehicle.zones if z.id == "zone-rail-1-left-inner")
    edge = {"x_m": rail.position.x_m + 0.37 * rail.length_m, "y_m": rail.position.y_m}  # half its length is its end
    near = said(apply_edits(estate, [Edit(path="parts/amp/position", value=edge)]), "zone")
    assert {f.remedy.path for f in near if "runs past seat rail, left inner" in f.title} == {"parts/amp"}
    beside = place | {"x_m": place["x_m"] + 0.6}
    straight = said(apply_edits(estate, [
        Edit(path="parts/amp/position", value=beside), Edit(path=f"{at(zone)}/length_m", value=0.3),
        Edit(path="vehicle/ground_points/ground-rear/position", value=place | {"x_m": place["x_m"] - 0.6}),
    ]), "zone")  # fmt: skip
    assert [f.remedy.path for f in straight if f.about == "ground-amp"] == ["links/ground-amp/to_id"]


def test_loose_ends_are_ended_by_what_they_are(estate: Design) -> None:
    pins = [
        {"id": "c1", "number": 1, "expected": "reverse light"},
        {"id": "c2", "number": 2, "expected": "reverse light", "condition": "cut"},
    ]
    plug = {"id": "k", "name": "Plug", "position": {"x_m": 1.6, "y_m": 0.0}, "cavities": pins}
    ends = evaluate(apply_edits(estate, [Edit(op="add", path="vehicle/connectors", value=plug)])).results.joints.loose
    assert [end.ending for end in ends if end.what.startswith("Plug")] == [UNUSED_CAVITY, CUT_END]


def test_wire_with_its_insulation() -> None:
    """Thin-wall wire of 2.5 mm² is about 3.0 mm over its insulation, thick-wall 3.6 (ISO 6722, from memory)."""
    assert 2.9 <= insulated_mm(2.5) <= 3.7
    assert insulated_mm(10.0) > insulated_mm(2.5)


def test_what_a_pair_reaches_is_taken_over_alone_or_together(estate: Design) -> None:
    read = apply_edits(estate, [measured("vehicle/radio/channels/ch-fl/pair_resistance_ohm", 3.5)])
    one = apply_edits(read, take_reach(read, "ch-fl", ["spk-fl"]))
    speaker = next(s for s in one.vehicle.speakers if s.id == "spk-fl")
    assert (speaker.channel_id, speaker.paired_with_id) == ("ch-fl", None)
    both = apply_edits(estate, [measured("vehicle/radio/channels/ch-fl/pair_resistance_ohm", 1.8)])
    two = apply_edits(both, take_reach(both, "ch-fl", ["spk-fl", "spk-rl"]))
    pair = {s.id: s for s in two.vehicle.speakers if s.channel_id == "ch-fl"}
    assert set(pair) == {"spk-fl", "spk-rl"}
    assert pair["spk-fl"].paired_with_id == "spk-rl"
    assert pair["spk-rl"].paired_with_id == "spk-fl"
    again = apply_edits(two, [measured("vehicle/radio/channels/ch-fl/pair_resistance_ohm", 3.5)])
    alone = apply_edits(again, take_reach(again, "ch-fl", ["spk-fl"]))
    free = next(s for s in alone.vehicle.speakers if s.id == "spk-rl")
    assert (free.channel_id, free.paired_with_id) == (None, None), "it hangs there no more"


def test_why_a_converter_switches(estate: Design) -> None:
    hears = next(s for s in switch_sources(estate) if s.id == "converter")
    assert hears.why.startswith("hears the music itself")
    deaf = apply_edits(estate, [Edit(path="parts/converter/senses_audio", value=False)])
    assert next(s for s in switch_sources(deaf) if s.id == "converter").why == "follows the converter's own switch-on"


def test_what_the_works_hung_in_series_counts_as_its_sum(estate: Design) -> None:
    """Two 4 Ω in series were 8 Ω; one new 4 Ω driver with the other is 8 still (circuit theory)."""
    paired = [
        Edit(path="vehicle/speakers/spk-rl/channel_id", value="ch-fl"),
        Edit(path="vehicle/speakers/spk-rl/paired_with_id", value="spk-fl"),
        Edit(path="vehicle/speakers/spk-rl/pairing", value="series"),
        catalogue_part("Pell & Fenn Coax 65, pair", "doors", 1.9, 0.0, at_ids=["spk-fl"], position=None),
    ]
    figures = evaluate(apply_edits(estate, paired)).figures
    assert figures["ch-fl/was_ohm"].value == pytest.approx(8.0)
    assert figures["ch-fl/load_ohm"].value == pytest.approx(8.0)
    parallel = apply_edits(estate, [*paired, Edit(path="vehicle/speakers/spk-rl/pairing", value="parallel")])
    assert evaluate(parallel).figures["ch-fl/was_ohm"].value == pytest.approx(2.0)


def test_drivers_together_take_what_the_weakest_has(estate: Design) -> None:
    """The net power at which the first of them is full: its rating over its share, the least of all."""
    second = estate.part("sub").model_dump(mode="json") | {"id": "sub2", "name": "Second", "power_rms_w": 100.0}
    link = {"id": "speaker-sub2", "kind": "speaker", "from_id": "amp", "to_id": "sub2", "channel": 1}
    both = apply_edits(
        estate,
        [
            Edit(path="parts/sub/power_rms_w", value=400.0),
            Edit(op="add", path="parts", value=second),
            Edit(op="add", path="links", value=link),
        ],
    )
    options = evaluate(both).results.loads[0].options
    assert options[[o.best for o in options].index(True)].uneven == pytest.approx(1)  # four to one, as they take it
    flat = next(o.key for o in options if o.words == "everything in parallel")
    both = apply_edits(both, [Edit(path="links/speaker-sub/wiring", value=flat)])
    figure = evaluate(both).figures["amp/allowed_w"]
    values = [term.value for term in figure.inputs]
    full_w = [rating / share for rating, share in zip(values[:2], values[2:], strict=True)]
    assert full_w[0] != pytest.approx(full_w[1])
    assert figure.value == pytest.approx(min(full_w))


def test_a_feed_is_too_weak_only_where_its_limit_is_known(estate: Design) -> None:
    def short(limit_a: float | None) -> bool:
        edit = Edit(path="vehicle/feeds/radio-switched/limit_a", value={"value": limit_a})
        return next(s for s in switch_sources(apply_edits(estate, [edit])) if s.id == "radio-switched").needs_relay

    assert not short(None)
    assert not short(0.5)
    assert short(0.01)


def test_a_wire_that_cannot_be_ordered_says_what_it_lacks(estate: Design) -> None:
    unplaced = apply_edits(
        estate, [Edit(path="parts/sub/position", value=None), Edit(path="parts/box/position", value=None)]
    )
    rows = [r for r in evaluate(unplaced).results.order if r.group == "Wire" and r.unknown]
    assert "its length is not known yet" in {r.unknown for r in rows}
    loadless = apply_edits(estate, [Edit(op="remove", path="links/speaker-sub")])
    rows = [r for r in evaluate(loadless).results.order if r.group == "Wire" and r.unknown]
    assert {r.unknown for r in rows} == {"its size is not known yet"}
