"""The sweep leaves out facts that the evaluation never reads: the list must be the one of an exhaustive sweep."""

from __future__ import annotations

import pytest

from ohmack.core import sensitivity
from ohmack.core.document.paths import design_facts
from ohmack.core.evaluate import _once, evaluate
from ohmack.core.tracing import facts_read
from ohmack.demo.jobs import demo_design, demo_jobs


@pytest.mark.parametrize("number", range(len(demo_jobs())))
def test_leaving_out_unread_facts_changes_nothing(number: int, monkeypatch: pytest.MonkeyPatch) -> None:
    design = demo_design(number)
    quick = evaluate(design, sweep_facts=True).measure_first
    every = {path for path, _, _, _ in design_facts(design)}
    read = facts_read(design, _once)
    assert read < every
    monkeypatch.setattr(sensitivity, "facts_read", lambda *_: every)
    assert evaluate(design, sweep_facts=True).measure_first == quick


def test_tracing_leaves_the_design_alone() -> None:
    design = demo_design(0)
    before = design.model_dump_json()
    facts_read(design, _once)
    assert design.model_dump_json() == before
