"""Catalogue parts tried on the plan."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.wording import count
from ohmack.drawing.picture import Layer
from ohmack.web.car_picture import ALL_LINKS, car_picture
from ohmack.web.extras import found
from ohmack.web.page import Page
from ohmack.web.sheet import Sheet


def say(page: Page) -> tuple[str, str]:
    """Parts tried on the car."""
    found = page.extra.get("found")
    if found is None or not found.rows:
        return "Find a part", "each one is tried on this car"
    good = sum(trial.fits and not trial.same for _, trial in found.rows)
    inside = f", where it lacks the rest with what “{found.way.title}” needs" if found.way and found.beside else ""
    open_ = sum(trial.only_asks for _, trial in found.rows)
    asked = f", {open_} not known yet" if open_ else ""
    return (
        f"{good} of {count(len(found.rows), found.kind)} would go here{asked}",
        f"each one was tried on this car{inside}",
    )


def draw(page: Page) -> Markup:
    """The first of the list on the car, with what was put in besides."""
    found = page.extra.get("found")
    part, trial = found.rows[0] if found is not None and found.rows else (None, None)
    if part is None or trial is None or trial.after is None:
        return car_picture(page, Layer(links=ALL_LINKS, touched=True), "with every part and wire", "plan")
    words = f"with {part.name} and every wire it would have"
    return car_picture(page, Layer(links=ALL_LINKS, touched=True), words, "plan", other=trial.after)


SHEET = Sheet(
    key="find", title="Find a part", order=21, home="plan", tab="Find a part", say=say, draw=draw, extra=found
)
