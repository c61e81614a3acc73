"""What fits where, with its picture and the facts it rests on."""

from __future__ import annotations

from dataclasses import dataclass

from markupsafe import Markup

from ohmack.core.document.parts import Driver
from ohmack.core.fit.clearances import FitResult
from ohmack.drawing.section import draw_section
from ohmack.web.fields import FactView
from ohmack.web.page import Page

WORDS = {
    "over": "does not fit", "tight": "only just", "good": "fits", "unknown": "not measured", "loose": "wants a ring",
    "eye": "by eye",
}  # fmt: skip


@dataclass(frozen=True)
class FitView:
    """One fit with its picture, and the facts it rests on."""

    fit: FitResult
    picture: Markup
    facts: tuple[FactView, ...]


class FitsView:
    """What goes where, for its page."""

    words = WORDS

    def __init__(self, page: Page) -> None:
        self.page = page

    @property
    def fits(self) -> list[FitView]:
        """Every fit with its picture and facts."""
        design = self.page.design
        speakers = {speaker.id: speaker for speaker in design.vehicle.speakers}
        views = []
        for fit in self.page.evaluation.results.fits:
            if not fit.checks and not fit.in_cup:
                continue
            part = design.part(fit.part_id)
            picture = Markup("")
            if isinstance(part, Driver) and fit.place_id in speakers and not fit.in_cup:
                picture = draw_section(fit, part, speakers[fit.place_id])
            views.append(FitView(fit, picture, tuple(self._facts(fit))))
        return views

    def _facts(self, fit: FitResult) -> list[FactView]:
        """The facts of the car a fit rests on, each once."""
        paths: dict[str, None] = {}
        for check in fit.checks:
            for term in check.spare.inputs:
                if term.path.startswith("vehicle/"):
                    paths[term.path] = None
        return [self.page.fact(path) for path in paths]
