"""What a power network is made of: branches between nodes, batteries, and consumers between two nodes each."""

from __future__ import annotations

from enum import StrEnum

from ohmack.core.figures.figure import Term
from ohmack.core.record import record


class Place(StrEnum):
    """Where in the loop a branch is."""

    POST = "post"
    FUSE = "fuse"
    RUN = "run"
    BLOCK = "distribution block"
    POSITIVE = "positive terminal"
    NEGATIVE = "negative terminal"
    LEAD = "ground lead"
    RING = "ground ring"
    BODY = "body"
    STRAP = "strap"

    @property
    def returns(self) -> bool:
        """Whether it belongs to the way back."""
        return self in (Place.NEGATIVE, Place.LEAD, Place.RING, Place.BODY, Place.STRAP)


@record
class Branch:
    """A resistance between two nodes; its term says what it is, what it rests on and where it is looked at."""

    id: str
    place: Place
    start: str
    end: str
    term: Term  # resistance at 20 °C in ohm
    warms: bool = False  # copper of a run, which has more resistance when hot

    @property
    def resistance_ohm(self) -> float:
        """Resistance at 20 °C [ohm]."""
        return float(self.term.value)


@record
class Cell:
    """A battery with the nodes of its posts."""

    id: str
    plus: str
    minus: str


@record
class Consumer:
    """What draws current between two nodes; `way` names the branches its current takes, from the post and back to
    it.
    """

    id: str
    cell_id: str
    plus: str
    minus: str
    way: tuple[str, ...]
    against: frozenset[str] = frozenset()  # those of them it passes from end to start


@record
class PowerNetwork:
    """All of it. The first battery's negative post is the node voltages are counted from."""

    branches: tuple[Branch, ...]
    cells: tuple[Cell, ...]
    consumers: tuple[Consumer, ...]
