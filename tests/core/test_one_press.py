"""What stops a plan that was good is mended by the press beside it: planned for later, swapped, cut, on too weak a
feed.
"""

from __future__ import annotations

from math import log10

import pytest

from core.test_any_car_to_the_end import asked
from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.factory import Tier
from ohmack.core.document.links import FeedLink, LineLink, PowerLink, SpeakerLink
from ohmack.core.document.parts import Subwoofer
from ohmack.core.document.small_parts import SeriesCapacitor
from ohmack.core.document.vehicle import Body, Hand, KeyState, Powertrain
from ohmack.core.evaluation.door import evaluate
from ohmack.core.figures.finding import Finding, Remedy, Severity
from ohmack.core.planning.laying import follow
from ohmack.core.planning.part_added import added
from ohmack.core.planning.parts_tried import taking
from ohmack.core.planning.remedies import edits_of
from ohmack.demo.building import catalogue
from ohmack.demo.jobs import demo_design, demo_jobs

DEMOS = {demo_design(n).title: n for n in range(len(demo_jobs()))}
ADAPTER, LINE_V = "Sprig ring and level adapter", "parts/accessory/line_v"
TREES = {tree["name"]: tree for tree in catalogue()}


def car(title: str) -> Design:
    return demo_design(DEMOS[title])


def ring_car(*names: str) -> Design:
    """A saloon with an optical ring, its parts picked and wired."""
    design = asked(Body.SALOON, Tier.RING, (), 2012, Hand.LEFT, Powertrain.COMBUSTION)
    for name in names:
        design = apply_edits(design, added(design, TREES[name]))
    return design


def stops(design: Design) -> list[Finding]:
    return [found for found in evaluate(design).findings if found.severity.value == "stop"]


def named(design: Design, name: str) -> str:
    return next(part.id for part in design.parts if part.name == name)


def pressed(design: Design, rule: str, label: str) -> Design:
    """The plan after the press a rule offers under a label."""
    (found,) = [f for f in stops(design) if f.rule == rule and f.remedy is not None and f.remedy.label == label]
    assert found.remedy is not None
    assert found.remedy.applies
    return apply_edits(design, edits_of(design, found.remedy))


@pytest.mark.parametrize(
    ("title", "part", "rule"),
    [
        ("The wasp in the old radio", "Cooperage 28 closed", "driver-boxless"),
        ("Bass at the converter's limit", "Sprig LC2 active", "link-missing"),
        ("Sound for a lorry cab", "Hob converter 24 to 12 V, 40 A", "supply-system"),
        ("Two amplifiers, and lamps that dim", "Hob charging relay 100", "charge-cable"),
        ("The forecast in the field", "Quillon Q1 plain radio", "speaker-silent"),
    ],
)
def test_what_is_wanted_now_and_planned_for_later_is_fitted_by_a_press(title: str, part: str, rule: str) -> None:
    design = car(title)
    before = {(f.rule, f.about) for f in stops(design)}
    path = f"parts/{named(design, part)}/phase"
    after = pressed(apply_edits(design, follow(design, [Edit(path=path, value="later")])), rule, f"Fit {part} now")
    assert {(f.rule, f.about) for f in stops(after)} == before
    assert all(p.phase.value == "now" for p in after.parts if p.name == part)


def test_a_wire_a_press_adds_is_the_one_planned_for_later() -> None:
    """What is fitted now is judged alone, so a press knows nothing of later wires: the same one becomes its own,
    another of that id keeps it.
    """
    design = car("Hidden bass, radio stays")
    (speaker,) = design.links_of(SpeakerLink)
    later = apply_edits(design, [Edit(path=f"links/{speaker.id}/phase", value="later")])
    tree = {"id": speaker.id, "kind": "speaker", "from_id": "amp", "to_id": "sub", "channel": 1}
    same = apply_edits(later, edits_of(later, Remedy("Wire it", (Edit(op="add", path="links", value=tree),))))
    assert [(k.id, k.phase.value) for k in same.links_of(SpeakerLink)] == [(speaker.id, "now")]
    other = tree | {"to_id": "spk-fl"}
    both = apply_edits(later, edits_of(later, Remedy("Wire it", (Edit(op="add", path="links", value=other),))))
    assert [(k.id, k.to_id, k.phase.value) for k in both.links_of(SpeakerLink)] == [
        (speaker.id, "sub", "later"), (f"{speaker.id}-2", "spk-fl", "now"),
    ]  # fmt: skip


@pytest.mark.parametrize("kind", ["ground", "power", "remote"])
def test_a_wire_of_later_between_things_of_today_is_laid_by_a_press(kind: str) -> None:
    design = car("Hidden bass, radio stays")
    path = next(f"links/{k.id}/phase" for k in design.links if k.kind == kind)
    after = pressed(apply_edits(design, [Edit(path=path, value="later")]), "link-missing", "Lay its wires of later now")
    assert after == design
    bass = car("Bass behind the seat")
    path = next(f"links/{k.id}/phase" for k in bass.links if k.kind == "ground")
    waits = apply_edits(bass, [Edit(path=path, value="later")])
    assert pressed(waits, "link-missing", "Lay its wires of later now") == bass


def test_a_place_that_gets_its_speaker_later_is_no_gap_of_today() -> None:
    design = car("Voices beside the ears")
    path = f"parts/{named(design, 'Kettleworth Cushion 100, four')}/phase"
    later = apply_edits(design, follow(design, [Edit(path=path, value="later")]))
    (told,) = [f for f in evaluate(later).findings if f.rule == "place-waiting"]
    assert (told.severity.value, told.title) == ("note", "Left headrest, outer and 3 more: a speaker comes later")
    gone = apply_edits(design, [Edit(op="remove", path=path.rpartition("/")[0])])
    assert [f for f in stops(gone) if f.rule == "place-waiting"]


def test_a_part_that_stands_in_no_space_gets_one_to_be_measured() -> None:
    """It stands under a seat; once its space is measured, it is held against it: 300 mm long parts want 300 mm."""
    design = asked(Body.HATCH, Tier.PLAIN, (), 2012, Hand.LEFT, Powertrain.COMBUSTION)
    design = apply_edits(design, added(design, TREES["Cooperage Underseat 8"]))
    (told,) = [f for f in evaluate(design).findings if f.rule == "box-space-unknown"]
    assert told.remedy is not None
    put = apply_edits(design, edits_of(design, told.remedy))
    space = put.vehicle.spaces[-1]
    assert (space.name, space.position) == ("Space of Cooperage Underseat 8", design.part(told.about).position)  # type: ignore[union-attr]
    (asked_for,) = [f for f in evaluate(put).findings if f.rule == "fact-missing" and "Space of" in f.title]
    assert asked_for.severity is Severity.WATCH, "one thing to measure, and no worse than before it was on file"
    assert asked_for.text.count(";") == 4, "along, across, height and both of the way in"
    bass = design.part(told.about)
    for spare_m, lacking in ((0.03, 0), (-0.03, 1)):
        sizes = {name: getattr(bass, name) + spare_m for name in ("length_m", "width_m", "height_m")}
        sizes |= {"opening_width_m": 0.9, "opening_height_m": 0.6}
        at = f"vehicle/spaces/{space.id}"
        read = [Edit(path=f"{at}/{k}", value={"value": v, "basis": "measured"}) for k, v in sizes.items()]
        said = [f.title for f in stops(apply_edits(put, read)) if f.rule == "fit"]
        assert len(said) == lacking
        assert all(title.endswith("in its space, 30 mm missing") for title in said)


def test_a_part_in_the_place_of_another_stays_where_that_was() -> None:
    seats = car("Voices beside the ears")
    old = next(seats.parts_of(SeriesCapacitor))
    swapped = apply_edits(seats, taking(seats, TREES["Kettleworth bipolar 120 µF"], old.id)).part(old.id)
    assert isinstance(swapped, SeriesCapacitor)
    assert (swapped.capacitance_uf, swapped.at_ids) == (120.0, old.at_ids)
    assert old.at_ids
    bare = car("One driver now, an amplifier next year")
    sub = next(bare.parts_of(Subwoofer))
    other = apply_edits(bare, taking(bare, TREES["Morrowick 10 D4"], sub.id)).part(sub.id)
    assert isinstance(other, Subwoofer)
    assert (other.name, other.at_ids) == ("Morrowick 10 D4", sub.at_ids)
    assert sub.at_ids


def test_what_a_feed_does_not_carry_gets_a_run_of_its_own() -> None:
    design = car("Warmth under the seat")
    sub = named(design, "Cooperage Underseat 8")
    strong = apply_edits(design, taking(design, TREES["Cooperage Backrest 10"], sub))
    assert [k for k in strong.links_of(FeedLink) if k.to_id == sub]
    after = pressed(strong, "self-fed", "Lay its own run")
    assert not [k for k in after.links_of(FeedLink) if k.to_id == sub]
    assert [k.to_id for k in after.links_of(PowerLink)] == [sub]
    assert not stops(after)


def test_a_radio_without_a_ground_is_grounded_at_the_nearest_point() -> None:
    design = car("The forecast in the field")
    cut = apply_edits(design, [Edit(op="remove", path="links/feed-radio-2-constant")])
    after = pressed(cut, "converter-feed-states", "Ground it at Radio ground bolt")
    (feed,) = [k for k in after.links_of(FeedLink) if k.ground_point_id is not None]
    assert feed.ground_point_id == "ground-radio"
    assert not [f for f in stops(after) if f.rule == "converter-feed-states"]


@pytest.mark.parametrize("title", ["The forecast in the field", "A screen she can read", "Bass for the caddies' feast"])
def test_a_radio_on_constant_alone_gets_a_switched_feed(title: str) -> None:
    """Common practice, no source: yellow keeps the clock, red says when to play; with one alone it never goes off."""
    design = car(title)
    (switched,) = [k for k in design.links_of(FeedLink) if k.from_id == "radio-switched"]
    cut = apply_edits(design, [Edit(op="remove", path=f"links/{switched.id}")])
    after = pressed(cut, "radio-unswitched", "Feed it from Radio switched feed too")
    assert [k.to_id for k in after.links_of(FeedLink) if k.from_id == "radio-switched"] == [switched.to_id]
    assert not stops(after)
    always = [Edit(path="vehicle/feeds/radio-switched/live/value", value=[state.value for state in KeyState])]
    (told,) = (f for f in stops(apply_edits(design, always)) if f.rule == "radio-unswitched")
    assert told.remedy is not None
    assert (told.remedy.edits, told.remedy.path) == ((), "vehicle/feeds/radio-switched/live"), "it hangs on it already"
    woken = {"id": "wake", "kind": "remote", "from_id": "radio-switched", "to_id": switched.to_id}
    assert not stops(apply_edits(cut, [Edit(op="add", path="links", value=woken)]))


def test_a_plug_in_amplifier_hears_something_or_stops_the_plan() -> None:
    whole = car("Everything new but the doors")
    cut = apply_edits(whole, [Edit(op="remove", path=f"links/{k.id}") for k in whole.links_of(LineLink)])
    assert [f.title for f in stops(cut)] == ["Tessel P5 plug-in amplifier has no signal"]
    assert not stops(pressed(cut, "signal-missing", "Wire it up"))
    ring = ring_car("Tessel P5 plug-in amplifier")
    (deaf,) = [f for f in stops(ring) if f.rule == "signal-missing"]
    assert deaf.remedy is not None
    assert (deaf.remedy.label, deaf.remedy.sheet) == ("Find an adapter", "find")
    heard = ring_car(ADAPTER, "Tessel P5 plug-in amplifier")
    assert not [f for f in evaluate(heard).findings if f.rule in ("signal-missing", "part-idle", "plug-in-level")]
    lines = [Edit(op="remove", path=f"links/{k.id}") for k in heard.links_of(LineLink)]
    untold = apply_edits(heard, [*lines, Edit(path=LINE_V, value=None)])
    (told,) = [f for f in evaluate(untold).findings if f.rule == "plug-in-level"]
    assert "behind Sprig ring and level adapter was not judged" in told.title
    assert told.remedy is not None
    assert told.remedy.path == LINE_V
    assert not [f for f in stops(untold) if f.rule in ("link-missing", "signal-missing")]
    again = apply_edits(untold, [Edit(path=LINE_V, value=2.0)])
    assert pressed(again, "signal-missing", "Wire it up").links == heard.links


@pytest.mark.parametrize("names", [("Tessel P5 plug-in amplifier",), ("Tessel Four 70", "Pell & Fenn Coax 65, pair")])
def test_an_adapter_of_a_ring_gives_lines_like_a_radio(names: tuple[str, ...]) -> None:
    """2 V up to what the amplifier gives at its load: the gain is the ratio of the two."""
    results = evaluate(ring_car(ADAPTER, *names)).results
    signal = results.signals[0]
    assert signal.way.radio is not None
    assert (signal.way.radio.name, signal.figures["source"].value) == (ADAPTER, 2.0)
    target_v = signal.outputs[0].figures["target"].value
    assert signal.figures["amp_gain"].value == pytest.approx(20 * log10(target_v / 2.0))
    assert {row.start for row in results.wire_rows if row.purpose == "Line level"} == {ADAPTER}
    assert results.runs[signal.way.line.id].length.value is not None  # type: ignore[union-attr]
    louder = apply_edits(results.design, [Edit(path=LINE_V, value=4.0)])
    assert evaluate(louder).results.signals[0].figures["amp_gain"].value == pytest.approx(20 * log10(target_v / 4.0))
    unread = apply_edits(results.design, [Edit(path="parts/accessory/line_pairs", value=None)])
    (asked,) = [f for f in stops(unread) if f.rule == "line-pairs"]
    assert asked.remedy is not None
    assert asked.remedy.path == "parts/accessory/line_pairs"
    assert [f.about for f in evaluate(results.design).findings if f.rule == "adapter-risk"] == ["accessory"]


def test_a_way_lives_on_what_it_comes_through() -> None:
    design = car("A screen she can read")
    for name, role in (("Sprig line leads for works amplifiers", "line adapter"),
                       ("Hob extension loom, 20 way", "extension loom")):  # fmt: skip
        without = apply_edits(design, [Edit(op="remove", path=f"parts/{named(design, name)}")])
        (found,) = stops(without)
        assert found.title == f"Factory radio hidden, a screen on its input: no {role} among the parts"
    assert not stops(design)


def test_a_line_that_was_cut_is_laid_again_and_a_pair_that_is_not_there_is_changed() -> None:
    five = car("Five channels, four doors and a box")
    before = len(list(five.links_of(LineLink)))
    cut = apply_edits(five, [Edit(op="remove", path="links/line-amp-rear")])
    after = pressed(cut, "line-pairs", "Lay a line to them")
    assert len(list(after.links_of(LineLink))) == before
    assert not stops(after)
    lines = list(five.links_of(LineLink))
    beyond = apply_edits(five, [Edit(path=f"links/{lines[0].id}/pair", value=7)])
    mended = pressed(beyond, "line-pairs", f"Take pair {lines[0].pair}")
    assert sorted(k.pair for k in mended.links_of(LineLink)) == sorted(k.pair for k in lines)
