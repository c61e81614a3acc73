"""Fields from the document's models: every field of every thing shows and reads back what it shows."""

from __future__ import annotations

import re

import pytest

from ohmack.core.document import Design, Fact
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.parts import PART_TYPES
from ohmack.core.document.paths import design_facts, get
from ohmack.core.document.policy import Policy
from ohmack.core.errors import BadDocument, OfTheValue, OutOfRange, UnknownName, require
from ohmack.demo.building import catalogue
from ohmack.demo.jobs import demo_design, demo_jobs
from ohmack.formats.entry import EntryError
from ohmack.store.shop import PART
from ohmack.web.asked import facts_asked
from ohmack.web.fields import Field, editor_of, fact_view, field_of, model_fields
from ohmack.web.routes.edits import _sentence
from ohmack.web.titles import label_of
from ohmack.web.typed import read_field, read_model


def things(design: Design) -> list[str]:
    v = design.vehicle
    return (
        [f"parts/{p.id}" for p in design.parts]
        + [f"links/{k.id}" for k in design.links]
        + ["vehicle", "vehicle/radio", "vehicle/supply", "intake", "policy"]
        + [f"vehicle/feeds/{f.id}" for f in v.feeds]
        + [f"vehicle/speakers/{s.id}" for s in v.speakers]
        + [f"vehicle/ground_points/{g.id}" for g in v.ground_points]
        + [f"vehicle/supply/batteries/{b.id}" for b in v.supply.batteries]
    )


def typed_back(field: Field) -> list[str]:
    return list(field.chosen) if field.kind in ("choice", "flags") else [field.shown]


def same(a: object, b: object) -> bool:
    if isinstance(a, float) and isinstance(b, (float, int)):
        return b == pytest.approx(a, rel=1e-5)
    if isinstance(a, (list, tuple)) and isinstance(b, (list, tuple)):
        return len(a) == len(b) and all(same(x, y) for x, y in zip(a, b, strict=True))
    if isinstance(a, dict) and isinstance(b, dict):
        return a.keys() == b.keys() and all(same(a[k], b[k]) for k in a)
    return a == b


@pytest.mark.parametrize("number", [0, 1, 2])
@pytest.mark.parametrize("length_unit", ["m", "ft"])
def test_what_is_shown_reads_back_as_it_was(number: int, length_unit: str) -> None:
    """Opening a field and leaving it must never change the design, in either unit."""
    design = apply_edits(demo_design(number), [Edit(path="policy/length_unit", value=length_unit)])
    dumped = design.model_dump(mode="json")
    seen = 0
    for path in things(design):
        _, fields, facts = editor_of(design, path)
        for field in [*fields, *(f.field for f in facts)]:
            texts = typed_back(field)
            if not any(texts) and get(design, field.path) is None:
                continue
            value = read_field(design, field.path, texts)
            here = dumped
            for step in field.path.split("/"):
                here = next(i for i in here if i.get("id") == step) if isinstance(here, list) else here[step]
            if length_unit == "ft" and field.unit == "ft":
                assert value == pytest.approx(here, abs=0.0128), field.path  # shown to the inch
            else:
                assert same(here, value), (field.path, here, value)
            seen += 1
    assert seen > 40


def test_every_fact_has_a_view_with_its_guide() -> None:
    for number in range(len(demo_jobs())):
        design = demo_design(number)
        for path, fact, _, _ in design_facts(design):
            view = fact_view(design, path)
            assert view.guide
            assert view.mark == (fact.basis.value if fact.value is not None else "missing")
            assert isinstance(get(design, path), Fact)
            assert label_of(design, path) == label_of(design, f"{path}/value")


@pytest.mark.parametrize("tree", catalogue(), ids=lambda t: t["name"])
def test_catalogue_parts_can_be_typed_in_as_they_are_shown(tree: dict[str, object]) -> None:
    part = PART.validate_python(tree | {"id": "x"})
    model = PART_TYPES[part.kind]
    form = {f.path: typed_back(f) for f in model_fields(model, part)}
    values, problems = read_model(model, form)
    assert not problems
    again = PART.validate_python(values | {"id": "x", "kind": part.kind})
    assert same(again.model_dump(), part.model_dump())


def test_policy_reads_back() -> None:
    policy = Policy(drop_limit_v=0.4, tone_dbfs=-5, ground_school="battery negative")
    values, problems = read_model(Policy, {f.path: typed_back(f) for f in model_fields(Policy, policy)})
    assert not problems
    assert Policy.model_validate(values) == policy


@pytest.mark.parametrize(
    ("path", "texts", "words"),
    [
        ("parts/amp/ratings", ["loud"], "write load and power"),
        ("parts/amp/ratings", ["2 V: 500 W"], "not a resistance"),
        ("parts/sub/coils", ["four"], "cannot be read"), ("parts/amp/fuses_a", ["30 A; x"], "cannot be read"),
        ("vehicle/year", ["1998.5"], "whole number"), ("parts/amp/lowest_load_ohm", [""], "cannot be empty"),
        ("vehicle/feeds/radio-constant/live/value", ["sometimes"], "is no key state"),
        ("links/power-amp/wire/size", ["thick"], "no wire size"),
    ],
)  # fmt: skip
def test_unreadable_fields_say_what_to_write(path: str, texts: list[str], words: str, estate: Design) -> None:
    with pytest.raises(EntryError, match=words):
        read_field(estate, path, texts)


def test_nothing_to_edit_is_said(estate: Design) -> None:
    for path in ("parts/none", "parts", "vehicle/make", "parts/amp/position"):
        with pytest.raises(UnknownName):
            editor_of(estate, path)
    with pytest.raises(UnknownName):
        fact_view(estate, "parts/amp")
    with pytest.raises(UnknownName):
        field_of(estate, "vehicle/supply")


def test_no_path_and_no_id_is_a_title() -> None:
    """Every thing of every demo job has a name before people, and an error names no field."""
    for number in range(12):
        design = demo_design(number)
        for path in [f"links/{k.id}" for k in design.links] + [f"parts/{p.id}" for p in design.parts]:
            title = label_of(design, path)
            assert not re.search(r"[a-z]/|_|-[a-z]+-", title), (path, title)
            assert title[0].isupper(), title
    assert label_of(design, "parts/ghost") == "Something that is no longer here"
    for name in ("load_ohm", "source_v", "overlap_db", "idle_current_a", "slack_fraction"):
        with pytest.raises(OutOfRange) as error:
            require(name, -1.0, "x")
        assert "_" not in str(error.value)


def test_a_refusal_says_it_of_what_was_typed_and_names_anything_else() -> None:
    """What a model says itself is a sentence as it stands, wherever it is."""
    typed = "parts/amp/idle_current_a"
    reasons = (("parts/0/idle_current_a", OfTheValue("must be 0 or more")),
               ("parts/0/supply_current_a", OfTheValue("must be more than 0")),
               ("design", "two things share the id amp"))  # fmt: skip
    words = "It must be 0 or more. Supply current must be more than 0. Two things share the id amp."
    assert _sentence(BadDocument(reasons), typed) == words


def test_no_factory_fuse_is_asked_of_what_a_converter_gives() -> None:
    """Behind a converter lie its own limit and leads; the fuse and the wire of the car feed only the car's own."""
    own = demo_design(0).vehicle.constant_feed
    assert own is not None
    given = own.model_copy(update={"id": "dcdc-out", "behind_id": "dcdc"})
    assert set(facts_asked(own)) - set(facts_asked(given)) == {"fuse_a", "wire_size", "wire_length_m"}


def test_what_is_not_known_beside_it_is_asked_for_in_one_go() -> None:
    radio = {f"vehicle/radio/{name}": None for name in ("opening_width_mm", "opening_height_mm", "opening_depth_mm")}
    bare = apply_edits(demo_design(0), [Edit(path=path, value={"value": None}) for path in radio])
    assert [f.path for f in editor_of(bare, "vehicle/radio/opening_height_mm")[2]] == [
        "vehicle/radio/opening_height_mm", "vehicle/radio/opening_width_mm", "vehicle/radio/opening_depth_mm",
    ]  # fmt: skip
    assert len(editor_of(bare, "vehicle/radio/clip_step")[2]) == 1
    space = {"id": "seat", "name": "Under the seat", "position": {"x_m": 1.9, "y_m": 0.4}, "height_m": {"value": 0.2}}
    design = apply_edits(demo_design(0), [Edit(op="add", path="vehicle/spaces", value=space)])
    title, _, facts = editor_of(design, "vehicle/spaces/seat/width_m")
    assert title == "Under the seat"
    assert [f.path.rpartition("/")[2] for f in facts] == [
        "width_m", "length_m", "opening_width_m", "opening_height_m",
    ]  # fmt: skip
    read = apply_edits(design, [Edit(path=f.path, value={"value": 0.5, "basis": "measured"}) for f in facts])
    assert [len(part) for part in editor_of(read, "vehicle/spaces/seat/width_m")[1:]] == [0, 1]
