"""Levels and gain."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.document.factory import Module
from ohmack.core.figures.gaps import lacking, why_none
from ohmack.core.wording import amount
from ohmack.drawing.car import HEIGHT
from ohmack.drawing.levels import CHART_HEIGHT, draw_levels
from ohmack.drawing.levels_upright import draw_levels_upright
from ohmack.drawing.picture import Layer, Picture
from ohmack.web.car_picture import Chart, car_picture
from ohmack.web.page import Page
from ohmack.web.sheet import Sheet
from ohmack.web.sheets.signal.view import SignalView


def say(page: Page) -> tuple[str, str]:
    """Signal."""
    signal = next(iter(page.evaluation.results.signals), None)
    target = signal.figures.get("target") if signal else None
    if "signal" in page.idle_stages:
        return "The signal way stays as it was", "no converter and no amplifier in this job"
    setting = signal.figures.get("sensitivity") if signal and not signal.outputs else None
    if setting is not None and setting.value is not None:
        return f"Set the input to {amount(setting.value, 'v')}", "where the subwoofer gives its full output"
    if target is None or target.value is None:
        figures = lacking(signal.figures.values()) if signal is not None else []
        wants = why_none(figures) or "they need the radio's output, a converter and a load"
        return "The levels are not known yet", wants
    policy = page.design.policy
    tone_hz = signal.outputs[0].tone_hz(policy.tone_hz) if signal and signal.outputs else policy.tone_hz
    past = f", music up to {amount(policy.overlap_db, 'db')} past full power" if policy.overlap_db else ""
    first = signal.outputs[0] if signal and signal.outputs else None
    flat = ", filters flat" if first is not None and page.evaluation.results.flat_for(first) else ""
    tone = f"{tone_hz:g} Hz at {amount(policy.tone_dbfs, 'dbfs')}{past}{flat}"
    return f"Set the gain for {amount(target.value, 'v')} at the output", tone


def draw(page: Page) -> Markup:
    """The sheet's picture."""
    view = SignalView(page)
    shown = view.shown

    def ladder(picture: Picture) -> Markup:
        return draw_levels(picture, shown, HEIGHT + 4, view.faint) if shown else Markup("")

    def rows() -> Markup:
        return draw_levels_upright(shown) if shown else Markup("")

    chart = Chart(ladder, CHART_HEIGHT + 6, instead=rows)
    boxes = any(isinstance(view.tapped(signal), Module) for signal in view.signals)
    layer = Layer(links=("tap", "line", "speaker"), quiet_links=("power",), speakers=True, grounds=False, modules=boxes)
    return car_picture(page, layer, "below it the level of every stage", "signal", chart)


SHEET = Sheet(
    key="signal", title="Signal", order=40, tab="Levels", say=say, draw=draw, view=SignalView, main_figure="target_v"
)
