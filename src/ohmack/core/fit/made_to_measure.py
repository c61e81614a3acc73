"""A box in boards made for the drivers that go into it, and for the space where that was measured."""

from __future__ import annotations

from collections.abc import Sequence

from ohmack.core.document import Design
from ohmack.core.document.boxes import Boards, Box, Chambers
from ohmack.core.document.cabin import Space
from ohmack.core.document.parts import Subwoofer
from ohmack.core.fit.built_to_space import sides_of
from ohmack.core.physics.built_block import Inside, Wood, block_for_drivers
from ohmack.core.physics.fitting import Block
from ohmack.core.physics.round_openings import go_in
from ohmack.core.record import record

FLANGE = 0.1  # of its opening a driver's flange is wider, common practice
BEHIND_MM = 25.0  # free behind a magnet with its vent; common practice


@record
class Pipes:
    """Round vents in the front of a box: how many, how wide inside, the air they take."""

    count: int
    diameter_mm: float
    takes_l: float


def holes_of(subs: Sequence[Subwoofer], chambers: Chambers) -> list[float] | None:
    """The openings of drivers in a front [mm]: one a driver, one a pair of isobaric ones; None where one is unknown."""
    holes = [sub.cut_out_mm for sub in subs]
    if chambers is Chambers.ISOBARIC:
        holes = holes[: (len(holes) + 1) // 2]
    return None if None in holes else [float(mm) for mm in holes if mm is not None]


def is_plain(boards: Boards) -> bool:
    """Whether a box is a block: no wedge, no corners of its own."""
    return boards.top_length_m is None and not boards.corners


def takes(box: Box, subs: Sequence[Subwoofer]) -> bool:
    """Whether the drivers go into a block the shop builds; one that is bought, or is no block, is judged elsewhere, and
    what no paper gives stands in no way.
    """
    holes, thick = holes_of(subs, box.chambers), box.boards.thickness_mm
    if thick is None or box.height_m is None or not is_plain(box.boards) or box.box_type == "free air":
        return True
    wide_mm, high_mm = (1000 * side - 2 * thick for side in (box.width_m, box.height_m))
    deep_mm = 1000 * box.length_m - (box.boards.fronts + 1) * thick
    if min(wide_mm, high_mm, deep_mm) <= 0:
        return False
    if any(sub.mounting_depth_mm is not None and sub.mounting_depth_mm + BEHIND_MM > deep_mm for sub in subs):
        return False
    return not holes or go_in(holes, wide_mm, high_mm, FLANGE * max(holes))


def made_to_measure(
    design: Design, box: Box, subs: Sequence[Subwoofer], net_l: float, vents: Pipes | None = None,
    space: Space | None = None,
) -> Block | None:  # fmt: skip
    """The block of least board for the drivers in a box the shop builds.

    Parameters:
        design: the design, for the margin and the space.
        box: the box, for its boards and how its drivers share it.
        subs: the drivers that go into it.
        net_l: net volume that is wanted [l].
        vents: the round ones in its front, if it has some.
        space: where it is to stand; None: the space nearest to its place.

    Returns:
        the block; None for one that is bought or no block, where papers lack a hole or a depth, or where none goes in.
        A space or a way in nobody measured limits nothing.
    """
    holes = holes_of(subs, box.chambers)
    deep = [sub.mounting_depth_mm for sub in subs if sub.mounting_depth_mm is not None]
    thick = box.boards.thickness_mm
    if thick is None or not is_plain(box.boards) or not holes or len(deep) < len(subs) or box.box_type == "free air":
        return None
    space = space or nearest_space(design, box)
    room, way_in = sides_of(space) if space is not None else (None, None)
    margin_m = design.policy.fit_margin_mm / 1000
    taken_l = sum(sub.displaced_l or 0.0 for sub in subs) + (vents.takes_l if vents else 0.0)
    openings = (*holes, *((vents.diameter_mm,) * vents.count if vents else ()))
    inside = Inside(openings, FLANGE * max(holes), (max(deep) + BEHIND_MM) / 1000, net_l, taken_l)
    return block_for_drivers(
        inside,
        Wood(thick / 1000, box.boards.fronts, box.boards.braces),
        tuple(side - margin_m for side in room) if room is not None else None,
        tuple(side - margin_m for side in way_in) if way_in is not None else None,
    )


def nearest_space(design: Design, box: Box) -> Space | None:
    """The space a box stands in: the one nearest to its place."""
    if box.position is None or not design.vehicle.spaces:
        return None
    x, y = box.position.point
    return min(design.vehicle.spaces, key=lambda s: (s.position.x_m - x) ** 2 + (s.position.y_m - y) ** 2)
