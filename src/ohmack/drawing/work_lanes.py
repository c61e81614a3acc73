"""The steps as lanes over time, the longest chain marked, and the numbers of what comes off on the car."""

from __future__ import annotations

from collections.abc import Iterable

from markupsafe import Markup

from ohmack.core.build.steps import Phase
from ohmack.core.build.work_plan import PlannedStep, WorkPlan
from ohmack.drawing.car import NARROW, WIDTH
from ohmack.drawing.picture import Picture, box_at
from ohmack.drawing.svg import el, group, label, text_width

LANE_PX, BAR_PX, GAP_PX = 34.0, 24.0, 1.4
LANES_HEIGHT = 118.0
NEAR = ((0, 0), (0, -26), (0, 26), (30, 0), (-30, 0), (30, -26), (-30, 26), (0, -52), (0, 52), (-56, 0), (56, 0),
        (-40, -46), (40, 46), (-80, 0), (80, 0))  # fmt: skip
HOURS = (0.5, 1, 2, 4)


def draw_lanes(plan: WorkPlan, top: float, width: float = WIDTH) -> Markup:
    """What two people do when, under the car or by itself; empty without an order."""
    placed = plan.by_two
    if not placed:
        return Markup("")
    left, right = 24.0, width - 14.0
    whole = max(p.end_min for p in placed) or 1.0
    by_name = {p.step.id: p for p in plan.steps}

    def x_of(minute: float) -> float:
        return left + (right - left) * minute / whole

    pieces = []
    step_h = next((h for h in HOURS if whole / 60 / h <= (9 if width > NARROW else 5)), HOURS[-1])
    hours = 0.0
    bottom = top + 22 + 2 * LANE_PX
    while hours * 60 <= whole:
        x = x_of(hours * 60)
        pieces.append(el("path", d=f"M{x:.1f} {top + 14:.1f}V{bottom:.1f}", class_="grid"))
        pieces.append(label(x, bottom + 15, f"{hours:g} h" if not hours else f"{hours:g}", "dim", "middle"))
        hours += step_h
    for lane in (0, 1):
        pieces.append(label(left - 6, top + 22 + lane * LANE_PX + BAR_PX / 2 + 4, str(lane + 1), "dim", "end"))
    for one in placed:
        here = by_name[one.id]
        x, end = x_of(one.start_min), x_of(one.end_min)
        state = "done" if here.done else "critical" if here.critical else ""
        for lane in one.lanes:
            y = top + 22 + lane * LANE_PX
            bar = el("rect", x=x, y=y, width=max(1.0, end - x - GAP_PX), height=BAR_PX, rx=2.0,
                     class_=f"step {state} phase-{here.step.phase.name.lower()}".strip())  # fmt: skip
            title = el("title", f"{here.number}. {here.step.what}")
            number = str(here.number)
            fits = text_width(number, "dim") <= end - x - 4
            text = label((x + end - GAP_PX) / 2, y + BAR_PX / 2 + 4, number, "dim", "middle", "in-step") if fits else ""
            pieces.append(el("a", title, bar, text, href=f"#step-{here.step.id}", aria_label=f"step {here.number}"))
    pieces.append(label(left, top + 10, "Two at work; filled: the longest chain", "dim"))
    return group(pieces, class_="lanes")


def lanes_alone(plan: WorkPlan) -> Markup:
    """The lanes by themselves, for a phone."""
    drawn = draw_lanes(plan, 4.0, NARROW)
    if not drawn:
        return drawn
    title = "The steps over time"
    return el("svg", el("title", title), drawn, viewBox=f"0 0 {NARROW:g} {LANES_HEIGHT:g}", class_="drawing work-lanes",
              role="group", aria_label=title)  # fmt: skip


def draw_numbers(picture: Picture, plan: WorkPlan) -> Markup:
    """What comes off and what comes out, numbered in order, where it is on the car."""
    return draw_some(picture, (p for p in plan.steps if p.step.phase in (Phase.OFF, Phase.OUT)))


def draw_some(picture: Picture, steps: Iterable[PlannedStep]) -> Markup:
    """The numbers of some steps, where they are done on the car; those that are done filled."""
    return group([_number(picture, planned) for planned in steps if planned.step.where is not None])


def _number(picture: Picture, planned: PlannedStep) -> Markup:
    assert planned.step.where is not None
    x, y = picture.frame.at(*planned.step.where)
    spots = [(x + dx, y + dy) for dx, dy in NEAR]
    x, y = min(spots, key=lambda s: (picture.labels.cost(box_at(s[0], s[1], 26, 26)), spots.index(s)))
    picture.labels.block(box_at(x, y, 26, 26))
    state = "mark measured" if planned.done else "mark assumed"
    return el(
        "a", el("title", f"{planned.number}. {planned.step.what}"), el("circle", cx=x, cy=y, r=11.0, class_=state),
        label(x, y + 4.3, str(planned.number), "lab", "middle", f"mark-{'measured' if planned.done else 'assumed'}"),
        href=f"#step-{planned.step.id}", class_="mark-link",
    )  # fmt: skip
