"""Numbers as an installer says them: units, digits and prefixes in one place."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from math import floor, isfinite, log10

from ohmack.core.units import UNITS

LETTERS = "ABCDEFGHJKLMNPQR"  # what tells equal things apart; I and O look like figures
SHOWN = {suffix: unit.shown for suffix, unit in UNITS.items()}


def digits(value: float, significant: int = 3, most: int = 2) -> str:
    """A number to about three significant digits, at most two decimals, without scientific notation.

    >>> digits(-0.004), digits(-0.05)
    ('0.00', '−0.05')
    """
    if not isfinite(value):
        return "∞" if value > 0 else "−∞"
    if value == 0:
        return "0"
    places = max(0, min(most, significant - 1 - floor(log10(abs(value)))))
    return f"{value:z.{places}f}".replace("-", "−")


def trimmed(value: float) -> str:
    """A stated number as it was stated: no trailing zeros."""
    return f"{value:.6g}".replace("-", "−")


def amount(value: float, unit: str, length_unit: str = "m") -> str:
    """A value with its unit.

    Parameters:
        value: the number, in SI.
        unit: suffix of the field name, for example "v" or "ohm".
        length_unit: "m" or "ft", how lengths are said.

    >>> amount(0.0015, "ohm")
    '1.50 mΩ'
    >>> amount(0.386, "v"), amount(-0.04, "db"), amount(-12.5, "v")
    ('0.39 V', '0.0 dB', '−12.50 V')
    """
    if unit == "ohm" and 0 < abs(value) < 0.1:
        return f"{digits(value * 1000)} mΩ"
    if unit == "ohm" and 1000 <= abs(value) < 1e6:
        return f"{trimmed(value / 1000)} kΩ"
    if unit == "v" and 0 < abs(value) < 0.01:
        return f"{digits(value * 1000)} mV"
    if unit == "ohm_per_m":
        return f"{digits(value * 1000)} mΩ/m"
    if unit == "m" and length_unit == "ft":
        inches = round(value / 0.0254)
        return f"{inches // 12} ft {inches % 12} in" if inches >= 12 else f"{inches} in"
    if unit == "m":
        return f"{value:z.2f} m".replace("-", "−")
    if unit == "v":
        return f"{value:z.2f} V".replace("-", "−")
    if unit in ("db", "dbv", "dbfs"):
        return f"{value:z.1f} {SHOWN[unit]}".replace("-", "−")
    if unit == "mm":
        return f"{value:z.1f} mm".replace(".0 mm", " mm").replace("-", "−")
    if unit == "percent":
        places = 1 if abs(value) < 10 and not float(value).is_integer() else 0
        return f"{value:z.{places}f} %".replace("-", "−")
    shown = SHOWN.get(unit, unit)
    return f"{digits(value)} {shown}".strip()


def numbered(numbers: Iterable[int]) -> str:
    """Whole numbers in order, those in a row as a range.

    >>> numbered([5, 2, 3, 4, 9, 10])
    '2–5, 9, 10'
    """
    rows: list[list[int]] = []
    for n in sorted(set(numbers)):
        if rows and n == rows[-1][-1] + 1:
            rows[-1].append(n)
        else:
            rows.append([n])
    said = (f"{r[0]}–{r[-1]}" if len(r) > 2 else ", ".join(map(str, r)) for r in rows)
    return ", ".join(said)


def count(number: int, one: str, many: str = "") -> str:
    """`1 stop`, `2 stops`, `2 boxes`, `2 accessories`.

    >>> count(1, "way"), count(2, "way"), count(2, "box"), count(0, "accessory")
    ('1 way', '2 ways', '2 boxes', '0 accessories')
    """
    if number == 1:
        return f"1 {one}"
    usual = f"{one}es" if one.endswith(("x", "ch", "sh", "s")) else f"{one}s"
    if one.endswith("y") and one[-2] not in "aeiou":
        usual = f"{one[:-1]}ies"
    return f"{number} {many or usual}"


def times_of(number: int) -> str:
    """`2 × ` before what there are two of; nothing before a single one.

    >>> times_of(2) + "175 A", times_of(1) + "175 A"
    ('2 × 175 A', '175 A')
    """
    return f"{number} × " if number > 1 else ""


def counted(names: Sequence[str]) -> str:
    """Names in a row, equal ones counted.

    >>> counted(["Twelve", "Ten", "Twelve"])
    '2 × Twelve and Ten'
    """
    several = {name: list(names).count(name) for name in names}
    return listed([name if many == 1 else f"{many} × {name}" for name, many in several.items()])


def listed(items: list[str]) -> str:
    """`a`, `a and b`, `a, b and c`."""
    return items[0] if len(items) == 1 else f"{', '.join(items[:-1])} and {items[-1]}" if items else ""


def sentence(words: str) -> str:
    """Words somebody typed, with the full stop they may have typed too.

    >>> sentence("the shelf buzzes"), sentence("The shelf buzzes. "), sentence("Why?")
    ('the shelf buzzes.', 'The shelf buzzes.', 'Why?')
    """
    words = words.strip()
    return words if words.endswith((".", "!", "?", "…")) else f"{words}."


def percent(share: float) -> str:
    """A share as a whole number of hundredths.

    >>> percent(0.474)
    '47'
    """
    return f"{share * 100:.0f}"


def millimetres(metres: float) -> str:
    """A length as whole millimetres.

    >>> millimetres(0.4106)
    '411'
    """
    return f"{metres * 1000:.0f}"


def hours(minutes: float) -> str:
    """Minutes as hours to one decimal.

    >>> hours(150)
    '2.5'
    """
    return f"{minutes / 60:.1f}"


def article(noun: str) -> str:
    """A noun with its indefinite article.

    >>> article("interface"), article("ring coupler")
    ('an interface', 'a ring coupler')
    """
    return f"{'an' if noun[:1] in 'aeiou' else 'a'} {noun}"


def lowered(words: str) -> str:
    """Words within a sentence: the first letter small, names and abbreviations as they are.

    >>> lowered("Ground drop of Tessel M500"), lowered("RCA lead")
    ('ground drop of Tessel M500', 'RCA lead')
    """
    return words if words[1:2].isupper() else words[:1].lower() + words[1:]


def time_span(low_min: float, high_min: float) -> str:
    """A range of minutes, in hours where it is long.

    >>> time_span(40, 75), time_span(150, 240), time_span(30, 30)
    ('40 to 75 min', '2.5 to 4.0 h', '30 min')
    """
    if high_min >= 120:
        low, high = hours(low_min), hours(high_min)
        return f"{low} to {high} h" if low != high else f"{high} h"
    return f"{low_min:.0f} to {high_min:.0f} min" if round(low_min) != round(high_min) else f"{low_min:.0f} min"


def file_size(size_bytes: int) -> str:
    """How large a file is.

    >>> file_size(83_210), file_size(30_400_000)
    ('83 kB', '30.4 MB')
    """
    return f"{size_bytes / 1e6:.1f} MB" if size_bytes >= 1e5 else f"{size_bytes / 1e3:.0f} kB"


WITHOUT_ENGINE = {
    "Engine running, volume down, then 2,000 turns.": "Car ready, volume down: fan and lights on, then a slow drive.",
    "whine with engine speed": "whine as it drives",
    "No whine with the engine": "No whine as it drives",
    "the engine running": "the car ready",
    "engine running": "car ready",
    "Engine running": "Car ready",
    "engine off": "car not ready",
    "Engine off": "Car not ready",
    "engine idling": "car ready, standing",
    "engine on": "car ready",
    "start the engine": "switch the car on",
    "A running engine charges": "A car that is ready charges",
    "idling with everything on": "standing with everything on",
    "Idling, all on": "Standing, all on",
    "Idling with": "Standing with",
    "at idle": "standing",
    "At idle": "Standing",
}
_OF_AN_ENGINE = re.compile("|".join(map(re.escape, WITHOUT_ENGINE)))  # the first that fits, so the longest are first


def without_engine(text: str) -> str:
    """What is said of a running engine, said of an electric car.

    >>> without_engine("Battery, engine running, no music")
    'Battery, car ready, no music'
    """
    return _OF_AN_ENGINE.sub(lambda found: WITHOUT_ENGINE[found[0]], text)
