"""A small picture of a job's car for the list of jobs."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.evaluation.answer import Evaluation
from ohmack.drawing.car import HEIGHT, WIDTH
from ohmack.drawing.picture import Layer, begin
from ohmack.drawing.plan import draw_plan
from ohmack.drawing.svg import el


def thumbnail(evaluation: Evaluation) -> Markup:
    """A small picture of a job's car with its parts and runs, for the list of jobs."""
    picture = begin(evaluation, lambda _: "")
    plan = draw_plan(picture, Layer(links=("power", "line", "speaker"), labels=False))
    return el(
        "svg",
        plan,
        viewBox=f"0 0 {WIDTH:g} {HEIGHT:g}",
        class_="drawing car-thumb",
        aria_hidden="true",
        focusable="false",
    )
