"""The customer's page: as it will be read, and the links that open it."""

from __future__ import annotations

from typing import Any

from markupsafe import Markup

from ohmack.core.wording import count
from ohmack.store.customer_links import LinkRecord
from ohmack.store.design_rows import DesignRecord
from ohmack.web.car_picture import two_widths
from ohmack.web.clock import now
from ohmack.web.leaflet import pictures
from ohmack.web.page import Page
from ohmack.web.sheet import Asked, Sheet
from ohmack.web.sheets.leaflet.view import LeafletView
from ohmack.web.workshop import Workshop


def say(page: Page) -> tuple[str, str]:
    """How many links open it."""
    links: list[LinkRecord] = page.extra.get("links", [])
    there = [link for link in links if link.open_on(now().date())]
    return "The customer's page", f"{count(len(there), 'link opens', 'links open')} it" if there else "no link opens it"


def draw(page: Page) -> Markup:
    """What is where, as the customer sees it."""
    wide, narrow = (pictures(page.evaluation, standing).where for standing in (False, True))
    return two_widths(wide, narrow)


def _links(shop: Workshop, record: DesignRecord, asked: Asked) -> dict[str, Any]:
    return {"links": shop.links.list(shop.context, record.design_id)}


SHEET = Sheet(
    key="leaflet", title="For the customer", order=83, home="handover", tab="For the customer", say=say, draw=draw,
    view=LeafletView, extra=_links,
)  # fmt: skip
