"""The document: edits, references, immutability, round trips, bad files."""

from __future__ import annotations

import json
from typing import Any

import jsonschema
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import BaseModel

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits, read_tree
from ohmack.core.document.paths import design_facts, get, replace, unit_field
from ohmack.core.errors import BadDocument, UnknownName
from ohmack.core.evaluation.door import evaluate
from ohmack.core.planning.moving import insert_way_point, move_to, nudge
from ohmack.demo.jobs import demo_design
from ohmack.formats.design_file import LARGEST_BYTES, json_schema, read_design, write_design


@pytest.mark.parametrize("number", [0, 1, 2])
def test_round_trip_and_published_schema(number: int) -> None:
    design = demo_design(number)
    data = write_design(design)
    assert read_design(data) == design
    jsonschema.Draft202012Validator(json_schema()).validate(json.loads(data))


def test_edits_leave_the_old_revision_alone(estate: Design) -> None:
    before = estate.model_dump_json()
    new = apply_edits(estate, [Edit(path="parts/amp/price", value=1.0)])
    assert estate.model_dump_json() == before
    assert get(new, "parts/amp/price") == 1.0
    with pytest.raises(Exception, match="frozen"):
        new.title = "x"  # type: ignore[misc]


def test_removing_a_part_takes_its_links_and_unsets_its_holder(estate: Design) -> None:
    without = apply_edits(estate, [Edit(op="remove", path="parts/amp")])
    assert {k.kind for k in without.links} == {"tap", "feed"}
    bare = apply_edits(estate, [Edit(op="remove", path="parts/holder")])
    assert get(bare, "links/power-amp/fuse/holder_id") is None
    no_bolt = apply_edits(estate, [Edit(op="remove", path="vehicle/ground_points/ground-radio")])
    assert get(no_bolt, "links/feed-converter/ground_point_id") is None
    no_channel = apply_edits(estate, [Edit(op="remove", path="vehicle/radio/channels/ch-fl")])
    assert get(no_channel, "vehicle/speakers/spk-fl/channel_id") is None


@pytest.mark.parametrize(
    ("edit", "words"),
    [
        (Edit(path="vehicle/length_m/value", value=-4.0), "more than 0.3"),
        (Edit(path="parts/amp/lowest_load_ohm", value=0), "more than 0"),
        (
            Edit(path="vehicle/supply/body_return_ohm", value={"value": 0.002, "low": 0.003, "high": 0.004}),
            "outside its own range",
        ),
        (Edit(path="vehicle/supply/body_return_ohm", value={"value": 0.002, "low": 0.003}), "both ends"),
        (Edit(path="links/power-amp/to_id", value="nobody"), "not in the design"),
        (Edit(path="links/power-amp/to_id", value="box"), "not in the design"),
        (Edit(op="add", path="parts", value={"id": "amp", "kind": "accessory", "name": "x"}), "share the id"),
        (Edit(path="parts/amp/sensitivity_low_v", value=9.0), "smaller voltage"),
        (Edit(path="intake/budget", value=float("nan")), "finite|number"),
        (Edit(path="title", value="x" * 200), "longer than 120"),
    ],
)
def test_bad_edits_are_refused_with_place_and_reason(edit: Edit, words: str, estate: Design) -> None:
    with pytest.raises(BadDocument, match=words):
        apply_edits(estate, [edit])


@pytest.mark.parametrize(
    "path", ["", "/", "nothing", "parts/none/price", "parts/amp/nope", "format", "vehicle//year", "a/" * 20]
)
def test_paths_to_nowhere(path: str, estate: Design) -> None:
    with pytest.raises((UnknownName, BadDocument)):
        apply_edits(estate, [Edit(path=path, value=1)])


def test_replace_is_a_fast_edit(estate: Design) -> None:
    path = "vehicle/supply/body_return_ohm/value"
    assert replace(estate, path, 0.002) == apply_edits(estate, [Edit(path=path, value=0.002)])
    assert unit_field(path) == "body_return_ohm"
    assert len({p for p, *_ in design_facts(estate)}) == len(list(design_facts(estate)))


def test_moving_things_on_the_plan(estate: Design) -> None:
    moved = apply_edits(estate, move_to("parts/amp", 3.5, -0.2))
    assert get(moved, "parts/amp/position/x_m") == 3.5
    pushed = apply_edits(estate, nudge(estate, "links/power-amp/way_points/1", "up"))
    assert get(pushed, "links/power-amp/way_points/1/y_m") == pytest.approx(
        get(estate, "links/power-amp/way_points/1/y_m") + 0.05
    )
    longer = apply_edits(estate, insert_way_point(estate, "power-amp"))
    assert len(get(longer, "links/power-amp/way_points")) == len(get(estate, "links/power-amp/way_points")) + 1
    with pytest.raises(UnknownName):
        nudge(estate, "parts/amp", "sideways")


def test_bad_files_are_refused_whole() -> None:
    good = json.loads(write_design(demo_design(0)))
    cases = [
        (b"\xff\xfe\x00", "UTF-8"),
        (b"{", "not JSON"),
        (b"[]", "another kind"),
        (b"{}", "another kind"),
        (b"x" * (LARGEST_BYTES + 1), "larger"),
        (b"[" * 100_000, "nested|another|JSON"),
        (json.dumps(good | {"version": 99}).encode(), "newer Ohmack"),
        (json.dumps(good | {"version": "1"}).encode(), "whole number"),
        (json.dumps(good | {"surprise": 1}).encode(), "surprise: is not known"),
        (json.dumps({k: v for k, v in good.items() if k != "vehicle"}).encode(), "vehicle: is missing"),
    ]
    for data, words in cases:
        with pytest.raises(BadDocument, match=words):
            read_design(data)


@given(
    st.recursive(
        st.none() | st.booleans() | st.floats() | st.text(max_size=20),
        lambda c: st.lists(c, max_size=4) | st.dictionaries(st.text(max_size=12), c, max_size=4),
        max_leaves=12,
    )
)
def test_any_value_anywhere_is_taken_or_refused(value: object) -> None:
    estate = demo_design(0)
    for path in ("vehicle/supply", "parts/amp/ratings", "links/power-amp/fuse", "policy"):
        try:
            apply_edits(estate, [Edit(path=path, value=value)])
        except BadDocument as error:
            assert error.places


SETS = [
    ("policy/drop_limit_v", 0.44),
    ("title", "renamed"),
    ("vehicle/supply/post_running_v/value", 14.2),
    ("vehicle/supply/post_running_v", {"value": 14.0, "basis": "measured"}),
    ("links/power-amp/fuse/from_source_m/value", 0.2),
    ("parts/amp/name", "another"),
    ("parts/amp/name", 7),
    ("vehicle/width_m/value", 99),
    ("links/power-amp/to_id", "nowhere"),
    ("intake/wishes", ["clarity"]),
    ("work/booking", {"bay": 1}),
]


@given(number=st.integers(0, 11), chosen=st.lists(st.sampled_from(SETS), min_size=1, max_size=4))
def test_what_no_edit_comes_past_is_shared_and_the_whole_is_as_if_read_anew(
    number: int, chosen: list[tuple[str, object]]
) -> None:
    """Against the plain way: the whole plan as a tree, changed there and read from its beginning."""
    design = demo_design(number)
    tree = design.model_dump(mode="json")

    def holder(path: str) -> tuple[dict[str, object], str]:
        here: Any = tree
        *head, last = path.split("/")
        for step in head:
            here = next(i for i in here if i["id"] == step) if isinstance(here, list) else here[step]
        return here, last

    edits = []
    for path, value in chosen:
        try:
            here, last = holder(path)
        except (StopIteration, TypeError):
            continue  # a car without that part
        here[last] = value
        edits.append(Edit(path=path, value=value))
    try:
        whole = read_tree(tree)
    except BadDocument as error:
        with pytest.raises(BadDocument) as refused:
            apply_edits(design, edits)
        assert refused.value.places
        assert len(edits) > 1 or refused.value.places == error.places  # of several, the first that is wrong says so
        return
    made = apply_edits(design, edits)
    assert made == whole
    touched = {edit.path.split("/")[0] for edit in edits}
    for name in Design.model_fields:
        was, now = getattr(design, name), getattr(made, name)
        if isinstance(was, tuple):
            ids = {edit.path.split("/")[1] for edit in edits if edit.path.startswith(f"{name}/")}
            assert all(a is b for a, b in zip(was, now, strict=True) if a.id not in ids)
        elif name not in touched and isinstance(was, BaseModel):
            assert was is now


def test_removing_a_module_takes_what_hangs_on_it_along() -> None:
    """Its links, its channels, the taps on them; speakers and findings only forget it."""
    pickup = demo_design(4)
    assert any(link.kind == "tap" and link.from_ids[0].startswith("amp-ch") for link in pickup.links)
    bare = apply_edits(pickup, [Edit(op="remove", path="vehicle/modules/factory-amp")])
    assert not any(link.kind == "tap" for link in bare.links)
    assert not any("factory-amp" in (k.from_id, k.to_id) for k in bare.vehicle.factory_links)
    assert {s.channel_id for s in bare.vehicle.speakers} == {None}
    assert len(bare.links) == len(pickup.links) - 1


@pytest.mark.parametrize(
    ("edits", "words"),
    [
        ([Edit(path="vehicle/speakers/spk-fl/paired_with_id", value="spk-fl")], "paired with itself"),
        ([Edit(path="vehicle/speakers/spk-fl/channel_id", value="nowhere")], "names the channel “nowhere”"),
        (
            [Edit(op="add", path="vehicle/factory_links", value={"id": "x", "from_id": "radio", "to_id": "ghost"})],
            "“ghost”",
        ),
        (
            [
                Edit(
                    op="add",
                    path="vehicle/modules",
                    value={"id": "amp", "name": "A", "position": {"x_m": 1, "y_m": 0}},
                )
            ],
            "share the id amp",
        ),
        ([Edit(path="links/power-amp/from_port", value="stud")], "battery, which has negative, positive"),
        ([Edit(path="links/power-amp/from_port", value="negative")], "joins positive, not “negative” of battery"),
        ([Edit(path="links/line-amp/to_port", value="speaker-level")], "joins line-in, not “speaker-level” of amp"),
        ([Edit(path="links/speaker-sub/to_port", value="power")], "sub, which has coils"),
        ([Edit(op="remove", path="vehicle/supply/batteries/battery")], "at least 1"),
        ([Edit(op="add", path="vehicle/variants", value={"id": "k", "name": "a"})] * 2, "two variants share the id k"),
    ],
)  # fmt: skip
def test_a_survey_that_names_what_is_not_there_is_refused(edits: list[Edit], words: str, estate: Design) -> None:
    with pytest.raises(BadDocument) as caught:
        apply_edits(estate, edits)
    assert words in str(caught.value)


def test_two_hundred_facts_are_no_trouble(estate: Design) -> None:
    """A car full of speakers: every fact is found, evaluated, swept and kept in a file."""
    more = [
        Edit(
            op="add",
            path="vehicle/speakers",
            value={
                "id": f"s-{n}",
                "name": f"Speaker {n}",
                "position": {"x_m": 1.5 + 0.08 * n, "y_m": 0.7},
                "impedance_ohm": {"value": 4.0, "low": 2.0, "high": 8.0},
                "depth_mm": {"value": 60.0, "low": 50.0, "high": 70.0},
            },
        )
        for n in range(24)
    ]
    full = apply_edits(estate, more)
    assert sum(1 for _ in design_facts(full)) > 300
    assert evaluate(full, sweep_facts=True).verdict.state == "ready"
    assert read_tree(json.loads(full.model_dump_json())) == full
    with pytest.raises(BadDocument):
        apply_edits(full, [e.model_copy(update={"value": e.value | {"id": f"t-{e.value['id']}"}}) for e in more])


def test_an_item_is_replaced_under_its_id_and_links_hold(estate: Design) -> None:
    tree = estate.part("amp").model_dump(mode="json") | {"name": "Another"}  # type: ignore[union-attr]
    swapped = apply_edits(estate, [Edit(path="parts/amp", value=tree)])
    assert [p.id for p in swapped.parts] == [p.id for p in estate.parts]
    assert swapped.links == estate.links
    assert swapped.part("amp").name == "Another"  # type: ignore[union-attr]
    for path, value in (
        ("parts/amp", {**tree, "id": "other"}),
        ("parts/ghost", {**tree, "id": "ghost"}),
        ("parts/amp", "x"),
    ):
        with pytest.raises(UnknownName):
            apply_edits(estate, [Edit(path=path, value=value)])
    with pytest.raises(BadDocument):
        apply_edits(estate, [Edit(path="parts/amp", value={"id": "amp", "kind": "amplifier"})])


@pytest.mark.parametrize(
    "category", ["plug-in amplifier", "powered subwoofer", "processor", "wire", "fuse", "distribution block"]
)
def test_accessories_of_before_stay_readable(category: str, estate: Design) -> None:
    """Kinds that have a model of their own now were categories once: such a design opens, and a new one cannot be
    made so.
    """
    tree = estate.model_dump(mode="json")
    tree["parts"].append(
        {"id": "old", "kind": "accessory", "name": "From before", "category": category, "current_a": 9.0}
    )
    design = read_tree(tree)
    part = design.part("old")
    assert part is not None
    assert part.model_dump()["category"] == "other"
    assert part.model_dump()["current_a"] == 9.0
    assert read_tree(design.model_dump(mode="json")) == design
