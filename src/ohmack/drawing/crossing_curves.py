"""A subwoofer against the front over frequency: each alone, both together, and with the subwoofer reversed."""

from __future__ import annotations

from collections.abc import Sequence
from math import ceil

from markupsafe import Markup

from ohmack.core.box.crossing import EVERY_HZ, MET_HZ, Meeting
from ohmack.core.loads.wirings import LoadResult
from ohmack.core.physics.filter_families import Complexes, Floats, level_db
from ohmack.core.wording import listed
from ohmack.drawing.car import NARROW
from ohmack.drawing.frequency_chart import HEARD, Axis, Chart, Line, Sheet, both_widths, draw_curves

MET = Axis(20.0, 500.0, (20, 30, 50, 80, 120, 200, 300, 500), (30, 120, 300), named=True)
SHOWN_DB, TOP_DB = -30.0, 9.0


STYLES = ("strong", "most", "faint", "thin")


def draw_filters(filters: Sequence[tuple[LoadResult, Complexes]]) -> tuple[Markup, Markup]:
    """The filters of every output, those that are alike once, for a screen and for a phone."""
    alike: dict[tuple[str, ...], tuple[Floats, list[LoadResult]]] = {}
    for load, response in filters:
        level = level_db(response)
        alike.setdefault(tuple(f"{value:.2f}" for value in level[::12]), (level, []))[1].append(load)
    lines = tuple(
        Line(level, STYLES[n % len(STYLES)], listed([_short(load) for load in loads]))
        for n, (level, loads) in enumerate(alike.values())
    )
    top = max(6.0, 3.0 * ceil(max(float(line.values.max()) for line in lines) / 3 + 0.5))
    chart = Chart("Filters and equaliser of every output", "dB", lines, SHOWN_DB, top)
    wide, narrow = (
        draw_curves((chart,), EVERY_HZ, "Filters of every output", HEARD, Sheet(width, 1, 160.0))
        for width in (760.0, NARROW)
    )
    return wide, narrow


def _short(load: LoadResult) -> str:
    return load.amplifier.name if load.amplifier.channels == 1 else f"{load.amplifier.name} {load.link.channel}"


def draw_crossing(met: Meeting) -> tuple[Markup, Markup]:
    """Both charts, for a screen and for a phone."""
    each = (Line(level_db(met.sub), "most", met.load.driven_name), Line(level_db(met.ahead), "faint", met.front))
    whole = (Line(level_db(met.whole), "strong", "as wired"), Line(level_db(met.reversed), "faint", "reversed"))
    charts = (
        Chart("Each alone", "dB", each, SHOWN_DB, TOP_DB),
        Chart("Both together", "dB", whole, SHOWN_DB, TOP_DB),
    )
    return both_widths(charts, MET_HZ, f"{met.load.driven_name} against {met.front}", MET)
