"""The three pictures of the customer's page: the car with what is where, the fuses, the settings."""

from __future__ import annotations

from dataclasses import dataclass

from markupsafe import Markup

from ohmack.core.evaluation.answer import Evaluation
from ohmack.core.handover.settings import ceilings, played
from ohmack.drawing.car import HEIGHT, NARROW, upright_frame_of
from ohmack.drawing.fuse_marks import draw_fuse_marks
from ohmack.drawing.picture import Layer, Picture, begin, picture_svg
from ohmack.drawing.plan import draw_plan
from ohmack.drawing.settings_picture import draw_settings

ROOM_PX = 178.0  # the width of the body on a phone
WHERE = Layer(quiet_links=("power", "ground", "speaker", "line", "tap"), speakers=True, grounds=False)
FUSES = Layer(quiet_links=("power", "ground", "feed", "charge"), grounds=False, labels=False)


@dataclass(frozen=True, slots=True)
class Pictures:
    """The three of them; one that shows nothing is empty."""

    where: Markup
    fuses: Markup
    settings: Markup


def pictures(evaluation: Evaluation, standing: bool) -> Pictures:
    """The pictures of a car, without any link in them.

    Parameters:
        evaluation: the evaluated plan.
        standing: nose up, as on a phone.
    """
    results = evaluation.results
    car = results.design.vehicle.title
    where, fuses = _car(evaluation, standing), _car(evaluation, standing)
    drawn = draw_plan(where, WHERE)
    spots = results.fuse_map
    marked = [draw_plan(fuses, FUSES), draw_fuse_marks(fuses, spots)]
    return Pictures(
        _svg(where, [drawn], f"{car} from above: what is where"),
        _svg(fuses, marked, f"{car} from above: the fuses by number") if spots else Markup(""),
        draw_settings(ceilings(results), played(results)),
    )


def _car(evaluation: Evaluation, standing: bool) -> Picture:
    vehicle = evaluation.results.design.vehicle
    frame = upright_frame_of(vehicle, ROOM_PX, NARROW / 2) if standing else None
    return begin(evaluation, lambda _: "", frame=frame)


def _svg(picture: Picture, body: list[Markup], title: str) -> Markup:
    if picture.frame.upright:
        return picture_svg(body, picture.frame.height_px, title, "plan standing", picture.frame.width_px)
    return picture_svg(body, HEIGHT, title, "plan")
