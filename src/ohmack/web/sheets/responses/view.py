"""Responses and what can be done with them, for their page."""

from __future__ import annotations

from ohmack.core.document.responses import MeasuredAt, Taken
from ohmack.core.loads.wirings import LoadResult
from ohmack.core.signal.responses import EVEN_HZ, Measured
from ohmack.core.wording import trimmed
from ohmack.web.page import Page

PLAYED = {"sweep": "the sweep of this job", "noise": "the pink noise of this job", "tone": "one steady tone"}


class ResponsesView:
    """Responses for their page."""

    played = PLAYED
    places = tuple(place.value for place in MeasuredAt)
    times = tuple(taken.value for taken in Taken)

    def __init__(self, page: Page) -> None:
        self.page = page
        self.measured: list[Measured] = page.evaluation.results.responses
        self.loads: list[LoadResult] = page.evaluation.results.loads

    def chosen(self, link_id: str) -> bool:
        """Whether an output was ticked in a form that was refused."""
        problem = self.page.refused("flatten")
        return problem is not None and link_id in problem.typed.get("output", [])

    @property
    def flattens(self) -> str:
        """The response that is offered to be flattened: the one that was tried, else the last."""
        return self.page.typed("flatten", "response", self.measured[-1].response.id if self.measured else "")

    @property
    def ends(self) -> tuple[str, str]:
        """From where to where a response is asked to be even, as a form offers it."""
        return trimmed(EVEN_HZ[0]), trimmed(EVEN_HZ[1])

    @staticmethod
    def span(one: Measured) -> tuple[float, float]:
        """The lowest and the highest frequency of a response [hz]."""
        return one.response.hz[0], one.response.hz[-1]
