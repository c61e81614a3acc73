"""The sheet for the bay."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.drawing.picture import Layer
from ohmack.web.car_picture import ALL_LINKS, car_picture
from ohmack.web.page import Page
from ohmack.web.sheet import Sheet
from ohmack.web.sheets.build.view import BuildView


def say(page: Page) -> tuple[str, str]:
    """The sheet and its revision."""
    return "Build sheet", f"{page.design.vehicle.title}, revision {page.record.number}"


def draw(page: Page) -> Markup:
    """The sheet's picture."""
    return car_picture(page, Layer(links=ALL_LINKS, touched=True), "with every part and wire", "plan")


SHEET = Sheet(
    key="build", title="Build", order=60, tab="Sheet", say=say, draw=draw, view=BuildView, main_figure="fuse_a"
)
