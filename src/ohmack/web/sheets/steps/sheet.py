"""What is to be done, after what, with which tools: the car with what comes off, and the steps over time."""

from __future__ import annotations

from typing import Any

from markupsafe import Markup

from ohmack.core.build.learned_times import learned_times
from ohmack.core.figures.finding import Severity
from ohmack.core.wording import count, time_span
from ohmack.drawing.car import HEIGHT
from ohmack.drawing.picture import Layer, Picture
from ohmack.drawing.work_lanes import LANES_HEIGHT, draw_lanes, draw_numbers, lanes_alone
from ohmack.store.design_rows import DesignRecord
from ohmack.web.car_picture import Chart, car_picture
from ohmack.web.page import Page
from ohmack.web.sheet import Asked, Sheet
from ohmack.web.sheets.steps.view import StepsView
from ohmack.web.workshop import Workshop


def say(page: Page) -> tuple[str, str]:
    """How much work it is, and what comes next."""
    view = StepsView(page)
    plan = view.plan
    if not plan.steps and page.design.all_in_car:
        return "Nothing to do", "everything of the plan is in the car already: prove it, or plan what comes to it"
    if not plan.steps:
        return "No work is planned yet", "parts, cables and speakers make steps"
    if plan.circle:
        return "The steps have no order", plan.circle
    done = sum(p.done for p in plan.steps)
    if done == len(plan.steps):
        stops = page.evaluation.count(Severity.STOP)
        stand = f", {count(stops, 'stop stands', 'stops stand')}" if stops else ""
        return f"Everything is done{stand}", f"it took {time_span(plan.took_min, plan.took_min)} as far as noted"
    here = view.next_one
    small = f"{view.hands_on} of work, two need about {time_span(plan.two_min, plan.two_min)}; common practice"
    if done and here is not None:
        return f"Next: {here.number}. {here.step.what}", f"{view.done_words}; {small}"
    return f"{len(plan.steps)} steps, {view.hands_on}", small


def draw(page: Page) -> Markup:
    """The sheet's picture."""
    plan = page.evaluation.results.work_plan

    def below(_: Picture) -> Markup:
        return draw_lanes(plan, HEIGHT + 6)

    def over(picture: Picture) -> Markup:
        return draw_numbers(picture, plan)

    layer = Layer(links=("power", "ground"), quiet_links=("line", "speaker", "tap"), grounds=True, touched=True)
    words, chart = "what comes off numbered; below it the steps over time", Chart(below, LANES_HEIGHT, over=over)
    car = car_picture(page, layer, words, "steps", chart)
    return car + Markup('<div class="narrow-only">{}</div>').format(lanes_alone(plan)) if plan.steps else car


def _learned(shop: Workshop, record: DesignRecord, asked: Asked) -> dict[str, Any]:
    """What such steps took in the shop's other jobs."""
    car = record.design.vehicle
    return {"learned": learned_times(shop.work.times(shop.context, record.job_number), car.make, car.model)}


SHEET = Sheet(
    key="steps", title="Steps", order=63, home="build", tab="Steps", say=say, draw=draw, view=StepsView, extra=_learned
)
