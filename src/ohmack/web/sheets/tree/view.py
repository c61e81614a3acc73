"""The power tree for its page: states of every consumer, schools of current."""

from __future__ import annotations

from ohmack.core.document.handles import at
from ohmack.core.document.links import PowerLink
from ohmack.core.figures.figure import Figure
from ohmack.core.network.states import State
from ohmack.core.supply.power_tree import Node
from ohmack.core.supply.results import SupplyResult
from ohmack.core.supply.schools import SchoolResult
from ohmack.web.page import Page

STATES = (
    ("voltage", "Engine running"),
    ("idling", "Idling, all on"),
    ("traffic", "In traffic"),
    ("resting", "Engine off"),
)


class TreeView:
    """Who draws what, over what."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self.results = page.evaluation.results

    @property
    def roots(self) -> tuple[Node, ...]:
        """Every source with what it feeds."""
        return self.results.power_tree

    @property
    def consumers(self) -> list[SupplyResult]:
        """Everything a power run feeds."""
        return [s for s in self.results.supplies if not s.is_main]

    @property
    def states(self) -> list[tuple[str, str]]:
        """(key, words) of the states some consumer is solved in."""
        as_said = self.page.design.vehicle.as_said
        return [(k, as_said(words)) for k, words in STATES if any(k in s.figures for s in self.consumers)]

    @property
    def cold(self) -> dict[str, Figure]:
        """By consumer, what is lost with the runs cold."""
        return self.results.cold_losses

    @property
    def solved(self) -> list[State]:
        """The states the network is solved in."""
        return [state for state in State if state in self.results.power.conditions]

    @property
    def schools(self) -> tuple[SchoolResult, ...]:
        """The schools side by side."""
        return self.results.current_schools

    def runs(self) -> list[tuple[str, str, str]]:
        """(link, address, what it feeds) of every run the schools are compared on."""
        known = self.schools[0].runs if self.schools else {}
        design = self.page.design
        return [
            (link.id, self.page.link_to(at(link)), getattr(design.part(link.to_id), "name", link.to_id))
            for link in design.links_of(PowerLink)
            if link.id in known
        ]

    @staticmethod
    def figure_in(supply: SupplyResult, key: str) -> Figure | None:
        """A consumer's volts in one state, where this car has that state."""
        return supply.figures.get(key)
