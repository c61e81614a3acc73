"""The route cards for their page."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.build.route_cards import RouteCard
from ohmack.core.reference import table
from ohmack.core.wording import amount, count
from ohmack.drawing.route_strip import draw_strip
from ohmack.web.car_picture import two_widths
from ohmack.web.page import Page

SIDES = {"left": "on the left", "right": "on the right", "middle": "down the middle", "across": "across the car"}


class RoutesView:
    """Every run with its strip."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self.cards: list[RouteCard] = page.evaluation.results.route_cards
        self.unit = page.design.policy.length_unit

    tie_every_m = float(table("sundries", "used")["tie_every_m"])

    def strip(self, card: RouteCard) -> Markup:
        """Its drawing."""
        return two_widths(*draw_strip(card, self.unit))

    def says(self, card: RouteCard) -> str:
        """Size, colour, length, side and ties, in words."""
        length = "length not known" if card.length_m is None else amount(card.length_m, "m", self.unit)
        rise = f"; {amount(card.rise_m, 'm', self.unit)} of it rises at each end" if card.rise_m else "; by tape"
        words = [card.size or "size not chosen", card.colour if card.size != card.colour else "", length]
        known = ", ".join(w for w in words if w)
        return f"{known}, {SIDES[card.side]}; {count(card.ties, 'tie')}{rise}"

    def minds(self, card: RouteCard) -> list[str]:
        """What it must be kept clear of, in words."""
        return [
            f"{p.zone.name}: {amount(p.from_m, 'm', self.unit)} to {amount(p.to_m, 'm', self.unit)} along it"
            for p in card.pinches
            if p.matters
        ]
