"""Which facts an evaluation looks at: a fact whose value was never read cannot change anything."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from ohmack.core.document import Design, Fact
from ohmack.core.document.paths import design_facts, replace
from ohmack.core.evaluation import Evaluation

NEVER_SWEPT = frozenset(
    {"use"}
)  # what a cavity is has no range to vary over; 500 of them would cost more than they say


class _Watched(Fact[Any]):
    """A fact that notes when its value is read."""

    def __getattribute__(self, name: str) -> Any:
        if name == "value":
            own = super().__getattribute__("__dict__")
            own["_log"].add(own["_path"])
        return super().__getattribute__(name)


def _watch(fact: Fact[Any], path: str, log: set[str]) -> Fact[Any]:
    watched = _Watched.model_construct(**fact.__dict__)
    object.__setattr__(watched, "_log", log)
    object.__setattr__(watched, "_path", path)
    return watched


def facts_read(design: Design, once: Callable[[Design], Evaluation]) -> set[str]:
    """The paths of the facts whose value an evaluation reads.

    Parameters:
        design: the design.
        once: evaluates it; deterministic, so an unread fact changed alone changes nothing.

    Returns:
        paths.
    """
    log: set[str] = set()
    traced = design
    for path, fact, _, name in list(design_facts(design)):
        if name in NEVER_SWEPT:
            continue
        traced = replace(traced, path, _watch(fact, path, log))
    log.clear()  # putting them in place read some
    once(traced)
    return log
