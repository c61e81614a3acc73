"""Wire, fuse and voltage."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.figures.gaps import lacking, why_none
from ohmack.core.wording import amount
from ohmack.drawing.car import HEIGHT
from ohmack.drawing.picture import Layer, Picture
from ohmack.drawing.volts import CHART_HEIGHT, draw_volts
from ohmack.drawing.volts_upright import draw_volts_upright
from ohmack.web.car_picture import Chart, car_picture
from ohmack.web.page import Page
from ohmack.web.sheet import Sheet
from ohmack.web.sheets.supply.view import SupplyView


def say(page: Page) -> tuple[str, str]:
    """Supply."""
    supply = page.evaluation.results.hardest_supply
    drop = supply.figures["drop"] if supply else None
    if "supply" in page.idle_stages:
        return "Nothing to feed in this job", "no amplifier is added; the factory supply stays as it is"
    fed = next(iter(page.evaluation.results.self_fed), None)
    hangs = next((f for f in page.evaluation.results.feeds if fed is not None and f.part is fed.part), None)
    if supply is None and hangs is not None and hangs.drop is not None:
        words = f"{hangs.wire.label} with a {amount(hangs.fuse.value or 0.0, 'a')} fuse"
        lost = f", {amount(hangs.drop.value, 'v')} lost in it" if hangs.drop.value is not None else ""
        return f"{hangs.part.name}: {words}", f"from {hangs.feed.name}{lost}"
    if supply is None and fed is not None:
        words = f"{fed.wire.value} with a {amount(fed.fuse.value or 0.0, 'a')} fuse"
        return f"{fed.part.name}: {words}", f"a run of its own, about {page.said(fed.length.value, 'm')} from the plan"
    if supply is not None and supply.collapse:
        return (
            f"The supply of {supply.part.name} collapses",
            "no wire and no fuse can be named until that is mended",
        )
    if supply is None or drop is None or drop.value is None or supply.chosen is None:
        figures = lacking(supply.figures.values()) if supply is not None else []
        return "Nothing to size yet", why_none(figures) or "the power wire needs a source voltage, a length and a load"
    limit = page.design.policy.drop_limit_v
    hot = supply.figures["hot"].value
    cool = drop.value <= limit + 1e-9 and supply.chosen.fuse_fits
    current = supply.figures["current"].value or 0.0
    small = f"for {supply.part.name}, at {current:.0f} A, full level, engine running"
    small = page.design.vehicle.as_said(small)
    if cool and (hot is None or hot > limit + 1e-9):
        heat = f"{amount(hot, 'v')} hot" if hot is not None else "it collapses hot"
        return (
            (
                f"{supply.chosen.wire.label} is enough only while cool: {amount(drop.value, 'v')} of"
                f" {amount(limit, 'v')}, {heat}"
            ),
            small,
        )
    verdict = "is enough" if cool and not supply.limit else "is not enough"
    lost = (
        f"{amount(hot, 'v')} lost hot of {amount(limit, 'v')} allowed"
        if cool and hot is not None
        else f"{amount(drop.value, 'v')} lost of {amount(limit, 'v')} allowed"
    )
    return f"{supply.chosen.wire.label} {verdict}: {lost}", small


def draw(page: Page) -> Markup:
    """The sheet's picture."""
    view = SupplyView(page)
    shown, faint = view.shown, view.faint

    def below(picture: Picture) -> Markup:
        return draw_volts(picture, shown, HEIGHT + 2, faint) if shown else Markup("")

    def beside(picture: Picture) -> Markup:
        return draw_volts_upright(picture, shown, faint) if shown else Markup("")

    chart = Chart(below, CHART_HEIGHT + 12, beside if shown and shown.segments else None)
    layer = Layer(links=("power", "ground", "charge", "capacitor"), quiet_links=("line", "tap"), way_points=True)
    return car_picture(page, layer, "below it the voltage along the loop", "supply", chart)


SHEET = Sheet(
    key="supply", title="Supply", order=50, tab="Volts", say=say, draw=draw, view=SupplyView, main_figure="drop_v"
)
