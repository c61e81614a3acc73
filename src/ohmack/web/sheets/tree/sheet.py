"""Who draws what, over what: the power tree, every state, the schools of current."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.supply.power_tree import together_a
from ohmack.core.wording import amount, count
from ohmack.drawing.picture import Layer
from ohmack.drawing.power_tree import draw_tree
from ohmack.web.car_picture import car_picture, two_widths
from ohmack.web.page import Page
from ohmack.web.sheet import Sheet
from ohmack.web.sheets.tree.view import TreeView


def say(page: Page) -> tuple[str, str]:
    """What everything together draws."""
    view = TreeView(page)
    fed = view.consumers
    if not view.roots:
        return "Nothing draws from the battery yet", "parts with power runs and feeds are drawn here"
    if not fed:
        return "Only small feeds are taken", "no amplifier has a power run"
    full = together_a(page.evaluation.results.supplies)
    if full is None:
        return "What it draws together is not known", "a load, a length or a voltage is missing"
    words = count(len(fed), "consumer")
    return f"{amount(full, 'a')} at full level, {words}", page.design.vehicle.as_said(
        "branches as wide as their current; engine running"
    )


def draw(page: Page) -> Markup:
    """The sheet's picture."""
    roots = TreeView(page).roots
    if not roots:
        return car_picture(page, Layer(links=("power", "ground", "feed"), grounds=True), "with its power runs")
    return two_widths(*draw_tree(roots, page.link_to))


SHEET = Sheet(
    key="tree", title="Power tree", order=51, home="supply", tab="Tree", say=say, draw=draw, view=TreeView,
    main_figure="current_a",
)  # fmt: skip
