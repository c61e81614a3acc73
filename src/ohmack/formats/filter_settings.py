"""Filter settings of every output as CSV and JSON, out and in again."""

from __future__ import annotations

import json
from collections.abc import Iterable
from dataclasses import asdict, dataclass, field
from typing import Any

from ohmack.core.document.links import Band
from ohmack.formats.csv_table import guarded_cell, read_table, write_table
from ohmack.formats.entry import EntryError, read_quantity

FORMAT, VERSION, MOST_ROWS = "ohmack-filters", 1, 64
COLUMNS = ("output", "name", "high_pass_hz", "low_pass_hz", "slope_db", "family", "delay_ms", "turned_down_db", "bands")
NUMBERS = {"high_pass_hz": "hz", "low_pass_hz": "hz", "slope_db": "db", "delay_ms": "ms", "turned_down_db": "db"}


class BadSettings(ValueError):
    """A file that holds no settings for these outputs, with the reason and the row."""


@dataclass(frozen=True)
class OutputFilters:
    """The filters of one output; None or empty where it has none."""

    output: str  # id of its speaker link
    name: str
    high_pass_hz: float | None = None
    low_pass_hz: float | None = None
    slope_db: int | None = None
    family: str = "Butterworth"
    delay_ms: float = 0.0
    turned_down_db: float | None = None  # None in a file of before leaves it as it is
    bands: tuple[dict[str, Any], ...] = field(default=())


def write_filters_json(rows: Iterable[OutputFilters]) -> bytes:
    """All settings as JSON."""
    whole = {"format": FORMAT, "version": VERSION, "outputs": [asdict(row) for row in rows]}
    return json.dumps(whole, ensure_ascii=False, indent=1).encode()


def write_filters_csv(rows: Iterable[OutputFilters]) -> bytes:
    """All settings as CSV, one row an output; a band is written `band 63 Hz -7 dB Q 1.2`."""

    def cells(row: OutputFilters) -> dict[str, str]:
        plain = {name: "" if (v := getattr(row, name)) is None else f"{v:g}" for name in NUMBERS}
        words = "; ".join(f"{b['kind']} {b['centre_hz']:g} Hz {b['gain_db']:g} dB Q {b['q']:g}" for b in row.bands)
        return {"output": row.output, "name": row.name, "family": row.family, "bands": words, **plain}

    return write_table((cells(row) for row in rows), COLUMNS, guarded_cell)


def read_filters(data: bytes) -> tuple[OutputFilters, ...]:
    """Settings from a file of either kind.

    Parameters:
        data: the file.

    Returns:
        one entry an output.

    Raises:
        BadSettings: no file, no settings, a version of later, a value that is none; with its row.
    """
    if not data.strip():
        raise BadSettings("Choose a file first.")
    return _from_json(data) if data.lstrip()[:1] == b"{" else _from_csv(data)


def _from_json(data: bytes) -> tuple[OutputFilters, ...]:
    try:
        whole = json.loads(data)
    except (ValueError, RecursionError) as error:
        raise BadSettings(f"The file is broken JSON: {str(error)[:80]}.") from None
    if not isinstance(whole, dict) or whole.get("format") != FORMAT:
        raise BadSettings("The file holds no filter settings.")
    if whole.get("version") != VERSION:
        raise BadSettings("It was written by a later Ohmack.")
    outputs = whole.get("outputs")
    if not isinstance(outputs, list) or not all(isinstance(row, dict) for row in outputs) or len(outputs) > MOST_ROWS:
        raise BadSettings("It lists no outputs.")
    return tuple(_output(n, row) for n, row in enumerate(outputs, 1))


def _from_csv(data: bytes) -> tuple[OutputFilters, ...]:
    table = read_table(data, {name: name for name in COLUMNS}, ("output",), MOST_ROWS)
    if table.problem or not table.rows:
        raise BadSettings(table.problem or "It has headings and no rows.")
    return tuple(_output(n, {**cells, "bands": _bands(n, cells.get("bands", ""))}) for n, cells, _ in table.rows)


def _bands(row: int, words: str) -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = []
    for one in (part.strip() for part in words.split(";") if part.strip()):
        kind = next((k for k in ("band", "low shelf", "high shelf") if one.startswith(k)), None)
        try:
            if kind is None:
                raise EntryError("it begins with band, low shelf or high shelf")
            at_hz, _, more = one[len(kind) :].partition("Hz")
            gain_db, _, q = more.partition("dB")
            q_value = read_quantity(q.replace("Q", ""), "") if q.strip() else 1.0
            centre_hz, lift_db = read_quantity(at_hz, "hz"), read_quantity(gain_db, "db")
            found.append({"kind": kind, "centre_hz": centre_hz, "gain_db": lift_db, "q": q_value})
        except EntryError as error:
            raise BadSettings(f"Row {row}: the band “{one[:40]}” cannot be read: {error}") from None
    return found


def _output(row: int, given: dict[str, Any]) -> OutputFilters:
    values: dict[str, Any] = {}
    for name, unit in NUMBERS.items():
        held = given.get(name)
        if held is None or held == "":
            continue
        try:
            number = float(held) if isinstance(held, (int, float)) else read_quantity(str(held)[:40], unit)
        except EntryError as error:
            raise BadSettings(f"Row {row}, {name}: {error}") from None
        values[name] = int(number) if name == "slope_db" and number == int(number) else number
    bands = given.get("bands") or ()
    try:
        checked = tuple(Band.model_validate(band).model_dump() for band in bands)
    except (ValueError, TypeError):
        raise BadSettings(f"Row {row}: one of its bands is none an equaliser has.") from None
    output, name = str(given.get("output") or "")[:60], str(given.get("name") or "")[:120]
    family = str(given.get("family") or "Butterworth")[:40]
    return OutputFilters(output, name, family=family, bands=checked, **values)
