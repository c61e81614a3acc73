"""A subwoofer against the front over frequency: each alone, both together, and with the subwoofer turned round."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.box.crossing import MET_HZ, Meeting
from ohmack.core.physics.filter_families import level_db
from ohmack.drawing.frequency_chart import Axis, Chart, Line, both_widths

MET = Axis(20.0, 500.0, (20, 30, 50, 80, 120, 200, 300, 500), (30, 120, 300), named=True)
SHOWN_DB, TOP_DB = -30.0, 9.0


def draw_crossing(met: Meeting) -> tuple[Markup, Markup]:
    """Both charts, for a screen and for a phone."""
    each = (Line(level_db(met.sub), "most", met.load.driven_name), Line(level_db(met.ahead), "faint", met.front))
    whole = (Line(level_db(met.whole), "strong", "as wired"), Line(level_db(met.turned), "faint", "turned round"))
    charts = (
        Chart("Each alone", "dB", each, SHOWN_DB, TOP_DB),
        Chart("Both together", "dB", whole, SHOWN_DB, TOP_DB),
    )
    return both_widths(charts, MET_HZ, f"{met.load.driven_name} against {met.front}", MET)
