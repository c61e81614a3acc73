"""Now and later: the smaller design is the one that removing the later parts by hand gives."""

from __future__ import annotations

import pytest

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.evaluate import evaluate
from ohmack.core.phases import now_only


@pytest.mark.parametrize("later", [["amp"], ["sub"], ["converter"], ["holder"], ["amp", "sub"], ["adapter"]])
def test_the_smaller_design_is_what_removing_gives(estate: Design, later: list[str]) -> None:
    planned = apply_edits(estate, [Edit(path=f"parts/{p}/phase", value="later") for p in later])
    assert now_only(planned) == apply_edits(planned, [Edit(op="remove", path=f"parts/{p}") for p in later])
    assert now_only(estate) is None
    evaluation = evaluate(planned, sweep_facts=True)
    assert evaluation.results.now is not None
    fed = {s.amplifier.id for s in evaluation.results.now.supplies}
    assert fed == (set() if {"amp", "sub"} & set(later) else {"amp"})


def test_a_thicker_wire_for_later_is_priced_today(estate: Design) -> None:
    """A second amplifier on the same body return asks for more today than the first one alone; the note says what it costs."""
    tree = estate.part("amp").model_dump(mode="json")  # type: ignore[union-attr]
    second = [
        Edit(op="add", path="parts", value=tree | {"id": "amp-2", "name": "Later amplifier", "phase": "later"}),
        Edit(op="add", path="links", value={"id": "power-2", "kind": "power", "battery_id": "battery", "amplifier_id": "amp-2"}),
        Edit(op="add", path="links", value={"id": "ground-2", "kind": "ground", "amplifier_id": "amp-2", "ground_point_id": "ground-rear"}),
        Edit(op="add", path="links", value={"id": "speaker-2", "kind": "speaker", "amplifier_id": "amp-2", "driver_id": "sub-2"}),
    ]  # fmt: skip
    driver = estate.part("sub").model_dump(mode="json")  # type: ignore[union-attr]
    second.insert(
        1, Edit(op="add", path="parts", value=driver | {"id": "sub-2", "name": "Later driver", "phase": "later"})
    )
    evaluation = evaluate(apply_edits(estate, second))
    said = [f for f in evaluation.findings if f.rule == "phase-rework"]
    assert any("second power run later" in f.title for f in said)
    assert any("2 power fuses in the end" in f.title for f in said)
    roomy = evaluate(apply_edits(estate, [*second, Edit(path="parts/holder/circuits", value=2)]))
    assert not [f for f in roomy.findings if "power fuses in the end" in f.title]
    sizes = {s.link.id: s.chosen.wire.area_mm2 for s in evaluation.results.supplies if s.chosen}
    assert evaluation.results.now is not None
    today = next(s.chosen.wire.area_mm2 for s in evaluation.results.now.supplies if s.chosen)
    thicker = [f for f in said if "today, though" in f.title]
    assert bool(thicker) == (sizes["power-amp"] > today)
