"""The cut sheet of a box that is built: its panels on boards, what is left over, what it weighs and where its weight
sits.
"""

from __future__ import annotations

from functools import lru_cache
from math import atan2, degrees, pi

from ohmack.core.box.circuit import opens, vent_area_m2
from ohmack.core.box.judged import DENSITY_KG_M3
from ohmack.core.box.shapes import Shape, made_from, shape_of
from ohmack.core.document.boxes import Board, Box
from ohmack.core.document.parts import Subwoofer
from ohmack.core.errors import OutOfRange
from ohmack.core.physics.box_panels import BoxShape, Made
from ohmack.core.physics.nesting import Nest, Panel, nest
from ohmack.core.physics.prism import PrismShape, bevels_deg, inner_corners
from ohmack.core.record import record

SAW_M = 0.0032  # a usual circular blade; common practice


@record
class Opening:
    """A round hole in the front: what for, and how wide."""

    words: str
    diameter_mm: float


@record
class CutSheet:
    """Everything to be sawn for one box."""

    shape: Shape
    made: Made
    nest: Nest
    openings: tuple[Opening, ...]
    boards_kg: float
    bevel_deg: float  # of the leaning back's long edges; 0 for a block

    @property
    def side_mm(self) -> tuple[tuple[int, int], ...]:
        """The corners of the sides, as they are sawn out of their rectangles [mm]; none for a block or a wedge."""
        if not isinstance(self.shape, PrismShape):
            return ()
        inside = inner_corners(self.shape)
        left, low = min(x for x, _ in inside), min(z for _, z in inside)
        return tuple((round(1000 * (x - left)), round(1000 * (z - low))) for x, z in inside)

    @property
    def mitres_deg(self) -> tuple[float, ...]:
        """The mitre at each corner of the side, off square; none for a block or a wedge."""
        return bevels_deg(self.shape) if isinstance(self.shape, PrismShape) else ()

    @property
    def panels(self) -> tuple[Panel, ...]:
        """Every panel, as it is sawn."""
        return self.made.panels


def cut_sheet(box: Box, subs: tuple[Subwoofer, ...]) -> CutSheet | OutOfRange | None:
    """The cut sheet of a box.

    Parameters:
        box: the box of the plan.
        subs: the drivers in it, whose openings go into the front.

    Returns:
        panels on boards; why it cannot be sawn; None for one that is bought, or without a height.

    Source: geometry; saw width and density common practice.
    """
    shape = shape_of(box)
    if shape is None:
        return None
    holes = [Opening(f"driver, {sub.name}", sub.cut_out_mm) for sub in subs if sub.cut_out_mm is not None]
    area = vent_area_m2(box.vents)
    if opens(box) and area is not None and box.vents.diameter_mm is not None:
        holes += [Opening("vent", box.vents.diameter_mm)] * box.vents.count
    try:
        return _sawn(shape, box.boards.material, box.boards.board_length_m, box.boards.board_width_m, tuple(holes))
    except OutOfRange as error:
        return error


@lru_cache(maxsize=64)
def _sawn(
    shape: Shape, material: Board, board_length_m: float, board_width_m: float, holes: tuple[Opening, ...]
) -> CutSheet:
    made = made_from(shape)
    laid = nest(made.panels, board_length_m, board_width_m, SAW_M)
    cut_out = sum(pi * (hole.diameter_mm / 2000) ** 2 for hole in holes) * shape.board_m * shape.fronts
    weight = (made.wood_m3 - cut_out) * DENSITY_KG_M3[material]
    bevel = 0.0
    if isinstance(shape, BoxShape):
        bevel = degrees(atan2(shape.bottom_m - shape.top_m, shape.height_m))
    return CutSheet(shape, made, laid, holes, weight, bevel)


def centre_of_mass(sheet: CutSheet, subs: tuple[Subwoofer, ...], boxed_kg: float) -> tuple[float, float]:
    """Where the weight of a box with its drivers sits.

    Parameters:
        sheet: its cut sheet.
        subs: the drivers, in the middle of the front.
        boxed_kg: what it weighs with them [kg].

    Returns:
        (height over the bottom, way behind the front) [m]; what is not wood counts as drivers, a third of the mounting
        depth behind the front.

    Source: geometry; where a driver's own weight sits is common practice.
    """
    wood, drivers = sheet.boards_kg, max(0.0, boxed_kg - sheet.boards_kg)
    depths = [sub.mounting_depth_mm for sub in subs if sub.mounting_depth_mm is not None]
    behind = sum(depths) / len(depths) / 3000 if depths else sheet.shape.board_m
    whole = wood + drivers
    height = (wood * sheet.made.centre_height_m + drivers * sheet.shape.height_m / 2) / whole
    return height, (wood * sheet.made.centre_from_front_m + drivers * behind) / whole
