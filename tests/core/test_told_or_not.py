"""Rules on both sides of what they tell: what makes them speak, and what leaves them silent."""

from __future__ import annotations

from typing import Any

import pytest

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.evaluation.door import evaluate
from ohmack.core.figures.finding import Finding
from ohmack.core.fit.places import first_place
from ohmack.core.planning.harness import new_connector
from ohmack.demo.building import catalogue_part, measured


def put(path: str, value: Any) -> Edit:
    return Edit(path=path, value=value)


def said(design: Design, rule: str) -> list[Finding]:
    return [f for f in evaluate(design).findings if f.rule == rule]


def test_a_hole_somebody_noted_is_asked_for_before_any_step_is_done(estate: Design) -> None:
    hole = {"id": "old", "name": "Old hole under the seat", "diameter_mm": 12.0}
    found = said(apply_edits(estate, [Edit(op="add", path="work/holes", value=hole)]), "hole-not-noted")
    assert [f.text.split(". ")[0] for f in found] == [
        "Not noted: what was looked for behind it and how it is sealed"
    ]  # fmt: skip
    assert said(estate, "hole-not-noted") == []


@pytest.mark.parametrize(("same_box", "signs", "stops"), [
    (True, ("plus", "plus"), 1), (True, ("plus", "minus"), 0), (False, ("plus", "plus"), 0),
])  # fmt: skip
def test_one_wire_of_a_pair_on_two_plugs_of_one_box(
    estate: Design, same_box: bool, signs: tuple[str, str], stops: int
) -> None:
    """An output has one wire of each sign: two plugs of one radio cannot both carry front left plus."""
    design = apply_edits(estate, [Edit(op="remove", path=f"vehicle/connectors/{c.id}")
                                  for c in estate.vehicle.connectors])  # fmt: skip
    for n, sign in enumerate(signs):
        design = apply_edits(design, new_connector(design, f"Plug {n}", 1, 2))
        plug = design.vehicle.connectors[-1]
        cavity = f"vehicle/connectors/{plug.id}/cavities/{plug.cavities[0].id}"
        at_box = estate.vehicle.radio.id if same_box or n == 0 else None
        design = apply_edits(design, [
            put(f"vehicle/connectors/{plug.id}/at_id", at_box), measured(f"{cavity}/use", "speaker"),
            put(f"{cavity}/channel_id", "ch-fl"), put(f"{cavity}/polarity", sign),
        ])  # fmt: skip
    found = [f for f in said(design, "joint-double") if f.severity.value == "stop"]
    assert len(found) == stops
    assert all("Plug 0" in f.title and "Plug 1" in f.title for f in found)


@pytest.mark.parametrize(
    ("tier", "starts", "severities"),
    [("plain radio", True, []), ("plain radio", False, ["stop"]), ("plain radio", None, []),
     ("digital or optical ring", None, ["watch"]), ("digital or optical ring", True, [])],
)  # fmt: skip
def test_whether_the_car_starts_without_its_radio(
    estate: Design, tier: str, starts: bool | None, severities: list[str]
) -> None:
    gone = [
        put("vehicle/functions", []), measured("vehicle/radio/tier", tier),
        Edit(op="add", path="interventions", value={"id": "radio", "act": "taken out"}),
        put("vehicle/radio/starts_without", {"value": None}),
    ]  # fmt: skip
    known = [measured("vehicle/radio/starts_without", starts)] if starts is not None else []
    assert [f.severity.value for f in said(apply_edits(estate, [*gone, *known]), "start-chain")] == severities


@pytest.mark.parametrize(("y_m", "side"), [(0.4, 1), (-0.4, -1)])
def test_a_block_lies_on_the_side_the_power_run_comes_down(estate: Design, y_m: float, side: int) -> None:
    """Common practice: no run crosses the car for its block."""
    moved = apply_edits(estate, [put(f"vehicle/passages/{p.id}/position/y_m", y_m) for p in estate.vehicle.passages])
    place = first_place("distribution block", moved.vehicle)
    assert place is not None
    assert place["y_m"] * side > 0


def test_a_door_and_a_small_speaker_in_parallel_are_told_and_one_alone_is_not(estate: Design) -> None:
    small = [put("parts/amp/channel_count", 2), put("vehicle/speakers/spk-rl/place", "dash")]
    links = [Edit(op="add", path="links", value={
        "id": f"speaker-{name}", "kind": "speaker", "from_id": "amp", "to_id": name, "channel": 2,
    }) for name in ("spk-fl", "spk-rl")]  # fmt: skip
    both, one = (apply_edits(estate, [*small, *links[n:]]) for n in (0, 1))
    load = next(load for load in evaluate(both).results.loads if len(load.driven) == 2)
    parallel = next(option.key for option in load.options if option.wiring.kind == "parallel")
    both = apply_edits(both, [put(f"links/{load.link.id}/wiring", parallel)])
    assert [f.title for f in said(both, "small-over-doors")] == ["Rear left door would play over front left door"]
    assert said(one, "small-over-doors") == []


def test_in_a_car_without_a_radio_nothing_falls_silent(estate: Design) -> None:
    """What never played does not stop playing; a plan that reaches no speaker of it is told all the same."""
    none = [measured("vehicle/radio/tier", "no radio")]
    bare = [Edit(op="remove", path=f"parts/{part.id}") for part in estate.parts]
    assert said(apply_edits(estate, [*none, *bare]), "speaker-silent") == []
    titles = [f.title for f in said(apply_edits(estate, none), "speaker-silent")]
    assert len(titles) == 1
    assert titles[0].endswith("nothing drives them")


def test_nobody_buys_a_speaker_to_leave_it_silent(estate: Design) -> None:
    gone = [Edit(op="add", path="interventions", value={"id": "radio", "act": "taken out"})]
    doors = Edit(op="add", path="parts", value=catalogue_part(
        "Pell & Fenn Coax 65, pair", "doors", 1.9, 0.0, at_ids=["spk-fl", "spk-fr"], position=None).value)  # fmt: skip
    design = apply_edits(estate, [*gone, doors])
    stops = {f.about: f for f in said(design, "speaker-silent")}
    assert stops["doors"].title == (
        "Pell & Fenn Coax 65, pair in Front left door and Front right door: nothing drives them"
    )
    for found in [f for f in stops.values() if f.remedy is not None and f.remedy.edits]:
        assert found.remedy is not None
        design = apply_edits(design, found.remedy.edits)
    assert [f.about for f in said(design, "speaker-silent")] == ["doors"]


@pytest.mark.parametrize(
    ("places", "amplified", "told"),
    [
        (["spk-fl", "spk-fr"], [], ""),
        (["spk-fl"], [], "the car's own speaker"),
        (["spk-fr"], [], "the car's own speaker, front right door Pell"),
        (["spk-fl", "spk-fr"], ["spk-fl", "spk-fr"], ""),
        (["spk-fl", "spk-fr"], ["spk-fr"], "from an amplifier"),
    ],
)
def test_both_sides_play_the_same_from_the_same(
    estate: Design, places: list[str], amplified: list[str], told: str
) -> None:
    """Common practice, no source."""
    doors = catalogue_part("Pell & Fenn Coax 65, pair", "doors", 1.9, 0.0, at_ids=places, position=None)
    more = [put("parts/amp/channel_count", 3)]
    more += [Edit(op="add", path="links", value={
        "id": f"speaker-{name}", "kind": "speaker", "from_id": "amp", "to_id": name, "channel": n,
    }) for n, name in enumerate(amplified, 2)]  # fmt: skip
    titles = [f.title for f in said(apply_edits(estate, [doors, *more]), "sides-unlike")]
    assert bool(titles) == bool(told)
    assert all(told in title and title.startswith("Front left door plays") for title in titles)


@pytest.mark.parametrize(
    ("cranking_v", "running_v", "contradictions"),
    [(10.2, 14.1, 0), (12.6, 14.1, 1), (13.0, 14.1, 1), (10.2, 12.6, 1), (10.2, 12.7, 0)],
)
def test_posts_that_contradict_each_other(
    estate: Design, cranking_v: float, running_v: float, contradictions: int
) -> None:
    """A starter pulls the post down, a running engine lifts it above where it rests, at 12.6 V here."""
    supply = "vehicle/supply"
    design = apply_edits(estate, [measured(f"{supply}/post_resting_v", 12.6),
                                  measured(f"{supply}/post_cranking_v", cranking_v),
                                  measured(f"{supply}/post_running_v", running_v)])  # fmt: skip
    found = [f for f in said(design, "facts-contradict") if "resting" in f.title]
    assert len(found) == contradictions


@pytest.mark.parametrize(("out_pairs", "combs"), [(1, 1), (2, 0)])
def test_a_centre_is_summed_where_no_output_is_left_for_it(estate: Design, out_pairs: int, combs: int) -> None:
    """A converter of two pairs has four outputs: a centre beside left and right has one of its own."""
    centre = {"id": "mid", "name": "Centre", "place": "centre"}
    design = apply_edits(estate, [Edit(op="add", path="vehicle/radio/channels", value=centre),
                                  put("parts/converter/input_pairs", 4), put("parts/converter/output_pairs", out_pairs),
                                  put("links/tap-converter/from_ids", ["ch-rl", "ch-rr", "mid"])])  # fmt: skip
    assert len(said(design, "tap-combs")) == combs


@pytest.mark.parametrize(("field", "value", "told"), [("by_customer", False, True), ("by_customer", True, False),
                         ("stands", "already in the car", False)])  # fmt: skip
def test_a_price_is_missed_of_what_is_bought(estate: Design, field: str, value: object, told: bool) -> None:
    """What the customer brings and what is in the car is not paid for."""
    part = next(part for part in estate.parts if part.price and not part.in_car)
    design = apply_edits(estate, [put(f"parts/{part.id}/price", None), put(f"parts/{part.id}/{field}", value)])
    assert [f.text for f in said(design, "cost-over-budget") if f.severity.value == "note"] == (
        [f"Counted as nothing: {part.name}."] if told else []
    )
