"""What the sheet of the supply shows besides its runs: the charging budget and the capacitors."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.supply.budget import Budget, Cure
from ohmack.core.supply.stiffening import Stiffening
from ohmack.drawing.budget import PHONE, draw_budget
from ohmack.web.car_picture import two_widths
from ohmack.web.page import Page

WORTH = {"helps": "good", "nothing to gain": "", "not known": "over"}


class SupplyView:
    """The supply for its page."""

    def __init__(self, page: Page) -> None:
        self.results = page.evaluation.results

    @property
    def budget(self) -> Budget | None:
        """The charging budget; None where nothing is fed."""
        return self.results.budget

    @property
    def budget_drawing(self) -> Markup:
        """What is given against what is taken."""
        budget = self.results.budget
        return two_widths(draw_budget(budget), draw_budget(budget, PHONE)) if budget else Markup("")

    @property
    def capacitors(self) -> list[Stiffening]:
        """Every capacitor of the plan that is wired."""
        return [entry for entry in self.results.stiffening if entry.link is not None]

    def tone(self, cure: Cure) -> str:
        """The tone a cure's worth is said in."""
        return WORTH[cure.worth]
