"""Measured against predicted: every reading beside its window, on the volts along the run and in a table."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.prove.judged import State
from ohmack.core.wording import count
from ohmack.drawing.car import HEIGHT
from ohmack.drawing.measured import LADDER_HEIGHT, draw_measured, measured_alone
from ohmack.drawing.picture import Layer, Picture
from ohmack.drawing.probe_marks import draw_readings
from ohmack.web.car_picture import ALL_LINKS, Chart, car_picture
from ohmack.web.page import Page
from ohmack.web.sheet import Sheet
from ohmack.web.sheets.readings.view import ReadingsView


def say(page: Page) -> tuple[str, str]:
    """How the readings lie."""
    view = ReadingsView(page)
    if not view.read:
        return "Nothing is read yet", "the first reading of Prove stands here beside its prediction"
    good = sum(j.state is State.PASSED for j in view.read)
    return f"{good} of {count(len(view.read), 'reading')} as predicted", "grey: where a sound car reads; stroke: yours"


def draw(page: Page) -> Markup:
    """The sheet's picture."""
    view = ReadingsView(page)

    def below(picture: Picture) -> Markup:
        return draw_measured(picture, view.ladder, HEIGHT + 6)

    def over(picture: Picture) -> Markup:
        return draw_readings(picture, view.read, None)

    chart = Chart(below, LADDER_HEIGHT, instead=lambda: measured_alone(view.ladder), over=over)
    layer = Layer(links=("power", "ground"), quiet_links=ALL_LINKS[2:], speakers=True, labels=False)
    return car_picture(page, layer, "every reading where it was taken; below it volts, measured and predicted",
                       "readings", chart)  # fmt: skip


SHEET = Sheet(key="readings", title="Measured", order=71, home="prove", tab="Measured", say=say, draw=draw,
              view=ReadingsView)  # fmt: skip
