"""A box in boards made to the space it stands in."""

from __future__ import annotations

from ohmack.core.document import Design
from ohmack.core.document.boxes import Box
from ohmack.core.document.cabin import Space
from ohmack.core.document.edits import Edit
from ohmack.core.document.handles import at
from ohmack.core.physics.fitting import Block, block_for_space, block_spare_m, way_in_spare_m


def goes_in(design: Design, space: Space, edges_m: tuple[float, float, float]) -> bool | None:
    """Whether a block goes into a space and through its way in with the shop's margin; None where nobody measured it.

    Parameters:
        design: the design, for the margin.
        space: the space.
        edges_m: of the block: length, width, height [m].
    """
    room, way_in = sides_of(space)
    if room is None or way_in is None:
        return None
    margin_m = design.policy.fit_margin_mm / 1000
    return min(block_spare_m(edges_m, room), way_in_spare_m(edges_m, way_in)) >= margin_m - 1e-9


def built_to(design: Design, space: Space, board_mm: float, wanted_l: float, taken_l: float) -> Block | None:
    """The box in boards that goes into a space and through its way in; None where nobody measured it, or none goes in.

    Parameters:
        design: the design, for the margin.
        space: the space.
        board_mm: thickness of the boards [mm].
        wanted_l: net volume that will do [l].
        taken_l: what the drivers take inside [l].
    """
    room, way_in = sides_of(space)
    if room is None or way_in is None:
        return None
    return block_for_space(room, way_in, design.policy.fit_margin_mm / 1000, board_mm / 1000, wanted_l, taken_l)


def stated(block: Block) -> dict[str, float]:
    """A block as the fields of a box: its outside, and its air rounded down."""
    return {
        "length_m": block.length_m, "width_m": block.width_m, "height_m": block.height_m,
        "net_volume_l": round(block.net_l - 0.05, 1),
    }  # fmt: skip


def rebuilt(box: Box, block: Block) -> tuple[Edit, ...]:
    """Edits that make a box of the plan a plain block of another size, with the air that is in it then."""
    edits = tuple(Edit(path=f"{at(box)}/{name}", value=value) for name, value in stated(block).items())
    if box.boards.top_length_m is not None:
        edits += (Edit(path=at(box, lambda it: it.boards.top_length_m), value=None),)
    return edits + ((Edit(path=at(box, lambda it: it.boards.corners), value=[]),) if box.boards.corners else ())


def sides_of(space: Space) -> tuple[tuple[float, float, float] | None, tuple[float, float] | None]:
    """(along, across, up), (way in, width and height) of a space; None where one was not measured."""
    room = (space.length_m.value, space.width_m.value, space.height_m.value)
    way_in = (space.opening_width_m.value, space.opening_height_m.value)
    return (None if None in room else room, None if None in way_in else way_in)  # type: ignore[return-value]
