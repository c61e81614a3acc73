"""What the work costs, and what changed since it was agreed."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.build.quote import against_budget
from ohmack.core.wording import count
from ohmack.drawing.picture import Layer
from ohmack.drawing.quote_bar import draw_quote
from ohmack.web.car_picture import car_picture, two_widths
from ohmack.web.page import Page
from ohmack.web.sheet import Sheet
from ohmack.web.sheets.quote.view import QuoteView


def say(page: Page) -> tuple[str, str]:
    """What it comes to."""
    view = QuoteView(page)
    sums = view.quote.sums
    if not view.quote.lines and page.design.all_in_car:
        return "Nothing to quote", "everything of the plan is in the car already"
    if not view.quote.lines:
        return "Nothing to quote yet", "parts, cables and work make the lines"
    total = f"{view.span(sums.low, sums.high)} {view.currency}"
    if view.accepted is not None and view.quote.changed:
        changed = count(len(view.quote.changed), "line")
        return f"{changed} changed since {view.accepted.by} agreed", f"now {total}, tax in it"
    if view.accepted is not None:
        return f"{view.accepted.by} agreed to {total}", f"on {view.accepted.when}, tax in it"
    budget, held = page.design.intake.budget, ""
    if budget is not None:
        words = against_budget(budget, float(sums.low), float(sums.high), view.currency, "the customer's")
        held = f", {words}"
    return total, f"tax in it{held}; holds {page.design.policy.quote_days} days"


def draw(page: Page) -> Markup:
    """The sheet's picture: the sum as one bar, or the car where nothing costs anything."""
    view = QuoteView(page)
    bar = two_widths(*draw_quote(view.quote, view.currency))
    return bar or car_picture(page, Layer(), "nothing to quote")


SHEET = Sheet(key="quote", title="Quote", order=66, home="build", tab="Quote", say=say, draw=draw, view=QuoteView)
