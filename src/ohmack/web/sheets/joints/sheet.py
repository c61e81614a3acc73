"""Joints between the loom and the plan."""

from __future__ import annotations

from ohmack.core.wording import count
from ohmack.web.car_picture import draw_speakers_and_modules
from ohmack.web.extras import photos_and_history
from ohmack.web.page import Page
from ohmack.web.sheet import Sheet
from ohmack.web.sheets.joints.view import JointsView


def say(page: Page) -> tuple[str, str]:
    """The joint table."""
    table = page.evaluation.results.joints
    if not table.joints:
        return "No joints yet", "they follow from the pin map and what meets it"
    cuts = sum(j.cuts for j in table.joints)
    small = f"{count(cuts, 'factory wire')} cut" if cuts else "nothing of the factory loom is cut"
    return f"{count(len(table.joints), 'joint')}, about {table.minutes:.0f} min", small


SHEET = Sheet(
    key="joints",
    title="Joints",
    order=27,
    home="plan",
    tab="Joints",
    say=say,
    draw=draw_speakers_and_modules,
    view=JointsView,
    extra=photos_and_history,
)
