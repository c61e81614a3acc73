"""Responses as columns of frequency and level: read from what programs and meters write, and written."""

from __future__ import annotations

import re
from dataclasses import dataclass
from math import isfinite, log2

import numpy as np

from ohmack.core.document.responses import Response
from ohmack.core.physics.responses import grid_hz
from ohmack.formats.csv_table import decoded

COMMENTS = ("#", "*", "%", ";", "!", '"', "//")
MOST_BYTES, MOST_ROWS, KEPT = 1_000_000, 20_000, 400
LOW_HZ, HIGH_HZ = 1.0, 48_000.0
GAP_OCTAVES = 1.0
NUMBER = re.compile(r"[-+]?(?:\d+(?:[.,]\d*)?|[.,]\d+)(?:[eE][-+]?\d+)?")


class BadColumns(ValueError):
    """A file that holds no response, with the reason as an installer would say it."""


@dataclass(frozen=True, slots=True)
class Columns:
    """What was read, and what had to be put right."""

    hz: tuple[float, ...]
    level_db: tuple[float, ...]
    remarks: tuple[str, ...]


def read_columns(data: bytes) -> Columns:
    """The response in a file of columns.

    Parameters:
        data: the file: frequency and level, more columns are left out; separated by semicolons, tabs, commas or
            spaces, with decimal points or commas, headings and comments anywhere.

    Returns:
        frequencies rising, levels, and remarks on what was left out or sorted; at most 400 points, thinned evenly
        over the octaves.

    Raises:
        BadColumns: no file, too large, no text, fewer than three rows, one frequency with two levels.
    """
    if not data:
        raise BadColumns("Choose a file first.")
    if len(data) > MOST_BYTES:
        raise BadColumns("The file is larger than 1 MB: that is no response.")
    text, _ = decoded(data)
    if "\0" in text:
        raise BadColumns("The file is no text.")
    lines = text.splitlines()
    if len(lines) > MOST_ROWS:
        raise BadColumns(f"The file has more than {MOST_ROWS} lines: that is no response.")
    comma = _decimal_comma(lines)
    rows, skipped = [], 0
    for line in lines:
        cells = _cells(line, comma)
        if cells is None:
            skipped += bool(line.strip()) and not line.strip().startswith(COMMENTS)
        else:
            rows.append(cells)
    return _checked(rows, skipped)


def _decimal_comma(lines: list[str]) -> bool:
    """Whether commas are decimal: numbers hold one, and something else parts them."""
    likely = [line for line in lines if re.match(r"\s*\d", line)]
    parted = [line for line in likely if re.search(r"\d\s*[;\t]", line)]
    if len(parted) > len(likely) / 2:
        return any(re.search(r"\d,\d", line) for line in parted)
    with_other = [line for line in likely if re.search(r"\d\s+[-+.,\d]", line)]
    return bool(with_other) and sum("," in re.sub(r",\s", " ", line) for line in with_other) > len(with_other) / 2


def _cells(line: str, comma: bool) -> tuple[float, float] | None:
    """(frequency, level) of a line; None where it is none."""
    text = line.strip()
    if not re.match(r"[-+.,\d]", text):
        return None
    parts = re.split(r"[;\t\s]+" if comma else r"[;,\t\s]+", text)
    if len(parts) < 2 or not all(NUMBER.fullmatch(part) for part in parts[:2]):
        return None
    first, second = (float(part.replace(",", ".")) for part in parts[:2])
    return (first, second) if isfinite(first) and isfinite(second) else None


def _checked(rows: list[tuple[float, float]], skipped: int) -> Columns:
    remarks = []
    inside = [row for row in rows if LOW_HZ <= row[0] <= HIGH_HZ and abs(row[1]) <= 200]
    if len(inside) < 3:
        raise BadColumns("There are no two columns of frequency and level in it, at least three rows long.")
    if skipped > len(inside):
        raise BadColumns(f"{skipped} of {skipped + len(rows)} lines are no numbers: that is no response.")
    if skipped:
        remarks.append(f"{skipped} lines that are no numbers left out")
    if len(inside) < len(rows):
        remarks.append(f"{len(rows) - len(inside)} rows outside 1 Hz to 48 kHz or ±200 dB left out")
    if any(b[0] < a[0] for a, b in zip(inside, inside[1:], strict=False)):
        remarks.append("sorted by frequency")
    found: dict[float, float] = {}
    for hz, level in sorted(inside):
        if hz in found and abs(found[hz] - level) > 0.05:
            raise BadColumns(f"{hz:g} Hz stands there twice, with {found[hz]:g} and {level:g} dB.")
        found[hz] = level
    if len(found) < len(inside):
        remarks.append(f"{len(inside) - len(found)} doubled rows left out")
    places, levels = list(found), list(found.values())
    if len(places) < 3:
        raise BadColumns("It has fewer than three frequencies.")
    gap = max(range(1, len(places)), key=lambda n: places[n] / places[n - 1])
    if log2(places[gap] / places[gap - 1]) > GAP_OCTAVES:
        remarks.append(f"nothing between {places[gap - 1]:g} and {places[gap]:g} Hz: drawn straight there")
    if len(places) > KEPT:
        grid = grid_hz(places[0], places[-1], 24)
        while len(grid) > KEPT:
            grid = grid[::2]
        levels = [float(v) for v in np.interp(np.log(grid), np.log(places), levels)]
        places = [round(float(f), 3) for f in grid]
        remarks.append(f"thinned to {len(places)} points")
    return Columns(tuple(places), tuple(round(level, 2) for level in levels), tuple(remarks))


def write_columns(response: Response) -> bytes:
    """A response as CSV: frequency in Hz, level in dB."""
    rows = "".join(f"{hz:g},{level:g}\r\n" for hz, level in zip(response.hz, response.level_db, strict=True))
    return f"hz,level_db\r\n{rows}".encode()
