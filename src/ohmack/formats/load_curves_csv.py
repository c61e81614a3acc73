"""An output's load and levels over frequency as CSV, a row a frequency, units in the headings."""

from __future__ import annotations

from ohmack.core.factory.over_frequency import HEARD_HZ, Swept
from ohmack.formats.csv_table import write_table


def write_load_curves(swept: Swept) -> bytes:
    """What the output sees at each frequency, and what each speaker gets of its voltage."""
    columns = {"frequency_hz": HEARD_HZ, "impedance_ohm": swept.load_ohm}
    columns |= {f"{branch.speaker.name} level_db": branch.level_db for branch in swept.branches}
    rows = [{name: f"{values[n]:.2f}" for name, values in columns.items()} for n in range(len(HEARD_HZ))]
    return write_table(rows, tuple(columns))
