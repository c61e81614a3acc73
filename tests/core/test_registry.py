"""The registry of collections and references: declared once, and everything derived from it holds on every demo car."""

import json
import re
from collections.abc import Iterator
from importlib import import_module
from pathlib import Path
from typing import Any

import pytest
from pydantic import BaseModel

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits, is_list
from ohmack.core.document.paths import called_now, get
from ohmack.core.document.registry import Collection, Each, reference_of, scan, walk
from ohmack.demo.jobs import demo_design, demo_jobs
from ohmack.formats.design_file import read_design, write_design

CARS = range(len(demo_jobs()))
OLD = sorted((Path(__file__).parents[1] / "references/format-1").glob("*.json"))


def models() -> Iterator[type[BaseModel]]:
    """Every document model a design is made of, found by the modules and not by the registry."""
    for name in (
        "cabin",
        "design",
        "drop_readings",
        "factory",
        "functions",
        "harness",
        "links",
        "parts",
        "responses",
        "vehicle",
    ):
        module = import_module(f"ohmack.core.document.{name}")
        yield from (c for c in vars(module).values() if isinstance(c, type) and issubclass(c, BaseModel))


def test_whatever_names_something_is_declared() -> None:
    declared = {r.field for r in scan(Design).references}
    apart = {"catalogue_id", "cavity_id"}  # a row of the shop's; a cavity of the hunt's own connector
    for model in set(models()):
        for field in model.model_fields:
            if re.search(r"_ids?$", field) and field not in apart:
                assert field in declared, f"{model.__name__}.{field}"
                assert reference_of(model, field) is not None, f"{model.__name__}.{field}"
    assert is_list("vehicle/modules/amp/channels")
    assert not is_list("vehicle/supply/post_running_v")


def names_in(tree: Any) -> Iterator[str]:
    """Every string of a plain tree besides the ids things have themselves."""
    if isinstance(tree, dict):
        for key, value in tree.items():
            if key.endswith(("_id", "_ids", "shown_by")):
                yield from [value] if isinstance(value, str) else value or []
            else:
                yield from names_in(value)
    elif isinstance(tree, list):
        for item in tree:
            yield from names_in(item)


@pytest.mark.parametrize("number", CARS)
def test_a_thing_that_is_taken_out_is_named_nowhere(number: int) -> None:
    """Brute force: the plain tree is searched for the id, whatever the registry says."""
    design = demo_design(number)
    tried = 0
    for collection in scan(Design).collections:
        for found in walk(design, collection.steps):
            for item in found.holder[:2]:
                path = f"{'/'.join(found.path)}/{item.id}"
                if path.startswith("vehicle/supply/batteries") and len(found.holder) == 1:
                    continue  # a car keeps its last battery
                smaller = apply_edits(design, [Edit(op="remove", path=path)])
                if collection.many.shared:
                    assert item.id not in set(names_in(smaller.model_dump(mode="json"))), path
                    assert item.id not in {i.id for i in smaller.interventions}
                tried += 1
    assert tried > 8


def test_a_chain_of_things_goes_together(estate: Design) -> None:
    """The radio's pair goes, so the tap on it goes; an alteration about the tap outlives it."""
    tap = next(k for k in estate.links if k.kind == "tap")
    about = {"id": "old-cut", "name": "Cut lead", "position": {"x_m": 1, "y_m": 0}, "about_id": tap.id}
    marked = apply_edits(estate, [Edit(op="add", path="vehicle/alterations", value=about)])
    gone = apply_edits(marked, [Edit(op="remove", path=f"vehicle/radio/channels/{tap.from_ids[0]}")])
    assert tap.id not in {k.id for k in gone.links}
    assert get(gone, "vehicle/alterations/old-cut").about_id is None


# What the first version had no place for, with what stands there in a design of then.
LATER_FIELDS = {
    "in_car": False, "old_out": False, "pieces": None, "coming_out": [],
    "battery_id": None, "listens_h": None, "clip_step": "", "tweeter": False, "key_on_a": None,
    "leads": 1, "terminal_count": 1, "fuse_each": False, "by_sides": False, "gain_knobs": "one a pair of channels",
    "cup_height_mm": None, "on_surface": False, "own_box": False, "taken_as_usual": [],
    "insulation_c": 105.0,
    "beside": 0, "turned_down_db": 0.0,
    "alternator_idle_a": None,
    "reads_v": None, "relay_on_id": None, "behind_id": None, "coil_v": 12.0,
    "standby_a": None,
    "tax_percent": 20.0,
    "deposit_percent": 0.0,
    "quote_days": 30,
    "bays": 2, "quote_round_to": "0.01", "cost_price": None, "opens_h": 8.0, "closes_h": 17.0, "saturday": "closed",
    "body_return_ohm": None, "line_pairs": None, "line_v": None, "remote_out_limit_a": (0.3, None), "pair": 1,
    "channels": [], "coils": [], "damping_factor": None, "filter_slope_db": None,
    "gain_school": "meter: to a target voltage",
    "filter_family": "Butterworth", "delay_ms": 0.0, "bands": [], "car_draw_a": None, "mass_kg": None,
    "openings": 1, "by_hand": False, "active": True, "bass_knob": False, "further_count": 0, "further_ratings": [],
    "further_lowest_ohm": None, "further_bridged_ratings": [], "further_lowest_bridged_ohm": None, "processor": False,
    "at_ids": [], "wiring": "", "place": "plug of the radio or amplifier",
    "mounting_depth_mm": None, "cut_out_mm": None, "depth_mm": None,
    "high_pass_hz": None, "low_pass_hz": None, "high_pass_low_hz": None, "high_pass_high_hz": None,
    "low_pass_low_hz": None, "low_pass_high_hz": None, "further_sensitivity_low_v": None,
    "further_sensitivity_high_v": None, "balanced": None, "spare_input": None, "picture": None,
    **dict.fromkeys(("camera_input", "hands_free", "wheel_input", "digital_tuner"), "its papers do not say"),
    "input_limit_v": None,
    "usual_step": None, "input_ohm": None, "output_ohm": None, "line_output_ohm": None, "common_mode_db": None,
    "principle": "electronics", "low_hz": None, "restores_bass": False, "sense_v": None, "gain_kept_db": None,
    "sensitivity_kept_v": None, "distortion_percent": None,
    "input_ids": [], "level_db": 0.0, "player_under_db": None, "drop_readings": [],
    "crossover_school": "power handling: from about 80 Hz",
    "responses": [], "starts_without": None,
    "ring_master": None, "cause": None,
    "fs_hz": None, "qms": None, "qes": None, "qts": None, "vas_l": None, "sd_cm2": None, "xmax_mm": None,
    "le_mh": None, "mms_g": None, "displaced_l": None, "front_volume_l": None, "chambers": "one chamber",
    "stuffing": "none", "reads_ohm": None, "shared_return": None,
    "sounds_right": None, "woken_by": None, "screen": False, "supply_current_a": 5.0, "fuse_a": 10.0,
}  # fmt: skip

LATER_PIECES = {
    "use",
    "work",
    "proof",
    "handover",
    "vents",
    "radiators",
    "boards",
}  # of a box, empty until somebody builds it


def _as_then(before: Any, after: Any) -> Any:
    """A tree without the fields there were none of, once they hold what an old design must hold there."""
    if isinstance(after, list) and isinstance(before, list):
        return [_as_then(was, now) for was, now in zip(before, after, strict=True)]
    if not isinstance(after, dict) or not isinstance(before, dict):
        return after
    for name in after.keys() - before.keys():
        if name in LATER_PIECES:
            continue
        held = after[name]["value"] if isinstance(after[name], dict) else after[name]
        wanted = LATER_FIELDS[name]
        assert held in wanted if isinstance(wanted, tuple) else held == wanted, name
    return {name: _as_then(before[name], after[name]) for name in after if name in before}


@pytest.mark.parametrize("file", OLD, ids=lambda f: f.stem)
def test_a_file_of_the_first_format_is_read_and_written_anew(file: Path) -> None:
    """Files the first version wrote: nothing but the names of a link's ends has changed."""
    before = json.loads(file.read_text())
    design = read_design(file.read_bytes())
    after = json.loads(write_design(design))
    assert (before.pop("version"), after.pop("version")) == (1, 2)
    for was, now in zip(before.pop("links"), after.pop("links"), strict=True):
        ends = {
            k: v
            for k, v in was.items()
            if k.endswith(("_id", "_ids")) and not (k == "ground_point_id" and was["kind"] == "feed")
        }
        new = {k: v for k, v in now.items() if k in ("from_id", "from_ids", "to_id")}
        assert sorted(map(str, ends.values())) == sorted(map(str, new.values()))
        rest = {k: v for k, v in now.items() if k not in new and k not in ("from_port", "to_port")}
        assert {k: v for k, v in was.items() if k not in ends} == _as_then(was, rest)
        for name in ends:
            assert get(design, called_now(design, f"links/{was['id']}/{name}")) in (
                *new.values(),
                tuple(now.get("from_ids", ())),
            )
    assert before == _as_then(before, after)
    assert read_design(write_design(design)) == design


def test_an_edit_of_an_open_page_uses_the_names_of_before(estate: Design) -> None:
    moved = apply_edits(
        estate, [Edit(path="links/ground-amp/ground_point_id", value=estate.vehicle.ground_points[-1].id)]
    )
    assert get(moved, "links/ground-amp/to_id") == estate.vehicle.ground_points[-1].id


def test_steps_meet_the_right_lists() -> None:
    found = {"/".join("*" if isinstance(s, Each) else s for s in c.steps): c for c in scan(Design).collections}
    assert isinstance(found["vehicle/radio/channels"], Collection)
    assert len(found) == 46
    assert found["vehicle/modules/*/channels"].many.shared
    assert not found["vehicle/connectors/*/cavities"].many.shared
