"""The order list for its page: what there is to order, and where it stands."""

from __future__ import annotations

from ohmack.core.build.order import OrderRow
from ohmack.core.document import Design
from ohmack.core.document.handles import at_the
from ohmack.core.document.part import Stands
from ohmack.core.planning.arriving import brought_to
from ohmack.web.page import Page

ALL = {Stands.ORDERED: "Everything is ordered", Stands.HERE: "Everything is here"}


class OrderView:
    """The order list for its page."""

    materials = at_the(Design, lambda it: it.work.materials)

    def __init__(self, page: Page) -> None:
        self.page = page
        self.design = page.evaluation.results.design

    @property
    def rows(self) -> tuple[OrderRow, ...]:
        """What is ordered for what is fitted now."""
        return self.page.evaluation.results.order

    @property
    def stands(self) -> list[tuple[str, str]]:
        """Where a line may stand, for a list to choose from."""
        return [(one.value, one.value) for one in (Stands.WANTED, Stands.ORDERED, Stands.HERE)]

    @property
    def acts(self) -> list[tuple[str, str]]:
        """What may be said of all of it at once: (what, the words of its button)."""
        return [(stands.value, words) for stands, words in ALL.items() if brought_to(self.design, stands)]
