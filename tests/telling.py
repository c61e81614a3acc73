"""Everything the core says of a design, as text: what an answer is made of, canonical enough to be compared."""

from __future__ import annotations

from dataclasses import fields, is_dataclass
from enum import Enum
from types import FunctionType
from typing import Any

import numpy as np
from pydantic import BaseModel

from ohmack.core.document import Design
from ohmack.core.evaluation.results import Results
from ohmack.core.figures.figure import Book, Figure, Formula, Reading

SAMPLES = 80  # of a long curve, beside its sum


def number(value: float) -> str:
    """Six digits: what differs in the last place between two machines is no other answer."""
    return "0" if abs(value) < 1e-12 else f"{value:.6g}"


def told(value: Any, within: tuple[int, ...] = ()) -> str:
    """A value of any kind in words, records and containers field by field; a thing of the document by its id."""
    match value:
        case Enum():
            return str(value.value)
        case None | bool() | int() | str():
            return repr(value)
        case float():
            return number(value)
        case complex():
            return f"{number(value.real)} {number(value.imag)}j"
        case Figure():
            return f"<{value.id}>"
        case Design() | Book() | Results() | Formula() | Reading() | FunctionType() | type():
            return ""  # said by themselves
        case np.ndarray():
            flat = np.abs(value.ravel()) if np.iscomplexobj(value) else value.ravel()
            return told([*flat[:: max(1, len(flat) // SAMPLES)].tolist(), float(flat.sum())])
        case np.generic():
            return told(value.item())
    if id(value) in within:
        return "…"
    inside = (*within, id(value))
    if isinstance(value, BaseModel):
        own = getattr(value, "id", None)
        if own is not None:
            return f"{type(value).__name__} {own}"
        held = {name: getattr(value, name) for name in type(value).model_fields}
    elif is_dataclass(value):
        held = {f.name: getattr(value, f.name) for f in fields(value)}
    elif isinstance(value, dict):
        return "{" + ", ".join(f"{told(k, inside)}: {told(v, inside)}" for k, v in value.items()) + "}"
    elif isinstance(value, (set, frozenset)):
        return "{" + ", ".join(sorted(told(v, inside) for v in value)) + "}"
    elif isinstance(value, (list, tuple)):
        return "[" + ", ".join(told(v, inside) for v in value) + "]"
    elif isinstance(value, BaseException):
        return f"{type(value).__name__}: {value}"
    else:
        held = dict(vars(value)) if hasattr(value, "__dict__") else {}
    return f"{type(value).__name__}(" + ", ".join(f"{k}={told(v, inside)}" for k, v in held.items()) + ")"
