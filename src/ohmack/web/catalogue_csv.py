"""The catalogue as CSV: one column a field, read as typed text, with a report of what was refused and why."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from functools import cache

from pydantic import ValidationError

from ohmack.core.document.edits import sentence
from ohmack.core.document.parts import PART_TYPES, Part
from ohmack.formats.csv_table import Refusal, guarded_cell, read_table, write_table
from ohmack.store.shop import PART
from ohmack.web.fields import Field, model_fields
from ohmack.web.typed import read_model

MOST_ROWS = 20_000
SHOWN_REFUSALS = 200
MOST_REFUSALS = 1000  # a file with more is another file than it was taken for


@dataclass(frozen=True, slots=True)
class CsvReport:
    """What was read from a file."""

    parts: tuple[Part, ...]
    refused: tuple[Refusal, ...]
    ignored_columns: tuple[str, ...]
    encoding: str
    separator: str
    problem: str = ""


def _shown(field: Field) -> str:
    if field.kind == "choice":
        return field.chosen[0] if field.chosen else ""
    if field.kind == "flags":
        return "; ".join(field.chosen)
    text = field.shown.replace("−", "-") if field.kind == "number" else field.shown
    return guarded_cell(text) if field.kind in ("text", "long") else text


def write_catalogue(parts: Iterable[Part]) -> bytes:
    """The parts as CSV, UTF-8 with a mark spreadsheets know, comma separated; a text that looks like a formula gets
    an apostrophe.
    """
    rows: list[dict[str, str]] = []
    columns: dict[str, None] = {"kind": None, "maker": None, "name": None, "price": None}
    for part in parts:
        cells = {"kind": part.kind} | {f.path: _shown(f) for f in model_fields(type(part), part)}
        columns |= dict.fromkeys(cells)
        rows.append(cells)
    return write_table(rows, columns)


def _columns() -> dict[str, str]:
    """Every heading that is understood, to its field: the field's own name, or the words of the form."""
    found = {"kind": "kind", "kind of part": "kind"}
    for kind in PART_TYPES.values():
        for field in model_fields(kind):
            found[field.path.lower()] = field.path
            found.setdefault(field.label.lower(), field.path)
    return found


def read_catalogue(data: bytes) -> CsvReport:
    """Parts from a CSV file of any common separator and encoding.

    Parameters:
        data: the file.

    Returns:
        the parts that can be taken, and every other row with its reasons; nothing is raised for a bad row.
    """
    table = read_table(data, _columns(), ("kind", "name"), MOST_ROWS)
    parts: list[Part] = []
    refused: list[Refusal] = []
    for number, cells, too_long in table.rows:
        name = cells.get("name", "")
        taken = _part(dict(cells), too_long)
        if isinstance(taken, str):
            refused.append(Refusal(number, name, taken))
        else:
            parts.append(taken)
        if len(refused) > MOST_REFUSALS:
            problem = f"More than {MOST_REFUSALS} rows cannot be taken, so none is. Is it the right file?"
            return CsvReport((), tuple(refused), table.ignored_columns, table.encoding, table.separator, problem)
    return CsvReport(
        tuple(parts), tuple(refused), table.ignored_columns, table.encoding, table.separator, table.problem
    )


def _part(cells: dict[str, str], too_long: bool) -> Part | str:
    """The part of one row, or why it is none."""
    if too_long:
        return "The row has more cells than the first line; is a decimal comma not quoted?"
    kind = cells.pop("kind", "").lower()
    if kind not in PART_TYPES:
        return (
            f"“{kind[:40]}” is no kind of part; known are {', '.join(PART_TYPES)}." if kind else "Its kind is missing."
        )
    if not cells.get("name"):
        return "It has no name."
    form = {name: [text] for name, text in cells.items()}
    values, problems = read_model(PART_TYPES[kind], form)
    if problems:
        return _said(kind, problems)
    try:
        return PART.validate_python(values | {"kind": kind, "id": "row"})
    except ValidationError as error:
        found = {
            str(e["loc"][1] if len(e["loc"]) > 1 else ""): f"It {sentence(e)}." for e in error.errors(include_url=False)
        }
        return _said(kind, found)


@cache
def _titles(kind: str) -> dict[str, str]:
    return {f.path: f.label for f in model_fields(PART_TYPES[kind])}


def _said(kind: str, problems: dict[str, str]) -> str:
    titles = _titles(kind)
    return " ".join(f"{titles.get(name, name) or 'The part'}: {words}" for name, words in problems.items())
