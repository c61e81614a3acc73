"""The outside of a box in boards: a block, a wedge, a side of any corners, or the one board of a driver in free air."""

from __future__ import annotations

from ohmack.core.document.boxes import Box
from ohmack.core.physics.box_panels import BoxShape, Made, made_of
from ohmack.core.physics.nesting import Panel
from ohmack.core.physics.prism import PrismShape, prism_made
from ohmack.core.record import record


@record
class Baffle:
    """One board, or several on each other, with a driver in it and the boot's air behind."""

    width_m: float
    height_m: float
    board_m: float
    fronts: int = 1
    braces: int = 0

    @property
    def bottom_m(self) -> float:
        """How long it is along the car."""
        return self.board_m * self.fronts

    def depth_at_m(self, height_m: float) -> float:
        """Nothing stands behind it at any height."""
        return float("inf")


Shape = BoxShape | PrismShape | Baffle


def shape_of(box: Box) -> Shape | None:
    """The outside and the boards of a box that is built; None for a ready-made one or without a height."""
    boards = box.boards
    if boards.thickness_mm is None or box.height_m is None:
        return None
    thick = boards.thickness_mm / 1000
    if box.box_type == "free air":
        return Baffle(box.width_m, box.height_m, thick, boards.fronts)
    if boards.corners:
        corners = tuple((corner.behind_mm / 1000, corner.up_mm / 1000) for corner in boards.corners)
        return PrismShape(corners, box.width_m, thick, boards.fronts, boards.braces)
    top_m = boards.top_length_m or box.length_m
    return BoxShape(box.length_m, top_m, box.width_m, box.height_m, thick, boards.fronts, boards.braces)


def made_from(shape: Shape) -> Made:
    """The panels of a box and what they enclose.

    Parameters:
        shape: its outside and boards.

    Returns:
        panels, volumes, centre of mass of the wood.

    Raises:
        OutOfRange: it cannot be made.

    Source: geometry.
    """
    if isinstance(shape, PrismShape):
        return prism_made(shape)
    if isinstance(shape, BoxShape):
        return made_of(shape)
    names = ("board", "second board", "third board")
    panels = tuple(Panel(names[n], shape.width_m, shape.height_m) for n in range(shape.fronts))
    area = shape.width_m * shape.height_m
    wood = area * shape.bottom_m
    return Made(panels, 0.0, 0.0, area * shape.fronts, wood, shape.height_m / 2, shape.bottom_m / 2)
