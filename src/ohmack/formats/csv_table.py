"""CSV of any common separator and encoding as a table with its headings, for catalogue and pin maps."""

from __future__ import annotations

import csv
import io
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass

SEPARATORS = (";", ",", "\t", "|")
FORMULA = ("=", "+", "-", "@", "\t")  # what a spreadsheet would take for a formula


@dataclass(frozen=True, slots=True)
class CsvTable:
    """What was read: rows of cells by field with their line number, headings not known, and why nothing could be
    read.
    """

    rows: tuple[tuple[int, dict[str, str], bool], ...]  # (row, cells by field, more cells than headings)
    ignored_columns: tuple[str, ...]
    encoding: str
    separator: str
    problem: str = ""
    columns: tuple[str, ...] = ()  # fields the first line has a column for


@dataclass(frozen=True, slots=True)
class Refusal:
    """One row that was not taken."""

    row: int
    name: str
    reasons: str


def decoded(data: bytes) -> tuple[str, str]:
    """(text, encoding) of a file."""
    if data.startswith((b"\xff\xfe", b"\xfe\xff")):
        return data.decode("utf-16", "replace"), "UTF-16"
    try:
        return data.decode("utf-8-sig"), "UTF-8"
    except UnicodeDecodeError:
        return data.decode("cp1252", "replace"), "Windows-1252"


def plain_cell(text: str) -> str:
    """A cell without the apostrophe that keeps a spreadsheet from calculating it."""
    return text.removeprefix("'") if text[1:].startswith(FORMULA) else text


def guarded_cell(text: str) -> str:
    """A text that looks like a formula, with an apostrophe before it."""
    return f"'{text}" if text.startswith(FORMULA) else text


def read_table(data: bytes, known: Mapping[str, str], wanted: Iterable[str], most_rows: int) -> CsvTable:
    """A CSV file as rows by field.

    Parameters:
        data: the file.
        known: heading in lower case to field.
        wanted: fields that must have a column.
        most_rows: refuse more rows than this.

    Returns:
        the table; where it cannot be read at all, its problem in a sentence.
    """
    text, encoding = decoded(data)
    first = next((line for line in text.splitlines() if line.strip()), "")
    separator = max(SEPARATORS, key=first.count)
    if not first or "\0" in text:
        return CsvTable((), (), encoding, separator, "The file is empty or no text.")
    try:
        table = list(csv.reader(io.StringIO(text), delimiter=separator))
    except csv.Error as error:
        return CsvTable((), (), encoding, separator, f"The file cannot be read as CSV: {error}.")
    start = next((i for i, row in enumerate(table) if any(cell.strip() for cell in row)), None)
    if start is None:
        return CsvTable((), (), encoding, separator, "The file has separators and nothing between them.")
    heads = [known.get(cell.strip().lower(), "") for cell in table[start]]
    ignored = tuple(c.strip() for c, h in zip(table[start], heads, strict=True) if not h and c.strip())
    if missing := [name for name in wanted if name not in heads]:
        words = f"There is no column {' and no column '.join(missing)} in the first line."
        if ignored:
            words += f" It has {', '.join(ignored)}."
        return CsvTable((), ignored, encoding, separator, words)
    if len(table) - start - 1 > most_rows:
        return CsvTable((), ignored, encoding, separator, f"At most {most_rows} rows are taken at once.")
    rows = []
    for number, row in enumerate(table[start + 1 :], start=start + 2):
        cells = {
            head: plain_cell(cell.strip()) for head, cell in zip(heads, row, strict=False) if head and cell.strip()
        }
        if cells:
            rows.append((number, cells, len(row) > len(heads)))
    return CsvTable(tuple(rows), ignored, encoding, separator, columns=tuple(h for h in heads if h))


def write_table(rows: Iterable[Mapping[str, str]], columns: Iterable[str], guard: Callable[[str], str] = str) -> bytes:
    """Rows as CSV: UTF-8 with the mark spreadsheets know, comma separated."""
    out = io.StringIO()
    writer = csv.DictWriter(out, list(columns), restval="", lineterminator="\r\n")
    writer.writeheader()
    writer.writerows({name: guard(cell) for name, cell in row.items()} for row in rows)
    return out.getvalue().encode("utf-8-sig")
