"""What came off, counted out and in."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.build.teardown import lacking
from ohmack.core.wording import count, listed
from ohmack.drawing.picture import Layer, Picture
from ohmack.drawing.work_lanes import draw_numbers
from ohmack.web.car_picture import Chart, car_picture
from ohmack.web.extras import photos_and_history
from ohmack.web.page import Page
from ohmack.web.sheet import Sheet
from ohmack.web.sheets.teardown.view import TeardownView


def say(page: Page) -> tuple[str, str]:
    """What is off the car."""
    view = TeardownView(page)
    state, waiting = view.state, count(len(view.to_take), "thing")
    if state.uncounted:
        names = listed([p.step.takes_off for p in state.uncounted])
        return f"{count(len(state.uncounted), 'thing')} came off uncounted", f"{names}: what held it is asked for below"
    if not state.items:
        if not view.to_take:
            return "Nothing comes off in this job", "panels, seats and trims that come off are counted here"
        return f"{waiting} to come off", "every screw, clip and plug is counted out, and in again"
    if state.may_close and not view.to_take:
        return "Everything is back in", f"{count(len(state.items), 'thing')} counted out and in"
    out = lacking(*state.items)
    if not view.off and not out:
        return "What came off is back in", f"{waiting} not taken off yet"
    return f"Off the car: {count(len(view.off), 'thing')}", f"still out: {out or 'nothing to count'}"


def draw(page: Page) -> Markup:
    """The sheet's picture."""
    plan = page.evaluation.results.work_plan

    def over(picture: Picture) -> Markup:
        return draw_numbers(picture, plan)

    chart = Chart(lambda _: Markup(""), 0.0, over=over)
    return car_picture(page, Layer(grounds=False), "what comes off numbered in order", "steps", chart)


SHEET = Sheet(
    key="teardown", title="Teardown", order=64, home="build", tab="Teardown", say=say, draw=draw, view=TeardownView,
    extra=photos_and_history,
)  # fmt: skip
