"""What the survey's page shows besides the facts: which speakers' places are like one that was measured,
and whose other side is not on file."""

from __future__ import annotations

from ohmack.core.planning.equal_places import equals_of, taken_as
from ohmack.core.planning.mirroring import can_mirror
from ohmack.core.wording import count, listed
from ohmack.web.page import Page

MOST_NAMED = 3  # on a button


class SurveyView:
    """The survey for its page."""

    def __init__(self, page: Page) -> None:
        self.design = page.design

    def alike(self, speaker_id: str) -> str:
        """The places that lack what was found at a speaker's, by name where they are few; empty where none does."""
        if not taken_as(self.design, speaker_id):
            return ""
        speaker = next(s for s in self.design.vehicle.speakers if s.id == speaker_id)
        names = [other.name.lower() for other in equals_of(self.design, speaker)]
        return listed(names) if len(names) <= MOST_NAMED else f"the {count(len(names), 'place')} like it"

    def one_sided(self, speaker_id: str) -> bool:
        """Whether a speaker's other side is not on file yet."""
        return any(s.id == speaker_id and can_mirror(self.design, s) for s in self.design.vehicle.speakers)
