"""A front of woofers, midranges and tweeters: who begins and ends where, which pair carries it, and what follows a
speaker that goes elsewhere. Corners by size, 3 kHz for a tweeter: common practice, no source; a Butterworth is 3 dB
down at its corner: textbook.
"""

from __future__ import annotations

import numpy as np
import pytest

from ohmack.core.box.crossing import EVERY_HZ, filtered
from ohmack.core.document import Design
from ohmack.core.document.design import Intake
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.handles import at
from ohmack.core.document.links import LineLink, SpeakerLink
from ohmack.core.document.parts import Driver
from ohmack.core.document.policy import Policy
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.evaluation.answer import Evaluation
from ohmack.core.evaluation.door import evaluate
from ohmack.core.handover.settings import settings_record
from ohmack.core.physics.filter_families import level_db
from ohmack.core.planning.brought_along import brought_along
from ohmack.core.planning.laying import follow
from ohmack.core.planning.new_places import into_new_places
from ohmack.core.planning.part_added import added
from ohmack.core.planning.remedies import edits_of
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.core.prove.judged import expected
from ohmack.core.signal.procedure import procedure
from ohmack.demo.building import catalogue

SIX, EIGHT = "Quillon six-way processor", "Quillon eight-way processor"
FOUR, TWO, MONO = "Tessel Four 70", "Tessel Two 200", "Tessel M1200"
WOOFERS, MIDS, TWEETERS = "Morrowick W65 woofer, pair", "Pell & Fenn Dash 80, pair", "Morrowick T25 tweeter, pair"
BASS = ("Morrowick 10 D4", "Cooperage 28 closed")
ONE, COAX, SLIM = "Pell & Fenn Dash 80, one", "Pell & Fenn Coax 65, pair", "Pell & Fenn Coax 52 slim, pair"
TREES = {tree["name"]: tree for tree in catalogue()}
DOORS, CORNERS = ["spk-fl", "spk-fr"], ["dash-corner-left", "dash-corner-right"]


def saloon(*names: str, **amplifier: object) -> Design:
    """A plain saloon with parts put in one after the other."""
    design = new_design("a", new_vehicle("Any", "Any", 2012, Body.SALOON, Hand.LEFT), Intake(), Policy())
    for name in names:
        more = amplifier if TREES[name]["kind"] == "amplifier" else {}
        design = apply_edits(design, added(design, {**TREES[name], **more}))
    return design


def played_by(design: Design) -> dict[str, str]:
    """What plays in every place, by its maker's name."""
    return {place: part.name for part in design.parts_of(Driver) for place in part.at_ids}


def by_pair(design: Design) -> dict[str, tuple[int, float | None, float | None]]:
    """(pair, high-pass, low-pass) set in the processor, by what plays there."""
    named, found = played_by(design), {}
    for line in design.links_of(LineLink):
        for link in design.links_of(SpeakerLink):
            if link.from_id == line.to_id and (not line.channels or link.channel in line.channels):
                found[named.get(link.to_id, "bass")] = (line.pair, line.high_pass_hz, line.low_pass_hz)
    return found


def titles(evaluation: Evaluation, *rules: str) -> list[str]:
    return [f.title for f in evaluation.findings if f.rule in rules]


ORDERS = [
    (FOUR, TWO, MONO, *BASS, TWEETERS, MIDS, WOOFERS),
    (WOOFERS, TWEETERS, MIDS, TWO, FOUR, MONO, *BASS),
    (MIDS, WOOFERS, FOUR, TWEETERS, TWO, MONO, *BASS),
]


@pytest.mark.parametrize("order", ORDERS)
@pytest.mark.parametrize("first", [True, False])
def test_a_processor_parts_three_bands_whatever_is_put_in_first(order: tuple[str, ...], first: bool) -> None:
    """Its fourth pair is the subwoofer's; with three the subwoofer shares the woofers', whose filter it hears too."""
    eight = saloon(EIGHT, *order) if first else saloon(*order, EIGHT)
    parted = {WOOFERS: (1, None, 250.0), MIDS: (2, 250.0, 3000.0), TWEETERS: (3, 3000.0, None)}
    assert by_pair(eight) == {**parted, "bass": (4, None, None)}
    six = saloon(SIX, *order) if first else saloon(*order, SIX)
    assert by_pair(six) == {**parted, "bass": (1, None, 250.0)}
    for design in (six, eight):
        evaluation = evaluate(design)
        assert not titles(evaluation, "treble-twice", "crossover-apart", "pair-set-twice", "filters-stacked")
        (met,) = evaluation.results.meetings
        assert met.front == f"{WOOFERS}, front left door", "the bass meets the woofers, not the midranges"


def test_each_amplifier_ends_its_own_where_the_next_begins() -> None:
    """Without a processor: by the size of the midrange, 3 dB down at either corner, and by what is chosen for it."""

    def filters(design: Design) -> dict[str, tuple[float | None, float | None]]:
        entries, named = evaluate(design).results.crossovers, played_by(design)
        return {
            named[e.link.to_id]: (e.high_pass and e.high_pass.value, e.low_pass and e.low_pass.value)
            for e in entries
            if e.link is not None and e.link.to_id in named
        }

    design = saloon(FOUR, TWO, WOOFERS, MIDS, TWEETERS, processor=True, low_pass_low_hz=None, low_pass_high_hz=None)
    assert filters(design) == {WOOFERS: (45.0, 250.0), MIDS: (250.0, 3000.0), TWEETERS: (3000.0, None)}
    results = evaluate(design).results
    load = next(load for load in results.loads if played_by(design)[load.link.to_id] == MIDS)
    made = level_db(filtered(load, results.crossover_of(load.scope), everywhere=True))
    assert np.interp(np.log([250.0, 3000.0]), np.log(EVERY_HZ), made) == pytest.approx(-3.0, abs=0.1)
    mids = [k for k in design.links_of(SpeakerLink) if k.to_id in CORNERS]
    chosen = apply_edits(design, [Edit(path=at(k, lambda it: it.high_pass_hz), value=400.0) for k in mids])
    assert filters(chosen)[WOOFERS] == (45.0, 400.0)
    plain = evaluate(saloon(FOUR, TWO, WOOFERS, MIDS, TWEETERS, low_pass_high_hz=120.0))
    told = titles(plain, "treble-twice")
    assert [title for title in told if "250 Hz, where the midrange begins" in title and WOOFERS in title]
    assert [title for title in told if "3000 Hz, where the tweeter begins" in title and MIDS in title]
    two_ways = saloon(FOUR, WOOFERS, TWEETERS, processor=True, low_pass_low_hz=None, low_pass_high_hz=None)
    assert filters(two_ways)[WOOFERS] == (45.0, 3000.0)
    woofers, mids_part = (next(p for p in design.parts_of(Driver) if p.name == name) for name in (WOOFERS, MIDS))
    ended = apply_edits(
        design, [Edit(path=at(p, lambda it: it.own_high_pass), value=True) for p in (woofers, mids_part)]
    )
    assert [filters(ended)[name][1] for name in (WOOFERS, MIDS)] == [None, 3000.0], (
        "what a woofer brings is a crossover, what a midrange brings keeps the bass out"
    )


def test_a_processor_that_was_not_set_is_set_by_a_press_unless_its_pair_feeds_something_else() -> None:
    design = saloon(EIGHT, FOUR, TWO, MONO, *BASS, TWEETERS, MIDS, WOOFERS, low_pass_high_hz=120.0)
    line = next(line for line in design.links_of(LineLink) if line.pair == 1)
    open_ = apply_edits(design, [Edit(path=at(line, lambda it: it.low_pass_hz), value=None)])
    found = next(f for f in evaluate(open_).findings if f.rule == "treble-twice")
    assert found.remedy is not None
    assert found.remedy.label == f"End it at 250 Hz in {EIGHT}"
    assert by_pair(apply_edits(open_, edits_of(open_, found.remedy))) == by_pair(design)
    shared = [Edit(path=at(k, lambda it: it.pair), value=1) for k in design.links_of(LineLink) if k.pair == 2]
    found = next(f for f in evaluate(apply_edits(open_, shared)).findings if f.rule == "treble-twice")
    assert found.remedy is not None
    assert found.remedy.sheet == "find", "a low-pass for the woofers would end the midranges"


def test_the_rear_keeps_its_treble_where_a_processor_parts_the_front() -> None:
    """Coaxials bring their tweeters; a pair for the rear is as wide as it comes."""
    assert by_pair(saloon(EIGHT, FOUR, TWO, WOOFERS, TWEETERS, SLIM))[SLIM][1:] == (None, None)
    design = saloon(EIGHT, FOUR, TWO, WOOFERS, TWEETERS)
    idle = next(line for line in design.links_of(LineLink) if not line.channels)  # to the amplifier nothing hangs on
    set_before = apply_edits(design, [Edit(path=at(idle, lambda it: it.low_pass_hz), value=3000.0)])
    later = apply_edits(set_before, added(set_before, TREES[SLIM]))
    assert by_pair(later)[SLIM] == (3, None, None), "another pair is another filter"


def test_what_is_set_for_a_pair_is_set_for_all_it_feeds() -> None:
    """One output has one filter: a subwoofer led to the tweeters' pair is stopped, and a corner goes to both."""
    design = saloon(EIGHT, FOUR, TWO, MONO, *BASS, TWEETERS, MIDS, WOOFERS)
    bass = next(line for line in design.links_of(LineLink) if line.pair == 4)
    moved = apply_edits(design, [Edit(path=at(bass, lambda it: it.pair), value=3)])
    (found,) = [f for f in evaluate(moved).findings if f.rule == "pair-set-twice"]
    assert found.severity.value == "stop"
    assert found.title.startswith(f"{EIGHT}, pair 3: ")
    assert MONO in found.text
    assert FOUR in found.text
    assert found.remedy is not None
    assert by_pair(apply_edits(moved, edits_of(moved, found.remedy))) == by_pair(design)
    elsewhere = {"id": "line-x", "kind": "line", "from_id": design.vehicle.radio.id, "to_id": bass.to_id, "pair": 4}
    beside = evaluate(apply_edits(moved, [Edit(op="add", path="links", value=elsewhere)]))
    (found,) = [f for f in beside.findings if f.rule == "pair-set-twice"]
    assert found.remedy is not None
    assert found.remedy.label == "Take pair 4", "what the radio gives at its own pair 4 takes none of the processor's"
    six = saloon(SIX, FOUR, TWO, MONO, *BASS, TWEETERS, MIDS, WOOFERS)
    line = next(line for line in six.links_of(LineLink) if line.pair == 1)
    typed = [Edit(path=at(line, lambda it: it.low_pass_hz), value=315.0)]
    after = apply_edits(six, typed)
    both = apply_edits(after, brought_along(six, after, typed))
    assert by_pair(both)["bass"] == by_pair(both)[WOOFERS] == (1, None, 315.0)
    assert titles(evaluate(after), "pair-set-twice")
    assert not titles(evaluate(both), "pair-set-twice")
    bass = next(k for k in six.links_of(LineLink) if k.pair == 1 and k is not line)
    apart = apply_edits(six, [Edit(path=at(bass, lambda it: it.from_id), value=six.vehicle.radio.id)])
    assert not brought_along(apart, apply_edits(apart, typed), typed), "pair 1 of something else is another output"


def test_bands_are_made_even_by_what_each_gives_for_what_it_takes() -> None:
    """As loud as sensitivity and 10 log₁₀ of the watts (textbook acoustics), each at the less of what it takes and the
    amplifier gives; the least of a corner stays, the rest come down to it, and that is the last step but one.
    """
    design = saloon(EIGHT, FOUR, TWO, TWEETERS, MIDS, WOOFERS)
    evaluation = evaluate(design)
    results, named = evaluation.results, played_by(design)
    watts = {WOOFERS: TREES[WOOFERS]["power_rms_w"], MIDS: TREES[MIDS]["power_rms_w"],
             TWEETERS: TREES[TWEETERS]["power_rms_w"]}  # fmt: skip
    assert all(w < 70.0 or name == WOOFERS for name, w in watts.items()), "less than an output of either amplifier"
    loud = {name: TREES[name]["sensitivity_db"] + 10 * np.log10(w) for name, w in watts.items()}
    found = [(named[one.load.link.to_id], one.loud.value, one.down.value) for one in results.balance]
    assert [name for name, _, _ in found] == [WOOFERS, MIDS, TWEETERS] * 2
    for name, level, down in found:
        assert level == pytest.approx(loud[name], abs=0.01)
        assert down == pytest.approx(loud[name] - min(loud.values()), abs=0.01)
    most = max(loud, key=lambda name: loud[name])
    said = f"{loud[most] - min(loud.values()):.1f} dB"
    assert titles(evaluation, "bands-unequal") == [f"{most}: {said} louder than what plays beside it"]
    step = procedure(design, results.signals, results.crossovers, results.balance)[-2]
    assert f"{most} by {said}" in step.words
    assert min(loud, key=lambda name: loud[name]) not in step.words
    (told,) = [f for f in evaluation.findings if f.rule == "bands-unequal"]
    even = evaluate(apply_edits(design, edits_of(design, told.remedy)))
    levels = [one.loud.value for one in even.results.balance]
    assert levels == pytest.approx([min(loud.values())] * 6, abs=0.05), "as loud as the least of its corner"
    assert not titles(even, "bands-unequal")
    step = procedure(even.design, even.results.signals, even.results.crossovers, even.results.balance)[-2]
    assert step.words.startswith("Turn down where the bands are split, as kept: ")
    kept = {row.of: row.planned for row in settings_record(even.results) if row.group == "Levels"}
    assert [words for of, words in kept.items() if most in of] == [said] * 2
    part = next(part for part in design.parts_of(Driver) if part.name == MIDS)
    unknown = evaluate(apply_edits(design, [Edit(path=at(part, lambda it: it.sensitivity_db), value=None)]))
    assert not titles(unknown, "bands-unequal")
    assert [f.severity.value for f in unknown.findings if f.title == f"Not known: {MIDS}: sensitivity"] == ["note"]
    assert not evaluate(saloon(FOUR, COAX)).results.balance, "one speaker plays all of it"


def test_a_tweeter_on_a_channel_of_its_own_shows_its_capacitor_and_no_ohms() -> None:
    """A capacitor passes no direct current (textbook): of the coil behind it nothing may show; every reading before
    the fuse goes in has a prediction.
    """
    design = saloon(EIGHT, FOUR, TWO, WOOFERS, TWEETERS)
    (found,) = [f for f in evaluate(design).findings if f.remedy and f.remedy.label.endswith("µF in line")]
    design = apply_edits(design, edits_of(design, found.remedy))
    results = evaluate(design).results
    dead = {j.check.id: j for j in results.proof.checks if j.check.id.startswith("dead/")}
    scopes = {load.scope: played_by(design)[load.link.to_id] for load in results.loads}
    assert {scope for scope, name in scopes.items() if name == TWEETERS} == {
        name.removeprefix("dead/held/") for name in dead if name.startswith("dead/held/")
    }
    assert all(f"dead/pair/{scope}" in dead for scope, name in scopes.items() if name == WOOFERS)
    assert all(expected(j.check, j.window) == "no connection" for name, j in dead.items() if "/held/" in name)
    assert all(j.window is not None or j.check.nothing for j in dead.values() if j.check.is_read)


@pytest.mark.parametrize(
    ("names", "severity", "says"),
    [
        ((FOUR, COAX, ONE), "watch", "hears one side of the music"),  # straight from the car's pairs
        (("Quillon S2 screen radio", FOUR, COAX, ONE), "watch", "hears one side of the music"),
        ((EIGHT, FOUR, COAX, ONE), "note", f"both sides summed at pair 2 of {EIGHT}"),
        ((SIX, FOUR, TWO, MONO, *BASS, WOOFERS, TWEETERS, ONE), "note", f"both sides summed at pair 3 of {SIX}"),
        ((EIGHT, FOUR, COAX), "", ""),
    ],
)
def test_a_speaker_in_the_middle_wants_both_sides(names: tuple[str, ...], severity: str, says: str) -> None:
    """One channel of a pair is left or right (trade fact); a processor sums them, at a pair that is the centre's."""
    design = saloon(*names)
    found = [(f.severity.value, f.title) for f in evaluate(design).findings if f.rule == "centre-one-side"]
    assert found == ([(severity, f"{ONE}, dash centre: {says}")] if says else [])
    if severity != "note":
        both = [Edit(path=at(k, lambda it: it.bridged), value=True) for k in design.links_of(SpeakerLink)
                if k.to_id == "dash-centre"]  # fmt: skip
        bridged = evaluate(apply_edits(design, both))
        assert not titles(bridged, "centre-one-side"), "bridged it is played by both channels"
        return
    own = next(line for line in design.links_of(LineLink) if line.pair == int(says.split("pair ")[1][0]))
    shared = evaluate(apply_edits(design, [Edit(path=at(own, lambda it: it.pair), value=1)]))
    (told,) = [f for f in shared.findings if f.rule == "centre-one-side"]
    assert told.severity.value == "watch"
    assert "shares pair 1" in told.title


def test_small_speakers_get_places_of_their_own_and_nothing_else_does() -> None:
    """A frame of 84 mm falls through a hole of 142 mm; one that sits in a hole, and a single one, goes there."""
    assert list(played_by(saloon(MIDS))) == CORNERS
    assert list(played_by(saloon(WOOFERS))) == DOORS
    assert list(played_by(saloon(ONE))) == ["dash-centre"]
    assert list(played_by(saloon(ONE, ONE))) == ["dash-centre", DOORS[0]], "and one middle"
    assert list(played_by(saloon(MIDS, MIDS))) == [*CORNERS, *DOORS], "a dash has two corners"
    assert list(played_by(saloon(SLIM, SLIM))) == ["spk-rl", "spk-rr", *DOORS], "too wide for one, if it falls through"
    small = new_design("a", new_vehicle("Any", "Any", 2012, Body.SALOON, Hand.LEFT), Intake(), Policy())
    read = {"value": 76.0, "basis": "measured", "low": None, "high": None}
    holes = [Edit(path=f"vehicle/speakers/{place}/cut_out_mm", value=read) for place in DOORS]
    small = apply_edits(small, holes)
    assert list(played_by(apply_edits(small, added(small, TREES[MIDS])))) == DOORS


def test_an_amplifiers_outputs_follow_a_speaker_to_its_new_places() -> None:
    """Left to left, laid anew; what lies in the car stays, and so does what another new speaker plays from."""
    design = saloon(FOUR, WOOFERS)
    part = next(design.parts_of(Driver))
    taped = [Edit(path=f"links/speaker-{place}/tape_length_m", value={"value": 3.0, "basis": "measured"})
             for place in DOORS]  # fmt: skip
    design = apply_edits(design, taped)
    moved = apply_edits(design, follow(design, into_new_places(design, part.id, "rear shelf speakers")))
    shelf = {place.id: place.side for place in moved.vehicle.speakers if place.id.startswith("rear-shelf")}
    outputs = {link.channel: link for link in moved.links_of(SpeakerLink)}
    assert {n: shelf[link.to_id] for n, link in outputs.items()} == {1: "left", 2: "right"}
    assert all(link.tape_length_m.value is None for link in outputs.values())
    lengths = evaluate(moved).results.runs
    assert lengths["speaker-spk-fl"].points[-1] == next(s for s in moved.vehicle.speakers
                                                        if s.id == outputs[1].to_id).position.point  # fmt: skip
    lying = apply_edits(design, [Edit(path=f"links/speaker-{DOORS[0]}/in_car", value=True)])
    moved = apply_edits(lying, follow(lying, into_new_places(lying, part.id, "rear shelf speakers")))
    assert {link.to_id for link in moved.links_of(SpeakerLink)} == {DOORS[0], "rear-shelf-right"}
    one_by_one = design
    for places in (["spk-rl", *DOORS], ["spk-rl", "spk-rr", *DOORS], ["spk-rl", "spk-rr", DOORS[1]],
                   ["spk-rl", "spk-rr"]):  # fmt: skip
        ticked = Edit(path=at(part, lambda it: it.at_ids), value=places)
        one_by_one = apply_edits(one_by_one, follow(one_by_one, [ticked]))
    assert {k.channel: k.to_id for k in one_by_one.links_of(SpeakerLink)} == {1: "spk-rl", 2: "spk-rr"}
