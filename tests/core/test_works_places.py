"""A works speaker that sits elsewhere than was taken: what goes along, and what somebody said or read stays."""

from __future__ import annotations

import pytest

from ohmack.core.document import Design
from ohmack.core.document.design import Wish
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.facts import Basis
from ohmack.core.document.vehicle import Body, Hand, Speaker, SpeakerPlace
from ohmack.core.evaluation.sensitivity import likely_asked
from ohmack.core.planning.laying import follow
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.core.planning.works_places import SIZES, usual_hole, usual_spot
from ohmack.demo.building import measured
from ohmack.demo.jobs import demo_design

SPEAKERS = "vehicle/speakers"


def old_car(body: Body = Body.COUPE) -> Design:
    front = demo_design(0).intake.model_copy(update={"wishes": (Wish.CLARITY,), "budget": None, "must_keep": ()})
    return new_design("t", new_vehicle("Brindle", "Otter", 1991, body, Hand.RIGHT), front, demo_design(0).policy)


def sits(design: Design, speaker_id: str, place: SpeakerPlace, *more: Edit) -> Design:
    edit = Edit(path=f"{SPEAKERS}/{speaker_id}/place", value=place.value)
    return apply_edits(design, follow(design, [edit, *more]))


def speaker(design: Design, speaker_id: str) -> Speaker:
    return next(s for s in design.vehicle.speakers if s.id == speaker_id)


@pytest.mark.parametrize(
    ("speaker_id", "place", "name", "size"),
    [
        ("spk-fl", SpeakerPlace.DASH, "Front left dash", "3.5 in"),
        ("spk-rr", SpeakerPlace.SHELF, "Rear right shelf", "6×9 in"),
        ("spk-rl", SpeakerPlace.DOOR, "Rear left door", "5.25 in"),
    ],
)
def test_name_spot_and_sizes_go_with_the_place(speaker_id: str, place: SpeakerPlace, name: str, size: str) -> None:
    moved = sits(old_car(), speaker_id, place)
    now, before = speaker(moved, speaker_id), speaker(old_car(), speaker_id)
    assert (now.name, now.size) == (name, size)
    assert now.position.y_m * before.position.y_m > 0, "left stays left"
    assert now.channel_id == before.channel_id
    hole = usual_hole(place, front="f" in speaker_id[-2:])
    for field in SIZES:
        usual, fact = getattr(hole, field), getattr(now, field)
        assert (fact.value, fact.basis) == (usual[0] if usual else None, Basis.ASSUMED)
    assert (now.window_depth_mm.value is not None) is now.in_door, "a window comes down in doors only"
    back = sits(moved, speaker_id, before.place)
    assert speaker(back, speaker_id) == before
    others = [s for s in moved.vehicle.speakers if s.id != speaker_id]
    assert others == [s for s in old_car().vehicle.speakers if s.id != speaker_id]


def test_what_somebody_said_or_read_of_it_stays() -> None:
    depth = measured(f"{SPEAKERS}/spk-fl/depth_mm", 41.0)
    spot = {"x_m": 1.5, "y_m": -0.3}
    own = [
        Edit(path=f"{SPEAKERS}/spk-fl/name", value="The one that rattles"),
        Edit(path=f"{SPEAKERS}/spk-fl/position", value=spot), depth,
    ]  # fmt: skip
    now = speaker(sits(apply_edits(old_car(), own), "spk-fl", SpeakerPlace.DASH), "spk-fl")
    assert (now.name, now.depth_mm.value, now.depth_mm.basis) == ("The one that rattles", 41.0, Basis.MEASURED)
    assert (now.position.x_m, now.position.y_m) == (1.5, -0.3)
    assert now.cut_out_mm.value == 80.0
    size = Edit(path=f"{SPEAKERS}/spk-fl/size", value="4 in")
    assert speaker(sits(old_car(), "spk-fl", SpeakerPlace.DASH, size), "spk-fl").size == "4 in"


def test_a_body_without_a_shelf_gives_no_spot_there() -> None:
    estate = old_car(Body.ESTATE)
    assert usual_spot(estate.vehicle, SpeakerPlace.SHELF, front=False, right=True) is None
    now, before = speaker(sits(estate, "spk-rl", SpeakerPlace.SHELF), "spk-rl"), speaker(estate, "spk-rl")
    assert now.position == before.position


def test_nobody_winds_a_window_down_behind_a_dash() -> None:
    asked = {m.path for m in likely_asked(old_car())}
    assert f"{SPEAKERS}/spk-fl/window_depth_mm" in asked
    assert f"{SPEAKERS}/spk-rl/window_depth_mm" not in asked, "a panel has none"
    asked = {m.path for m in likely_asked(sits(old_car(), "spk-fl", SpeakerPlace.DASH))}
    assert f"{SPEAKERS}/spk-fl/window_depth_mm" not in asked
    assert f"{SPEAKERS}/spk-fl/depth_mm" in asked
