"""Which facts of the car a plan rests on: what its figures are made of, and what its switches and grounds are."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ohmack.core.document.handles import at
from ohmack.core.document.links import FeedLink, GroundLink, RemoteLink

if TYPE_CHECKING:
    from ohmack.core.evaluation.results import Results


def rests_on(results: Results) -> frozenset[str]:
    """The paths of the facts today's plan rests on.

    Parameters:
        results: the evaluated sections of what is fitted now.

    Returns:
        paths of every fact some figure has as an input, of the key states of every feed in use, and of the kind of
        every ground point in use.
    """
    design = results.design
    found = {term.path for figure in results.book.figures.values() for term in figure.inputs if term.path}
    used = {k.from_id for k in design.links if isinstance(k, (FeedLink, RemoteLink))}
    grounds = {k.to_id for k in design.links_of(GroundLink)}
    grounds |= {k.ground_point_id for k in design.links_of(FeedLink) if k.ground_point_id}
    found |= {at(feed, lambda it: it.live) for feed in design.vehicle.feeds if feed.id in used}
    found |= {at(point, lambda it: it.kind) for point in design.vehicle.ground_points if point.id in grounds}
    return frozenset(found)
