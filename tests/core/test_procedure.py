"""The gain procedure of a system: every knob once, in an order that leaves a margin, with what must show there."""

from __future__ import annotations

from math import log10, sqrt

import numpy as np
import pytest
from scipy import signal

from ohmack.core.build.part_words import part_words
from ohmack.core.build.step_making import generated
from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier, GainKnobs
from ohmack.core.document.design import Intake
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.factory import Module
from ohmack.core.document.links import SpeakerLink, TapLink
from ohmack.core.document.policy import GainSchool, Policy
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.evaluation.answer import Evaluation
from ohmack.core.evaluation.door import evaluate
from ohmack.core.figures.finding import Finding, Severity
from ohmack.core.planning.gains import raised
from ohmack.core.planning.part_added import added
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.core.planning.wiring import connect_everything
from ohmack.core.signal.procedure import GainStep, procedure, school_levels
from ohmack.core.signal.tones import tones_of
from ohmack.demo.building import catalogue
from ohmack.demo.everyday_jobs import picked
from ohmack.demo.jobs import demo_design, demo_jobs


def steps_of(design: Design) -> tuple[Evaluation, tuple[GainStep, ...]]:
    evaluation = evaluate(design)
    results = evaluation.results
    return evaluation, procedure(design, results.signals, results.crossovers)


def schooled(design: Design, school: GainSchool) -> Design:
    return apply_edits(design, [Edit(path="policy/gain_school", value=school.value)])


def test_the_estate_is_set_source_first_then_converter_then_amplifier(estate: Design) -> None:
    """Common practice: everything before the amplifier clean at the top step, then the amplifier to its target."""
    evaluation, steps = steps_of(estate)
    shown = [step.shows.id for step in steps if step.shows is not None]
    assert shown == ["amp/tone_in_v", "amp/target_v"]
    words = [step.words for step in steps]
    assert "all the way down" in words[0]
    assert "low-pass 80 Hz" in words[1]
    assert estate.vehicle.radio.clip_step.value is not None
    assert estate.vehicle.radio.clip_step.value in words[2]
    converter, amplifier = (step for step in steps if step.shows is not None)
    assert converter.low_v is not None
    assert converter.high_v is not None
    target = evaluation.figures["amp/target_v"].value
    assert amplifier.low_v == pytest.approx(0.97 * target)
    assert amplifier.high_v == pytest.approx(1.03 * target)
    assert [step.check for step in steps].count(True) == 3
    blind = apply_edits(estate, [Edit(path="vehicle/radio/clip_step", value={"value": None})])
    _, unknown = steps_of(blind)
    assert "Find the last clean step" in unknown[2].words
    assert unknown[2].tone == "1000-hz-full"


TWEETER = "Morrowick T25 tweeter, pair"


def butter_db(order: int, corner_hz: float, kind: str, hz: float) -> float:
    """What a Butterworth takes off [db], by scipy."""
    b, a = signal.butter(order, corner_hz, kind, analog=True)
    return float(-20 * np.log10(abs(signal.freqs(b, a, [hz])[1][0])))


def test_a_tone_its_filters_would_take_is_read_with_them_flat(estate: Design) -> None:
    """Half a decibel and more off the tone, by scipy's filters: 0.6 dB of 50 Hz at a low-pass of 80 Hz, next to nothing
    of 1 kHz at a door's; what a tweeter's high-pass takes would have its gain turned up a hundredfold.
    """
    low = next(c for c in evaluate(estate).results.crossovers if c.scope == "amp")
    assert low.lost_db(50.0) == pytest.approx(butter_db(2, 80.0, "low", 50.0), abs=1e-6)
    assert low.lost_db(50.0, own=False) == 0.0
    vehicle = new_vehicle("Dravel", "Minnow", 2012, Body.ESTATE, Hand.LEFT)
    design = new_design("t", vehicle, Intake(), Policy())
    for name in ("Quillon six-way processor", "Tessel Four 70", "Morrowick W65 woofer, pair", TWEETER):
        design = apply_edits(design, added(design, next(t for t in catalogue() if t["name"] == name)))
    results = evaluate(design).results
    assert [TWEETER in o.load.driven_name for s in results.signals for o in s.outputs].count(True) == 2
    for output in (o for s in results.signals for o in s.outputs):
        entry = results.crossover_of(output.load.scope)
        assert entry is not None
        said = results.flat_for(output)
        tweeter = TWEETER in output.load.driven_name
        if tweeter:
            (corner,) = [hz for high, hz, _, _ in entry.in_source if high]
            slope = next(slope for high, _, slope, _ in entry.in_source if high)
            own = butter_db(2, entry.high_pass.value, "high", 1000.0) if entry.high_pass else 0.0
            lost = butter_db(slope // 6, corner, "high", 1000.0) + own
            assert lost > 15.0
            assert said == f"Speaker off, filters flat for this: they take {lost:.1f} dB off 1000 Hz."
        elif not output.load.driver.is_subwoofer:
            assert not said
        checks = [c.check.id for c in results.proof.checks if c.check.id.endswith(f"/{output.load.scope}")]
        assert (f"level/filter-on/{output.load.scope}" in checks) is bool(said)
        if tweeter:
            place = output.load.link.to_id
            ids = [c.check.id for c in results.proof.checks]
            wanted = (f"level/filter/{output.load.scope}", f"live/plays/{place}", f"level/out/{output.load.scope}",
                      f"level/round/{output.load.scope}", f"level/filter-on/{output.load.scope}")  # fmt: skip
            order = [ids.index(name) for name in wanted]
            assert order == sorted(order), "looked at before it is heard, and on again before its speaker is"
            heard = next(c.check for c in results.proof.checks if c.check.id == wanted[1])
            assert heard.needs == wanted[:1]
            assert results.proof.named(wanted[0]).check.gate == heard.gate == 2
            words = [s.words for s in steps_of(results.design)[1] if output.load.channel_name in s.words]
            assert said in words[0]
            assert "filters back on before its speaker is" in words[-1]
    filters = [(s.about, s.words) for s in steps_of(results.design)[1] if s.words.startswith("Filters in ")]
    doors = " and ".join(c.name for c in results.crossovers if TWEETER not in c.name)
    pillars = " and ".join(c.name for c in results.crossovers if TWEETER in c.name)
    parted = f"low-pass 3000 Hz for {doors}; high-pass 3000 Hz for {pillars}."
    assert filters[0] == ("processor", f"Filters in Quillon six-way processor: {parted}"), "by what they are set at"
    assert [about for about, _ in filters[1:]] == ["amp"]
    assert doors in filters[1][1]
    assert pillars not in filters[1][1], "once, where it is"
    (power,) = [s for s in generated(results) if s.id == "first-power"]
    assert power.cautions == ("The tweeters' filters set before anything plays",)
    plain = generated(evaluate(estate).results)
    assert next(s for s in plain if s.id == "first-power").cautions == ()


def test_every_filter_is_looked_at_once_in_the_proof() -> None:
    """A tweeter's before it is heard, the others with the gains: none twice, none left out."""
    for number in range(len(demo_jobs())):
        results = evaluate(demo_design(number)).results
        named = [c.check.id for c in results.proof.checks if c.check.id.startswith("level/filter/")]
        wanted = [f"level/filter/{c.scope}" for c in results.crossovers if c.words or c.source_words]
        assert sorted(named) == sorted(wanted), number


def test_behind_a_factory_amplifier_its_own_last_clean_step_counts() -> None:
    """An amplifier that clips before its radio does ends the volume sooner; the radio's step says nothing of it."""
    design = next(demo_design(n) for n, job in enumerate(demo_jobs()) if job.title == "Two bands, one front")
    tap = next(design.links_of(TapLink))
    source = design.vehicle.source_of(tap.from_ids[0])
    assert isinstance(source, Module)
    own, radio = f"vehicle/modules/{source.id}/clip_step", "vehicle/radio/clip_step"
    known = apply_edits(design, [Edit(path=own, value={"value": "23"}), Edit(path=radio, value={"value": "31"})])
    assert any("last clean step, 23;" in step.words for step in steps_of(known)[1])
    blind = apply_edits(known, [Edit(path=own, value={"value": None})])
    assert any("Find the last clean step" in step.words and step.about == source.id for step in steps_of(blind)[1])


@pytest.mark.parametrize("school", list(GainSchool))
def test_every_output_of_every_demo_job_is_set_once_with_a_tone_that_is_there(school: GainSchool) -> None:
    for number in range(len(demo_jobs())):
        design = schooled(demo_design(number), school)
        evaluation, steps = steps_of(design)
        signals = evaluation.results.signals
        assert bool(steps) == bool(signals)
        outputs = [output for signal in signals for output in signal.outputs]
        targets = [step for step in steps if step.shows is not None and step.shows.id.endswith("/target_v")]
        assert len(targets) == len(outputs)
        assert {step.tone for step in steps if step.tone} <= {tone.name for tone in tones_of(design, signals)}
        converters = {s.converter.id for s in signals if s.converter is not None}
        set_there = [step.about for step in steps if step.about in converters]
        assert len(set_there) == (0 if school is GainSchool.EAR else len(converters))


def test_schools_end_at_what_the_driver_takes_or_where_the_amplifier_ends(estate: Design) -> None:
    """√(P Z) of the smaller power against the amplifier's own, 20 log of their ratio: textbook."""
    half = apply_edits(estate, [Edit(path="parts/sub/power_rms_w", value=100.0)])
    (output,) = evaluate(half).results.signals[0].outputs
    power, load = output.load.power.value, output.load.load.value
    assert power is not None
    assert load is not None
    levels = {one.school: one for one in school_levels(output, GainSchool.METER)}
    assert levels[GainSchool.METER].volts == pytest.approx(sqrt(100.0 * load))
    assert levels[GainSchool.SCOPE].volts == pytest.approx(sqrt(power * load))
    assert levels[GainSchool.SCOPE].against_db == pytest.approx(10 * log10(power / 100.0))
    own = {one.school: one.against_db for one in school_levels(output, GainSchool.SCOPE)}
    assert own[GainSchool.SCOPE] == 0.0
    assert own[GainSchool.METER] == pytest.approx(-10 * log10(power / 100.0))


def test_a_converter_is_set_with_the_tone_its_output_plays(estate: Design) -> None:
    """A subwoofer is set at 50 Hz, doors at 1 kHz, common practice; the converter before either hears the same tone."""
    car = new_vehicle("Fallow", "Heron", 2010, Body.ESTATE, Hand.LEFT)
    names = ("Tessel Two 200", "Pell & Fenn Coax 65, pair", "Sprig LC2 active")
    _, doors = picked(new_design("x", car, Intake(), Policy()), names)
    for design, wanted in ((estate, "50-hz"), (doors, "1000-hz")):
        _, steps = steps_of(schooled(design, GainSchool.METER))
        shown = [(step.shows.id.rsplit("/", 1)[-1], step.tone) for step in steps if step.shows is not None]
        assert [name for name, _ in shown][:2] == ["tone_in_v", "target_v"]
        assert all(tone.startswith(wanted) for _, tone in shown)


def test_a_pair_of_channels_has_one_knob() -> None:
    """Set once, looked at on the other channel; where they want it at two places the one with less gain sets it, and
    it is told (common practice, no source; 20 log₁₀ of the ratio is a textbook's).
    """
    vehicle = new_vehicle("Dravel", "Minnow", 2012, Body.ESTATE, Hand.LEFT)
    design = new_design("t", vehicle, Intake(), Policy())
    design = apply_edits(design, [Edit(path="vehicle/radio/tier/value", value="plain radio")])
    for name in ("Pell & Fenn Coax 65, pair", "Tessel Four 70"):
        design = apply_edits(design, added(design, next(t for t in catalogue() if t["name"] == name)))
    amp = next(design.parts_of(Amplifier))
    assert [amp.knob_of(n) for n in (1, 2, 3, 4)] == [(1, 2), (1, 2), (3, 4), (3, 4)]
    evaluation, steps = steps_of(design)
    (first, second) = (step for step in steps if step.shows is not None)
    assert "channel 1" in first.words
    assert "Gain up until" in first.words
    assert "channel 2 has the same knob: leave it" in second.words
    assert (second.low_v, second.check) == (first.low_v, True)
    assert not [f for f in evaluation.findings if f.rule == "one-knob"]
    how = [c.check.how for c in evaluation.results.proof.checks if c.check.id.startswith("level/out/")]
    assert ["Channels 1 and 2 have one knob: set at one of them" in words for words in how] == [True, True]
    needed_v = evaluation.figures["amp/ch2/sensitivity_v"].value
    one = Edit(path="links/speaker-spk-fl/sensitivity_kept_v", value=float(f"{1.6 * needed_v:.3g}"))
    apart = apply_edits(design, [one])
    (told,) = [f for f in evaluate(apart).findings if f.rule == "one-knob"]
    assert f"{20 * log10(one.value / needed_v):.1f} dB below" in told.text
    assert told.severity is Severity.WATCH, "kept on purpose, by somebody"
    assert told.remedy is not None
    both = evaluate(apply_edits(apart, list(told.remedy.edits)))
    kept = [f for f in both.findings if f.rule == "sensitivity-kept"]
    assert "One knob" not in "".join(f.text for f in kept), "too high for both: it is let go of"
    assert {k.sensitivity_kept_v for k in both.design.links_of(SpeakerLink)} == {one.value}
    assert not [f for f in both.findings if f.rule == "one-knob"]
    (free,) = {f.remedy.edits for f in both.findings if f.rule == "sensitivity-kept" and f.remedy is not None}
    freed = apply_edits(both.design, list(free))
    assert {k.sensitivity_kept_v for k in freed.links_of(SpeakerLink)} == {None}, "one press lets go of the knob"
    lower = next(step for step in steps_of(apart)[1] if "has the same knob" in step.words)
    assert "channel 2" in lower.words
    assert "must not show more than" in lower.words
    asked_v = {o.scope: o.out_v for o in evaluate(apart).results.car.outputs if o.out_v is not None}
    full_v = evaluation.figures["amp/ch2/target_v"].value
    assert asked_v["amp/ch2"] == pytest.approx(full_v * needed_v / one.value), "what it is proved against"
    assert asked_v["amp/ch1"] == pytest.approx(evaluate(apart).figures["amp/ch1/target_v"].value)


@pytest.mark.parametrize("knobs", [GainKnobs.ALIKE, GainKnobs.A_CHANNEL])
def test_a_knob_sets_what_the_papers_say_whatever_feeds_it(knobs: GainKnobs) -> None:
    """One knob for all: turned once, where the least gain is wanted, though another line comes first."""
    design = new_design("t", new_vehicle("Dravel", "Minnow", 2012, Body.ESTATE, Hand.LEFT), Intake(), Policy())
    design = apply_edits(design, [Edit(path="vehicle/radio/tier/value", value="plain radio")])
    for name in ("Quillon S2 screen radio", "Tessel Four 70"):
        design = apply_edits(design, added(design, next(t for t in catalogue() if t["name"] == name)))
    design = apply_edits(design, connect_everything(design, "amp", own=True))
    design = apply_edits(design, [Edit(path="parts/amp/gain_knobs", value=knobs.value)])
    signals = evaluate(design).results.signals
    assert [len(signal.outputs) for signal in signals] == [2, 2], "front and rear, a line each"
    loads = [output.load for signal in signals for output in signal.outputs]
    last = loads[-1]
    kept = [Edit(path=f"links/{load.link.id}/sensitivity_kept_v", value=2.0 + (load is last)) for load in loads]
    evaluation, steps = steps_of(apply_edits(design, kept))
    set_there = [step.words for step in steps if "Gain up until" in step.words]
    read_there = [step.words for step in steps if "has the same knob" in step.words]
    if knobs is GainKnobs.A_CHANNEL:
        assert (len(set_there), len(read_there)) == (4, 0)
        assert not [f for f in evaluation.findings if f.rule == "one-knob"]
        return
    assert len(set_there) == 1
    assert f"channel {last.link.channel}" in set_there[0]
    assert len(read_there) == 3
    assert [f.rule for f in evaluation.findings].count("one-knob") == 1
    raised_by = raised(evaluation, signals[0].outputs[0].load.link.id, 1.0)
    assert len({edit.path for edit in raised_by}) == 4, "drawn at one, turned for all"
    amp = next(part for part in evaluation.design.parts_of(Amplifier))
    assert part_words(amp).endswith("gain knobs: one for all channels that are alike")


def test_a_processors_channels_have_a_knob_each_and_a_mono_channel_its_own() -> None:
    tree = next(t for t in catalogue() if t["name"] == "Tessel Five 75+350")
    five = Amplifier.model_validate({**tree, "id": "five"})
    assert [five.knob_of(n) for n in range(1, 6)] == [(1, 2), (1, 2), (3, 4), (3, 4), (5,)]
    odd = Amplifier.model_validate({**tree, "id": "five", "channel_count": 3, "further_count": 2})
    assert [odd.knob_of(n) for n in range(1, 6)] == [(1, 2), (1, 2), (3,), (4, 5), (4, 5)]
    own = Amplifier.model_validate({**tree, "id": "five", "processor": True})
    assert [own.knob_of(n) for n in range(1, 6)] == [(n,) for n in range(1, 6)]


def test_a_pair_of_channels_has_one_filter() -> None:
    """The higher high-pass spares both; a subwoofer and a door want a pair each (common practice, no source)."""
    vehicle = new_vehicle("Dravel", "Minnow", 2012, Body.ESTATE, Hand.LEFT)
    design = new_design("t", vehicle, Intake(), Policy())
    for name in ("Pell & Fenn Coax 65, pair", "Tessel Four 70"):
        design = apply_edits(design, added(design, next(t for t in catalogue() if t["name"] == name)))

    def told(*edits: Edit) -> list[Finding]:
        return [f for f in evaluate(apply_edits(design, list(edits))).findings if f.rule == "one-filter"]

    left, right = (f"links/speaker-spk-f{side}/high_pass_hz" for side in "lr")
    assert told() == told(Edit(path=left, value=80.0), Edit(path=right, value=86.0)) == []
    apart = [Edit(path=left, value=80.0), Edit(path=right, value=100.0)]
    (one,) = told(*apart)
    assert one.severity is Severity.NOTE
    assert one.remedy is not None
    both = apply_edits(apply_edits(design, apart), list(one.remedy.edits))
    assert {k.high_pass_hz for k in both.links_of(SpeakerLink)} == {100.0}
    moved = [*apart, Edit(path="links/speaker-spk-fr/channel", value=4)]
    assert told(*moved) == [], "a pair of its own"
    low = [Edit(path="links/speaker-spk-fr/low_pass_hz", value=3000.0), Edit(path=left, value=80.0)]
    (kinds,) = told(*low, Edit(path=right, value=80.0))
    assert kinds.severity is Severity.NOTE, "left and right"
    assert "high-pass 80 Hz, low-pass 3000 Hz for the other" in kinds.text
    tops = [Edit(path=f"links/speaker-spk-f{side}/low_pass_hz", value=hz) for side, hz in (("l", 3e3), ("r", 2e3))]
    (lows,) = told(*tops)
    assert lows.remedy is not None
    assert {(edit.path.split("/")[-1], edit.value) for edit in lows.remedy.edits} == {("low_pass_hz", 2e3)}


def test_a_knob_set_for_one_is_no_gain_given_away_by_the_other() -> None:
    """Either press would bring the other finding back: one is told with its channel, no press turns the knob."""
    design = new_design("t", new_vehicle("Dravel", "Minnow", 2012, Body.ESTATE, Hand.LEFT), Intake(), Policy())
    design = apply_edits(design, [Edit(path="vehicle/radio/tier/value", value="plain radio")])
    design = apply_edits(design, added(design, next(t for t in catalogue() if t["name"] == "Tessel Four 70")))
    design = apply_edits(design, connect_everything(design, "amp", own=True))

    def taking(watts: float) -> Edit:
        return Edit(path="vehicle/speakers/spk-fr/takes_w", value={"value": watts, "basis": "measured"})

    (past,) = (f for f in evaluate(apply_edits(design, [taking(8.0)])).findings if f.rule == "one-knob")
    assert past.remedy is not None
    assert past.remedy.edits == (), "it would have to be turned farther than it goes"
    weak = taking(20.0)
    design = apply_edits(design, [Edit(path="vehicle/speakers/spk-fl/takes_w/value", value=60.0)])
    (told,) = (f for f in evaluate(apply_edits(design, [weak])).findings if f.rule == "one-knob")
    assert told.remedy is not None
    kept = evaluate(apply_edits(apply_edits(design, [weak]), list(told.remedy.edits)))
    (other,) = (f for f in kept.findings if f.rule == "sensitivity-kept")
    assert "its knob set for Tessel Four 70, channel 2" in other.title
    assert other.remedy is not None
    assert other.remedy.edits == ()
    assert not [f for f in kept.findings if f.rule == "one-knob"]


def test_left_and_right_of_a_place_that_want_a_knob_apart_are_only_noted() -> None:
    """What is guessed of one of two like speakers is no reason to measure; two unlike ones on a pair are."""
    design = new_design("t", new_vehicle("Dravel", "Minnow", 2012, Body.ESTATE, Hand.LEFT), Intake(), Policy())
    design = apply_edits(design, [Edit(path="vehicle/radio/tier/value", value="plain radio")])
    design = apply_edits(design, added(design, next(t for t in catalogue() if t["name"] == "Tessel Four 70")))
    design = apply_edits(design, connect_everything(design, "amp", own=True))
    one = Edit(path="vehicle/speakers/spk-fr/takes_w", value={"value": 5.0, "basis": "measured"})
    places = ["spk-fr", "spk-rr", "spk-fl", "spk-rl"]  # unlike ones side by side
    turned = [Edit(path=f"links/speaker-{name}/channel", value=n) for n, name in enumerate(places, 1)]
    for edits, severity in (([one], Severity.NOTE), ([one, *turned], Severity.WATCH)):
        (told,) = (f for f in evaluate(apply_edits(design, edits)).findings if f.rule == "one-knob")
        assert told.severity is severity
