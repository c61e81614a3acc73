"""The survey: the car with its facts by place."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.wording import count
from ohmack.drawing.picture import Layer
from ohmack.web.car_picture import car_picture
from ohmack.web.extras import photos_and_history
from ohmack.web.page import Page
from ohmack.web.places import marks_of
from ohmack.web.sheet import Sheet
from ohmack.web.sheets.survey.view import SurveyView


def say(page: Page) -> tuple[str, str]:
    """Survey."""
    facts = [f for place in page.places for f in place.facts if f.known]
    small = ", ".join(
        f"{sum(f.basis.value == b for f in facts)} {word}"
        for b, word in (("measured", "measured"), ("documented", "from papers"), ("assumed", "assumed"))
    )
    small = f"{count(len(facts), 'fact')}: {small}"
    if page.evaluation.measure_first is None:
        return "What the car has", small
    first = next((m for m in page.evaluation.measure_first if m.stops or m.parts or m.wish), None)
    if first:
        owner = f", {first.owner}" if first.owner else ""
        return f"Measure first: {first.name[0].lower()}{first.name[1:]}{owner}", small
    if not page.evaluation.results.design.parts:
        asked = [m for m in page.evaluation.measure_first if m.plans]
        return (
            f"{count(len(asked), 'fact')} the likely plans would ask"
            if asked
            else "Nothing is planned yet, so nothing was judged"
        ), small
    return "Nothing assumed that matters", small


def draw(page: Page) -> Markup:
    """The sheet's picture."""
    layer = Layer(
        quiet_links=("power", "line"),
        speakers=True,
        feeds=True,
        marks=marks_of(page.places),
        zones=True,
        modules=True,
        spaces=True,
        damage=True,
    )
    return car_picture(page, layer, "with what is known about it")


SHEET = Sheet(key="survey", title="Survey", order=10, tab="The car", say=say, draw=draw, view=SurveyView,
              extra=photos_and_history)  # fmt: skip
