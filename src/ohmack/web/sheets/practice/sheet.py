"""Practice: the bench hides something, somebody finds it; scored beside the finder's own strategy."""

from __future__ import annotations

from typing import Any

from markupsafe import Markup

from ohmack.core.wording import count
from ohmack.drawing.picture import Layer, Picture
from ohmack.drawing.probe_marks import draw_readings
from ohmack.instruments.practice import Score, score
from ohmack.store.design_rows import DesignRecord
from ohmack.web.car_picture import ALL_LINKS, Chart, car_picture
from ohmack.web.page import Page
from ohmack.web.sheet import Asked, Sheet
from ohmack.web.sheets.practice.view import PracticeView
from ohmack.web.workshop import Workshop


def say(page: Page) -> tuple[str, str]:
    """How the practice stands."""
    practice = page.design.proof.practice
    stands: Score | None = page.extra.get("score")
    if practice is None or stands is None:
        return "Practise on a car like this", "the bench makes one up and hides what is wrong with it"
    took = f"{count(stands.person.checks, 'check')}, {stands.person.minutes:.0f} min"
    if stands.over:
        return f"Found: {took}", f"the strategy takes {_took(stands)}"
    left = len(stands.faults) - len(stands.found)
    return f"{count(left, 'fault')} to find", f"so far {took}"


def _took(stands: Score) -> str:
    return f"{count(stands.strategy.checks, 'check')}, {stands.strategy.minutes:.0f} min"


def draw(page: Page) -> Markup:
    """The sheet's picture."""
    view = PracticeView(page)

    def over(picture: Picture) -> Markup:
        return draw_readings(picture, [j for j in view.proof.checks if j.reading is not None], None)

    layer = Layer(links=("power", "ground"), quiet_links=ALL_LINKS[2:], speakers=True, labels=False)
    chart = Chart(lambda _: Markup(""), 0.0, over=over)
    return car_picture(page, layer, "what was read so far", "practice", chart)


def _score(shop: Workshop, record: DesignRecord, asked: Asked) -> dict[str, Any]:
    """The score of a practice job; none of another."""
    if record.design.proof.practice is None:
        return {"score": None}
    return {"score": shop.remembered(record, "practice score", lambda: score(record.design))}


SHEET = Sheet(key="practice", title="Practice", order=74, home="prove", tab="Practice", say=say, draw=draw,
              view=PracticeView, extra=_score)  # fmt: skip
