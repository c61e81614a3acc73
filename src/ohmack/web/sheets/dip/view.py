"""The dip for its page."""

from __future__ import annotations

from ohmack.core.supply.dip_study import DipStudy, DipWith
from ohmack.web.page import Page


class DipView:
    """What a bass note does, for its page."""

    def __init__(self, page: Page) -> None:
        self.page = page
        found = page.evaluation.results.dip
        self.study: DipStudy | None = found if isinstance(found, DipStudy) else None
        self.missing = found if isinstance(found, str) else ""

    @property
    def best(self) -> DipWith | None:
        """The remedy that takes most of the dip off the lights, which is drawn over it."""
        if self.study is None:
            return None
        return max(self.study.mended, key=lambda one: one.dip.lowest_post_v, default=None)

    @property
    def rows(self) -> tuple[DipWith, ...]:
        """As it is, and with each remedy."""
        return () if self.study is None else (self.study.now, *self.study.mended)
