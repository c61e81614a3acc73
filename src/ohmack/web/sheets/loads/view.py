"""What the sheet of loads shows besides them: how a driver's coils could be wired in the car's own place."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.document.small_parts import SpeakerPad
from ohmack.core.factory.coil_choices import CoilChoice, OwnPlace
from ohmack.core.loads.spreads import MOST_SHOWN, Spread, said, spreads
from ohmack.core.loads.wirings import AmplifierLoad, LoadResult, WiringOption
from ohmack.drawing.coils import draw_thumbnail, draw_wiring
from ohmack.web.car_picture import two_widths
from ohmack.web.page import Page

MOST_WIRINGS = 12


class LoadsView:
    """Loads for their page."""

    def __init__(self, page: Page) -> None:
        self.results = page.evaluation.results

    @property
    def wirings(self) -> list[tuple[LoadResult, Markup, list[tuple[WiringOption, Markup]]]]:
        """Per output: the load, the big picture, and the options with their thumbnails: all, or of many the best."""
        return [
            (
                load,
                two_widths(draw_wiring(load, load.chosen), draw_wiring(load, load.chosen, upright=True)),
                [(option, draw_thumbnail(option.wiring)) for option in self._shown(load)],
            )
            for load in self.results.loads
        ]

    @staticmethod
    def _shown(load: LoadResult) -> tuple[WiringOption, ...]:
        """Few wirings by their load; of many the best, and the one that is taken."""
        if len(load.options) <= MOST_WIRINGS:
            return load.options
        best = load.ranked[:MOST_WIRINGS]
        return best if load.chosen in best else (load.chosen, *best[:-1])

    @property
    def spreads(self) -> list[tuple[AmplifierLoad, list[Spread]]]:
        """Per amplifier with several subwoofers: the best ways to spread them over its channels."""
        found = [(load, spreads(self.results.design, load)) for load in self.results.amplifier_loads]
        return [(load, self._best(rows)) for load, rows in found if len(rows) > 1]

    @staticmethod
    def _best(rows: tuple[Spread, ...]) -> list[Spread]:
        best = list(rows[:MOST_SHOWN])
        now = next((row for row in rows if row.chosen), None)
        return best if now is None or now in best else [now, *best[:-1]]

    @staticmethod
    def said(spread: Spread) -> str:
        """What a spread gives, in words."""
        return said(spread)

    @property
    def padded(self) -> list[tuple[str, str]]:
        """Every speaker behind a pad that is driven, by name, with what its figures are filed under."""
        named = {speaker.id: speaker.name.lower() for speaker in self.results.design.vehicle.speakers}
        pads = [(f"{pad.id}/{name}", name) for pad in self.results.design.parts_of(SpeakerPad) for name in pad.at_ids]
        return [(named[name], scope) for scope, name in pads if f"{scope}/level_db" in self.results.book.figures]

    @property
    def own_places(self) -> list[tuple[OwnPlace, list[tuple[CoilChoice, Markup]]]]:
        """Drivers of several coils in the car's own place, each way of wiring with its picture."""
        return [
            (place, [(choice, draw_thumbnail(choice.wiring)) for choice in place.choices])
            for place in self.results.own_places
        ]
