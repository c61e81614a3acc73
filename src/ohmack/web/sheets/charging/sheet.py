"""Whether it is charged: over the usual drive, at idle and on the road, parked and listened to."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.wording import amount
from ohmack.drawing.picture import Layer
from ohmack.web.car_picture import car_picture
from ohmack.web.page import Page
from ohmack.web.sheet import Sheet
from ohmack.web.sheets.charging.view import ChargingView


def say(page: Page) -> tuple[str, str]:
    """What the usual drive does to the battery."""
    view = ChargingView(page)
    energy, use = view.energy, page.design.use
    if energy is None and page.evaluation.results.power_tree:
        return "What hangs on factory feeds is not reckoned", "a power run of its own is what gets charged for"
    if energy is None:
        return "Nothing new draws from the battery yet", "an amplifier with a power run is what gets charged for"
    if energy.lacks:
        return "What a drive does to the battery is not judged", f"not known: {energy.lacks}"
    small = f"{use.trip.value}, music at {amount(use.programme_percent, 'percent')} of full power on average"
    changes = {s.key: s.change.value or 0.0 for s in energy.seasons}
    lost = [s for s in energy.seasons if changes[s.key] < 0]
    if not lost:
        return "The usual drive charges the battery, in a winter night too", small
    takes = f"takes {amount(-changes['winter'], 'percent')} out of the battery"
    if len(lost) == len(energy.seasons):
        return f"Every drive {takes} in winter, and in summer too", small
    return f"A winter night's drive {takes}; a summer day's charges it", small


def draw(page: Page) -> Markup:
    """The sheet's picture: the charge over the drive, or the car where none is reckoned."""
    return ChargingView(page).charge_drawing or car_picture(
        page, Layer(links=("power", "ground", "charge"), grounds=True), "with its power runs"
    )


SHEET = Sheet(
    key="charging", title="Charging", order=52, home="supply", tab="Charging", say=say, draw=draw, view=ChargingView,
    main_figure="change_percent",
)  # fmt: skip
