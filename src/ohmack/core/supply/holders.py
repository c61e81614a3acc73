"""Fuse holders: how many fuses each has room for, and which cables have named one."""

from __future__ import annotations

from ohmack.core.document import Design
from ohmack.core.document.links import FeedLink, PowerLink
from ohmack.core.document.parts import FuseHolder, PoweredSubwoofer
from ohmack.core.physics.protection import family


def held_by(design: Design, holder: FuseHolder) -> tuple[PowerLink | FeedLink, ...]:
    """The cables whose fuse is to sit in a holder, in the order they were laid."""
    fused: list[PowerLink | FeedLink] = [*design.links_of(PowerLink), *design.links_of(FeedLink)]
    return tuple(link for link in fused if link.fuse is not None and link.fuse.holder_id == holder.id)


def fuses_of(link: PowerLink | FeedLink) -> int:
    """How many fuses a cable has: one, or one a lead of a power run."""
    return link.fuse_count if isinstance(link, PowerLink) else int(link.fuse is not None)


def places_in(design: Design, holder: FuseHolder) -> dict[str, int]:
    """How many fuses of each cable that names a holder find a place in it, in the order they were laid."""
    left, found = holder.circuits, {}
    for link in held_by(design, holder):
        found[link.id] = min(fuses_of(link), left)
        left -= found[link.id]
    return found


def room_in(design: Design, holder: FuseHolder) -> int:
    """How many more fuses a holder takes; less than nothing where too many are named for it."""
    return holder.circuits - sum(fuses_of(link) for link in held_by(design, holder))


def without_place(design: Design, link: PowerLink) -> int:
    """How many fuses of a run find no place in the holder it names, or name none."""
    holder = next((h for h in design.parts_of(FuseHolder) if link.fuse and h.id == link.fuse.holder_id), None)
    if holder is None:
        return link.fuse_count
    return link.fuse_count - places_in(design, holder)[link.id] if link.fuse_each else 0


def suits(holder: FuseHolder, part: object) -> bool:
    """Whether a holder takes the fuse a part's maker names; any holder for a part that names none."""
    return not isinstance(part, PoweredSubwoofer) or part.fuse_a in family(holder.family).ratings_a


def free_holder(design: Design, part: object) -> FuseHolder | None:
    """A holder with room for one more fuse, of a family that has the size the part's maker names; None without one."""
    holders = design.parts_of(FuseHolder)
    return next((holder for holder in holders if room_in(design, holder) > 0 and suits(holder, part)), None)
