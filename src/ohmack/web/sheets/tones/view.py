"""The tones of a job for their page."""

from __future__ import annotations

from ohmack.core.signal.tones import Tone, tones_of
from ohmack.web.page import Page


class TonesView:
    """Tones for their page."""

    def __init__(self, page: Page) -> None:
        self.page = page

    @property
    def tones(self) -> tuple[Tone, ...]:
        """Every tone of the job."""
        return tones_of(self.page.design, self.page.evaluation.results.signals)
