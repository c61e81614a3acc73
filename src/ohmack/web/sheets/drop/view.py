"""What the drop test's page shows."""

from __future__ import annotations

from ohmack.core.supply.drop_test import DropSection, DropTest
from ohmack.core.wording import amount
from ohmack.web.page import Page


class DropView:
    """The drop test for its page."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self.tests: list[DropTest] = page.evaluation.results.drop_tests

    @staticmethod
    def verdict(one: DropSection) -> str:
        """What a reading means, in words."""
        if one.good is None:
            return "not read yet"
        if one.good:
            return "as planned"
        return f"{amount(one.more_ohm, 'ohm')} too much"

    @staticmethod
    def row(test: DropTest, one: DropSection) -> str:
        """The name of a row, for its form."""
        return f"drop-{test.supply.part.id}-{one.section.name.lower()}"
