"""Trying parts: what the trial says is what happens when the part is taken."""

from __future__ import annotations

from dataclasses import replace

import pytest

from ohmack.core.document import Design, Intake
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.parts import Driver
from ohmack.core.document.policy import Policy
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.evaluation.door import evaluate
from ohmack.core.figures.finding import BESIDE, Severity
from ohmack.core.planning.part_added import added
from ohmack.core.planning.parts_tried import Trial, completed, in_place_of, taken, taking, try_part, way_for
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.demo.building import catalogue, measured
from ohmack.demo.jobs import demo_design

JOBS = [0, 3, 4, 6, 8]


TRIALS = [  # every part on every second job, another half of the jobs a part
    pytest.param(number, tree, id=f"{tree['name']}-{number}")
    for place, tree in enumerate(catalogue())
    for turn, number in enumerate(JOBS)
    if (place + turn) % 2 == 0
]


@pytest.mark.parametrize(("number", "tree"), TRIALS)
def test_a_trial_keeps_its_word(number: int, tree: dict[str, object]) -> None:
    design = demo_design(number)
    base = evaluate(design)
    trial = try_part(design, base, tree)
    assert not trial.refused, trial.refused
    got = apply_edits(design, taken(design, tree))
    stops = {f.title for f in evaluate(got).findings if f.severity is Severity.STOP}
    assert set(trial.new_stops) <= stops
    assert not set(trial.solved) & stops
    assert trial.fits == (not trial.new_stops and not trial.asks)
    old = in_place_of(design, tree)
    assert len(got.parts) == len(design.parts) + (old is None)
    assert any(p.name == tree["name"] for p in got.parts)


@pytest.mark.parametrize("kind", ["amplifier", "subwoofer", "converter", "powered subwoofer"])
def test_in_an_empty_plan_a_part_is_tried_with_what_its_way_needs(kind: str) -> None:
    """No amplifier is refused because nobody has picked a subwoofer yet: it is judged in the way that would be laid."""
    car = new_vehicle("Dravel", "Minnow", 2009, Body.SALOON, Hand.RIGHT).model_dump()
    design = Design.model_validate({"vehicle": car, "intake": {"wishes": ["more bass"]}})
    base, way, trees = evaluate(design), way_for(design, kind), catalogue()
    assert way is not None
    for tree in (t for t in trees if t["kind"] == kind):
        alone, trial = try_part(design, base, tree), try_part(design, base, tree, way, trees)
        assert not alone.beside
        assert trial.beside or not alone.new_stops
        whole, beside = completed(design, tree, way, trees)
        if trial.beside:
            assert trial.beside == beside
            assert set(trial.new_stops) == {f.title for f in evaluate(whole).findings if f.severity is Severity.STOP}
        assert tree["name"] not in trial.beside
        assert len({part.kind for part in whole.parts} & {kind}) == 1
        assert "cost" not in [item.figure_id for item in trial.moved] or not trial.beside
    fitting = [t["name"] for t in trees if t["kind"] == kind and try_part(design, base, t, way, trees).fits]
    assert fitting, "the parts of the shelf go into an ordinary saloon"
    chosen = apply_edits(design, [Edit(path="strategy", value="powered subwoofer")])
    assert (way_for(chosen, "powered subwoofer") or way).key.value == "powered subwoofer"


def test_what_nobody_knows_is_no_verdict() -> None:
    car = new_vehicle("Dravel", "Minnow", 2009, Body.SALOON, Hand.RIGHT).model_dump()
    design = Design.model_validate({"vehicle": car})
    trial = try_part(design, evaluate(design), named("Quillon Q1 plain radio"), way_for(design, "radio"), catalogue())
    assert trial.only_asks
    assert not trial.fits
    assert trial.asks == ("Not measured: dash opening",)
    known = apply_edits(design, [measured(f"vehicle/radio/opening_{side}_mm", size) for side, size in (
        ("width", 182.0), ("height", 102.0), ("depth", 165.0))])  # fmt: skip
    assert try_part(known, evaluate(known), named("Quillon Q1 plain radio"), way_for(known, "radio"), catalogue()).fits
    space = f"vehicle/spaces/{design.vehicle.spaces[0].id}"
    bare = apply_edits(design, [Edit(path=f"{space}/height_m/value", value=None)])
    box = try_part(bare, evaluate(bare), named("Cooperage 28 closed"))
    assert f"Not measured: {design.vehicle.spaces[0].name}" in box.asks
    assert not box.fits, "nobody knows whether it goes in"


def named(name: str) -> dict[str, object]:
    return next(t for t in catalogue() if t["name"] == name)


def test_what_an_installer_would_see_at_once(estate: Design) -> None:
    base = evaluate(estate)
    same = try_part(estate, base, named("Tessel M500"))
    assert same.fits
    assert same.same
    assert not same.moved
    assert same.rank > try_part(estate, base, named("Tessel M300")).rank
    pocket = try_part(estate, base, named("Sprig LC1 pocket"))  # takes 12 V peak, the radio gives 9.2 V rms
    assert not pocket.fits
    assert any("into a converter that takes" in words for words in pocket.new_stops)
    small = try_part(estate, base, named("Tessel M300"))
    assert any("Power" in m.name or "power" in m.name for m in small.moved)
    saloon = demo_design(3)  # 52 mm behind the window: the slim pair solves what the deep one stops at
    slim = try_part(saloon, evaluate(saloon), named("Pell & Fenn Coax 52 slim, pair"))
    assert slim.replaces == ""
    screen = demo_design(6)  # 98 mm of opening: the plain radio solves what the screen stops at
    plain = try_part(screen, evaluate(screen), named("Quillon Q1 plain radio"))
    assert plain.replaces == "Quillon S2 screen radio"
    assert any("height" in words for words in plain.solved)


def test_the_better_is_what_goes_then_what_solves_more_then_what_is_less_to_watch() -> None:
    def trial(**more: object) -> Trial:
        return replace(Trial("old", (), (), (), ()), **more)  # type: ignore[arg-type]

    goes, asks = trial(), trial(new_stops=("a",), asks=("a",))
    stops = trial(new_stops=("a", "b"))
    assert goes.rank < asks.rank < stops.rank
    assert trial(solved=("x", "y")).rank < trial(solved=("x",)).rank < goes.rank
    assert trial(new_stops=("a",), solved=("x", "y", "z")).rank > goes.rank, "what stops is behind what goes"
    assert goes.rank < trial(new_watches=("w",)).rank < trial(other_size=True).rank
    assert trial(same=True).rank > stops.rank


def test_what_is_found_in_place_of_a_speaker_goes_where_it_was_and_beside_takes_nobodys_place() -> None:
    """Two pairs are in the plan; the one that does not go in is named, and the other stays."""
    deep = next(tree for tree in catalogue() if tree["name"] == "Kettleworth boxed 130, pair")
    design = demo_design(13)
    rear = next(part for part in design.parts_of(Driver) if "spk-rl" in part.at_ids)
    unfit = apply_edits(design, taking(design, deep, rear.id))
    said = next(f for f in evaluate(unfit).findings if f.rule == "fit" and f.severity is Severity.STOP)
    assert said.remedy is not None
    assert said.remedy.query == f"kind=driver&instead={rear.id}"
    shallow = next(tree for tree in catalogue() if tree["name"] == rear.name)
    trial = try_part(unfit, evaluate(unfit), shallow, instead=rear.id)
    assert (trial.replaces, trial.fits) == (deep["name"], True)
    assert said.title in trial.solved
    as_deep = try_part(unfit, evaluate(unfit), {**deep, "name": "Just as deep"}, instead=rear.id)
    assert said.title.replace(deep["name"], "Just as deep") in as_deep.new_stops, "it does not go in either"
    again = apply_edits(unfit, taking(unfit, shallow, rear.id))
    assert [(p.name, p.at_ids) for p in again.parts_of(Driver)] == [(p.name, p.at_ids) for p in design.parts_of(Driver)]
    mono = next(tree for tree in catalogue() if tree["kind"] == "amplifier")
    assert in_place_of(design, mono) is not None
    assert in_place_of(design, mono, BESIDE) is None
    assert len(apply_edits(design, taking(design, mono, BESIDE)).parts) == len(design.parts) + 1


def remedies(*names: str) -> dict[str, str]:
    """By title, what is looked for where something lacks what the plan has not."""
    design = new_design("t", new_vehicle("Dravel", "Minnow", 2008, Body.SALOON, Hand.LEFT), Intake(), Policy())
    for name in names:
        tree = next(tree for tree in catalogue() if tree["name"] == name)
        design = apply_edits(design, added(design, tree))
    lacking = [f for f in evaluate(design).findings if f.rule in ("link-missing", "signal-missing")]
    found = [f for f in lacking if f.remedy is not None]
    return {f.title: f.remedy.query or "wire" for f in found if f.remedy is not None}


@pytest.mark.parametrize(
    ("names", "looked_for"),
    [
        (("Tessel M500", "Morrowick 10 D4"), {"Tessel M500 has no signal": "kind=converter"}),
        (("Tessel M500",), {"Tessel M500 has no speaker wire and signal": "kind=subwoofer&instead=-"}),
        (("Tessel M500", "Sprig LC2 active"), {"Tessel M500 has no speaker wire": "kind=subwoofer&instead=-"}),
        (("Morrowick 10 D4",), {"Morrowick 10 D4 has no amplifier": "kind=amplifier&instead=-"}),
        (("Sprig LC2 active",), {"Sprig LC2 active has no line to an amplifier": "kind=amplifier"}),
        (("Tessel M500", "Morrowick 10 D4", "Sprig LC2 active"), {}),
    ],
)
def test_what_a_part_waits_for_is_what_is_looked_for(names: tuple[str, ...], looked_for: dict[str, str]) -> None:
    """A press that can wire nothing is no remedy: the part that is missing is searched for instead."""
    assert remedies(*names) == looked_for


def test_a_part_that_is_stopped_besides_does_not_only_ask() -> None:
    asks = Trial("", ("a",), (), (), (), asks=("a", "b"))
    assert asks.only_asks
    assert not asks.fits
    assert not Trial("", ("a", "c"), (), (), (), asks=("a", "b")).only_asks


def test_power_that_does_not_suit_leads_to_amplifiers_that_do() -> None:
    """No wiring of the coils mends it: the search opens for the amplifier's place, and one of those suits; one that
    is in the car already is not sought anew.
    """
    weak = apply_edits(demo_design(0), taking(demo_design(0), named("Tessel M300"), "amp"))
    base = evaluate(weak)
    (told,) = [f for f in base.findings if f.rule == "driver-underpowered"]
    assert told.remedy is not None
    assert (told.remedy.sheet, told.remedy.query) == ("find", "kind=amplifier&instead=amp")
    trial = try_part(weak, base, named("Tessel M500"), None, catalogue(), "amp")
    assert trial.fits
    assert trial.after is not None
    assert not [f for f in trial.after.findings if f.rule in ("driver-underpowered", "driver-overpowered")]
    there = apply_edits(weak, [Edit(path="parts/amp/stands", value="already in the car")])
    (told,) = [f for f in evaluate(there).findings if f.rule == "driver-underpowered"]
    assert told.remedy is None


def small_kit() -> Design:
    """A car with an amplifier, its driver and 8 AWG in it, all of it from before."""
    design = new_design("k", new_vehicle("Any", "Any", 2011, Body.ESTATE, Hand.LEFT), Intake(), Policy())
    radio = [Edit(path="vehicle/radio/tier/value", value="aftermarket radio"),
             measured("vehicle/radio/line_pairs", 2), measured("vehicle/radio/line_v", 2.2)]  # fmt: skip
    design = apply_edits(design, radio)
    for name in ("Tessel M300", "Morrowick 10 D4", "Cooperage 28 closed"):
        design = apply_edits(design, added(design, named(name), in_car=True))
    read = [Edit(path=f"links/{name}-amp/wire/size", value="8 AWG") for name in ("power", "ground")]
    read += [Edit(path="links/power-amp/fuse/rating_a", value=40.0),
             Edit(path="links/speaker-sub/wire/size", value="16 AWG"),
             Edit(path="links/speaker-sub/wiring", value="parallel(1,2)")]  # fmt: skip
    return apply_edits(design, read)


def test_a_stronger_amplifier_brings_the_cables_that_carry_it() -> None:
    """What lies there was laid for the weaker one, and a thicker run wants a thicker ground: common practice."""
    design = small_kit()
    base = evaluate(design)
    strong = try_part(design, base, named("Tessel M500"), instead="amp")
    assert strong.fits
    assert [words.split(" to ")[0] for words in strong.anew] == ["Battery", "Tessel M500"]
    after = apply_edits(design, taken(design, named("Tessel M500"), "amp"))
    laid = {link.id: link for link in after.links}
    assert {name for name, link in laid.items() if link.old_out} == {"power-amp", "ground-amp"}
    assert not laid["power-amp"].in_car
    assert laid["speaker-sub"].in_car
    (supply,) = evaluate(after).results.supplies
    assert supply.chosen is not None
    assert supply.chosen.wire.area_mm2 > 2 * 8.37, "8 AWG is 8.37 mm² (ASTM B258)"
    assert not [f for f in evaluate(after).findings if f.severity is Severity.STOP and "Tessel M500" in f.title]
    alike = try_part(design, base, named("Tessel M300"), instead="amp")
    assert alike.same
    assert not alike.anew
    weaker = try_part(design, base, named("Tessel Four 70"), instead="amp")
    assert not weaker.anew, "10 A go through 8 AWG"
    assert strong.rank < weaker.rank, "a fifth of what the driver takes is not better for a cable saved"
    assert [words for words in strong.solved if "V lost of" in words] == [
        f.title for f in base.findings if f.rule == "drop-over-policy"
    ]
    without = evaluate(apply_edits(design, taking(design, named("Tessel M500"), "amp")))
    assert [f for f in without.findings if f.rule == "drop-over-policy"], "the cable as it lies does not carry it"
