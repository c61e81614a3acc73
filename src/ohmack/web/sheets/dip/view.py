"""The dip for its page."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.document.handles import at_the
from ohmack.core.document.use import Use
from ohmack.core.planning.music import average_percent
from ohmack.core.supply.dip_study import DipStudy, DipWith
from ohmack.drawing.dip_trace import draw_dip
from ohmack.web.car_picture import two_widths
from ohmack.web.page import Page


class DipView:
    """What a bass note does, for its page."""

    def __init__(self, page: Page) -> None:
        self.page = page
        found = page.evaluation.results.dip
        self.study: DipStudy | None = found if isinstance(found, DipStudy) else None
        self.missing = found if isinstance(found, str) else ""

    @property
    def music(self) -> DipStudy | None:
        """The same in music; None where none is read in, or it cannot be reckoned."""
        found = self.page.evaluation.results.music_dip
        return found if isinstance(found, DipStudy) else None

    @property
    def music_missing(self) -> str:
        """Why there is none."""
        found = self.page.evaluation.results.music_dip
        return found if isinstance(found, str) else ""

    @property
    def music_drawing(self) -> Markup:
        """The dip in music."""
        return two_widths(*draw_dip(self.music, None, "music")) if self.music else Markup("")

    music_path = at_the(Use, lambda it: it.music)
    programme_path = at_the(Use, lambda it: it.programme_percent)

    @property
    def average(self) -> float | None:
        """The average power of the music over full power [percent]."""
        found = average_percent(self.page.design)
        return None if found is None else round(found, 1)

    @property
    def tables(self) -> list[tuple[str, tuple[DipWith, ...]]]:
        """(what is played, rows) of every study."""
        found = []
        if self.study is not None:
            found.append(("In a bass note", (self.study.now, *self.study.mended)))
        if self.music is not None:
            name = self.page.design.use.music.name if self.page.design.use.music else ""
            found.append((f"In “{name}”", (self.music.now, *self.music.mended)))
        return found

    @property
    def best(self) -> DipWith | None:
        """The remedy that takes most of the dip off the lights, which is drawn over it."""
        if self.study is None:
            return None
        return min(self.study.mended, key=lambda one: (one.dip.light_lost, -one.dip.lowest_post_v), default=None)
