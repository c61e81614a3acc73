"""Speakers of the car whose pairs carry a part of the sound, once an amplifier of the plan drives them: what the
factory amplifier parted has to be parted anew. A tweeter from 3 kHz, corners by size: common practice, no source.
"""

from __future__ import annotations

import pytest

from core.test_in_its_place import car
from ohmack.core.build.step_making import generated
from ohmack.core.document import Design
from ohmack.core.document.amplifiers import Amplifier
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.handles import at
from ohmack.core.document.links import SpeakerLink, TapLink
from ohmack.core.document.parts import Driver
from ohmack.core.evaluation.door import evaluate
from ohmack.core.figures.finding import Finding
from ohmack.core.loads.line_parts import by_size_hz
from ohmack.core.planning.part_added import added
from ohmack.core.planning.parts_tried import taking
from ohmack.core.planning.remedies import edits_of
from ohmack.core.planning.speaker_sets import OWN, SHARED
from ohmack.core.planning.wiring import connect_everything
from ohmack.demo.building import catalogue

TREES = {tree["name"]: tree for tree in catalogue()}
COAX = TREES["Pell & Fenn Coax 65, pair"]
PARTS_BANDS = {"processor": True, "low_pass_low_hz": 40.0, "low_pass_high_hz": 16000.0}
Filters = tuple[float | None, float | None]


def driven(design: Design, *more: dict[str, object], **amplifier: object) -> Design:
    """The car's speakers on an eight-channel amplifier."""
    tree = {**TREES["Tessel Four 70"], "name": "Eight", "channel_count": 8, **PARTS_BANDS, **amplifier}
    for part in (*more, tree):
        design = apply_edits(design, added(design, part))
    amplifier = next(design.parts_of(Amplifier))
    return apply_edits(design, connect_everything(design, amplifier.id))


def filters(design: Design) -> dict[str, Filters]:
    """(high-pass, low-pass) of every output [Hz], by the first place on it."""
    found = {}
    for entry in evaluate(design).results.crossovers:
        assert entry.link is not None
        high, low = entry.high_pass, entry.low_pass
        found[entry.link.to_id] = (high and high.value, low and low.value)
    return found


def size_hz(design: Design, place_id: str) -> float:
    mm = next(s.cut_out_mm.value for s in design.vehicle.speakers if s.id == place_id)
    assert mm is not None
    return by_size_hz(mm)


def said(design: Design, rule: str) -> list[Finding]:
    return [found for found in evaluate(design).findings if found.rule == rule]


def test_doors_end_where_tweeters_on_pairs_of_their_own_begin() -> None:
    design = driven(car(tweeter=OWN))
    found = filters(design)
    assert {found[f"spk-tweeter-{side}"] for side in ("left", "right")} == {(3000.0, None)}
    assert {found[name][1] for name in ("spk-fl", "spk-fr")} == {3000.0}
    assert {found[name][1] for name in ("spk-rl", "spk-rr")} == {None}, "nothing plays above the rear ones"
    both = driven(car(tweeter=SHARED))
    assert all(low is None for _, low in filters(both).values()), "they share the doors' pair, and its output"
    coax = filters(driven(car(tweeter=OWN), COAX))
    assert coax["spk-fl"][1] is None, "a coaxial plays its own treble"


def test_three_bands_of_the_works_are_three_again() -> None:
    design = driven(car(**{"tweeter": OWN, "dash-mid": OWN}))
    found = filters(design)
    middle = size_hz(design, "spk-dash-mid-left")
    assert middle > 150, "a small speaker begins well above the bass"
    assert found["spk-fl"][1] == middle
    assert found["spk-dash-mid-left"] == (middle, 3000.0)
    assert found["spk-tweeter-left"] == (3000.0, None)


def test_woofers_under_the_seats_leave_the_doors_what_those_begin_at() -> None:
    design = driven(car(**{"underseat": OWN, "tweeter": OWN}))
    found = filters(design)
    doors = size_hz(design, "spk-fl")
    assert found["spk-underseat-left"][1] == doors
    assert found["spk-fl"] == (doors, 3000.0)


def test_what_is_picked_up_in_parts_is_not_parted_again() -> None:
    """Straight into an amplifier without a processor each pair stays as the factory amplifier filtered it."""
    design = driven(car(tweeter=OWN), processor=False)
    (tap,) = design.links_of(TapLink)
    behind = [c.id for c in next(m for m in design.vehicle.modules if m.channels).channels]
    after = apply_edits(design, [Edit(path=at(tap, lambda it: it.from_ids), value=behind)])
    assert filters(design)["spk-fl"][1] == 3000.0
    assert filters(after)["spk-fl"][1] is None
    summed = driven(car(tweeter=OWN))
    (tap,) = summed.links_of(TapLink)
    assert filters(apply_edits(summed, [Edit(path=at(tap, lambda it: it.from_ids), value=behind)]))["spk-fl"][1]


def test_an_amplifier_without_such_a_filter_says_so() -> None:
    design = driven(car(tweeter=OWN), processor=False, low_pass_low_hz=50.0, low_pass_high_hz=250.0)
    assert [f.title.split(":")[0] for f in said(design, "treble-twice")] == ["Front left door and Front right door"]
    assert filters(design)["spk-fl"][1] is None


def test_doors_beside_the_cars_own_subwoofer_leave_it_the_bass() -> None:
    with_one, without = driven(car(**{"boot-sub": OWN})), driven(car())
    (place,) = {s.id for s in with_one.vehicle.speakers} - {s.id for s in without.vehicle.speakers}
    assert filters(with_one)[place] == (None, 80.0)
    high, alone = filters(with_one)["spk-fl"][0], filters(without)["spk-fl"][0]
    assert high is not None
    assert alone is not None
    assert high > alone


def test_a_subwoofer_beside_the_cars_own_is_no_midrange_of_it() -> None:
    design = driven(car(**{"boot-sub": OWN}))
    for name in ("Morrowick 10 D4", "Cooperage 28 closed"):
        design = apply_edits(design, added(design, TREES[name]))
    subs = {entry.link.to_id: entry for entry in evaluate(design).results.crossovers if entry.sub and entry.link}
    assert len(subs) == 2
    assert all(entry.low_pass is not None and entry.low_pass.value == 80.0 for entry in subs.values())
    (found,) = said(design, "bass-beside-own")
    assert found.title == "Factory subwoofer plays beside Morrowick 10 D4"
    alone = apply_edits(design, edits_of(design, found.remedy))
    assert not said(alone, "bass-beside-own")
    assert [e.link.to_id for e in evaluate(alone).results.crossovers if e.sub and e.link] == ["sub"]
    assert not said(driven(car(**{"boot-sub": OWN})), "bass-beside-own"), "it is the only one"
    as_found = car(**{"boot-sub": OWN})
    assert not said(as_found, "bass-beside-own")
    (plays_on,) = said(apply_edits(as_found, added(as_found, TREES["Cooperage Underseat 8"])), "bass-beside-own")
    assert plays_on.title == "Factory subwoofer plays on beside Cooperage Underseat 8"
    assert plays_on.remedy is None
    amplifier = next(design.parts_of(Amplifier))
    for tree in (tree for tree in TREES.values() if tree["kind"] == "amplifier"):
        after = apply_edits(design, taking(design, tree, amplifier.id))
        assert evaluate(after).results.loads, tree["name"]


def plays(design: Design) -> dict[str, int]:
    return {link.to_id: link.channel for link in design.links_of(SpeakerLink)}


def test_free_channels_are_offered_the_cars_own_speakers() -> None:
    """A press later as well: what came first, the subwoofer or the amplifier, is no matter."""
    bass = TREES["Morrowick 10 D4"], TREES["Cooperage 28 closed"]
    five = {**TREES["Tessel Five 75+350"], "speaker_level_low_v": 2.0, "speaker_level_high_v": 20.0}
    design = car()
    for part in (*bass, five):
        design = apply_edits(design, added(design, part))
    assert plays(design) == {"sub": 5}
    (found,) = said(design, "channels-unused")
    after = apply_edits(design, edits_of(design, found.remedy))
    assert plays(after) == {"sub": 5, "spk-fl": 1, "spk-fr": 2, "spk-rl": 3, "spk-rr": 4}
    assert not said(after, "channels-unused")
    unread = [Edit(path=f"vehicle/speakers/{name}/impedance_ohm/value", value=None) for name in ("spk-fl", "spk-fr")]
    assert not said(apply_edits(after, unread), "channels-unused"), "driven, whatever load that is"
    four = {**TREES["Tessel Four 70"], "speaker_level_low_v": 2.0, "speaker_level_high_v": 20.0}
    design = car()
    for part in (*bass, four):
        design = apply_edits(design, added(design, part))
    (found,) = said(design, "channels-unused")
    after = apply_edits(design, edits_of(design, found.remedy))
    assert plays(after) == {"sub": 3, "spk-fl": 1, "spk-fr": 2}
    assert [tap.from_ids for tap in after.links_of(TapLink)] == [("ch-fl", "ch-fr")], "heard where it plays"
    there = [Edit(path=at(tap, lambda it: it.in_car), value=True) for tap in design.links_of(TapLink)]
    kept = apply_edits(design, there)
    after = apply_edits(kept, edits_of(kept, said(kept, "channels-unused")[0].remedy))
    assert [len(tap.from_ids) for tap in after.links_of(TapLink)] == [4], "what lies in the car stays"
    doors = apply_edits(design, added(design, COAX))
    rest = apply_edits(doors, [Edit(path="parts/" + next(p.id for p in doors.parts_of(Driver)) + "/at_ids",
                                    value=["spk-fl", "spk-fr", "spk-rl", "spk-rr"])])  # fmt: skip
    assert all("own speakers" not in f.remedy.label for f in said(rest, "channels-unused") if f.remedy)


def test_what_overpowers_the_cars_speakers_is_said_once_an_amplifier() -> None:
    design = driven(car(tweeter=OWN))
    (found,) = said(design, "driver-overpowered")
    takes = {s.id: s.takes_w.value or 0.0 for s in design.vehicle.speakers}
    least = min(takes.values())
    assert found.about == next(link.from_id for link in design.links_of(SpeakerLink))
    assert f"has {100 * 70 / least:.0f} % of what the car's own speakers take" in found.title
    for watts in set(takes.values()):
        assert f"70.0 W against {watts:.1f} W at" in found.text


def test_the_works_wires_do_up_to_75_w_and_end_at_their_plug() -> None:
    """75 W RMS a speaker: common practice, no source."""
    design = driven(car(tweeter=OWN))
    (found,) = said(design, "fresh-through-doors")
    assert found.title == "Fresh cable to 6 speakers whose own wires would do"
    assert "4 doors" in found.text
    after = apply_edits(design, edits_of(design, found.remedy))
    assert all(link.factory_wire for link in after.links_of(SpeakerLink))
    assert not said(after, "fresh-through-doors")
    ends = {run.end_name for run in evaluate(after).results.runs.values() if isinstance(run.link, SpeakerLink)}
    assert all(name.startswith("Factory amplifier's plug") for name in ends)
    over = apply_edits(design, [Edit(path="intake/reversible", value=True)])
    assert not said(over, "fresh-through-doors"), "their wires would be parted"
    strong = [{"load_ohm": 4.0, "power_w": 120.0}]
    read = {"value": 100.0, "basis": "measured"}
    takes = [Edit(path=f"vehicle/speakers/{s.id}/takes_w", value=read) for s in design.vehicle.speakers]
    loud = apply_edits(driven(car(tweeter=OWN), ratings=strong), takes)
    assert not said(loud, "fresh-through-doors")
    shared = driven(car(tweeter=SHARED))
    assert not any(isinstance(p, Driver) for p in shared.parts)
    (rear,) = said(shared, "fresh-through-doors")
    assert "to 2 speakers" in rear.title, "a door whose pair feeds a tweeter too is another matter"


def test_over_the_works_wires_no_door_is_opened_but_what_hides_their_plug_is() -> None:
    """Leads to one plug are laid in one go: a door nobody works in stays shut. Common practice, no source."""
    design = driven(car(tweeter=OWN))
    wires = said(design, "fresh-through-doors")[0].remedy
    after = apply_edits(design, edits_of(design, wires))
    fresh, joined = generated(evaluate(design).results), generated(evaluate(after).results)
    doors = {"off-spk-fl", "off-spk-fr", "off-spk-rl", "off-spk-rr"}
    assert doors <= {step.id for step in fresh}
    assert not doors & {step.id for step in joined}
    assert not [step.id for step in joined if step.id.startswith(("into-", "off-spk-tweeter"))]
    assert "off-seat-passenger" in {step.id for step in joined}, "the factory amplifier is under it"
    assert "off-seat-passenger" not in {step.id for step in fresh}
    (bundle,) = [step for step in joined if "Factory amplifier's plug" in step.what]
    assert bundle.what.startswith("6 × 16 AWG from Eight to Factory amplifier's plug: front left")
    one = next(step for step in generated(evaluate(design).results) if step.id == bundle.id)
    assert bundle.times == pytest.approx(0.4 * 6 + 0.6 * _metres(after, bundle.id) / 3.0)
    assert one.times == pytest.approx(0.4 + 0.6 * _metres(design, bundle.id) / 3.0)
    connects = next(step for step in joined if step.what.startswith("Connect Eight"))
    assert bundle.id in connects.needs
    elsewhere = [Edit(path="vehicle/modules/factory-amp/position", value={"x_m": 1.5, "y_m": 0.6})]
    behind_trim = generated(evaluate(apply_edits(after, elsewhere)).results)
    assert "off-factory-amp" in {step.id for step in behind_trim}


def _metres(design: Design, step_id: str) -> float:
    metres = evaluate(design).results.runs[step_id.removeprefix("lay-")].length.value
    assert metres is not None
    return metres


@pytest.mark.parametrize(
    ("size", "takes_mm2", "goes"),
    [("4 AWG", 21.0, True), ("8 AWG", 8.0, True), ("1/0 AWG", 53.0, True), ("2 AWG", 25.0, False),
     ("35 mm2", 25.0, False), ("25 mm2", 21.0, False)],
)  # fmt: skip
def test_a_terminal_takes_what_its_rounded_number_names(size: str, takes_mm2: float, goes: bool) -> None:
    """4 AWG is 21.15 mm² (ASTM B258), sold and printed as 21: common practice, no source."""
    design = driven(car(), terminal_area_max_mm2=takes_mm2)
    power = next(link for link in design.links if link.kind == "power")
    named = apply_edits(design, [Edit(path=f"links/{power.id}/wire/size", value=size)])
    thick = [f for f in evaluate(named).findings if "does not fit the amplifier's terminal" in f.text + f.title]
    assert bool(thick) is not goes
