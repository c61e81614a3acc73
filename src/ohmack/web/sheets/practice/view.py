"""The practice for its page."""

from __future__ import annotations

from ohmack.core.document.proof import Practice
from ohmack.core.prove.candidates import Candidate
from ohmack.core.wording import listed, lowered
from ohmack.instruments.practice import LEVELS, Score, shows_at
from ohmack.web.page import Page
from ohmack.web.sheets.prove.view import ProveView

MOST_SHOWN = 5


class PracticeView(ProveView):
    """What is practised."""

    def __init__(self, page: Page) -> None:
        super().__init__(page)
        self.practice: Practice | None = page.design.proof.practice
        self.score: Score | None = page.extra.get("score")

    @property
    def levels(self) -> list[tuple[str, str]]:
        """(level, words)."""
        return [(str(level), words) for level, words in LEVELS.items()]

    @property
    def shown(self) -> bool:
        """Whether the true answer stands on the page."""
        return self.score is not None and (self.score.over or bool(self.practice and self.practice.revealed))

    def why(self, fault: Candidate) -> str:
        """Where it shows, in words."""
        titles = shows_at(self.page.design, fault)
        return listed([lowered(title) for title in titles[:MOST_SHOWN]])

    @property
    def rows(self) -> list[tuple[str, str, str, str]]:
        """(whose way, checks, minutes, how it ended)."""
        if self.score is None:
            return []
        person, other = self.score.person, self.score.strategy
        ended = "found" if self.score.over else "not found yet" if not self.shown else "answer was shown"
        told = "found" if other.right else "cannot tell apart"
        return [
            ("You", str(person.checks), f"{person.minutes:.0f}", ended),
            ("The strategy", str(other.checks), f"{other.minutes:.0f}", told),
        ]
