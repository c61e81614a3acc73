"""Now and later: the smaller design is the one that removing the later parts by hand gives."""

from __future__ import annotations

from dataclasses import replace

import pytest

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.phases import now_only
from ohmack.core.evaluation.door import evaluate
from ohmack.core.figures.finding import Severity
from ohmack.core.planning.wiring import connect


@pytest.mark.parametrize("later", [["amp"], ["sub"], ["converter"], ["holder"], ["amp", "sub"], ["adapter"]])
def test_the_smaller_design_is_what_removing_gives(estate: Design, later: list[str]) -> None:
    planned = apply_edits(estate, [Edit(path=f"parts/{p}/phase", value="later") for p in later])
    assert now_only(planned) == apply_edits(planned, [Edit(op="remove", path=f"parts/{p}") for p in later])
    assert now_only(estate) is None
    evaluation = evaluate(planned, sweep_facts=True)
    assert evaluation.results.later is not None
    fed = {s.part.id for s in evaluation.results.supplies}
    assert fed == (set() if {"amp", "sub"} & set(later) else {"amp"})
    # nothing of a later part stops today's job or stands on today's sheet
    alone = evaluate(now_only(planned), sweep_facts=True)  # type: ignore[arg-type]
    said = [replace(f, remedy=None) for f in evaluation.findings if f.rule != "phase-rework"]
    assert said == [replace(f, remedy=None) for f in alone.findings]  # what mends it may be to fit that part now
    assert (evaluation.verdict, evaluation.results.wire_rows, evaluation.results.order) == (
        alone.verdict, alone.results.wire_rows, alone.results.order,
    )  # fmt: skip
    assert evaluation.later_ids >= set(later)
    assert {p.id for p in evaluation.whole.results.design.parts} == {p.id for p in planned.parts}


def test_a_thicker_wire_for_later_is_priced_today(estate: Design) -> None:
    """A second amplifier on the same body return asks for more today than the first one alone; the note says what it
    costs.
    """
    tree = estate.part("amp").model_dump(mode="json")  # type: ignore[union-attr]
    second = [
        Edit(op="add", path="parts", value=tree | {"id": "amp-2", "name": "Later amplifier", "phase": "later"}),
        Edit(op="add", path="links", value={"id": "power-2", "kind": "power", "from_id": "battery", "to_id": "amp-2"}),
        Edit(
            op="add",
            path="links",
            value={"id": "ground-2", "kind": "ground", "from_id": "amp-2", "to_id": "ground-rear"},
        ),
        Edit(
            op="add", path="links", value={"id": "speaker-2", "kind": "speaker", "from_id": "amp-2", "to_id": "sub-2"}
        ),
    ]
    driver = estate.part("sub").model_dump(mode="json")  # type: ignore[union-attr]
    second.insert(
        1, Edit(op="add", path="parts", value=driver | {"id": "sub-2", "name": "Later driver", "phase": "later"})
    )
    evaluation = evaluate(apply_edits(estate, second))
    said = [item.title for item in evaluation.results.prepare]
    laid = next(title for title in said if title.startswith("Lay "))
    later = evaluation.results.later
    assert later is not None
    run = later.runs["power-2"].length.value
    assert run is not None
    assert f"{run:.2f} m" in laid
    assert "for Later amplifier" in laid
    assert any("2 power fuses in the end" in title for title in said)
    roomy = evaluate(apply_edits(estate, [*second, Edit(path="parts/holder/circuits", value=2)]))
    assert not [item for item in roomy.results.prepare if "power fuses in the end" in item.title]
    sizes = {s.link.id: s.chosen.wire.area_mm2 for s in later.supplies if s.chosen}
    today = next(s.chosen.wire.area_mm2 for s in evaluation.results.supplies if s.chosen)
    assert any("would do for now" in title for title in said) == (sizes["power-amp"] > today)
    loud = [f for f in evaluation.findings if f.rule == "phase-rework" and f.severity is not Severity.NOTE]
    assert not loud, "what is to be prepared never stops today's job"


def test_todays_driver_must_go_with_the_later_amplifier(estate: Design) -> None:
    """A dual 4 ohm driver is 2 or 8 ohm: an amplifier that permits 4 gets 8 from it; one that permits none of it is
    said.
    """
    planned = apply_edits(
        estate, [Edit(path="parts/amp/phase", value="later"), Edit(path="parts/amp/lowest_load_ohm", value=4.0)]
    )
    said = next(item for item in evaluate(planned).results.prepare if "on the later" in item.title)
    assert "8 Ω" in said.title
    assert "goes with it" in said.text
    worse = apply_edits(planned, [Edit(path="parts/amp/lowest_load_ohm", value=16.0)])
    said = next(item for item in evaluate(worse).results.prepare if "on the later" in item.title)
    assert said.rework
    assert "choose a driver that serves both" in said.text


@pytest.mark.parametrize(("pairs", "converter", "said"), [(2, "now", True), (0, "now", False), (2, "later", False)])
def test_a_converter_for_the_time_until_a_radio_with_lines_of_its_own(
    estate: Design, pairs: int, converter: str, said: bool
) -> None:
    """A later radio with line pairs makes today's converter a loss; one without, or a later converter, does not."""
    radio = {"id": "later-radio", "kind": "radio", "name": "Later radio", "depth_mm": 100.0, "line_pairs": pairs,
             "line_v": 4.0 if pairs else None, "phase": "later"}  # fmt: skip
    planned = apply_edits(estate, [Edit(op="add", path="parts", value=radio),
                                   Edit(path="parts/converter/phase", value=converter)])  # fmt: skip
    titles = [item.title for item in evaluate(planned).results.prepare]
    assert ("Sprig LC2 active is bought for the time until Later radio" in titles) is said


def test_a_wire_that_comes_later_is_not_in_the_car_today(estate: Design) -> None:
    later = apply_edits(estate, [Edit(path="links/remote-amp/phase", value="later")])
    today = now_only(later)
    assert today == apply_edits(later, [Edit(op="remove", path="links/remote-amp")])
    assert evaluate(later).later_ids == {"remote-amp"}
    assert "Tessel M500 has no switch-on" in {f.title for f in evaluate(later).findings}


def test_what_an_amplifier_of_later_drives_is_not_offered_to_one_of_today(estate: Design) -> None:
    """A press that wires it up would have nothing to lay: the stop looks for something to drive instead."""
    tree = estate.part("amp").model_dump(mode="json") | {"id": "amp-2", "name": "Second"}  # type: ignore[union-attr]
    edits = [Edit(path="parts/amp/phase", value="later"), Edit(op="add", path="parts", value=tree)]
    planned = apply_edits(estate, edits)
    planned = apply_edits(planned, connect(planned, "amp-2"))  # its run, its ground and its line
    (said,) = [f for f in evaluate(planned).findings if f.rule == "link-missing" and "speaker wire" in f.title]
    assert said.about == "amp-2"
    assert said.remedy is not None
    assert not said.remedy.connect
    waiting = apply_edits(planned, [Edit(op="remove", path="links/speaker-sub")])
    (said,) = [f for f in evaluate(waiting).findings if f.rule == "link-missing" and "speaker wire" in f.title]
    assert said.remedy is not None
    assert said.remedy.connect == "amp-2"
