"""Answers kept as text in `references/answers`, and compared line by line; `OHMACK_RENEW=yes` writes them anew."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator
from hashlib import sha1
from pathlib import Path

from ohmack.core.errors import OhmackError
from ohmack.core.evaluation.answer import Evaluation
from telling import told

ANSWERS = Path(__file__).parent / "references" / "answers"
RENEW = os.environ.get("OHMACK_RENEW") == "yes"


def plain(evaluation: Evaluation) -> Iterator[str]:
    """The verdict, the findings, what to measure first, and every figure: a line each."""
    yield f"verdict: {evaluation.verdict.state}: {evaluation.verdict.headline} {evaluation.verdict.detail}"
    for found in evaluation.findings:
        yield f"{found.severity.value} {found.rule} {found.about}: {found.title} | {found.text}"
    for measure in evaluation.measure_first or ():
        flips = " / ".join((*measure.stops, *measure.watches, *measure.parts, *measure.plans, measure.wish))
        yield f"measure {measure.path} {measure.threshold}: {flips}"
    for figure in evaluation.figures.values():
        why = figure.refused or " ".join(gap.path for gap in figure.missing)
        yield f"figure {figure.id}: {told(figure.value)} {figure.unit} {figure.basis or ''} {why}".rstrip()


def or_why(make: Callable[..., object], *given: object) -> object:
    """What is made of something, or why nothing is."""
    try:
        return make(*given)
    except OhmackError as error:
        return error


def short(said: str) -> str:
    return sha1(said.encode()).hexdigest()[:10]


def compared(name: str, now: list[str]) -> bool:
    """Whether the lines are those on file; pytest shows the ones that are not."""
    kept = ANSWERS / f"{name}.txt"
    if RENEW:
        kept.parent.mkdir(exist_ok=True)
        kept.write_text("\n".join(now) + "\n")
    before = kept.read_text().splitlines() if kept.read_text().strip() else []
    assert [line for line in now if line not in before] == [], "said now"
    assert now == before
    return True
