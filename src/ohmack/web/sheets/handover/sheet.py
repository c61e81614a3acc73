"""Hand over: the soak by day, and whether the car may go."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.wording import count
from ohmack.drawing.soak_calendar import draw_soak
from ohmack.web.car_picture import draw_speakers_and_modules, two_widths
from ohmack.web.page import Page
from ohmack.web.sheet import Sheet
from ohmack.web.sheets.handover.view import HandOverView


def say(page: Page) -> tuple[str, str]:
    """Whether it may go."""
    state = page.evaluation.results.hand_over
    if not state.soak.checks:
        return state.verdict, "parts make something to hand over"
    stand = sum(j.state.stands for j in state.soak.checks)
    return state.verdict, f"{stand} of {count(len(state.soak.checks), 'soak check')} stand"


def draw(page: Page) -> Markup:
    """The soak by day."""
    view = HandOverView(page)
    checks = view.state.soak.checks
    if not checks:
        return draw_speakers_and_modules(page)
    wide = draw_soak(checks, view.days, 780.0, 380.0, page.link_to)
    return two_widths(wide, draw_soak(checks, view.days[-3:], 358.0, 190.0, page.link_to))


SHEET = Sheet(key="handover", title="Hand over", order=80, tab="Soak", say=say, draw=draw, view=HandOverView)
