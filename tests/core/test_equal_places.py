"""One measurement for equal places: what is taken over, what is not, and that nobody's own reading is lost."""

from __future__ import annotations

import pytest

from ohmack.core.document import Basis, Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.errors import NotPossible
from ohmack.core.planning.equal_places import equals_of, taken_as
from ohmack.core.planning.mirroring import can_mirror, mirrored
from ohmack.core.planning.starting_points import new_vehicle
from ohmack.core.planning.survey import add_to_survey
from ohmack.demo.building import measured

V = "vehicle/speakers"


def car(body: Body = Body.SALOON) -> Design:
    return Design.model_validate({"vehicle": new_vehicle("Dravel", "Minnow", 2009, body, Hand.RIGHT).model_dump()})


def test_a_door_is_taken_for_the_one_on_the_other_side_and_for_no_other() -> None:
    design = apply_edits(
        car(),
        [
            measured(f"{V}/spk-fl/cut_out_mm", 151.0), measured(f"{V}/spk-fl/dc_resistance_ohm", 3.4),
            measured(f"{V}/spk-fl/depth_mm", 61.0), measured(f"{V}/spk-fr/depth_mm", 48.0),
        ],
    )  # fmt: skip
    edits = taken_as(design, "spk-fl")
    assert [e.path for e in edits] == [f"{V}/spk-fr/cut_out_mm"], "no resistance, and not over somebody's own reading"
    after = apply_edits(design, edits)
    doors = {s.id: s for s in after.vehicle.speakers}
    assert (doors["spk-fr"].cut_out_mm.value, doors["spk-fr"].cut_out_mm.basis) == (151.0, Basis.MEASURED)
    assert doors["spk-fr"].cut_out_mm.note == "as Front left door"
    assert doors["spk-fr"].depth_mm.value == 48.0
    assert doors["spk-rl"].cut_out_mm.basis is Basis.ASSUMED
    assert taken_as(after, "spk-fl") == ()
    assert taken_as(design, "nobody") == ()


def test_every_headrest_is_like_the_first_and_what_was_assumed_is_no_measurement() -> None:
    design = car(Body.TWO_SEATER)
    _, edits = add_to_survey(design, "headrest speakers")
    design = apply_edits(design, edits)
    seats = [s for s in design.vehicle.speakers if s.place == "headrest"]
    assert {s.id for s in equals_of(design, seats[0])} == {s.id for s in seats[1:]}
    assert taken_as(design, seats[0].id) == ()
    known = apply_edits(design, [measured(f"{V}/{seats[0].id}/impedance_ohm", 4.0)])
    after = apply_edits(known, taken_as(known, seats[0].id))
    assert [s.impedance_ohm.value for s in after.vehicle.speakers if s.place == "headrest"] == [4.0] * 4
    moved = apply_edits(car(), [Edit(path=f"{V}/spk-fr/position/x_m", value=2.6),
                                measured(f"{V}/spk-fl/cut_out_mm", 150.0)])  # fmt: skip
    assert taken_as(moved, "spk-fl") == (), "it is no mirror any more"


def test_a_speaker_brings_its_other_side_with_a_pair_of_its_own() -> None:
    """Nine drivers of a ring system in five presses: what equal places share comes along, a reading does not."""
    design = car(Body.SALOON)
    tweeter = {
        "id": "tw-left", "name": "Tweeter left", "position": {"x_m": 1.5, "y_m": -0.6}, "place": "dash",
        "channel_id": "own-1", "cut_out_mm": {"value": 52.0, "basis": "measured"},
        "dc_resistance_ohm": {"value": 3.6, "basis": "measured"},
    }  # fmt: skip
    pair = {"id": "own-1", "name": "Tweeter left", "band": {"value": "high range", "basis": "measured"}}
    design = apply_edits(design, [
        Edit(op="add", path="vehicle/radio/channels", value=pair),
        Edit(op="add", path="vehicle/speakers", value=tweeter),
    ])  # fmt: skip
    own = next(s for s in design.vehicle.speakers if s.id == "tw-left")
    assert can_mirror(design, own)
    both = apply_edits(design, mirrored(design, "tw-left"))
    other = both.vehicle.speakers[-1]
    assert (other.id, other.name, other.position.y_m) == ("tw-right", "Tweeter right", 0.6)
    channel = next(c for c in both.vehicle.radio.channels if c.id == other.channel_id)
    assert (channel.name, channel.band.value.value) == ("Tweeter right", "high range")
    assert (other.cut_out_mm.value, other.cut_out_mm.note) == (52.0, "as Tweeter left")
    assert other.dc_resistance_ohm.value is None
    assert not can_mirror(both, own)
    with pytest.raises(NotPossible):
        mirrored(both, "tw-left")
    door = next(s for s in design.vehicle.speakers if s.id == "spk-fl")
    assert not can_mirror(design, door), "it has its other side"
    lone = apply_edits(design, [Edit(op="remove", path="vehicle/speakers/spk-fr")])
    back = apply_edits(lone, mirrored(lone, "spk-fl")).vehicle.speakers[-1]
    assert (back.name, back.channel_id) == ("Front right door", "ch-fr"), "on the pair that is there"
