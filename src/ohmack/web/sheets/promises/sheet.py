"""Heard and agreed: every wish with what was measured for it and what the customer said."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.document.handover import Met
from ohmack.core.handover.promised import Promise
from ohmack.core.wording import count
from ohmack.drawing.picture import Layer
from ohmack.web.car_picture import ALL_LINKS, car_picture
from ohmack.web.page import Page
from ohmack.web.sheet import Sheet


class PromisesView:
    """The promises for their page."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self.rows: tuple[Promise, ...] = page.evaluation.results.promises

    @property
    def answers(self) -> list[tuple[str, str]]:
        """What a customer may say."""
        return [(m.value, m.value[:1].upper() + m.value[1:]) for m in Met]

    @staticmethod
    def sign(promise: Promise) -> tuple[str, str]:
        """(style, words): how it stands by what was measured."""
        if promise.stands is None:
            return "unjudged", "? nothing was measured for it" if not promise.found else "? the customer decides"
        return ("passed", "✓ stands") if promise.stands else ("off", "! does not stand")


def say(page: Page) -> tuple[str, str]:
    """How many are settled."""
    rows = page.evaluation.results.promises
    if not rows:
        return "Nothing was promised", "wishes and what must keep working are on the job's front page"
    left = [p for p in rows if not p.settled]
    if not left:
        return "Everything promised is settled", count(len(rows), "promise")
    return f"{count(len(left), 'promise')} to settle", f"of {len(rows)}; let the customer hear it, and say"


def draw(page: Page) -> Markup:
    """The car as it goes back."""
    layer = Layer(quiet_links=ALL_LINKS, speakers=True, grounds=False, labels=True)
    return car_picture(page, layer, "as it goes back to its owner", "plan")


SHEET = Sheet(
    key="promises", title="Heard and agreed", order=81, home="handover", tab="Heard and agreed", say=say, draw=draw,
    view=PromisesView,
)  # fmt: skip
