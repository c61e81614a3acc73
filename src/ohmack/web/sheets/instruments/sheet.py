"""Instruments: where each is reached, what it says it is, what it shows at the check that is made now."""

from __future__ import annotations

from typing import Any

from markupsafe import Markup

from ohmack.core.wording import count
from ohmack.drawing.picture import Layer, Picture
from ohmack.drawing.probe_marks import draw_card, draw_points, draw_readings
from ohmack.store.design_rows import DesignRecord
from ohmack.web.car_picture import ALL_LINKS, Chart, car_picture
from ohmack.web.page import Page
from ohmack.web.sheet import Asked, Sheet
from ohmack.web.sheets.instruments.view import InstrumentsView
from ohmack.web.workshop import Workshop


def say(page: Page) -> tuple[str, str]:
    """Which instruments there are."""
    known = page.extra.get("instruments", {})
    if not known:
        return "No instrument is known yet", "by hand every reading is typed; over the network it is taken"
    return f"{count(len(known), 'instrument')} on the network", "SCPI on a TCP socket; the bench speaks it too"


def draw(page: Page) -> Markup:
    """The sheet's picture: the check that is made now."""
    view = InstrumentsView(page)
    now = view.now.check if view.now is not None else None

    def over(picture: Picture) -> Markup:
        points = [(one.spot, view.moved_to(one.point)) for one in view.points if one.drawn]
        return draw_points(picture, points) + draw_readings(picture, [], now)

    def card() -> Markup:
        return draw_card(page.design.vehicle, now) if now is not None else Markup("")

    chart = Chart(lambda _: Markup(""), 0.0, instead=card, over=over)
    layer = Layer(links=("power", "ground"), quiet_links=ALL_LINKS[2:], speakers=True, labels=False)
    return car_picture(page, layer, "where the probes sit", "instruments", chart)


def _known(shop: Workshop, record: DesignRecord, asked: Asked) -> dict[str, Any]:
    """The shop's instruments."""
    return {"instruments": shop.instruments.all(shop.context)}


SHEET = Sheet(key="instruments", title="Instruments", order=73, home="prove", tab="Instruments", say=say, draw=draw,
              view=InstrumentsView, extra=_known)  # fmt: skip
