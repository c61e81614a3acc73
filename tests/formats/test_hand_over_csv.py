"""The lists of a job pack, read back by Python's csv: every row of the results is there, once, with its figures."""

from __future__ import annotations

import csv
import io
from collections.abc import Callable

import pytest

from core.test_hand_over import tried
from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.evaluation.door import evaluate
from ohmack.core.evaluation.results import Results
from ohmack.demo.jobs import demo_design, demo_jobs
from ohmack.formats import hand_over_csv as lists
from proving import proved

ALL: tuple[Callable[[Results], bytes], ...] = (
    lists.readings_csv, lists.wires_csv, lists.fuses_csv, lists.joints_csv, lists.settings_csv, lists.soak_csv,
    lists.left_open_csv,
)  # fmt: skip


def rows(data: bytes) -> list[dict[str, str]]:
    return list(csv.DictReader(io.StringIO(data.decode("utf-8-sig"))))


@pytest.fixture(scope="module")
def done() -> Design:
    return proved(demo_design(0))


def results(design: Design) -> Results:
    return evaluate(design).results


@pytest.mark.parametrize("number", range(0, len(demo_jobs()), 4))
def test_every_list_has_a_row_for_every_thing(number: int) -> None:
    found = results(demo_design(number))
    counts = [0, len(found.wire_rows), len(found.fuse_map), len(found.joints.joints), len(found.settings), 0,
              len(found.left_open)]  # fmt: skip
    assert [len(rows(make(found))) for make in ALL] == counts


def test_a_reading_stands_beside_what_was_predicted(done: Design) -> None:
    """A corrected one too: what was read first stays, marked, and says nothing about how the check stands."""
    check = next(j for j in results(done).proof.checks if j.check.id.startswith("level/volts/"))
    again = {"id": "again", "check": check.check.id, "value": 13.61, "when": "2026-11-28T10:00", "who": "Wen"}
    found = results(apply_edits(done, [Edit(op="add", path="proof/readings", value=again)]))
    own = [r for r in rows(lists.readings_csv(found)) if r["check"] == check.check.id]
    assert [r["corrected"] for r in own] == ["yes", ""]
    assert [r["unit"] for r in own] == ["v", "v"]
    assert (own[1]["value"], own[1]["when"], own[1]["who"]) == ("13.61", "2026-11-28T10:00", "Wen")
    judged = found.proof.named(check.check.id)
    assert judged is not None
    assert judged.window is not None
    assert float(own[1]["low"]) == pytest.approx(judged.window.low, rel=1e-5)
    assert float(own[1]["high"]) == pytest.approx(judged.window.high, rel=1e-5)
    assert [r["stands"] for r in own] == ["", judged.state.value]
    drop = next(r for r in rows(lists.readings_csv(found)) if r["check"].startswith("level/drop/"))
    assert float(drop["current_a"]) > 1, "a drop without its current says little"
    said = [r for r in rows(lists.readings_csv(found)) if r["unit"] == ""]
    assert {r["value"] for r in said} <= {"good", "no connection"}


def test_wires_and_fuses_are_those_of_the_plan(done: Design) -> None:
    found = results(done)
    power = next(r for r in rows(lists.wires_csv(found)) if r["purpose"] == "Power")
    supply = found.supplies[0]
    assert power["size"] == supply.figures["wire"].value
    assert float(power["length_m"]) == pytest.approx(found.runs[supply.link.id].length.value, abs=0.005)
    main = rows(lists.fuses_csv(found))[0]
    assert (main["number"], float(main["rating_a"])) == ("1", supply.figures["fuse"].value)
    assert main["stops"] == supply.part.name


def test_a_try_of_the_soak_is_a_row_with_its_limit(done: Design) -> None:
    design = tried(done, "soak/sleep", "2026-11-20T07:00", 21.0)
    design = tried(design, "soak/drive", "2026-11-20T12:00", passed=False)
    found = results(design)
    by_check = {r["check"]: r for r in rows(lists.soak_csv(found))}
    assert by_check["soak/sleep"]["shows"] == "21.0 mA"
    assert by_check["soak/sleep"]["expected"] == found.soak.named("soak/sleep").check.expects  # type: ignore[union-attr]
    assert (by_check["soak/drive"]["shows"], by_check["soak/drive"]["when"]) == ("not good", "2026-11-20T12:00")


def test_a_cell_that_looks_like_a_formula_calculates_nothing(done: Design) -> None:
    """What somebody typed goes into a spreadsheet as text."""
    points = [{"id": f"o{n}", "what": what} for n, what in enumerate(("=1+1+cmd", "@SUM(A1)", "+441234", "felt strip"))]
    design = apply_edits(done, [Edit(op="add", path="handover/open_points", value=p) for p in points])
    found = [r["what"] for r in rows(lists.left_open_csv(results(design))) if r["kind"] == "written down"]
    assert found == ["'=1+1+cmd", "'@SUM(A1)", "'+441234", "felt strip"]


def test_what_is_left_open_comes_gravest_first(done: Design) -> None:
    """A fault, what was written down, accepted, passed over, left out; each with whose word it is."""
    volts = next(j.check.id for j in results(done).proof.checks if j.check.id.startswith("level/volts/"))
    step = results(done).work_plan.steps[3].step
    readings = tuple(r for r in done.proof.readings if r.check not in (volts, "live/lamps"))
    bare = done.model_copy(update={"proof": done.proof.model_copy(update={"readings": readings})})
    design = apply_edits(bare, [
        Edit(op="add", path="proof/faults", value={"id": "f", "kind": "a weak battery", "at": "battery"}),
        Edit(op="add", path="handover/open_points", value={"id": "o", "what": "felt strip", "whose": "the shop"}),
        Edit(op="add", path="proof/deviations", value={"id": "d", "check": "live/lamps", "by": "Odile",
                                                       "reason": "a bulb is on order"}),
        Edit(op="add", path="proof/jumps", value={"id": "j", "gate": 3, "by": "Wen", "reason": "no time",
                                                  "open": [volts]}),
        Edit(op="add", path="work/marks", value={"id": "m", "step": step.id, "left_out": "not this car"}),
    ])  # fmt: skip
    found = rows(lists.left_open_csv(results(design)))
    kinds = list(dict.fromkeys(r["kind"] for r in found))
    order = ["found and not mended", "written down", "accepted by name", "passed over by name", "left out"]
    assert [k for k in kinds if k in order] == order
    by_kind = {r["kind"]: r for r in found}
    assert (by_kind["written down"]["what"], by_kind["written down"]["whose"]) == ("felt strip", "the shop")
    accepted = next(r for r in found if r["kind"] == "accepted by name")
    assert accepted["what"].endswith("not made")
    assert (accepted["whose"], accepted["why"]) == ("Odile", "a bulb is on order")
    over = by_kind["passed over by name"]
    assert "“Levels and sound” with 1 check open" in over["what"]
    assert over["whose"] == "Wen"
    assert (by_kind["left out"]["what"], by_kind["left out"]["why"]) == (step.what, "not this car")
    assert all(r["kind"] in order or r["kind"] in ("planned next", "prepared today", "works no longer") for r in found)
