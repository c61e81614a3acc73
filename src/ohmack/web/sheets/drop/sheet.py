"""The drop test: millivolts between points, planned and read."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.wording import count
from ohmack.web.page import Page
from ohmack.web.sheet import Sheet
from ohmack.web.sheets.drop.view import DropView
from ohmack.web.sheets.supply.sheet import draw as draw_supply


def say(page: Page) -> tuple[str, str]:
    """How many of the readings are there, and whether they are as planned."""
    tests = page.evaluation.results.drop_tests
    rows = [one for test in tests for one in test.sections]
    if not rows:
        return "Nothing to test yet", "the drop test follows a solved power run"
    read = [one for one in rows if one.good is not None]
    small = "millivolts between two points while it plays at full load; the minus side first"
    if not read:
        return f"{count(len(rows), 'pair')} of points to read", small
    bad = [one for one in read if not one.good]
    if bad:
        return f"{count(len(bad), 'reading')} of {len(read)} show too much resistance", small
    return f"{len(read)} of {len(rows)} read, all as planned", small


def draw(page: Page) -> Markup:
    """The sheet's picture: the loop of the hardest run, as Supply draws it."""
    return draw_supply(page)


SHEET = Sheet(
    key="drop", title="Drop test", order=54, home="supply", tab="Drop test", say=say, draw=draw, view=DropView,
)  # fmt: skip
