"""What to order."""

from __future__ import annotations

from collections.abc import Sequence

from markupsafe import Markup

from ohmack.core.build.order import OrderRow, order_words
from ohmack.web.extras import photos_and_history
from ohmack.web.page import Page
from ohmack.web.sheet import Sheet
from ohmack.web.sheets.order.view import OrderView


def say(page: Page) -> tuple[str, str]:
    """The order list."""
    rows = page.evaluation.results.order
    if not rows and page.design.all_in_car:
        return "Nothing to order", "everything of the plan is in the car already"
    if not rows:
        return "Nothing to order yet", "pick parts in Plan; wire, fuses and ends follow from them"
    verdict = page.evaluation.verdict
    if not any(row.state == "wanted" for row in rows):
        here = all(row.state == "here" for row in rows)
        return order_said(rows), "wire, fuses and small parts with it" if here else "all of it is ordered"
    small = "everything of it was judged" if verdict.state == "ready" else f"not yet: {verdict.detail}"
    if verdict.state == "ready" and (open_row := next((row for row in rows if row.unknown), None)) is not None:
        small = f"{open_row.what}: {open_row.unknown}"
    if verdict.of_the_car:
        small = "the car is wired: only what is still missing"
    return order_said(rows), small


def order_said(rows: Sequence[OrderRow]) -> str:
    """How much there is to order, as a heading."""
    words = order_words(rows)
    return f"{words[0].upper()}{words[1:]}"


def draw(page: Page) -> Markup:
    """A list to order from: no car helps it."""
    return Markup("")


SHEET = Sheet(
    key="order",
    title="Order list",
    order=25,
    home="plan",
    tab="Order list",
    say=say,
    draw=draw,
    view=OrderView,
    extra=photos_and_history,
)
