"""An evaluation as plain JSON: every figure with its working, every finding, the measure-first list."""

from __future__ import annotations

from dataclasses import asdict, fields
from typing import Any

from pydantic import BaseModel

from ohmack.core.evaluation.answer import Evaluation, Measure
from ohmack.core.figures.figure import Figure


def plain(value: Any) -> Any:
    """Nested models, enums and tuples as plain JSON values."""
    if isinstance(value, BaseModel):
        return value.model_dump(mode="json")
    if isinstance(value, dict):
        return {str(key): plain(item) for key, item in value.items()}
    if isinstance(value, (list, tuple)):
        return [plain(item) for item in value]
    return value


def _figure(figure: Figure) -> dict[str, Any]:
    """A figure with its working, without what made it."""
    shown = (f.name for f in fields(figure) if f.name not in ("made_by", "read_from", "inputs", "missing"))
    made = {name: plain(getattr(figure, name)) for name in shown}
    inputs, missing = [plain(asdict(t)) for t in figure.inputs], [plain(asdict(g)) for g in figure.missing]
    return made | {"inputs": inputs, "missing": missing}


def _measure(measure: Measure) -> dict[str, Any]:
    """A fact to measure, with where the plan flips instead of how that is found."""
    shown = {f.name: plain(getattr(measure, f.name)) for f in fields(measure) if f.name != "flips_at"}
    return shown | {"threshold": measure.threshold}


def report(evaluation: Evaluation) -> dict[str, Any]:
    """Figures, findings, measure-first list and verdict."""
    return {
        "verdict": plain(asdict(evaluation.verdict)),
        "figures": [_figure(figure) for figure in evaluation.figures.values()],
        "findings": [plain(asdict(finding)) for finding in evaluation.findings],
        "measure_first": [_measure(measure) for measure in evaluation.measure_first or ()],
    }
