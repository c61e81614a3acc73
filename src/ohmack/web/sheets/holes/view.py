"""The register of holes and the templates at full size, for their page."""

from __future__ import annotations

from ohmack.core.build.full_size import FullSize, unknown_places
from ohmack.core.build.holes import HoleRow
from ohmack.core.document.work import Hole, Opening, OpeningKind
from ohmack.core.wording import count
from ohmack.drawing.full_size import preview
from ohmack.web.page import Page

SIZES = ("width_mm", "height_mm", "inner_mm", "gap_mm", "corner_mm")
NOTES = ("looked_for", "sealed", "undone_by")


class HolesView:
    """What is cut into the car."""

    def __init__(self, page: Page) -> None:
        self.page = page
        results = page.evaluation.results
        self.rows: list[HoleRow] = results.holes
        self.templates: list[FullSize] = results.full_size
        self.unknown: list[str] = unknown_places(results)

    preview = staticmethod(preview)
    notes = tuple((name, str(Hole.model_fields[name].title)) for name in NOTES)
    kinds = tuple(OpeningKind)
    sizes = tuple((name, str(Opening.model_fields[name].title)) for name in SIZES)

    @property
    def done_words(self) -> str:
        """How many of the holes are in the car, and how many are noted."""
        made = [row for row in self.rows if row.drilled]
        noted = sum(not row.lacks for row in made)
        return f"{len(made)} of {count(len(self.rows), 'hole')} made, {noted} noted in full"

    def drawn_by_the_shop(self, one: FullSize) -> str:
        """The id of the shop's own opening behind a template; empty for one of the plan."""
        return one.key.removeprefix("own-") if one.key.startswith("own-") else ""
