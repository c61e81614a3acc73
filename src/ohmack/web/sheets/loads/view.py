"""What the sheet of loads shows besides them: how a driver's coils could be wired in the car's own place."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.document.parts import Subwoofer
from ohmack.core.factory.outputs import coil_wirings
from ohmack.core.loads.wirings import LoadResult, WiringOption
from ohmack.core.wording import amount
from ohmack.drawing.coils import draw_thumbnail, draw_wiring
from ohmack.web.car_picture import two_widths
from ohmack.web.page import Page


class LoadsView:
    """Loads for their page."""

    def __init__(self, page: Page) -> None:
        self.results = page.evaluation.results
        self.design = page.evaluation.results.design

    @property
    def wirings(self) -> list[tuple[LoadResult, Markup, list[tuple[WiringOption, Markup]]]]:
        """Per driver: the load, the big picture, and every option with its thumbnail."""
        return [
            (
                load,
                two_widths(draw_wiring(load, load.chosen), draw_wiring(load, load.chosen, upright=True)),
                [(option, draw_thumbnail(option)) for option in load.options],
            )
            for load in self.results.loads
        ]

    @property
    def own_subs(self) -> list[Subwoofer]:
        """Drivers of several coils that take the car's own place."""
        return [sub for sub in self.design.parts_of(Subwoofer) if sub.at_ids and len(sub.coils) > 1]

    def coil_options(self, sub: Subwoofer) -> list[tuple[str, str]]:
        """(key, words) of how a driver's coils can be wired."""
        return [(w.key(), f"{w.words()}: {amount(w.resistance_ohm(), 'ohm')}") for w in coil_wirings(sub)]
