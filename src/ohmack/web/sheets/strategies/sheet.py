"""The ways to do it, side by side."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.document.interventions import interventions_of
from ohmack.core.factory.advice import advise
from ohmack.core.wording import count
from ohmack.drawing.picture import Layer
from ohmack.web.car_picture import acts_of, car_picture
from ohmack.web.extras import trees
from ohmack.web.page import Page
from ohmack.web.sheet import Sheet
from ohmack.web.sheets.strategies.view import StrategiesView


def say(page: Page) -> tuple[str, str]:
    """Strategies side by side."""
    advice = advise(page.design)
    possible = sum(c.possible for c in advice.ranked)
    if advice.best is None:
        return "Which system is it first?", "strategies follow from the factory system"
    words = advice.best.title
    if not page.design.intake.wishes and page.design.strategy is None:
        return "What does the customer want?", f"without a wish only cost, time and what stays count: {words}"
    chosen = page.design.strategy
    small = f"{count(possible, 'way')} on this car" + (f"; chosen: {chosen.value}" if chosen else "; none chosen yet")
    return f"Best here: {words}", small


def draw(page: Page) -> Markup:
    """The sheet's picture."""
    design = page.evaluation.results.design
    best = advise(design).best
    chosen = interventions_of(design) if design.strategy else best.interventions if best else ()
    layer = Layer(speakers=True, grounds=False, modules=True, parts=bool(design.strategy), acts=acts_of(chosen))
    words = "what the chosen way does" if design.strategy else "what the recommended way does"
    return car_picture(page, layer, f"with {words} to its modules")


SHEET = Sheet(
    key="strategies",
    title="Strategies",
    order=23,
    home="plan",
    tab="Strategies",
    say=say,
    draw=draw,
    view=StrategiesView,
    extra=trees,
)
