"""The report: plain JSON, and every path it names leads somewhere."""

from __future__ import annotations

import json

import pytest

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.paths import get
from ohmack.core.errors import UnknownName
from ohmack.core.evaluation.door import evaluate
from ohmack.demo.jobs import demo_design
from ohmack.formats.report import report
from ohmack.web.page import paths_of
from ohmack.web.sheet import sheets

BLIND = (
    "vehicle/supply/post_running_v",
    "vehicle/radio/source_voltage_v",
    "vehicle/supply/body_return_ohm",
    "vehicle/ground_points/ground-rear/kind",
    "vehicle/feeds/radio-switched/limit_a",
    "vehicle/feeds/radio-switched/live",
)


def blinded(design: Design) -> Design:
    """The same car with much of it not known."""
    edits = [Edit(path=path, value={"value": None}) for path in BLIND]
    return apply_edits(
        design,
        [
            *edits,
            Edit(path="links/power-amp/fuse", value=None),
            Edit(path="links/remote-amp/from_id", value="radio-switched"),
        ],
    )


CASES = [demo_design(0), demo_design(1), demo_design(2), blinded(demo_design(0))]


@pytest.mark.parametrize("number", range(len(CASES)))
def test_report_is_plain_json_and_complete(number: int) -> None:
    evaluation = evaluate(CASES[number], sweep_facts=True)
    tree = json.loads(json.dumps(report(evaluation), allow_nan=False))
    assert len(tree["figures"]) == len(evaluation.figures)
    assert len(tree["findings"]) == len(evaluation.findings)
    assert tree["verdict"]["headline"]
    for figure in tree["figures"]:
        assert set(figure) >= {
            "id",
            "name",
            "value",
            "unit",
            "formula",
            "inputs",
            "basis",
            "grade",
            "missing",
            "source",
        }


@pytest.mark.parametrize("number", range(len(CASES)))
def test_every_path_leads_somewhere(number: int) -> None:
    design = CASES[number]
    evaluation = evaluate(design, sweep_facts=True)

    def leads(path: str) -> bool:
        if path.startswith("figure:"):
            return path.removeprefix("figure:") in evaluation.figures
        try:
            get(design, path)
        except UnknownName:
            return False
        return True

    for figure in evaluation.figures.values():
        for term in figure.inputs:
            assert not term.path or leads(term.path), (figure.id, term.path)
        for gap in figure.missing:
            assert leads(gap.path), gap
    for finding in evaluation.findings:
        if finding.remedy and finding.remedy.path:
            assert leads(finding.remedy.path), finding.title
        if finding.remedy and finding.remedy.sheet:
            assert sheets()[finding.remedy.sheet].built, finding.title
        if finding.remedy and finding.remedy.connect:
            assert design.part(finding.remedy.connect) is not None, finding.title
        if finding.remedy and finding.remedy.edits:
            apply_edits(design, finding.remedy.edits)
        assert (
            finding.about in paths_of(design)
            or leads(finding.about)
            or finding.about in ("caution", "cost")
            or finding.about in evaluation.figures
        ), finding.about
    for measure in evaluation.measure_first or ():
        assert leads(measure.path)
