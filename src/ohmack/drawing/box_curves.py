"""What a box gives over frequency: level, travel of the cone, air in the vent, impedance, group delay."""

from __future__ import annotations

from dataclasses import replace
from math import ceil

from ohmack.core.box.circuit import JUDGED_FROM_HZ, Solved
from ohmack.core.physics.box_limits import MOST_AIR_SPEED_M_S
from ohmack.core.physics.boxes import Floats, Vent
from ohmack.drawing.frequency_chart import BASS, Chart, Limit, Line

BOXED = replace(BASS, judged_from_hz=JUDGED_FROM_HZ)


def charts_of(solved: Solved, cabin_db: Floats | None = None) -> list[Chart]:
    """What there is to draw of a box at full level."""
    curves = solved.curves
    levels = [
        Line(solved.most.level_db, "most", "the most it gives"),
        Line(curves.level_db, "strong", "at full level, as driven"),
    ]
    if cabin_db is not None:
        levels.append(Line(curves.level_db + cabin_db, "faint", "about so much in the cabin"))
    top = 5.0 * ceil(max(float(line.values.max()) for line in levels) / 5 + 0.2)
    found = [Chart("Level at 1 m", "dB", tuple(levels), top - 40.0, top)]
    xmax_mm = solved.xmax_mm
    travel = 1000 * curves.excursion_m
    tallest = max(solved.travel_mm, xmax_mm or 0.0)
    limit = None if xmax_mm is None else Limit(xmax_mm, f"{xmax_mm:.0f} mm in its papers")
    found.append(Chart("Cone, one way", "mm", (Line(travel, "strong", ""),), 0.0, 1.3 * tallest, limit))
    if isinstance(solved.enclosure.outlet, Vent) and solved.enclosure.outlet.ends:
        speed = curves.air_speed_m_s
        most = max(float(speed.max()), MOST_AIR_SPEED_M_S)
        heard = Limit(MOST_AIR_SPEED_M_S, f"heard above about {MOST_AIR_SPEED_M_S:.0f} m/s")
        found.append(Chart("Air in the vent", "m/s", (Line(speed, "strong", ""),), 0.0, 1.25 * most, heard))
    ohms = curves.impedance_ohm
    found.append(Chart("Impedance", "Ω", (Line(ohms, "strong", ""),), 0.0, 1.15 * float(ohms.max())))
    delay_ms = 1000 * curves.group_delay_s
    tall = 5.0 * ceil(float(delay_ms[_drawn(solved)].max()) / 5 + 0.1)
    found.append(Chart("Group delay", "ms", (Line(delay_ms, "strong", ""),), 0.0, tall))
    return found


def _drawn(solved: Solved) -> slice:
    """The frequencies from where the response is still heard."""
    return slice(int(solved.curves.frequency_hz.searchsorted(JUDGED_FROM_HZ)), None)
