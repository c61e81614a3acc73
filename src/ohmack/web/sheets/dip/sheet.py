"""The dip over time: whether the lights dim in a bass note."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.wording import amount
from ohmack.drawing.dip_trace import draw_dip
from ohmack.drawing.picture import Layer
from ohmack.web.car_picture import car_picture, two_widths
from ohmack.web.page import Page
from ohmack.web.sheet import Sheet
from ohmack.web.sheets.dip.view import DipView


def say(page: Page) -> tuple[str, str]:
    """Whether the lights are seen to dip."""
    view = DipView(page)
    if view.study is None:
        return "No dip is reckoned", view.missing
    now = view.study.now
    small = f"{view.study.supply.part.name}, half a second of full bass, engine idling"
    lowest = amount(now.dip.lowest_post_v, "v")
    if now.seen:
        return f"The lights dip: {amount(now.light.value, 'percent')} less light at {lowest}", small
    return f"The lights stay: {lowest} at the lowest", small


def draw(page: Page) -> Markup:
    """The sheet's picture: the trace, or the car where none is reckoned."""
    view = DipView(page)
    if view.study is None:
        return car_picture(page, Layer(links=("power", "ground"), grounds=True), "with its power runs")
    return two_widths(*draw_dip(view.study, view.best))


SHEET = Sheet(key="dip", title="Dip", order=56, home="supply", tab="Dip", say=say, draw=draw, view=DipView)
