"""The car on the pages before sign-in: nobody's, of a make that does not exist, with what every job begins with."""

from __future__ import annotations

from functools import cache

from markupsafe import Markup

from ohmack.core.document.design import Intake
from ohmack.core.document.policy import Policy
from ohmack.core.document.vehicle import Body, Hand
from ohmack.core.evaluation.door import evaluate
from ohmack.core.planning.starting_points import new_design, new_vehicle
from ohmack.web.thumbnail import thumbnail


@cache
def car_before() -> Markup:
    """A car in plan view, nose to the left."""
    design = new_design("", new_vehicle("-", "-", None, Body.ESTATE, Hand.LEFT), Intake(), Policy())
    return thumbnail(evaluate(design))
