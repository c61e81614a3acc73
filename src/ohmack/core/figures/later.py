"""What is wanted now and planned for later: one press fits it now."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ohmack.core.document.design import ends_of
from ohmack.core.document.handles import at
from ohmack.core.document.part import Phase
from ohmack.core.document.parts import Part
from ohmack.core.figures.finding import Remedy, set_to

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


def fit_now(results: Results, *kinds: str) -> Remedy | None:
    """The press that fits a part of some kinds now; None where none of them is planned for later.

    Parameters:
        results: of what is fitted now.
        kinds: kinds of part, any of which will do.

    Returns:
        the remedy.
    """
    later = [part for part in _planned_later(results) if part.kind in kinds]
    return _press(later[0]) if later else None


def fit_other_end(results: Results, part_id: str) -> Remedy | None:
    """The press that fits what a part's wires of later go to; None where every wire of it is there now.

    Parameters:
        results: of what is fitted now.
        part_id: a part of today.

    Returns:
        the remedy.
    """
    later = {part.id: part for part in _planned_later(results)}
    if results.later is None or not later:
        return None
    for link in results.later.design.links:
        ends = ends_of(link)
        if part_id in ends:
            for end in ends:
                if end in later:
                    return _press(later[end])
    return None


def lay_now(results: Results, part_id: str) -> Remedy | None:
    """The press that lays a part's own wires of later now; None where none of them begins and ends at what is there.

    Parameters:
        results: of what is fitted now.
        part_id: a part of today.

    Returns:
        the remedy.
    """
    if results.later is None:
        return None
    waiting = {part.id for part in _planned_later(results)}
    wires = [
        link
        for link in results.later.design.links
        if link.phase is Phase.LATER and part_id in ends_of(link) and waiting.isdisjoint(ends_of(link))
    ]
    edits = tuple(set_to(at(link, lambda it: it.phase), Phase.NOW.value) for link in wires)
    return Remedy("Lay its wires of later now", edits) if wires else None


def _planned_later(results: Results) -> list[Part]:
    if results.later is None:
        return []
    return [part for part in results.later.design.parts if part.phase is Phase.LATER]


def _press(part: Part) -> Remedy:
    return Remedy(f"Fit {part.name} now", (set_to(at(part, lambda it: it.phase), Phase.NOW.value),))
