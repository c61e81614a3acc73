"""Fuses against their wires and against shorts."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.supply.protection_study import slow
from ohmack.core.wording import count
from ohmack.drawing.picture import Layer
from ohmack.drawing.time_current import draw_time_current
from ohmack.web.car_picture import car_picture, two_widths
from ohmack.web.page import Page
from ohmack.web.sheet import Sheet
from ohmack.web.sheets.protection.view import ProtectionView


def say(page: Page) -> tuple[str, str]:
    """Whether every fuse opens before its wire is damaged."""
    view = ProtectionView(page)
    if not view.found:
        return "No fuse is set against a short yet", view.missing or "a run with a fuse is judged here"
    late = [one for one in view.found if slow(one) or one.bare_from_a is not None]
    small = "opening times by family, from memory: the fuse's own chart decides"
    if late:
        return f"{late[0].name}: the wire may be damaged before its fuse opens", small
    if view.missing:
        return f"{count(len(view.found), 'fuse')} in time, not all are judged", view.missing
    return f"{count(len(view.found), 'power run')}: each fuse opens before its wire is damaged", small


def draw(page: Page) -> Markup:
    """The sheet's picture: the chart, or the car where nothing is judged."""
    shown = ProtectionView(page).shown
    if shown is None:
        return car_picture(page, Layer(links=("power", "ground"), grounds=True), "with its power runs")
    return two_widths(*draw_time_current(shown, shown.full_load_a))


SHEET = Sheet(
    key="protection", title="Protection", order=53, home="supply", tab="Protection", say=say, draw=draw,
    view=ProtectionView, main_figure="opens_s",
)  # fmt: skip
