"""The numbers inside findings and lists, each worked out a second way: by a law, by geometry of another package, by
trying the advice.
"""

from __future__ import annotations

from math import log10
from typing import Any

import pytest
from shapely.geometry import LineString, box

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.evaluation.door import evaluate
from ohmack.core.figures.finding import Finding, Severity
from ohmack.core.fit.zones import LEAST_M, TOUCHES_M
from ohmack.core.network.model import Place
from ohmack.demo.building import catalogue, measured
from ohmack.demo.jobs import demo_design, demo_jobs

S, P = "vehicle/supply", "links/power-amp"
CARS = range(len(demo_jobs()))


def put(path: str, value: Any) -> Edit:
    return Edit(path=path, value=value)


def add(path: str, value: Any) -> Edit:
    return Edit(op="add", path=path, value=value)


def said(design: Design, rule: str) -> list[Finding]:
    return [f for f in evaluate(design).findings if f.rule == rule]


def test_a_collapse_says_the_most_the_loop_passes(estate: Design) -> None:
    """The most a resistance passes to a load is E²/4R (maximum power transfer, textbook)."""
    broken = apply_edits(estate, [measured(f"{S}/body_return_ohm", 0.078)])
    found = said(broken, "supply-collapses")[0]
    supply = evaluate(broken).results.supplies[0]
    loop_ohm = sum(p.resistance_ohm for p in supply.pieces)
    assert f"The loop has {1000 * loop_ohm:.1f} mΩ" in found.text
    assert f"so {14.2**2 / 4 / loop_ohm:.0f} W is the most" in found.text
    assert "body return alone has 78.0 mΩ" in found.text
    assert found.remedy is not None
    assert found.remedy.path == f"{S}/body_return_ohm"


@pytest.mark.parametrize(("sensitivity_db", "power_w"), [(86.0, 500.0), (80.0, 500.0), (60.0, 350.0)])
def test_hearing_is_spent_by_the_exchange_rate(estate: Design, sensitivity_db: float, power_w: float) -> None:
    """NIOSH criteria document 98-126 (from memory): 85 dBA for 8 h, half the time for every 3 dB more."""
    car = apply_edits(estate, [put("parts/sub/sensitivity_db", sensitivity_db), put("parts/sub/power_rms_w", power_w)])
    level_db = sensitivity_db + 10 * log10(min(power_w, 500.0))
    found = said(car, "caution-hearing")
    if level_db <= 85:
        assert not found
        return
    assert found[0].title == f"Loud: about {level_db:.0f} dB at 1 m in the open"
    seconds = 8 * 3600 * 0.5 ** ((level_db - 85) / 3)
    span = f"{seconds / 60:.0f} min" if seconds >= 60 else f"{seconds:.0f} s"
    assert f": {span} at that level" in found[0].text


def test_outputs_that_play_together_are_as_loud_together() -> None:
    """Powers add, by the decibel: over the doors and the subwoofer of a five-channel amplifier."""
    answers = (evaluate(demo_design(n)) for n in range(len(demo_jobs())))
    results = next(a.results for a in answers if len(a.results.loads) > 2 and said(a.design, "caution-hearing"))
    each = [
        load.driver.sensitivity_db + 10 * log10(min(load.power.value, load.allowed_w or load.power.value))
        for load in results.loads if load.driver.sensitivity_db is not None and load.power.value
    ]  # fmt: skip
    assert len(each) > 2
    all_db = 10 * log10(sum(10 ** (one / 10) for one in each))
    assert all_db > max(each) + 0.5
    assert said(results.design, "caution-hearing")[0].title == f"Loud: about {all_db:.0f} dB at 1 m in the open"


def test_a_speaker_cable_says_what_is_left(estate: Design) -> None:
    """18 AWG has 20.95 mΩ a metre (AWG at 20 °C, from memory): there and back against 2 ohm; the rest of the power
    by the decibel.
    """
    thin = apply_edits(
        estate, [put("links/speaker-sub/wire/size", "18 AWG"), measured("links/speaker-sub/tape_length_m", 4.0)]
    )
    lost_db = 20 * log10(1 + 2 * 4.0 * 0.02095 / 2.0)
    found = said(thin, "speaker-cable")
    loss = next(f for f in found if "lost in" in f.title)
    assert loss.title.startswith(f"{lost_db:.1f} dB lost in 18 AWG") or loss.title.startswith(
        f"{lost_db:.2f} dB lost in 18 AWG"
    )
    assert f"gets {10 ** (-lost_db / 10):.0%} of the power" in loss.text
    hot = [f for f in found if "may carry" in f.title]
    current_a = (500 / 2) ** 0.5
    assert bool(hot) == (current_a > evaluate(thin).results.cables[0].wire.ampacity_a)
    limit_a = evaluate(thin).results.cables[0].wire.ampacity_a
    watts_w = (limit_a * 1.02) ** 2 * 2.0
    over = apply_edits(
        thin, [put("parts/amp/ratings", [{"load_ohm": 2.0, "power_w": watts_w}]), put("parts/sub/power_rms_w", 5000.0)]
    )
    assert any("may carry" in f.title and f.severity is Severity.STOP for f in said(over, "speaker-cable"))


@pytest.mark.parametrize("number", CARS)
def test_crossings_are_what_geometry_says(number: int) -> None:
    """Length of every run inside every zone by shapely, zone by zone: nothing is missed by a quick look, nothing
    added.
    """
    evaluation = evaluate(demo_design(number))
    results = evaluation.results
    wanted = set()
    for zone in results.design.vehicle.zones:
        if zone.present.value is False:
            continue
        x, y = zone.position.point
        area = box(x - zone.length_m / 2, y - zone.width_m / 2, x + zone.length_m / 2, y + zone.width_m / 2)
        for run in results.runs.values():
            if (
                run.points
                and LineString(run.points).intersection(area).length > LEAST_M.get(zone.kind, TOUCHES_M) + 1e-9
            ):
                wanted.add((zone.id, run.link.id))
    assert {(c.zone.id, c.thing_id) for c in results.crossings if c.thing_id in results.runs} == wanted


@pytest.mark.parametrize(("dx", "dy"), [(0.0, 0.24), (0.0, -0.24), (0.24, 0.0), (-0.24, 0.0)])
def test_a_zone_is_met_from_every_side(estate: Design, dx: float, dy: float) -> None:
    """A square of half a metre just reaches a straight run whichever side it comes from."""
    run = evaluate(estate).results.runs["power-amp"].points
    assert run is not None
    middle = LineString(run).interpolate(0.5, normalized=True)
    zone = {
        "id": "edge",
        "kind": "airbag",
        "name": "Edge",
        "position": {"x_m": middle.x + dx, "y_m": max(-2, min(2, middle.y + dy))},
        "length_m": 0.5,
        "width_m": 0.5,
    }
    met = evaluate(apply_edits(estate, [add("vehicle/zones", zone)])).results.crossings
    assert [c for c in met if c.zone.id == "edge" and c.thing_id == "power-amp"]
    away = zone | {
        "position": {"x_m": min(15, middle.x + 4 * dx), "y_m": max(-2, min(2, middle.y + 4 * dy))},
        "length_m": 0.3,
        "width_m": 0.3,
    }
    if dy:
        met = evaluate(apply_edits(estate, [add("vehicle/zones", away)])).results.crossings
        assert not [c for c in met if c.zone.id == "edge" and c.thing_id == "power-amp"]


@pytest.mark.parametrize("power", [-1, 1])
@pytest.mark.parametrize("crosses", [False, True])
def test_a_signal_is_sent_away_from_the_power_and_not_to_it(estate: Design, power: int, crosses: bool) -> None:
    """Down the same side it goes to the other, which is the car's left at negative y; from the other it crosses over:
    square, as common practice has it, and is never sent back to the side of the power.
    """

    def down(link: str, *points: tuple[float, float]) -> Edit:
        way = [{"x_m": x, "y_m": y} for x, y in points]
        return put(f"links/{link}/way_points", way)

    runs = [down("power-amp", (0.74, 0.77 * power), (3.62, 0.77 * power))]
    if crosses:
        runs.append(down("line-amp", (1.86, -0.70 * power), (3.0, -0.70 * power), (3.0, 0.70 * power),
                         (3.62, 0.70 * power)))  # fmt: skip
    else:
        runs.append(down("line-amp", (1.86, 0.70 * power), (3.62, 0.70 * power)))
    (found,) = said(apply_edits(estate, runs), "power-beside-signal")
    other = "left" if power > 0 else "right"
    assert ("at a right angle" in found.text) is crosses
    assert (f"the car's {other}" in found.text) is not crosses
    for side in ("left", "right"):
        assert f"the car's {side}" not in found.text or side == other


def test_a_relay_is_ordered_where_a_source_has_one(estate: Design) -> None:
    def relays(design: Design) -> list[str]:
        return [row.amount for row in evaluate(design).results.order if "elay" in row.what]

    assert relays(estate) == []
    assert relays(apply_edits(estate, [put("links/remote-amp/relay", True)])) == ["1"]


def test_the_ring_that_is_advised_mends_depth_and_front(estate: Design) -> None:
    """The advice is applied: with the ring, depth and front room both keep the shop's margin; without it depth does
    not.
    """
    doors = add(
        "parts",
        {
            "id": "doors",
            "kind": "driver",
            "name": "Doors",
            "at_ids": ["spk-fl"],
            "impedance_ohm": 4.0,
            "power_rms_w": 60.0,
            "mounting_depth_mm": 62.0,
            "cut_out_mm": 120.0,
            "frame_mm": 140.0,
            "front_height_mm": 5.0,
        },
    )
    at = "vehicle/speakers/spk-fl"
    tight = apply_edits(
        estate,
        [
            doors,
            measured(f"{at}/depth_mm", 60.0),
            measured(f"{at}/window_depth_mm", 58.0),
            measured(f"{at}/trim_clearance_mm", 25.0),
            measured(f"{at}/cut_out_mm", 121.0),
            put(f"{at}/adapter_ring_mm", {"value": None}),
        ],
    )
    margin = estate.policy.fit_margin_mm
    found = [f for f in said(tight, "fit") if f.remedy and f.remedy.edits]
    assert found
    result = next(f for f in evaluate(tight).results.fits if f.place_id == "spk-fl")
    assert result.ring == (62.0 + margin - 58.0, 25.0 - 5.0 - margin)
    mended = evaluate(apply_edits(tight, found[0].remedy.edits))  # type: ignore[union-attr]
    spares = {k: mended.figures[f"doors/spk-fl/{k}"].value for k in ("depth_spare_mm", "front_spare_mm")}
    assert all(spare >= margin for spare in spares.values()), spares
    assert spares["depth_spare_mm"] <= margin + 1.5  # no thicker than it has to be
    assert next(f for f in mended.results.fits if f.place_id == "spk-fl").ring == result.ring


GROUND_BLOCK = {
    "id": "gblock",
    "kind": "distribution block",
    "name": "Ground block",
    "in_area_max_mm2": 107.0,
    "out_area_max_mm2": 34.0,
    "ways": 4,
    "position": {"x_m": 3.7, "y_m": 0.2},
}


def test_a_main_ground_lead_carries_and_weighs_for_all(estate: Design) -> None:
    """Two amplifiers with runs of their own and one main ground lead: it has the area of both power wires, and both
    currents drop over it.
    """
    amp, driver = (estate.part(n).model_dump(mode="json") for n in ("amp", "sub"))  # type: ignore[union-attr]
    lead = {"value": 0.5, "basis": "measured"}
    car = apply_edits(
        estate,
        [
            measured(f"{S}/body_return_ohm", 0.0005),
            add("parts", GROUND_BLOCK),
            add("parts", driver | {"id": "sub-2"}),
            add("parts", amp | {"id": "amp-2", "name": "Second"}),
            add(
                "links",
                {
                    "id": "power-2",
                    "kind": "power",
                    "from_id": "battery",
                    "to_id": "amp-2",
                    "tape_length_m": {"value": 5.0, "basis": "measured"},
                },
            ),
            add("links", {"id": "speaker-2", "kind": "speaker", "from_id": "amp-2", "to_id": "sub-2"}),
            put("links/ground-amp/to_id", "gblock"),
            add(
                "links",
                {"id": "ground-2", "kind": "ground", "from_id": "amp-2", "to_id": "gblock", "tape_length_m": lead},
            ),
            add(
                "links",
                {
                    "id": "ground-main",
                    "kind": "ground",
                    "from_id": "gblock",
                    "to_id": "ground-rear",
                    "tape_length_m": lead,
                },
            ),
        ],
    )
    evaluation = evaluate(car)
    first, second = evaluation.results.supplies
    areas_mm2 = sum(s.chosen.wire.area_mm2 for s in (first, second) if s.chosen)
    main = evaluation.results.power.grounds["ground-main"]
    assert main.area_mm2 >= areas_mm2 * 0.99
    for supply in (first, second):
        piece = next(s for s in supply.segments if s.id == "ground-main/run")
        assert piece.place is Place.LEAD
        assert piece.resistance_ohm == pytest.approx(main.resistance_ohm_per_m * 0.5)
        assert piece.current_a == pytest.approx(first.figures["current"].value + second.figures["current"].value)
        assert (supply.source_v or 0) - sum(s.drop_v for s in supply.segments) == pytest.approx(
            supply.figures["voltage"].value
        )
    thick = evaluate(apply_edits(car, [put("links/ground-main/wire/size", "4/0 AWG")])).results.power.grounds[
        "ground-main"
    ]
    assert thick.label == "4/0 AWG"


def test_a_main_run_and_its_main_ground_lead_grow_together(estate: Design) -> None:
    """Behind one main run the main ground lead takes the main run's size, and is in what the main run is judged by."""
    block = {
        "id": "block",
        "kind": "distribution block",
        "name": "Block",
        "in_area_max_mm2": 107.0,
        "out_area_max_mm2": 34.0,
        "fused": True,
        "position": {"x_m": 3.3, "y_m": -0.4},
    }
    tape = {"value": 4.0, "basis": "measured"}
    base = [
        measured(f"{S}/body_return_ohm", 0.0004),
        add("parts", block),
        add("parts", GROUND_BLOCK),
        add("links", {"id": "main", "kind": "power", "from_id": "battery", "to_id": "block", "tape_length_m": tape}),
        put(f"{P}/from_id", "block"),
        put(f"{P}/way_points", []),
        put(f"{P}/tape_length_m", {"value": 0.5, "basis": "measured"}),
        put("links/ground-amp/to_id", "gblock"),
    ]
    long = add(
        "links",
        {"id": "ground-main", "kind": "ground", "from_id": "gblock", "to_id": "ground-rear", "tape_length_m": tape},
    )
    short = add(
        "links",
        {
            "id": "ground-main",
            "kind": "ground",
            "from_id": "gblock",
            "to_id": "ground-rear",
            "tape_length_m": {"value": 0.3, "basis": "measured"},
        },
    )
    far, near = (evaluate(apply_edits(estate, [*base, lead])) for lead in (long, short))
    sizes = []
    for evaluation in (far, near):
        main = next(s for s in evaluation.results.supplies if s.is_main)
        assert main.chosen is not None
        assert main.ground_wire == main.chosen.wire
        assert main.figures["ground"].value == main.figures["wire"].value
        leaf = next(s for s in evaluation.results.supplies if not s.is_main)
        assert leaf.figures["drop"].value <= estate.policy.drop_limit_v
        sizes.append(main.chosen.wire.area_mm2)
    assert sizes[0] > sizes[1]


@pytest.mark.parametrize(
    ("rating_a", "title"),
    [
        (77.0, "77 A is no size of bolt-down strip"),
        (100.0, "100 A where 60 A would do"),
        (80.0, None),  # not more than half as much again as what would do
        (60.0, None),
    ],
)
def test_a_fuse_is_a_size_that_is_sold_and_not_far_too_large(
    estate: Design, rating_a: float, title: str | None
) -> None:
    """46 A over a head-room of 0.8 asks for 57.5 A: the 60 A fuse (sizes of bolt-down strips, common practice)."""
    found = said(apply_edits(estate, [put("links/power-amp/fuse/rating_a", rating_a)]), "fuse-size")
    assert [f.title for f in found] == ([title] if title else [])
    if rating_a == 77.0:
        assert found[0].text == "Sold are 70 A and 80 A."


@pytest.mark.parametrize(("hole_mm", "ring_mm", "speaks"), [(139.0, 0.0, 0), (141.0, 0.0, 1), (141.0, 12.0, 0)])
def test_screws_need_metal_under_them(estate: Design, hole_mm: float, ring_mm: float, speaks: int) -> None:
    """A speaker made for 128 mm has its screws on about 140 (common practice, no source); a ring carries them."""
    pair = next(dict(t) for t in catalogue() if t["name"] == "Pell & Fenn Coax 65, pair")
    assert pair["cut_out_mm"] == 128.0
    door = "vehicle/speakers/spk-fl"
    design = apply_edits(
        estate,
        [
            Edit(op="add", path="parts", value={**pair, "id": "doors", "at_ids": ["spk-fl"]}),
            measured(f"{door}/cut_out_mm", hole_mm), measured(f"{door}/adapter_ring_mm", ring_mm),
        ],
    )  # fmt: skip
    assert len(said(design, "screws-over-hole")) == speaks
    other = "vehicle/speakers/spk-fr"
    for right_mm, told in ((hole_mm, speaks), (138.0, speaks), (143.0, speaks + 1)):
        both = [put("parts/doors/at_ids", ["spk-fl", "spk-fr"]), measured(f"{other}/cut_out_mm", right_mm),
                measured(f"{other}/adapter_ring_mm", ring_mm if right_mm == hole_mm else 0.0)]  # fmt: skip
        found = said(apply_edits(design, both), "screws-over-hole")
        assert len(found) == told, "one for alike holes, one each for others"


@pytest.mark.parametrize(("aside_m", "alike"), [(1.4, True), (1.6, False)])
def test_two_long_runs_to_one_place_could_be_one(estate: Design, aside_m: float, alike: bool) -> None:
    """A block feeds what stands about it: 1.5 m, and runs over 2 m: common practice, no source."""
    amplifier = next(part for part in estate.parts if part.id == "amp")
    assert amplifier.position is not None
    x_m, y_m = amplifier.position.point
    second = next(dict(t) for t in catalogue() if t["name"] == "Tessel M300")
    place = {"x_m": x_m - aside_m, "y_m": y_m}
    link = {"id": "p2", "kind": "power", "from_id": "battery", "to_id": "two", "fuse": {}}
    two = apply_edits(estate, [add("parts", {**second, "id": "two", "position": place}), add("links", link)])
    found = said(two, "runs-side-by-side")
    assert len(found) == alike
    if found:
        runs = evaluate(two).results.runs
        lengths = [f"{runs[name].length.value:.2f} m" for name in ("power-amp", "p2")]
        assert found[0].title == "2 runs side by side, to Tessel M500 and Tessel M300"
        assert found[0].text.startswith(f"{lengths[0]} and {lengths[1]}, each with its own way")
    short = apply_edits(two, [measured("links/p2/tape_length_m", 1.9)])
    assert not said(short, "runs-side-by-side")
    block = {"id": "b", "kind": "distribution block", "name": "B", "ways": 2, "in_area_max_mm2": 33.6,
             "out_area_max_mm2": 21.2}  # fmt: skip
    assert not said(apply_edits(two, [add("parts", block)]), "runs-side-by-side"), "there is one already"
    there = apply_edits(two, [put("links/p2/in_car", True)])
    assert not said(there, "runs-side-by-side"), "what lies in the car is not laid again"
