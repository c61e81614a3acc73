"""Checks and first power, to come."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.drawing.picture import Layer
from ohmack.web.car_picture import ALL_LINKS, car_picture
from ohmack.web.page import Page
from ohmack.web.sheet import Sheet


def say(page: Page) -> tuple[str, str]:
    """What is not built yet says so."""
    return "Prove is not built yet", ""


def draw(page: Page) -> Markup:
    """The sheet's picture."""
    return car_picture(page, Layer(links=ALL_LINKS), "with every part and wire", "plan")


SHEET = Sheet(key="prove", title="Prove", order=70, say=say, draw=draw, built=False)
