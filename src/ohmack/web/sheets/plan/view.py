"""What the page of parts and wires shows besides them: what could switch the amplifiers on."""

from __future__ import annotations

from math import inf

from ohmack.core.document.links import LineLink
from ohmack.core.document.vehicle import KeyState
from ohmack.core.signal.switch_on import SwitchSource, switch_sources
from ohmack.core.signal.ways import channel_words, line_source, pair_name, pairs_of
from ohmack.core.wording import trimmed
from ohmack.web.page import Page


class PlanView:
    """Parts and wires for their page."""

    key_states = tuple(KeyState)

    def __init__(self, page: Page) -> None:
        self.page = page
        self.design = page.design

    @property
    def switch_sources(self) -> tuple[SwitchSource, ...]:
        """What could switch the amplifiers on, the preferred first."""
        return switch_sources(self.design)

    def pairs(self, line: LineLink) -> list[tuple[str, str]]:
        """(number, name) of the RCA pairs a line could be."""
        source = line_source(self.design, line.from_id)
        return [(str(n), pair_name(source, n)) for n in range(1, max(pairs_of(source) or 1, line.pair) + 1)]

    def fed_by(self, line: LineLink) -> str:
        """What a line goes into, with the channels it names."""
        part, into = self.page.part_name(line.to_id), channel_words(line)
        return f"{part}, {into}," if into else part

    def hold(self, source: SwitchSource) -> str:
        """How long a source holds after key off, in words."""
        if source.states is None and not source.sensing:
            return "?"
        if source.hold_s == inf:
            return "never off"
        return f"about {trimmed(source.hold_min)} min" if source.hold_s else "at once"
