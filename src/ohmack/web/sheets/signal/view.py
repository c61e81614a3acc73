"""Which way of the signal its sheet draws, and the others."""

from __future__ import annotations

from ohmack.core.document.handles import at
from ohmack.core.signal.levels import SignalResult
from ohmack.web.page import Page


class SignalView:
    """The signal for its page."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self.signals = page.evaluation.results.signals

    @property
    def shown(self) -> SignalResult | None:
        """The way whose levels are drawn: the one that holds what is looked at, else the first."""
        looked_at = self.page.show
        return next((s for s in self.signals if looked_at and looked_at in _paths(s)), next(iter(self.signals), None))

    @property
    def ways(self) -> list[tuple[str, str, bool]]:
        """(name, address, whether it is drawn) of every way."""
        found = []
        for signal in self.signals:
            link = signal.way.line or signal.way.tap
            if link is not None:
                found.append((signal.way.title, self.page.link_to(at(link)), signal is self.shown))
        return found


def _paths(signal: SignalResult) -> set[str]:
    """The paths of everything that belongs to one way alone."""
    way = signal.way
    links = [link for link in (way.line, way.tap) if link is not None]
    return {at(link) for link in (*links, *(output.load.link for output in signal.outputs))}
