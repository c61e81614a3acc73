"""What the frame round every sheet shows: its sentence, its picture, the sheets beside it."""

from __future__ import annotations

from typing import Any

from markupsafe import Markup

from ohmack.drawing.picture import Layer
from ohmack.web.car_picture import ALL_LINKS, car_picture
from ohmack.web.page import Page
from ohmack.web.sheet import sheets


def headline(page: Page) -> tuple[str, str]:
    """The sheet's sentence and its small print."""
    sheet = sheets().get(page.stage)
    return sheet.say(page) if sheet is not None else ("", "")


def picture_of(page: Page) -> Markup:
    """The sheet's picture; on a page that is no sheet the whole car."""
    sheet = sheets().get(page.stage)
    return sheet.draw(page) if sheet else car_picture(page, Layer(links=ALL_LINKS), "with every part and wire", "plan")


def view_of(page: Page) -> Any:
    """What the sheet prepares for its own page; None where it prepares nothing."""
    sheet = sheets().get(page.stage)
    return sheet.view(page) if sheet is not None and sheet.view else None


def template_of(page: Page) -> str:
    """The page of a sheet, or of the front page, the policy, the history and the measuring round."""
    sheet = sheets().get(page.stage)
    return sheet.template if sheet is not None else f"stages/{page.stage}.html"


def titles() -> dict[str, str]:
    """What every sheet is called, by its key."""
    return {sheet.key: sheet.title for sheet in sheets().values()}
