"""Every cable to cut, numbered, and which reel it comes off."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.wording import count
from ohmack.drawing.cut_bars import draw_cuts
from ohmack.drawing.picture import Layer
from ohmack.web.car_picture import car_picture, two_widths
from ohmack.web.page import Page
from ohmack.web.sheet import Sheet
from ohmack.web.sheets.cuts.view import CutsView


def say(page: Page) -> tuple[str, str]:
    """How many cables there are."""
    cuts = CutsView(page).cuts
    if not cuts.cables:
        return "No cable is cut in this job", "new runs are listed here with a number for both ends"
    lacks = f"; {count(len(cuts.unknown), 'length or size', 'lengths or sizes')} not known yet" if cuts.unknown else ""
    small = "numbered as both ends are labelled" + lacks
    made = f", {len(cuts.ready)} ready made" if cuts.ready else ""
    return f"{count(len(cuts.cables) - len(cuts.ready), 'cable')} to cut{made}", small


def draw(page: Page) -> Markup:
    """The sheet's picture: the reels, or the car where nothing is cut."""
    bars = two_widths(*draw_cuts(CutsView(page).cuts, page.design.policy.length_unit))
    return bars or car_picture(page, Layer(), "nothing is cut")


SHEET = Sheet(key="cuts", title="Cut list", order=61, home="build", tab="Cuts", say=say, draw=draw, view=CutsView)
