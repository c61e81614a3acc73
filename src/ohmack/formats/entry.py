"""What people type, turned into SI: units, decimal commas, fractions, feet and inches, wire sizes."""

from __future__ import annotations

import re
from dataclasses import dataclass
from datetime import date, datetime
from fractions import Fraction
from functools import cache

from pint import DimensionalityError, UndefinedUnitError, UnitRegistry

from ohmack.core.units import UNITS

TARGET = {suffix: unit.library for suffix, unit in UNITS.items() if unit.library}
KIND = {suffix: unit.measures for suffix, unit in UNITS.items() if unit.measures}
SPELLED = {
    "Ω": "ohm",
    "Ohm": "ohm",
    "Ohms": "ohm",
    "k": "kohm",
    "ohms": "ohm",
    "mΩ": "mohm",
    "kΩ": "kohm",
    "'": "ft",
    "′": "ft",
    '"': "in",
    "″": "in",
    "''": "in",
    "mm²": "mm**2",
    "mm2": "mm**2",
    "sqmm": "mm**2",
    "cm²": "cm**2",
    "volts": "V",
    "volt": "V",
    "amps": "A",
    "amp": "A",
    "watts": "W",
    "watt": "W",
    "°C": "degC",
    "C": "degC",
    "lbs": "lb",
    "litres": "l",
    "metres": "m",
    "Ah": "A*hour",
    "ah": "A*hour",
    "min": "minute",
    "h": "hour",
}
MILLI_FIELDS = ("body_return_ohm", "battery_strap_ohm")
_NUMBER = r"[+-]?(?:\d+\s+\d+/\d+|\d+/\d+|\d*[.,]?\d+(?:[.,]\d+)*|\d+[.,]?)"
_PIECE = re.compile(rf"\s*(?P<number>{_NUMBER})\s*(?P<unit>[^\d\s+-][^\d\s]*2?)?")
_DROP_AT = re.compile(r"(?P<volts>.+?V)\s*(?:/|at|@)\s*(?P<amps>[^/]+A)")
_LEADS = re.compile(r"(?P<read>\S.*?)\s+-\s+(?P<leads>\S.*)")
_VULGAR = {"½": " 1/2", "¼": " 1/4", "¾": " 3/4", "⅛": " 1/8", "⅜": " 3/8", "⅝": " 5/8", "⅞": " 7/8"}


def is_whole(text: str, most_digits: int = 9) -> bool:
    """Whether a text is a plain whole number of few digits: no sign, no superscript, no endless row of figures.

    >>> is_whole("12"), is_whole("²"), is_whole("9" * 5000)
    (True, False, False)
    """
    return text.isascii() and text.isdigit() and len(text) <= most_digits


@dataclass
class EntryError(ValueError):
    """Typed text that cannot be read; the message says what to write instead."""

    message: str

    def __str__(self) -> str:
        return self.message


@cache
def _registry() -> UnitRegistry[float]:
    return UnitRegistry(cache_folder=None)


def entry_unit(field: str, unit: str, length_unit: str = "m") -> str:
    """The unit a bare number in this field is taken to have.

    >>> entry_unit("body_return_ohm", "ohm")
    'mohm'
    """
    if field in MILLI_FIELDS:
        return "mohm"
    if unit == "m" and length_unit == "ft":
        return "ft"
    return TARGET.get(unit, unit)


def read_number(text: str) -> float:
    """A bare number: decimal point or comma, fraction, mixed number.

    Raises:
        EntryError: no number, or one that can be read in two ways.

    >>> read_number("3 1/2"), read_number("4,5")
    (3.5, 4.5)
    """
    cleaned = text.strip().replace("−", "-")
    if re.fullmatch(r"[+-]?\d+\s+\d+/\d+", cleaned):
        whole, part = cleaned.split()
        sign = -1 if whole.startswith("-") else 1
        return float(int(whole) + sign * _fraction(part))
    if "/" in cleaned:
        return float(_fraction(cleaned))
    if "," in cleaned and "." in cleaned:
        thousands = "," if cleaned.rindex(".") > cleaned.rindex(",") else "."
        cleaned = cleaned.replace(thousands, "").replace(",", ".")
    elif re.fullmatch(r"[+-]?[1-9]\d{0,2},\d{3}", cleaned):
        as_decimal, as_thousands = cleaned.replace(",", "."), cleaned.replace(",", "")
        raise EntryError(f"“{text.strip()}” can be read in two ways: write {as_decimal} or {as_thousands}.")
    else:
        cleaned = cleaned.replace(",", ".")
    try:
        return float(cleaned)
    except ValueError:
        raise EntryError(f"“{text.strip()[:40]}” is no number.") from None


def _fraction(text: str) -> Fraction:
    try:
        return Fraction(text)
    except (ValueError, ZeroDivisionError):
        raise EntryError(f"“{text[:40]}” is no fraction.") from None


OPEN_WORDS = ("open", "ol", "o.l.", "o.l", "inf", "∞")  # what a meter shows, or a person types, where nothing conducts


def is_open(text: str) -> bool:
    """Whether a reading says that nothing conducts.

    >>> is_open("OL"), is_open("3.6")
    (True, False)
    """
    return text.strip().lower() in OPEN_WORDS


def read_quantity(text: str, unit: str, bare_unit: str = "") -> float:
    """Typed text as a number in the unit of the field.

    Parameters:
        text: for example "16 ft 4 in", "5,4 m", "1/2 in", "15 mohm", "15 mV at 10 A", "3.9 - 0.3" (less the leads),
        "9.2".
        unit: suffix of the field name ("m", "v", "ohm", ... or "" for a plain number).
        bare_unit: unit of a number typed without one; the field's own by default.

    Returns:
        the value in the field's unit.

    Raises:
        EntryError: empty, unreadable, an unknown unit, or a unit of another kind.

    >>> round(read_quantity("16 ft 4 in", "m"), 3)
    4.978
    """
    shown = text.strip().replace("−", "-")
    if not shown:
        raise EntryError("Nothing was entered.")
    if len(shown) > 60:
        raise EntryError("That is too long for a number.")
    for sign, words in _VULGAR.items():
        shown = shown.replace(sign, words)
    shown = shown.strip()
    if unit == "ohm" and (drop := _DROP_AT.fullmatch(shown)):  # a drop at a current is a resistance
        current_a = read_quantity(drop["amps"], "a")
        if current_a == 0:
            raise EntryError(f"“{text.strip()}”: the current cannot be zero.")
        return read_quantity(drop["volts"], "v") / current_a
    if unit == "ohm" and (zeroed := _LEADS.fullmatch(shown)):  # the leads' own resistance taken off
        left = read_quantity(zeroed["read"], unit, bare_unit) - read_quantity(zeroed["leads"], unit, bare_unit)
        if left <= 0:
            raise EntryError(f"“{text.strip()}”: the leads alone cannot read more than leads and speaker together.")
        return round(left, 6)
    total, position, count, negative = 0.0, 0, 0, False
    while position < len(shown):
        match = _PIECE.match(shown, position)
        if not match or match.end() == position:
            raise EntryError(f"“{text.strip()}” cannot be read as a number with a unit.")
        value = _converted(read_number(match["number"]), match["unit"] or "", unit, bare_unit, text.strip())
        if count == 0:
            negative = match["number"].startswith("-")
        elif not match["unit"]:
            raise EntryError(f"“{text.strip()}”: say the unit of {match['number']} too.")
        total += -value if negative and count and value > 0 else value
        position, count = match.end(), count + 1
        while position < len(shown) and shown[position].isspace():
            position += 1
    return total


def _converted(number: float, written: str, unit: str, bare_unit: str, text: str) -> float:
    if unit in ("db", "dbv", "dbfs"):
        if written.lower() not in ("", "db", unit):
            raise EntryError(f"“{text}” is not a level in {'dB' if unit == 'db' else unit.replace('db', 'dB')}.")
        return number
    if written == "%":
        if unit:
            raise EntryError(f"“{text}” is not {KIND.get(unit, 'a number')}.")
        return number / 100
    if not unit:
        if written:
            raise EntryError(f"“{text}”: a plain number without a unit is wanted.")
        return number
    name = SPELLED.get(written, written) or bare_unit or TARGET[unit]
    if written == "k" and unit != "ohm":
        raise EntryError(f"The unit “{written}” is not known here.")
    if name == TARGET[unit]:
        return number  # in the field's own unit already
    registry = _registry()
    try:
        quantity = registry.Quantity(number, registry.parse_units(name))
        return float(quantity.to(TARGET[unit]).magnitude)
    except UndefinedUnitError:
        raise EntryError(f"The unit “{written}” is not known here.") from None
    except DimensionalityError:
        raise EntryError(f"“{text}” is not {KIND[unit]}.") from None
    except Exception:  # the unit parser has many ways to dislike a text
        raise EntryError(f"“{text}” cannot be read.") from None


def read_wire_size(text: str) -> str | None:
    """A wire size as the document keeps it; None for empty (let Ohmack choose).

    Raises:
        EntryError: no wire size.

    >>> read_wire_size("#4"), read_wire_size("00"), read_wire_size("25 mm²")
    ('4 AWG', '2/0 AWG', '25 mm2')
    """
    cleaned = text.strip().lower().replace("²", "2").replace(",", ".").lstrip("#")
    if not cleaned:
        return None
    if match := re.fullmatch(r"(\d+(?:\.\d+)?)\s*(mm2|sqmm|qmm|mm\^2)", cleaned):
        return f"{float(match[1]):g} mm2"
    if match := re.fullmatch(r"(\d/0|0{1,4}|\d{1,2})\s*(awg|ga|gauge|-gauge)?", cleaned):
        size = match[1]
        if set(size) == {"0"}:
            size = f"{len(size)}/0"
        return f"{size} AWG"
    raise EntryError(f"“{text.strip()[:40]}” is no wire size: write 4 AWG, 1/0 AWG or 25 mm².")


def read_minute(text: str) -> str:
    """A day and a time as a form sends them, as ISO minutes.

    Raises:
        EntryError: it is none.

    >>> read_minute("2026-11-28T07:05")
    '2026-11-28T07:05'
    """
    try:
        found = datetime.fromisoformat(text)
    except ValueError:
        raise EntryError(f"{text[:30]} is no day and time: write 2026-11-28T07:05.") from None
    return found.replace(tzinfo=None).isoformat(timespec="minutes")


def read_day(text: str) -> date:
    """A day as a form sends it.

    Raises:
        EntryError: it is none.
    """
    try:
        return date.fromisoformat(text)
    except ValueError:
        raise EntryError(f"{text[:30]} is no day: write 2026-11-28.") from None
