"""What is cut into the car: holes with what was looked for behind them, and templates at full size."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.wording import count
from ohmack.drawing.picture import Layer, Picture
from ohmack.drawing.work_lanes import draw_some
from ohmack.web.car_picture import Chart, car_picture
from ohmack.web.page import Page
from ohmack.web.sheet import Sheet
from ohmack.web.sheets.holes.view import HolesView


def say(page: Page) -> tuple[str, str]:
    """How many holes and templates there are."""
    view = HolesView(page)
    cut = f"{count(len(view.templates), 'template')} at full size" if view.templates else "no template asked for"
    if not view.rows:
        return "No hole is drilled in this job", cut
    return view.done_words, cut


def draw(page: Page) -> Markup:
    """The sheet's picture."""
    rows = [row.planned for row in HolesView(page).rows if row.planned is not None]

    def over(picture: Picture) -> Markup:
        return draw_some(picture, rows)

    layer = Layer(links=("power", "ground"), grounds=True)
    return car_picture(
        page, layer, "holes numbered by their steps", "steps", Chart(lambda _: Markup(""), 0.0, over=over)
    )


SHEET = Sheet(key="holes", title="Holes", order=65, home="build", tab="Holes", say=say, draw=draw, view=HolesView)
