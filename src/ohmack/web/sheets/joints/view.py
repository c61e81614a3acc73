"""The joint table."""

from __future__ import annotations

from markupsafe import Markup

from ohmack.core.document.harness import (
    Cavity,
    JointMethod,
)
from ohmack.core.harness.joints import JointTable
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

    def swatch_of(self, thing: Cavity) -> Markup:
        """A wire as it looks."""
        return swatch(thing.base, thing.tracer)
