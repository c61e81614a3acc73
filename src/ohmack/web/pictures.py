"""The picture of every sheet: which layers of the car it shows, and what is drawn under it."""

from __future__ import annotations

from collections.abc import Callable

from markupsafe import Markup

from ohmack.core.document.functions import Intervention
from ohmack.core.document.interventions import interventions_of
from ohmack.core.evaluation.answer import Evaluation
from ohmack.core.factory.strategies import advise
from ohmack.drawing.car import HEIGHT, WIDTH
from ohmack.drawing.levels import CHART_HEIGHT as LEVELS_HEIGHT
from ohmack.drawing.levels import draw_levels
from ohmack.drawing.picture import Layer, LinkTo, Mark, begin, picture_svg
from ohmack.drawing.plan import draw_plan
from ohmack.drawing.svg import el
from ohmack.drawing.volts import CHART_HEIGHT as VOLTS_HEIGHT
from ohmack.drawing.volts import draw_volts

ALL_LINKS = ("power", "ground", "speaker", "tap", "line", "remote", "feed")


def acts_of(interventions: tuple[Intervention, ...]) -> tuple[tuple[str, str], ...]:
    """What happens to each module, for the picture."""
    return tuple((i.id, i.act.value) for i in interventions)


def stage_picture(
    evaluation: Evaluation, stage: str, show: str, link_to: LinkTo, marks: Callable[[], tuple[Mark, ...]]
) -> Markup:
    """The picture of one sheet; `marks` makes the survey's numbered marks."""
    picture = begin(evaluation.whole if stage == "plan" else evaluation, link_to, show)
    results, design = evaluation.results, evaluation.results.design
    title = f"{design.vehicle.title} from above, nose to the left"
    match stage:
        case "survey":
            layer = Layer(
                quiet_links=("power", "line"), speakers=True, feeds=True, marks=marks(), zones=True,
                modules=True, spaces=True, damage=True,
            )  # fmt: skip
            return picture_svg([draw_plan(picture, layer)], HEIGHT, f"{title}, with what is known about it", "survey")
        case "functions":
            verdict = next((v for v in results.ledger if show == f"vehicle/functions/{v.function.id}"), None)
            layer = Layer(speakers=True, grounds=False, modules=True, parts=False, way=verdict.way if verdict else (),
                          broken_at=verdict.broken_at if verdict else "", acts=acts_of(interventions_of(design)))  # fmt: skip
            words = f", with the way of {verdict.function.title}" if verdict else ", with the factory modules"
            return picture_svg([draw_plan(picture, layer)], HEIGHT, title + words, "survey")
        case "strategies":
            best = advise(design).best
            chosen = interventions_of(design) if design.strategy else best.interventions if best else ()
            layer = Layer(speakers=True, grounds=False, modules=True, parts=bool(design.strategy), acts=acts_of(chosen))
            words = "what the chosen way does" if design.strategy else "what the recommended way does"
            return picture_svg([draw_plan(picture, layer)], HEIGHT, f"{title}, with {words} to its modules", "survey")
        case "factory":
            layer = Layer(speakers=True, grounds=False, modules=True, damage=True, parts=False)
            return picture_svg([draw_plan(picture, layer)], HEIGHT, f"{title}, with the factory system", "survey")
        case "harness" | "joints" | "finder":
            layer = Layer(speakers=True, grounds=False, modules=True, parts=False)
            return picture_svg([draw_plan(picture, layer)], HEIGHT, f"{title}, with its speakers and modules", "survey")
        case "baseline" | "loads":
            own = stage == "loads" and bool(results.loads)  # what a new amplifier drives, else what the factory drives
            layer = Layer(
                speakers=True,
                grounds=False,
                modules=not own,
                feeds=stage == "baseline",
                parts=own,
                links=("speaker",) if own else (),
            )
            return picture_svg([draw_plan(picture, layer)], HEIGHT, f"{title}, with its speakers", "survey")
        case "signal":
            plan = draw_plan(picture, Layer(links=("tap", "line", "speaker"), quiet_links=("power",)))
            ladder = draw_levels(picture, results.signals[0], HEIGHT + 4) if results.signals else Markup("")
            height = HEIGHT + (LEVELS_HEIGHT + 6 if ladder else 0)
            return picture_svg([plan, ladder], height, f"{title}; below it the level of every stage", "signal")
        case "supply":
            plan = draw_plan(picture, Layer(links=("power", "ground"), quiet_links=("line", "tap"), way_points=True))
            chart = draw_volts(picture, results.hardest_supply, HEIGHT + 2) if results.hardest_supply else Markup("")
            height = HEIGHT + (VOLTS_HEIGHT + 12 if chart else 0)
            return picture_svg([plan, chart], height, f"{title}; below it the voltage along the loop", "supply")
        case _:
            plan = draw_plan(
                picture,
                Layer(links=ALL_LINKS, way_points=stage == "plan", zones=stage == "plan" and bool(results.crossings)),
            )
            return picture_svg([plan], HEIGHT, f"{title}, with every part and wire", "plan")


def thumbnail(evaluation: Evaluation) -> Markup:
    """A small picture of a job's car with its parts and runs, for the list of jobs."""
    picture = begin(evaluation, lambda _: "")
    plan = draw_plan(picture, Layer(links=("power", "line", "speaker"), labels=False))
    return el(
        "svg",
        plan,
        viewBox=f"0 0 {WIDTH:g} {HEIGHT:g}",
        class_="drawing car-thumb",
        aria_hidden="true",
        focusable="false",
    )
