"""Records: dataclasses a type checker holds immutable. At run time nothing guards them, and nothing pays for guarding
some thousand of them in every evaluation.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any, TypeVar, dataclass_transform, overload

C = TypeVar("C", bound=type)


@overload
def record(cls: C) -> C: ...


@overload
def record(*, eq: bool = True) -> Callable[[C], C]: ...


@dataclass_transform(frozen_default=True, field_specifiers=(field,))
def record(cls: Any = None, *, eq: bool = True) -> Any:
    """A dataclass with slots that is compared and hashed by its fields, and never assigned to."""
    make = dataclass(slots=True, unsafe_hash=eq, eq=eq)
    return make if cls is None else make(cls)
