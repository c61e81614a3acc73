"""A box whose side is any polygon: its boards, mitred where they meet, what they enclose, where their weight sits."""

from __future__ import annotations

from collections.abc import Sequence
from math import acos, degrees, hypot

from ohmack.core.errors import OutOfRange, require
from ohmack.core.physics.box_panels import Made
from ohmack.core.physics.nesting import Panel
from ohmack.core.record import record

Point = tuple[float, float]
ON_EDGE_M = 1e-6
FEWEST = 3


@record
class PrismShape:
    """A box by the outside of its side, corner by corner (behind the front, over the floor) [m], and its boards.

    The front is what stands at the foremost corners, upright.
    """

    corners: tuple[Point, ...]
    width_m: float
    board_m: float
    fronts: int = 1
    braces: int = 0

    @property
    def height_m(self) -> float:
        """How high it is."""
        return max(z for _, z in self.corners) - min(z for _, z in self.corners)

    @property
    def bottom_m(self) -> float:
        """How long it is."""
        return max(x for x, _ in self.corners) - min(x for x, _ in self.corners)

    def depth_at_m(self, height_m: float) -> float:
        """Clear depth behind the front at a height over its lowest corner [m]; nothing where it is all boards."""
        inside = inner_corners(self)
        level = height_m + min(z for _, z in self.corners)
        crossed = sorted(
            ax + (bx - ax) * (level - az) / (bz - az)
            for (ax, az), (bx, bz) in _edges(inside)
            if (az > level) != (bz > level)
        )
        return crossed[1] - crossed[0] if len(crossed) > 1 else 0.0


def _edges(corners: Sequence[Point]) -> list[tuple[Point, Point]]:
    return list(zip(corners, (*corners[1:], corners[0]), strict=True))


def area_m2(corners: Sequence[Point]) -> float:
    """Area of a polygon, positive where its corners run against the clock [m²]: the shoelace formula, textbook.

    >>> area_m2([(0, 0), (2, 0), (2, 1), (0, 1)])
    2.0
    """
    return sum(ax * bz - bx * az for (ax, az), (bx, bz) in _edges(corners)) / 2


def _centre(corners: Sequence[Point]) -> Point:
    """Centre of area of a polygon: textbook."""
    whole = 6 * area_m2(corners)
    parts = [(a, b, a[0] * b[1] - b[0] * a[1]) for a, b in _edges(corners)]
    return sum((a[0] + b[0]) * c for a, b, c in parts) / whole, sum((a[1] + b[1]) * c for a, b, c in parts) / whole


def _crosses(a: tuple[Point, Point], b: tuple[Point, Point]) -> bool:
    def side(p: Point, q: Point, r: Point) -> float:
        return (q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0])

    return side(*a, b[0]) * side(*a, b[1]) < 0 and side(*b, a[0]) * side(*b, a[1]) < 0


def checked(corners: Sequence[Point]) -> tuple[Point, ...]:
    """Corners of a side, against the clock.

    Parameters:
        corners: round the side, either way [m].

    Returns:
        the same, the area positive.

    Raises:
        OutOfRange: fewer than three, no area, an edge of no length, or edges that cross.

    Source: geometry.
    """
    if len(corners) < FEWEST:
        raise OutOfRange("corners", len(corners), "", "three or more")
    edges = _edges(corners)
    for a, b in edges:
        if hypot(b[0] - a[0], b[1] - a[1]) < ON_EDGE_M:
            raise OutOfRange("corners", len(corners), "", "each in a place of its own")
    if any(_crosses(one, other) for n, one in enumerate(edges) for other in edges[n + 1 :]):
        raise OutOfRange("corners", len(corners), "", "in order round the side: two edges cross")
    area = area_m2(corners)
    require("area of the side", abs(area), "m²")
    return tuple(corners) if area > 0 else tuple(reversed(corners))


def _is_front(shape: PrismShape, edge: tuple[Point, Point]) -> bool:
    first = min(x for x, _ in shape.corners)
    return all(abs(x - first) < ON_EDGE_M for x, _ in edge)


def inner_corners(shape: PrismShape) -> tuple[Point, ...]:
    """The side without its boards.

    Parameters:
        shape: the box.

    Returns:
        corners of the air inside [m], one for each of the outside.

    Raises:
        OutOfRange: boards that take an edge away altogether, or two edges in one line.

    Source: geometry: every edge moved inwards by its boards.
    """
    corners = checked(shape.corners)
    lines = []
    for a, b in _edges(corners):
        along = hypot(b[0] - a[0], b[1] - a[1])
        ux, uz = (b[0] - a[0]) / along, (b[1] - a[1]) / along
        thick = shape.board_m * (shape.fronts if _is_front(shape, (a, b)) else 1)
        lines.append((a[0] - uz * thick, a[1] + ux * thick, ux, uz))
    found = []
    for before, here in zip((lines[-1], *lines[:-1]), lines, strict=True):
        (px, pz, ux, uz), (qx, qz, vx, vz) = before, here
        turn = ux * vz - uz * vx
        if abs(turn) < ON_EDGE_M:
            raise OutOfRange("corners", len(corners), "", "none in the middle of a straight edge")
        way = ((qx - px) * vz - (qz - pz) * vx) / turn
        found.append((px + ux * way, pz + uz * way))
    for (a, b), (_, _, ux, uz) in zip(_edges(found), lines, strict=True):
        if (b[0] - a[0]) * ux + (b[1] - a[1]) * uz <= 0:
            raise OutOfRange("board thickness", 1000 * shape.board_m, "mm", "less: the boards take an edge away")
    return tuple(found)


def _name(shape: PrismShape, a: Point, b: Point, n: int) -> str:
    floor, roof = min(z for _, z in shape.corners), max(z for _, z in shape.corners)
    if _is_front(shape, (a, b)):
        return "front"
    for name, level in (("bottom", floor), ("top", roof)):
        if abs(a[1] - level) < ON_EDGE_M and abs(b[1] - level) < ON_EDGE_M:
            return name
    return f"board {n}"


def bevels_deg(shape: PrismShape) -> tuple[float, ...]:
    """The mitre at each corner, off square, in the order of its checked corners [deg].

    Parameters:
        shape: the box.

    Returns:
        half of what the side turns by there: 45° at a right angle.

    Source: geometry.
    """
    corners = checked(shape.corners)
    found = []
    for before, here, after in zip((corners[-1], *corners[:-1]), corners, (*corners[1:], corners[0]), strict=True):
        ux, uz, vx, vz = here[0] - before[0], here[1] - before[1], after[0] - here[0], after[1] - here[1]
        cosine = (ux * vx + uz * vz) / (hypot(ux, uz) * hypot(vx, vz))
        found.append(degrees(acos(max(-1.0, min(1.0, cosine)))) / 2)
    return tuple(found)


def prism_made(shape: PrismShape) -> Made:
    """The boards of a box with any side, and what they enclose.

    Parameters:
        shape: outside and boards.

    Returns:
        a board an edge, as wide as the box and as long as the edge outside, mitred; two sides between them, given as
        the rectangles they are sawn from; volumes, area and the centre of mass of the wood.

    Raises:
        OutOfRange: no box can be made of these corners, none of its edges is an upright front, or a size is not above
            zero.

    Source: geometry.
    """
    require("width", shape.width_m, "m")
    require("board thickness", shape.board_m, "m")
    outer, inner = checked(shape.corners), inner_corners(shape)
    if not any(_is_front(shape, edge) for edge in _edges(outer)):
        raise OutOfRange("corners", len(outer), "", "with two at the foremost, for the front to stand on")
    t, inner_width = shape.board_m, shape.width_m - 2 * shape.board_m
    if inner_width <= 0:
        raise OutOfRange("width", shape.width_m, "m", "more than the boards themselves take")
    floor, first = min(z for _, z in outer), min(x for x, _ in outer)
    panels = []
    for n, (a, b) in enumerate(_edges(outer), 1):
        name, along = _name(shape, a, b, n), hypot(b[0] - a[0], b[1] - a[1])
        many = shape.fronts if name == "front" else 1
        panels += [Panel(name if not k else "front, second board", shape.width_m, along) for k in range(many)]
    long, tall = (max(p[axis] for p in inner) - min(p[axis] for p in inner) for axis in (0, 1))
    panels += [Panel(f"side, {side}", long, tall) for side in ("left", "right")]
    panels += [Panel(f"brace {n + 1}", inner_width, tall) for n in range(shape.braces)]
    outside, inside = area_m2(outer), area_m2(inner)
    (ox, oz), (ix, iz) = _centre(outer), _centre(inner)
    gross = inside * inner_width
    braces = shape.braces * inner_width * tall * t / 2
    ring, sides = (outside - inside) * shape.width_m, inside * 2 * t
    wood = ring + sides + braces
    ring_x = (outside * ox - inside * ix) * shape.width_m
    ring_z = (outside * oz - inside * iz) * shape.width_m
    return Made(
        tuple(panels),
        gross,
        braces,
        sum(p.length_m * p.width_m for p in panels),
        wood,
        (ring_z + (sides + braces) * iz) / wood - floor,
        (ring_x + (sides + braces) * ix) / wood - first,
    )
