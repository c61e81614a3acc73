"""The quote for its page."""

from __future__ import annotations

from decimal import Decimal

from ohmack.core.build.quote import CABLE, FOUND, LABOUR, LATER, PARTS, Line, Quote
from ohmack.core.document.work import Accepted
from ohmack.web.page import Page


class QuoteView:
    """What it costs."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self.quote: Quote = page.evaluation.results.quote
        self.currency = page.design.policy.currency

    @property
    def groups(self) -> list[tuple[str, list[Line]]]:
        """(heading, lines) of what is in the sum."""
        return [(g, self.quote.group(g)) for g in (PARTS, CABLE, LABOUR, FOUND) if self.quote.group(g)]

    @property
    def later(self) -> list[Line]:
        """What comes later."""
        return self.quote.group(LATER)

    @property
    def accepted(self) -> Accepted | None:
        """What somebody said yes to."""
        return self.page.design.work.accepted

    @staticmethod
    def span(low: Decimal, high: Decimal) -> str:
        """A range of money."""
        return f"{low:.2f}" if low == high else f"{low:.2f} to {high:.2f}"

    def change(self, low: Decimal, high: Decimal) -> str:
        """How much more or less."""
        return f"{low:+.2f}" if low == high else f"{low:+.2f} to {high:+.2f}"
