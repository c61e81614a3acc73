"""A box in boards: the panels of a block or a wedge, what they enclose, what they weigh and where the weight sits."""

from __future__ import annotations

from math import hypot

from ohmack.core.errors import OutOfRange, require
from ohmack.core.physics.nesting import Panel
from ohmack.core.record import record


@record
class BoxShape:
    """A box by its outside: depth at the bottom and at the top, width, height, and the boards it is made of.

    The front stands upright and as wide as the box, the back leans where the top is less deep than the bottom.
    """

    bottom_m: float
    top_m: float
    width_m: float
    height_m: float
    board_m: float
    fronts: int = 1  # boards of the front, on each other
    braces: int = 0  # frames across the inside, half of them air

    @property
    def lean(self) -> float:
        """How much longer a board that leans is than the box is high, as a factor."""
        return hypot(self.bottom_m - self.top_m, self.height_m) / self.height_m

    def depth_at_m(self, height_m: float) -> float:
        """Clear depth behind the front at a height over the bottom [m]."""
        outside = self.bottom_m - (self.bottom_m - self.top_m) * height_m / self.height_m
        return outside - self.board_m * self.fronts - self.board_m * self.lean


@record
class Made:
    """What the panels of a box come to."""

    panels: tuple[Panel, ...]
    gross_m3: float  # air inside before anything is in it
    braces_m3: float
    board_area_m2: float
    wood_m3: float
    centre_height_m: float  # of the wood, over the bottom
    centre_from_front_m: float


def made_of(shape: BoxShape) -> Made:
    """The panels of a box and what they enclose.

    Parameters:
        shape: outside and boards.

    Returns:
        panels with their names (bottom and top run through, front and back between them, sides inside of those),
        volumes, area, centre of mass of the wood.

    Raises:
        OutOfRange: boards that leave no air between them, a size not above zero, or a top deeper than the bottom.

    Source: geometry; a wedge's side is a trapezium, given as the rectangle it is sawn from.
    """
    for words, value in (
        ("length at the bottom", shape.bottom_m), ("length at the top", shape.top_m), ("width", shape.width_m),
        ("height", shape.height_m), ("board thickness", shape.board_m),
    ):  # fmt: skip
        require(words, value, "m")
    if shape.top_m > shape.bottom_m + 1e-9:
        raise OutOfRange("length at the top", shape.top_m, "m", "at most the length at the bottom: turn the box over")
    t, front = shape.board_m, shape.board_m * shape.fronts
    inner_width, inner_height = shape.width_m - 2 * t, shape.height_m - 2 * t
    lean = shape.lean
    low, high = shape.depth_at_m(t), shape.depth_at_m(shape.height_m - t)
    for words, inside, outside in (
        ("width", inner_width, shape.width_m), ("height", inner_height, shape.height_m),
        ("length at the top", high, shape.top_m),
    ):  # fmt: skip
        if inside <= 0:
            raise OutOfRange(words, outside, "m", "more than the boards themselves take")
    gross = inner_width * inner_height * (low + high) / 2
    side = Panel("side", low, inner_height)
    panels = [
        Panel("bottom", shape.width_m, shape.bottom_m),
        Panel("top", shape.width_m, shape.top_m),
        *(Panel("front" if not n else "front, second board", shape.width_m, inner_height) for n in range(shape.fronts)),
        Panel("back", shape.width_m, inner_height * lean),
        Panel("side, left", side.length_m, side.width_m),
        Panel("side, right", side.length_m, side.width_m),
        *(Panel(f"brace {n + 1}", inner_width, inner_height) for n in range(shape.braces)),
    ]
    braces = shape.braces * inner_width * inner_height * t / 2
    middle = (low + high) / 2
    side_rise = inner_height * (low + 2 * high) / (3 * (low + high)) if low + high else 0.0
    pieces = (  # volume, height of its centre, its centre's way from the front
        (shape.width_m * shape.bottom_m * t, t / 2, shape.bottom_m / 2),
        (shape.width_m * shape.top_m * t, shape.height_m - t / 2, shape.top_m / 2),
        (shape.width_m * inner_height * front, shape.height_m / 2, front / 2),
        (shape.width_m * inner_height * lean * t, shape.height_m / 2, front + middle + t * lean / 2),
        (2 * inner_height * middle * t, t + side_rise, front + _side_centre(low, high)),
        (braces, shape.height_m / 2, front + middle / 2),
    )
    wood = sum(volume for volume, _, _ in pieces)
    return Made(
        tuple(panels),
        gross,
        braces,
        sum(p.length_m * p.width_m for p in panels),
        wood,
        sum(volume * height for volume, height, _ in pieces) / wood,
        sum(volume * behind for volume, _, behind in pieces) / wood,
    )


def _side_centre(low: float, high: float) -> float:
    """Of a trapezium with one upright edge: how far its centre is from that edge."""
    return (low * low + low * high + high * high) / (3 * (low + high))
