"""Other plans of the same job."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.wording import count
from ohmack.drawing.picture import Layer
from ohmack.web.car_picture import ALL_LINKS, car_picture
from ohmack.web.extras import options_of_the_job
from ohmack.web.page import Page
from ohmack.web.sheet import Sheet
from ohmack.web.sheets.options.view import OptionsView


def say(page: Page) -> tuple[str, str]:
    """Options side by side."""
    number = len(page.extra.get("options", ()))
    if number < 2:
        return "One option so far", "copy it, then change the copy; the survey stays common"
    return f"{count(number, 'option')} side by side", "what differs comes first; the survey is common to all"


def draw(page: Page) -> Markup:
    """The only option's car; of several each stands in its own column."""
    if len(page.extra.get("options", ())) > 1:
        return Markup("")
    return car_picture(page, Layer(links=ALL_LINKS, touched=True), "with every part and wire", "plan")


SHEET = Sheet(
    key="options",
    title="Options",
    order=24,
    home="plan",
    tab="Options",
    say=say,
    draw=draw,
    view=OptionsView,
    extra=options_of_the_job,
)
