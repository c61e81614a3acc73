"""What the sheet of the loss shows."""

from __future__ import annotations

from ohmack.core.planning.less_loss import Cure, Loss
from ohmack.core.wording import amount, listed
from ohmack.web.page import Page


class LossView:
    """What is lost now, and with each cure."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self.loss: Loss = page.extra["loss"]

    @property
    def consumers(self) -> list[tuple[str, str]]:
        """(id, name) of everything whose loss is known, the hardest first."""
        supplies = (s for s in self.page.evaluation.results.supplies if s.part.id in self.loss.lost_v)
        return sorted(((s.part.id, s.part.name) for s in supplies), key=lambda one: -self.loss.lost_v[one[0]])

    def verdict(self, cure: Cure) -> str:
        """Whether a cure is enough, in words."""
        if cure.stops:
            return "brings a Stop"
        if not cure.holds:
            return "not enough"
        return "holds" if cure.holds_hot else "holds while cool"

    def tone(self, cure: Cure) -> str:
        """How the verdict is coloured."""
        return "over" if cure.stops else "good" if cure.holds_hot else "tight" if cure.holds else "unknown"

    def why(self, cure: Cure) -> str:
        """What else is to be said of a cure."""
        names = {p.id: p.name for p in self.page.design.parts}
        gives = [f"{names[part_id]} gives {amount(w, 'w')}" for part_id, w in cure.power_w.items() if part_id in names]
        words = [act.why for act in cure.acts]
        return " ".join(
            [
                *dict.fromkeys(words),
                *([f"{listed(gives)}."] if gives else []),
                *(f"{said}." for said in (*cure.besides, *cure.stops)),
            ]
        )
