"""A block in boards made for its drivers: large enough for the holes and the magnets, with the air that is wanted."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache
from math import ceil

from ohmack.core.errors import require
from ohmack.core.physics.fitting import Block, block_spare_m, way_in_spare_m
from ohmack.core.physics.round_openings import go_in
from ohmack.core.record import record

STEP_M = 0.01  # whole centimetres outside: what a saw is set to; common practice
LONGEST_M = 1.2  # of a side where nobody measured the space; common practice


@record
class Inside:
    """What has to go into a block: openings in its front, depth behind them, air."""

    holes_mm: tuple[float, ...]
    between_mm: float  # of wood between two openings
    deep_m: float  # free behind the front's face
    net_l: float
    taken_l: float = 0.0  # by drivers and vents


@record
class Wood:
    """The boards of a block: thickness, boards of the front on each other, braces across."""

    board_m: float
    fronts: int = 1
    braces: int = 0

    def net_l(self, length_m: float, width_m: float, height_m: float) -> float:
        """The air a block leaves before anything goes in [l]; less than nothing where the boards take all of it."""
        wide, high = width_m - 2 * self.board_m, height_m - 2 * self.board_m
        deep = length_m - (self.fronts + 1) * self.board_m
        return 1000 * wide * high * (deep - self.braces * self.board_m / 2)


@lru_cache(maxsize=64)
def block_for_drivers(
    inside: Inside, wood: Wood, room_m: Sequence[float] | None, way_in_m: Sequence[float] | None
) -> Block | None:
    """The block of least board that its drivers go into with the air that is wanted.

    Parameters:
        inside: openings, depth and air.
        wood: its boards.
        room_m: of the space it stands in, margin taken off, along, across and up [m]; None where nobody measured it.
        way_in_m: of the way in, margin taken off, width and height [m]; None where nobody measured it.

    Returns:
        the block, whole centimetres outside; None where none goes in.

    Raises:
        OutOfRange: air, a depth or a board that is not above zero.

    Source: geometry, by trying every width and every height up to it; the length is what the air or the magnet wants.
    """
    require("net_l", inside.net_l, "l")
    require("deep_m", inside.deep_m, "m")
    require("board_m", wood.board_m, "m")
    most_m = max(room_m) if room_m is not None else LONGEST_M
    found: tuple[float, Block] | None = None
    for width_m in _sides(inside, wood, most_m):
        highest_m = width_m if room_m is None else min(width_m, room_m[2])  # it lies rather than stands
        for height_m in _sides(inside, wood, highest_m):
            if found is not None and width_m * height_m >= found[0]:
                continue
            block = _block(inside, wood, width_m, height_m)
            if block is None or block.length_m > most_m or not _goes_in(block, room_m, way_in_m):
                continue
            length_m = block.length_m
            area_m2 = length_m * width_m + width_m * height_m + height_m * length_m
            if found is None or area_m2 < found[0] - 1e-9:
                found = area_m2, block
    return None if found is None else found[1]


def _sides(inside: Inside, wood: Wood, most_m: float) -> list[float]:
    """Every length a side of the front may have, from the widest opening up."""
    least_m = max(inside.holes_mm, default=0.0) / 1000 + 2 * wood.board_m
    first, last = ceil(least_m / STEP_M - 1e-9), int(most_m / STEP_M + 1e-9)
    return [round(n * STEP_M, 2) for n in range(max(first, 1), last + 1)]


def _block(inside: Inside, wood: Wood, width_m: float, height_m: float) -> Block | None:
    """The shortest block with a front of that size; None where the openings do not go into it."""
    wide_mm, high_mm = (1000 * (side - 2 * wood.board_m) for side in (width_m, height_m))
    if min(wide_mm, high_mm) <= 0:
        return None
    if inside.holes_mm and not go_in(inside.holes_mm, wide_mm, high_mm, inside.between_mm):
        return None
    air_m = (inside.net_l + inside.taken_l) / (wide_mm * high_mm / 1000) + wood.braces * wood.board_m / 2
    whole_m = max(air_m, inside.deep_m) + (wood.fronts + 1) * wood.board_m
    length_m = round(ceil(whole_m / STEP_M - 1e-9) * STEP_M, 2)
    return Block(length_m, width_m, height_m, wood.net_l(length_m, width_m, height_m) - inside.taken_l)


def _goes_in(block: Block, room_m: Sequence[float] | None, way_in_m: Sequence[float] | None) -> bool:
    edges = (block.length_m, block.width_m, block.height_m)
    if room_m is not None and block_spare_m(edges, room_m) < -1e-9:
        return False
    return way_in_m is None or way_in_spare_m(edges, way_in_m) >= -1e-9
