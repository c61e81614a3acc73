"""The cut list for its page."""

from __future__ import annotations

from ohmack.core.build.cut_list import Cable, CutList
from ohmack.core.build.lists import OWN_CABLE
from ohmack.web.page import Page


class CutsView:
    """What is cut from what."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self.cuts: CutList = page.evaluation.results.cut_list

    def off(self, cable: Cable) -> str:
        """What a cable comes off, in words."""
        names = [one.reel.name for one in self.cuts.reels if any(p.cable is cable for p in one.pieces)]
        if any(p.cable is cable for p in self.cuts.to_buy):
            names.append("to buy")
        if cable.size == OWN_CABLE:
            names.append("comes with it")
        names += [made.name for made, laid in self.cuts.ready if laid is cable]
        return ", ".join(names) or "not known yet"
