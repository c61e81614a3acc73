"""The soak for its page: the check that is tried now, the days, what holds the car."""

from __future__ import annotations

from ohmack.core.handover.soak import SoakJudged, SoakState, said
from ohmack.core.handover.state import HandOverState
from ohmack.core.wording import SHOWN
from ohmack.web.clock import now
from ohmack.web.page import Page

MOST_DAYS = 8
WORDS = {SoakState.PASSED: "✓ good", SoakState.ACCEPTED: "✓ accepted", SoakState.OFF: "! not good",
         SoakState.AGAIN: "↻ try again", SoakState.UNJUDGED: "? not judged", SoakState.BEGUN: "… begun",
         SoakState.OPEN: ""}  # fmt: skip


class HandOverView:
    """What is tried now, and how everything stands."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self.state: HandOverState = page.evaluation.results.hand_over

    @property
    def now(self) -> SoakJudged | None:
        """The check that is shown: the one asked for, else the first that does not stand."""
        problem = self.page.problem
        asked = self.page.show.removeprefix("check:") if self.page.show.startswith("check:") else ""
        if problem is not None:
            asked = problem.typed.get("check", [asked])[0]
        found = self.state.soak.named(asked)
        waiting = self.state.soak.left
        return found or next((j for j in waiting if j.state is SoakState.OFF), None) or next(iter(waiting), None)

    @property
    def days(self) -> list[str]:
        """The days something was tried on, and today."""
        tried = {r.when[:10] for j in self.state.soak.checks for r in j.readings}
        return sorted(tried | {now().date().isoformat()})[-MOST_DAYS:]

    @property
    def at(self) -> str:
        """The time now, for the field."""
        return now().isoformat(timespec="minutes")

    @property
    def who(self) -> str:
        """Who tried last."""
        taken = self.page.design.handover.soak
        return taken[-1].who if taken else ""

    def address(self, judged: SoakJudged) -> str:
        """Where a check is tried."""
        return self.page.link_to(f"check:{judged.check.id}")

    @staticmethod
    def words(judged: SoakJudged) -> str:
        """How it stands, in a word."""
        return WORDS[judged.state]

    @staticmethod
    def unit(judged: SoakJudged) -> str:
        """The unit it is read in."""
        return SHOWN.get(judged.check.quantity.unit, "")

    @staticmethod
    def tries(judged: SoakJudged) -> list[tuple[str, str, str]]:
        """(when, what it showed, who and note) of every try, newest first."""
        rows = []
        for reading in reversed(judged.readings):
            more = ", ".join(words for words in (reading.who, reading.note) if words)
            rows.append((reading.when.replace("T", " "), said(judged.check, reading), more))
        return rows
