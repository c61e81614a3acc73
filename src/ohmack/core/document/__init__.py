"""The Design document: one immutable revision of a plan for a car."""

from ohmack.core.document.design import FORMAT, VERSION, Design, Intake
from ohmack.core.document.facts import Basis, Fact, Verified

__all__ = ["FORMAT", "VERSION", "Basis", "Design", "Fact", "Intake", "Verified"]
