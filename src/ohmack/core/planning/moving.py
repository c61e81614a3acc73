"""Moving things on the plan: places, way points, and what lies outside the car."""

from __future__ import annotations

from ohmack.core.document import Design
from ohmack.core.document.edits import Edit
from ohmack.core.document.factory import ModuleKind
from ohmack.core.document.facts import Position
from ohmack.core.document.handles import at
from ohmack.core.document.paths import get
from ohmack.core.document.vehicle import Hand
from ohmack.core.errors import OutOfRange, UnknownName
from ohmack.core.fit.places import PROPORTIONS
from ohmack.core.fit.runs import ends
from ohmack.core.physics.geometry import plan_length_m


def insert_way_point(design: Design, link_id: str) -> tuple[Edit, ...]:
    """Edits that put a new way point into the longest piece of a run.

    Raises:
        UnknownName: no such link, or one of its ends is not placed.
    """
    link = next((k for k in design.links if k.id == link_id), None)
    start, end = (place for _, place in ends(design, link)) if link else (None, None)
    if link is None or start is None or end is None:
        raise UnknownName("run", link_id)
    points = [start.point, *(p.point for p in link.way_points), end.point]
    longest = max(range(len(points) - 1), key=lambda i: plan_length_m(points[i : i + 2]))
    (x1, y1), (x2, y2) = points[longest], points[longest + 1]
    way = [p.model_dump() for p in link.way_points]
    way.insert(longest, {"x_m": round((x1 + x2) / 2, 2), "y_m": round((y1 + y2) / 2, 2)})
    return (Edit(path=at(link, lambda it: it.way_points), value=way),)


def spots(design: Design) -> dict[str, tuple[str, Position]]:
    """Where a part can be put in one press, by key: the spaces on file, where a disc changer is, then the usual places
    of such a body.

    Parameters:
        design: the design.

    Returns:
        (words, place) by key. Source: usual places common practice.
    """
    vehicle = design.vehicle
    typical = PROPORTIONS[vehicle.body]
    length_m, half_m = vehicle.length_m.value or typical.length_m, (vehicle.width_m.value or typical.width_m) / 2
    found = {space.id: (space.name, space.position) for space in vehicle.spaces}
    for module in vehicle.modules:
        if module.kind is ModuleKind.CHANGER:  # what goes out leaves its brackets and its room
            found[module.id] = (f"Where {module.name} is", module.position)

    def put(key: str, words: str, x_share: float, y_share: float) -> None:
        place = Position(x_m=round(x_share * length_m, 2), y_m=round(y_share * half_m, 2))
        found.setdefault(key, (words, place))

    driver = 1 if vehicle.hand_of_drive is Hand.RIGHT else -1
    if typical.seats:
        put("seat-passenger", "Under the passenger seat", typical.seats[0] + 0.055, -0.42 * driver)
        put("seat-driver", "Under the driver's seat", typical.seats[0] + 0.055, 0.42 * driver)
    put("dash", "Behind the dash", typical.dash + 0.05, -0.38 * driver)
    put("rear-left", "At the back, left", typical.box[0], -0.62)
    put("rear-right", "At the back, right", typical.box[0], 0.62)
    return found


def put_in(design: Design, path: str, spot: str) -> tuple[Edit, ...]:
    """Edits that put a part, by its path, into a space or a usual place.

    Raises:
        UnknownName: no such place.
    """
    known = spots(design)
    if spot not in known:
        raise UnknownName("place", spot, ", ".join(words for words, _ in known.values()))
    return move_to(path, *known[spot][1].point)


NUDGE_M = 0.05
NUDGES = {"left": (-NUDGE_M, 0.0), "right": (NUDGE_M, 0.0), "up": (0.0, NUDGE_M), "down": (0.0, -NUDGE_M)}


def move_to(path: str, x_m: float, y_m: float) -> tuple[Edit, ...]:
    """Edits that put a thing or a way point at a place."""
    target = path if "/way_points/" in path else f"{path}/position"
    return (
        Edit(path=f"{target}/x_m", value=round(x_m, 2)),
        Edit(path=f"{target}/y_m", value=round(y_m, 2)),
    )


def nudge(design: Design, path: str, direction: str) -> tuple[Edit, ...]:
    """Edits that move a thing by 5 cm in the picture's direction.

    Raises:
        UnknownName: nothing there, or no such direction.
    """
    if direction not in NUDGES:
        raise UnknownName("direction", direction, ", ".join(NUDGES))
    place = get(design, path if "/way_points/" in path else f"{path}/position")
    if not isinstance(place, Position):
        raise UnknownName("place", path)
    dx, dy = NUDGES[direction]
    return move_to(path, place.x_m + dx, place.y_m + dy)


def check_on_body(design: Design, path: str, value: float | None) -> None:
    """Refuse a typed coordinate that lies outside the car.

    Parameters:
        design: the design.
        path: path of the coordinate, ending in `x_m` or `y_m`.
        value: the coordinate [m].

    Raises:
        OutOfRange: it lies outside the body.
    """
    length_m, width_m = design.vehicle.length_m.value, design.vehicle.width_m.value
    if path.endswith("/x_m") and length_m is not None and not (value is not None and 0 <= value <= length_m):
        allowed = f"0 to {length_m:g} m, the length of the car"
        raise OutOfRange("The place from the nose", value if value is not None else float("nan"), "m", allowed)
    if path.endswith("/y_m") and width_m is not None and not (value is not None and abs(value) <= width_m / 2):
        allowed = f"{width_m / 2:g} m left (minus) to {width_m / 2:g} m right of the centre line"
        raise OutOfRange("The place from the centre line", value if value is not None else float("nan"), "m", allowed)
