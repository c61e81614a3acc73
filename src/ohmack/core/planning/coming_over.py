"""Parts of another job that come over into this car: the customer's own, not bought; placed and wired anew."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import Any

from ohmack.core.document import Design
from ohmack.core.document.boxes import Box
from ohmack.core.document.edits import Edit, apply_edits
from ohmack.core.document.handles import at
from ohmack.core.document.part import Phase
from ohmack.core.document.parts import Part, Subwoofer
from ohmack.core.document.registry import reference_of
from ohmack.core.planning.part_added import added

STAYS_BEHIND = frozenset(
    {"wire", "line cable", "fuse", "mounting ring", "accessory"}
)  # cut to the other car, made for it, or cheaper new than taken out; common practice
OF_THE_OTHER_JOB = {"id", "position", "phase", "stands", "laid_by"}
FIRST = ("radio", "voltage converter", "processor", "converter", "amplifier", "plug-in amplifier", "box")


def may_come(other: Design) -> tuple[tuple[Part, bool], ...]:
    """What another job fitted, each with whether it usually moves along when the car is sold.

    Parameters:
        other: the other job's design.

    Returns:
        its parts in their order; what was only planned for later was never there.
    """
    return tuple((part, part.kind not in STAYS_BEHIND) for part in other.parts if part.phase is Phase.NOW)


def came_over(design: Design, part: Part) -> bool:
    """Whether a part of that name is in the plan as the customer's own already."""
    return any(own.by_customer and own.kind == part.kind and own.name == part.name for own in design.parts)


def come_over(design: Design, other: Design, part_ids: Iterable[str], *, bought: bool = False) -> tuple[Edit, ...]:
    """Edits that put parts of another job into a plan, placed and wired as if they came from the catalogue.

    Parameters:
        design: the design.
        other: the other job's design.
        part_ids: which of its parts; one that is not there any more is left out.
        bought: whether they are the same models bought anew, what was planned for later too; else the very parts,
            which are the customer's own.

    Returns:
        the edits. The customer's own cost nothing, nothing is ordered for them, and a box the shop once built is the
        box it is.
    """
    wanted = set(part_ids)
    parts = [part for part in other.parts if part.id in wanted and (bought or part.phase is Phase.NOW)]
    parts.sort(key=_first)
    edits: tuple[Edit, ...] = ()
    now = design
    for part in parts:
        more = added(now, _as_it_is(other, part, bought))
        after = apply_edits(now, more)
        if part.phase is Phase.LATER:
            more += tuple(_later(now, after))
            after = apply_edits(now, more)
        now = after
        edits += more
    return edits


def _first(part: Part) -> tuple[bool, int]:
    """What is fitted now before what comes later, and what others hang on before those."""
    return part.phase is Phase.LATER, FIRST.index(part.kind) if part.kind in FIRST else len(FIRST)


def _later(before: Design, after: Design) -> Iterator[Edit]:
    """The edits that put off what came in with a part."""
    there = {part.id for part in before.parts}
    for part in after.parts:
        if part.id not in there:
            yield Edit(path=at(part, lambda it: it.phase), value=Phase.LATER.value)


def _as_it_is(other: Design, part: Part, bought: bool) -> dict[str, Any]:
    """A part without what it was to the other job."""
    kind = type(part)
    left = OF_THE_OTHER_JOB | {name for name in kind.model_fields if reference_of(kind, name)}
    tree = part.model_dump(mode="json", exclude=left) | {"by_customer": not bought}
    if bought:
        return tree
    if isinstance(part, Box) and part.boards.thickness_mm is not None:
        tree.pop("boards")  # it is built: nothing is cut, and nothing made to another space
        cut_mm = [sub.cut_out_mm for sub in other.parts_of(Subwoofer) if not sub.at_ids and sub.cut_out_mm is not None]
        if cut_mm and part.cut_out_mm is None:
            tree |= {"openings": len(cut_mm), "cut_out_mm": max(cut_mm)}
    return tree
