"""The connector a sheet shows: the one whose pin is looked at, else the first."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.document.harness import Connector
from ohmack.drawing.connector_face import draw_face
from ohmack.web.page import Page


def connector_shown(page: Page) -> Connector | None:
    """The connector being looked at: the selected one, else the first; None where the car has none on file."""
    steps = page.show.split("/")
    wanted = steps[2] if steps[:2] == ["vehicle", "connectors"] and len(steps) > 2 else ""
    connectors = page.design.vehicle.connectors
    return next((c for c in connectors if c.id == wanted), connectors[0] if connectors else None)


def face_shown(page: Page) -> Markup:
    """Its face, on the side the sheet looks at."""
    connector = connector_shown(page)
    if connector is None:
        return Markup("")
    face = draw_face(page.design.vehicle, connector, page.show, page.link_to)
    return Markup('<div class="face-scroll">{}</div>').format(face)
