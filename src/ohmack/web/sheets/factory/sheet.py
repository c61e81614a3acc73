"""Which factory system the car has."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.document import Basis
from ohmack.core.wording import count
from ohmack.drawing.picture import Layer
from ohmack.web.car_picture import car_picture
from ohmack.web.extras import photos_and_history
from ohmack.web.page import Page
from ohmack.web.sheet import Sheet
from ohmack.web.sheets.factory.view import FactoryView


def say(page: Page) -> tuple[str, str]:
    """The factory system: the fact on file, and how sure the questionnaire is."""
    fact = page.design.vehicle.radio.tier
    verdict = page.evaluation.results.tier
    tier, share = verdict.best
    if fact.value and fact.basis is not Basis.ASSUMED:
        words = fact.value.value
        against = verdict.answered and tier is not fact.value
        doubt = f"; the answers so far point to {tier.value}, {share:.0%}" if against else ""
        return f"{words[0].upper()}{words[1:]}", f"on file, {fact.basis.word.lower()} {fact.how.value}{doubt}"
    if not verdict.answered:
        words = fact.value.value if fact.value else "not known"
        return "Which factory system is it?", f"{words} on file, {fact.basis.word.lower()}"
    small = f"{share:.0%} certain after {count(len(verdict.answered), 'answer')}"
    words = f"{tier.value[0].upper()}{tier.value[1:]}"
    return (words if verdict.certain else f"Perhaps: {tier.value}"), small


def draw(page: Page) -> Markup:
    """The sheet's picture."""
    return car_picture(
        page, Layer(speakers=True, grounds=False, modules=True, damage=True, parts=False), "with the factory system"
    )


SHEET = Sheet(
    key="factory",
    title="Factory system",
    order=11,
    home="survey",
    tab="Factory system",
    say=say,
    draw=draw,
    view=FactoryView,
    extra=photos_and_history,
)
