"""A plug-in amplifier in the factory amplifier's place: on its plugs, with fewer channels than the car has pairs; and
factory tweeters, which no size makes woofers. Common practice, no source, where nothing else is said.
"""

from __future__ import annotations

from dataclasses import replace

import pytest

from ohmack.core.build.step_making import generated
from ohmack.core.document import Design, Intake
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.design import Keep, Wish
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.factory import Tier
from ohmack.core.document.links import SpeakerLink
from ohmack.core.document.policy import Policy
from ohmack.core.document.strategy import StrategyKey
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.evaluation.answer import Evaluation
from ohmack.core.evaluation.door import evaluate
from ohmack.core.factory.advice import advise
from ohmack.core.factory.function_edits import functions_for
from ohmack.core.factory.functions import Fate
from ohmack.core.factory.strategies import Candidate
from ohmack.core.factory.usual_modules import modules_for
from ohmack.core.figures.finding import Finding
from ohmack.core.loads.corners import joined_in_corners
from ohmack.core.planning.remedies import edits_of
from ohmack.core.planning.speaker_sets import OWN, SHARED, add_sets
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.core.planning.strategy import lay_strategy
from ohmack.core.prove.as_built import as_built
from ohmack.core.prove.car import Setting
from ohmack.demo.building import catalogue, measured
from ohmack.demo.jobs import demo_design

OWN_CAPACITOR = "vehicle/speakers/spk-tweeter-{side}/own_capacitor"


def car(**sets: str) -> Design:
    """A car with a factory amplifier of four door pairs and further sets of speakers."""
    wanted = Intake(wishes=(Wish.BASS, Wish.CLARITY), must_keep=(Keep.CHIMES, Keep.HANDS_FREE), budget=1500)
    vehicle = new_vehicle("Pallister", "Kestrel", 2017, Body.ESTATE, Hand.LEFT)
    design = new_design("t", vehicle, wanted, Policy())
    design = apply_edits(design, [Edit(path="vehicle/radio/tier/value", value=Tier.AMPLIFIED.value)])
    design = apply_edits(design, modules_for(design, Tier.AMPLIFIED))
    return apply_edits(design, add_sets(design, sets))


def plugged(design: Design) -> Design:
    return apply_edits(design, lay_strategy(design, StrategyKey.REPLACE_AMPLIFIER.value, catalogue()).edits)


def by_channel(design: Design) -> dict[int, list[str]]:
    found: dict[int, list[str]] = {}
    for link in design.links_of(SpeakerLink):
        found.setdefault(link.channel, []).append(link.to_id)
    return found


def said(answer: Evaluation, rule: str) -> list[Finding]:
    return [f for f in answer.findings if f.rule == rule]


def way(design: Design, key: StrategyKey) -> Candidate:
    return next(c for c in advise(design).ranked if c.key is key)


def test_it_sits_on_the_plugs_of_the_old_one_and_nothing_is_bought_or_laid_for_it() -> None:
    design = plugged(car())
    (amplifier,) = design.parts_of(Amplifier)
    old = next(m for m in design.vehicle.modules if m.amplifies)
    assert amplifier.position == old.position
    results = evaluate(design).results
    assert not [row for row in results.wire_rows if amplifier.name in (row.start, row.end)]
    steps = {step.id: step for step in generated(results)}
    assert f"out-{old.id}" in steps[f"fix-{amplifier.id}"].needs, "the old one comes out before it is fixed"
    assert not [name for name in steps if name.startswith(("lay-", "off-radio", "join-plug"))]
    assert steps[f"join-{amplifier.id}"].what.endswith("the plugs of the factory amplifier")
    there = apply_edits(design, [Edit(path=f"parts/{amplifier.id}/stands", value="already in the car")])
    assert f"out-{old.id}" not in {step.id for step in generated(evaluate(there).results)}, "a job before took it out"


def test_where_the_old_feed_does_not_carry_it_one_press_lays_its_own_run() -> None:
    """22 A on a fuse of 25 A, of which 80 % are room: 20 A. It is proved to play from its own run then."""
    design = plugged(car())
    (unknown,) = said(evaluate(design), "self-fed")
    assert "Factory amplifier's feed" in unknown.title
    assert unknown.remedy is not None
    first = evaluate(design).results.self_fed[0].taps[0].open[0]
    assert unknown.remedy.path == first[0], "the first of what is asked for"
    feed = "vehicle/feeds/factory-amp-feed"
    known = {"old_load_a": 0.0, "fuse_a": 15.0, "wire_size": "6 mm2", "wire_length_m": 3.2}
    read = apply_edits(design, [measured(f"{feed}/{name}", value) for name, value in known.items()])
    assert not said(evaluate(read), "reading-implausible"), "nothing is drawn once the old one is unplugged"
    (odd,) = said(evaluate(apply_edits(car(), [measured(f"{feed}/old_load_a", 0.0)])), "reading-implausible")
    assert "0 A is unusual" in odd.title, "it is still on its feed"
    roomy = {"old_load_a": 9.0, "fuse_a": 30.0, "wire_size": "10 mm2", "wire_length_m": 3.2}
    wide = evaluate(apply_edits(design, [measured(f"{feed}/{name}", value) for name, value in roomy.items()]))
    (tap,) = wide.results.self_fed[0].taps
    draws_a = wide.results.self_fed[0].current.value
    assert tap.total.value == draws_a, "what the old one drew goes with it"
    assert (tap.verdict, draws_a + 9.0 > 24.0 > draws_a) == ("allowed", True)
    kept = evaluate(demo_design(11)).results.self_fed[0]
    assert kept.taps[0].total.value == pytest.approx(kept.current.value + 1.2), "it stays for the chimes"
    (refused,) = said(evaluate(read), "self-fed")
    assert refused.severity.value == "stop"
    assert refused.remedy is not None
    laid = apply_edits(read, edits_of(read, refused.remedy))
    assert sorted(k.kind for k in laid.links if "amp" in (k.to_id, getattr(k, "from_id", ""))
                  and k.kind not in ("speaker", "tap")) == ["ground", "power"]  # fmt: skip
    answer = evaluate(laid)
    assert not said(answer, "self-fed")
    output = as_built(answer.results).outputs[0]
    assert as_built(answer.results).live(Setting.LEVEL).awake >= {output.owner_id}, "on over the plug it sits on"
    wide = apply_edits(design, [Edit(path=f"{feed}/{n}/value", value=v) for n, v in (known | {"fuse_a": 40.0}).items()])
    carried = evaluate(wide)
    assert "carries" in said(carried, "self-fed")[0].title
    tie = {"id": "feed-amp", "kind": "feed", "from_id": "factory-amp-feed", "to_id": "amp"}
    tied = apply_edits(read, [Edit(op="add", path="links", value=tie)])
    (hung,) = said(evaluate(tied), "self-fed")
    assert hung.remedy is not None
    instead = apply_edits(tied, edits_of(tied, hung.remedy))
    mine = [k for k in instead.links if "amp" in (k.to_id, getattr(k, "from_id", ""))]
    fed = [k.kind for k in mine if k.kind in ("power", "ground", "feed")]
    assert sorted(fed) == ["ground", "power"], "no second supply beside the feed"
    assert [f.title for f in said(carried, "part-idle")] == ["Hob maxi holder: nothing in this plan takes it"]
    assert not said(evaluate(read), "part-idle"), "its own run may come yet"
    assert not said(answer, "part-idle")


def test_where_channels_are_short_the_pairs_of_a_corner_share_one_left_as_right() -> None:
    design = plugged(car(tweeter=OWN))
    assert by_channel(design) == {
        1: ["spk-fl", "spk-tweeter-left"], 2: ["spk-fr", "spk-tweeter-right"], 3: ["spk-rl"], 4: ["spk-rr"],
    }  # fmt: skip
    answer = evaluate(design)
    assert not said(answer, "speaker-silent")
    assert {f.about for f in said(answer, "tweeter-unprotected")} == {
        OWN_CAPACITOR.format(side=s) for s in ("left", "right")
    }
    words = way(design, StrategyKey.REPLACE_AMPLIFIER).channels
    assert "5 channels for 6 factory outputs" in words
    assert words.endswith("where the high and the low pair of a corner share one")
    alone = car(tweeter=OWN, **{"rear-tweeter": OWN})
    groups = [[s.id] for s in alone.vehicle.speakers]
    assert [len(g) for g in joined_in_corners(alone, groups, 8)] == [1] * 8
    assert sorted(map(len, joined_in_corners(alone, groups, 6))) == [1, 1, 1, 1, 2, 2]
    behind = [g for g in joined_in_corners(alone, groups, 6) if len(g) > 1]
    assert behind == [["spk-rl", "spk-rear-tweeter-left"], ["spk-rr", "spk-rear-tweeter-right"]], "behind first"
    assert joined_in_corners(alone, groups, 3) == groups, "none where it would not do"


def test_of_two_plug_in_amplifiers_the_one_that_does_for_every_pair_is_taken() -> None:
    """Four channels do for six pairs where corners are joined; with a centre they do not, and the dearer one with
    eight is taken.
    """
    five = next(tree for tree in catalogue() if tree["kind"] == "plug-in amplifier")
    four = five | {"name": "Four", "price": 100.0, "channel_count": 4}
    eight = five | {"name": "Eight", "price": 900.0, "channel_count": 8}

    def taken(**sets: str) -> str:
        design = car(**sets)
        laid = lay_strategy(design, StrategyKey.REPLACE_AMPLIFIER.value, [eight, four])
        (amplifier,) = apply_edits(design, laid.edits).parts_of(Amplifier)
        return amplifier.name

    assert taken(tweeter=OWN) == "Four"
    assert taken(tweeter=OWN, centre=OWN) == "Eight"


def test_a_plan_with_a_silent_tweeter_is_joined_by_one_press() -> None:
    whole = plugged(car(tweeter=OWN))
    apart = [Edit(op="remove", path="links/speaker-spk-tweeter-right")]
    apart.append(Edit(path="links/speaker-spk-tweeter-left/channel", value=5))
    short = apply_edits(whole, apart)
    (finding,) = said(evaluate(short), "speaker-silent")
    assert finding.remedy is not None
    assert finding.remedy.label == "Join the pairs of a corner"
    assert by_channel(apply_edits(short, edits_of(short, finding.remedy))) == by_channel(whole)
    four = plugged(car())
    lost = apply_edits(four, [Edit(op="remove", path="links/speaker-spk-rr")])
    (plain,) = said(evaluate(lost), "speaker-silent")
    assert plain.remedy is not None
    assert plain.remedy.label == "Wire all of them to Tessel P5 plug-in amplifier", "there is a channel for each"
    assert by_channel(apply_edits(lost, edits_of(lost, plain.remedy))) == by_channel(four)


def test_a_factory_tweeter_is_high_passed_as_one_whatever_hole_it_sits_in() -> None:
    """A tweeter is never passed below about 1.8 kHz: common practice, no source. A hole of 45 mm wants far less."""
    design = plugged(car(tweeter=OWN))
    apart = [Edit(path=f"links/speaker-spk-{s}/channel", value=n) for s, n in (("tweeter-left", 5), ("rl", 3))]
    apart += [Edit(path="vehicle/speakers/spk-tweeter-left/cut_out_mm/value", value=45.0)]
    figures = evaluate(apply_edits(design, apart)).figures
    alone, beside = figures["amp/ch5/high_pass_hz"].value, figures["amp/ch2/high_pass_hz"].value
    assert alone is not None
    assert alone > 1800.0
    assert beside is not None
    assert beside < 200.0, "beside a door the door decides, and the tweeter has something in line"


@pytest.mark.parametrize(("how", "asked"), [(SHARED, 0), (OWN, 2)])
def test_a_tweeter_beside_its_door_lives_as_it_did_one_on_a_pair_of_its_own_does_not(how: str, asked: int) -> None:
    """On a radio that takes the old one's place: what lived on a full range goes on, what had its own band is asked."""
    design = car(tweeter=how)
    laid = apply_edits(design, lay_strategy(design, StrategyKey.RADIO_KEEP_AMPLIFIER.value, catalogue()).edits)
    drives = [d for d in evaluate(laid).results.drives if d.speaker.tweeter]
    assert len(drives) == 2
    assert all(d.tweeter and d.driven and d.high_pass for d in drives), "the factory amplifier still parts them"
    by_radio = [replace(d, by_factory=False, by_new_radio=True) for d in drives]
    assert sum(not d.high_pass for d in by_radio) == asked
    by_amplifier = [replace(d, by_factory=False, by_amplifier=True) for d in drives]
    assert sum(not d.high_pass for d in by_amplifier) == 2, "new wire may leave out what lay in the old"


def test_no_way_keeps_functions_nobody_looked_at() -> None:
    bare = car()
    assert not [c for c in advise(bare).ranked if "functions" in c.marks]
    known = apply_edits(bare, functions_for(bare))
    loses, keeps = way(known, StrategyKey.RADIO_BYPASS), way(known, StrategyKey.REPLACE_AMPLIFIER)
    assert {"chimes", "hands-free"} <= set(loses.fate(Fate.LOST))
    assert loses.marks["functions"] < 0.5 < keeps.marks["functions"] == 1.0
    assert loses.score < way(bare, StrategyKey.RADIO_BYPASS).score


def test_a_tweeter_and_its_door_hang_side_by_side() -> None:
    """In series the tweeter would bar the bass: two coils of 4 ohm are 2 ohm to the channel, never 8."""
    design = plugged(car(tweeter=OWN))
    answer = evaluate(design)
    load = next(one for one in answer.results.loads if one.link.channel == 1)
    assert load.load.value == pytest.approx(2.0)
    series = next(o for o in load.options if o.load_ohm == pytest.approx(8.0))
    assert series.bars
    assert load.ranked[-1] is series
    assert not load.chosen.bars
    assert not said(answer, "tweeter-in-series")
    assert not said(answer, "uneven-sharing"), "they share no range"
    wired = apply_edits(design, [Edit(path=f"links/{load.link.id}/wiring", value=series.key)])
    (finding,) = said(evaluate(wired), "tweeter-in-series")
    assert finding.remedy is not None
    mended = evaluate(apply_edits(wired, edits_of(wired, finding.remedy)))
    assert next(one for one in mended.results.loads if one.link.channel == 1).load.value == pytest.approx(2.0)
    doors = [Edit(path=f"vehicle/speakers/spk-tweeter-{s}/tweeter", value=False) for s in ("left", "right")]
    doors += [
        Edit(path=f"vehicle/modules/factory-amp/channels/pair-tweeter-{s}/band/value", value="full range")
        for s in ("left", "right")
    ]
    alike = evaluate(apply_edits(design, doors)).results.loads[0]
    assert not any(option.bars for option in alike.options), "two of a kind may hang in series"
