"""How many pieces a pack holds against the places it goes into; a woofer where nothing plays the treble."""

from __future__ import annotations

import pytest

from ohmack.core.document import Design
from ohmack.core.document.design import Intake
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.links import FeedLink
from ohmack.core.document.parts import Subwoofer
from ohmack.core.document.policy import Policy
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.evaluation.door import evaluate
from ohmack.core.planning.remedies import edits_of
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.demo.building import catalogue_part, measured
from ohmack.demo.everyday_jobs import picked
from ohmack.demo.jobs import demo_design, demo_jobs

DOORS = ["spk-fl", "spk-fr"]
ALL = [*DOORS, "spk-rl", "spk-rr"]
COAX, WOOFER, TWEETER = "Pell & Fenn Coax 65, pair", "Morrowick W65 woofer, pair", "Morrowick T25 tweeter, pair"


def saloon(*names: str) -> Design:
    vehicle = new_vehicle("Dravel", "Any", 2008, Body.SALOON, Hand.LEFT)
    return picked(new_design("any", vehicle, Intake(), Policy()), names)[1]


def placed(design: Design, places: list[str], pieces: int | None) -> Design:
    part = design.parts[0].id
    return apply_edits(design, [Edit(path=f"parts/{part}/at_ids", value=places),
                                Edit(path=f"parts/{part}/pieces", value=pieces)])  # fmt: skip


def said(design: Design, rule: str) -> list[tuple[str, str]]:
    return [(f.severity.value, f.title) for f in evaluate(design).findings if f.rule == rule]


@pytest.mark.parametrize(
    ("places", "pieces", "severities"),
    [(DOORS, 2, []), (ALL, 2, ["stop"]), (ALL, 4, []), (ALL[:3], 2, ["stop"]), (DOORS, 1, ["stop"]),
     (DOORS, None, []), (ALL[:3], None, ["watch"])],
)  # fmt: skip
def test_a_pair_reaches_for_two_places(places: list[str], pieces: int | None, severities: list[str]) -> None:
    """Speakers are sold by the pair: common practice, no source."""
    assert [s for s, _ in said(placed(saloon(COAX), places, pieces), "pack-short")] == severities


@pytest.mark.parametrize(("pieces", "packs"), [(2, 2), (1, 4), (3, 2)])
def test_more_packs_are_taken_by_presses_until_every_place_is_reached(pieces: int, packs: int) -> None:
    design = placed(saloon(COAX), ALL, pieces)
    price = design.parts[0].price
    assert price is not None
    while found := [f for f in evaluate(design).findings if f.rule == "pack-short"]:
        assert found[0].remedy is not None
        design = apply_edits(design, edits_of(design, found[0].remedy))
    assert len(design.parts) == packs
    assert sorted(name for part in design.parts for name in part.at_ids) == sorted(ALL)  # type: ignore[union-attr]
    results = evaluate(design).results
    assert [row.amount for row in results.order if row.group == "Parts"] == ["1"] * packs
    assert sum(row.price or 0.0 for row in results.order if row.group == "Parts") == packs * price


def test_rings_and_capacitors_are_counted_where_they_sit() -> None:
    design = saloon(COAX, "Hob bipolar capacitor 220 µF, pair", "Hob ring 165 to 142, 12 mm, pair")
    parts = {part.kind: part.id for part in design.parts}
    for kind in ("series capacitor", "mounting ring"):
        more = apply_edits(design, [Edit(path=f"parts/{parts[kind]}/at_ids", value=ALL[:3])])
        assert [title for _, title in said(more, "pack-short")], kind
        assert not said(apply_edits(design, [Edit(path=f"parts/{parts[kind]}/at_ids", value=ALL[:2])]), "pack-short")


def test_a_ring_of_nothing_has_no_template() -> None:
    design = saloon(COAX, "Hob ring 165 to 142, 12 mm, pair")
    ring = next(part.id for part in design.parts if part.kind == "mounting ring")
    assert [t.key for t in evaluate(design).results.full_size if t.key.startswith("ring-")]
    hollow = apply_edits(design, [Edit(path=f"parts/{ring}/opening_mm", value=400.0)])
    assert [t.key for t in evaluate(hollow).results.full_size if t.key.startswith("ring-")] == []
    assert [s for s, _ in said(hollow, "ring-hollow")] == ["stop"]


def test_one_of_a_kind_is_put_into_one_place() -> None:
    assert [len(part.at_ids) for part in saloon("Pell & Fenn Dash 80, one").parts] == [1]  # type: ignore[union-attr]


@pytest.mark.parametrize(
    ("names", "titles"),
    [
        ((WOOFER,), [f"{WOOFER} alone in front left door and front right door: nothing plays the treble"]),
        ((COAX,), []),
        ((WOOFER, TWEETER, "Morrowick X3 crossover, pair"), []),
    ],
)
def test_a_woofer_wants_a_tweeter_in_its_corner(names: tuple[str, ...], titles: list[str]) -> None:
    assert [title for _, title in said(saloon(*names), "woofer-alone")] == titles
    moved = [Edit(path="parts/driver/at_ids", value=["spk-rl", "spk-rr"])]
    behind = said(apply_edits(saloon(*names), moved), "woofer-alone")
    assert bool(behind) == (WOOFER in names)  # what plays in front does not play the treble of the rear


@pytest.mark.parametrize("there", ["", "twelve"])
def test_two_parts_share_the_12_v_side_there_is(there: str) -> None:
    """A feed behind the converter that is on file serves, whatever it is called; one press makes one, not two."""
    lorry = demo_design(next(n for n, job in enumerate(demo_jobs()) if job.title == "Sound for a lorry cab"))
    feed = {
        "id": "twelve", "name": "Twelve volts", "position": {"x_m": 1.0, "y_m": 0.0}, "role": "constant feed",
        "behind_id": "dcdc", "limit_a": {"value": 20.0, "basis": "measured"},
    }  # fmt: skip
    hung = [catalogue_part("Sprig LC2 active", name, 1.0, 0.1) for name in ("one", "two")]
    hung.append(measured("vehicle/feeds/radio-constant/reads_v", 27.0))
    hung += [
        Edit(
            op="add",
            path="links",
            value={"id": f"f-{name}", "kind": "feed", "from_id": "radio-constant", "to_id": name},
        )
        for name in ("one", "two")
    ]
    design = apply_edits(lorry, [*hung, *([Edit(op="add", path="vehicle/feeds", value=feed)] if there else [])])
    found = next(f for f in evaluate(design).findings if f.remedy and f.remedy.label.startswith("Feed it from"))
    assert found.remedy is not None
    after = apply_edits(design, edits_of(design, found.remedy))
    behind = [f.id for f in after.vehicle.feeds if f.behind_id == "dcdc"]
    assert len(behind) == 1
    assert behind == ([there] if there else ["dcdc-out"])
    assert {link.from_id for link in after.links_of(FeedLink) if link.to_id in ("one", "two")} == set(behind)


def test_equal_drivers_of_one_box_are_asked_about_once() -> None:
    """Two of a model go into one opening or none; one whose papers say more is another matter."""
    two = demo_design(next(n for n, job in enumerate(demo_jobs()) if job.title == "Voices from the windscreen"))
    first, second = two.parts_of(Subwoofer)
    assert first.name == second.name

    def asked(design: Design) -> list[str]:
        return [f.about for f in evaluate(design).findings if f.rule == "box-unheld"]

    assert asked(two) == [first.id]
    known = [Edit(path=f"parts/{second.id}/{field}", value=200.0) for field in ("cut_out_mm", "mounting_depth_mm")]
    unknown = [Edit(path=f"parts/{first.id}/{field}", value=None) for field in ("cut_out_mm", "mounting_depth_mm")]
    assert asked(apply_edits(two, known + unknown)) == [first.id, second.id]
