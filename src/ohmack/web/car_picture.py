"""The car from above as every sheet shows it, with layers of its own and perhaps a chart below."""

from __future__ import annotations

from collections.abc import Callable

from markupsafe import Markup

from ohmack.core.document.functions import Intervention
from ohmack.drawing.car import HEIGHT
from ohmack.drawing.picture import Layer, Picture, begin, picture_svg
from ohmack.drawing.plan import draw_plan
from ohmack.web.page import Page

ALL_LINKS = ("power", "ground", "speaker", "tap", "line", "remote", "feed", "charge", "capacitor")


def acts_of(interventions: tuple[Intervention, ...]) -> tuple[tuple[str, str], ...]:
    """What happens to each module, for the picture."""
    return tuple((i.id, i.act.value) for i in interventions)


def car_picture(
    page: Page, layer: Layer, words: str, style: str = "survey", below: Callable[[Picture], Markup] | None = None,
    below_px: float = 0.0, whole: bool = False
) -> Markup:  # fmt: skip
    """The picture of a sheet.

    Parameters:
        page: the page it stands on.
        layer: what of the car it shows.
        words: what it shows, for those who do not see it.
        style: the class of the drawing.
        below: draws a chart under the car; an empty one takes no room.
        below_px: the height of that chart.
        whole: with the parts of a later phase too.
    """
    evaluation = page.evaluation.whole if whole else page.evaluation
    picture = begin(evaluation, page.link_to, page.show)
    plan = draw_plan(picture, layer)
    chart = below(picture) if below else Markup("")
    title = f"{evaluation.results.design.vehicle.title} from above, nose to the left"
    joined = ";" if below else ","
    return picture_svg(
        [plan, chart] if below else [plan], HEIGHT + (below_px if chart else 0), f"{title}{joined} {words}", style
    )


def draw_speakers_and_modules(page: Page) -> Markup:
    """The car with what the loom ties together, and no part of ours."""
    return car_picture(
        page, Layer(speakers=True, grounds=False, modules=True, parts=False), "with its speakers and modules"
    )
