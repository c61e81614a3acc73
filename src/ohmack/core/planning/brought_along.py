"""What one choice brings along: a pickup away from the plug is spliced, a part that moved is grounded where it is, a
value that was typed in is read.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from ohmack.core.document import Basis, Design
from ohmack.core.document.edits import Edit
from ohmack.core.document.grounding import ground_for
from ohmack.core.document.handles import at
from ohmack.core.document.links import FeedLink, GroundLink, Pickup, TapLink, TapPlace


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
    return (*_spliced(after, paths), *_grounded_here(design, after), *_read(after, paths))


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
