"""Responses that were measured, over each other, and what an equaliser would make of them."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.wording import amount, count
from ohmack.drawing.picture import Layer
from ohmack.drawing.response_curves import draw_responses
from ohmack.web.car_picture import car_picture, two_widths
from ohmack.web.page import Page
from ohmack.web.sheet import Sheet
from ohmack.web.sheets.responses.view import ResponsesView


def say(page: Page) -> tuple[str, str]:
    """How even the last one is."""
    found = page.evaluation.results.responses
    if not found:
        return "Nothing measured yet", "columns of any program, or a recording of the sweep, the noise or a tone"
    last = found[-1]
    small = count(len(found), "response")
    if last.uneven is None:
        return f"{last.response.name} is drawn", small
    return f"{last.response.name}: uneven by {amount(last.uneven.value, 'db')}", small


def draw(page: Page) -> Markup:
    """The sheet's picture."""
    found = page.evaluation.results.responses
    if found:
        return two_widths(*draw_responses(found))
    layer = Layer(links=("tap", "line", "speaker"), speakers=True, grounds=False)
    return car_picture(page, layer, "with its signal, to be measured")


SHEET = Sheet(
    key="responses", title="Responses", order=46, home="signal", tab="Responses", say=say, draw=draw,
    view=ResponsesView, main_figure="uneven_db",
)  # fmt: skip
