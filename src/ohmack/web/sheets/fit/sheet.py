"""Whether parts fit where they go."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.fit.clearances import STATES
from ohmack.drawing.picture import Layer
from ohmack.web.car_picture import ALL_LINKS, car_picture
from ohmack.web.extras import photos_and_history
from ohmack.web.page import Page
from ohmack.web.sheet import Sheet
from ohmack.web.sheets.fit.view import FitsView


def say(page: Page) -> tuple[str, str]:
    """Fit: the tightest place."""
    fits = [fit for fit in page.evaluation.results.fits if fit.checks or fit.in_cup]
    small = "a check on paper with millimetres and a basis, not a promise"
    if not fits and any(part.in_car for part in page.design.parts):
        return "Nothing new has to fit", "what is in the car went in before"
    if not fits:
        return "Nothing has to fit yet", "pick a speaker, a radio or a box in Plan"
    worst = min(fits, key=lambda fit: STATES.index(fit.state))
    words = {
        "over": "does not fit", "unknown": "not measured yet", "loose": "wants a ring", "tight": "only just fits",
        "eye": "by eye, before it is stuck down",
    }  # fmt: skip
    return (f"{worst.title}: {words[worst.state]}" if worst.state in words else "Everything planned fits"), small


def draw(page: Page) -> Markup:
    """The sheet's picture."""
    return car_picture(page, Layer(links=ALL_LINKS, touched=True), "with every part and wire", "plan")


SHEET = Sheet(
    key="fit",
    title="Fit",
    order=13,
    home="survey",
    tab="Fit",
    say=say,
    draw=draw,
    view=FitsView,
    extra=photos_and_history,
)
