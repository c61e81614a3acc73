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


def room_in(design: Design, holder: FuseHolder) -> int:
    """How many more fuses a holder takes; less than nothing where too many are named for it."""
    return holder.circuits - len(held_by(design, holder))


def suits(holder: FuseHolder, part: object) -> bool:
    """Whether a holder takes the fuse a part's maker names; any holder for a part that names none."""
    return not isinstance(part, PoweredSubwoofer) or part.fuse_a in family(holder.family).ratings_a


def free_holder(design: Design, part: object) -> FuseHolder | None:
    """A holder with room for one more fuse, of a family that has the size the part's maker names; None without one."""
    holders = design.parts_of(FuseHolder)
    return next((holder for holder in holders if room_in(design, holder) > 0 and suits(holder, part)), None)
