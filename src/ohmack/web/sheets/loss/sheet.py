"""Too much is lost, and what brings it down."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.wording import amount, count
from ohmack.web.extras import cures
from ohmack.web.page import Page
from ohmack.web.sheet import Sheet
from ohmack.web.sheets.loss.view import LossView
from ohmack.web.sheets.supply.sheet import draw as draw_supply


def say(page: Page) -> tuple[str, str]:
    """How much is lost of what is allowed, and whether a cure is known."""
    view = LossView(page)
    loss = view.loss
    if not loss.lost_v:
        return "Nothing is lost yet", "losses follow from a solved power run"
    worst, limit = amount(max(loss.lost_v.values()), "v"), amount(loss.limit_v, "v")
    if not loss.over:
        return f"Every loop holds: {worst} lost at most of {limit} allowed", "what would bring it down further"
    holding = [c for c in loss.cures if c.holds]
    small = f"{count(len(holding), 'way')} found to come under it" if holding else "none of what was tried is enough"
    return f"{worst} lost of {limit} allowed", small


def draw(page: Page) -> Markup:
    """The sheet's picture: the loop that loses most, as Supply draws it."""
    return draw_supply(page)


SHEET = Sheet(
    key="loss", title="Less loss", order=55, home="supply", tab="Less loss", say=say, draw=draw, view=LossView,
    extra=cures,
)  # fmt: skip
