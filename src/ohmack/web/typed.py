"""What was typed into a field, as the plain value the document wants there."""

from __future__ import annotations

import re
from typing import Any, get_args, get_origin

from pydantic import BaseModel

from ohmack.core.document import Basis, Design, Fact
from ohmack.core.document.amplifiers import Rating
from ohmack.core.document.boxes import Corner
from ohmack.core.document.edits import Edit
from ohmack.core.document.links import Band
from ohmack.core.document.parts import VoiceCoil
from ohmack.core.document.paths import get, parent_of, unit_field
from ohmack.core.document.vehicle import KeyState
from ohmack.core.units import unit_of
from ohmack.core.wording import trimmed
from ohmack.formats.entry import EntryError, entry_unit, is_open, read_quantity, read_wire_size
from ohmack.formats.trade_entry import (
    read_amperes,
    read_area,
    read_bands,
    read_coils,
    read_corners,
    read_money,
    read_ratings,
    read_share,
    read_stated_volts,
    rms_of,
    rows_of,
)
from ohmack.web.fields import annotation_at, base_type, blank_fields, piece_type

# A voltage that swings, with the field beside it that says how it is stated.
STATED = {
    "source_voltage_v": "source_stated_as",
    "input_limit_v": "input_stated_as",
    "speaker_level_high_v": "input_stated_as",
}
ALTERNATING = (
    "voltage_v",
    "line_v",
    "output_limit_v",
    "sensitivity_low_v",
    "sensitivity_high_v",
    "speaker_level_low_v",
    *STATED,
)
OPEN_FIELDS = ("pair_resistance_ohm", "reads_ohm")
OPEN_PAIR_OHM = 1000.0  # the most such a reading is kept as: open
MONEY = ("budget", "price", "labour_rate")
SHARES = ("efficiency", "efficiency_class_d", "efficiency_class_ab", "fuse_headroom", "slack_fraction", "match_low")
CRANKING = re.compile(r"\b(?:CCA|SAE|EN|DIN)\b", re.IGNORECASE)


def read_model(model: type[BaseModel], form: dict[str, list[str]]) -> tuple[dict[str, Any], dict[str, str]]:
    """(plain values, problems by field) of a typed-in model; empty optional fields are left to their default."""
    values: dict[str, Any] = {}
    problems: dict[str, str] = {}
    for name, info in model.model_fields.items():
        if (piece := piece_type(info.annotation)) is not None:
            own = {path.removeprefix(f"{name}/"): texts for path, texts in form.items() if path.startswith(f"{name}/")}
            inner, wrong = read_model(piece, own)
            values |= {name: inner} if inner else {}
            problems |= {f"{name}/{path}": words for path, words in wrong.items()}
    for field in blank_fields(model):
        if "/" in field.path:
            continue
        info = model.model_fields[field.path]
        texts = form.get(field.path, [])
        if not info.is_required() and not any(t.strip() for t in texts):
            continue
        try:
            sibling = STATED.get(field.path)
            if sibling in model.model_fields and any(t.strip() for t in texts):
                volts, kind = read_stated_volts(texts[0])
                values[field.path] = volts
                values |= {sibling: kind} if kind else {}
            else:
                values.setdefault(
                    field.path, read_value(base_type(info.annotation), field.path, texts, not info.is_required())
                )
        except EntryError as error:
            problems[field.path] = str(error)
    return values, problems


def read_field(design: Design, path: str, texts: list[str]) -> Any:
    """Typed text as the plain value the document wants at a path.

    Raises:
        EntryError: it cannot be read.
        UnknownName: the path leads nowhere.
    """
    kind, unit_name = annotation_at(design, path)
    parent, last = parent_of(design, path)
    optional = type(None) in get_args(type(parent).model_fields[last].annotation) or isinstance(parent, Fact)
    return read_value(kind, unit_name, texts, optional, design.policy.length_unit, wire_size=path.endswith("wire/size"))


def read_value(
    kind: Any, unit_name: str, texts: list[str], optional: bool, length_unit: str = "m", wire_size: bool = False
) -> Any:
    """Typed text as a plain value of a type; `unit_name` is the field whose name ends in the unit.

    Raises:
        EntryError: it cannot be read.
    """
    text = texts[0] if texts else ""
    unit = unit_of(unit_name)
    if get_origin(kind) is tuple:
        return _read_tuple(base_type(get_args(kind)[0]), texts)
    if wire_size or unit_name == "wire_size":
        return read_wire_size(text)
    if kind is str:
        return text
    if not text.strip():
        if optional:
            return None
        raise EntryError("This cannot be empty.")
    if kind is bool:
        return {"yes": True, "no": False}.get(text.strip(), text)
    if unit == "mm2":
        return read_area(text)
    if unit_name in MONEY:
        return read_money(text)
    if unit_name in SHARES:
        return read_share(text)
    if unit_name in ALTERNATING:
        return rms_of(*read_stated_volts(text))
    if unit_name in OPEN_FIELDS and is_open(text):
        return OPEN_PAIR_OHM
    if unit_name == "cca_a":
        return read_quantity(CRANKING.sub("", text), "a")
    if kind in (float, int):
        bare = entry_unit(unit_name, unit, length_unit)
        number = read_quantity(text, unit, bare if bare != unit else "")
        if kind is int and number != int(number):
            raise EntryError(f"“{text.strip()}” must be a whole number.")
        return int(number) if kind is int else number
    return text.strip()


def _read_tuple(item: Any, texts: list[str]) -> Any:
    text = texts[0] if texts else ""
    if item is KeyState:
        wanted = [t for t in texts if t]
        unknown = [t for t in wanted if t not in {state.value for state in KeyState}]
        if unknown:
            raise EntryError(f"“{unknown[0][:30]}” is no key state.")
        return [state.value for state in KeyState if state.value in wanted]
    if item is Rating:
        return read_ratings(text)
    if item is Corner:
        return read_corners(text)
    if item is Band:
        return read_bands(text)
    if item is VoiceCoil:
        return read_coils(text)
    if item is float:
        return read_amperes(text)
    if item is int:
        return [_whole(row) for row in rows_of(text.replace(",", ";"))]
    return [t for t in texts if t]


def _whole(row: str) -> int:
    if not re.fullmatch(r"[0-9]{1,6}", row):
        raise EntryError(f"“{row[:20]}” is no whole number; write them with semicolons between, such as 3; 12.")
    return int(row)


def read_stated(design: Design, path: str, texts: list[str], stated: str = "") -> tuple[Any, list[Edit]]:
    """Typed text at a path, with the edits that say how it is stated: rms or peak, or by which cranking standard.

    Parameters:
        design: the design.
        path: the field.
        texts: what was typed.
        stated: what was chosen beside it: "rms", "peak", "peak to peak", or "" for nothing.

    Returns:
        the plain value, and further edits of the same act.

    Raises:
        EntryError: it cannot be read, or nobody said whether a measured output is rms or peak.
        UnknownName: the path leads nowhere.
    """
    text, name = (texts[0] if texts else "").strip(), unit_field(path)
    owner = path.removesuffix("/value").rpartition("/")[0]
    if name == "cca_a" and (found := CRANKING.search(text)) and found[0].upper() != "CCA":
        value = read_field(design, path, texts)
        return value, [Edit(path=f"{owner}/cranking_standard", value=found[0].upper())]
    sibling = STATED.get(name)
    if sibling is None or not text or not hasattr(get(design, owner), sibling):
        return read_field(design, path, texts), []
    volts, kind = read_stated_volts(text, stated)
    now = getattr(get(design, owner), sibling).value
    if not kind and name == "source_voltage_v":
        fact = get(design, path.removesuffix("/value"))
        if fact.basis is Basis.ASSUMED and volts != fact.value:
            raise EntryError(
                f"{trimmed(volts)} V rms or peak? A meter shows rms, a scope peak: choose it, or write {trimmed(volts)}"
                f" Vrms or {trimmed(volts)} Vpk."
            )
    return volts, [Edit(path=f"{owner}/{sibling}", value=kind)] if kind and kind != now else []
