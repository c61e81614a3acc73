"""Where rules begin to speak, from both sides; and what is said to whom.

The limits are common practice, no source, unless a line says more.
"""

from __future__ import annotations

from typing import Any

import pytest

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.factory import ModuleKind
from ohmack.core.document.functions import Act, Intervention, KeepAlive
from ohmack.core.document.links import FeedLink, Fuse, Wire
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.evaluation.door import evaluate
from ohmack.core.factory.functions import fitting_measures
from ohmack.core.factory.pickup_places import pickups
from ohmack.core.figures.finding import Finding, Severity
from ohmack.core.fit.places import PROPORTIONS, first_place
from ohmack.core.physics.conductors import ampacity_a
from ohmack.core.supply.small_circuits import feed_wire, small_wire
from ohmack.demo.building import measured
from ohmack.demo.jobs import demo_design, demo_jobs

P, S, V = "links/power-amp", "vehicle/supply", "vehicle"


def put(path: str, value: Any) -> Edit:
    return Edit(path=path, value=value)


def add(path: str, value: Any) -> Edit:
    return Edit(op="add", path=path, value=value)


def said(design: Design, rule: str) -> list[Finding]:
    return [f for f in evaluate(design).findings if f.rule == rule]


@pytest.mark.parametrize(
    ("new_ohm", "severity", "words"),
    [(3.5, Severity.WATCH, "14% more current"), (3.7, None, ""), (4.0, None, ""), (4.3, None, ""),
     (4.6, Severity.NOTE, "less power"), (1.9, Severity.STOP, "wants 2 Ω")],
)  # fmt: skip
def test_a_tenth_in_load_is_worth_a_word(estate: Design, new_ohm: float, severity: Severity | None, words: str) -> None:
    """A new driver where 4 ohm hung, on a radio that permits 2: by Ohm's law 4/3.5 - 1 is 14 % more current."""
    driver = {
        "id": "doors",
        "kind": "driver",
        "name": "Doors",
        "at_ids": ["spk-fl"],
        "impedance_ohm": new_ohm,
        "power_rms_w": 60.0,
        "mounting_depth_mm": 40.0,
        "cut_out_mm": 120.0,
        "frame_mm": 140.0,
        "front_height_mm": 5.0,
    }
    ring = [put(f"{V}/speakers/{s.id}/paired_with_id", None) for s in estate.vehicle.speakers]
    alone = [
        put(f"{V}/speakers/{s.id}/channel_id", None)
        for s in estate.vehicle.speakers
        if s.channel_id == "ch-fl" and s.id != "spk-fl"
    ]
    car = apply_edits(
        estate,
        [
            add("parts", driver),
            *ring,
            *alone,
            measured(f"{V}/radio/lowest_load_ohm", 2.0),
            measured(f"{V}/speakers/spk-fl/impedance_ohm", 4.0),
        ],
    )
    found = [f for f in said(car, "channel-load") if f.about == "ch-fl"]
    assert [f.severity for f in found] == ([severity] if severity else [])
    if severity:
        assert words in found[0].title + found[0].text


def test_a_feed_without_a_fuse_has_no_fuse_to_judge(estate: Design) -> None:
    grown = evaluate(apply_edits(estate, [put("parts/converter/fuse_a", 30.0)])).results.feeds[0]
    assert ampacity_a(grown.wire, engine_space=False) >= 30.0, "the wire grows with the fuse its maker names"
    big = apply_edits(estate, [put("links/feed-converter/fuse/rating_a", 30.0)])
    assert said(big, "feed-fuse")
    bare = apply_edits(big, [put("links/feed-converter/fuse", None)])
    assert said(bare, "feed-fuse") == []
    assert any(f.about == "feed-converter" for f in said(bare, "fuse-missing"))


def test_a_feeds_wire_carries_the_fuse_its_maker_names_not_one_somebody_chose(estate: Design) -> None:
    """A thin wire behind a large fuse is made thicker where the fuse is the maker's; one a person typed is judged
    against the usual wire instead.
    """
    link = next(k for k in estate.links if k.id == "feed-converter")
    assert isinstance(link, FeedLink)
    free = link.model_copy(update={"fuse": Fuse(), "wire": Wire()})
    usual = small_wire(estate, free)
    assert feed_wire(estate, free, 40.0, (0.0, 1.0)).area_mm2 > usual.area_mm2
    typed = free.model_copy(update={"fuse": Fuse(rating_a=40.0)})
    assert feed_wire(estate, typed, 40.0, (0.0, 1.0)).area_mm2 == usual.area_mm2
    assert feed_wire(estate, free.model_copy(update={"fuse": None}), 40.0, (0.0, 1.0)).area_mm2 > usual.area_mm2
    assert feed_wire(estate, free, None, (0.0, 1.0)).area_mm2 == usual.area_mm2


@pytest.mark.parametrize(("kind", "speaks"), [("bare-metal stud", True), ("battery negative", False)])
def test_a_long_ground_lead_is_said_but_not_one_to_the_battery_itself(estate: Design, kind: str, speaks: bool) -> None:
    """To the negative post it is as long as the way is; to a point of the body the shop keeps it short."""
    ground = next(k for k in estate.links if k.kind == "ground")
    car = apply_edits(
        estate,
        [measured(f"links/{ground.id}/tape_length_m", 2.0), measured(f"{V}/ground_points/{ground.to_id}/kind", kind)],
    )
    assert any("Ground lead" in f.title and "long" in f.title for f in evaluate(car).findings) is speaks


def test_what_mends_a_fuse_that_is_too_big(estate: Design) -> None:
    """Its own fuse is made smaller, to a standard size (ISO 8820-3, from memory) that the wire carries and the load
    does not blow.
    """
    found = said(apply_edits(estate, [put(f"{P}/fuse/rating_a", 150.0)]), "fuse-above-ampacity")[0]
    carries = evaluate(estate).results.supplies[0].chosen.ampacity_a  # type: ignore[union-attr]
    assert found.title == f"150 A fuse on 4 AWG, which may carry {carries:.0f} A"
    assert found.remedy is not None
    assert found.remedy.label == "Use 60 A"


@pytest.mark.parametrize(("distance_m", "speaks"), [(0.44, False), (0.45, False), (0.46, True)])
def test_a_fuse_sits_within_the_shops_distance(estate: Design, distance_m: float, speaks: bool) -> None:
    """The demo shop's 0.45 m is 18 inches (ABYC E-11 names 7; many shops 18: common practice, no source)."""
    assert bool(said(apply_edits(estate, [measured(f"{P}/fuse/from_source_m", distance_m)]), "fuse-too-far")) is speaks


@pytest.mark.parametrize(
    ("limit_a", "severity"), [(44.0, Severity.STOP), (60.0, Severity.WATCH), (91.0, Severity.WATCH), (94.0, None)]
)
def test_a_converter_gives_half_of_what_it_can_to_audio(
    estate: Design, limit_a: float, severity: Severity | None
) -> None:
    """About 46 A of audio: past the limit a Stop, past half of it a Watch."""
    car = apply_edits(estate, [put(f"{S}/kind", "DC-DC converter"), measured(f"{S}/dc_dc_limit_a", limit_a)])
    assert [f.severity for f in said(car, "dc-dc-limit")] == ([severity] if severity else [])


@pytest.mark.parametrize(("charged_v", "speaks"), [(13.1, True), (13.3, False)])
def test_a_diode_isolator_is_looked_at_by_its_volts(estate: Design, charged_v: float, speaks: bool) -> None:
    camp = {
        "id": "camp",
        "name": "Camp",
        "role": "leisure",
        "position": {"x_m": 3.9, "y_m": -0.4},
        "own_running_v": {"value": charged_v, "basis": "measured"},
        "own_resting_v": {"value": 12.7, "basis": "measured"},
        "cut_off_v": {"value": 11.5, "basis": "measured"},
    }
    car = apply_edits(
        estate,
        [add(f"{S}/batteries", camp), put(f"{P}/from_id", "camp"), measured(f"{S}/split_charging", "diode isolator")],
    )
    assert bool([f for f in said(car, "second-battery") if "0.7 V" in f.title]) is speaks
    for cut_v, drops in ((12.45, False), (12.55, True)):  # within 0.2 V of where it rests, its label unread
        again = apply_edits(car, [measured(f"{S}/batteries/camp/cut_off_v", cut_v)])
        assert bool([f for f in said(again, "second-battery") if f.title.startswith("Cut-off at")]) is drops


@pytest.mark.parametrize("number", range(len(demo_jobs())))
def test_usable_places_for_a_pickup_come_first(number: int) -> None:
    places = pickups(demo_design(number))
    assert [p.usable for p in places] == sorted((p.usable for p in places), reverse=True)
    usable = [p.badness for p in places if p.usable]
    assert usable == sorted(usable)


@pytest.mark.parametrize("body", list(Body))
@pytest.mark.parametrize("hand", list(Hand))
def test_first_places_are_in_the_car_and_off_the_drivers_feet(body: Body, hand: Hand, estate: Design) -> None:
    """What sits under the dash sits on the passenger's side, well inside the body."""
    vehicle = estate.vehicle.model_copy(update={"body": body, "hand_of_drive": hand})
    typical = PROPORTIONS[body]
    length_m, half_m = vehicle.length_m.value or typical.length_m, (vehicle.width_m.value or typical.width_m) / 2
    for kind in ("amplifier", "box", "converter", "processor", "powered subwoofer", "distribution block"):
        place = first_place(kind, vehicle)
        assert place is not None
        assert 0 < place["x_m"] < length_m
        assert abs(place["y_m"]) <= 0.75 * half_m, kind
        if kind in ("converter", "processor"):
            assert (place["y_m"] > 0) == (hand is Hand.LEFT)
            assert 0.2 * half_m < abs(place["y_m"]) < 0.6 * half_m


def test_a_shorting_plug_is_for_a_changer(estate: Design) -> None:
    """A changer's socket takes a plug that closes the ring or the line; no other module has one."""
    tried = set()
    for number in range(len(demo_jobs())):
        design = demo_design(number)
        for module in design.vehicle.modules:
            measures = fitting_measures(design, Intervention(id=module.id, act=Act.REMOVED))
            assert (KeepAlive.PLUG in measures) == (module.kind is ModuleKind.CHANGER), module.name
            assert measures[0] is KeepAlive.STAYS
            tried.add(module.kind)
    assert len(tried) > 3
    assert fitting_measures(estate, Intervention(id="radio", act=Act.BYPASSED)) == (KeepAlive.CENTRE,)
