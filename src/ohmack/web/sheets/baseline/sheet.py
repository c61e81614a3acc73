"""Readings before anything is changed."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.wording import count
from ohmack.drawing.picture import Layer
from ohmack.web.car_picture import car_picture
from ohmack.web.extras import photos_and_history
from ohmack.web.page import Page
from ohmack.web.sheet import Sheet
from ohmack.web.sheets.baseline.view import BaselineView


def say(page: Page) -> tuple[str, str]:
    """The baseline: what was read, and what does not fit."""
    base = page.evaluation.results.baseline
    read = [pair for pair in base.pairs if pair.read_ohm is not None]
    wrong = [pair for pair in base.pairs if pair.good is False]
    small = (
        f"{len(read)} of {count(len(base.pairs), 'pair')} read,"
        f" {count(sum(len(s.rows) for s in base.sweeps), 'volume reading')}"
    )
    if wrong:
        return (
            (
                f"{count(len(wrong), 'pair')} to look at: {wrong[0].channel.name.lower()},"
                f" {wrong[0].verdict.split(':')[0]}"
            ),
            small,
        )
    return ("The car reads as it should" if read else "Read the car before anything is changed"), small


def draw(page: Page) -> Markup:
    """The sheet's picture."""
    return car_picture(
        page, Layer(speakers=True, grounds=False, modules=True, feeds=True, parts=False), "with its speakers"
    )


SHEET = Sheet(
    key="baseline",
    title="Baseline",
    order=12,
    home="survey",
    tab="Baseline",
    say=say,
    draw=draw,
    view=BaselineView,
    extra=photos_and_history,
)
