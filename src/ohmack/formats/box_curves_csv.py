"""A box's curves as CSV, a row a frequency, units in the headings."""

from __future__ import annotations

from ohmack.core.box.circuit import Solved
from ohmack.formats.csv_table import write_table


def write_box_curves(solved: Solved) -> bytes:
    """What a box gives at each frequency, at full level and at most."""
    found, most = solved.curves, solved.most
    columns = {
        "frequency_hz": found.frequency_hz, "response_db": found.response_db, "level_db": found.level_db,
        "most_level_db": most.level_db, "most_power_w": most.power_w, "travel_mm": 1000 * found.excursion_m,
        "air_speed_m_s": found.air_speed_m_s, "impedance_ohm": found.impedance_ohm,
        "group_delay_ms": 1000 * found.group_delay_s,
    }  # fmt: skip
    rows = [
        {name: f"{values[n]:.2f}" for name, values in columns.items()} | {"binds": most.binds[n]}
        for n in range(len(found.frequency_hz))
    ]
    return write_table(rows, (*columns, "binds"))
