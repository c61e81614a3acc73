"""Parts and wires on the car."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.document.outgoing import Goes
from ohmack.core.evaluation.changes import shown
from ohmack.core.wording import count
from ohmack.drawing.picture import Layer
from ohmack.web.car_picture import ALL_LINKS, car_picture
from ohmack.web.extras import catalogue
from ohmack.web.page import Page
from ohmack.web.sheet import Sheet
from ohmack.web.sheets.plan.view import PlanView


def say(page: Page) -> tuple[str, str]:
    """Plan."""
    cost, budget = page.figure("cost"), page.design.intake.budget
    if page.design.coming_out and not page.design.parts:
        out = sum(one.goes is Goes.PART for one in page.design.coming_out)
        return f"{count(out, 'part')} out of the car", "and everything made as it was"
    if not page.design.parts:
        return "Pick the first part", "an amplifier, a driver, a box, a converter"
    words = shown(cost)
    small = f"without tax; budget {budget:.0f} {page.design.policy.currency} with it" if budget else "no budget given"
    return f"{count(len(page.design.parts), 'part')}, {words}", small


def draw(page: Page) -> Markup:
    """The sheet's picture."""
    zones = bool(page.evaluation.results.crossings) or page.show.startswith(("links/", "parts/"))
    return car_picture(
        page,
        Layer(links=ALL_LINKS, touched=True, way_points=True, zones=zones),
        "with every part and wire",
        "plan",
        whole=True,
    )


SHEET = Sheet(
    key="plan",
    title="Plan",
    order=20,
    tab="Parts and wires",
    say=say,
    draw=draw,
    view=PlanView,
    extra=catalogue,
    main_figure="cost",
)
