"""Which wire leads where."""

from __future__ import annotations

from ohmack.core.harness.wire_finder import Found
from ohmack.core.wording import count
from ohmack.web.car_picture import draw_speakers_and_modules
from ohmack.web.extras import photos_and_history
from ohmack.web.page import Page
from ohmack.web.sheet import Sheet
from ohmack.web.sheets.finder.view import FinderView


def say(page: Page) -> tuple[str, str]:
    """The wire hunt."""
    hunt = page.design.vehicle.hunt
    if hunt is None:
        return "Which wire is which", "readings narrow it down; the next test is the one that decides most a minute"
    found = page.evaluation.results.hunt
    if not isinstance(found, Found):
        return "The wires do not come out even", "two for each speaker, one for each ground"
    if found.contradiction:
        return "The readings contradict each other", f"{len(found.contradiction)} of them cannot all be true"
    done = f"{len(found.certain)} of {count(len(hunt.speaker_ids), 'pair')} certain"
    many = (
        f"{found.possible:,.0f}".replace(",", " ")
        if found.possible < 1e9
        else f"{found.possible:.0e}".replace("e+", " × 10^")
    )
    return (
        done,
        f"{many} assignments still possible, polarity included" if not found.complete else "every pair has its speaker",
    )


SHEET = Sheet(
    key="finder",
    title="Wire finder",
    order=28,
    home="plan",
    tab="Wire finder",
    say=say,
    draw=draw_speakers_and_modules,
    view=FinderView,
    extra=photos_and_history,
)
