"""One measurement for equal places: what is taken over, what is not, and that nobody's own reading is lost."""

from __future__ import annotations

from ohmack.core.document import Basis, Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.planning.equal_places import equals_of, taken_as
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
