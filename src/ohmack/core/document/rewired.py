"""Edits that give a link another wire: what lies in the car comes out, and new cable is laid in its place."""

from __future__ import annotations

from ohmack.core.document.edits import Edit
from ohmack.core.document.handles import at, sure
from ohmack.core.document.links import ChargeLink, FeedLink, LinkBase, PowerLink


def new_wire(link: LinkBase, path: str, value: object) -> tuple[Edit, ...]:
    """The edits that set something of a link's wire; one that lies in the car comes out, and cable of Ohmack's choice
    but for that is laid in its place.
    """
    edits = (Edit(path=path, value=value),)
    if not link.in_car:
        return edits
    there, out = at(link, lambda it: it.in_car), at(link, lambda it: it.old_out)
    fresh = Edit(path=at(link, lambda it: it.wire), value={})
    return (fresh, *edits, Edit(path=there, value=False), Edit(path=out, value=True))


def laid_anew(link: LinkBase) -> tuple[Edit, ...]:
    """The edits that have a cable which lies in the car laid anew, with wire and fuse of Ohmack's choice."""
    edits = new_wire(link, at(link, lambda it: it.wire.size), None)
    if isinstance(link, PowerLink | FeedLink | ChargeLink) and link.fuse is not None:
        edits += (Edit(path=at(link, lambda it: sure(it.fuse).rating_a), value=None),)
    return edits
