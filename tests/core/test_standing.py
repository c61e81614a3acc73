"""Where a job stands, along the demo shop's own jobs and step by step through one; and what people wrote in it."""

from __future__ import annotations

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits, read_tree
from ohmack.core.planning.erasing import GONE, Eraser
from ohmack.core.planning.notes import noted_anew, notes
from ohmack.core.planning.standing import Standing, standing
from ohmack.core.planning.starting_points import new_design
from ohmack.demo.jobs import demo_design


def test_a_job_goes_its_way_step_by_step(estate: Design) -> None:
    bare = new_design("t", demo_design(2).vehicle, demo_design(2).intake, estate.policy)
    unread = bare.model_copy(update={"vehicle": type(bare.vehicle).model_validate(bare.vehicle.model_dump())})
    assert standing(unread) in (Standing.ASKED, Standing.SURVEYED)
    read = {"value": 12.6, "basis": "measured", "how": "by meter"}
    assert standing(apply_edits(bare, [Edit(path="vehicle/supply/post_resting_v", value=read)])) is Standing.SURVEYED
    wanted = [Edit(path=f"parts/{p.id}/stands", value="wanted") for p in estate.parts]
    design = apply_edits(estate, wanted)
    assert standing(design) is Standing.PLANNED
    first, *others = (p.id for p in design.parts if not p.by_customer)
    ways = (
        ([Edit(path="work/accepted", value={"by": "x", "lines": []})], Standing.WAITING),
        ([Edit(path=f"parts/{first}/stands", value="ordered")], Standing.WAITING),
        ([Edit(path=f"parts/{p}/stands", value="here") for p in (first, *others)], Standing.PLANNED),
        ([Edit(op="add", path="work/marks", value={"id": "m", "step": "gains", "done": True})], Standing.IN_THE_BAY),
        ([Edit(op="add", path="handover/heard", value={"id": "h", "wish": "wish:bass", "met": "as wished"})],
         Standing.TO_HAND_OVER),
        ([Edit(op="add", path="handover/signatures",
               value={"id": "s", "by": "Jo Ash", "revision": 1, "digest": "0" * 64})], Standing.DONE),
    )  # fmt: skip
    for edits, stands in ways:
        design = apply_edits(design, edits)
        assert standing(design) is stands, edits


def test_notes_are_what_people_wrote_and_nothing_else(estate: Design) -> None:
    written = apply_edits(
        estate,
        [
            Edit(path="intake/wishes_note", value="more bass, please"),
            Edit(path="vehicle/supply/post_resting_v/note", value="read with the boot light on"),
            Edit(path="parts/amp/name", value="No note at all"),
        ],
    )
    found = notes(written)
    assert {"more bass, please", "read with the boot light on"} <= set(found)
    assert "No note at all" not in found
    assert estate.vehicle.make not in found
    assert len(found) == len(set(found))
    assert noted_anew(estate, written)
    assert not noted_anew(written, apply_edits(written, [Edit(path="policy/drop_limit_v", value=0.4)]))
    assert not noted_anew(written, read_tree(written.model_dump(mode="json")))
    without = apply_edits(written, [Edit(path="vehicle/supply/post_resting_v/note", value="")])
    assert noted_anew(written, without)


def test_a_name_goes_from_notes_and_not_from_makes(estate: Design) -> None:
    maker = estate.parts[0].name
    said = f"Mrs. Marren-Ash (01632/960 12) wants it; ask marren. {maker}"
    written = apply_edits(estate, [Edit(path="intake/wishes_note", value=said)])
    tree = Eraser(["Marren Ash"], "0163 2960-12").design(written)
    assert tree["intake"]["wishes_note"] == f"Mrs. {GONE}-{GONE} ({GONE}) wants it; ask {GONE}. {maker}"
    assert tree["vehicle"]["make"] == "Marren" == estate.vehicle.make
    assert Design.model_validate(tree, strict=False).parts == estate.parts
