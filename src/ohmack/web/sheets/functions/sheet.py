"""What the car does, and what becomes of it."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.document.handles import at
from ohmack.core.document.interventions import interventions_of
from ohmack.core.factory.functions import Fate
from ohmack.core.wording import count
from ohmack.drawing.picture import Layer
from ohmack.web.car_picture import acts_of, car_picture
from ohmack.web.extras import photos_and_history
from ohmack.web.page import Page
from ohmack.web.sheet import Sheet
from ohmack.web.sheets.functions.view import FunctionsView


def say(page: Page) -> tuple[str, str]:
    """The function ledger."""
    ledger = page.evaluation.results.ledger
    if not ledger:
        return "What else does this car do?", "chimes, parking sounds, camera, clock: whatever hangs on the modules"
    lost = [v.function.title for v in ledger if v.fate is Fate.LOST]
    adapted = sum(v.fate is Fate.ADAPTED for v in ledger)
    small = (
        f"{count(len(ledger), 'function')}: {sum(v.fate is Fate.KEPT for v in ledger)} as before, {adapted} through an"
        " adapter"
    )
    if lost:
        return f"Would fall silent: {', '.join(lost[:3])}{' and more' if len(lost) > 3 else ''}", small
    untouched = not interventions_of(page.evaluation.results.design)
    return ("Nothing is touched yet" if untouched else "Nothing the car does is lost"), small


def draw(page: Page) -> Markup:
    """The sheet's picture."""
    results = page.evaluation.results
    verdict = next((v for v in results.ledger if page.show == at(v.function)), None)
    layer = Layer(
        speakers=True,
        grounds=False,
        modules=True,
        parts=False,
        way=verdict.way if verdict else (),
        broken_at=verdict.broken_at if verdict else "",
        acts=acts_of(interventions_of(results.design)),
    )
    return car_picture(
        page, layer, f"with the way of {verdict.function.title}" if verdict else "with the factory modules"
    )


SHEET = Sheet(
    key="functions",
    title="Functions",
    order=22,
    home="plan",
    tab="Functions",
    say=say,
    draw=draw,
    view=FunctionsView,
    extra=photos_and_history,
)
