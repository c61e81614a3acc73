"""Pairs of the radio straight into an amplifier that takes speaker level; a converter that comes later goes between.
Common practice, no source.
"""

from __future__ import annotations

from math import log10

import pytest

from ohmack.core.document import Design, Intake
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.factory import Tier
from ohmack.core.document.links import LineLink, TapLink
from ohmack.core.document.policy import Policy
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.evaluation.door import evaluate
from ohmack.core.factory.usual_modules import modules_for
from ohmack.core.figures.finding import Remedy
from ohmack.core.planning.part_added import added
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.core.planning.tapping import amplifiers_tap
from ohmack.core.signal.ways import inputs_joined
from ohmack.demo.building import catalogue

FOUR, MONO, DOORS = "Tessel Four 70", "Tessel M500", "Pell & Fenn Coax 65, pair"


def car(*names: str, tier: Tier = Tier.PLAIN) -> Design:
    vehicle = new_vehicle("Pallister", "Dunlin", 2012, Body.HATCH, Hand.LEFT)
    design = new_design("t", vehicle, Intake(), Policy())
    design = apply_edits(design, [Edit(path="vehicle/radio/tier/value", value=tier.value)])
    for name in names:
        design = apply_edits(design, added(design, next(t for t in catalogue() if t["name"] == name)))
    return design


def taps(design: Design) -> dict[str, tuple[str, ...]]:
    return {tap.to_id: tap.from_ids for tap in design.links_of(TapLink)}


def lacking(design: Design) -> list[tuple[str, str]]:
    found = (f for f in evaluate(design).findings if f.rule in ("link-missing", "signal-missing"))
    return [(f.about, f.remedy.label if f.remedy else "") for f in found]


def test_straight_from_the_radio_by_what_it_drives() -> None:
    """Before speakers are picked all four pairs, after it those of their end; whichever comes first nothing lacks."""
    assert taps(car(FOUR)) == {"amp": ("ch-fl", "ch-fr", "ch-rl", "ch-rr")}
    design = car(DOORS, FOUR)
    assert taps(design) == taps(car(FOUR, DOORS)) == {"amp": ("ch-fl", "ch-fr")}
    assert not lacking(design)
    (signal,) = evaluate(design).results.signals
    assert signal.way.line is None
    assert signal.way.converter is None
    # a radio of 9 V peak into the doors' amplifier: its high-level input starts where the rms of that is reached
    assert signal.figures["sensitivity"].value is not None


@pytest.mark.parametrize(("speaker_low_v", "pad"), [(1.5, 5.0), (None, 20.0 / 6.0)], ids=["both ends", "one end"])
def test_a_pad_before_the_line_stage_buys_no_silence(speaker_low_v: float | None, pad: float) -> None:
    """The same amplifier fed speaker level, and line level that is as much less as the pad takes: the same signal over
    noise (a divider in front of a noisy stage; textbook).
    """
    design = apply_edits(car(DOORS, FOUR), [Edit(path="parts/amp/speaker_level_low_v", value=speaker_low_v)])
    (straight,) = evaluate(design).results.signals
    arrives, (noise, snr) = straight.figures["arrives"].value, (straight.ladder.noise, straight.ladder.snr)
    assert arrives is not None
    assert noise is not None
    assert snr is not None
    assert noise.value == pytest.approx(-103.0 + 20 * log10(pad))
    assert snr.value == pytest.approx(20 * log10(arrives / pad) + 103.0)
    (stage,) = [s for s in straight.ladder.stages if s.name == "amplifier input"]
    assert stage.noise_dbv == noise.value


def test_one_pair_for_two_pairs_of_inputs_has_them_joined() -> None:
    """Two doors and a bridged subwoofer on four channels, the front pair led to them: channels 3 and 4 are silent till
    the inputs are joined (common practice, no source). All four pairs, or a pair for each, need nothing.
    """
    design = car(DOORS, FOUR, "Morrowick 10 D4")
    (joined,) = inputs_joined(design)
    assert (joined.led, joined.used, joined.by_line) == (1, 2, False)
    assert [f.about for f in evaluate(design).findings if f.rule == "inputs-joined"] == [joined.part.id]
    assert not list(inputs_joined(car(DOORS, FOUR)))
    both = apply_edits(design, [Edit(path="links/tap-amp/from_ids", value=["ch-fl", "ch-fr", "ch-rl", "ch-rr"])])
    assert not list(inputs_joined(both))
    assert not [f for f in evaluate(both).findings if f.rule == "inputs-joined"]
    by_line = car("Quillon S2 screen radio", DOORS, FOUR, "Morrowick 10 D4")
    assert len(list(by_line.links_of(LineLink))) == 2
    assert not list(inputs_joined(by_line)), "a pair for the doors, one for the bass"
    one = [Edit(op="remove", path=f"links/{next(by_line.links_of(LineLink)).id}")]
    assert [j.by_line for j in inputs_joined(apply_edits(by_line, one))] == [True]
    sorts = apply_edits(design, [Edit(path="parts/amp/processor", value=True)])
    assert not list(inputs_joined(sorts)), "it leads its inputs inside"


def test_a_converter_that_comes_later_goes_between() -> None:
    between = car(DOORS, FOUR, "Sprig LC2 active")
    assert taps(between) == {"converter": ("ch-fl", "ch-fr")}
    assert [(line.from_id, line.to_id) for line in between.links_of(LineLink)] == [("converter", "amp")]
    waits = car(DOORS, FOUR, MONO, "Morrowick 10 D4", "Cooperage 28 closed")  # takes no speaker level
    assert lacking(waits) == [("amp-2", "Find a converter")]
    both = apply_edits(waits, added(waits, next(t for t in catalogue() if t["name"] == "Sprig LC2 active")))
    assert set(taps(both)) == {"converter"}
    assert {line.to_id for line in both.links_of(LineLink)} == {"amp", "amp-2"}, "as if it had been picked first"


def test_what_a_part_waits_for_is_there_or_is_looked_for() -> None:
    """A monoblock takes no speaker level: with a radio's line output in the plan it is wired up, without one a
    converter is looked for.
    """
    design = car("Quillon S2 screen radio", MONO, "Morrowick 10 D4", "Cooperage 28 closed")
    bare = apply_edits(design, [Edit(op="remove", path=f"links/{line.id}") for line in design.links_of(LineLink)])
    assert lacking(bare) == [("amp", "Wire it up")]
    assert lacking(car(MONO, "Morrowick 10 D4", "Cooperage 28 closed")) == [("amp", "Find a converter")]


@pytest.mark.parametrize("names", [(DOORS, FOUR), (FOUR, DOORS)], ids=["by two pairs", "by all of them"])
def test_a_new_radio_with_line_outputs_feeds_it_by_line(names: tuple[str, str]) -> None:
    design = car(*names, "Quillon S2 screen radio")
    assert not taps(design)
    assert {(line.from_id, line.to_id) for line in design.links_of(LineLink)} == {("radio-2", "amp")}
    assert not lacking(design)


def test_over_a_ring_there_is_nothing_to_take() -> None:
    design = car(DOORS, FOUR, tier=Tier.RING)
    assert not taps(design)
    assert lacking(design) == [("amp", "Find a converter")]


def behind_an_amplifier(**amplifier: object) -> Design:
    """A car whose radio feeds a factory amplifier over lines, and a four-channel amplifier fitted to it."""
    design = car()
    design = apply_edits(design, [Edit(path="vehicle/radio/tier/value", value=Tier.AMPLIFIED.value)])
    design = apply_edits(design, modules_for(design, Tier.AMPLIFIED))
    low = [Edit(path=f"vehicle/modules/factory-amp/channels/amp-ch-f{side}/band/value", value="low and mid range")
           for side in "lr"]  # fmt: skip
    high = [{"id": f"high-{side}", "name": f"High {side}", "place": f"front {side}", "band": {"value": "high range"}}
            for side in ("left", "right")]  # fmt: skip
    more = [Edit(op="add", path="vehicle/modules/factory-amp/channels", value=channel) for channel in high]
    tree = {**next(t for t in catalogue() if t["name"] == FOUR), "speaker_level_low_v": 3.0, **amplifier}
    design = apply_edits(design, [*low, *more])
    return apply_edits(design, added(design, tree))


def remedy(design: Design, rule: str) -> Remedy:
    found = next(f for f in evaluate(design).findings if f.rule == rule).remedy
    assert found is not None
    return found


def test_the_lines_of_a_works_radio_are_no_speaker_pairs() -> None:
    """What leaves for a works amplifier is some volts at most (common practice): an input that wants three is not
    driven by it, and the outputs behind the amplifier are offered; what somebody measured stays.
    """
    design = behind_an_amplifier(speaker_level_high_v=20.0)
    behind = apply_edits(design, remedy(design, "speaker-level-input").edits)
    assert taps(behind) == {"amp": ("amp-ch-fl", "amp-ch-fr", "amp-ch-rl", "amp-ch-rr")}
    assert [tap.method.value for tap in behind.links_of(TapLink)] == ["splice"]
    weak = behind_an_amplifier(speaker_level_high_v=10.0)  # 18 V behind the amplifier is too much for it
    assert not remedy(weak, "speaker-level-input").edits
    guess = car().vehicle.radio.source_voltage_v.model_dump(mode="json")
    before = apply_edits(design, [Edit(path="vehicle/radio/source_voltage_v", value=guess)])
    taken = apply_edits(before, remedy(before, "factory-system").edits)
    assert taken.vehicle.radio.source_voltage_v == design.vehicle.radio.source_voltage_v
    level = Edit(path="vehicle/radio/source_voltage_v", value={"value": 2.4, "basis": "measured"})
    low = Edit(path="vehicle/radio/tap_low_hz", value={"value": None, "basis": "assumed"})
    for what, unread in (([low], "level and how low"), ([low, level], "tap: how low"), ([], "level."), ([level], "")):
        said = [f.text for f in evaluate(apply_edits(design, what)).findings if f.rule == "factory-system"]
        assert [unread in text for text in said] == [True] * bool(unread), "what was measured is not asked again"
    for volts, word in ((2.4, ""), (9.4, "speaker outputs"), (0.1, "against the body")):
        read_v = [Edit(path="vehicle/radio/source_voltage_v", value={"value": volts, "basis": "measured"})]
        odd = [f.text for f in evaluate(apply_edits(design, read_v)).findings if f.rule == "reading-implausible"]
        assert bool(odd) is bool(word)
        assert all(word in text for text in odd)
    read = apply_edits(car(), [Edit(path="vehicle/radio/source_voltage_v/basis", value="measured")])
    read = apply_edits(read, modules_for(read, Tier.AMPLIFIED))
    assert read.vehicle.radio.source_voltage_v.value == 9.2


def test_each_end_of_the_car_hears_its_own_pairs() -> None:
    """The front pairs carry no treble; that the rear ones do is of no use to the front doors of an amplifier's own
    inputs. Six pairs make both ends whole, and do not go into four inputs.
    """
    doors = next(t for t in catalogue() if t["name"] == DOORS)
    small, wide = (
        behind_an_amplifier(speaker_level_high_v=20.0, channel_count=n, bridged_ratings=[], lowest_bridged_ohm=None)
        for n in (4, 8)
    )
    small, wide = (apply_edits(design, added(design, doors)) for design in (small, wide))
    assert {len(taps(design)["amp"]) for design in (small, wide)} == {2}, "only the front is played"
    both = ["ch-fl", "ch-fr", "ch-rl", "ch-rr"]
    wide = apply_edits(wide, [Edit(path="links/tap-amp/from_ids", value=both)])
    whole = {"amp-ch-fl", "amp-ch-fr", "high-left", "high-right", "amp-ch-rl", "amp-ch-rr"}
    there = apply_edits(wide, remedy(wide, "speaker-level-input").edits)
    assert set(taps(there)["amp"]) == whole
    assert "tap-bands" not in {f.rule for f in evaluate(there).findings}
    pairs = ["amp-ch-fl", "amp-ch-fr", "amp-ch-rl", "amp-ch-rr"]
    small, less = (apply_edits(d, [Edit(path="links/tap-amp/from_ids", value=pairs)]) for d in (small, there))
    assert not remedy(small, "tap-bands").edits
    assert set(taps(apply_edits(less, remedy(less, "tap-bands").edits))["amp"]) == whole


@pytest.mark.parametrize("inside", [False, True])
def test_an_amplifier_with_a_processor_inside_sums_and_delays(inside: bool) -> None:
    design = behind_an_amplifier(speaker_level_high_v=20.0, processor=inside)
    design = apply_edits(design, [
        Edit(path="vehicle/modules/factory-amp/equalised/value", value=False),
        Edit(path="vehicle/radio/tier/value", value=Tier.RING.value), Edit(op="remove", path="links/tap-amp"),
    ])  # fmt: skip
    design = apply_edits(design, added(design, next(t for t in catalogue() if t["name"] == DOORS)))
    late = next(link.id for link in design.links if link.kind == "speaker")
    design = apply_edits(design, [Edit(path=f"links/{late}/delay_ms", value=1.4)])
    rules = {f.rule for f in evaluate(design).findings}
    assert ("delay-nowhere" in rules) is not inside
    offered = amplifiers_tap(design, next(iter(design.parts_of(Amplifier))), [])
    assert offered is not None
    assert set(offered["from_ids"]) == (
        {"amp-ch-fl", "amp-ch-fr", "high-left", "high-right"} if inside else {"amp-ch-fl", "amp-ch-fr"}
    )
