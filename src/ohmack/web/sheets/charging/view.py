"""The charging for its page: the day, the budget, what would help."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.document.handles import at_the
from ohmack.core.document.use import Use
from ohmack.core.document.vehicle import SupplyKind
from ohmack.core.figures.figure import Figure
from ohmack.core.reference import table
from ohmack.core.supply.budget import Budget, Cure
from ohmack.core.supply.energy import Energy
from ohmack.core.supply.engine_off import EngineOff
from ohmack.core.supply.parked import Parked
from ohmack.core.wording import amount, listed
from ohmack.drawing.budget import PHONE, draw_budget
from ohmack.drawing.charge_trace import draw_charge
from ohmack.web.car_picture import two_widths
from ohmack.web.page import Page

WORTH = {"helps": "good", "nothing to gain": "", "not known": "over"}


class ChargingView:
    """What is given, taken and stored."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self.results = page.evaluation.results

    trip_path = at_the(Use, lambda it: it.trip)
    programme_path = at_the(Use, lambda it: it.programme_percent)
    reserve_path = at_the(Use, lambda it: it.reserve_percent)
    listens_path = at_the(Use, lambda it: it.listens_h)

    @property
    def energy(self) -> Energy | None:
        """The day; None where nothing is fed."""
        return self.results.energy

    @property
    def engine_off(self) -> EngineOff | None:
        """Listening; None where nothing is fed."""
        return self.results.engine_off

    @property
    def parked(self) -> Parked | None:
        """Standing; None where nothing of the plan draws."""
        return self.results.parked

    @property
    def asleep(self) -> str:
        """What draws while the car stands, and whose papers do not say."""
        off = self.parked
        if off is None:
            return ""
        drawn = [f"{t.name} {amount(t.value, 'a') if t.value is not None else 'not known'}" for t in off.asleep]
        silent = f"; not on their papers: {listed(list(off.silent))}" if off.silent else ""
        return f"Asleep: {', '.join(drawn)}{silent}."

    @property
    def even(self) -> dict[str, Figure]:
        """By season, the loudest programme the drive carries."""
        return self.results.even_programmes

    @property
    def legs(self) -> list[tuple[float, float]]:
        """(minutes, turns of the engine) of the usual drive; no turns where a converter charges."""
        turns = self.page.design.vehicle.supply.kind is not SupplyKind.DC_DC
        return [
            (float(m), float(n) if turns else 0.0) for m, n in table("supply", "trips")[self.page.design.use.trip.value]
        ]

    @property
    def charge_drawing(self) -> Markup:
        """The charge over the usual drive."""
        energy = self.energy
        return two_widths(*draw_charge(energy, self.legs)) if energy else Markup("")

    @property
    def budget(self) -> Budget | None:
        """The charging budget; None where nothing is fed."""
        return self.results.budget

    @property
    def budget_drawing(self) -> Markup:
        """What is given against what is taken."""
        budget = self.results.budget
        return two_widths(draw_budget(budget), draw_budget(budget, PHONE)) if budget else Markup("")

    def tone(self, cure: Cure) -> str:
        """The tone a cure's worth is said in."""
        return WORTH[cure.worth]
