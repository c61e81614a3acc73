"""Where the subwoofer meets the front."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.wording import amount, listed
from ohmack.drawing.picture import Layer
from ohmack.web.car_picture import car_picture
from ohmack.web.page import Page
from ohmack.web.sheet import Sheet
from ohmack.web.sheets.crossing.view import CrossingView


def say(page: Page) -> tuple[str, str]:
    """Where they meet, and how even it is."""
    met = next(iter(page.evaluation.results.meetings), None)
    if met is None:
        return "Filters of every output", "an amplified subwoofer with something in front is drawn here"
    if met.crossing.value is None or met.dip.value is None or met.reversed_dip.value is None:
        return "Where they meet is not known", listed([missing.name for missing in met.crossing.missing])
    small = f"lowest round it {amount(met.dip.value, 'db')}; reversed {amount(met.reversed_dip.value, 'db')}"
    return f"They meet at {met.crossing.value:.0f} Hz", small


def draw(page: Page) -> Markup:
    """The sheet's picture."""
    return car_picture(page, Layer(links=("speaker",), speakers=True, grounds=False), "with its speakers")


SHEET = Sheet(
    key="crossing", title="Crossover", order=42, home="signal", tab="Crossover", say=say, draw=draw, view=CrossingView,
    main_figure="crossing_dip_db",
)  # fmt: skip
