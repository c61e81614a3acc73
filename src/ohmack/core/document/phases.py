"""Now and later: the design as it stands when only what is fitted now is in the car."""

from __future__ import annotations

from ohmack.core.document import Design
from ohmack.core.document.design import required_ends
from ohmack.core.document.links import FeedLink, Link, PowerLink
from ohmack.core.document.part import Phase


def _without_holder(link: Link, gone: set[str]) -> Link:
    if isinstance(link, PowerLink | FeedLink) and link.fuse and link.fuse.holder_id in gone:
        return link.model_copy(update={"fuse": link.fuse.model_copy(update={"holder_id": None})})
    return link


def now_only(design: Design) -> Design | None:
    """The design without the parts and wires that come later, and what hangs on them; the survey is shared, not
    copied.

    Parameters:
        design: the design.

    Returns:
        the smaller design; None where everything is fitted now.
    """
    gone = {part.id for part in design.parts if part.phase is Phase.LATER}
    now = [link for link in design.links if link.phase is not Phase.LATER]
    if not gone and len(now) == len(design.links):
        return None
    kept = tuple(_without_holder(link, gone) for link in now if gone.isdisjoint(required_ends(link)))
    parts = tuple(part for part in design.parts if part.id not in gone)
    return design.model_copy(update={"parts": parts, "links": kept})
