"""The customer's page for the shop: what it says, the links, the one just made."""

from __future__ import annotations

from datetime import timedelta

from ohmack.core.document.handles import at_the
from ohmack.core.document.handover import HandOver
from ohmack.core.handover.leaflet import Leaflet, leaflet
from ohmack.store.customer_links import LinkRecord
from ohmack.web.clock import now
from ohmack.web.leaflet import Pictures, pictures
from ohmack.web.page import Page

COME_BACK, CALL = at_the(HandOver, lambda it: it.come_back), at_the(HandOver, lambda it: it.call)
USUAL_DAYS = 730


class LeafletView:
    """What the customer reads, and by which links."""

    come_back, call = COME_BACK, CALL

    def __init__(self, page: Page) -> None:
        self.page = page
        self.leaflet: Leaflet = leaflet(page.evaluation.results)
        self.links: list[LinkRecord] = page.extra.get("links", [])
        self.made: str = page.extra.get("made", "")  # the address of a link just made, shown once
        self.code: str = page.extra.get("code", "")  # the same as a square code

    @property
    def pictures(self) -> Pictures:
        """The three pictures, as on a phone."""
        return pictures(self.page.evaluation, standing=True)

    @property
    def usual_end(self) -> str:
        """The day a link usually ends."""
        return (now().date() + timedelta(days=USUAL_DAYS)).isoformat()

    @staticmethod
    def words(link: LinkRecord) -> str:
        """How a link stands."""
        if link.withdrawn:
            return "withdrawn"
        return (
            f"until {link.ends_on.isoformat()}" if link.open_on(now().date()) else f"ended {link.ends_on.isoformat()}"
        )

    @staticmethod
    def is_open(link: LinkRecord) -> bool:
        """Whether a link still opens."""
        return link.open_on(now().date())
