"""What arrives at a tap: watts behind volts, converter classes, what to sum.

Common practice, no source, unless said.
"""

from __future__ import annotations

from math import ceil, hypot

import pytest

from ohmack.core.document import Design, Intake
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.factory import Band, ChannelPlace, StatedAs
from ohmack.core.document.links import LineLink, TapLink
from ohmack.core.document.policy import Policy
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.evaluation.door import evaluate
from ohmack.core.factory.pickup_places import pickups
from ohmack.core.planning.pair_rows import PairRow, add_pairs
from ohmack.core.planning.part_added import added
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.core.signal.pickups import input_class_v, meant_power_w, tap_details, whole_range
from ohmack.demo.building import catalogue
from ohmack.demo.jobs import demo_design, demo_jobs

PREMIUM = next(n for n, job in enumerate(demo_jobs()) if job.title == "Two bands, one front")


def test_volts_and_what_they_mean() -> None:
    assert meant_power_w(9.0) == pytest.approx(20, abs=0.5)  # 9 V rms is 20 W into 4 ohm, 9 V peak 10 W
    assert meant_power_w(9.0 / 2**0.5) == pytest.approx(10, abs=0.25)
    assert meant_power_w(40.0) == pytest.approx(400)
    assert (input_class_v(9.2), input_class_v(18.0), input_class_v(40.0)) == (
        9.0,
        40.0,
        40.0,
    )  # plain, amplified, amplified


def test_what_to_sum_behind_a_band_split_amplifier() -> None:
    pickup_truck = demo_design(4)
    place = next(p for p in pickups(pickup_truck) if p.source_id == "factory-amp")
    details = tap_details(pickup_truck, place)
    assert "low range" in details.band
    assert "for bass alone Front left, amplified and Front right, amplified" in details.summing
    assert "Rear left, amplified" in details.summing
    assert details.input_class_v == 40.0
    assert "31 of 38" in details.distorts
    assert details.level.endswith("rms, from papers")  # a level without its basis is no figure


def test_one_channel_alone_is_not_summed_and_peak_volts_are_said() -> None:
    two_seater = demo_design(6)
    place = next(p for p in pickups(two_seater) if p.source_id == "factory-sub")
    assert tap_details(two_seater, place).summing == "Factory subwoofer alone, nothing to sum"
    peak = apply_edits(two_seater, [Edit(path="vehicle/radio/source_stated_as", value=StatedAs.PEAK.value)])
    stated = tap_details(peak, next(p for p in pickups(peak) if p.source_id == "radio"))
    assert "V peak)" in stated.level
    assert stated.power_w == pytest.approx(meant_power_w(9.2) / 2)  # half the power of the same figure in rms


def test_every_place_of_every_demo_car_says_something() -> None:
    for number in range(len(demo_jobs())):
        design = demo_design(number)
        for place in pickups(design):
            details = tap_details(design, place)
            assert bool(details.check) == place.usable
            assert (details.power_w is None) == (details.input_class_v is None)


def test_pairs_that_split_against_a_note_that_says_they_do_not() -> None:
    """The pairs are believed where places are ranked, and the note that cannot be true is said."""
    design = demo_design(PREMIUM)
    module = next(m for m in design.vehicle.modules if m.amplifies)
    denied = apply_edits(design, [Edit(path=f"vehicle/modules/{module.id}/band_split/value", value=False)])
    where = {p.source_id: p for p in pickups(denied)}
    assert "band-split" in where[module.id].words
    said = "its pairs split the bands, its note says it does not"
    assert [said in f.title for f in evaluate(denied).findings].count(True) == 1
    assert not any(said in f.title for f in evaluate(design).findings)


def test_bands_of_one_axle_are_summed_and_no_others() -> None:
    """Low and high of the front, left and right: four pairs for a processor of four; three inputs do not do."""
    design = demo_design(PREMIUM)
    amplifier = design.vehicle.modules[0]
    names = [c.id for c in whole_range(amplifier, 4)]
    assert names == ["amp-ch-fl", "amp-ch-rl", "amp-ch-fr", "amp-ch-rr"]
    assert whole_range(amplifier, 3) == ()
    tap = next(design.links_of(TapLink))
    assert list(tap.from_ids) == names
    low = apply_edits(design, [Edit(path=f"links/{tap.id}/from_ids", value=["amp-ch-fl", "amp-ch-fr"])])
    (found,) = [f for f in evaluate(low).findings if f.rule == "tap-bands"]
    assert found.title.startswith("No middle and treble for Pell & Fenn Coax 65")
    assert found.remedy is not None
    mended = apply_edits(low, list(found.remedy.edits))
    assert list(next(mended.links_of(TapLink)).from_ids) == names
    line = next(k for k in design.links_of(LineLink) if k.pair == 1)
    matrix = apply_edits(design, [Edit(path=f"links/{line.id}/input_ids", value=["amp-ch-fl", "amp-ch-fr"])])
    (chosen,) = [f for f in evaluate(matrix).findings if f.rule == "tap-bands"]
    assert (chosen.about, chosen.title) == (
        line.id,
        found.title,
    )  # what the processor is set to play, not what is tapped
    bass = next(k for k in design.links_of(LineLink) if k.pair == 3)
    low_only = apply_edits(design, [Edit(path=f"links/{bass.id}/input_ids", value=["amp-ch-fl", "amp-ch-fr"])])
    assert not [f for f in evaluate(low_only).findings if f.rule == "tap-bands"]
    twice = apply_edits(
        design, [Edit(path="vehicle/modules/factory-amp/channels/amp-ch-rl/band/value", value="full range")]
    )
    (said,) = [f for f in evaluate(twice).findings if f.rule == "tap-bands"]
    assert said.title == "Front left, low and Front left, high both carry the bass"
    place = Edit(path="vehicle/modules/factory-amp/channels/amp-ch-fr/place", value="front left")
    beside = apply_edits(design, [place])
    titles = [f.title for f in evaluate(beside).findings if f.rule == "tap-bands"]
    assert [title for title in titles if title.endswith("both carry the bass")], "the next pair on file too"


def said(design: Design, rule: str) -> list[str]:
    return [f.title for f in evaluate(design).findings if f.rule == rule]


@pytest.mark.parametrize(("radio", "amplifier", "stopped"), [(False, True, True), (True, False, False)])
def test_a_grounded_negative_is_that_of_what_is_tapped(radio: bool, amplifier: bool, stopped: bool) -> None:
    """The pickup truck is tapped behind its amplifier: the radio's own outputs may be bridged or not."""
    grounded = apply_edits(
        demo_design(4),
        [Edit(path="links/tap-converter/negative_to_body", value=True),
         Edit(path="vehicle/radio/bridged/value", value=radio),
         Edit(path="vehicle/modules/factory-amp/bridged/value", value=amplifier)],
    )  # fmt: skip
    assert bool(said(grounded, "bridged-output-grounded")) is stopped


@pytest.mark.parametrize(
    ("number", "source"), [(0, "radio"), (9, "radio"), (4, "modules/factory-amp")]
)  # a converter, a powered subwoofer by its speaker inputs, a converter behind the amplifier
def test_a_tap_of_which_nobody_knows_how_low_it_reaches_is_no_good_tap(number: int, source: str) -> None:
    path = f"vehicle/{source}/tap_low_hz/value"
    for low_hz, words in ((None, "is not known"), (55.0, "is 55 Hz"), (28.0, "")):
        found = said(apply_edits(demo_design(number), [Edit(path=path, value=low_hz)]), "tap-band")
        assert [words in title for title in found] == [True] * bool(words), low_hz
    silent = [Edit(op="remove", path=f"parts/{p.id}") for p in demo_design(number).parts if "subwoofer" in p.kind]
    assert not said(apply_edits(demo_design(number), [Edit(path=path, value=None), *silent]), "tap-band")


def test_a_pair_that_carries_both_sides_is_enough() -> None:
    one = apply_edits(demo_design(0), [Edit(path="links/tap-converter/from_ids", value=["ch-rl"])])
    assert said(one, "tap-band") == ["Only one side is picked up"]
    summed = apply_edits(one, [Edit(path="vehicle/radio/channels/ch-rl/mix", value="left and right summed")])
    assert said(summed, "tap-band") == []


def test_what_nobody_looked_at_behind_an_amplifier_is_said() -> None:
    base = "vehicle/modules/factory-amp"
    asked = ("fitted", "band_split", "equalised", "load_sensing")
    unknown = [Edit(path=f"{base}/{name}/value", value=None) for name in asked]
    titles = said(apply_edits(demo_design(4), unknown), "factory-system")
    (title,) = [t for t in titles if t.startswith("Not known")]
    words = "is really fitted, splits the bands, equalises and senses its load"
    assert title == f"Not known of Factory amplifier: whether it {words}"
    assert not [t for t in said(demo_design(4), "factory-system") if t.startswith("Not known")]


def test_a_band_nobody_read_is_asked_for_before_pairs_are_summed() -> None:
    """The premium car's amplifier splits the bands over its pairs."""
    path = "vehicle/modules/factory-amp/channels/amp-ch-fl/band/value"
    unread = said(apply_edits(demo_design(PREMIUM), [Edit(path=path, value=None)]), "tap-bands")
    assert unread == ["Not known: which band Front left, low carries"]


@pytest.mark.parametrize("own", [None, True])
def test_a_speaker_of_unknown_band_may_be_a_tweeter_once_something_new_drives_it(own: bool | None) -> None:
    """Behind a new radio each door gets the whole range: dead in a moment where it is a tweeter without capacitor."""
    kept = next(n for n, job in enumerate(demo_jobs()) if job.title == "Screen radio, dash uncut")
    unknown = apply_edits(
        demo_design(kept),
        [Edit(path="vehicle/radio/channels/ch-fl/band/value", value=None),
         Edit(path="vehicle/speakers/spk-fl/own_capacitor/value", value=own)],
    )  # fmt: skip
    asked = [t for t in said(unknown, "tweeter-unprotected") if t.startswith("Not known")]
    assert len(asked) == (own is None)


def test_a_pickup_at_two_speakers_has_leads_from_both(estate: Design) -> None:
    """Rear left and right doors are on two sides: a pair from each, both cut, ordered, laid and paid for; at the plug
    all four wires go one way.
    """

    def tapped(design: Design) -> list[tuple[str, str, float]]:
        rows = [row for row in evaluate(design).results.wire_rows if row.purpose == "Signal tap"]
        return [(row.start, row.size, row.length_m or 0.0) for row in rows]

    at_plug = apply_edits(estate, [Edit(path="links/tap-converter/from_ids", value=["ch-rl", "ch-rr"])])
    assert [size for _, size, _ in tapped(at_plug)] == ["18 AWG × 4"]
    leads = apply_edits(at_plug, [Edit(path="links/tap-converter/place", value="leads at the speakers")])
    rows = tapped(leads)
    assert [(start, size) for start, size, _ in rows] == [
        ("Rear left door, its leads", "18 AWG × 2"), ("Rear right door, its leads", "18 AWG × 2"),
    ]  # fmt: skip
    right = next(s for s in leads.vehicle.speakers if s.id == "spk-rr").position
    converter = leads.part("converter").position  # type: ignore[union-attr]
    assert converter is not None
    plan_m = hypot(right.x_m - converter.x_m, right.y_m - converter.y_m)
    policy = leads.policy
    assert rows[1][2] == pytest.approx((plan_m + 2 * policy.rise_m) * (1 + policy.slack_fraction))
    results = evaluate(leads).results
    (violet,) = [row for row in results.order if "violet" in row.what]
    assert float(violet.amount.split()[0]) == pytest.approx(ceil(4 * sum(m for _, _, m in rows)) / 2, abs=0.51)
    steps = {p.step.id for p in results.work_plan.steps}
    assert {"lay-tap-converter", "lay-spk-rr", "off-spk-rl", "off-spk-rr"} <= steps
    one = apply_edits(leads, [Edit(path="links/tap-converter/from_ids", value=["ch-rl"])])
    assert [start for start, _, _ in tapped(one)] == ["Rear left door, its leads"]
    assert (evaluate(one).results.cost.value or 0) < (results.cost.value or 0)  # type: ignore[union-attr]


def test_pairs_typed_in_take_the_place_of_those_only_taken_for_granted() -> None:
    """High and low wires of one door: the pair that was guessed becomes the low one, with its speaker; a pair somebody
    read stays beside them.
    """
    design = new_design("t", new_vehicle("Any", "Any", 2008, Body.ROADSTER, Hand.LEFT), Intake(), Policy())
    rows = [PairRow(ChannelPlace.FRONT_LEFT, Band.HIGH), PairRow(ChannelPlace.FRONT_LEFT, Band.LOW_MID, reads_ohm=3.4)]
    parted = apply_edits(design, add_pairs(design, "radio", rows)).vehicle
    left = [c for c in parted.radio.channels if c.place is ChannelPlace.FRONT_LEFT]
    assert [(c.id, c.name, c.band.value) for c in left] == [
        ("ch-fl", "Front left, low and mid range", Band.LOW_MID),
        ("pair-front-left", "Front left, high range", Band.HIGH),
    ]  # fmt: skip
    assert left[0].pair_resistance_ohm.value == 3.4
    assert {s.channel_id for s in parted.speakers if s.id == "spk-fl"} == {"ch-fl"}
    read = apply_edits(design, [Edit(path="vehicle/radio/channels/ch-fl/pair_resistance_ohm/value", value=3.6)])
    beside = apply_edits(read, add_pairs(read, "radio", rows)).vehicle.radio.channels
    assert [c.band.value for c in beside if c.place is ChannelPlace.FRONT_LEFT] == [Band.FULL, Band.HIGH, Band.LOW_MID]


def test_a_pair_of_the_new_radio_with_nothing_on_file_is_not_passed_over() -> None:
    """High and low wires of two doors, typed in as pairs: until something hangs on the high ones their load is not
    judged, and one press puts the usual tweeters there, whose load and missing capacitor are.
    """
    design = new_design("t", new_vehicle("Any", "Any", 2008, Body.ROADSTER, Hand.LEFT), Intake(), Policy())
    rows = [PairRow(place, band) for band in (Band.LOW_MID, Band.HIGH)
            for place in (ChannelPlace.FRONT_LEFT, ChannelPlace.FRONT_RIGHT)]  # fmt: skip
    parted = apply_edits(design, add_pairs(design, "radio", rows))
    assert "pair-bare" not in {f.rule for f in evaluate(parted).findings}  # its own radio plays as it did
    parted = apply_edits(parted, added(parted, next(t for t in catalogue() if t["name"] == "Quillon Q1 plain radio")))
    bare = [f for f in evaluate(parted).findings if f.rule == "pair-bare"]
    assert [f.title for f in bare] == [
        f"Nothing on file hangs on Front {side}, high range" for side in ("left", "right")
    ]
    assert bare[0].remedy is not None
    assert bare[0].remedy.label == "Take it for 2 tweeters the works fitted"
    filled = apply_edits(parted, bare[0].remedy.edits)
    rules = {f.rule for f in evaluate(filled).findings}
    assert "pair-bare" not in rules
    assert rules & {"tweeter-unprotected", "channel-load"}
    nowhere = [Edit(path=f"vehicle/radio/channels/{c.id}/reaches/value", value=False)
               for c in parted.vehicle.radio.channels if c.band.value is Band.HIGH]  # fmt: skip
    assert "pair-bare" not in {f.rule for f in evaluate(apply_edits(parted, nowhere)).findings}
