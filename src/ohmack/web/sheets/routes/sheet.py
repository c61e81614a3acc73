"""Every run of new cable: where it goes, how far each point is along it, what it must be kept clear of."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.build.route_cards import laid_m
from ohmack.core.wording import amount, count
from ohmack.drawing.picture import Layer
from ohmack.web.car_picture import ALL_LINKS, car_picture
from ohmack.web.page import Page
from ohmack.web.sheet import Sheet
from ohmack.web.sheets.routes.view import RoutesView


def say(page: Page) -> tuple[str, str]:
    """How many runs there are, and what they take."""
    view = RoutesView(page)
    if not view.cards:
        return "No cable is laid in this job", "new runs get a card each: side, points, metres, ties"
    places = sum(len(view.minds(card)) for card in view.cards)
    minds = f"{count(places, 'place')} to keep clear of" if places else "nothing known to keep clear of on the way"
    return f"{count(len(view.cards), 'run')}, {amount(laid_m(view.cards), 'm', view.unit)} of cable", minds


def draw(page: Page) -> Markup:
    """The sheet's picture."""
    return car_picture(page, Layer(links=ALL_LINKS, grounds=True), "with every run of new cable", "plan")


SHEET = Sheet(key="routes", title="Routes", order=62, home="build", tab="Routes", say=say, draw=draw, view=RoutesView)
