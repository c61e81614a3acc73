"""Filters of every output, and where subwoofers meet the front, for their page."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

from markupsafe import Markup

from ohmack.core.box.arrivals import Arrival, arrivals
from ohmack.core.box.crossing import MET_HZ, Meeting, output_filters, slope_of
from ohmack.core.document.handles import at
from ohmack.core.loads.bench import coils_on, turned_round
from ohmack.core.loads.wirings import LoadResult
from ohmack.drawing.crossing_curves import EVERY_HZ, draw_crossing, draw_filters
from ohmack.web.car_picture import two_widths
from ohmack.web.fields import Field, field_of
from ohmack.web.page import Page

FILTERS = ("high_pass_hz", "low_pass_hz", "filter_slope_db", "filter_family", "delay_ms", "bands")


@dataclass(frozen=True)
class FilterRow:
    """One output with its filters as they are set, and the fields to set them."""

    load: LoadResult
    slope_db: int
    fields: tuple[Field, ...]


class CrossingView:
    """Crossovers for their page."""

    many_points = len(MET_HZ)

    def __init__(self, page: Page) -> None:
        self.page = page
        self.results = page.evaluation.results

    @property
    def met(self) -> list[tuple[Meeting, Markup]]:
        """Every subwoofer against the front, drawn."""
        return [(one, two_widths(*draw_crossing(one))) for one in self.results.meetings]

    @staticmethod
    def turned(one: Meeting) -> str:
        """The wiring with the subwoofer turned round; empty where that brings nothing."""
        dip, turned = one.dip.value, one.turned_dip.value
        if dip is None or turned is None or turned <= dip:
            return ""
        return turned_round(one.load, [coil.name for coil in coils_on(one.load)])

    @staticmethod
    def later(one: Meeting) -> str:
        """How much later a subwoofer is heard, in words."""
        if one.later_ms is None:
            return "no place of a box on the plan, so distance is left out"
        side = "later" if one.later_ms >= 0 else "earlier"
        return f"{abs(one.later_ms):.1f} ms {side} at the driver's head, by the plan"

    @cached_property
    def arrivals(self) -> tuple[Arrival, ...]:
        """When every output is heard at the driver's head."""
        return arrivals(self.page.design, self.results.loads)

    @property
    def filters(self) -> Markup:
        """The filters of every output, drawn."""
        made = output_filters(self.results.loads, self.results.crossovers, EVERY_HZ)
        return two_widths(*draw_filters(made)) if made else Markup("")

    @property
    def rows(self) -> list[FilterRow]:
        """Every output with its filters."""
        design = self.page.design
        return [
            FilterRow(
                load,
                slope_of(load.link, load.amplifier),
                tuple(field_of(design, f"{at(load.link)}/{name}") for name in FILTERS),
            )
            for load in self.results.loads
        ]
