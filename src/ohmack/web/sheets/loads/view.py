"""What the sheet of loads shows besides them: how a driver's coils could be wired in the car's own place."""

from __future__ import annotations

from dataclasses import dataclass

from markupsafe import Markup

from ohmack.core.document.small_parts import SpeakerPad
from ohmack.core.factory.coil_choices import CoilChoice, OwnPlace
from ohmack.core.factory.over_frequency import Swept
from ohmack.core.loads.bench import Terminal, bench_of, terminals
from ohmack.core.loads.coil_faults import Fault, coil_faults
from ohmack.core.loads.coil_rows import CoilRow, coil_rows, half_ohm
from ohmack.core.loads.coil_split import Split, split_of
from ohmack.core.loads.meter import Point, Wrong, meaning_of, points, ways_shown, wrong_readings
from ohmack.core.loads.spreads import MOST_SHOWN, Spread, said, spreads
from ohmack.core.loads.wiring_judge import WiringOption
from ohmack.core.loads.wirings import AmplifierLoad, LoadResult
from ohmack.core.prove.beside import pair_read
from ohmack.core.wording import amount, listed
from ohmack.drawing.coils import draw_thumbnail, draw_wiring
from ohmack.drawing.driver_backs import can_be_drawn, draw_backs
from ohmack.drawing.load_curves import draw_swept
from ohmack.drawing.outputs import draw_outputs
from ohmack.web.car_picture import two_widths
from ohmack.web.page import Page

MOST_WIRINGS, MOST_CAUSES = 12, 4
UNDRAWN = Markup('<p class="calm">Laid by hand, and no series or parallel: its leads are listed below.</p>')


@dataclass(frozen=True)
class Meter:
    """What the meter shows at one output: the points, the wrong readings, and what was read."""

    points: tuple[Point, ...]
    wrong: tuple[Wrong, ...]
    lead_ohm: float
    read: bool
    meaning: str
    ways: tuple[Point, ...] = ()  # while nobody said how it is wired: what each wiring would show


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
                self._drawn(load),
                [(option, draw_thumbnail(option.wiring)) for option in self._shown(load)],
            )
            for load in self.results.loads
        ]

    def _drawn(self, load: LoadResult) -> Markup:
        """The drivers as they lie on a bench, where there is room, else their coils; with what was read."""
        read, backs = pair_read(self.results, load.scope), can_be_drawn(load, load.chosen)
        wide = draw_backs(load, load.chosen, read) if backs else draw_wiring(load, load.chosen, read=read)
        return two_widths(wide or UNDRAWN, draw_wiring(load, load.chosen, True, read) or UNDRAWN)

    @staticmethod
    def _shown(load: LoadResult) -> tuple[WiringOption, ...]:
        """Few wirings by their load; of many the best, and the one that is taken."""
        if len(load.options) <= MOST_WIRINGS:
            return load.options
        best = load.ranked[:MOST_WIRINGS]
        return best if load.chosen in best else (load.chosen, *best[:-1])

    def meter(self, load: LoadResult) -> Meter:
        """What the meter shows at an output, and what was read there."""
        lead_ohm = self.results.lead_ohm(load)
        ohm = load.link.reads_ohm.value
        if load.unread:
            ways = tuple(point for _, point in ways_shown(load, lead_ohm))
            return Meter(points(load, lead_ohm), (), lead_ohm, ohm is not None, "", ways)
        meaning = "" if ohm is None else meaning_of(load, ohm, lead_ohm)
        return Meter(points(load, lead_ohm), wrong_readings(load, lead_ohm), lead_ohm, ohm is not None, meaning)

    @staticmethod
    def coils(load: LoadResult) -> tuple[CoilRow, ...]:
        """Every coil at full power."""
        return coil_rows(load)

    @staticmethod
    def half_ohm(load: LoadResult) -> float | None:
        """What each half of a bridge sees [ohm]."""
        return half_ohm(load)

    @staticmethod
    def faults(load: LoadResult) -> tuple[Fault, ...]:
        """What happens when a coil fails."""
        return coil_faults(load)

    @staticmethod
    def then(fault: Fault) -> str:
        """What an output does with a coil that failed, in words."""
        if fault.opens:
            return "silent"
        if not fault.permitted:
            return f"under the {amount(fault.lowest_ohm, 'ohm')} permitted: shuts down or fails"
        if fault.hardest is None:
            return "no rating for this load"
        name, watts, takes = fault.hardest
        return f"{name} gets {amount(watts, 'w')}" + (f" of {amount(takes, 'w')}" if takes else "")

    @staticmethod
    def window(point: Point) -> str:
        """What a meter may show at a point."""
        return f"{amount(point.low_ohm, 'ohm')} to {amount(point.high_ohm, 'ohm')}"

    @staticmethod
    def causes(row: Wrong) -> str:
        """What would show a reading: the likeliest few."""
        more = "; or another wiring" if len(row.causes) > MOST_CAUSES else ""
        return "; or ".join(row.causes[:MOST_CAUSES]) + more

    @staticmethod
    def terminals(load: LoadResult) -> tuple[Terminal, ...]:
        """Every terminal a lead may go from or to."""
        return terminals(load)

    def split(self, load: LoadResult) -> Split | None:
        """What else can be done with the coils of a lone driver."""
        return split_of(self.results.design, load)

    @staticmethod
    def leads(load: LoadResult) -> list[tuple[Terminal, Terminal]]:
        """The leads as they lie."""
        named = {terminal.name: terminal for terminal in terminals(load)}
        return [(named[a], named[b]) for a, b in bench_of(load).leads]

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
    def outputs(self) -> Markup:
        """Every output of every amplifier in one picture, where there are several."""
        if len(self.results.loads) < 2:
            return Markup("")
        return draw_outputs(self.results.loads, self.results.cables)

    @property
    def over_frequency(self) -> list[tuple[Swept, str, Markup]]:
        """Every output with something in line, those like it named with it, and its curves."""
        alike: list[list[Swept]] = []
        for swept in self.results.over_frequency:
            group = next((rows for rows in alike if rows[0].is_like(swept)), None)
            if group is None:
                alike.append([swept])
            else:
                group.append(swept)
        return [(rows[0], listed([one.name for one in rows]), two_widths(*draw_swept(rows[0]))) for rows in alike]

    @property
    def own_places(self) -> list[tuple[OwnPlace, list[tuple[CoilChoice, Markup]]]]:
        """Drivers of several coils in the car's own place, each way of wiring with its picture."""
        return [
            (place, [(choice, draw_thumbnail(choice.wiring)) for choice in place.choices])
            for place in self.results.own_places
        ]
