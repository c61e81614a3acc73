"""What one choice brings along: a pickup away from the plug is spliced, a part that moved is grounded where it is, a
value that was typed in is read, a battery of another voltage rests at another one.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from ohmack.core.document import Basis, Design
from ohmack.core.document.edits import Edit
from ohmack.core.document.facts import Verified
from ohmack.core.document.grounding import ground_for
from ohmack.core.document.handles import at, at_the
from ohmack.core.document.links import FeedLink, GroundLink, Pickup, TapLink, TapPlace
from ohmack.core.document.vehicle import Supply, SystemVoltage
from ohmack.core.evaluation.sensitivity import fact_guide


def brought_along(design: Design, after: Design, edits: Sequence[Edit]) -> tuple[Edit, ...]:
    """What else some edits change, so that what stands there still makes sense.

    Parameters:
        design: the design before them.
        after: the design they make.
        edits: the edits.

    Returns:
        further edits. What somebody chose against the usual, or measured, stays.
    """
    paths = {edit.path for edit in edits}
    return (
        *_spliced(after, paths), *_grounded_here(design, after), *_read(after, paths), *_rests(design, after, paths)
    )  # fmt: skip


def _spliced(after: Design, paths: set[str]) -> Iterator[Edit]:
    """There is no plug to be adapted away from the plug."""
    for tap in after.links_of(TapLink):
        moved, chosen = at(tap, lambda it: it.place) in paths, at(tap, lambda it: it.method) in paths
        adapted = tap.method is Pickup.PLUG_ADAPTER and tap.place is not TapPlace.PLUG
        if adapted and moved and not chosen:
            yield Edit(path=at(tap, lambda it: it.method), value=Pickup.SPLICE.value)


def _read(after: Design, paths: set[str]) -> Iterator[Edit]:
    """What is typed into a part is taken as usual no longer, be it the same value."""
    for part in after.parts:
        if part.taken_as_usual and at(part, lambda it: it.taken_as_usual) not in paths:
            still = [name for name in part.taken_as_usual if f"{at(part)}/{name}" not in paths]
            if len(still) < len(part.taken_as_usual):
                yield Edit(path=at(part, lambda it: it.taken_as_usual), value=still)


CELL_V = 2.1  # a charged lead-acid cell at rest; common practice
CELLS = {SystemVoltage.V6: 3, SystemVoltage.V12: 6, SystemVoltage.V24: 12}


def _rests(design: Design, after: Design, paths: set[str]) -> Iterator[Edit]:
    """Another system rests at another voltage, where nobody has read it; what a pack holds depends on its cells."""
    system, rests = after.vehicle.supply.system.value, after.vehicle.supply.post_resting_v
    path = at_the(Supply, lambda it: it.post_resting_v)
    read = rests.value is not None and rests.basis is not Basis.ASSUMED
    if system is None or system is design.vehicle.supply.system.value or read or path in paths:
        return
    if (cells := CELLS.get(system)) is None:
        yield Edit(path=path, value={"value": None})
        return
    guide, of_12_v = fact_guide("post_resting_v"), cells / CELLS[SystemVoltage.V12]
    yield Edit(
        path=path,
        value={
            "value": round(CELL_V * cells, 2), "basis": Basis.ASSUMED.value, "how": Verified.NOT_CHECKED.value,
            "low": round(guide["low"] * of_12_v, 2), "high": round(guide["high"] * of_12_v, 2),
        },
    )  # fmt: skip


def _grounded_here(design: Design, after: Design) -> Iterator[Edit]:
    """Parts that moved, grounded so far at the nearest point, take the nearest from where they are now."""
    was = {part.id: part.position for part in design.parts}
    for part in after.parts:
        old, new = was.get(part.id), part.position
        if old is None or new is None or old == new:
            continue
        nearest_before, nearest = ground_for(design, old), ground_for(after, new)
        if nearest_before is None or nearest is None or nearest.id == nearest_before.id:
            continue
        for link in after.links:
            if isinstance(link, GroundLink) and link.from_id == part.id and link.to_id == nearest_before.id:
                if link.tape_length_m.value is None or link.tape_length_m.basis is Basis.ASSUMED:
                    yield Edit(path=at(link, lambda it: it.to_id), value=nearest.id)
            elif isinstance(link, FeedLink) and link.to_id == part.id and link.ground_point_id == nearest_before.id:
                yield Edit(path=at(link, lambda it: it.ground_point_id), value=nearest.id)
