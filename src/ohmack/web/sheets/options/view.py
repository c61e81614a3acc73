"""The options of a job, and what differs between them."""

from __future__ import annotations

from dataclasses import dataclass

from markupsafe import Markup

from ohmack.core.evaluation.answer import Evaluation
from ohmack.core.planning.options import ComparedRow, compare_options, plain_words
from ohmack.store.design_rows import DesignRecord
from ohmack.web.page import Page
from ohmack.web.thumbnail import thumbnail


@dataclass(frozen=True)
class OptionView:
    """One option of the job."""

    letter: str
    address: str
    name: str
    words: str
    here: bool
    same_survey: bool
    car: Markup


class OptionsView:
    """The options for their page."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self.design = page.design

    @property
    def options(self) -> list[OptionView]:
        """Every option of the job."""
        pairs: list[tuple[DesignRecord, Evaluation]] = self.page.extra["options"]
        survey = self.design.vehicle
        return [
            OptionView(
                r.letter,
                f"/jobs/{r.address}",
                r.design.option_name,
                plain_words(r.design),
                r.address == self.page.record.address,
                r.design.vehicle == survey,
                thumbnail(evaluation),
            )
            for r, evaluation in pairs
        ]

    @property
    def compared(self) -> tuple[ComparedRow, ...]:
        """The options line by line."""
        return compare_options([evaluation for _, evaluation in self.page.extra["options"]])
