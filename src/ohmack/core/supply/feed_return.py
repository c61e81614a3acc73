"""The way back of what hangs on a factory feed: its ground lead, the body and the battery's strap."""

from __future__ import annotations

from ohmack.core.document.facts import Position
from ohmack.core.document.handles import at
from ohmack.core.document.links import FeedLink
from ohmack.core.document.parts import HeadUnit
from ohmack.core.document.vehicle import GroundPoint
from ohmack.core.figures.figure import Book, Figure, Formula, Term
from ohmack.core.fit.runs import place_of, straight
from ohmack.core.record import record
from ohmack.core.reference import PHYSICS

FEED_BACK = Formula(
    "Lost on the way back of", "v", "I × (R × L + body + strap), negative lead",
    lambda amps, per_m, metres, body, strap: amps * (per_m * metres + body + strap), PHYSICS,
)  # fmt: skip

LEAD_AT_LEAST = 0.5  # of what may be lost on the way back is the ground lead's; common practice


def feed_ground_point(book: Book, link: FeedLink) -> GroundPoint | None:
    """The ground point of what hangs on a feed; None while it has none."""
    points = book.design.vehicle.ground_points
    return next((point for point in points if point.id == link.ground_point_id), None)


def feed_ground_length(book: Book, link: FeedLink, point: GroundPoint) -> Figure:
    """How long the ground lead of a part on a factory feed is: straight from the part to its point."""
    part, place = book.design.part(link.to_id), _place(book, link)
    name = f"{part.name if part is not None else link.to_id}, its ground lead"
    return straight(book, f"{link.id}/ground_m", place, point.position, at(link), name)


def _place(book: Book, link: FeedLink) -> Position | None:
    """Where a ground lead begins: a radio's at the dash, whatever the radio's own place on file."""
    if isinstance(book.design.part(link.to_id), HeadUnit):
        return book.design.vehicle.radio.position
    return place_of(book.design, link.to_id)


@record
class WayBack:
    """The way back from one part on a factory feed to the battery's negative post."""

    book: Book
    point: GroundPoint
    length: Figure  # of the ground lead
    rest: tuple[Term, Term]  # body and strap

    @classmethod
    def of(cls, book: Book, link: FeedLink) -> WayBack | None:
        """The way back of what hangs on a feed; None while it has no ground."""
        point = feed_ground_point(book, link)
        if point is None:
            return None
        supply = book.design.vehicle.supply
        body = (
            book.fact(supply, lambda it: it.body_return_ohm, "body return", "ohm")
            if point.body_return_ohm.value is None
            else book.fact(point, lambda it: it.body_return_ohm, f"body return from {point.name}", "ohm")
        )
        strap = book.fact(supply, lambda it: it.battery_strap_ohm, "battery strap", "ohm")
        return cls(book, point, feed_ground_length(book, link, point), (body, strap))

    def leg(self, draws_a: float | None, most_v: float) -> tuple[float, float]:
        """(what flows times the length of the ground lead [a m], what is left for that lead [v]), of `most_v` for the
        whole way back and half of it at least, as no wire mends a bad body; nothing flows where that is not known.
        """
        flows_a = draws_a or 0.0
        left_v = most_v - flows_a * sum(term.value or 0.0 for term in self.rest)
        return flows_a * (self.length.value or 0.0), max(left_v, LEAD_AT_LEAST * most_v)

    def lost(self, draws: Term, per_m: Term, scope: str, name: str) -> Figure:
        """What is lost on it.

        Parameters:
            draws: what the part draws [a].
            per_m: resistance of its wire a metre, one lead [ohm]; the ground lead is of the same wire.
            scope, name: whose figure it is.

        Returns:
            drop [v].

        Formula: I (R L + body return + strap). Source: Ohm's law.
        """
        words = f"{name}: lost on the way back by {self.point.name}"
        return self.book.figure(f"{scope}/feed_back_v", FEED_BACK, draws, per_m, self.length, *self.rest, name=words)
