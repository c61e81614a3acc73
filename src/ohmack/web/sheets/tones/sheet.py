"""Tones to set and prove a system with."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.wording import amount
from ohmack.drawing.picture import Layer
from ohmack.web.car_picture import car_picture
from ohmack.web.page import Page
from ohmack.web.sheet import Sheet
from ohmack.web.sheets.tones.view import TonesView


def say(page: Page) -> tuple[str, str]:
    """Which tone the gains are set with."""
    policy = page.design.policy
    return (
        f"Tones at {amount(policy.tone_dbfs, 'dbfs')}",
        "0 dBFS is a sine whose peaks reach full scale; play them as files, no equaliser in between",
    )


def draw(page: Page) -> Markup:
    """The sheet's picture."""
    return car_picture(page, Layer(links=("tap", "line", "speaker"), speakers=True, grounds=False), "with its signal")


SHEET = Sheet(
    key="tones", title="Tones", order=44, home="signal", tab="Tones", say=say, draw=draw, view=TonesView,
)  # fmt: skip
