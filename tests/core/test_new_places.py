"""A speaker for a place the car had none at: the place is made for it, or waits for one and says so."""

from __future__ import annotations

from math import dist

import pytest

from core.test_packs_and_woofers import DOORS, said
from ohmack.core.build.step_making import generated
from ohmack.core.build.unlinked_wires import new_places
from ohmack.core.document import Design
from ohmack.core.document.design import Intake
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.links import SpeakerLink
from ohmack.core.document.parts import Driver
from ohmack.core.document.policy import Policy
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.errors import NotPossible
from ohmack.core.evaluation.door import evaluate
from ohmack.core.figures.figure import Book
from ohmack.core.planning.new_places import into_new_places, places_to_make
from ohmack.core.planning.part_added import added
from ohmack.core.planning.remedies import edits_of
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.core.planning.survey import HEADRESTS, add_to_survey
from ohmack.demo.building import catalogue
from ohmack.demo.everyday_jobs import picked

SEATS, COAX = "Kettleworth Cushion 100, four", "Pell & Fenn Coax 65, pair"
EARS = [f"headrest-{side}-{ear}" for side in ("left", "right") for ear in ("outer", "inner")]


def roadster(*names: str) -> Design:
    vehicle = new_vehicle("Corvane", "Any", 2011, Body.ROADSTER, Hand.LEFT)
    return picked(new_design("any", vehicle, Intake(), Policy()), names)[1]


def in_the_doors(name: str) -> Design:
    """A roadster with speakers somebody put into its doors."""
    design = roadster()
    tree = next(tree for tree in catalogue() if tree["name"] == name)
    return apply_edits(design, added(design, {**tree, "at_ids": DOORS}))


def places_of(design: Design) -> list[list[str]]:
    return [list(part.at_ids) for part in design.parts_of(Driver)]


def test_speakers_in_the_doors_go_into_headrests_that_are_made_for_them() -> None:
    """Where nobody says, a set of four that falls through the doors' holes gets the seats (common practice)."""
    assert places_of(roadster(SEATS)) == [EARS]
    design = in_the_doors(SEATS)
    assert said(design, "pieces-over") == [("note", f"{SEATS}: 4 pieces in it, 2 of them planned")]
    part = design.parts[0].id
    made = apply_edits(design, into_new_places(design, part, HEADRESTS))
    assert places_of(made) == [EARS]
    assert not said(made, "pieces-over") + said(made, "place-waiting") + said(made, "screws-over-hole")
    loads = {load.name: load.load.value for load in evaluate(made).results.channel_loads if load.load.value}
    assert loads["Rear left"] == loads["Rear right"] == 2.0  # two of 4 ohm in parallel: Ohm's law
    assert HEADRESTS in places_to_make(design, part)
    assert HEADRESTS not in places_to_make(made, part)  # a seat has two ears
    for what in (HEADRESTS, "", "a cellar"):
        with pytest.raises(NotPossible):
            into_new_places(made, part, what)


def test_an_empty_place_waits_for_a_speaker_and_not_for_a_number() -> None:
    design = roadster()
    empty = apply_edits(design, add_to_survey(design, HEADRESTS)[1])
    (found,) = [f for f in evaluate(empty).findings if f.rule == "place-waiting"]
    assert found.severity.value == "stop"
    assert found.remedy is not None
    assert found.remedy.sheet == "find"
    assert not [f for f in evaluate(empty).findings if f.rule == "fact-missing" and "headrest" in f.title]
    for path, value in (("left_silent", True), ("impedance_ohm/value", 4.0)):
        edits = [Edit(path=f"vehicle/speakers/{ear}/{path}", value=value) for ear in EARS]
        assert not said(apply_edits(empty, edits), "place-waiting"), path
    (one,) = [f for f in evaluate(apply_edits(empty, edits[:3])).findings if f.rule == "place-waiting"]
    assert one.title == "Right headrest, inner: no speaker for it yet"


@pytest.mark.parametrize(
    ("name", "pieces", "label", "after"),
    [
        (SEATS, 4, f"Move {SEATS} there", [EARS]),  # falls through the door's hole; its four are enough
        (SEATS, 6, f"Put {SEATS} there", [[*DOORS, *EARS]]),  # four of the six lie over
        (SEATS, 3, "Find a speaker", [DOORS]),
        (COAX, 5, "Find a speaker", [DOORS]),  # sits well where it is, and three lie over
    ],
)
def test_what_is_planned_already_goes_there_by_a_press(
    name: str, pieces: int, label: str, after: list[list[str]]
) -> None:
    design = in_the_doors(name)
    _, seats = add_to_survey(design, HEADRESTS)
    design = apply_edits(design, [*seats, Edit(path=f"parts/{design.parts[0].id}/pieces", value=pieces)])
    (found,) = [f for f in evaluate(design).findings if f.rule == "place-waiting"]
    assert found.remedy is not None
    assert found.remedy.label == label
    pressed = design if found.remedy.sheet else apply_edits(design, edits_of(design, found.remedy))
    assert places_of(pressed) == after


def bus(*names: str, rows: int = 4) -> Design:
    design = new_design("bus", new_vehicle("Corvane", "Any", 2012, Body.BUS, Hand.LEFT), Intake(), Policy())
    for _ in range(rows):
        design = apply_edits(design, add_to_survey(design, "ceiling speakers")[1])
    return picked(design, names)[1]


def test_speakers_along_a_ceiling_share_the_channels_of_their_side() -> None:
    """Four of 4 ohm on either channel make 4 ohm again, two rows in series and both beside each other (Ohm's law);
    each lead climbs from the floor to the roof, the headlining comes down once, and nothing stands before them.
    """
    design = bus("Tessel Two 200", *[COAX] * 4)
    results = evaluate(design).results
    links = {k.to_id: k.channel for k in design.links_of(SpeakerLink)}
    assert links == {f"ceiling-{row}-{side}": n for row in (1, 2, 3, 4) for n, side in ((1, "left"), (2, "right"))}
    assert [load.load.value for load in results.loads] == [4.0, 4.0]
    assert results.loads[0].driven_name == (
        f"{COAX} in ceiling left, ceiling row 2 left, ceiling row 3 left and ceiling row 4 left"
    )
    assert results.loads[0].chosen.words == (
        "(A, ceiling left and B, ceiling row 2 left in series) and (C, ceiling row 3 left and D, ceiling row 4 left in"
        " series) in parallel"
    )
    assert results.runs["speaker-ceiling-1-left"].length.value == pytest.approx(
        evaluate(_moved(design, "door")).results.runs["speaker-ceiling-1-left"].length.value + 1.6 * 1.05
    )  # 1.6 m and the slack of 5 % on it
    steps = [step for step in generated(results) if step.kind == "off-headlining" and step.takes_off]
    assert [step.takes_off for step in steps] == ["Headlining"]
    fixed = next(step for step in generated(results) if step.id == "fix-ceiling-4-left")
    assert steps[0].id in fixed.needs
    assert [[check.name for check in fit.checks] for fit in results.fits if fit.place_id == "ceiling-1-left"] == [
        ["Depth behind"]
    ]
    wide = bus("Tessel Four 70", *[COAX] * 4)
    channels = [k.channel for k in wide.links_of(SpeakerLink) if k.to_id.endswith("left")]
    assert channels == [1, 3, 1, 3]


def _moved(design: Design, place: str) -> Design:
    return apply_edits(design, [Edit(path="vehicle/speakers/ceiling-1-left/place", value=place)])


def test_only_equal_speakers_of_new_places_share_a_channel_and_no_more_than_it_bears() -> None:
    """What the car had plays on from the radio; another speaker, and one too many of 2 ohm, is left where it is."""
    doors = picked(new_design("hatch", new_vehicle("Corvane", "Any", 2012, Body.HATCH, Hand.LEFT), Intake(), Policy()),
                   ("Tessel Two 200", COAX, COAX))[1]  # fmt: skip
    assert [k.to_id for k in doors.links_of(SpeakerLink)] == ["spk-fl", "spk-fr"]
    mixed = bus("Tessel Two 200", COAX, "Pell & Fenn Dash 80, pair", rows=2)
    assert [k.to_id for k in mixed.links_of(SpeakerLink)] == ["ceiling-1-left", "ceiling-1-right"]
    with pytest.raises(NotPossible, match="ceiling is full"):
        add_to_survey(bus(rows=4), "ceiling speakers")
    with pytest.raises(NotPossible, match="no ceiling"):
        add_to_survey(roadster(), "ceiling speakers")


def test_a_lead_no_link_stands_for_goes_down_the_sill_and_is_cut_as_long() -> None:
    """Radio to rear shelf: out to the sill on that side, 0.09 m from the car's side, along it and in again, 0.3 m up at
    each end and 5 % of slack; to a corner of the dash, near by, it goes straight. Lengths by hand.
    """
    design = new_design("s", new_vehicle("Corvane", "Any", 2012, Body.SALOON, Hand.LEFT), Intake(), Policy())
    for what in ("rear shelf speakers", "dash corner speakers"):
        design = apply_edits(design, add_to_survey(design, what)[1])
    rows = {row.end: row for row, _ in new_places(Book(design))}
    (x, y), half_m = design.vehicle.radio.position.point, 1.80 / 2
    shelf, corner = (next(s.position.point for s in design.vehicle.speakers if s.id == name)
                     for name in ("rear-shelf-left", "dash-corner-left"))  # fmt: skip
    sill = -(half_m - 0.09)
    assert rows["Rear shelf left"].points == ((x, y), (x, sill), (shelf[0], sill), shelf)
    plan_m = abs(sill - y) + (shelf[0] - x) + abs(sill - shelf[1])
    assert rows["Rear shelf left"].length_m == pytest.approx((plan_m + 0.6) * 1.05)
    assert rows["Dash corner left"].length_m == pytest.approx((dist((x, y), corner) + 0.6) * 1.05)
