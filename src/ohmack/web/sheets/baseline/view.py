"""What the baseline's page shows."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.document.factory import StepReading
from ohmack.core.document.vehicle import SupplyKind
from ohmack.drawing.steps import draw_steps
from ohmack.web.fields import FactView
from ohmack.web.page import Page

POSTS = ("post_resting_v", "post_cranking_v", "post_running_v", "post_loaded_v", "post_traffic_v", "standby_current_a")


class BaselineView:
    """The car's readings before anything is touched, for their page."""

    def __init__(self, page: Page) -> None:
        self.page = page

    @property
    def posts(self) -> list[FactView]:
        """Post voltages per state, standby current, ground."""
        vehicle = self.page.design.vehicle
        unread = {"post_traffic_v"} if vehicle.supply.kind is not SupplyKind.SMART else set()
        unread |= set() if vehicle.starts else {"post_cranking_v"}
        names = [name for name in POSTS if name not in unread]
        paths = [f"vehicle/supply/{name}" for name in (*names, "battery_strap_ohm", "body_return_ohm")]
        return [self.page.fact(path) for path in paths]

    @property
    def tones(self) -> list[float]:
        """The tones that were read or recorded [hz]."""
        return sorted({reading.tone_hz for reading in self.page.design.vehicle.volume_steps})

    @property
    def steps(self) -> list[tuple[float, list[StepReading | None]]]:
        """Every volume step with its reading of every tone."""
        read = {(r.step, r.tone_hz): r for r in self.page.design.vehicle.volume_steps}
        return [(step, [read.get((step, tone)) for tone in self.tones]) for step in sorted({step for step, _ in read})]

    @property
    def steps_chart(self) -> Markup:
        """Level over volume step."""
        return draw_steps(self.page.evaluation.results.baseline)
