"""The car from above as every sheet shows it, with layers of its own and perhaps a chart below."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

from markupsafe import Markup

from ohmack.core.document.functions import Intervention
from ohmack.core.evaluation.answer import Evaluation
from ohmack.drawing.car import HEIGHT, NARROW, upright_frame_of
from ohmack.drawing.picture import Layer, Picture, begin, picture_svg
from ohmack.drawing.plan import draw_plan
from ohmack.web.page import Page

ALL_LINKS = ("power", "ground", "speaker", "tap", "line", "remote", "feed", "charge", "capacitor")


def acts_of(interventions: tuple[Intervention, ...]) -> tuple[tuple[str, str], ...]:
    """What happens to each module, for the picture."""
    return tuple((i.id, i.act.value) for i in interventions)


def two_widths(wide: Markup, narrow: Markup) -> Markup:
    """A drawing for the desk and one for a phone, of which one is shown; empty where neither shows anything."""
    if not wide and not narrow:
        return Markup("")
    return Markup('<div class="wide-only">{}</div><div class="narrow-only">{}</div>').format(wide, narrow)


@dataclass(frozen=True, slots=True)
class Chart:
    """What a sheet draws with its car: below one that lies, and for a phone beside one that stands, or instead of
    it.
    """

    below: Callable[[Picture], Markup]  # an empty one takes no room
    below_px: float
    beside: Callable[[Picture], Markup] | None = None
    instead: Callable[[], Markup] | None = None
    over: Callable[[Picture], Markup] | None = None  # on the car itself, lying and standing


ROOM_PX, BESIDE_PX = 200.0, 164.0  # the width of a body that stands alone, and of one with a chart on its right


def car_picture(
    page: Page, layer: Layer, words: str, style: str = "survey", chart: Chart | None = None, whole: bool = False,
    other: Evaluation | None = None
) -> Markup:  # fmt: skip
    """The picture of a sheet, twice: nose to the left, and for a phone nose up; only one of them is shown.

    Parameters:
        page: the page it stands on.
        layer: what of the car it shows.
        words: what it shows, for those who do not see it.
        style: the class of the drawing.
        chart: what is drawn with it.
        whole: with the parts of a later phase too.
        other: another plan for this car, drawn instead of the page's own.
    """
    evaluation = other or (page.evaluation.whole if whole else page.evaluation)
    name = evaluation.results.design.vehicle.title
    joined = ";" if chart else ","
    return two_widths(
        _lying(page, evaluation, layer, f"{name} from above, nose to the left{joined} {words}", style, chart),
        _standing(page, evaluation, layer, f"{name} from above, nose up{joined} {words}", style, chart),
    )


def _lying(page: Page, evaluation: Evaluation, layer: Layer, title: str, style: str, chart: Chart | None) -> Markup:
    picture = begin(evaluation, page.link_to, page.show)
    plan = draw_plan(picture, layer)
    drawn = chart.below(picture) if chart else Markup("")
    plan += chart.over(picture) if chart and chart.over else Markup("")
    return picture_svg([plan, drawn], HEIGHT + (chart.below_px if chart and drawn else 0), title, style)


def _standing(page: Page, evaluation: Evaluation, layer: Layer, title: str, style: str, chart: Chart | None) -> Markup:
    if chart and chart.instead and (drawn := chart.instead()):
        return drawn
    vehicle = evaluation.results.design.vehicle
    beside = chart.beside if chart else None
    room_px, middle_px = (BESIDE_PX, 14 + BESIDE_PX / 2) if beside else (ROOM_PX, NARROW / 2)
    picture = begin(evaluation, page.link_to, page.show, upright_frame_of(vehicle, room_px, middle_px))
    if beside:
        picture.labels.frame = replace(picture.labels.frame, right=28 + BESIDE_PX)
    pieces = [draw_plan(picture, replace(layer, way_points=False))]
    if chart and chart.over:
        pieces.append(chart.over(picture))
    if beside:
        pieces.append(beside(picture))
    return picture_svg(pieces, picture.frame.height_px, title, f"{style} standing", picture.frame.width_px)


def draw_speakers_and_modules(page: Page) -> Markup:
    """The car with what the loom ties together, and no part of ours."""
    return car_picture(
        page, Layer(speakers=True, grounds=False, modules=True, parts=False), "with its speakers and modules"
    )
