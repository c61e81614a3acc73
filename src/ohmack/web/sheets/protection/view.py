"""Fused runs for the protection sheet: which one is drawn, and the others."""

from __future__ import annotations

from ohmack.core.document.handles import at
from ohmack.core.physics.protection import family
from ohmack.core.supply.protection_study import Protected, not_judged
from ohmack.core.supply.wire_heat import WireHeat
from ohmack.core.wording import amount, times_of
from ohmack.web.page import Page


class ProtectionView:
    """Fuses for their page."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self.results = page.evaluation.results
        self.found: list[Protected] = self.results.protection

    @property
    def shown(self) -> Protected | None:
        """The run that is drawn: the one looked at, else the first."""
        looked_at = self.page.show
        return next((one for one in self.found if at(one.link) == looked_at), next(iter(self.found), None))

    @property
    def runs(self) -> list[tuple[str, str, bool]]:
        """(name, address, whether it is drawn) of every run."""
        return [(one.name, self.page.link_to(at(one.link)), one is self.shown) for one in self.found]

    @property
    def heat(self) -> WireHeat | None:
        """How warm the wire that is drawn gets."""
        shown = self.shown
        return next((h for h in self.results.wire_heat if shown is not None and h.supply is shown.supply), None)

    @property
    def missing(self) -> str:
        """Why fuses are not judged, in words."""
        return not_judged(self.results.book, self.results.supplies, self.found)

    @staticmethod
    def fuse(one: Protected) -> str:
        """A fuse in words."""
        return f"{times_of(one.link.fuse_count)}{one.rating_a:g} A {family(one.family).title.lower()}"

    @staticmethod
    def breaks(one: Protected) -> str:
        """What fuses of its family break, in words."""
        low_a, high_a = one.breaks_a
        return f"{low_a:.0f} A" if low_a == high_a else f"{low_a:.0f} to {high_a:.0f} A, by type"

    @staticmethod
    def order(one: Protected) -> str:
        """Whether it opens before the fuse before it, in words."""
        if one.before is None or one.selective is None or one.selective.value is None:
            return "it is the first"
        if one.always_selective:
            return "always"
        return f"up to {amount(one.selective.value, 'a')}"
