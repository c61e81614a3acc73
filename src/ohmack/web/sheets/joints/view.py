"""The joint table."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.build.cut_list import Cable
from ohmack.core.document.harness import (
    Cavity,
    CavityUse,
    Connector,
    JointMethod,
)
from ohmack.core.factory.joined_ranges import JoinedRanges, joined_ranges
from ohmack.core.harness.joints import JointTable, Lead, LooseEnd
from ohmack.core.harness.lead_ends import LeadSource, sources_for
from ohmack.core.harness.pin_map import use_words
from ohmack.drawing.wires import swatch
from ohmack.web.connector_shown import face_shown
from ohmack.web.page import Page


class JointsView:
    """The joint table for its page."""

    methods = tuple(m.value for m in JointMethod)

    def __init__(self, page: Page) -> None:
        self.page = page
        self.design = page.design
        self.vehicle = page.design.vehicle

    @property
    def face(self) -> Markup:
        """The face of the connector."""
        return face_shown(self.page)

    @property
    def joints(self) -> JointTable:
        """The joint table of the plan."""
        return self.page.evaluation.results.joints

    @property
    def cables(self) -> tuple[Cable, ...]:
        """Every cable of the plan, as both its ends are labelled."""
        return self.page.evaluation.results.cut_list.cables

    def sources_of(self, end: LooseEnd) -> tuple[LeadSource, ...]:
        """What may end a lead that has no wire in the plug."""
        return sources_for(self.design, end.use) if end.missing and end.use is not None else ()

    @property
    def joined_ranges(self) -> list[JoinedRanges]:
        """Pairs of one place that the works kept apart by bands and a new radio drives by one output."""
        results = self.page.evaluation.results
        return list(joined_ranges(results.channel_loads, results.drives))

    @property
    def marked(self) -> list[tuple[Connector, Cavity]]:
        """Wires of the maps that are known and joined to nothing: a label each."""
        joined = {(j.connector.id, j.cavity.id) for j in self.joints.joints}
        return [
            (k, c)
            for k in self.vehicle.connectors
            for c in k.cavities
            if c.taken_for not in (None, CavityUse.EMPTY, CavityUse.AIRBAG) and (k.id, c.id) not in joined
        ]

    def use_of(self, cavity: Cavity) -> str:
        """What a cavity is, in a few words."""
        return use_words(self.vehicle, cavity)

    def swatch_of(self, thing: Cavity | Lead) -> Markup:
        """A wire as it looks."""
        return swatch(thing.base, thing.tracer)
