"""What the trade writes in its own way: 2 x 25 A, D4, 300 W at 4 ohm, 450 €, 9 Vpk, 4 AWG for an area, 75 for an
efficiency.
"""

from __future__ import annotations

import re
from math import sqrt
from typing import Any

from ohmack.core.errors import UnknownName
from ohmack.core.physics.conductors import conductor
from ohmack.formats.entry import EntryError, read_number, read_quantity, read_wire_size

_NUMBER = r"\d+(?:[.,]\d+)?"
_OHM = r"(?:ohms?|Ω|ohm)"
_CURRENCY = re.compile(r"€|\$|£|\b(?:EUR|USD|GBP|CHF|euro|euros|dollars?|pounds?)\b", re.IGNORECASE)
MOST_PIECES = 12


# -- money ----------------------------------------------------------------------------------------------------------


def read_money(text: str) -> float:
    """An amount of money, with or without its currency, in the shop's currency.

    Raises:
        EntryError: no number, or one that can be read in two ways.

    >>> read_money("€450"), read_money("2 500 EUR"), read_money("1,200"), read_money("2.500,50 €")
    (450.0, 2500.0, 1200.0, 2500.5)
    """
    bare = _CURRENCY.sub("", text).replace("\u00a0", " ").strip()
    bare = re.sub(r"(?<=\d)[ '’](?=\d{3}\b)", "", bare)
    if re.fullmatch(r"[1-9]\d{0,2}(?:,\d{3})+", bare):  # nobody writes a price with three decimals
        return float(bare.replace(",", ""))
    if re.fullmatch(r"[1-9]\d{0,2}\.\d{3}", bare):
        whole, part = bare.split(".")
        raise EntryError(
            f"“{text.strip()[:30]}” can be read in two ways: write {whole}{part} or {whole}.{part.rstrip('0') or '00'}."
        )
    if re.fullmatch(r"[1-9]\d{0,2}(?:\.\d{3}){2,}", bare):
        return float(bare.replace(".", ""))
    if not bare:
        raise EntryError("Nothing was entered.")
    return read_number(bare)


def read_share(text: str) -> float:
    """A share of one: 0.75, 75 % or 75.

    Raises:
        EntryError: it cannot be read.

    >>> read_share("75"), read_share("75 %"), read_share("0,8")
    (0.75, 0.75, 0.8)
    """
    value = read_quantity(text, "")
    return value / 100 if value > 2 and "%" not in text else value


# -- areas ----------------------------------------------------------------------------------------------------------


def read_area(text: str) -> float:
    """A copper area in mm², or the area of a gauge.

    Raises:
        EntryError: it cannot be read.

    >>> round(read_area("8 AWG"), 2), read_area("16 mm²"), round(read_area("1/0"), 1)
    (8.37, 16.0, 53.5)
    """
    plain = text.strip()
    if re.search(r"awg|ga\b|gauge|#|/0", plain, re.IGNORECASE):
        size = read_wire_size(plain)
        try:
            return conductor(size or "").area_mm2
        except UnknownName as error:
            raise EntryError(str(error)) from None
    return read_quantity(plain, "mm2")


# -- alternating volts ----------------------------------------------------------------------------------------------

USUAL_LOAD_OHM = 4.0  # the load a radio's watts are meant into, where nobody says
_WATTS = re.compile(
    r"(?P<watts>[\d.,]+\s*W)(?:atts)?(?:\s*(?:/|at|@|into)\s*(?P<ohms>[\d.,]+\s*(?:Ω|ohms?)?))?", re.IGNORECASE
)
_STATED = re.compile(
    r"(?P<volts>.*?)\s*(?P<mv>m)?v?\s*(?P<kind>rms|pk-pk|peak to peak|peak-to-peak|pp|p-p|pkpk|peak|pk|p)",
    re.IGNORECASE,
)


def read_stated_volts(text: str, chosen: str = "") -> tuple[float, str]:
    """(volts, how they are stated) of an alternating voltage: "rms", "peak" or "" where nothing was said.

    Parameters:
        text: for example "9 Vpk", "18 Vpp", "6.4 V rms", "9.2"; or what a channel gives, "40 W" into 4 Ω, "50 W at
            2 ohm".
        chosen: what was chosen beside it, "rms", "peak" or "peak to peak"; the text itself goes before.

    Returns:
        the value in [v]; peak to peak is halved to peak.

    Raises:
        EntryError: it cannot be read.

    >>> read_stated_volts("40 W"), read_stated_volts("50 W at 2 ohm")
    ((12.649, 'rms'), (10.0, 'rms'))
    >>> read_stated_volts("9 Vpk"), read_stated_volts("18 Vpp"), read_stated_volts("6.4 Vrms"), read_stated_volts("9,2")
    ((9.0, 'peak'), (9.0, 'peak'), (6.4, 'rms'), (9.2, ''))
    """
    if watts := _WATTS.fullmatch(text.strip()):  # a sine's rms by the load its watts are meant into
        load_ohm = read_quantity(watts["ohms"], "ohm") if watts["ohms"] else USUAL_LOAD_OHM
        return round(sqrt(read_quantity(watts["watts"], "w") * load_ohm), 3), "rms"
    found = _STATED.fullmatch(text.strip())
    if found is None:
        volts = read_quantity(text, "v")
        return (volts / 2, "peak") if chosen == "peak to peak" else (volts, chosen)
    kind = found["kind"].lower()
    volts = read_quantity(found["volts"] + ("mV" if found["mv"] else ""), "v")
    if kind == "rms":
        return volts, "rms"
    return (volts / 2 if "p" in kind[1:] and kind != "p" and kind not in ("peak", "pk") else volts), "peak"


def rms_of(volts: float, stated: str) -> float:
    """The rms of a sine stated as rms or peak [v]; what nobody spoke of counts as rms."""
    return volts / sqrt(2) if stated == "peak" else volts


# -- lists ----------------------------------------------------------------------------------------------------------


def rows_of(text: str) -> list[str]:
    """The pieces of a list: by semicolons, lines, or commas with a space behind."""
    return [row.strip() for row in re.split(r";|\n|,\s+(?=\S)", text) if row.strip()]


def read_ratings(text: str) -> list[dict[str, float]]:
    """Rating rows: `2 Ω: 500 W; 4 Ω: 310 W`, `4 ohm 300W, 2 ohm 500W`, `300 W @ 4 ohm`, `300 at 4`.

    Raises:
        EntryError: a row that is no load with a power.

    >>> read_ratings("300W @ 4; 500 at 2")
    [{'load_ohm': 4.0, 'power_w': 300.0}, {'load_ohm': 2.0, 'power_w': 500.0}]
    >>> read_ratings("4 ohm 300W, 2 ohm 500W")
    [{'load_ohm': 4.0, 'power_w': 300.0}, {'load_ohm': 2.0, 'power_w': 500.0}]
    """
    return [_rating(row) for row in rows_of(text)]


def read_corners(text: str) -> list[dict[str, float]]:
    """Corners of a box's side, behind the front × over the floor: `0 × 0; 340 × 0; 220 × 440; 0 × 440`.

    Raises:
        EntryError: a row that is no pair of lengths.

    >>> read_corners("0 x 0; 34 cm x 0; 220 mm × 440")
    [{'behind_mm': 0.0, 'up_mm': 0.0}, {'behind_mm': 340.0, 'up_mm': 0.0}, {'behind_mm': 220.0, 'up_mm': 440.0}]
    """
    found = []
    for row in rows_of(text.replace(",", ";") if ";" not in text else text):
        ends = re.split(r"\s*[×x*/]\s*", row.strip(), flags=re.IGNORECASE)
        if len(ends) != 2:
            raise EntryError(f"“{row[:40]}”: write how far behind × how high, for example 0 × 0; 340 × 0; 220 × 440.")
        behind, up = (read_quantity(end, "mm") for end in ends)
        found.append({"behind_mm": behind, "up_mm": up})
    return found


def read_bands(text: str) -> list[dict[str, Any]]:
    """Bands of an equaliser: `63 Hz +4 dB Q 1.4; 120 Hz -3 dB; under 80 Hz +6 dB; over 8 kHz -2 dB`.

    Raises:
        EntryError: a row without a frequency and a gain.

    >>> read_bands("63 Hz +4 dB Q 1.4; under 80Hz 6dB")[1]
    {'kind': 'low shelf', 'centre_hz': 80.0, 'gain_db': 6.0, 'q': 0.7071}
    """
    return [_band(row) for row in rows_of(text)]


def _band(row: str) -> dict[str, Any]:
    plain = row.replace("−", "-")
    hz = re.search(rf"({_NUMBER})\s*(k?)\s*Hz", plain, re.IGNORECASE)
    gain = re.search(rf"([+-]?\s*{_NUMBER})\s*dB", plain, re.IGNORECASE)
    if hz is None or gain is None:
        raise EntryError(
            f"“{row[:40]}”: write frequency, gain and Q, for example 63 Hz +4 dB Q 1.4; under 80 Hz +6 dB."
        )
    q = re.search(rf"Q\s*=?\s*({_NUMBER})", plain, re.IGNORECASE)
    kinds = (("under", "low shelf"), ("over", "high shelf"))
    kind = next((kind for word, kind in kinds if re.search(rf"\b{word}\b", plain, re.IGNORECASE)), "band")
    usual = 1.0 if kind == "band" else 0.7071
    return {
        "kind": kind,
        "centre_hz": read_number(hz[1]) * (1000 if hz[2] else 1),
        "gain_db": read_number(gain[1].replace(" ", "")),
        "q": read_number(q[1]) if q else usual,
    }


_INTO = re.compile(r"(?P<power>.+?)\s*(?:\bat\b|@|\binto\b)\s*(?P<load>.+)", re.IGNORECASE)


def _rating(row: str) -> dict[str, float]:
    load = re.search(rf"({_NUMBER})\s*{_OHM}", row, re.IGNORECASE)
    power = re.search(rf"({_NUMBER})\s*(k?)W", row, re.IGNORECASE)
    if load and power:
        return {"load_ohm": read_number(load[1]), "power_w": read_number(power[1]) * (1000 if power[2] else 1)}
    left, sep, right = row.replace("=", ":").partition(":")
    if into := _INTO.fullmatch(row):
        left, sep, right = into["load"], ":", into["power"]
    if not sep:
        raise EntryError(f"“{row[:40]}”: write load and power, for example 2 Ω: 500 W; 4 Ω: 310 W.")
    return {"load_ohm": read_quantity(left, "ohm"), "power_w": read_quantity(right, "w")}


_TIMES = re.compile(r"(?P<n>[1-9]\d?)\s*[x×*]\s*(?P<each>.+)|(?P<each2>.+?)\s*[x×*]\s*(?P<n2>[1-9]\d?)", re.IGNORECASE)


def _repeated(row: str) -> tuple[int, str]:
    """(how many, of what) of `2 x 25 A` or `25A x2`."""
    found = _TIMES.fullmatch(row)
    if found is None:
        return 1, row
    number, each = (found["n"], found["each"]) if found["n"] else (found["n2"], found["each2"])
    if int(number) > MOST_PIECES:
        raise EntryError(f"“{row[:30]}”: that many?")
    return int(number), each.strip()


def read_amperes(text: str) -> list[float]:
    """A list of fuses: `30 A; 30 A`, `2 x 25`, `25A x2`, `25+25`.

    Raises:
        EntryError: a piece that is no current.

    >>> read_amperes("2 x 25"), read_amperes("25A x2"), read_amperes("30 A; 20")
    ([25.0, 25.0], [25.0, 25.0], [30.0, 20.0])
    """
    values: list[float] = []
    for row in (piece for part in rows_of(text) for piece in part.split("+")):
        number, each = _repeated(row.strip())
        values += [read_quantity(each, "a")] * number
    return values


_COIL_WORDS = {"single": 1, "svc": 1, "s": 1, "dual": 2, "dvc": 2, "d": 2, "double": 2, "quad": 4}
_COILS = re.compile(
    rf"(?P<word>single|svc|s|dual|dvc|d|double|quad)\s*-?\s*(?P<each>{_NUMBER}\s*{_OHM}?)(?P<rest>.*)", re.IGNORECASE
)


def read_coils(text: str) -> list[dict[str, float | None]]:
    """Voice coils: `4 Ω; 4 Ω`, `dual 4 ohm`, `D4`, `2 x 4`, `4+4`, each with its reading: `4 Ω (3.4 Ω DC)`.

    Raises:
        EntryError: a piece that is no coil.

    >>> [len(read_coils(t)) for t in ("D4", "dual 4 ohm", "2 x 4", "4+4", "4 Ω (3.4 Ω DC); 4 Ω (3.5 Ω DC)", "4")]
    [2, 2, 2, 2, 2, 1]
    """
    coils: list[dict[str, float | None]] = []
    for row in (piece.strip() for part in rows_of(text) for piece in re.split(r"\+(?![^(]*\))", part)):
        worded = _COILS.fullmatch(row)
        number, each = (
            (_COIL_WORDS[worded["word"].lower()], worded["each"] + worded["rest"]) if worded else _repeated(row)
        )
        coils += [_coil(each)] * number
    return coils


def _coil(row: str) -> dict[str, float | None]:
    nominal, _, dc = row.replace(")", "").partition("(")
    dc = re.sub(r"\bDC\b", "", dc, flags=re.IGNORECASE).strip()
    return {
        "impedance_ohm": read_quantity(nominal, "ohm"),
        "dc_resistance_ohm": read_quantity(dc, "ohm") if dc else None,
    }
