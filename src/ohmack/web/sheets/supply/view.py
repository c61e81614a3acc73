"""What the sheet of the supply shows besides its runs: which loop is drawn, and the capacitors."""

from __future__ import annotations

from ohmack.core.document.handles import at
from ohmack.core.physics.conductors import MATERIALS
from ohmack.core.supply.results import SupplyResult
from ohmack.core.supply.stiffening import Stiffening
from ohmack.web.page import Page


class SupplyView:
    """The supply for its page."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self.results = page.evaluation.results

    @property
    def fed(self) -> list[SupplyResult]:
        """Every consumer whose loop can be drawn."""
        return [s for s in self.results.supplies if not s.is_main]

    @property
    def shown(self) -> SupplyResult | None:
        """The consumer whose loop is drawn: the one that is looked at, else the one that loses most."""
        looked_at = self.page.show
        named = (s for s in self.fed if looked_at and looked_at in (at(s.part), at(s.link)))
        return next(named, self.results.hardest_supply)

    @property
    def faint(self) -> list[SupplyResult]:
        """The other consumers, drawn behind it."""
        return [s for s in self.fed if s is not self.shown]

    @property
    def loops(self) -> list[tuple[str, str, bool]]:
        """(name, address, whether it is drawn) of every consumer."""
        return [(s.part.name, self.page.link_to(at(s.link)), s is self.shown) for s in self.fed]

    @property
    def capacitors(self) -> list[Stiffening]:
        """Every capacitor of the plan that is wired."""
        return [entry for entry in self.results.stiffening if entry.link is not None]

    @staticmethod
    def material(supply: SupplyResult) -> str:
        """What the wire of a run is made of."""
        words = MATERIALS[supply.link.wire.material]
        return words[:1].upper() + words[1:]
