"""Fuses in cables that lie in the car: read by somebody, or not."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from ohmack.core.document.links import ChargeLink, FeedLink, PowerLink
from ohmack.core.record import record

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results

Fused = PowerLink | FeedLink | ChargeLink


@record
class UnreadFuse:
    """A cable in the car whose fuse nobody read, and the one that goes in its place."""

    link: Fused
    fed: str  # the name of what it feeds
    rating_a: float | None  # as Ohmack chose it; None where that is not known yet


def holds_its_fuse(link: Fused) -> bool:
    """Whether a cable lies in the car with the fuse somebody read in it; else Ohmack's choice is put in."""
    return link.in_car and link.fuse is not None and link.fuse.rating_a is not None


def unread_fuses(results: Results) -> Iterator[UnreadFuse]:
    """Every cable that lies in the car with a fuse nobody read."""
    chosen: list[tuple[Fused, str, float | None]] = [
        *((s.link, s.part.name, s.figures["fuse"].value) for s in results.supplies),
        *((f.link, f.part.name, f.fuse.value) for f in results.feeds),
        *((c.link, c.battery.name, c.figures["fuse"].value if c.figures else None) for c in results.charging),
    ]
    for link, fed, rating_a in chosen:
        if link.in_car and link.fuse is not None and link.fuse.rating_a is None:
            yield UnreadFuse(link, fed, rating_a)
