"""The units: the suffix of a field's name, how it is shown, what is measured in it, its name for a unit library."""

from __future__ import annotations

from ohmack.core.record import record


@record
class Unit:
    """One unit of the document."""

    suffix: str  # the end of a field's name
    shown: str
    measures: str = ""  # "a length": what a field in it asks for; empty where nobody types it
    library: str = ""  # its name for the library that reads what people type; empty where it knows none


UNITS = {
    unit.suffix: unit
    for unit in (
        Unit("v", "V", "a voltage", "V"),
        Unit("a", "A", "a current", "A"),
        Unit("ohm", "Ω", "a resistance", "ohm"),
        Unit("w", "W", "a power", "W"),
        Unit("hz", "Hz", "a frequency", "Hz"),
        Unit("uf", "µF", "a capacitance", "uF"),
        Unit("f", "F", "a capacitance", "F"),
        Unit("m", "m", "a length", "m"),
        Unit("mm", "mm", "a length", "mm"),
        Unit("mm2", "mm²", "an area", "mm**2"),
        Unit("cm2", "cm²", "an area", "cm**2"),
        Unit("kg", "kg", "a mass", "kg"),
        Unit("g", "g", "a mass", "g"),
        Unit("mh", "mH", "an inductance", "mH"),
        Unit("l", "l", "a volume", "l"),
        Unit("c", "°C", "a temperature", "degC"),
        Unit("ah", "Ah", "a battery capacity", "A*hour"),
        Unit("min", "min", "a time", "minute"),
        Unit("ms", "ms", "a time", "millisecond"),
        Unit("db", "dB", "a level"),
        Unit("dbv", "dBV", "a level"),
        Unit("dbfs", "dBFS", "a level"),
        Unit("n", "N"),
        Unit("m_s", "m/s"),
        Unit("deg", "°"),
        Unit("days", "days"),
        Unit("h", "h"),
        Unit("mv", "mV", "a voltage", "mV"),
        Unit("ma", "mA", "a current", "mA"),
        Unit("percent", "%"),
        Unit("rpm", "/min"),
        Unit("ohm_per_m", "mΩ/m"),
    )
}
"""By suffix. Levels are ours: a unit library means something else by dBu."""


def unit_of(field: str) -> str:
    """The unit at the end of a field name, or "" where it has none.

    >>> unit_of("post_running_v"), unit_of("wire_size"), unit_of("area_mm2")
    ('v', '', 'mm2')
    """
    last = field.rpartition("_")[2]
    return last if last != field and last in UNITS and UNITS[last].measures else ""
