"""Filters of every output, and where subwoofers meet the front, for their page."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

from markupsafe import Markup

from ohmack.core.box.crossing import READ_HZ, Meeting, filtered, read_off
from ohmack.core.document.handles import at
from ohmack.core.document.links import LineLink
from ohmack.core.loads.bench import coils_on, reversed_at
from ohmack.core.loads.wirings import LoadResult
from ohmack.core.physics.filter_families import Complexes
from ohmack.core.signal.crossovers import filter_shape
from ohmack.core.signal.ways import SET_FOR_A_PAIR, line_source
from ohmack.drawing.crossing_curves import draw_crossing, draw_filters
from ohmack.web.car_picture import two_widths
from ohmack.web.fields import Field, field_of
from ohmack.web.page import Page

FILTERS = ("high_pass_hz", "low_pass_hz", "filter_slope_db", "filter_family", "delay_ms", "turned_down_db", "bands")


@dataclass(frozen=True)
class FilterRow:
    """One output with its filters as they are set, and the fields to set them."""

    load: LoadResult
    filters: bool  # whether the amplifier filters at all
    slope_db: int
    family: str
    fields: tuple[Field, ...]
    source_fields: tuple[Field, ...]  # of the line that feeds it: what is set in the radio or the processor
    source: str


class CrossingView:
    """Crossovers for their page."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self.results = page.evaluation.results

    @property
    def met(self) -> list[tuple[Meeting, Markup]]:
        """Every subwoofer against the front, drawn."""
        return [(one, two_widths(*draw_crossing(one))) for one in self.results.meetings]

    @staticmethod
    def reversed(one: Meeting) -> str:
        """The wiring with the subwoofer's polarity reversed; empty where that brings nothing."""
        dip, other = one.dip.value, one.reversed_dip.value
        if dip is None or other is None or other <= dip:
            return ""
        return reversed_at(one.load, [coil.name for coil in coils_on(one.load)])

    @cached_property
    def made(self) -> list[tuple[LoadResult, Complexes]]:
        """What the filters of every output do."""
        results = self.results
        return [(load, filtered(load, results.crossover_of(load.scope), everywhere=True)) for load in results.loads]

    @property
    def filters(self) -> Markup:
        """The filters of every output, drawn."""
        return two_widths(*draw_filters(self.made)) if self.made else Markup("")

    @property
    def table(self) -> list[tuple[float, list[float]]]:
        """The same as numbers: every frequency with the level of every output [db]."""
        levels = [read_off(response) for _, response in self.made]
        return [(hz, [row[n] for row in levels]) for n, hz in enumerate(READ_HZ)]

    @property
    def rows(self) -> list[FilterRow]:
        """Every output with its filters."""
        design = self.page.design
        return [
            FilterRow(
                load,
                self._filters(load),
                *filter_shape(load.link, load.amplifier),
                tuple(field_of(design, f"{at(load.link)}/{name}") for name in FILTERS),
                tuple(field_of(design, f"{at(line)}/{name}") for name in SET_FOR_A_PAIR) if line is not None else (),
                line_source(design, line.from_id).name if line is not None else "",
            )
            for load, line in ((load, self._line_of(load)) for load in self.results.loads)
        ]

    def _filters(self, load: LoadResult) -> bool:
        entry = self.results.crossover_of(load.scope)
        return entry is not None and bool(entry.high_pass or entry.low_pass)

    def _line_of(self, load: LoadResult) -> LineLink | None:
        """The line of an output, at the first output it feeds."""
        entry = self.results.crossover_of(load.scope)
        line = entry.line if entry is not None else None
        first = next((e for e in self.results.crossovers if line is not None and e.line is line), None)
        return line if first is entry else None
