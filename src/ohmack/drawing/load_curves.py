"""What an output with capacitors and coils in line does over frequency: its load, and the level each speaker gets."""

from __future__ import annotations

from math import ceil

from markupsafe import Markup

from ohmack.core.factory.over_frequency import HEARD_HZ, Swept
from ohmack.core.wording import trimmed
from ohmack.drawing.frequency_chart import HEARD, Chart, Limit, Line, both_widths

STYLES = ("strong", "most", "faint", "thin")
SHOWN_DB = 24.0  # below the output, beyond which nothing is heard of it


def draw_swept(swept: Swept) -> tuple[Markup, Markup]:
    """Both charts of an output, for a screen and for a phone."""
    lines = tuple(
        Line(branch.level_db, STYLES[n % len(STYLES)], branch.speaker.name) for n, branch in enumerate(swept.branches)
    )
    level = Chart("Voltage at each speaker, of the output's", "dB", lines, -SHOWN_DB, 3.0)
    top = min(float(swept.load_ohm.max()), 40.0)
    limit = None
    if swept.lowest_ohm is not None and swept.bears_ohm is not None:
        limit = Limit(swept.bears_ohm, f"80 % of {trimmed(swept.lowest_ohm)} Ω", from_below=True)
        top = max(top, 1.3 * swept.lowest_ohm)
    load = Chart("Impedance", "Ω", (Line(swept.load_ohm, "strong", ""),), 0.0, 2.0 * ceil(top / 2 + 0.2), limit)
    return both_widths((level, load), HEARD_HZ, f"{swept.name} over frequency", HEARD)
