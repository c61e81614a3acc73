"""The box of a subwoofer."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.wording import amount, listed
from ohmack.drawing.picture import Layer
from ohmack.web.car_picture import car_picture
from ohmack.web.page import Page
from ohmack.web.sheet import Sheet
from ohmack.web.sheets.box.view import BoxesView


def say(page: Page) -> tuple[str, str]:
    """The box: how low and how loud."""
    boxes = page.evaluation.results.boxes
    one = next((b for b in boxes if b.solved is not None), next(iter(boxes), None))
    if one is None:
        return "No box in the plan", "pick one in Plan, or build one"
    if not one.subs:
        return f"{one.name} is empty", "a subwoofer that goes into no place of the car sits in it"
    solved = one.solved
    inside = f"{one.name} with {listed([sub.name for sub in one.subs])}"
    if solved is None:
        return "What this box does is not judged", f"{inside}: {one.unlike or 'small-signal parameters are missing'}"
    reach = solved.reach_hz
    big = f"{amount(solved.loudest_db, 'db').replace('.0', '')} at 40 Hz"
    if reach is not None:
        big = f"Reaches {reach:.0f} Hz, {solved.loudest_db:.0f} dB at 40 Hz"
    travel = f"the cone goes {solved.travel_mm:.0f}" + (f" of {solved.xmax_mm:.0f} mm" if solved.xmax_mm else " mm")
    return big, f"{inside}; {travel}; level 1 m over a floor, no cabin"


def draw(page: Page) -> Markup:
    """The sheet's picture: the car with the box in it."""
    return car_picture(page, Layer(speakers=False, grounds=False, spaces=True), "with its box")


SHEET = Sheet(
    key="box", title="The box", order=32, home="loads", tab="The box", say=say, draw=draw, view=BoxesView,
    main_figure="reach_hz",
)  # fmt: skip
